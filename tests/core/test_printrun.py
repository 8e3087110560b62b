"""The print run: bounds that hold the truth, against other solvers, an exhaustive grid and sums done by hand."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats
from scipy.optimize import linprog

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section
from botin.core.odds.boxlaw import BoxLaw, LoggedBoxes
from botin.core.odds.printrun import PrintRun, print_run
from tests.core.productions import production

HOBBY, RETAIL = Format("hobby", "Hobby", 24, 8, 12), Format("retail", "Retail", 7, 6)


def made(*odds: OddsRow, runs: dict[str, str], formats: tuple[Format, ...] = (HOBBY,), cards: int = 10) -> Product:
    return Product(
        "p", "P",
        formats=formats,
        sections=(Section("base", "Base", Kind.BASE), Section("ins", "Insert", Kind.INSERT)),
        cards=(*(Card("base", str(n), f"R {n}") for n in range(cards)), *(Card("ins", n, "R") for n in ("I1", "I2"))),
        parallels=tuple(Parallel(key, key, "base", run_text=run) for key, run in runs.items()),
        odds=odds,
    )  # fmt: skip


def odds(fmt: str, parallel: str, packs: str = "", section: str = "base") -> OddsRow:
    return OddsRow(fmt, section, parallel, packs_per_hit=packs)


def bounds(found: PrintRun, fmt: str) -> tuple[float, float]:
    packs = found.formats[fmt].packs  # type: ignore[union-attr]
    return packs.low or 0.0, packs.high or np.inf


def coverage(withheld: float, count: int, formats: int, lines: int = 8) -> float:
    """Share of the formats whose true packs lie within the bounds."""
    rng = np.random.default_rng([formats, lines])
    held = []
    for _ in range(count):
        drawn = production(rng, formats, lines, withheld)
        found = print_run(drawn.product)
        for fmt, packs in drawn.packs.items():
            low, high = bounds(found, fmt)
            held.append(low <= packs <= high)
    return float(np.mean(held))


@pytest.mark.parametrize("formats", [1, 2, 3])
def test_with_rounding_as_the_only_error_the_truth_is_always_inside(formats: int) -> None:
    assert coverage(0.0, 30, formats) == 1.0
    assert coverage(0.0, 15, formats, lines=4) == 1.0


@pytest.mark.parametrize("formats", [1, 2, 3])
def test_with_up_to_three_percent_withheld_it_is_inside_most_of_the_time(formats: int) -> None:
    """Fifteen of a hundred may be missed; 2.5 standard errors beside, with so few productions."""
    assert coverage(0.03, 40, formats) >= 0.85 - 2.5 * np.sqrt(0.85 * 0.15 / 40 / formats)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("formats", "lines", "least"), [(1, 8, 0.9), (2, 8, 0.9), (3, 8, 0.85), (1, 5, 0.8), (2, 5, 0.75), (3, 12, 0.9)]
)
def test_coverage_over_two_hundred_productions(formats: int, lines: int, least: float) -> None:
    """Few lines cannot show what is withheld of all of them: with five the bounds miss more."""
    assert coverage(0.03, 200, formats, lines) >= least
    assert coverage(0.0, 200, formats, lines) == 1.0


def test_formats_that_share_in_proportion_cannot_be_told_apart() -> None:
    rng = np.random.default_rng(13)
    for _ in range(40):
        found = print_run(production(rng, 2, 8, proportional=True).product)
        assert not any(run.separable for run in found.formats.values() if run)


def test_estimates_are_close_and_inside() -> None:
    rng = np.random.default_rng(14)
    for _ in range(30):
        drawn = production(rng, 2, 8)
        found = print_run(drawn.product)
        for fmt, packs in drawn.packs.items():
            low, high = bounds(found, fmt)
            best = found.formats[fmt].packs.estimate  # type: ignore[union-attr]
            assert best is not None
            assert low <= best <= high
            assert best == pytest.approx(packs, rel=0.02)


def test_bounds_against_another_method_of_linprog() -> None:
    """scipy.optimize.linprog by its interior point method, on the raw inequalities."""
    rng = np.random.default_rng(15)
    for _ in range(10):
        drawn = production(rng, 3, 6)
        found = print_run(drawn.product)
        rows, limits = [], []
        for row in drawn.product.parallels:
            copies = len(drawn.product.cards) * int(row.run_text)
            texts = [o.packs_per_hit for o in drawn.product.odds if o.parallel == row.key]
            half = [0.05 if "." in text else 0.5 for text in texts]
            n = [float(text.replace(",", "")) for text in texts]
            rows += [[1 / (a + h) for a, h in zip(n, half)], [-1 / (a - h) for a, h in zip(n, half)]]  # noqa: B905
            limits += [copies, -copies]
        scale = 1e-6
        for place, fmt in enumerate(drawn.packs):
            goal = np.eye(3)[place]
            least, most = (
                linprog(s * goal, A_ub=np.array(rows), b_ub=np.array(limits) * scale, method="highs-ipm").fun / scale
                for s in (1, -1)
            )
            assert bounds(found, fmt) == (pytest.approx(least, rel=1e-4), pytest.approx(-most, rel=1e-4))


def test_bounds_against_an_exhaustive_grid() -> None:
    """Every pair of packs on a grid of 1,000 is tried on a small case; the bounds hold just those that fit."""
    rows = (odds("hobby", "a", "20"), odds("hobby", "b", "50"), odds("retail", "a", "90"), odds("retail", "b", "60"))
    product = made(*rows, runs={"a": "600", "b": "350"}, formats=(HOBBY, RETAIL))
    found = print_run(product)
    x, y = np.meshgrid(np.arange(0, 200_001, 1_000), np.arange(0, 400_001, 1_000), indexing="ij")
    fits = np.ones(x.shape, dtype=bool)
    for copies, h, r in ((6_000, 20, 90), (3_500, 50, 60)):
        fits &= (x / (h + 0.5) + y / (r + 0.5) <= copies) & (x / (h - 0.5) + y / (r - 0.5) >= copies)
    assert fits.sum() > 10
    for fmt, packs in (("hobby", x), ("retail", y)):
        low, high = bounds(found, fmt)
        assert low == pytest.approx(packs[fits].min(), abs=3_000)
        assert high == pytest.approx(packs[fits].max(), abs=3_000)
        assert low <= packs[fits].min()
        assert high >= packs[fits].max()


def test_one_format_by_hand() -> None:
    """10 cards × 50 = 500 copies at 1:460 (459.5 to 460.5): 229,750 to 230,250 packs, ÷ 24 ÷ 12 boxes and cases."""
    found = print_run(made(odds("hobby", "a", "460"), runs={"a": "50"}))
    run = found.formats["hobby"]
    assert run is not None
    assert (run.packs.low, run.packs.high) == (pytest.approx(229_750), pytest.approx(230_250))
    assert run.boxes.estimate == pytest.approx(230_000 / 24)
    assert run.cases.estimate == pytest.approx(230_000 / 24 / 12)
    assert run.separable
    assert found.lines[0].agrees is None
    assert found.slack == 0


def test_lines_that_contradict_the_others_are_named() -> None:
    rows = (odds("hobby", "a", "460"), odds("hobby", "b", "230"), odds("hobby", "c", "92"), odds("hobby", "d", "100"))
    found = print_run(made(*rows, runs={"a": "50", "b": "100", "c": "250", "d": "200"}))
    assert {line.key[1]: line.agrees for line in found.lines} == {"a": True, "b": True, "c": True, "d": False}
    low, high = 2_000 * 100.5, 2_500 * 91.5
    root = (
        high / low
    ) ** 0.5  # run and odds of both lines give way, each on its side: (1 + t)² ÷ (1 − t)² = high ÷ low
    assert found.slack == pytest.approx((root - 1) / (root + 1), rel=1e-6)


def test_a_format_without_a_numbered_line_is_unknown_not_zero() -> None:
    rows = (odds("hobby", "a", "460"), odds("retail", "", "8", section="ins"))
    found = print_run(made(*rows, runs={"a": "50"}, formats=(HOBBY, RETAIL)))
    assert found.formats["retail"] is None
    assert found.formats["hobby"] is not None
    insert = next(row for row in found.populations if row.key == ("ins", "", ""))
    assert insert.per_card.estimate is None


def test_no_numbered_line_at_all() -> None:
    found = print_run(made(odds("hobby", "", "8", section="ins"), runs={}))
    assert found.formats == {"hobby": None}
    assert found.lines == ()


def test_populations_of_unnumbered_cards() -> None:
    """230,000 packs at 1:8 hold 28,750 of two insert cards, and 8 − 1/8 − 1/460 base cards each, of ten numbers."""
    found = print_run(made(odds("hobby", "a", "460"), odds("hobby", "", "8", section="ins"), runs={"a": "50"}))
    each = {row.key: row.per_card for row in found.populations}
    insert, base = each[("ins", "", "")], each[("base", "", "")]
    assert insert.estimate == pytest.approx(230_000 / 8 / 2)
    assert insert.low == pytest.approx(229_750 / 8.5 / 2)
    assert insert.high == pytest.approx(230_250 / 7.5 / 2)
    assert base.estimate == pytest.approx(230_000 * (8 - 1 / 8 - 1 / 460) / 10)


def test_missing_odds_follow_from_the_run() -> None:
    found = print_run(made(odds("hobby", "a", "460"), odds("hobby", "b"), runs={"a": "50", "b": "10"}))
    assert [(gap.format, gap.key[1]) for gap in found.missing_odds] == [("hobby", "b")]
    packs = found.missing_odds[0].packs_per_hit
    assert packs.estimate == pytest.approx(230_000 / 100)
    assert (packs.low, packs.high) == (pytest.approx(229_750 / 100), pytest.approx(230_250 / 100))


def test_missing_odds_of_one_of_two_formats() -> None:
    rows = (odds("hobby", "a", "460"), odds("retail", "r", "700"), odds("hobby", "b", "1,000"), odds("retail", "b"))
    found = print_run(made(*rows, runs={"a": "50", "r": "20", "b": "50"}, formats=(HOBBY, RETAIL)))
    packs = next(gap.packs_per_hit for gap in found.missing_odds if gap.format == "retail")
    assert packs.estimate == pytest.approx(140_000 / (500 - 230), rel=1e-3)
    assert (packs.low or 0) <= (packs.estimate or 0) <= (packs.high or np.inf)


def test_a_pooled_run_counts_whole_when_it_is_one_line() -> None:
    """common practice, no source: 100 plain + 80 signed + 4 signed patches are stamped /184."""
    found = print_run(made(odds("hobby", "a", "125"), runs={"a": "100+80+4"}))
    assert found.lines[0].copies == 1_840


def test_counting_narrows_the_packs_and_stays_inside_them() -> None:
    """1,000 copies, 1:10 to 1:100 possible; 24 in 12 boxes of 24 packs speak for 12,000 packs (Gamma, scipy.stats)."""
    row = PromiseRow("hobby", "some", "2", "box", "at_least", "base:a;ins")
    product = Product(**{**vars_of(made(odds("hobby", "a"), runs={"a": "100"})), "promises": (row,)})
    plain = print_run(product).formats["hobby"]
    law = BoxLaw(product, logs=[LoggedBoxes("hobby", 12, {("base", "a", ""): 24})])
    found = print_run(product, law).formats["hobby"]
    assert plain is None or plain.packs.high is None
    if found is not None:
        want = stats.gamma(24, scale=1 / (1_000 * 12 * 24))
        assert found.packs.estimate == pytest.approx(1 / want.ppf(0.5), rel=1e-6)


def vars_of(product: Product) -> dict[str, object]:
    return {name: getattr(product, name) for name in product.__dataclass_fields__}
