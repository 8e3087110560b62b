"""The grading desk by its forms: what is typed is kept, what cannot be is said, what is printed is right."""

from __future__ import annotations

import io
import re
from datetime import timedelta

import pytest
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from botin.core.grading.steps import Step
from botin.desk.grading import orders
from botin.desk.workbench import Workbench
from botin.standins.scanner import SimulatedScanner, Subject
from botin.store.grading.orders import memberships, vouchers
from tests.web.test_routes import token


def order_in(session: Session, step: Step) -> orders.Order:
    return next(order for order in orders.orders(session) if order.step is step)


def test_every_page_of_the_desk_answers(client: FlaskClient, session: Session) -> None:
    for path in ("", "choose", "choose?cash=60", "results", "counts"):
        assert client.get(f"/grading/{path}").status_code == 200
    for order in orders.orders(session):
        for path in ("", "?q=a", "/close", "/stack", "/print", "/print?what=label"):
            assert client.get(f"/grading/{order.record.id}{path}").status_code == 200, (order.step, path)
    assert client.get("/grading/999").status_code == 404
    assert client.get("/flags/grading").location == "/grading/choose"


def test_a_draft_is_filled_in_closed_and_packed_by_its_forms(client: FlaskClient, session: Session) -> None:
    draft = order_in(session, Step.DRAFT)
    path, key = f"/grading/{draft.record.id}", token(client, f"/grading/{draft.record.id}")
    first, second, _ = draft.copies
    form = {
        "csrf_token": key,
        "phone": "555 0199",
        "agreed": "1",
        f"declared-{first.id}": "1,250.50",
        "tier": "House A express",
    }
    page = client.post(f"{path}/form", data={**form, f"declared-{second.id}": "dear"}, follow_redirects=True).text
    assert "Nothing was changed" in page
    assert 'value="dear"' in page
    assert 'value="555 0199"' in page
    assert client.post(f"{path}/form", data={**form, "then": "close"}).location == f"{path}/close"
    session.expire_all()
    now = orders.order_page(session, draft.record.id)
    assert (now.record.phone, now.label, now.copies[0].form.line.declared_minor) == (
        "555 0199",
        "House A express",
        125_050,
    )
    put = client.post(
        f"{path}/form", data={"csrf_token": key, "move": f"{draft.record.id}:{second.id}:1"}, follow_redirects=True
    ).text
    assert re.search(rf"{re.escape(second.number)}\s+{re.escape(second.name)}", put)
    session.expire_all()
    assert orders.order_page(session, draft.record.id).copies[0].id == second.id
    closed = client.post(
        f"{path}/move", data={"csrf_token": key, "to": "closed", "client_key": "c"}, follow_redirects=True
    ).text
    assert "closed" in closed
    wrong = client.post(f"{path}/stack", data={"csrf_token": key, "card": "#2"})
    assert wrong.status_code == 422
    assert "Out of order: that is line 2" in wrong.text
    for _ in draft.copies:
        assert client.post(f"{path}/stack", data={"csrf_token": key, "next": "1"}).status_code == 303
    early = client.post(
        f"{path}/checks", data={"csrf_token": key, "done": ["hands", "dust"], "then": "packed", "client_key": "p"}
    )
    assert early.status_code == 422
    assert "Not packed yet" in early.text
    session.expire_all()
    assert orders.order_page(session, draft.record.id).record.checks == "hands;dust"  # the ticks are kept
    for step, done, left in (("dust", [], "hands"), ("hands", ["hands"], "hands"), ("dust", ["dust"], "hands;dust")):
        sent = {"csrf_token": key, "step": step, "done": done, "client_key": "p"}
        assert client.post(f"{path}/checks", data=sent).status_code == 204
        session.expire_all()
        assert orders.order_page(session, draft.record.id).record.checks == left  # one tick leaves the others


def test_a_bill_is_corrected_paid_and_taken_back(client: FlaskClient, session: Session) -> None:
    due = order_in(session, Step.GRADED)
    path, key = f"/grading/{due.record.id}", token(client, f"/grading/{due.record.id}")
    bill = {"csrf_token": key, "back": "21.50", "surcharge": "3.50", f"up-{due.copies[0].id}": "9"}
    assert "The bill is kept" in client.post(f"{path}/bill", data=bill, follow_redirects=True).text
    session.expire_all()
    count = len(due.copies)
    assert orders.order_page(session, due.record.id).costs.bill == count * 1_400 + 2_150 + 350 + 900
    bad = client.post(f"{path}/bill", data={**bill, "back": "-4"}, follow_redirects=True).text
    assert "less than nothing" in bad
    assert 'value="-4"' in bad
    assert (
        "is no day to have paid it"
        in client.post(
            f"{path}/bill", data={"csrf_token": key, "pay": "1", "paid_on": "2025-01-01"}, follow_redirects=True
        ).text
    )
    assert "Paid: " in client.post(f"{path}/bill", data={"csrf_token": key, "pay": "1"}, follow_redirects=True).text
    assert "is paid" in client.post(f"{path}/bill", data=bill, follow_redirects=True).text
    assert (
        "is not paid"
        in client.post(f"{path}/bill", data={"csrf_token": key, "not_paid": "1"}, follow_redirects=True).text
    )


def test_memberships_and_vouchers_by_their_forms(client: FlaskClient, session: Session, bench: Workbench) -> None:
    key, today = token(client, "/grading/"), bench.today()
    until = (today + timedelta(365)).isoformat()
    form = {"csrf_token": key, "client_key": "m", "house": "House B", "until_on": until, "cost": "80"}
    assert "is held until" in client.post("/grading/memberships", data=form, follow_redirects=True).text
    wrong = client.post(
        "/grading/memberships", data={**form, "client_key": "n", "until_on": "2020-01-01"}, follow_redirects=True
    )
    assert "Nothing was stored" in wrong.text
    assert len(memberships(session)) == 2
    mine = next(one.id for one in memberships(session) if one.house == "House B")
    assert (
        "Taken back"
        in client.post("/grading/memberships", data={"csrf_token": key, "leave": mine}, follow_redirects=True).text
    )
    voucher = {"csrf_token": key, "client_key": "v", "for": "House B\tvalue", "off": "2", "cards": "5"}
    assert "Noted" in client.post("/grading/vouchers", data=voucher, follow_redirects=True).text
    assert (
        "takes something off"
        in client.post(
            "/grading/vouchers", data={**voucher, "client_key": "w", "off": "0"}, follow_redirects=True
        ).text
    )
    assert [(one.house, one.tier, one.cards) for one in vouchers(session)] == [
        ("House A", "regular", 3),
        ("House B", "value", 5),
    ]


def test_the_form_is_printed_three_times_with_how_much_is_in_the_parcel(
    client: FlaskClient, session: Session
) -> None:
    order = order_in(session, Step.CLOSED)
    page = client.get(f"/grading/{order.record.id}/print").text
    copies = re.findall(r'<p class="paper-copy">([^<]*)</p>', page)
    assert copies == ["in the parcel, 1 of 2", "in the parcel, 2 of 2", "to keep"]
    assert page.count(f"<dt>Pieces in the parcel</dt><dd>{len(order.copies)}</dd>") == 3
    lines = re.findall(r"<td>(\d+)</td>\s*<td>(\d{4})[^<]*</td>", page)
    assert [int(line) for line, _ in lines] == 3 * [copy.place for copy in order.copies]
    assert page.count('aria-label="Barcode ') == 1 + len(order.copies)
    only = client.get(f"/grading/{order.record.id}/print?what=label").text
    assert "Packing list" not in only.split("</nav>")[-1]


def test_two_orders_in_one_parcel_say_so_on_both_forms(client: FlaskClient, session: Session) -> None:
    closed, draft = order_in(session, Step.CLOSED), order_in(session, Step.DRAFT)
    key = token(client, f"/grading/{draft.record.id}")
    closed.record.parcel = "blue box"
    session.commit()
    form = {"csrf_token": key, "phone": "1", "agreed": "1", "parcel": "blue box"}
    client.post(f"/grading/{draft.record.id}/form", data=form)
    pieces = len(closed.copies) + len(draft.copies)
    for order in (closed, draft):
        page = client.get(f"/grading/{order.record.id}/print?what=form").text
        assert page.count("<dt>Orders in the parcel</dt><dd>2</dd>") == 3
        assert page.count(f"<dt>Pieces in the parcel</dt><dd>{pieces}</dd>") == 3


def test_a_person_s_sheet(client: FlaskClient, session: Session) -> None:
    order = order_in(session, Step.CLOSED)
    hers = next(share for share in order.shares if not share.me)
    page = client.get(f"/grading/{order.record.id}/people/{hers.owner}").text
    assert hers.name in page
    assert "shared by person" in page
    assert f"{hers.minor / 100:.2f}" in page
    assert client.get(f"/grading/{order.record.id}/people/999").status_code == 404
    sent = {"csrf_token": token(client, "/grading/")}
    said = client.post(f"/grading/{order.record.id}/people/{hers.owner}", data=sent, follow_redirects=True).text
    assert "No card of this order is here" in said


@pytest.mark.parametrize(("days", "shown"), [("0", 1), ("7", 7), ("9999", 60)])
def test_days_pass_in_the_demo(client: FlaskClient, bench: Workbench, days: str, shown: int) -> None:
    before = bench.today()
    client.post("/grading/days", data={"csrf_token": token(client, "/grading/"), "days": days})
    assert (bench.today() - before).days == shown


@pytest.mark.parametrize("cash", ["nan", "inf", "-5", "much"])
def test_a_limit_of_money_that_is_none_is_refused(client: FlaskClient, cash: str) -> None:
    assert client.get(f"/grading/choose?cash={cash}").status_code in (400, 422)


def test_a_limit_of_money_is_read_as_people_write_it(client: FlaskClient) -> None:
    assert 'value="1500"' in client.get("/grading/choose?cash=1,500").text


def test_days_that_are_no_number_are_refused_and_none_pass(client: FlaskClient, bench: Workbench) -> None:
    before = bench.today()
    answer = client.post("/grading/days", data={"csrf_token": token(client, "/grading/"), "days": "a week"})
    assert answer.status_code == 422
    assert "a week" in answer.text
    assert bench.today() == before


def test_days_pass_only_in_the_demo(client: FlaskClient, bench: Workbench) -> None:
    key = token(client, "/grading/")
    client.application.config["DEMO"] = False
    try:
        assert client.post("/grading/days", data={"csrf_token": key, "days": "7"}).status_code == 404
    finally:
        client.application.config["DEMO"] = True


def test_the_days_to_take_along(client: FlaskClient, session: Session) -> None:
    due = order_in(session, Step.GRADED)
    answer = client.get("/today/days.ics")
    assert answer.mimetype == "text/calendar"
    text = answer.data.decode().replace("\r\n ", "")
    assert f"UID:order-{due.record.id}-pay@botin.invalid" in text
    assert f"DTSTART;VALUE=DATE:{due.record.pay_on:%Y%m%d}" in text
    assert "The membership of House A runs out on" in text


def test_a_photo_of_a_back_is_held_against_the_stack(client: FlaskClient, session: Session) -> None:
    order = order_in(session, Step.CLOSED)
    path, key = f"/grading/{order.record.id}/stack", token(client, "/grading/")
    done = sum(copy.form.line.packed_at is not None for copy in order.copies)
    assert client.post(path, data={"csrf_token": key, "photo": "simulated"}).status_code == 303
    session.expire_all()
    assert (
        sum(copy.form.line.packed_at is not None for copy in orders.order_page(session, order.record.id).copies)
        == done + 1
    )
    first = order.copies[0]
    subject = Subject(first.copy_id, first.product, first.number, first.name)
    photo = (io.BytesIO(SimulatedScanner().scan(subject, "back")), "back.jpg")
    again = client.post(
        path, data={"csrf_token": key, "photo": "given", "scan": photo}, content_type="multipart/form-data"
    )
    assert again.status_code == 422
    assert "on the stack already" in again.text or "Out of order" in again.text
    nothing = client.post(
        path,
        data={"csrf_token": key, "photo": "given", "scan": (io.BytesIO(b"no"), "x.jpg")},
        content_type="multipart/form-data",
    )
    assert nothing.status_code == 422
