"""Averages that nobody is sure of, promises over lines without printed odds, lines stated twice: checks by hand."""

from __future__ import annotations

import math
from datetime import date

import numpy as np
import pytest

from botin.core.buying.chance import chances
from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section
from botin.core.counts import CountLaw, average_law, even_law, learned_law, promised_law
from botin.core.odds.audit import audit
from botin.core.odds.lines import box_model
from botin.core.odds.printrun import print_run
from botin.core.pricing.priced import priced_box
from botin.core.pricing.prices import PriceBook

FMT = Format("hobby", "Hobby", 24, 8, 12)
SECTIONS = (
    Section("base", "Base", Kind.BASE), Section("jersey", "Jersey", Kind.RELIC), Section("patch", "Patch", Kind.RELIC),
    Section("signed", "Signed", Kind.AUTOGRAPH),
)  # fmt: skip
CARDS = (
    *(Card("base", str(n), f"Rider {n}") for n in range(1, 101)), Card("jersey", "J1", "Rider 1"),
    *(Card(key, f"{key[0]}{n}", f"Rider {n}") for key in ("patch", "signed") for n in range(20)),
)  # fmt: skip


def made(
    *odds: OddsRow, promises: tuple[PromiseRow, ...] = (), parallels: tuple[Parallel, ...] = (), fmt: Format = FMT
) -> Product:
    spoken = {"base", *(row.section for row in odds)}  # what is listed is in the box: only what the odds speak of
    return Product(
        "p", "P", formats=(fmt,), sections=tuple(section for section in SECTIONS if section.key in spoken),
        cards=tuple(card for card in CARDS if card.section in spoken), odds=odds, promises=promises, parallels=parallels,
    )  # fmt: skip


def expected(product: Product) -> dict[tuple[str, str], float | None]:
    model = box_model(product, product.formats[0])
    return {line.key[:2]: line.expected for line in model.lines if not line.is_rest}


def promise(count: str, covers: str, how: str = "exact") -> PromiseRow:
    return PromiseRow("hobby", "promised", count, "box", how, covers)


def test_printed_lines_keep_their_odds_under_a_promise() -> None:
    """Four hits, the jersey printed 1:80: 24/80 a box; two unprinted lines share the rest evenly, and it is said."""
    product = made(
        OddsRow("hobby", "jersey", packs_per_hit="80"), OddsRow("hobby", "patch"), OddsRow("hobby", "signed"),
        promises=(promise("4", "jersey;patch;signed"),), parallels=(Parallel("", "", "jersey", run_text="184"),),
    )  # fmt: skip
    found = expected(product)
    assert found[("jersey", "")] == pytest.approx(0.3)
    assert found[("patch", "")] == pytest.approx(1.85)
    assert found[("signed", "")] == pytest.approx(1.85)
    assert any("an even share a card" in note for note in box_model(product, FMT).assumptions)


def test_the_one_line_without_a_run_takes_what_is_left() -> None:
    """Two autographs over plain, gold /50 and black /1 without odds: anything from none to two; gold is 50 × black."""
    runs = (Parallel("gold", "Gold", "signed", run_text="50"), Parallel("black", "Black", "signed", run_text="1"))
    rows = [OddsRow("hobby", "signed", key) for key in ("", "gold", "black")]
    product = made(*rows, promises=(promise("2", "signed;signed:gold;signed:black"),), parallels=runs)
    open_odds = expected(product)
    assert sum(part or 0.0 for part in open_odds.values()) == pytest.approx(2.0)
    assert open_odds[("signed", "gold")] == pytest.approx(50 * (open_odds[("signed", "black")] or 0.0))
    known = made(
        *rows, OddsRow("hobby", "base", "night", packs_per_hit="48"), promises=product.promises,
        parallels=(*runs, Parallel("night", "Night", "base", run_text="25")),
    )  # fmt: skip
    boxes = 100 * 25 * 48 / 24
    found = expected(known)
    assert found[("signed", "gold")] == pytest.approx(20 * 50 / boxes, rel=0.02)
    assert found[("signed", "")] == pytest.approx(2 - 20 * 51 / boxes, rel=0.02)


def test_numbered_lines_share_by_their_copies() -> None:
    runs = (Parallel("gold", "Gold", "base", run_text="90"), Parallel("black", "Black", "base", run_text="10"))
    rows = [OddsRow("hobby", "base", key) for key in ("gold", "black")]
    found = expected(made(*rows, promises=(promise("4", "numbered"),), parallels=runs))
    assert found == {("base", "gold"): pytest.approx(3.6), ("base", "black"): pytest.approx(0.4)}


@pytest.mark.parametrize(("count", "boxes"), [("4", 9500), ("5", 7600)])
def test_a_promised_count_tells_the_print_run(count: str, boxes: float) -> None:
    """200 cards of 190 copies, four a box: 9,500 boxes and 950 cases of ten; with five a fifth fewer (common practice)."""
    cards = tuple(Card("base", str(n), "Rider") for n in range(200))
    product = Product(
        "p", "P", formats=(Format("hobby", "Hobby", 24, 8, 10),), sections=SECTIONS[:1], cards=cards,
        parallels=(Parallel("a", "A", "base", run_text="150"), Parallel("b", "B", "base", run_text="40")),
        odds=(OddsRow("hobby", "base", "a"), OddsRow("hobby", "base", "b")), promises=(promise(count, "base:a;base:b"),),
    )  # fmt: skip
    found = print_run(product).formats["hobby"]
    assert found is not None
    assert found.boxes.estimate == pytest.approx(boxes)
    assert found.cases.estimate == pytest.approx(boxes / 10)


def test_a_promise_that_its_printed_lines_exceed_is_an_error() -> None:
    rows = (OddsRow("hobby", "jersey", packs_per_hit="4"), OddsRow("hobby", "signed"))
    codes = {found.code for found in audit(made(*rows, promises=(promise("2", "jersey;signed"),)))}
    assert "conflict" in codes


def test_a_line_stated_twice_counts_once() -> None:
    twice = made(OddsRow("hobby", "signed", packs_per_hit="24"), OddsRow("hobby", "signed", packs_per_hit="12"))
    assert expected(twice) == {("signed", ""): 1.0}
    cards = (*CARDS[:-1], Card("signed", "s19", "Rider 19", group="rare"))
    both = Product(
        "p", "P", formats=(FMT,), sections=SECTIONS, cards=cards,
        odds=(OddsRow("hobby", "signed", packs_per_hit="24"), OddsRow("hobby", "signed", group="rare", packs_per_hit="240")),
    )  # fmt: skip
    lines = {line.group: line.expected for line in box_model(both, FMT).lines if line.section.key == "signed"}
    assert lines == {"": pytest.approx(0.9), "rare": pytest.approx(0.1)}
    assert "odds-overlap" in {found.code for found in audit(both)}


def test_an_average_is_never_certain() -> None:
    """On average two: none in half of e^−2, 6.8 % of boxes, before anything is known (by hand)."""
    law = average_law(2, "learned")
    assert 1 - law.at_least(1) == pytest.approx(math.exp(-2) / 2)
    product = made(OddsRow("hobby", "signed", per_box="2", promise="average"))
    box = priced_box(box_model(product, FMT), PriceBook([], date.min))
    found = chances(box, [frozenset(("signed", f"s{n}", "") for n in range(20))], boxes=3)
    assert found.box == pytest.approx(1 - math.exp(-2) / 2)
    assert found.boxes == pytest.approx(1 - math.exp(-6) / 2)  # one school holds for all three


def test_logs_decide_between_the_schools() -> None:
    even = learned_law(4, [4] * 12).schools[0][0]
    random = learned_law(4, [2, 6, 4, 1, 7, 5, 3, 8]).schools[0][0]
    slipped = learned_law(4, [4, 4, 5, 4, 4, 3, 4, 4, 4, 4]).schools[0]
    assert even > 0.99
    assert random < 0.05
    assert slipped[0] > 0.9
    assert slipped[1].pmf()[[3, 4, 5]] == pytest.approx([2 / 30 / 2, 1 - 2 / 30, 2 / 30 / 2])


@pytest.mark.parametrize(("mean", "slip"), [(4.0, 0.1), (1.5, 0.2), (0.3, 0.2), (1.0, 0.05)])
def test_the_slip_moves_a_box_one_up_or_one_down(mean: float, slip: float) -> None:
    law = even_law(mean, slip)
    assert law.pmf().sum() == pytest.approx(1.0)
    drawn = law.draw(np.random.default_rng(1), 200_000)
    assert drawn.mean() == pytest.approx(law.mean, abs=0.01)
    assert drawn.var() == pytest.approx(law.variance, abs=0.02)
    assert law.pgf(np.array([0.6]))[0] == pytest.approx(float((0.6**drawn).mean()), abs=0.005)


def test_a_guaranteed_fraction_is_not_nothing() -> None:
    assert promised_law(0.5, "at_least", None, "learned") == CountLaw(binomials=((1, 0.5),))
    assert promised_law(1.5, "guaranteed", None, "learned").mean == pytest.approx(1.5)
    assert promised_law(1.0, "at_least", 1.6, "learned") == CountLaw(fixed=1, poisson=pytest.approx(0.6))
