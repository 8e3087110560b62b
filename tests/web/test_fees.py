"""Fees, rates and files of prices over HTTP: versioned by their day, kept as typed, all or nothing."""

from __future__ import annotations

import io
import json
import re
import time
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.cli import books as books  # noqa: PLC0414  (registers its commands)
from botin.cli import cli
from botin.core.errors import UnreadableFileError
from botin.core.flags.ways import Go
from botin.core.money import Money
from botin.core.selling.costs import Channel
from botin.desk.fees import GRADING, SELLING, grading_fees, save_fees, selling_fees, standards
from botin.desk.flags.everything import is_stale, judge_all
from botin.desk.flags.pricepage import price_page
from botin.desk.pricing.files import import_prices
from botin.desk.pricing.rates import NoRateError, rate_on, save_rates
from botin.desk.settings import load_settings, save_settings
from botin.desk.workbench import Workbench
from botin.exchange.selling.fees import read_fees
from botin.exchange.selling.feestext import TermsError
from botin.store.fees import versions
from botin.store.models import PriceRecord
from botin.store.models_copies import ExchangeRateRecord, FlagRecord, TermsRecord

TODAY = date(2026, 11, 24)


def token(client: FlaskClient, path: str = "/fees/") -> str:
    found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', client.get(path).text)
    assert found
    return found[1]


def test_terms_are_versioned_by_their_day(session: Session) -> None:
    save_fees(session, GRADING, date(2026, 6, 20), {"tiers": "only; 30"}, {"shipping": 10.0})
    save_fees(session, GRADING, date(2026, 10, 1), {"tiers": "only; 35"})
    assert grading_fees(session, date(2020, 1, 1)).valid_from is None
    assert grading_fees(session, date(2026, 7, 1)).costs.tiers[0].fee == 30
    assert grading_fees(session, TODAY).costs.tiers[0].fee == 35
    assert list(versions(session, GRADING))[:2] == [date(2026, 10, 1), date(2026, 6, 20)]
    with pytest.raises(TermsError):
        save_fees(session, SELLING, TODAY, {"channels": "listing; 12", "postage_steps": "nothing"})
    assert session.scalar(select(func.count()).where(TermsRecord.valid_from == TODAY)) == 0


def test_selling_follows_from_the_settings_until_it_is_written_down(session: Session) -> None:
    before = selling_fees(session, date(2020, 1, 1))
    assert before.since is None
    assert before.costs.channels == ()
    assert before.tables["channels"] == [
        {"name": "usual", "fee": 0.12, "fixed": 0.3, "materials": 0.4, "minutes": 6.0}
    ]
    now = selling_fees(session, TODAY)
    assert [way.name for way in now.costs.channels] == ["open listing", "evening auction", "card table"]
    assert len(now.costs.steps) == 3
    assert set(standards(session, TODAY)) == {"", "House A", "House B"}


def test_a_table_is_kept_from_the_page_and_a_bad_one_handed_back(client: FlaskClient, session: Session) -> None:
    fields = {
        "csrf_token": token(client),
        "channels": "fair; 5; 1",
        "postage_steps": "; 2",
        "valid_from": "2026-11-20",
    }
    bad = client.post("/fees/selling", data={**fields, "channels": "fair; much"})
    assert bad.status_code == 422
    assert "“much” is no number" in bad.text
    assert ">fair; much</textarea>" in bad.text
    assert client.post("/fees/selling", data=fields).status_code == 303
    page = client.get("/fees/")
    assert "In force since 20 Nov 2026" in page.text
    assert "open listing" in client.get("/fees/?on=2026-11-19").text
    assert client.post("/fees/grading", data={**fields, "tiers": "a; 3", "shipping": "x"}).status_code == 422
    assert client.post("/fees/limits", data={**fields, "limits": "10; 20; 30"}).status_code == 422
    assert client.post("/fees/nothing", data=fields).status_code == 422
    assert "nets" in client.get("/prices/card/380?finish=slate").text


def cells(page: str, name: str) -> dict[str, str]:
    """What stands in the cells of a table of the page."""
    found = re.findall(rf'<input name="({name}-[^"]+)"[^>]*value="([^"]*)"', page)
    return {key: value for key, value in found if value}


def test_a_table_is_edited_cell_by_cell_and_what_is_wrong_is_named_by_its_row(
    client: FlaskClient, session: Session
) -> None:
    tiers = cells(client.get("/fees/").text, "tiers")
    assert {"House A", "House B"} <= set(tiers.values())
    before = [replace(tier) for tier in grading_fees(session, TODAY).costs.tiers]
    fields = {
        "csrf_token": token(client),
        "valid_from": TODAY.isoformat(),
        "shipping": "19",
        "together": "8",
        **tiers,
    }
    wrong = client.post("/fees/grading", data={**fields, "tiers-1-fee": "dear"})
    assert wrong.status_code == 422
    assert "Line 2: “dear” is no number" in wrong.text
    assert cells(wrong.text, "tiers")["tiers-1-fee"] == "dear", "what was typed is kept"
    assert client.post("/fees/grading", data=fields).status_code == 303
    session.expire_all()
    assert [replace(tier) for tier in grading_fees(session, TODAY).costs.tiers] == before, "sent as it stood"
    more = {
        **fields,
        "tiers-0-fee": "33.50",
        "tiers-9-name": "Overnight",
        "tiers-9-fee": "99",
        "tiers-9-member": "yes",
    }
    assert client.post("/fees/grading", data=more).status_code == 303
    session.expire_all()
    now = grading_fees(session, TODAY).costs.tiers
    assert (now[0].fee, now[-1].name, now[-1].fee, now[-1].member, now[-1].house) == (
        33.5,
        "Overnight",
        99.0,
        True,
        "",
    )


@pytest.mark.parametrize(
    ("kind", "more", "words"),
    [
        (
            "grading",
            {"tiers-0-name": "A", "tiers-0-fee": "3", "tiers-1-name": "a", "tiers-1-fee": "4"},
            "stands twice",
        ),
        ("grading", {"tiers-0-name": "a", "tiers-0-fee": "3", "tiers-0-least": "2.7"}, "no whole number"),
        ("grading", {"tiers-0-name": "a", "tiers-0-fee": "3", "together": "0"}, "whole number from 1"),
        ("grading", {"tiers-0-name": "a", "tiers-0-fee": "3", "insured": "50"}, "shares of the value"),
        ("grading", {"tiers-0-name": "x" * 81, "tiers-0-fee": "3"}, "takes 80 letters"),
        ("grading", {"tiers-0-name": "a", "tiers-0-fee": "3", "tiers-400-name": "b"}, "takes 400 rows"),
        (
            "selling",
            {"channels-0-name": "a", "channels-0-fee": "1", "channels-0-least": "50", "channels-0-most": "9"},
            "no price is both",
        ),
        (
            "limits",
            {
                "limits-0-grade": "10",
                "limits-0-front": "55",
                "limits-0-back": "75",
                "limits-1-grade": "10.0",
                "limits-1-front": "60",
                "limits-1-back": "80",
            },
            "stands twice",
        ),
    ],
)
def test_rows_that_cannot_be_meant_are_named_and_nothing_is_kept(
    client: FlaskClient, session: Session, kind: str, more: dict[str, str], words: str
) -> None:
    fields = {
        "csrf_token": token(client),
        "valid_from": TODAY.isoformat(),
        "shipping": "19",
        "together": "8",
        "insured": "0.01",
    }
    answer = client.post(f"/fees/{kind}", data={**fields, **more})
    assert (answer.status_code, words in answer.text) == (422, True)
    assert session.scalar(select(func.count()).where(TermsRecord.valid_from == TODAY)) == 0


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"service": "polish"}, "“polish” is no service of a tier"),
        ({"since": "2026-12-01", "until": "2026-11-01"}, "ends on 2026-11-01, before it begins"),
    ],
)
def test_a_tier_of_a_file_that_cannot_be_is_refused(tmp_path: Path, more: dict[str, str], says: str) -> None:
    path = tmp_path / "fees.json"
    path.write_text(json.dumps({"grading": {"tiers": [{"name": "value", "fee": 19, **more}]}}))
    with pytest.raises(UnreadableFileError, match=says):
        read_fees(path)


def test_services_of_a_file_are_read_in_any_case(tmp_path: Path) -> None:
    path = tmp_path / "fees.json"
    tiers = [{"name": name, "fee": 1, "service": name} for name in ("Grading", "CROSS over", "review")]
    path.write_text(json.dumps({"grading": {"tiers": tiers}}))
    assert [tier.service for tier in read_fees(path).grading.tiers] == ["", "cross over", "review"]


def test_fees_go_out_as_a_file_and_come_in_again(client: FlaskClient, session: Session, tmp_path: Path) -> None:
    given = client.get("/fees/fees.json").get_data()
    path = tmp_path / "fees.json"
    path.write_bytes(given)
    found = read_fees(path, for_home=True)
    selling, grading, limits = selling_fees(session, TODAY), grading_fees(session, TODAY), standards(session, TODAY)
    assert found.unused == ()
    assert (found.selling.channels, found.selling.steps) == (selling.costs.channels, selling.costs.steps)
    assert (found.grading.tiers, found.grading.shipping) == (grading.costs.tiers, grading.costs.shipping)
    later = TODAY + timedelta(30)
    for text, words in ((b"[]", "one JSON object"), (b'{"grading": {"tiers": [{"name": "a"}]}}', "has no fee")):
        sent = {"csrf_token": token(client), "valid_from": later.isoformat(), "file": (io.BytesIO(text), "fees.json")}
        refused = client.post("/fees/file", data=sent)
        assert (refused.status_code, words in refused.text) == (422, True)
        assert "/fees.json" not in refused.text.replace("/fees/fees.json", ""), (
            "where it lay for a moment is nobody's"
        )
    odd = json.loads(given)
    odd["grading"]["discount"] = 3
    sent = {
        "csrf_token": token(client),
        "valid_from": later.isoformat(),
        "file": (io.BytesIO(json.dumps(odd).encode()), "f.json"),
    }
    assert "discount" in client.post("/fees/file", data=sent, follow_redirects=True).text, (
        "what was not used is named"
    )
    session.expire_all()
    assert selling_fees(session, later).costs == selling.costs
    assert selling_fees(session, later).since == later
    assert replace(grading_fees(session, later).costs, held=grading.costs.held) == grading.costs
    assert standards(session, later) == limits


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({}, "no selling"),
        ({"looking": {"minutes": 3}}, "no selling"),
        ({"grading": {"shipping": 50}}, "needs its tiers"),
    ],
)
def test_a_file_without_fees_keeps_nothing(client: FlaskClient, session: Session, given: object, words: str) -> None:
    later = TODAY + timedelta(30)
    file = (io.BytesIO(json.dumps(given).encode()), "f.json")
    answer = client.post(
        "/fees/file", data={"csrf_token": token(client), "valid_from": later.isoformat(), "file": file}
    )
    assert (answer.status_code, words in answer.text) == (422, True)
    assert session.scalar(select(func.count()).where(TermsRecord.valid_from == later)) == 0


def test_only_the_parts_of_a_file_take_the_place_of_what_is_kept(client: FlaskClient, session: Session) -> None:
    """A file of limits alone once set all selling fees to nothing."""
    later, before = TODAY + timedelta(30), selling_fees(session, TODAY).costs
    given = {"limits": [{"grade": 10, "front": 51, "back": 60, "side": 3}]}
    file = (io.BytesIO(json.dumps(given).encode()), "f.json")
    sent = {"csrf_token": token(client), "valid_from": later.isoformat(), "file": file}
    answer = client.post("/fees/file", data=sent, follow_redirects=True).text
    assert "Taken in from that day on: limits." in answer
    assert "side" in answer, "what was not used is named"
    session.expire_all()
    assert selling_fees(session, later).costs == before
    assert grading_fees(session, later).valid_from != later
    assert standards(session, later)[""].limits[0].front == 51


def test_fees_that_an_earlier_version_kept_as_typed_read_into_the_same_rows(session: Session) -> None:
    day = date(2020, 5, 1)
    for kind, body in (
        (SELLING, {"channels": "fair; 5 %; 1", "postage": "20; 1.20\n; 9.50; 0.8"}),
        (GRADING, {"tiers": "House A:\nvalue; 16; 200; 12; 65; 20; member", "shipping": 11.0, "together": 4}),
        ("limits", {"limits": "10; 55; 75"}),
    ):
        session.add(TermsRecord(kind=kind, valid_from=day, body=json.dumps(body)))
    session.commit()
    sold = selling_fees(session, day)
    assert sold.costs.channels == (Channel("fair", 0.05, 1.0),)
    assert sold.tables["postage_steps"] == [{"up_to": 20.0, "postage": 1.2}, {"postage": 9.5, "insured": 0.008}]
    graded = grading_fees(session, day)
    assert graded.tiers == [
        {
            "house": "House A",
            "name": "value",
            "fee": 16.0,
            "ceiling": 200.0,
            "upcharge": 12.0,
            "days": 65.0,
            "least": 20,
            "member": True,
        }
    ]
    assert (graded.costs.shipping, graded.costs.together) == (11.0, 4)
    assert standards(session, day)[""].limits[0].front == 55


def test_a_rate_of_exchange_is_the_newest_not_later(session: Session) -> None:
    assert save_rates(session, "2026-03-02; GBP; EUR; 1.20\n2026-03-09; GBP; EUR; 1.25", TODAY) == 2
    assert rate_on(session, "GBP", "EUR", date(2026, 3, 5)) == 1.2
    assert rate_on(session, "GBP", "EUR", TODAY) == 1.25
    assert rate_on(session, "EUR", "GBP", TODAY) == pytest.approx(0.8)
    assert rate_on(session, "EUR", "EUR", TODAY) == 1.0
    with pytest.raises(NoRateError, match="No rate of GBP"):
        rate_on(session, "GBP", "EUR", date(2026, 3, 1))
    with pytest.raises(TermsError):
        save_rates(session, "2026-03-16; GBP; EUR; 1.3\n2026-03-17; GBP", TODAY)
    assert session.scalar(select(func.count()).where(ExchangeRateRecord.base == "GBP")) == 2


def test_a_price_in_another_currency_takes_the_rate_of_its_day(client: FlaskClient, session: Session) -> None:
    data = {"csrf_token": token(client), "rates": "2026-03-01; GBP; EUR; 1.20"}
    assert client.post("/fees/rates", data=data).status_code == 303
    assert client.post("/fees/rates", data={**data, "rates": "soon; GBP; EUR; 1"}).status_code == 422
    lines = "12 copper 10.00 GBP @2026-03-02\n12 copper 10.00 GBP @2026-02-01"
    found = client.post("/prices/", data={"csrf_token": data["csrf_token"], "product": "1", "lines": lines})
    assert found.status_code == 422
    assert "No rate of GBP" in found.text
    row = session.scalars(select(PriceRecord).where(PriceRecord.source == "typed, GBP at 1.2")).one()
    assert (row.amount_minor, row.currency) == (1200, "EUR")
    buy = client.get("/buy/1?format=hobby&price=100&rate=GBP").text
    assert "exchange rate" in buy
    assert "No rate of CHF" in client.get("/buy/1?format=hobby&price=100&rate=CHF").text


def test_prices_csv_comes_back_as_it_went(client: FlaskClient, session: Session, bench: Workbench) -> None:
    """What is exported is known when it is taken in again; a bad line stores nothing."""
    record = bench.record(session, 1)
    client.post("/prices/", data={"csrf_token": token(client), "product": "1", "lines": "12 copper 9 asking"})
    session.expire_all()
    before = session.scalar(select(func.count()).select_from(PriceRecord))
    csv = client.get("/prices/1/prices.csv").data
    assert b",asking" in csv
    again = import_prices(session, bench, record, csv, "prices.csv")
    assert (again.stored, again.wrong) == (0, ())
    assert again.known == len(bench.price_rows(session, record))
    extra = (
        csv + b"base,12,copper,,11.00,EUR,2026-10-01,fair,sold\r\nbase,12,copper,,11.00,EUR,2026-10-01,fair,sold\r\n"
    )
    data = {"csrf_token": token(client), "file": (io.BytesIO(extra), "prices.csv")}
    answer = client.post("/prices/1/prices.csv", data=data)
    assert "/flags/" in answer.location  # the routes are worked out anew, with progress shown
    said = ""
    for _ in range(300):
        seen = client.get(answer.location)
        said += seen.text
        if seen.status_code == 200 and "/again/" not in answer.location:
            break
        answer = seen if seen.status_code == 303 else answer
        time.sleep(0.05)
    assert "2 prices stored" in said
    assert "versions worked out anew" in said
    assert not is_stale(session)
    bad = b"section,number,price,kind\nbase,12,4,\nbase,9999,4,\nbase,12,4,rumour\nmoon,1,4,\n"
    data = {"csrf_token": token(client), "file": (io.BytesIO(bad), "bad.csv")}
    said = client.post("/prices/1/prices.csv", data=data, follow_redirects=True).text
    assert "bad.csv:4" in said
    assert "Nothing was stored: 1 lines" in said or "Nothing was stored: 3 lines" in said
    assert session.scalar(select(func.count()).select_from(PriceRecord)) == (before or 0) + 2
    empty = client.post("/prices/1/prices.csv", data={"csrf_token": token(client)}, follow_redirects=True)
    assert "Choose a prices.csv first" in empty.text


def test_a_price_of_a_complete_set_stands_on_its_board(client: FlaskClient) -> None:
    assert "for what a complete set sells for" in client.get("/sets/board?part=1:signed").text
    client.post("/prices/", data={"csrf_token": token(client), "product": "1", "lines": "set signed 45 48"})
    assert "A complete set sells for <b>€46" in client.get("/sets/board?part=1:signed").text


def test_yen_have_no_cents(client: FlaskClient) -> None:
    """ISO 4217: the yen has no minor unit."""
    from botin.web.words import minor

    assert (minor(1200, "JPY"), minor(1200, "EUR"), minor(None, "EUR")) == ("¥1,200", "€12.00", "–")
    assert Money.from_major(12, "JPY").minor == 12


def test_routes_are_stale_when_fees_or_settings_changed(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    """What a look brings on the board is what the price page says of the same copy: both rest on the same grades."""
    assert not is_stale(session)
    save_settings(session, replace(load_settings(session), my_name="someone"))
    assert not is_stale(session)
    save_settings(session, replace(load_settings(session), look_minutes=30.0))
    assert is_stale(session)
    judge_all(session, bench)
    assert not is_stale(session)
    fields = {"csrf_token": token(client), "channels": "table; 0; 1", "postage": "; 2", "valid_from": "2026-11-20"}
    assert client.post("/fees/selling", data=fields).status_code == 303
    session.expire_all()
    assert is_stale(session)


def test_the_board_says_what_the_price_page_says(session: Session, bench: Workbench) -> None:
    """One judgement on every screen, from the demo as it is built."""
    v = FlagRecord
    row = session.scalars(select(v).where(v.go == Go.LOOK.value).order_by(v.net.desc())).first()
    assert row is not None
    assert price_page(session, bench, row.card_id, row.parallel).version.verdict.reason[:300] == row.reason


def test_averages_are_reckoned_by_what_the_boxes_taught_unless_one_says_how(client: FlaskClient) -> None:
    learned, even = (client.get(f"/buy/1?format=hobby&price=100{more}").text for more in ("", "&seeding=even"))
    assert 'value="learned" selected' in learned
    assert 'value="even" selected' in even


def test_without_any_tier_nothing_is_sent_and_every_page_answers(client: FlaskClient, session: Session) -> None:
    """All houses struck out of the table: the copies stay home, and no page breaks."""
    save_fees(session, GRADING, TODAY, {"tiers": ""})
    assert grading_fees(session, TODAY).costs.tiers == ()
    for path in ("/grading/choose", "/flags/", "/fees/", "/buy/1?format=hobby&price=118", "/recap/1/cards"):
        assert client.get(path).status_code == 200, path


def test_the_command_writes_what_the_commands_read(home: Path, session: Session, tmp_path: Path) -> None:
    made = CliRunner().invoke(cli, ["fees", "--on", TODAY.isoformat(), "--home", str(home)])
    assert made.exit_code == 0
    (tmp_path / "fees.json").write_text(made.stdout, "utf-8")
    found = read_fees(tmp_path / "fees.json")
    assert found.grading.tiers == grading_fees(session, TODAY).costs.tiers
    assert [one.text for one in found.unused] == ["limits"], "a command reads them from grades.json, and says so"
