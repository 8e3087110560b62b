"""Keep, sell raw, look at grading, bulk: the first verdict on a copy, with its reason in numbers."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from botin.core.prices import Basis, Estimate


class Verdict(StrEnum):
    """What to do with a copy."""

    KEEP = "keep"
    SELL_RAW = "sell raw"
    LOOK_AT_GRADING = "look at grading"
    BULK = "bulk"


@dataclass(frozen=True, slots=True)
class SellingTerms:
    """What a sale costs, in major units; all are settings of the user.

    Attributes
    ----------
    fee : float
        Share of the price the channel takes (0.13 is 13 %).
    fixed, postage : float
        Taken from every sale.
    bulk_below : float
        A net below this is not worth the work of a single sale.
    """

    fee: float
    fixed: float
    postage: float
    bulk_below: float

    def net(self, price: float) -> float:
        """What is left of a price."""
        return price * (1 - self.fee) - self.fixed - self.postage


@dataclass(frozen=True, slots=True)
class GradingTerms:
    """What grading one copy costs with its share of shipping, and the chance to reckon with.

    ``gem_chance`` is the user's usual share of top grades; a copy that misses it sells as if raw.
    """

    cost: float
    top_grade: str
    gem_chance: float


@dataclass(frozen=True, slots=True)
class Judged:
    """A verdict with the numbers it rests on (major units).

    Attributes
    ----------
    break_even_gem : float or None
        Chance of the top grade from which grading nets as much as selling raw; None when no price is
        known for the top grade or no chance is enough.
    """

    verdict: Verdict
    net_raw: float
    net_graded: float | None = None
    break_even_gem: float | None = None
    top_price: float | None = None


def break_even_gem(net_raw: float, top_price: float, selling: SellingTerms, grading: GradingTerms) -> float | None:
    """Smallest chance g of the top grade with g·net(top) + (1 − g)·net(raw) − cost ≥ net(raw), or None."""
    gain = selling.net(top_price) - net_raw
    if gain <= 0 or grading.cost > gain:
        return None
    return grading.cost / gain


def judge(
    raw: Estimate,
    graded_top: Estimate,
    wanted: bool,
    selling: SellingTerms,
    grading: GradingTerms,
) -> Judged:
    """Verdict on one copy.

    Parameters
    ----------
    raw, graded_top : Estimate
        Price of the copy ungraded and in the top grade.
    wanted : bool
        It belongs to the user's personal collection.
    selling, grading : SellingTerms, GradingTerms
        The user's settings.
    """
    net_raw = selling.net(raw.amount) if raw.basis is not Basis.NONE else -selling.fixed - selling.postage
    floor = max(net_raw, 0.0)
    need = net_graded = None
    top = graded_top.amount if graded_top.basis is not Basis.NONE else None
    if top is not None:
        need = break_even_gem(floor, top, selling, grading)
        gem = grading.gem_chance
        net_graded = gem * selling.net(top) + (1 - gem) * floor - grading.cost
    if wanted:
        verdict = Verdict.KEEP
    elif need is not None and need <= grading.gem_chance:
        verdict = Verdict.LOOK_AT_GRADING
    elif net_raw >= selling.bulk_below:
        verdict = Verdict.SELL_RAW
    else:
        verdict = Verdict.BULK
    return Judged(verdict, net_raw, net_graded, need, top)
