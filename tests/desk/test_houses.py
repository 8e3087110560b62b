"""Grading houses at the desk: their own limits and bias, the gem share before a box is open, sealed boxes as routes."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest
from flask.testing import FlaskClient
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Format, Kind, Product, Section
from botin.core.grading.grades import Grader, Inspection
from botin.desk.buying.stillsealed import sealed_ways
from botin.desk.fees import GRADING, save_fees
from botin.desk.flags.board import choose
from botin.desk.flags.judging import judging, kept_inputs
from botin.desk.grading.counts import ENOUGH, gem_terms, qualities
from botin.desk.pricing.prices import type_comps
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.catalog.products import save_product
from botin.store.flags.board import BoardFilter, flag_board, own_routes, waiting
from botin.store.models import BoxRecord, CardRecord
from botin.store.models_copies import FlagRecord, GradeCountRecord, ReturnedRecord

TODAY = date(2026, 11, 24)


def test_a_house_caps_by_its_own_limits(session: Session, bench: Workbench) -> None:
    """57/43 in front: no 10 at House A, whose limit is 55/45; a 10 is open at House B (58/42)."""
    j = judging(session, bench, bench.record(session, 1))
    card = j.product.cards_by_section["signed"][0]
    look = Inspection(corners=10, edges=10, surface=10, front=57, back=60)
    assert set(j.houses) == {"House A", "House B"}
    chances = j.chances(card, look)
    assert chances["House A"][10.0] == 0.0
    assert chances["House B"][10.0] > 0.3
    assert sum(chances["House B"].values()) == pytest.approx(1.0)


def test_a_house_learns_from_its_own_returns_only(session: Session, bench: Workbench) -> None:
    j = judging(session, bench, bench.record(session, 1))
    assert j.houses["House A"][0].returns == 10
    assert j.houses["House B"][0] == Grader()


def test_what_a_verdict_rests_on_is_made_once_until_it_changes(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 1)
    first = kept_inputs(session, bench, record)
    assert kept_inputs(session, bench, record) is first
    save_fees(session, GRADING, TODAY, {"tiers": "only; 30"})
    second = kept_inputs(session, bench, record)
    assert second is not first
    assert [tier.label for tier in second.terms.costs.tiers] == ["only"]
    session.execute(delete(ReturnedRecord))
    session.commit()
    assert kept_inputs(session, bench, record).grader.returns == 0


def test_the_gem_share_comes_from_the_counts_of_the_product(session: Session, bench: Workbench) -> None:
    """410 of 1,182 graded copies are 34.7 %; a product without counts has what the settings say."""
    record, settings = bench.record(session, 1), load_settings(session)
    found = gem_terms(session, bench, record, settings)
    assert found.counted == 410 + 530 + 190 + 40 + 12
    assert found.gem_chance == pytest.approx(410 / 1_182, abs=0.03)
    assert found.cost == pytest.approx(22 + 19 / 8)  # the cheapest tier for one card, and its share of the shipping
    other = gem_terms(session, bench, bench.record(session, 2), settings)
    assert (other.counted, other.gem_chance) == (0, settings.gem_chance_percent / 100)
    words = gem_terms(session, bench, record, replace(settings, top_grade="gem"))
    assert words.counted == 0
    session.add(GradeCountRecord(product_id=2, section="", grade_halves=20, count=ENOUGH - 1))
    session.commit()
    assert qualities(session, 2)[""].counted == ENOUGH - 1
    assert gem_terms(session, bench, bench.record(session, 2), settings).counted == 0


def test_the_scorecard_says_whose_gem_share_it_is(client: FlaskClient) -> None:
    assert "by 1,182 graded copies" in client.get("/buy/1?format=hobby&price=118").text
    assert "as you reckon" in client.get("/buy/2?format=jumbo&price=200").text


def test_sealed_boxes_are_routes_of_the_board(session: Session, bench: Workbench) -> None:
    rows = {(row.product_id, row.format_key): row for row in sealed_ways(session, bench)}
    sealed = session.scalars(select(BoxRecord).where(BoxRecord.state == "sealed")).all()
    assert sum(row.boxes for row in rows.values()) == len(sealed)
    mail = next(row for row in rows.values() if row.product == "Corner House Mail Box")
    assert (mail.sold, mail.go) == (None, "no sealed price")
    hobby = rows[(1, "hobby")]
    assert hobby.sold is not None
    assert hobby.go == ("sell sealed" if hobby.sold > hobby.ripped else "rip")
    type_comps(session, bench, bench.record(session, 1), "sealed hobby 900 910 905 900 905 910 900 905")
    again = next(row for row in sealed_ways(session, bench) if row.format_key == "hobby")
    assert again.go == "sell sealed"


def yen(session: Session, net: int) -> FlagRecord:
    """A version of a product whose currency has no minor unit, netting so many yen."""
    made = Product(
        "yen", "Yen product", formats=(Format("hobby", "Hobby", 10, 5, 12),), currency="JPY",
        sections=(Section("base", "Base", Kind.BASE),), cards=(Card("base", "1", "Rider 1"),),
    )  # fmt: skip
    record = save_product(session, made)
    session.flush()
    card = session.scalars(select(CardRecord).order_by(CardRecord.id.desc()).limit(1)).one()
    row = FlagRecord(
        product_id=record.id, card_id=card.id, parallel="", copies=2, go="sell now", net=net,
        made_at=session.scalars(select(FlagRecord.made_at).limit(1)).one(),
    )  # fmt: skip
    session.add(row)
    session.commit()
    return row


def test_the_board_counts_each_currency_by_its_own_units(session: Session, client: FlaskClient) -> None:
    """ISO 4217: 1,200 yen are 1,200 minor units; “nets at least 500” means 500 yen, and 500.00 euro."""
    row = yen(session, 1_200)
    shown = flag_board(session, BoardFilter(least=500.0)).rows
    assert row.id in {one.id for one, *_ in shown}
    assert all(one.net >= (500 if code == "JPY" else 50_000) for one, _, _, code, _ in shown)
    totals = {(word, code): net for word, code, _, _, net in flag_board(session, BoardFilter()).totals}
    assert totals[("sell now", "JPY")] == 2_400
    assert ("sell now", "EUR") in totals
    assert "¥2,400" in client.get("/flags/").text


def test_what_the_user_chose_no_longer_waits(session: Session) -> None:
    before = waiting(session)
    row = session.scalars(select(FlagRecord).where(FlagRecord.go == "look closer").limit(1)).one()
    choose(session, [row.id], "keep", TODAY)
    assert waiting(session) in (before - 1, before)  # a version that is all out for grading did not wait
    assert own_routes(session, [row.card_id])[(row.card_id, row.parallel)] == "keep"
    choose(session, [row.id], "", TODAY)
    assert waiting(session) == before
    assert own_routes(session, [row.card_id]) == {}
