"""A product at a glance: gaps in the numbers, how full a box is."""

from __future__ import annotations

import pytest

from botin.core.catalog.nearnames import near_words
from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, Section
from botin.core.odds.outline import boxes, gaps_of, outline

HOBBY = Format("hobby", "Hobby", packs_per_box=24, cards_per_pack=8, boxes_per_case=12)


def product(*odds: OddsRow, fmt: Format = HOBBY) -> Product:
    return Product(
        key="p", name="P", formats=(fmt,), odds=odds,
        sections=(Section("base", "Base", Kind.BASE), Section("bt", "Toppers", Kind.BOX_TOPPER)),
        cards=(Card("base", "1", "Orla"), Card("base", "2", "Dov"), Card("base", "5", "Pia"), Card("base", "5", "Koa")),
        parallels=(Parallel("copper", "Copper", "base", run_text="199"),),
    )  # fmt: skip


@pytest.mark.parametrize(
    ("numbers", "gaps"),
    [
        (["1", "2", "3"], ()),
        (["1", "2", "5", "7"], ("3–4", "6")),
        (["NS-1", "NS-3"], ("NS-2",)),
        (["1", "NS-3"], ()),
        (["SS-OT", "SS-JM"], ()),
        ([], ()),
        (["10", "9", "8", "12"], ("11",)),
        ([str(n) for n in range(1, 60, 2)][:20], (*(str(n) for n in range(2, 25, 2)), "and 7 more")),
    ],
)
def test_gaps_in_the_numbers(numbers: list[str], gaps: tuple[str, ...]) -> None:
    assert gaps_of(numbers) == gaps


def test_a_section_says_what_it_holds() -> None:
    (base, _) = outline(product(OddsRow("hobby", "base", "copper", packs_per_hit="4")))
    assert (base.count, base.gaps, base.twice) == (4, ("3–4",), ("5",))
    assert base.first is not None
    assert base.first.name == "Orla"
    assert [(f.label, f.run, f.rates) for f in base.finishes] == [("Copper", "199", (("hobby", "1:4"),))]


def test_how_full_a_box_is() -> None:
    """A box of 24 × 8: 1:8, 1:10 and 1:14 are 3, 2.4 and 1.7 cards (common practice, no source)."""
    rows = [OddsRow("hobby", "base", f"f{n}", packs_per_hit=str(n)) for n in (8, 10, 14)]
    (box,) = boxes(product(*rows))
    assert box.cards == 192
    assert box.rated == pytest.approx(3 + 2.4 + 24 / 14)
    assert box.rest == pytest.approx(192 - box.rated)


def test_a_line_stated_twice_counts_once() -> None:
    rows = [OddsRow("hobby", "base", "copper", packs_per_hit=rate) for rate in ("4", "8")]
    (box,) = boxes(product(*rows))
    assert box.rated == pytest.approx(24 / 4)


def test_toppers_lie_outside_and_what_is_not_printed_is_counted() -> None:
    rows = (
        OddsRow("hobby", "bt", per_box="1"), OddsRow("hobby", "base", "copper"),
        OddsRow("hobby", "base", "x", per_case="6"), OddsRow("hobby", "base", "y", per_pack="2"),
        OddsRow("other", "base", "z", packs_per_hit="1"),
    )  # fmt: skip
    (box,) = boxes(product(*rows))
    assert (box.rated, box.unprinted) == (pytest.approx(0.5 + 48), 1)


def test_more_than_a_box_holds_leaves_less_than_nothing() -> None:
    (box,) = boxes(product(OddsRow("hobby", "base", "x", per_box="200")))
    assert box.rest == -8


def test_near_words_are_those_a_letter_away() -> None:
    known = ["Orla Thorsby", "Élise Ives", "Harrow Bay"]
    found = near_words(["Orla Thorsbey", "Elise Ives", "Harrow Bay", "Dov Quill", "Tarn", "Orla Thorsbey"], known)
    assert [(one.word, one.known) for one in found] == [
        ("Orla Thorsbey", "Orla Thorsby"), ("Elise Ives", "Élise Ives"),
    ]  # fmt: skip
