"""Two schools of scorecard: four criteria of 0 to 5 each; what can be computed is proposed with its reason."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass

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
"""Where each proposed score begins; all of them a choice, no source."""


@dataclass(frozen=True, slots=True)
class Criterion:
    """One criterion: what is proposed and why, and what the user says."""

    name: str
    proposed: int | None
    why: str
    given: int | None = None
    note: str = ""

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
        Median value of a box ÷ its cost.
    wanted : float or None
        Chance of something wanted in a box.
    hits_per_name : float or None
        Expected hits ÷ names on the checklist.
    gem_share : float or None
        Share of top grades reckoned with; ``gem_counted`` graded copies say so, or the user when that is 0.
    floor : float or None
        Share of the release price that stays.
    """

    median_share: float | None
    wanted: float | None
    hits_per_name: float | None
    gem_share: float | None
    floor: float | None
    gem_counted: int = 0


def step_score(value: float, steps: tuple[float, ...]) -> int:
    """0 to 5: how many of the steps are reached."""
    return bisect_right(steps, value + 1e-12)


def scorecards(
    evidence: Evidence, given: Mapping[str, int], notes: Mapping[str, str] | None = None
) -> tuple[Scorecard, Scorecard]:
    """Return both schools' cards; ``given`` and ``notes`` hold the user's scores and notes by criterion."""
    proposed = _proposals(evidence)
    cards = []
    for school in (INVESTOR, REVIEWER):
        rows = []
        for name in CRITERIA[school]:
            score, why = proposed.get(name, (None, "yours to judge"))
            rows.append(Criterion(name, score, why, given.get(name), (notes or {}).get(name, "")))
        cards.append(Scorecard(school, tuple(rows)))
    return cards[0], cards[1]


def _proposals(evidence: Evidence) -> dict[str, tuple[int | None, str]]:
    found: dict[str, tuple[int | None, str]] = {}
    if evidence.median_share is not None:
        score = step_score(evidence.median_share, MEDIAN_STEPS)
        why = f"the median box gives {evidence.median_share:.0%} of its cost"
        found["price"] = found["value for money"] = (score, why)
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
