"""The owed meter against exhaustive enumeration of small boxes and against scipy's laws."""

from __future__ import annotations

from fractions import Fraction
from itertools import combinations, product

import numpy as np
import pytest
from scipy import stats

from botin.core.catalog.product import OddsRow, PromiseRow
from botin.core.counts import CountLaw, per_pack_law
from botin.core.odds.lines import box_model
from botin.core.opening.owed import (
    EACH,
    EVENED,
    Opened,
    Placement,
    by_school,
    in_words,
    next_pack,
    owed,
    owed_lines,
    remaining,
)
from tests.core.small import product as small_product

LAWS = {
    "exactly two": (CountLaw(fixed=2), {2: 1.0}),
    "at least one, plus Poisson": (CountLaw(fixed=1, poisson=0.7), None),
    "one or two": (CountLaw(fixed=1, binomials=((1, 0.4),)), {1: 0.6, 2: 0.4}),
    "odds": (per_pack_law(1 / 3, 5), None),
}
PACKS = 5


def enumerated(law: CountLaw, seen: int, opened: int, placement: Placement) -> list[float]:
    """Every way to lay the cards into five packs, weighed by its chance; the cards left given the cards seen."""
    weights: dict[int, float] = {}
    for total, chance in enumerate(law.pmf()):
        if total > 7 or chance < 1e-12:
            continue
        if placement == "apart" and total <= PACKS:
            ways = [set(way) for way in combinations(range(PACKS), total)]
            fits = [way for way in ways if sum(pack < opened for pack in way) == seen]
        else:
            ways = list(product(range(PACKS), repeat=total))  # type: ignore[assignment]
            fits = [way for way in ways if sum(pack < opened for pack in way) == seen]
        weights[total - seen] = weights.get(total - seen, 0.0) + chance * len(fits) / len(ways)
    whole = sum(weights.values())
    return [weights.get(r, 0.0) / whole for r in range(4)]


@pytest.mark.parametrize("placement", ["apart", "anywhere"])
@pytest.mark.parametrize("name", LAWS)
@pytest.mark.parametrize(("seen", "opened"), [(0, 2), (1, 2), (1, 4), (0, 4)])
def test_what_is_left_against_every_way_to_pack_a_small_box(
    name: str, placement: Placement, seen: int, opened: int
) -> None:
    law = LAWS[name][0]
    found = remaining(law, seen, Opened(PACKS, PACKS - opened), placement)
    if (name, placement, seen, opened) == ("exactly two", "apart", 0, 4):
        assert found is None  # two apart do not fit into one pack
        return
    assert found is not None
    expected = enumerated(law, seen, opened, placement)
    got = [float(found[r]) if r < len(found) else 0.0 for r in range(4)]
    assert got == pytest.approx(expected, abs=2e-4)


def test_odds_left_are_a_binomial_of_the_packs_left() -> None:
    """scipy.stats.binom: packs do not remember, so 1:12 in the 10 packs that are left of 24."""
    law = per_pack_law(1 / 12, 24)
    for seen in (0, 1, 3):
        found = remaining(law, seen, Opened(24, 10))
        assert found is not None
        assert found[:6] == pytest.approx(stats.binom(10, 1 / 12).pmf(np.arange(6)), rel=1e-9)


def test_an_exact_promise_over_the_packs_left_is_hypergeometric() -> None:
    """scipy.stats.hypergeom: four cards apart in 24 packs; none in 14 opened ones leaves four in ten."""
    assert remaining(CountLaw(fixed=4), 1, Opened(24, 10))[3] == pytest.approx(1.0)  # type: ignore[index]
    whole = stats.hypergeom(24, 4, 10)
    blind = [float(owed("", CountLaw(fixed=4), seen, Opened(24, 10)).expected) for seen in range(5)]
    mean = sum(stats.hypergeom(24, 4, 14).pmf(seen) * blind[seen] for seen in range(5))
    assert mean == pytest.approx(whole.mean())


@pytest.mark.parametrize("placement", ["apart", "anywhere"])
def test_three_packs_left_one_owed_is_one_in_three(placement: Placement) -> None:
    """common practice, no source."""
    found = owed("two signed", CountLaw(fixed=2), 1, Opened(24, 3), placement)
    assert (found.owed, found.chance_any) == (1, pytest.approx(1.0))
    assert found.chance_next == pytest.approx(1 / 3)
    assert found.words() == "3 packs left, 1 still owed: 1 in 3 that the next pack has one"


def test_two_owed_in_four_packs_apart_or_anywhere() -> None:
    rest = np.array([0.0, 0.0, 1.0])
    assert next_pack(rest, 4, "apart") == pytest.approx(float(Fraction(2, 4)))
    assert next_pack(rest, 4, "anywhere") == pytest.approx(float(1 - Fraction(3, 4) ** 2))


@pytest.mark.parametrize(
    ("promised", "seen", "left", "says"),
    [(2, 2, 5, "what was promised is in"), (2, 1, 0, "1 short"), (2, 2, 0, "as promised"), (2, 3, 0, "over")],
)
def test_words(promised: int, seen: int, left: int, says: str) -> None:
    assert says in owed("", CountLaw(fixed=promised, poisson=0.5), seen, Opened(24, left)).words()


def test_more_than_the_print_allows_is_said() -> None:
    assert not owed("", CountLaw(fixed=2), 3, Opened(24, 3)).possible


@pytest.mark.parametrize(
    ("chance", "says"),
    [(1 / 3, "1 in 3"), (2 / 3, "2 in 3"), (0.5, "1 in 2"), (0.004, "1 in 250"), (1.0, "certain"), (0.0, "none")],
)
def test_chances_in_words(chance: float, says: str) -> None:
    assert in_words(chance) == says


def test_the_two_schools() -> None:
    """An average of 1.6: at random the packs left do not know what came; spread evenly one seen leaves 0.6 at most."""
    law = CountLaw(fixed=1, binomials=((1, 0.6),))
    apart = by_school(law, EVENED, 24)
    assert apart.fixed == 1
    rest = remaining(apart, 2, Opened(24, 12))
    assert rest is not None
    assert rest[0] == pytest.approx(1.0)
    odds = per_pack_law(1 / 15, 24)
    assert by_school(odds, EACH, 24) == odds
    evened = by_school(odds, EVENED, 24)
    none, one = (owed("", evened, seen, Opened(24, 12)).chance_any for seen in (0, 1))
    assert one < none
    none, one = (owed("", odds, seen, Opened(24, 12)).chance_any for seen in (0, 1))
    assert one == pytest.approx(none)


def test_two_owed_with_one_pack_left_can_only_lie_in_it_together() -> None:
    found = owed("", CountLaw(fixed=2), 0, Opened(24, 1))
    assert found.possible
    assert found.chance_next == pytest.approx(1.0)


def test_a_box_half_open() -> None:
    promise = PromiseRow("hobby", "two hits", "2", "box", "exact", "signed;worn")
    rows = (
        OddsRow("hobby", "signed", packs_per_hit="20"),
        OddsRow("hobby", "worn", packs_per_hit="30"),
        OddsRow("hobby", "base", "copper", packs_per_hit="12"),
    )
    model = box_model(small_product(*rows, promises=(promise,)), small_product().formats[0])
    found = owed_lines(model, {("signed", "", ""): 1}, 6)
    assert [(row.label, row.owed) for row in found] == [("two hits", 1), ("Base copper", 0)]
    assert found[0].chance_next == pytest.approx(1 / 6)
    assert found[1].chance_any == pytest.approx(1 - (11 / 12) ** 6)
