"""The buy desk behind its page: what is kept ready, the alternatives, the measured repeats, decisions and what happened."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.buying.boxcosts import Price
from botin.core.buying.verdict import Choice
from botin.core.errors import NotFoundError
from botin.core.money import Money
from botin.core.pricing.prices import PriceRow
from botin.desk.books.budget import month_of
from botin.desk.buying.answer import buy_page, read_chase
from botin.desk.buying.decisions import decisions, mark_seen, save_decision
from botin.desk.buying.myboxes import my_boxes
from botin.desk.buying.prepared import Valuation, prepared, repeats_of
from botin.desk.buying.question import Question
from botin.desk.insight.recap import box_recap
from botin.desk.odds.learning import measured_repeats, usual_slots
from botin.desk.pricing.fading import product_fade, weeks_since
from botin.desk.settings import Settings, load_settings, save_settings
from botin.desk.workbench import Workbench
from botin.store.buying import seen_list
from botin.store.models import BoxRecord
from botin.store.models_copies import DecisionRecord
from botin.store.pricing.prices import add_prices

TODAY = date(2026, 11, 24)
ASKED = Question("hobby", Price(118.0, 6.9))


def test_the_page_answers_everything_from_one_model(session: Session, bench: Workbench) -> None:
    page = buy_page(session, bench, bench.record(session, 1), ASKED)
    assert page.answers.cost.value == pytest.approx(124.9)
    assert page.answers.pays.value == pytest.approx(page.evidence.pays)
    assert sum(share.mean for share in page.shares) == pytest.approx(page.curve.mean)
    assert page.case is not None
    assert page.case.mean == pytest.approx(12 * page.curve.mean)
    assert page.several.mean == pytest.approx(3 * page.curve.mean)
    assert sum(way.share for way in page.walk.ways) <= page.evidence.pays + 0.05
    assert {column.format.key for column in page.columns} == {"hobby", "blaster"}
    assert page.season is not None
    assert page.season.name == "Banked 2025"
    assert any(change.what == "price at issue" for change in page.season.changes)
    assert page.month.spent.minor > 0


def test_a_dearer_box_pays_less_often_and_the_curve_is_kept(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 1)
    pages = [
        buy_page(session, bench, record, replace(ASKED, price=Price(price))) for price in (20.0, 60.0, 100.0, 140.0)
    ]
    chances = [page.evidence.pays for page in pages]
    assert chances == sorted(chances, reverse=True)
    settings = load_settings(session)
    ready = prepared(session, bench, record, Valuation("hobby"), settings)
    assert ready is prepared(session, bench, record, Valuation("hobby"), settings)
    assert ready.curve(100.0) is ready.curve(110.0)


def test_net_is_less_and_grading_is_its_own_answer(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 1)
    gross, net = (buy_page(session, bench, record, replace(ASKED, net=net)) for net in (False, True))
    assert net.curve.mean < gross.curve.mean
    assert net.answers.net.value == net.answers.pays.value == gross.answers.net.value
    assert gross.answers.net.value <= min(gross.answers.pays.value, gross.answers.graded.value)


def test_wishes_are_read_and_priced_as_singles(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 1)
    product = bench.product(session, record)
    name = product.cards_by_section["signed"][0].name
    found = read_chase(product, ["SB-1", name, "base:12:copper", "Nobody"])
    assert [bool(versions) for _, versions, _ in found] == [True, True, True, False]
    page = buy_page(session, bench, record, replace(ASKED, chase=("SB-1", "SB-2")))
    assert {row.label for row in page.chances} >= {"SB-1", "SB-2", "any of these", "all of these", "any hit"}
    assert page.ways.together == pytest.approx(
        sum(single.estimate.amount + page.settings.single_postage for single in page.ways.singles)
    )
    one = page.ways.singles[0]
    assert one.copies.value == int(page.answers.cost.value / (one.estimate.amount + 1.5))  # type: ignore[operator]


def test_new_prices_change_the_answer_at_once(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 1)
    before = buy_page(session, bench, record, ASKED).curve.mean
    add_prices(session, record, [PriceRow("signed", "SB-1", "", "", 5_000.0, TODAY)] * 9)
    session.commit()
    assert buy_page(session, bench, bench.record(session, 1), ASKED).curve.mean > before + 50


def test_measured_repeats_and_slots_come_from_the_logs(session: Session, bench: Workbench) -> None:
    assert measured_repeats(session, bench, bench.record(session, 1), "hobby") is not None
    assert measured_repeats(session, bench, bench.record(session, 4), "wax") is None
    assert repeats_of("0.5").factor == 0.5
    assert repeats_of("none").factor == 0.0
    assert len(usual_slots(session, bench, bench.record(session, 1), "hobby")) == 8
    assert usual_slots(session, bench, bench.record(session, 4), "wax") == ()


def test_the_fade_of_the_demo_is_found_in_its_prices(session: Session, bench: Workbench) -> None:
    fade = product_fade(session, bench, bench.record(session, 1), load_settings(session))
    assert fade.prices > 100
    assert 0.3 < fade.floor < 0.95
    assert product_fade(session, bench, bench.record(session, 6), Settings()).prices == 0
    assert weeks_since(TODAY - timedelta(21), TODAY) == 3
    assert weeks_since(None, TODAY) == weeks_since(TODAY + timedelta(5), TODAY) == 0


def test_my_boxes_are_worth_what_their_recaps_say(session: Session, bench: Workbench) -> None:
    for box in my_boxes(session, bench, bench.record(session, 1), "hobby"):
        assert box.value == pytest.approx(box_recap(session, bench, box.id).recap.value.value)


def test_a_decision_is_held_against_boxes_bought_later(session: Session, bench: Workbench) -> None:
    page = buy_page(session, bench, bench.record(session, 1), ASKED)
    made = save_decision(session, bench, page, "k", Choice.RIP, "for the ride")
    assert save_decision(session, bench, page, "k", Choice.LEAVE, "again").id == made.id
    with pytest.raises(NotFoundError):
        save_decision(session, bench, page, "k2", "perhaps", "")
    assert decisions(session, bench)[0].happened.boxes == ()
    session.get_one(DecisionRecord, made.id).made_on = TODAY - timedelta(80)
    session.commit()
    found = decisions(session, bench, 1)[0]
    bought = session.scalars(
        select(BoxRecord).where(BoxRecord.bought_on >= TODAY - timedelta(80), BoxRecord.state == "closed")
    )
    expected = {box.id for box in bought if box.format.key == "hobby" and box.format.product_id == 1}
    assert {box.id for box in found.happened.boxes} == expected
    assert found.happened.result == pytest.approx(sum(box.result for box in found.happened.boxes))
    assert found.figures["median"] == page.evidence.median


def test_only_numbered_copies_run_out(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 1)
    mark_seen(session, bench, record, ("base", "12", "sole"), 1, "seen at a fair")
    mark_seen(session, bench, record, ("base", "12", "sole"), 1, "again")
    assert [(row.number, row.serial) for row in seen_list(session, record)] == [("12", 1)]
    with pytest.raises(NotFoundError):
        mark_seen(session, bench, record, ("base", "12", "copper"), 3, "unnumbered")
    page = buy_page(session, bench, record, replace(ASKED, chase=("base:12:sole", "base:13:sole")))
    gone, there = (row.found for row in page.chances[:2])
    assert gone is not None
    assert there is not None
    assert gone.box == 0 < there.box


def test_the_month_adds_up_and_says_when_it_goes_over(session: Session, bench: Workbench) -> None:
    save_settings(session, replace(load_settings(session), rip_budget=400.0))
    month = month_of(session, TODAY, load_settings(session), "EUR")
    boxes = session.scalars(
        select(BoxRecord).where(BoxRecord.bought_on >= date(2026, 11, 1), BoxRecord.bought_on <= TODAY)
    )
    spent = sum(box.price_minor + box.shipping_minor + box.tax_minor for box in boxes)
    assert month.spent == Money(spent, "EUR")
    left = 40_000 - spent - month.singles.minor
    assert month.over(Money(left, "EUR")) is None
    assert month.over(Money(left + 1, "EUR")) == Money(1, "EUR")
    assert month.over(Money(10**6, "USD")) is None
    assert month_of(session, TODAY, Settings(), "EUR").over(Money(10**9, "EUR")) is None
