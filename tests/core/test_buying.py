"""Costs, fade, alternatives, break-even walk, prices that matter, scorecards, seasons, and the verdict before buying."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from botin.core.buying.alternatives import Holding, growth_needed, singles_outright, wait_saves
from botin.core.buying.boxcosts import Price, cost_figures, counts_in, rank_score
from botin.core.buying.breakeven import sample_boxes, walk
from botin.core.buying.pricegaps import price_gaps
from botin.core.buying.scorecard import Evidence, scorecards
from botin.core.buying.seasons import season_changes
from botin.core.buying.verdict import Case, Choice, decide
from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Format, OddsRow, Parallel, Product
from botin.core.money import Money
from botin.core.odds.lines import box_model
from botin.core.pricing.fade import Fade, fit_fade
from botin.core.pricing.priced import priced_box
from botin.core.pricing.prices import PriceBook, PriceRow
from botin.core.pricing.valuecurve import value_curve
from botin.core.selling.costs import SaleCosts
from tests.core.pricedboxes import BOXES, DAY, checklist, priced, row


@pytest.mark.parametrize(
    ("price", "packs", "cards", "autographs", "a_card", "an_autograph"),
    [(100, 24, 8, "4", 0.52, 25.0), (140, 6, 24, "3", 0.97, 46.67)],
)
def test_costs_of_the_trade(
    price: float, packs: int, cards: int, autographs: str, a_card: float, an_autograph: float
) -> None:
    """Formats side by side (common practice, no source)."""
    fmt = Format("hobby", "Hobby", packs, cards, 12)
    product = checklist(OddsRow("hobby", "signed", per_box=autographs, promise="exact"), fmt=fmt)
    counts = counts_in(box_model(product, fmt), HitRule())
    found = {figure.label: figure.value for figure in cost_figures(price, counts)}
    assert found["cost per card"] == pytest.approx(a_card, abs=0.005)
    assert found["cost per autograph"] == pytest.approx(an_autograph, abs=0.005)


@pytest.mark.parametrize(("price", "cards", "each"), [(2200, 144, 15.28), (765, 540, 1.42), (20, 500, 0.04)])
def test_price_a_card_of_the_trade(price: float, cards: int, each: float) -> None:
    """2,200 ÷ 144, 765 ÷ 540, 20 ÷ 500 (common practice, no source)."""
    fmt = Format("hobby", "Hobby", 1, cards, None)
    counts = counts_in(box_model(checklist(fmt=fmt), fmt), HitRule())
    assert cost_figures(price, counts)[0].value == pytest.approx(each, abs=0.005)


def test_price_with_shipping_tax_and_rate() -> None:
    assert Price(100, 10, 0.2, 0.9).total == pytest.approx(118.8)
    assert Price(100, 10, 0.2, 0.9).figure().value == pytest.approx(118.8)


def test_ranking_follows_the_weights() -> None:
    """By autographs the 24 × 8 box wins, by numbered cards the other (common practice, no source)."""
    one = counts_in(
        box_model(checklist(OddsRow("hobby", "signed", per_box="4")), BOXES["plain"].formats[0]), HitRule()
    )
    fmt = Format("hobby", "Jumbo", 6, 24, 8)
    numbered = checklist(
        OddsRow("hobby", "signed", per_box="3"),
        OddsRow("hobby", "base", "copper", per_box="9"),
        fmt=fmt,
        parallels=(Parallel("copper", "Copper", "base", run_text="99"),),
    )
    two = counts_in(box_model(numbered, fmt), HitRule())
    assert rank_score(100, one, 50, {"autographs": 1}) > rank_score(140, two, 50, {"autographs": 1})
    assert rank_score(100, one, 50, {"numbered cards": 1}) < rank_score(140, two, 50, {"numbered cards": 1})
    assert counts_in(box_model(numbered, fmt), HitRule(), numbered_to=50).numbered == 0


def comps(fade: Fade, rng: np.random.Generator, cards: int = 40, noise: float = 0.15) -> list[PriceRow]:
    released, rows = date(2026, 3, 1), []
    for card in range(cards):
        level = float(np.exp(rng.normal(2, 1)))
        for week in rng.uniform(0, 20, 6):
            odd = 4.0 if rng.random() < 0.05 else 1.0
            amount = level * float(fade.share(week)) * float(np.exp(rng.normal(0, noise))) * odd
            rows.append(PriceRow("base", str(card), "", "", amount, released + timedelta(days=int(7 * week))))
    return rows


def test_fade_is_found_again_from_noisy_sales() -> None:
    """Forty cards, six sales each, one in twenty wild: the saving of a wait is found to within a tenth."""
    true, found = Fade(3.0, 0.55), []
    for seed in range(5):
        fitted = fit_fade(comps(true, np.random.default_rng(seed)), date(2026, 3, 1))
        assert fitted is not None
        found.append(fitted.saving(0, 4))
    assert np.median(found) == pytest.approx(true.saving(0, 4), abs=0.05)


def test_too_few_prices_show_no_fade() -> None:
    rows = comps(Fade(3, 0.5), np.random.default_rng(1), cards=3)
    assert fit_fade(rows, date(2026, 3, 1)) is None
    assert fit_fade(rows, None) is None


def test_fade_by_hand() -> None:
    """Half of the fade after a half-life: 1 → 0.8 with a floor of 0.6; waiting from there to the floor saves a quarter."""
    fade = Fade(2.0, 0.6)
    assert fade.share(2.0) == pytest.approx(0.8)
    assert fade.saving(2.0, 1e6) == pytest.approx(0.25)
    assert wait_saves(40.0, fade, 2.0, 1e6).value == pytest.approx(10.0)


def test_singles_and_holding_by_hand() -> None:
    """118 buys two singles at 50 + 1.50; 100 kept three years must reach (80 + 6 + 2) ÷ 0.88 = 100 to break even."""
    assert singles_outright(50, 1.5, 118).value == 2
    terms = Holding(years=3, yearly_cost=2, fee=0.12, each=2)
    assert growth_needed(100, 80, terms).value == pytest.approx(0.0, abs=1e-12)
    assert growth_needed(100, 168, terms).value == pytest.approx(2 ** (1 / 3) - 1)


def test_walk_tells_the_ways_by_their_dear_cards() -> None:
    """Exactly one signed card at 50 or 5: breaking even at 40 takes the dear one, half of the time."""
    prices = [row("signed", 5.0), *(row("signed", 50.0, f"S{n}") for n in range(1, 21))]
    product = checklist(OddsRow("hobby", "signed", per_box="1", promise="exact"))
    box = priced_box(box_model(product, product.formats[0]), PriceBook(prices, DAY))
    found = walk(box, sample_boxes(box, 4000, np.random.default_rng(3)), 40.0)
    assert [way.cards for way in found.ways] == [(("Signed", 1),)]
    assert found.ways[0].share == pytest.approx(0.5, abs=0.03)
    assert found.ways[0].least == 50
    assert walk(box, sample_boxes(box, 500, np.random.default_rng(3)), 60.0).ways == ()


@pytest.mark.parametrize("name", BOXES)
def test_walk_shares_add_up_to_the_chance_to_break_even(name: str) -> None:
    box = priced(BOXES[name])
    found = walk(box, sample_boxes(box, 6000, np.random.default_rng(11)), 80.0, most=10_000, look=10_000)
    exact = value_curve(box, 80.0).chance_at_least(80.0)
    assert sum(way.share for way in found.ways) == pytest.approx(exact, abs=0.025)


def test_prices_that_matter_are_ranked_by_what_they_could_move() -> None:
    """The scarce signed cards without a price matter more than the inserts; typing them settles it."""
    odds = (
        OddsRow("hobby", "signed", packs_per_hit="12"),
        OddsRow("hobby", "insert", packs_per_hit="6"),
        OddsRow("hobby", "worn", packs_per_hit="30"),
        OddsRow("hobby", "base", "copper", packs_per_hit="10"),
        OddsRow("hobby", "base", "lone", packs_per_hit="900"),
    )
    product = checklist(*odds)
    known = [row("base", 0.05), row("insert", 1.0), row("base", 6.0, "", "copper"), row("base", 250.0, "", "lone")]
    gaps = price_gaps(priced_box(box_model(product, product.formats[0]), PriceBook(known, DAY)))
    assert [gap.line.line.section.key for gap in gaps] == ["signed", "worn"]
    assert gaps[0].swing > gaps[1].swing > 0
    settled = [*known, row("signed", 8.0), row("worn", 4.0)]
    assert price_gaps(priced_box(box_model(product, product.formats[0]), PriceBook(settled, DAY))) == ()


def test_scorecards_propose_and_are_overruled() -> None:
    """12 is borderline, 15 and up a clear yes (common practice, no source)."""
    evidence = Evidence(median_share=0.85, wanted=0.3, hits_per_name=None, gem_share=0.5, floor=0.8)
    investor, reviewer = scorecards(evidence, {})
    assert [row.score for row in investor.criteria] == [4, 4, 4, 4]
    assert (investor.total, investor.band) == (16, "a clear yes")
    assert (reviewer.total, reviewer.band) == (None, "not all scored yet")
    overruled, _ = scorecards(evidence, {"price": 0})
    assert (overruled.total, overruled.band) == (12, "borderline")
    _, full = scorecards(evidence, {"presentation": 2, "pack selection": 2, "experience": 2})
    assert (full.total, full.band) == (10, "no")


def test_without_a_price_no_score_is_proposed_from_value_and_the_other_schools_stand_in() -> None:
    """Nothing priced is not a worthless box: the price is held against the list, the market, a usual pack."""
    blank = Evidence(median_share=None, wanted=None, hits_per_name=None, gem_share=None, floor=None)
    investor, reviewer = scorecards(blank, {})
    assert (investor.criteria[0].proposed, investor.criteria[0].why) == (None, "no card has a price")
    assert reviewer.criteria[0].proposed is None
    cheap = replace(blank, ratios={"list": 120 / 100, "pack": 0.5})
    assert [(c.criteria[0].proposed, c.criteria[0].why) for c in scorecards(cheap, {})] == [
        (4, "it costs 83% of the list price"),
    ] * 2
    by_pack, _ = scorecards(cheap, {}, price_by="pack")
    assert (by_pack.criteria[0].proposed, by_pack.criteria[0].why) == (
        0,
        "it costs 200% of a pack as I usually buy it",
    )
    unknown, _ = scorecards(cheap, {}, price_by="market")
    assert (unknown.criteria[0].proposed, unknown.criteria[0].why) == (None, "no sale of a sealed box is known")
    assert [one.school for one in unknown.criteria[0].schools] == ["value", "list", "market", "pack"]


def test_the_share_of_cards_without_a_price_stands_beside_the_score() -> None:
    half = Evidence(0.85, None, None, None, None, unpriced=0.4)
    assert scorecards(half, {})[0].criteria[0].why == (
        "the median box gives 85% of its cost (40% of its cards have no price)"
    )


def test_seasons_say_what_changed() -> None:
    """A dearer box and a cheaper card: 250 ÷ 144 = 1.74 after 150 ÷ 80 = 1.88 (common practice, no source)."""
    old = Format("hobby", "Hobby", 10, 8, 12, Money(15_000, "EUR"))
    new = Format("hobby", "Hobby", 12, 12, 12, Money(25_000, "EUR"))
    copper = Parallel("copper", "Copper", "base", run_text="99")
    before = checklist(OddsRow("hobby", "signed", packs_per_hit="10"), fmt=old, parallels=(copper,))
    now = checklist(
        OddsRow("hobby", "signed", packs_per_hit="6"),
        fmt=new,
        base=250,
        parallels=(Parallel("copper", "Copper", "base", run_text="75"),),
    )
    changes = {change.what: change for change in season_changes(before, now, old, new)}
    assert (changes["price a card"].was, changes["price a card"].now, changes["price a card"].better) == (
        "1.88",
        "1.74",
        True,
    )
    assert changes["price at issue"].better is False
    assert (changes["Copper base"].was, changes["Copper base"].now, changes["Copper base"].better) == (
        "/99",
        "/75",
        True,
    )
    assert (changes["Base"].was, changes["Base"].now) == ("200 cards", "250 cards")
    assert changes["signed, a box"].better is True
    gone = Product(**{**{f: getattr(now, f) for f in now.__dataclass_fields__}, "parallels": ()})
    assert any(change.now == "dropped" for change in season_changes(before, gone, old, new))


def test_sale_costs_by_hand() -> None:
    """30 at 12 %: 26.40 less 0.30, 1.20, 0.40 and six minutes at 20 an hour leaves 22.50; 1.50 goes to bulk."""
    costs = SaleCosts(0.12, 0.3, 1.2, 0.4, 6, 20, 0.5, 0.01)
    assert costs.net(30) == pytest.approx(22.5)
    assert costs.nets(np.array([30.0, 1.5])) == pytest.approx([22.5, 0.01])


@pytest.mark.parametrize(
    ("case", "choice"),
    [
        (Case(100, 130, 105, 0.55, 0.2), Choice.RIP),
        (Case(100, 90, 60, 0.2, 0.3, wanted=0.05, singles=80, even_boxes=14), Choice.SINGLES),
        (Case(100, 90, 60, 0.2, 0.3, growth_needed=0.03, growth_expected=0.05), Choice.HOLD),
        (Case(100, 90, 60, 0.2, 0.3, growth_needed=0.08, growth_expected=0.05), Choice.LEAVE),
        (Case(100, 140, 40, 0.1, 0.8), Choice.LEAVE),
    ],
)
def test_verdict_before_buying(case: Case, choice: Choice) -> None:
    found = decide(case)
    assert found.choice is choice
    assert 1 <= len(found.reasons) <= 3
    assert all(reason.for_ripping == (choice is Choice.RIP) for reason in found.reasons)
    assert [reason.strength for reason in found.reasons] == sorted((r.strength for r in found.reasons), reverse=True)
