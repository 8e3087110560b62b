"""Recaps beyond one box: a purchase, every card, what it was worth at opening, and the print run that follows."""

from __future__ import annotations

from datetime import date

import pytest
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.flags.ways import Go
from botin.core.odds.printrun import FormatRun, Interval, PrintRun
from botin.core.pricing.prices import PriceRow
from botin.desk.boxlogs import BoxLog
from botin.desk.buying.prepared import Valuation, prepared
from botin.desk.catalog.productpage import printed_run
from botin.desk.fees import grading_fees
from botin.desk.flags.pricepage import price_page
from botin.desk.grading.moves import send
from botin.desk.insight.aftermath import period
from botin.desk.insight.cards import at_opening, box_cards
from botin.desk.insight.recap import box_recap, pulled_copies
from botin.desk.odds.learning import FormatLearned, learned, measured_lines, run_follows
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.grading.orders import graded_since
from botin.store.models import BoxRecord, PullRecord
from botin.store.models_books import PostingRecord, TransactionRecord
from botin.store.models_copies import FlagRecord
from botin.store.opening.boxes import get_box, pulls_of
from botin.store.opening.closed import closed_boxes, not_closed
from botin.store.pricing.prices import add_prices

TODAY = date(2026, 11, 24)


def test_a_purchase_is_what_was_bought_on_one_day(session: Session, bench: Workbench, client: FlaskClient) -> None:
    day = session.scalars(select(BoxRecord.bought_on).where(BoxRecord.label == "fair, table 9")).first()
    assert day is not None
    found = period(session, bench, "fair", closed_boxes(session, bought_on=day))
    assert len(found.rows) == 2
    (total,) = found.sums
    assert (total.currency, total.cost) == (found.rows[0].currency, pytest.approx(162.0))
    assert total.value == pytest.approx(sum(row.box.value for row in found.rows))
    assert total.result == pytest.approx(total.here + total.brought - total.cost)
    assert found.luck is not None
    page = client.get(f"/recap/purchase/{day.isoformat()}").text
    assert "2 boxes" in page
    assert client.get("/recap/purchase/someday").status_code == 404
    half = session.scalars(select(BoxRecord).where(BoxRecord.state == "open")).one()
    assert [box.id for box in not_closed(session, half.bought_on)] == [half.id]


def booked_fees(session: Session, copies: list[int]) -> list[int]:
    """What grading added to the cost of copies."""
    p, t = PostingRecord, TransactionRecord
    rows = select(p.minor).join(t, t.id == p.transaction_id).where(t.kind == "grading", p.copy_id.in_(copies))
    return list(session.scalars(rows.where(p.account.in_(["cards", "graded and out"]))))


def test_every_card_of_a_box_with_worth_cost_and_route(
    session: Session, bench: Workbench, client: FlaskClient
) -> None:
    found, whole = box_cards(session, bench, 1), box_recap(session, bench, 1)
    assert len(found.rows) == whole.recap.cards
    prices = [one.price.amount for one in found.rows if one.price]
    assert prices == sorted(prices, reverse=True)
    raw = [one.estimate.amount for one in whole.recap.best]
    graded = {one.row.id: one.price.amount for one in found.rows if one.price and one.grade}
    as_raw = sum(one.estimate.amount for one in whole.recap.best if one.pulled.id in graded)
    assert sum(prices) - sum(graded.values()) + as_raw == pytest.approx(whole.recap.value.value) == sum(raw)
    paid = found.box.price_minor + found.box.shipping_minor + found.box.tax_minor
    fees = sum(fee for fee in booked_fees(session, [one.row.copy_id for one in found.rows]))
    assert sum(one.cost.minor for one in found.rows if one.cost) == paid + fees
    assert {one.go for one in found.rows} <= {go.value for go in Go}
    page = client.get("/recap/1/cards").text
    assert page.count("<tr>") == len(found.rows) + 1
    assert "Every card with its flag" in client.get("/recap/1").text


def test_my_own_route_stands_on_the_recap(session: Session, bench: Workbench, client: FlaskClient) -> None:
    at, best = next((at, one) for at, one in enumerate(box_cards(session, bench, 1).rows) if not one.row.grade)
    row = session.scalars(
        select(FlagRecord).where(FlagRecord.card_id == best.row.card_id, FlagRecord.parallel == best.row.parallel)
    ).one()
    row.chosen = "bulk"
    session.commit()
    assert box_cards(session, bench, 1).rows[at].go == "bulk"
    assert "yours; worked out:" in client.get("/recap/1").text


def test_a_card_has_one_price_on_every_screen(session: Session, bench: Workbench) -> None:
    """Recap and price page name the same raw price, whatever it rests on."""
    for one in [one for one in box_cards(session, bench, 1).rows if not one.row.grade][::9]:
        assert one.price is not None
        assert one.row.card_id is not None
        page = price_page(session, bench, one.row.card_id, one.row.parallel)
        assert one.price.amount == (round(page.guess.mean, 2) if page.guess.known else 0)


def test_worth_at_opening_by_the_sales_until_then(session: Session, bench: Workbench) -> None:
    box = get_box(session, 1)
    record = box.format.product
    pulled = pulled_copies(bench.product(session, record), pulls_of(session, 1))
    before = at_opening(session, bench, box, pulled)
    assert before is not None
    assert box.closed_at is not None
    assert before.day == box.closed_at.date()
    dear = max(pulled, key=lambda copy: copy.run is not None)
    add_prices(session, record, [PriceRow(dear.card.section, dear.card.number, dear.parallel, "", 9_000.0, TODAY)])
    session.commit()
    after = at_opening(session, bench, box, pulled)
    assert after is not None
    if after.later == before.later:  # it had sold before, so that a later sale counts for nothing then
        assert after.value == pytest.approx(before.value, rel=1e-6)
    half = session.scalars(select(BoxRecord).where(BoxRecord.state == "open")).one()
    assert at_opening(session, bench, half, []) is None


def test_copies_sent_for_grading_show_on_the_recap(session: Session, bench: Workbench) -> None:
    pull = session.scalars(select(PullRecord).where(PullRecord.box_id == 2, PullRecord.card_id.is_not(None))).first()
    assert pull is not None
    tier = grading_fees(session, TODAY).costs.tiers[0]
    before = graded_since(session, 2)[0]
    same = select(PullRecord.id).where(PullRecord.card_id == pull.card_id, PullRecord.parallel == pull.parallel)
    count = len(session.scalars(same).all())
    send(session, bench, "r1", tier, TODAY, [(pull.card_id or 0, pull.parallel)] * count)
    assert graded_since(session, 2)[0] > before


def test_the_buy_desk_reckons_with_what_the_boxes_held(
    session: Session, bench: Workbench, client: FlaskClient
) -> None:
    """Five closed hobby boxes are enough, two blasters are not."""
    record = bench.record(session, 1)
    lines = measured_lines(session, bench, record, "hobby")
    assert lines
    assert measured_lines(session, bench, record, "blaster") == {}
    settings = load_settings(session)
    printed = prepared(session, bench, record, Valuation("hobby"), settings)
    measured = prepared(session, bench, record, Valuation("hobby", measured=True), settings)
    assert measured is prepared(session, bench, record, Valuation("hobby", measured=True), settings)
    for old, new in zip(printed.box.model.lines, measured.box.model.lines, strict=True):
        if new.key in lines and lines[new.key].contradicts and not new.promise and old.law is not None:
            assert new.expected == pytest.approx(lines[new.key].average.mean)
        elif not new.is_rest:
            assert new.expected == pytest.approx(old.expected)
    page = client.get("/buy/1?format=hobby&price=118").text
    assert "mended by my 5 boxes" in page
    assert "5 logged boxes " in page
    assert "5 logged boxes" not in client.get("/buy/1?format=hobby&price=118&odds=printed").text
    assert "mended by" not in client.get("/buy/1?format=blaster&price=25").text


def follows(seen: int, boxes: int) -> float | None:
    """What follows when a line printed at four a box came so often."""
    from botin.core.catalog.product import OddsRow
    from botin.core.insight.learning import Dispersion, Seeding, per_box
    from botin.core.odds.lines import box_model
    from botin.desk.odds.learning import LineLearned
    from tests.core.small import product

    made = product(OddsRow("hobby", "base", "copper", per_box="4", promise="average"))
    model = box_model(made, made.formats[0])
    line = next(line for line in model.lines if not line.is_rest)
    row = LineLearned(line, seen, per_box(seen, boxes, 4.0), Dispersion(Seeding.TOO_FEW, 1, 1, seen, boxes))
    log = BoxLog(1, "", "hobby", None, (), complete=True, packs=24)
    one = FormatLearned(made.formats[0], (log,) * boxes, (row,), (), None, (), 0, (), None)  # type: ignore[arg-type]
    interval = Interval(24_000.0, 20_000.0, 30_000.0)
    run = PrintRun(
        {"hobby": FormatRun(made.formats[0], interval, separable=True)},
        0.0,
        (),
        (),
        (),
    )
    found = run_follows(one, run)
    return None if found is None else found.ratio


def test_five_a_box_and_not_four_is_a_run_a_fifth_smaller() -> None:
    """The trade's check: 4 ÷ 5 = 0.8 (common practice, no source)."""
    ratio = follows(5_000, 1_000)
    assert ratio is not None
    assert 1 - 1 / ratio == pytest.approx(0.2, abs=0.001)


def test_what_follows_for_the_print_run_of_the_demo(session: Session, bench: Workbench, client: FlaskClient) -> None:
    record = bench.record(session, 1)
    run = printed_run(session, bench, record)
    found = [run_follows(one, run) for one in learned(session, bench, record)]
    assert all(one is None or one.low <= one.ratio <= one.high for one in found)
    assert "Numbered cards came" in client.get("/recap/product/1").text
