"""Rip it, buy the singles, hold it or leave it: the verdict before a purchase, with its strongest reasons."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

STRONGEST = 3


class Choice(StrEnum):
    """What to do with the money."""

    RIP = "rip it"
    SINGLES = "buy the singles"
    HOLD = "hold it sealed"
    LEAVE = "leave it"


@dataclass(frozen=True, slots=True)
class Case:
    """What the verdict rests on, in major units and shares; None where it is not known.

    Attributes
    ----------
    cost, mean, median, pays, rare : float
        Cost of the box, its mean and median value, the chance that it pays, and the share of the mean in rare cards.
    wanted : float or None
        Chance of any chase card in a box.
    singles : float or None
        All chase cards bought outright; None when one has no price or there is no list.
    even_boxes : int or None
        Boxes for an even chance of any chase card.
    growth_needed, growth_expected : float or None
        Yearly growth at which holding beats ripping, and what the user reckons with.
    unpriced : float
        Share of the expected cards (the rest left out) that have no price.
    """

    cost: float
    mean: float
    median: float
    pays: float
    rare: float
    wanted: float | None = None
    singles: float | None = None
    even_boxes: int | None = None
    growth_needed: float | None = None
    growth_expected: float | None = None
    unpriced: float = 0.0


@dataclass(frozen=True, slots=True)
class Reason:
    """A reason by its name, how strong it is (0 to 1), and whether it speaks for ripping."""

    name: str
    strength: float
    for_ripping: bool


@dataclass(frozen=True, slots=True)
class BuyVerdict:
    """The choice with its reasons, the strongest first."""

    choice: Choice
    reasons: tuple[Reason, ...]


def decide(case: Case) -> BuyVerdict:
    """Choose: rip when a box pays more often than not; else singles, holding or leaving, by what they take."""
    choice = _choose(case)
    reasons = sorted(_reasons(case, choice), key=lambda reason: -reason.strength)
    return BuyVerdict(choice, tuple(reasons[:STRONGEST]))


def _choose(case: Case) -> Choice:
    if case.pays >= 0.5:
        return Choice.RIP
    if case.singles is not None and case.even_boxes and case.singles <= case.cost * case.even_boxes:
        return Choice.SINGLES
    needed, expected = case.growth_needed, case.growth_expected
    if needed is not None and expected is not None and 0 < needed <= expected:
        return Choice.HOLD
    return Choice.LEAVE


def _reasons(case: Case, choice: Choice) -> list[Reason]:
    """Reasons that speak for the choice."""
    ratio = case.median / case.cost if case.cost else 1.0
    found = [
        Reason("pays", abs(case.pays - 0.5) * 2, case.pays >= 0.5),
        Reason("typical", min(1.0, abs(ratio - 1)), ratio >= 1),
        Reason("rare", case.rare if case.mean >= case.cost else case.rare * 0.8, for_ripping=False),
    ]
    if case.mean >= case.cost:
        found.append(Reason("mean", min(1.0, case.mean / case.cost - 1) if case.cost else 1.0, for_ripping=True))
    else:
        found.append(Reason("mean", 1 - case.mean / case.cost, for_ripping=False))
    if case.singles is not None and case.even_boxes:
        dearer = case.cost * case.even_boxes / max(case.singles, 0.01)
        found.append(Reason("singles", min(1.0, max(0.0, 1 - 1 / dearer)) if dearer > 1 else 0.0, dearer < 1))
    elif case.wanted is not None:
        found.append(Reason("wanted", abs(case.wanted - 0.5), case.wanted >= 0.5))
    if choice is Choice.HOLD:
        found.append(Reason("hold", 1.0, for_ripping=False))
    ripping = choice is Choice.RIP
    return [reason for reason in found if reason.for_ripping == ripping and reason.strength > 0.02]
