"""Two schools of scorecard: four criteria of 0 to 5 each; what can be computed is proposed with its reason."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass, field

INVESTOR, REVIEWER = "investor", "reviewer"
CRITERIA = {
    INVESTOR: ("price", "checklist", "gradeability", "staying power"),
    REVIEWER: ("value for money", "presentation", "pack selection", "experience"),
}
BORDERLINE, CLEAR = 12, 15
"""Of 20: from 12 on it is borderline, from 15 on a clear yes (common practice, no source)."""
MEDIAN_STEPS = (0.30, 0.45, 0.60, 0.80, 1.00)
CHANCE_STEPS = (0.01, 0.04, 0.10, 0.25, 0.50)
HITS_STEPS = (0.002, 0.005, 0.01, 0.02, 0.05)
GEM_STEPS = (0.10, 0.20, 0.30, 0.45, 0.60)
FLOOR_STEPS = (0.30, 0.45, 0.60, 0.75, 0.90)
RATIO_STEPS = (0.65, 0.80, 0.95, 1.10, 1.30)
"""Where each proposed score begins; all of them a choice, no source."""
PRICE_SCHOOLS = {
    "value": "what a box usually gives",
    "list": "the list price",
    "market": "what the sealed box sells for",
    "pack": "what I usually pay for a pack",
}
"""What the price of a box is held against: four schools; the first that knows anything is proposed."""
BESIDE = {
    "list": ("the list price", "no list price is known"),
    "market": ("what it sells for sealed", "no sale of a sealed box is known"),
    "pack": ("a pack as I usually buy it", "too few boxes of mine to compare"),
}
"""What the price costs a share of, and what is said where that is not known."""
PRICED = ("price", "value for money")


@dataclass(frozen=True, slots=True)
class Proposal:
    """What one school proposes for the price; ``score`` is None where it knows nothing, ``why`` says so."""

    school: str
    score: int | None
    why: str


@dataclass(frozen=True, slots=True)
class Criterion:
    """One criterion: what is proposed and why, and what the user says."""

    name: str
    proposed: int | None
    why: str
    given: int | None = None
    note: str = ""
    schools: tuple[Proposal, ...] = ()

    @property
    def score(self) -> int | None:
        """The user's score, else the proposed one."""
        return self.proposed if self.given is None else self.given


@dataclass(frozen=True, slots=True)
class Scorecard:
    """One school's card."""

    school: str
    criteria: tuple[Criterion, ...]

    @property
    def total(self) -> int | None:
        """Sum out of 20; None while a criterion has no score."""
        scores = [criterion.score for criterion in self.criteria]
        return None if None in scores else sum(score for score in scores if score is not None)

    @property
    def band(self) -> str:
        """The verdict band in words."""
        total = self.total
        if total is None:
            return "not all scored yet"
        return "a clear yes" if total >= CLEAR else "borderline" if total >= BORDERLINE else "no"


@dataclass(frozen=True, slots=True)
class Evidence:
    """What scores are proposed from; None where it is not known.

    Attributes
    ----------
    median_share : float
        Median value of a box ÷ its cost; None when no card has a price.
    wanted : float or None
        Chance of something wanted in a box.
    hits_per_name : float or None
        Expected hits ÷ names on the checklist.
    gem_share : float or None
        Share of top grades reckoned with; ``gem_counted`` graded copies say so, or the user when that is 0.
    floor : float or None
        Share of the release price that stays.
    unpriced : float
        Share of the cards in a box that have no price.
    ratios : mapping
        List price, price of the sealed box, usual cost of a pack, by school; each ÷ what is asked (above 1 is cheap).
    """

    median_share: float | None
    wanted: float | None
    hits_per_name: float | None
    gem_share: float | None
    floor: float | None
    gem_counted: int = 0
    unpriced: float = 0.0
    ratios: Mapping[str, float] = field(default_factory=dict)


def step_score(value: float, steps: tuple[float, ...]) -> int:
    """0 to 5: how many of the steps are reached."""
    return bisect_right(steps, value + 1e-12)


def scorecards(
    evidence: Evidence, given: Mapping[str, int], notes: Mapping[str, str] | None = None, price_by: str = ""
) -> tuple[Scorecard, Scorecard]:
    """Return both schools' cards.

    Parameters
    ----------
    evidence : Evidence
        What scores are proposed from.
    given, notes : mapping
        The user's scores and notes by criterion.
    price_by : str
        One of `PRICE_SCHOOLS`; the first that knows anything when empty.
    """
    prices = price_proposals(evidence)
    proposed = _proposals(evidence) | dict.fromkeys(PRICED, _chosen(prices, price_by))
    cards = []
    for school in (INVESTOR, REVIEWER):
        rows = []
        for name in CRITERIA[school]:
            score, why = proposed.get(name, (None, "yours to judge"))
            schools = prices if name in PRICED else ()
            rows.append(Criterion(name, score, why, given.get(name), (notes or {}).get(name, ""), schools))
        cards.append(Scorecard(school, tuple(rows)))
    return cards[0], cards[1]


def _proposals(evidence: Evidence) -> dict[str, tuple[int | None, str]]:
    found: dict[str, tuple[int | None, str]] = {}
    if evidence.wanted is not None:
        why = f"{evidence.wanted:.1%} of boxes hold something you want"
        found["checklist"] = (step_score(evidence.wanted, CHANCE_STEPS), why)
    elif evidence.hits_per_name is not None:
        why = f"{evidence.hits_per_name:.3f} hits a box for each name on the checklist"
        found["checklist"] = (step_score(evidence.hits_per_name, HITS_STEPS), why)
    if evidence.gem_share is not None:
        of = evidence.gem_counted
        why = f"{evidence.gem_share:.0%} top grades, " + (f"by {of:,} graded copies" if of else "as you reckon")
        found["gradeability"] = (step_score(evidence.gem_share, GEM_STEPS), why)
    if evidence.floor is not None:
        why = f"singles keep {evidence.floor:.0%} of their release price"
        found["staying power"] = (step_score(evidence.floor, FLOOR_STEPS), why)
    return found


def price_proposals(evidence: Evidence) -> tuple[Proposal, ...]:
    """Hold the price against each school's measure."""
    share = evidence.median_share
    gaps = f" ({evidence.unpriced:.0%} of its cards have no price)" if evidence.unpriced >= 0.005 else ""
    value = (
        Proposal("value", None, "no card has a price")
        if share is None
        else Proposal("value", step_score(share, MEDIAN_STEPS), f"the median box gives {share:.0%} of its cost{gaps}")
    )
    return (value, *(_by_ratio(school, evidence.ratios.get(school)) for school in BESIDE))


def _by_ratio(school: str, ratio: float | None) -> Proposal:
    what, unknown = BESIDE[school]
    if not ratio:
        return Proposal(school, None, unknown)
    return Proposal(school, step_score(ratio, RATIO_STEPS), f"it costs {1 / ratio:.0%} of {what}")


def _chosen(prices: tuple[Proposal, ...], wanted: str) -> tuple[int | None, str]:
    """Return the wanted school's proposal, else the first that knows anything."""
    asked = [one for one in prices if one.school == wanted]
    known = [one for one in prices if one.score is not None]
    one = (asked or known or list(prices))[0]
    return one.score, one.why
