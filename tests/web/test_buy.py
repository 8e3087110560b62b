"""The buy desk over HTTP: questions, bad input, prices, pulls elsewhere, decisions, the budget that asks once."""

from __future__ import annotations

import json
import re

import pytest
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.desk.settings import Settings, load_settings, save_settings
from botin.store.models import BoxRecord, PriceRecord
from botin.store.models_copies import DecisionRecord, SeenCopyRecord


def token(client: FlaskClient, path: str = "/buy/1") -> str:
    found = re.search(r'name="csrf_token" value="([^"]+)"', client.get(path).text) or re.search(
        r'name="csrf_token"[^>]*value="([^"]+)"', client.get(path).text
    )
    assert found
    return found[1]


def test_the_desk_answers_with_its_reasons(client: FlaskClient) -> None:
    page = client.get("/buy/1?format=hobby&price=110&chase=1").text
    for words in (
        "What a box is worth",
        "Chances",
        "What must happen to break even",
        "Formats side by side",
        "How come?",
    ):
        assert words in page
    assert "cost of the box" in page


def test_a_chance_is_not_told_twice(client: FlaskClient) -> None:
    """The chance of at least an amount has a row of its own, unless the amount asked is the cost."""
    page = "/buy/1?format=hobby&price=110"
    assert "chance of at least" not in client.get(page).text
    assert "chance of at least" not in client.get(f"{page}&at=110").text
    assert re.search(r"chance of at least\s+€?300", client.get(f"{page}&at=300").text)


def test_htmx_gets_the_answer_alone_and_what_was_typed_moves_it(client: FlaskClient) -> None:
    headers = {"HX-Request": "true"}
    dear = client.get("/buy/1?format=hobby&price=400", headers=headers).text
    cheap = client.get("/buy/1?format=hobby&price=1", headers=headers).text
    assert '<form id="ask"' not in dear
    assert "Leave it, or count" in dear
    assert "Rip it: more often than not" in cheap


@pytest.mark.parametrize(
    "query",
    [
        "price=much",
        "price=-4",
        "price=10&tax=900",
        "price=10&rate=0",
        "price=10&boxes=0",
        "price=10&boxes=two",
        "price=&at=x",
    ],
)
def test_bad_input_is_answered_and_kept(client: FlaskClient, query: str) -> None:
    found = client.get(f"/buy/1?{query}")
    assert found.status_code == 200
    assert 'role="alert"' in found.text


def test_a_wish_that_is_not_there_says_so(client: FlaskClient) -> None:
    page = client.get("/buy/1?price=50&chase=Nobody+Knows").text
    assert "Nothing on the checklist" in page
    assert "Nobody Knows" in page


def test_unknown_products_and_formats(client: FlaskClient) -> None:
    assert client.get("/buy/99").status_code == 404
    assert client.get("/buy/1?format=none&price=10").status_code == 200


def test_net_and_repeats_change_the_figures(client: FlaskClient) -> None:
    pages = {
        query: re.search(r"mean €([\d.,]+)", client.get(f"/buy/1?format=hobby&price=90&{query}").text)
        for query in ("", "net=1", "repeats=none", "seeding=random")
    }
    assert pages[""][1] != pages["net=1"][1]  # type: ignore[index]
    assert pages[""][1] == pages["repeats=none"][1]  # type: ignore[index]


def test_a_typed_price_settles_a_gap(client: FlaskClient, session: Session) -> None:
    session.execute(PriceRecord.__table__.delete().where(PriceRecord.section == "signed"))  # type: ignore[attr-defined]
    session.commit()
    sections = [row[0] for row in session.execute(select(PriceRecord.section).distinct())]
    gone = sections[0]
    fields = {"csrf_token": token(client), "section": gone, "parallel": "", "amount": "12.50"}
    found = client.post("/buy/1/price?format=hobby&price=90", data=fields)
    assert found.status_code == 303
    assert "price=90" in found.location
    assert session.scalar(select(PriceRecord.amount_minor).order_by(PriceRecord.id.desc())) == 1250
    assert (
        "is not an amount"
        in client.post("/buy/1/price", data={**fields, "amount": "ten"}, follow_redirects=True).text
    )


def test_copies_pulled_elsewhere_are_noted_once_and_taken_back(client: FlaskClient, session: Session) -> None:
    page = client.get("/library/1/checklist").text
    assert page
    fields = {"csrf_token": token(client), "copy": "base:12:copper 7"}
    first = client.post("/buy/1/seen?price=90", data=fields, follow_redirects=True).text
    stored = session.scalars(select(SeenCopyRecord)).all()
    if not stored:  # the demo's copper may be unnumbered: then it says so
        assert "Only numbered copies" in first
        return
    client.post("/buy/1/seen?price=90", data=fields)
    assert len(session.scalars(select(SeenCopyRecord)).all()) == 1
    client.post("/buy/1/seen", data={**fields, "forget": stored[0].id})
    assert session.scalars(select(SeenCopyRecord)).all() == []
    assert "is written like" in client.post("/buy/1/seen", data={**fields, "copy": "x"}, follow_redirects=True).text


def test_a_hundred_boxes_are_the_same_for_the_same_row(client: FlaskClient) -> None:
    one, again, other = (client.get(f"/buy/1/hundred?price=90&seed={seed}").text for seed in (1, 1, 2))
    assert one == again != other
    assert "of 100 pay" in one


def test_a_decision_is_kept_once_and_held_against_what_happened(client: FlaskClient, session: Session) -> None:
    fields = {"csrf_token": token(client), "client_key": "d1", "choice": "leave it", "note": "too dear"}
    for _ in range(2):
        assert client.post("/buy/1/decide?format=hobby&price=110", data=fields).status_code == 303
    made = session.scalars(select(DecisionRecord)).all()
    assert len(made) == 1
    assert (made[0].price_minor, made[0].choice, made[0].note) == (11_000, "leave it", "too dear")
    page = client.get("/buy/").text
    assert "too dear" in page
    assert "no box of it opened since" in page
    assert client.post("/buy/1/decide?price=1", data={**fields, "client_key": "d2", "choice": "?"}).status_code == 404


def test_going_over_the_budget_asks_once(client: FlaskClient, session: Session) -> None:
    values = load_settings(session)
    save_settings(
        session, Settings(**{**{f: getattr(values, f) for f in values.__dataclass_fields__}, "rip_budget": 100.0})
    )
    before = len(session.scalars(select(BoxRecord)).all())
    page = client.get("/boxes/new").text
    key = re.search(r'name="client_key"[^>]*value="([^"]+)"', page)
    assert key
    fields = {
        "csrf_token": token(client, "/boxes/new"),
        "client_key": key[1],
        "format_id": "1",
        "bought_on": "2026-12-03",
        "price": "120",
        "label": "a whim",
    }
    asked = client.post("/boxes/new", data=fields)
    assert asked.status_code == 409
    assert "over the rip budget" in asked.text
    assert "a whim" in asked.text
    assert len(session.scalars(select(BoxRecord)).all()) == before
    assert client.post("/boxes/new", data={**fields, "over_budget": "asked"}).status_code == 303
    assert len(session.scalars(select(BoxRecord)).all()) == before + 1


def test_scores_with_notes_are_kept_with_the_decision(client: FlaskClient, session: Session) -> None:
    path = "/buy/1?format=hobby&price=118&s_presentation=4&n_presentation=thick+boards&n_price=too+dear"
    page = client.get(path).text
    assert 'value="thick boards"' in page
    found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', page)
    assert found
    fields = {"csrf_token": found[1], "client_key": "notes", "choice": "leave it", "note": "later"}
    client.post(f"/buy/1/decide{path.removeprefix('/buy/1')}", data=fields)
    made = session.scalars(select(DecisionRecord).where(DecisionRecord.client_key == "notes")).one()
    assert json.loads(made.figures)["notes"] == {"presentation": "thick boards", "price": "too dear"}
    assert json.loads(made.scores)["presentation"] == 4
    kept = client.get("/buy/").text
    assert "presentation 4 (“thick boards”)" in kept
