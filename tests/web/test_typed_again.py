"""What was typed is kept when it cannot be stored, wherever a form stands; without a price there is no verdict."""

from __future__ import annotations

import re

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.desk.grading import orders
from botin.desk.pricing.prices import type_comps
from botin.desk.workbench import Workbench
from botin.store.models_copies import CopyRecord, DecisionRecord, DisposalRecord, InspectionRecord
from tests.web.test_fees import token


@pytest.mark.parametrize(
    "asked", ["price=abc", "price=", "price=118&tax=lots", "price=118&ship=x", "price=118&rate=soon"]
)
@pytest.mark.parametrize("fragment", [True, False])
def test_without_a_readable_price_there_is_no_verdict(
    client: FlaskClient, session: Session, asked: str, fragment: bool
) -> None:
    page = client.get(f"/buy/1?format=hobby&{asked}", headers={"HX-Request": "true"} if fragment else {}).text
    assert 'class="choice' not in page
    assert "Type what the box costs" in page
    assert "Keep the decision" not in page
    fields = {"csrf_token": token(client), "client_key": "none", "choice": "rip it"}
    answer = client.post(f"/buy/1/decide?format=hobby&{asked}", data=fields, follow_redirects=True)
    assert "Type what the box costs" in answer.text
    assert session.scalar(select(func.count()).where(DecisionRecord.client_key == "none")) == 0


def test_a_box_that_costs_nothing_may_be_ripped(client: FlaskClient) -> None:
    assert "c-rip" in client.get("/buy/1?format=hobby&price=0").text


def copy_of(session: Session) -> CopyRecord:
    """A copy that nobody looked at and that is still here."""
    looked = session.scalars(select(InspectionRecord.copy_id)).all()
    query = select(CopyRecord).where(CopyRecord.card_id.is_not(None), CopyRecord.id.not_in(looked))
    return session.scalars(query.order_by(CopyRecord.id).limit(1)).one()


def test_a_look_that_cannot_be_stored_is_kept_as_typed(client: FlaskClient, session: Session) -> None:
    pull = copy_of(session)
    fields = {
        "csrf_token": token(client), "finish": pull.parallel, "copy": pull.id, "corners": "12", "front": "56",
    }  # fmt: skip
    page = client.post(f"/prices/card/{pull.card_id}/look", data=fields, follow_redirects=True).text
    assert "is not between 1 and 10" in page
    assert 'name="corners" inputmode="decimal" placeholder="1 to 10, halves" value="12"' in page
    assert 'value="56"' in page
    assert session.scalar(select(func.count()).where(InspectionRecord.copy_id == pull.id)) == 0


def test_a_grade_that_is_none_is_kept_as_typed(client: FlaskClient, session: Session) -> None:
    pull = copy_of(session)
    fields = {
        "csrf_token": token(client),
        "finish": pull.parallel,
        "copy": pull.id,
        "grade": "elf",
        "client_key": "x",
    }
    page = client.post(f"/prices/card/{pull.card_id}/returned", data=fields, follow_redirects=True).text
    assert "“elf” is no grade" in page
    assert 'value="elf"' in page


def test_a_sale_that_cannot_be_stored_is_kept_as_typed(client: FlaskClient, session: Session) -> None:
    pull = copy_of(session)
    fields = {
        "csrf_token": token(client), "copy": pull.id, "client_key": "leave", "went": "sold", "price": "dear", "costs": "1.20",
        "came_in": "a swap", "finish": pull.parallel,
    }  # fmt: skip
    page = client.post(f"/cards/{pull.card_id}/leave", data=fields, follow_redirects=True).text
    assert 'value="dear"' in page
    assert 'value="a swap"' in page
    assert re.search(r'<details class="how" open>\s*<summary>It leaves', page)
    assert session.scalar(select(func.count()).where(DisposalRecord.client_key == "leave")) == 0


def test_grades_of_an_order_are_kept_as_typed(client: FlaskClient, session: Session) -> None:
    order = next(one for one in orders.orders(session) if one.step == "graded")
    first, second = (copy.id for copy in order.copies[:2])
    fields = {"csrf_token": token(client), f"grade-{first}": "9.5", f"grade-{second}": "eleven"}
    page = client.post(f"/grading/{order.record.id}/back", data=fields, follow_redirects=True).text
    assert "“eleven” is no grade" in page
    assert re.search(rf'name="grade-{first}"[^>]*value="9.5"', page)
    assert re.search(rf'name="grade-{second}"[^>]*value="eleven"', page)


def test_a_list_of_numbers_is_kept_as_typed(client: FlaskClient, session: Session) -> None:
    before = session.scalar(
        select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None))
    )
    fields = {
        "csrf_token": token(client), "product_id": "1", "section": "base", "numbers": "1-3, 9999", "cost": "2", "source": "a friend",
        "client_key": "arrive", "back": "/sets/board?part=1:base",
    }  # fmt: skip
    page = client.post("/sets/arrive", data=fields, follow_redirects=True).text
    assert "9999 not on the checklist" in page
    assert 'value="1-3, 9999"' in page
    assert 'value="a friend"' in page
    assert (
        session.scalar(select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None)))
        == before
    )


def test_a_table_that_is_refused_is_where_the_eye_is(client: FlaskClient) -> None:
    """The field that is wrong has the focus, so that a page as long as this one shows it."""
    page = client.post("/fees/rates", data={"csrf_token": token(client), "rates": "soon; USD; EUR; 1"}).text
    assert re.search(r'<textarea id="fee-rates"[^>]*autofocus[^>]*>soon; USD', page)
    assert page.count("autofocus") == 1
    assert "autofocus" not in client.get("/fees/").text


def test_a_grade_that_came_back_stands_on_the_copy(client: FlaskClient, session: Session, bench: Workbench) -> None:
    back = next(order for order in orders.orders(session) if not order.out)
    one = back.copies[0]
    page = client.get(f"/prices/card/{one.card_id}?finish={one.parallel}").text
    assert f"grade {one.grade} House A · no. {one.certificate}</b>" in page
    out = orders.orders(session)[0].copies[0]
    assert "out for grading" in client.get(f"/prices/card/{out.card_id}?finish={out.parallel}").text


def test_a_price_of_a_card_of_another_product_says_where_that_card_is(session: Session, bench: Workbench) -> None:
    """The page begins on the newest product; a line for another one is not just refused."""
    first, other = bench.record(session, 1), bench.record(session, 2)
    numbers = {card.number for card in bench.product(session, first).cards}
    only = next(card.number for card in bench.product(session, other).cards if card.number not in numbers)
    found = type_comps(session, bench, first, f"{only} 4.50\nnowhere 3")
    assert found.stored == ()
    assert other.name in found.wrong[0][1]
    assert found.wrong[0][1].endswith("choose the product first.")
    assert found.wrong[1][1] == f"There is no card “nowhere” on the checklist of {first.name}."
