"""Was the flag right? Sold cards against today’s prices, kept ones against selling them on the day the flag said keep."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select

from botin.desk.flags.board import choose
from botin.desk.flags.everything import judge_all
from botin.desk.insight.flagresults import kept_cards, sold_by_flag
from botin.desk.insight.salesresults import sales_results
from botin.desk.pricing.prices import type_comps
from botin.desk.selling import changes, roads
from botin.desk.selling.selling import Sold, note_sale
from botin.desk.selling.simulated import forecast_of
from botin.desk.selling.whattosell import to_sell, worth_of
from botin.store.models_copies import FlagRecord, KeptRecord
from botin.store.selling.sales import copies_with_cards
from tests.builders import DAY, Home, eur
from tests.desk.test_selling import to


def with_prices(home: Home) -> list[int]:
    """Three cards, the first one dear; their flags worked out."""
    copies = [copy.id for copy in home.copies(home.opened("1 2 3"))]
    type_comps(home.session, home.bench, home.record, "1 40 42 41 39\n2 8 8 8.5\n3 6 6 6.2")
    judge_all(home.session, home.bench)
    return copies


def sell(home: Home, copy: int, price: int) -> int:
    values = worth_of(home.session, home.bench, list(copies_with_cards(home.session, [copy]).values()))
    told = forecast_of(home.session, home.bench, values, eur(price), "stall")
    sold = Sold("stall", "Eva", DAY, eur(price), eur(0), eur(0), (copy,), "x", weights=values, forecast=told)
    return note_sale(home.session, home.bench, f"s{copy}", sold).id


def test_sell_now_is_held_against_what_the_card_would_leave_today(built: Home) -> None:
    dear, *_ = with_prices(built)
    flagged = to_sell(built.session, built.bench)
    assert flagged[0].sold.copy.id == dear
    assert flagged[0].sure > 0.8
    sale = sell(built, dear, 4_000)
    found = sold_by_flag(built.session, built.bench, sales_results(built.session).rows)
    assert (len(found.rows), found.right, round(found.said, 2)) == (1, 1, round(flagged[0].sure, 2))
    type_comps(built.session, built.bench, built.record, "1 90 92 91 90 95 93 94 92")
    later = sold_by_flag(built.session, built.bench, sales_results(built.session).rows)
    assert (later.right, later.rows[0].left) == (0, 4_000)
    assert later.rows[0].today > 4_000
    to(built, sale, *(stop for stop in roads.road(sales_results(built.session).rows[0].page.record)[1:4]))
    changes.note_change(built.session, built.bench, "r", sale, changes.Change(changes.RETURN, DAY, eur(4_000)))
    assert not sold_by_flag(built.session, built.bench, sales_results(built.session).rows).rows


def test_keeping_is_held_against_selling_on_the_day_the_flag_said_so(built: Home) -> None:
    with_prices(built)
    v = FlagRecord
    flag = built.session.scalars(select(v).where(v.go == "sell now").order_by(v.net.desc())).first()
    assert flag is not None
    choose(built.session, [flag.id], "keep", DAY)
    then = flag.net_raw
    (kept,) = kept_cards(built.session)
    assert (kept.go, kept.since, kept.then, kept.brought) == ("keep", DAY, then, 0)
    type_comps(built.session, built.bench, built.record, "1 90 92 91 90 95 93 94 92")
    judge_all(built.session, built.bench)
    (kept,) = kept_cards(built.session)
    assert kept.brought is not None
    assert kept.brought > 2_000
    flag = built.session.scalars(select(v).where(v.chosen == "keep")).one()
    choose(built.session, [flag.id], "", DAY + timedelta(30))
    (over,) = kept_cards(built.session)
    assert (over.until, over.then) == (DAY + timedelta(30), then)
    assert over.brought == kept.brought
    assert len(built.session.scalars(select(KeptRecord)).all()) == 1


def test_what_is_kept_and_gone_says_nothing_of_what_it_brought(built: Home) -> None:
    dear, *_ = with_prices(built)
    v = FlagRecord
    flag = built.session.scalars(select(v).where(v.go == "sell now").order_by(v.net.desc())).first()
    assert flag is not None
    choose(built.session, [flag.id], "keep", DAY)
    sell(built, dear, 4_000)
    judge_all(built.session, built.bench)
    (over,) = kept_cards(built.session)
    assert (over.until is not None, over.now, over.brought) == (True, None, None)
