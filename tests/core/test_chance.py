"""Chances of what one hopes to pull: facts of the trade, Feller, enumeration, and simulation."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import product as every_way

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from botin.core.buying.chance import Chances, TooManyWantsError, chances
from botin.core.catalog.product import Format, OddsRow, Product, TeamClub
from botin.core.catalog.wants import BadWantError, parse_want, versions
from botin.core.errors import NotFoundError
from botin.core.odds.collation import (
    INDEPENDENT,
    NO_REPEATS,
    Repeats,
    counts_at,
    expected_distinct,
    inner_time,
    mean_count,
    missed,
)
from botin.core.pricing.simulate import draw_hits
from tests.core.pricedboxes import BOXES, PLAIN, PROMISED, checklist, priced


def ask(product: Product, *specs: str, **how: object) -> Chances:
    wants = [versions(product, parse_want(spec)) for spec in specs]
    return chances(priced(product), wants, **how)  # type: ignore[arg-type]


def test_one_given_base_card_of_three_hundred() -> None:
    """110 base cards from a set of 300: 36.7 % without repeats, 30.7 % if independent (common practice, no source)."""
    fmt = Format("hobby", "Hobby", 10, 11, None)
    product = checklist(fmt=fmt, base=300)
    assert ask(product, "base:7", repeats=NO_REPEATS).box == pytest.approx(0.367, abs=0.0005)
    assert ask(product, "base:7", repeats=INDEPENDENT).box == pytest.approx(0.307, abs=0.0005)


@pytest.mark.parametrize(("packs", "odds", "chance"), [(24, "15", 0.809), (24, "29", 0.569)])
def test_at_least_one_in_a_box(packs: int, odds: str, chance: float) -> None:
    """1:15 gives at least one in 80.9 % of boxes of 24, 1:29 in 56.9 % (common practice, no source)."""
    product = checklist(OddsRow("hobby", "signed", packs_per_hit=odds), fmt=Format("hobby", "H", packs, 8, 12))
    found = ask(product, "kind=autograph")
    assert found.box == pytest.approx(chance, abs=0.0005)
    assert found.pack == pytest.approx(1 / float(odds))
    assert found.case == pytest.approx(1 - (1 - 1 / float(odds)) ** (packs * 12))


def test_boxes_for_even_chance_are_the_smallest_numbers() -> None:
    product = checklist(OddsRow("hobby", "signed", packs_per_hit="24"))
    found = ask(product, "signed:S1")
    none = (1 - 1 / 24 / 40) ** 24
    assert found.even == math.ceil(math.log(0.5) / math.log(none))
    assert found.most == math.ceil(math.log(0.05) / math.log(none))
    assert ask(product, "signed:S1", boxes=found.even).boxes >= 0.5
    assert ask(product, "signed:S1", boxes=found.even - 1).boxes < 0.5


def test_never_and_always() -> None:
    fmt = Format("hobby", "Hobby", 24, 8, None)
    rows = (OddsRow("hobby", "signed", per_box="1", promise="exact"), OddsRow("retail", "worn", per_box="1"))
    product = checklist(*rows, fmt=fmt)
    product = replace(product, formats=(fmt, Format("retail", "Retail", 8, 8)))
    never = ask(product, "kind=relic")
    assert (never.box, never.even, never.most, never.case) == (0.0, None, None, None)
    assert any("counted 0" in note for note in never.assumptions)
    always = ask(product, "kind=autograph")
    assert (always.box, always.even, always.most) == (1.0, 1, 1)
    assert always.pack == pytest.approx(1 / 24)


def test_any_is_more_and_all_is_less_than_one() -> None:
    one, two = ask(PLAIN, "signed:S1"), ask(PLAIN, "signed:S2")
    any_of, all_of = ask(PLAIN, "signed:S1", "signed:S2"), ask(PLAIN, "signed:S1", "signed:S2", every=True)
    assert all_of.box < one.box < any_of.box
    assert any_of.box + all_of.box == pytest.approx(one.box + two.box)


def test_all_of_a_small_set_by_enumeration() -> None:
    """Three cards drawn independently from four: all of two given ones, every way listed."""
    fmt = Format("hobby", "Hobby", 3, 1, None)
    product = checklist(fmt=fmt, base=4)
    ways = list(every_way(range(4), repeat=3))
    both = sum(1 for way in ways if {0, 1} <= set(way)) / len(ways)
    assert ask(product, "base:1", "base:2", every=True).box == pytest.approx(both)
    pairs = [way for way in ways if len(set(way)) == 3]
    both = sum(1 for way in pairs if {0, 1} <= set(way)) / len(pairs)
    assert ask(product, "base:1", "base:2", every=True, repeats=NO_REPEATS).box == pytest.approx(both)


def test_the_whole_set_is_fellers_occupancy() -> None:
    """No empty cell with r balls in n cells: Σ (−1)^v C(n, v) (1 − v/n)^r (Feller, vol. 1, IV.2, from memory)."""
    n, r = 6, 15
    product = checklist(fmt=Format("hobby", "Hobby", r, 1, None), base=n)
    feller = sum((-1) ** v * math.comb(n, v) * (1 - v / n) ** r for v in range(n + 1))
    found = ask(product, *(f"base:{k}" for k in range(1, n + 1)), every=True)
    assert found.box == pytest.approx(feller, abs=1e-12)


def test_promised_hits_against_simulation() -> None:
    """Of four promised hits over two lines: a signed card of the first ten, or worn number 3; 100,000 boxes."""
    wants = [f"signed:S{k}" for k in range(1, 11)] + ["worn:W3"]
    box, size = priced(PROMISED), 100_000
    came = np.zeros(size, bool)
    for drawn in draw_hits(box, size, np.random.default_rng(7)):
        key = drawn.line.line.section.key
        hit = (
            drawn.card < 10
            if key == "signed"
            else drawn.card == 2
            if key == "worn"
            else np.zeros(len(drawn.card), bool)
        )
        came[drawn.box[hit]] = True
    assert ask(PROMISED, *wants).box == pytest.approx(came.mean(), abs=4 * 0.5 / math.sqrt(size))


def test_what_a_case_holds_counts_once() -> None:
    """Nine coppers a case over 200 cards: one given card comes with 1 − (1 − 1/200)^9, and 9 in 12 boxes hold one."""
    found = ask(PROMISED, "base:1:copper")
    assert found.case == pytest.approx(1 - (1 - 1 / 200) ** 9)
    assert found.box == pytest.approx(9 / 12 / 200)
    any_copper = ask(PROMISED, "parallel=copper")
    assert any_copper.box == pytest.approx(9 / 12)
    assert any_copper.case == pytest.approx(1.0)


def test_toppers_lie_outside_the_packs() -> None:
    """A name with base, insert and signed cards: expected copies add up over all versions."""
    found = ask(PLAIN, "name=Rider 3")
    hits = 24 / 24 / 40 + 24 / 36 / 20 + 6 / 30
    assert found.expected == pytest.approx(hits + (192 - 24 / 24 - 24 / 36 - 6) / 200)


@settings(max_examples=20, deadline=None)
@given(st.integers(1, 12), st.integers(1, 6))
def test_chances_grow_with_boxes_and_with_wishes(boxes: int, wishes: int) -> None:
    few = ask(PLAIN, *(f"signed:S{k}" for k in range(1, wishes + 1)), boxes=boxes)
    more = ask(PLAIN, *(f"signed:S{k}" for k in range(1, wishes + 2)), boxes=boxes + 1)
    assert few.boxes <= more.boxes + 1e-12
    assert few.pack <= few.box <= (few.case or 1)


def test_too_many_wishes_for_all_of_them() -> None:
    with pytest.raises(TooManyWantsError):
        ask(PLAIN, *(f"base:{k}" for k in range(1, 60)), every=True)


@pytest.mark.parametrize("spec", ["", "base", "base:", "a:b:c:d", "colour=red", "name=", "base:1,,base:2"])
def test_wants_that_cannot_be_read(spec: str) -> None:
    with pytest.raises(BadWantError):
        parse_want(spec)


def test_wants_find_their_versions() -> None:
    teams = (TeamClub("Wheelers B", "Wheelers"),)
    product = checklist(OddsRow("hobby", "base", "copper", packs_per_hit="9"))
    cards = tuple(
        type(c)(c.section, c.number, c.name, "Wheelers B" if c.number == "4" else "") for c in product.cards
    )
    product = Product(
        "p", "P", formats=product.formats, sections=product.sections, cards=cards, odds=product.odds, teams=teams
    )
    found = {
        spec: versions(product, parse_want(spec))
        for spec in ("base:4", "base:4:*", "team=wheelers", "kind=base,name=rider 4")
    }
    assert found["base:4"] == {("base", "4", "")}
    assert found["base:4:*"] == {("base", "4", ""), ("base", "4", "copper")}
    assert found["team=wheelers"] == found["base:4:*"]
    assert found["kind=base,name=rider 4"] == found["base:4:*"]
    with pytest.raises(NotFoundError):
        versions(product, parse_want("base:999"))


def test_expected_distinct_of_the_trade() -> None:
    """744 of 792: 483 if independent; two boxes 671 (common practice, no source); (1 − 1/N)^n of Feller, IX.3."""
    assert expected_distinct(INDEPENDENT, 744, 792) == pytest.approx(483, abs=0.7)
    assert expected_distinct(INDEPENDENT, 1488, 792) == pytest.approx(671, abs=0.7)
    assert expected_distinct(NO_REPEATS, 744, 792) == 744


def test_birth_process_against_its_closed_forms() -> None:
    """ρ = 1 is Poisson, ρ = 0 comes at most once, and the mean at the inner time is the one asked for."""
    assert counts_at(1.0, 0.9)[:4] == pytest.approx([math.exp(-0.9) * 0.9**k / math.factorial(k) for k in range(4)])
    assert counts_at(0.0, 0.9)[:3] == pytest.approx([math.exp(-0.9), 1 - math.exp(-0.9), 0])
    for factor in (0.0, 0.3, 0.563, 1.0, 1.3):
        assert mean_count(factor, inner_time(factor, 0.94)) == pytest.approx(0.94)


def test_missed_is_monotone_in_the_model() -> None:
    drawn = np.array([50.0, 110.0])
    chances_of = [missed(Repeats(factor), drawn, 300, 3) for factor in (0.0, 0.5, 1.0)]
    assert (chances_of[0] < chances_of[1]).all()
    assert (chances_of[1] < chances_of[2]).all()


def test_known_pulls_lower_a_chance() -> None:
    """The one-of-one of rider 1 was shown elsewhere: it cannot come any more, the others come as before."""
    from botin.core.catalog.product import Parallel
    from botin.core.odds.lines import box_model
    from botin.core.pricing.priced import priced_box
    from botin.core.pricing.prices import PriceBook
    from tests.core.pricedboxes import DAY, PRICES

    product = BOXES["heavy"]
    numbered = Product(
        **{
            **{f: getattr(product, f) for f in product.__dataclass_fields__},
            "parallels": (Parallel("lone", "Lone", "base", run_text="1"),),
        }
    )
    model = box_model(numbered, numbered.formats[0])
    book = PriceBook(PRICES, DAY)
    before, after = priced_box(model, book), priced_box(model, book, seen={("base", "1", "lone"): 1})
    one, other = frozenset({("base", "1", "lone")}), frozenset({("base", "2", "lone")})
    assert chances(after, [one]).box == 0
    assert chances(after, [other]).box == pytest.approx(chances(before, [other]).box, rel=1e-4)
