"""Which cards a line stands for, and what is left as the rest."""

from __future__ import annotations

import pytest

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section
from botin.core.counts import CountLaw
from botin.core.odds.lines import BoxModel, box_model
from botin.core.odds.rates import parse_printed
from tests.core.small import product


def model(made: Product, seeding: str = "even") -> BoxModel:
    return box_model(made, made.formats[0], seeding)


def expected(found: BoxModel) -> dict[tuple[str, str, str], float | None]:
    return {line.key: line.expected for line in found.lines}


def test_the_rest_is_what_the_packs_have_left() -> None:
    """common practice, no source: 144 cards less 34 others leave 110 base cards."""
    fmt = Format("hobby", "Hobby", 12, 12)
    made = product(OddsRow("hobby", "base", "slate", per_box="30"), OddsRow("hobby", "signed", per_box="4"), fmt=fmt)
    assert expected(model(made))[("base", "", "")] == pytest.approx(110)


def test_box_toppers_lie_outside_the_packs() -> None:
    found = expected(model(product(OddsRow("hobby", "poster", per_box="1", promise="exact"))))
    assert found[("base", "", "")] == 192
    assert found[("poster", "", "")] == 1


def test_a_promise_over_lines_splits_by_their_odds() -> None:
    odds = (OddsRow("hobby", "signed", packs_per_hit="12"), OddsRow("hobby", "worn", packs_per_hit="24"))
    promise = PromiseRow("hobby", "three hits", "3", "box", "exact", "kind=autograph;worn")
    found = model(product(*odds, promises=(promise,)))
    assert expected(found)[("signed", "", "")] == pytest.approx(2)
    assert expected(found)[("worn", "", "")] == pytest.approx(1)
    assert found.joint[0].law.fixed == 3
    assert all(line.law is None for line in found.lines if not line.is_rest)


def test_a_promise_without_printed_odds_splits_by_copies() -> None:
    odds = (OddsRow("hobby", "signed"), OddsRow("hobby", "worn"))
    promise = PromiseRow("hobby", "three hits", "3", "box", "exact", "signed;worn")
    runs = (Parallel("", "plain", "signed", run_text="10"), Parallel("", "plain", "worn", run_text="10"))
    found = expected(model(product(*odds, promises=(promise,), parallels=runs)))
    assert found[("signed", "", "")] == pytest.approx(2)
    assert found[("worn", "", "")] == pytest.approx(1)


def test_at_least_keeps_what_the_odds_expect_beyond() -> None:
    promise = PromiseRow("hobby", "one", "1", "box", "at_least", "signed")
    found = model(product(OddsRow("hobby", "signed", packs_per_hit="12"), promises=(promise,)))
    assert found.joint[0].law.mean == pytest.approx(2)
    assert found.joint[0].law.at_least(1) == 1.0


def test_a_case_hit_is_in_one_box_of_the_case() -> None:
    found = model(product(OddsRow("hobby", "signed", per_case="3", promise="exact")))
    law = next(line.law for line in found.lines if line.section.key == "signed")
    assert law is not None
    assert (law.at_least(1), law.at_least(2)) == (pytest.approx(3 / 12), 0.0)


def test_unprinted_odds_are_an_interval_and_said_so() -> None:
    """Ten coppers beside ten base cards in 192: from none to as many as base, taken as an even share a card."""
    found = model(product(OddsRow("hobby", "base", "copper")))
    copper = next(line for line in found.lines if line.parallel == "copper")
    bounds = found.bounds(copper)
    assert (bounds.low, bounds.high) == (pytest.approx(0), pytest.approx(96))
    assert copper.expected == pytest.approx(96)
    assert any("odds not printed" in note for note in found.assumptions)
    topper = model(product(OddsRow("hobby", "poster")))
    assert expected(topper)[("poster", "", "")] is None
    assert any("nothing bounds" in note for note in topper.assumptions)


def test_groups_have_their_own_cards_and_runs() -> None:
    cards = tuple(Card("base", str(n), f"R {n}", group="sp" if n > 8 else "") for n in range(1, 11))
    made = Product(
        "g",
        "G",
        formats=(Format("hobby", "Hobby", 10, 10),),
        sections=(Section("base", "Base", Kind.BASE),),
        cards=cards,
        parallels=(
            Parallel("gold", "Gold", "base", run_text="50"),
            Parallel("gold", "Gold", "base", group="sp", run_text="5"),
            Parallel("rose", "Rose", "base", group="sp"),
        ),
        odds=(
            OddsRow("hobby", "base", group="sp", packs_per_hit="5"),
            OddsRow("hobby", "base", "rose", packs_per_hit="5"),
            OddsRow("hobby", "base", "gold", packs_per_hit="100"),
        ),
    )
    found = {line.key: line for line in model(made).lines}
    assert found[("base", "", "sp")].numbers == {"9", "10"}
    assert found[("base", "rose", "")].numbers == {"9", "10"}
    assert found[("base", "", "")].numbers == {str(n) for n in range(1, 9)}
    assert found[("base", "", "")].expected == pytest.approx(95.9)
    assert [made.run_of(made.parallel_of(cards[n], "gold")) for n in (0, 9)] == [50, 5]  # type: ignore[arg-type]


def test_a_lone_pooled_run_is_the_run_of_its_row() -> None:
    """common practice, no source: stamped /184 may pool 100 plain, 80 signed and 4 signed patches."""
    made = product(parallels=(Parallel("pool", "Pool", "base", run_text="100+80+4"),))
    assert made.run_of(made.parallels[0]) == made.parallels[0].stamped == 184


@pytest.mark.parametrize(
    "texts",
    [("100+80+4", "100+80+4", "100+80+4"), ("100+80+4", "80+100+4", "4+100+80")],
    ids=["by order", "own first"],
)
def test_versions_that_share_a_serial_have_their_own_part_of_it(texts: tuple[str, ...]) -> None:
    sections = ("base", "signed", "worn")
    rows = tuple(Parallel("pool", "Pool", key, run_text=text) for key, text in zip(sections, texts, strict=True))
    made = product(parallels=rows)
    assert [made.run_of(row) for row in rows] == [100, 80, 4]
    assert {row.stamped for row in rows} == {184}


@pytest.mark.parametrize(
    ("text", "low", "high"),
    [
        ("29", 28.5, 29.5),
        ("1:7.0", 6.95, 7.05),
        ("1,473", 1472.5, 1473.5),
        ("1 in 24", 23.5, 24.5),
        ("0.5", 0.45, 0.55),
    ],
)
def test_printed_odds_are_rounded_as_printed(text: str, low: float, high: float) -> None:
    printed = parse_printed(text)
    assert (printed.low, printed.high) == (pytest.approx(low), pytest.approx(high))


def test_odds_beside_a_promise_add_what_they_expect_beyond_it() -> None:
    """At least 3 beside 1:6 in 24 packs: 3 and a Poisson of one more; exactly 3 stays 3; a case of 12 with at least 4."""
    least = model(product(OddsRow("hobby", "signed", packs_per_hit="6", per_box="3", promise="at_least")))
    law = next(line.law for line in least.lines if line.section.key == "signed")
    assert law is not None
    assert (law.fixed, law.poisson) == (3, pytest.approx(1.0))
    exact = model(product(OddsRow("hobby", "signed", packs_per_hit="6", per_box="3", promise="exact")))
    assert next(line.law for line in exact.lines if line.section.key == "signed") == CountLaw(fixed=3)
    case = model(product(OddsRow("hobby", "signed", packs_per_hit="48", per_case="4", promise="at_least")))
    line = next(line for line in case.lines if line.section.key == "signed")
    assert line.law is not None
    assert line.case_law is not None
    assert line.law.mean == pytest.approx(24 / 48)
    assert (line.case_law.fixed, line.case_law.poisson) == (4, pytest.approx(12 * 24 / 48 - 4))
