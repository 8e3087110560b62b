"""Today, and sales by the browser: lots, sealed and empty boxes, swaps."""

from __future__ import annotations

import re
from datetime import timedelta

from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.desk.books.accounts import Noted, write_down
from botin.desk.books.purchases import UNDER_WAY, BoxLine, Order, place_order
from botin.desk.insight.today import today_lines
from botin.desk.workbench import Workbench
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.opening.boxes import get_box
from tests.web.test_fees import token

EUR = "EUR"


def test_what_waits_stands_on_today_with_its_action(client: FlaskClient, session: Session, bench: Workbench) -> None:
    day = bench.today()
    late = Order(
        day - timedelta(9), "The fair", Money(0, EUR), Money(0, EUR), UNDER_WAY, (BoxLine(1, 1, Money(100, EUR)),),
        due_on=day - timedelta(2),
    )  # fmt: skip
    made = place_order(session, bench, "late", late)
    write_down(session, bench, "lent", Noted("paid to", Money(2_000, EUR), day, "Lio"))
    lines = today_lines(session, bench)
    assert lines[0].kind == "order"
    assert lines[0].late(day)
    assert {line.kind for line in lines} >= {"box", "order", "cards", "people"}
    page = client.get("/today/").text
    assert f"/orders/{made.id}" in page
    assert "Lio owes you €20.00" in page
    assert "(late)" in page
    for path in {match.replace("&amp;", "&") for match in re.findall(r'class="btn-line small" href="([^"]+)"', page)}:
        assert client.get(path).status_code == 200, path


def test_a_lot_by_the_browser(client: FlaskClient, session: Session) -> None:
    page = client.get("/recap/2/cards").text
    ids = re.findall(r'name="copy" value="(\d+)"', page)[:3]
    fields = {
        "csrf_token": token(client), "client_key": "lot", "copy": ids, "price": "12", "costs": "1.50", "to": "Eva", "day": "2026-11-20",
    }  # fmt: skip
    assert (
        "Tick those that went" in client.post("/recap/2/lot", data={**fields, "copy": []}, follow_redirects=True).text
    )
    assert 'value="dear"' in client.post("/recap/2/lot", data={**fields, "price": "dear"}, follow_redirects=True).text
    assert "3 cards went as a lot" in client.post("/recap/2/lot", data=fields, follow_redirects=True).text
    total = session.scalar(
        select(func.sum(DisposalRecord.price_minor)).where(DisposalRecord.client_key.like("lot:%"))
    )
    assert total == 1_200


def test_a_sealed_and_an_empty_box_by_the_browser(client: FlaskClient, session: Session) -> None:
    fields = {"csrf_token": token(client), "client_key": "b", "price": "150", "costs": "9", "day": "2026-11-20"}
    assert "Sold, and in the books" in client.post("/boxes/4/sell", data=fields, follow_redirects=True).text
    assert get_box(session, 4).state == "sold"
    assert 'id="box-4"' not in client.get("/").text
    back = {"csrf_token": fields["csrf_token"], "back": "1"}
    assert "taken back" in client.post("/boxes/4/sell", data=back, follow_redirects=True).text
    assert 'id="box-4"' in client.get("/").text
    assert "The empty box" in client.get("/boxes/1/correct").text
    bad = {**fields, "client_key": "e", "price": "0"}
    assert "above 0" in client.post("/boxes/1/sell", data=bad, follow_redirects=True).text
    assert "It is sold." in client.post("/boxes/1/sell", data={**bad, "price": "3"}, follow_redirects=True).text


def test_a_swap_for_a_card_of_the_list_links_both(client: FlaskClient, session: Session) -> None:
    copy = session.scalars(
        select(CopyRecord).where(CopyRecord.box_id == 1, CopyRecord.card_id.is_not(None)).limit(1)
    ).one()
    before = session.scalar(select(func.count()).where(CopyRecord.came == "trade"))
    fields = {
        "csrf_token": token(client), "copy": str(copy.id), "client_key": "s", "went": "swapped", "came_in": "12", "to": "Bo",
        "left_on": "2026-11-20", "finish": copy.parallel,
    }  # fmt: skip
    client.post(f"/cards/{copy.card_id}/leave", data=fields, follow_redirects=True)
    assert session.scalar(select(func.count()).where(CopyRecord.came == "trade")) == (before or 0) + 1
    gone = session.scalars(select(DisposalRecord).where(DisposalRecord.copy_id == copy.id)).one()
    assert gone.came_in.startswith("12 ")
    back = {"csrf_token": fields["csrf_token"], "disposal": str(gone.id)}
    client.post(f"/cards/{copy.card_id}/back", data=back)
    assert (
        session.scalar(select(func.count()).where(CopyRecord.came == "trade", CopyRecord.state == "here")) == before
    )
