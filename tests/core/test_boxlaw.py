"""The law of the box: facts of the trade, sums by hand, and made-up productions whose truth is hidden from it."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from itertools import combinations

import numpy as np
import pytest
from scipy.optimize import linprog

from botin.core.buying.chance import chances
from botin.core.catalog.product import (
    Card,
    Format,
    Kind,
    OddsRow,
    OverallRow,
    Parallel,
    Product,
    PromiseRow,
    Section,
)
from botin.core.odds.audit import audit
from botin.core.odds.boxlaw import BoxLaw, LoggedBoxes
from botin.core.odds.lines import box_model
from botin.core.odds.statements import Said, statements_of
from botin.core.odds.system import System
from botin.core.pricing.priced import priced_box
from botin.core.pricing.prices import PriceBook

HOBBY = Format("hobby", "Hobby", 24, 8, 12, line=2)
KINDS = {"base": Kind.BASE, "signed": Kind.AUTOGRAPH, "jersey": Kind.RELIC, "patch": Kind.RELIC, "extra": Kind.INSERT}


def made(sizes: dict[str, int], *odds: OddsRow, fmt: Format = HOBBY, **more: object) -> Product:
    cards = tuple(Card(key, f"{key[0]}{n}", f"R {n}") for key, size in sizes.items() for n in range(size))
    sections = tuple(Section(key, key.title(), KINDS[key], line=2) for key in sizes)
    fields = {"formats": (fmt,), "sections": sections, "cards": cards, "odds": odds, **more}
    return Product("p", "P", **fields)  # type: ignore[arg-type]


TRADE = made(
    {"base": 300, "signed": 20, "jersey": 20, "patch": 20},
    OddsRow("hobby", "jersey", packs_per_hit="192", line=2), OddsRow("hobby", "patch", line=3), OddsRow("hobby", "signed", line=4),
    overall=(
        OverallRow("hobby", "autographs", "autograph", "124", 2), OverallRow("hobby", "relics", "relic", "78", 3),
        OverallRow("hobby", "hits", "autograph;relic", "48", 4),
    ),
)  # fmt: skip


def test_totals_reach_every_chance() -> None:
    """Totals 1:124, 1:78, 1:48, one relic line 1:192: the other is about 1:131, any hit 39.5 to 39.7 % a box and
    99.8 % a case of twelve (common practice, no source)."""
    law = BoxLaw(TRADE)
    rate = law.rate(HOBBY, law.place_of(("patch", "", "")) or 0)
    assert 1 / (rate.estimate or 1) == pytest.approx(131, abs=1)
    assert pytest.approx(1 / (rate.high or 1), rel=1e-6) == 1 / (1 / 77.5 - 1 / 192.5)
    box = priced_box(box_model(TRADE, HOBBY, law=law), PriceBook([], date.min))
    hits = frozenset((c.section, c.number, "") for c in TRADE.cards if c.section != "base")
    found = chances(box, [hits])
    assert 0.394 < found.box < 0.398
    assert found.case == pytest.approx(0.998, abs=0.001)
    assert not [row for row in audit(TRADE) if row.severity == "error"]


def test_a_subset_numbered_on_from_base_is_in_the_box() -> None:
    """200 base cards and 100 more without any odds share 192 cards card by card: 128 and 64, the latter 0 to 64."""
    product = made({"base": 200, "extra": 100})
    model = box_model(product, HOBBY)
    lines = {line.section.key: line for line in model.lines}
    assert lines["base"].expected == pytest.approx(128)
    assert lines["extra"].expected == pytest.approx(64)
    bounds = model.bounds(lines["extra"])
    assert (bounds.low, bounds.high) == (pytest.approx(0, abs=1e-6), pytest.approx(64))


def test_two_signed_cards_beside_their_odds_cannot_be() -> None:
    """Exactly two a box beside 1:14 in 20 packs (1.4 expected): both are named, and either alone could hold."""
    fmt = replace(HOBBY, packs_per_box=20)
    row = PromiseRow("hobby", "two signed", "2", "box", "exact", "kind=autograph", line=2)
    product = made(
        {"base": 100, "signed": 10}, OddsRow("hobby", "signed", packs_per_hit="14", line=2), fmt=fmt, promises=(row,)
    )
    (conflict,) = BoxLaw(product).conflicts
    assert {one.where for one in conflict.statements} == {"odds.csv:2", "promises.csv:2"}
    assert any(found.code == "conflict" for found in audit(product))


def test_a_finish_counts_for_the_promise_of_its_kind() -> None:
    """Two autographs a box; gold /499 has no row: plain and gold together are two, whatever the share."""
    row = PromiseRow("hobby", "two autographs", "2", "box", "exact", "kind=autograph", line=2)
    product = made(
        {"base": 100, "signed": 20}, OddsRow("hobby", "signed", line=2), promises=(row,),
        parallels=(Parallel("gold", "Gold", "signed", run_text="499", line=2),),
    )  # fmt: skip
    model = box_model(product, HOBBY)
    signed = [line.expected or 0.0 for line in model.lines if line.section.key == "signed"]
    assert len(signed) == 2
    assert sum(signed) == pytest.approx(2)
    assert min(signed) > 0


def test_logs_move_a_rate_inside_what_is_stated() -> None:
    product = made({"base": 200, "extra": 100})
    law = BoxLaw(product, logs=[LoggedBoxes("hobby", 40, {("extra", "", ""): 40 * 12, ("base", "", ""): 40 * 180})])
    rate = law.rate(HOBBY, law.place_of(("extra", "", "")) or 0)
    assert 24 * (rate.estimate or 0) == pytest.approx(12, abs=6)
    assert (rate.low or 0) <= (rate.estimate or 0) <= (rate.high or 1)


def production(rng: np.random.Generator) -> tuple[Product, dict[tuple[str, str], float]]:
    """Draw true rates, then say only some of them: as odds, totals, promises, runs, or nothing."""
    sizes = {"base": int(rng.integers(50, 300)), "signed": int(rng.integers(4, 30)), "jersey": int(rng.integers(4, 30)),
             "patch": int(rng.integers(4, 20)), "extra": int(rng.integers(10, 60))}  # fmt: skip
    packs = int(rng.integers(40, 400)) * 24 * 12
    truth: dict[tuple[str, str], float] = {}
    for key in ("signed", "jersey", "patch"):
        truth[(key, "")] = float(rng.uniform(0.005, 0.08))
    truth[("extra", "")] = float(rng.uniform(0.05, 0.3)) * min(1.0, sizes["extra"] / 30)
    runs = {}
    for key, finish in (("signed", "gold"), ("base", "blue"), ("base", "red")):
        runs[(key, finish)] = int(rng.choice([10, 25, 50, 99]))
        truth[(key, finish)] = runs[(key, finish)] * sizes[key] / packs
    odds, overall = [], []
    for at, ((key, finish), rate) in enumerate(truth.items()):
        said = rng.random() < 0.5
        odds.append(
            OddsRow("hobby", key, finish, packs_per_hit=f"{1 / rate:.0f}" if said and rate < 0.3 else "", line=at + 2)
        )
    for at, kinds in enumerate((("signed",), ("jersey", "patch"))):
        if rng.random() < 0.7:
            total = sum(rate for (key, _), rate in truth.items() if key in kinds)
            overall.append(OverallRow("hobby", kinds[0], KINDS[kinds[0]].value, f"{1 / total:.0f}", at + 2))
    parallels = tuple(
        Parallel(f, f.title(), s, run_text=str(run), line=i) for i, ((s, f), run) in enumerate(runs.items(), 2)
    )
    product = made(sizes, *odds, overall=tuple(overall), parallels=parallels)
    truth[("base", "")] = 8 - sum(truth.values())
    return product, truth


@pytest.mark.parametrize("seed", range(12))
def test_the_truth_lies_within_and_the_point_too(seed: int) -> None:
    product, truth = production(np.random.default_rng(seed))
    law = BoxLaw(product)
    assert law.conflicts == ()
    for place, line in enumerate(law.system.lines):
        rate, true = law.rate(HOBBY, place), truth[line.key[:2]]
        assert rate.low is not None
        assert rate.high is not None
        assert rate.low * (1 - 1e-6) <= true <= rate.high * (1 + 1e-6), line.key
        assert rate.low * (1 - 1e-6) <= (rate.estimate or 0.0) <= rate.high * (1 + 1e-6), line.key


@pytest.mark.parametrize("seed", range(6))
def test_a_further_statement_never_widens(seed: int) -> None:
    rng = np.random.default_rng([7, seed])
    product, truth = production(rng)
    blank = [at for at, row in enumerate(product.odds) if not row.packs_per_hit]
    if not blank:
        return
    at = int(rng.choice(blank))
    row = product.odds[at]
    told = replace(row, packs_per_hit=f"{1 / truth[(row.section, row.parallel)]:.1f}")
    more = replace(product, odds=(*product.odds[:at], told, *product.odds[at + 1 :]))
    before, after = BoxLaw(product), BoxLaw(more)
    for place in range(len(before.system.lines)):
        wide, narrow = before.rate(HOBBY, place), after.rate(HOBBY, place)
        assert (narrow.low or 0) >= (wide.low or 0) * (1 - 1e-6) - 1e-12
        assert (narrow.high or 0) <= (wide.high or np.inf) * (1 + 1e-6)


def test_another_order_of_rows_changes_nothing() -> None:
    product, _ = production(np.random.default_rng(3))
    other = replace(
        product, odds=product.odds[::-1], overall=product.overall[::-1], parallels=product.parallels[::-1]
    )
    one, two = BoxLaw(product), BoxLaw(other)
    for line in one.system.lines:
        a = one.rate(HOBBY, one.place_of(line.key) or 0)
        b = two.rate(HOBBY, two.place_of(line.key) or 0)
        assert (a.low, a.high) == (pytest.approx(b.low, rel=1e-6, abs=1e-9), pytest.approx(b.high, rel=1e-6))
        assert a.estimate == pytest.approx(b.estimate, rel=1e-4)


def test_each_named_set_is_as_small_as_can_be_and_the_rest_holds() -> None:
    """Against scipy's linprog over all subsets of the statements, on small systems with wrong numbers in them."""
    rng = np.random.default_rng(5)
    seen = 0
    for _ in range(40):
        rows = [
            OddsRow("hobby", key, packs_per_hit=str(int(rng.integers(20, 60))), line=n)
            for n, key in enumerate(("signed", "jersey"), 2)
        ]
        total = OverallRow("hobby", "hits", "autograph;relic", str(int(rng.integers(8, 40))), 2)
        row = PromiseRow("hobby", "one signed", "1", "box", "exact", "kind=autograph", line=2)
        product = made({"base": 50, "signed": 5, "jersey": 5}, *rows, overall=(total,), promises=(row,))
        said = statements_of(product)
        law = System(said)
        strong = [one for one in said.said if one.said is not Said.USUAL]
        named = [set(map(id, conflict.statements)) for conflict in law.conflicts]
        left = [
            one for one in law.said.said if one.said is not Said.USUAL and not any(id(one) in ids for ids in named)
        ]
        assert _holds(left, len(said.lines))
        assert bool(named) is not _holds(strong, len(said.lines))
        for conflict in law.conflicts:
            seen += 1
            assert not _holds(list(conflict.statements), len(said.lines))
            for fewer in combinations(conflict.statements, len(conflict.statements) - 1):
                assert _holds(list(fewer), len(said.lines))
    assert seen > 10


def _holds(statements: list[object], lines: int) -> bool:
    rows, sides = [], []
    for one in statements:
        row = np.zeros(lines)
        for place, factor in one.terms:  # type: ignore[attr-defined]
            row[place] = factor
        span = one.span  # type: ignore[attr-defined]
        rows += [row, -row] if np.isfinite(span.high) else [-row]
        sides += [span.high, -span.low] if np.isfinite(span.high) else [-span.low]
    if not rows:
        return True
    return linprog(np.zeros(lines), A_ub=np.array(rows), b_ub=np.array(sides), method="highs-ipm").status == 0


def test_boxes_of_seven_to_ten_packs_are_averaged_over() -> None:
    """1:5 in 7, 8, 9 or 10 packs: none in the mean of 0.8^n; 1.7 expected; a pack taken at random has 1 in 5."""
    fmt = Format("mixed", "Mixed", 9, 4, line=2, packs_range=(7, 10))
    product = made({"base": 40, "signed": 6}, OddsRow("mixed", "signed", packs_per_hit="5", line=2), fmt=fmt)
    box = priced_box(box_model(product, fmt), PriceBook([], date.min))
    found = chances(box, [frozenset(("signed", f"s{n}", "") for n in range(6))])
    assert found.expected == pytest.approx(8.5 / 5)
    assert found.box == pytest.approx(1 - np.mean([0.8**n for n in (7, 8, 9, 10)]))
    assert found.pack == pytest.approx(0.2)
