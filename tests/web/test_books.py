"""The page Books and the pages of people, by the browser's requests."""

from __future__ import annotations

import csv
import io
import re

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.desk.books.accounts import books
from botin.desk.workbench import Workbench
from botin.store.books.postings import totals
from botin.store.copies.people import party_named
from botin.store.models import CardRecord, PriceRecord, SectionRecord
from botin.store.models_books import PostingRecord, TransactionRecord
from botin.store.models_copies import CopyRecord
from botin.store.opening.boxes import get_box
from botin.store.opening.packs import count_logged
from tests.web.test_fees import token


def sums(session: Session) -> dict[str, int]:
    found = next(one for one in totals(session) if one.currency == "EUR")
    return {account.value: minor for account, minor in found.by_account.items()}


def test_the_page_adds_up(client: FlaskClient, session: Session, bench: Workbench) -> None:
    page = client.get("/books/").text
    for words in ("Books", "went out", "came back", "realised", "on paper", "boxes bought", "By product", "By month"):
        assert words in page
    found = books(session, bench)
    by = sums(session)
    assert found.all.cash == by["cash"] == found.all.came_in - found.all.spent
    assert sum(part.result.cash for part in found.months) == by["cash"]
    assert (
        found.all.realised == found.all.cash + found.all.stock - found.all.of([Account.PREPAID]) * -1 + found.all.owed
    )
    assert sum(part.result.realised for part in found.products) == found.all.realised


def test_what_was_written_down_is_taken_back_by_its_mirror(client: FlaskClient, session: Session) -> None:
    before = sums(session)
    fields = {
        "csrf_token": token(client), "client_key": "n1", "currency": "EUR", "what": "materials", "amount": "12.50",
        "words": "100 sleeves", "day": "2026-11-20",
    }  # fmt: skip
    for _ in range(2):
        assert "Written into the books" in client.post("/books/note", data=fields, follow_redirects=True).text
    assert sums(session)["materials"] == before["materials"] + 1_250
    assert sums(session)["cash"] == before["cash"] - 1_250
    made = session.scalar(select(TransactionRecord.id).where(TransactionRecord.client_key == "n1"))
    back = {"csrf_token": fields["csrf_token"], "entry": str(made)}
    for _ in range(2):
        assert client.post("/books/back", data=back).status_code == 303
    assert sums(session)["materials"] == before["materials"]
    assert sums(session)["cash"] == before["cash"]
    assert session.scalar(select(func.count()).where(TransactionRecord.voids_id == made)) == 1
    assert "taken back" in client.get("/books/").text


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"amount": "0"}, "above 0"),
        ({"amount": "-4"}, "not negative"),
        ({"amount": "dear"}, "dear"),
        ({"day": "2027-01-01"}, "lies ahead"),
        ({"what": "got from"}, "whom it was paid"),
        ({"what": "bribes"}, "none of"),
        ({"day": "soon"}, "no day"),
    ],
)
def test_what_cannot_be_is_refused_with_what_was_typed(
    client: FlaskClient, session: Session, more: dict[str, str], words: str
) -> None:
    before = session.scalar(select(func.count()).select_from(TransactionRecord))
    fields = {
        "csrf_token": token(client), "client_key": "bad", "currency": "EUR", "what": "postage", "amount": "3",
        "words": "stamps for Eva", "day": "2026-11-20", **more,
    }  # fmt: skip
    page = client.post("/books/note", data=fields, follow_redirects=True).text
    assert words in page
    assert "stamps for Eva" in page
    assert session.scalar(select(func.count()).select_from(TransactionRecord)) == before


def test_an_entry_of_a_box_is_not_taken_back_here(client: FlaskClient, session: Session) -> None:
    made = session.scalars(select(TransactionRecord).where(TransactionRecord.kind == "purchase").limit(1)).one()
    back = {"csrf_token": token(client), "entry": str(made.id)}
    assert "where it happened" in client.post("/books/back", data=back, follow_redirects=True).text
    assert session.scalar(select(func.count()).where(TransactionRecord.voids_id == made.id)) == 0


def test_the_ledger_has_every_posting(client: FlaskClient, session: Session) -> None:
    rows = list(csv.DictReader(io.StringIO(client.get("/books/ledger.csv").text)))
    assert len(rows) == session.scalar(select(func.count()).select_from(PostingRecord))
    sides = [sum(float(row[side] or 0) for row in rows) for side in ("debit", "credit")]
    assert sides[0] == pytest.approx(sides[1])
    assert sides[0] > 0
    assert client.get("/books/journal.beancount").text.startswith('option "title"')


def test_a_person_has_his_cards_and_his_balance(client: FlaskClient, session: Session, bench: Workbench) -> None:
    mira = party_named(session, "Mira", bench.now())
    copy = session.scalars(select(CopyRecord).where(CopyRecord.card_id.is_not(None)).limit(1)).one()
    copy.owner_id = mira.id
    session.commit()
    fields = {
        "csrf_token": token(client), "client_key": "p1", "currency": "EUR", "what": "got from", "amount": "20",
        "person": "  mira ", "day": "2026-11-20",
    }  # fmt: skip
    assert client.post("/books/note", data=fields).status_code == 303
    page = client.get(f"/people/{mira.id}").text
    assert "Mira" in page
    assert "you owe" in page
    assert "20.00" in page
    assert page.count("<tr>") >= 3
    listed = client.get("/people/").text
    assert listed.count("Mira") == 1
    assert "is owed" in client.get("/books/").text
    assert client.get("/people/999").status_code == 404


def test_empty_books_say_what_comes_first(tmp_path: object, client: FlaskClient, session: Session) -> None:
    _ = tmp_path
    assert client.get("/books/?currency=XYZ&page=0").status_code == 200
    assert client.get("/books/?page=99").status_code == 200
    assert session.scalar(select(func.count()).select_from(PostingRecord))


def test_a_box_is_corrected_sealed_again_and_removed_by_the_browser(client: FlaskClient, session: Session) -> None:
    """Boxes 4 and 5 of the demo are sealed."""
    before = sums(session)
    fields = {
        "csrf_token": token(client), "client_key": "c1", "format_id": str(get_box(session, 4).format_id), "bought_on": "2026-11-18",
        "price": "119.50", "shipping": "6.90", "tax": "", "label": "mistyped",
    }  # fmt: skip
    page = client.get("/boxes/4/correct").text
    assert 'value="109.50"' in page
    assert "Never bought?" in page
    assert client.post("/boxes/4/correct", data=fields).status_code == 303
    assert sums(session)["cash"] == before["cash"] - 1_000
    page = client.get("/boxes/4/correct").text
    assert "price 10950 → 11950" in page
    assert client.post("/boxes/4/correct", data={**fields, "client_key": "c2", "price": "dear"}).status_code == 422
    csrf = {"csrf_token": fields["csrf_token"]}
    client.post("/boxes/4/open", data=csrf)
    assert "Opened by accident" in client.get("/boxes/4/correct").text
    assert "sealed on the shelf again" in client.post("/boxes/4/seal", data=csrf, follow_redirects=True).text
    assert "is removed" in client.post("/boxes/4/remove", data=csrf, follow_redirects=True).text
    assert 'id="box-4"' not in client.get("/").text
    assert "on the shelf again" in client.post("/boxes/4/bring-back", data=csrf, follow_redirects=True).text
    assert sums(session)["cash"] == before["cash"] - 1_000
    assert "logged" in client.post("/boxes/19/seal", data=csrf, follow_redirects=True).text


def test_closing_asks_first(client: FlaskClient, session: Session) -> None:
    """Box 19 of the demo is half open: a card more in its first pack makes that pack over."""
    csrf = token(client)
    client.post("/rip/19/log", data={"csrf_token": csrf, "client_key": "over", "entry": "12", "pack": "1"})
    fields = {"csrf_token": csrf, "seen": str(count_logged(session, 19)), "rest": "kept"}
    asked = client.post("/rip/19/close", data=fields)
    assert asked.status_code == 409
    assert "Before it is closed" in asked.text
    assert "of 8 cards" in asked.text
    session.expire_all()
    assert get_box(session, 19).state == "open"
    assert client.post("/rip/19/close", data={**fields, "anyway": "1"}).status_code == 303
    page = client.get("/").text
    assert "Packs kept sealed" in page


def test_copies_prices_and_products_are_mended_by_the_browser(client: FlaskClient, session: Session) -> None:
    csrf = {"csrf_token": token(client)}
    price = session.scalars(
        select(PriceRecord).where(PriceRecord.section == "base", PriceRecord.number != "").limit(1)
    ).one()
    card = session.scalars(
        select(CardRecord)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(
            SectionRecord.product_id == price.product_id,
            SectionRecord.key == "base",
            CardRecord.number == price.number,
        )
    ).one()
    path = f"/prices/card/{card.id}?finish={price.parallel}"
    assert "take one out that is wrong" in client.get(path).text
    data = {**csrf, "finish": price.parallel, "price": str(price.id)}
    page = client.post(f"/cards/{card.id}/price", data=data, follow_redirects=True).text
    assert "Bring it back" in page
    history = re.search(r'name="bring_back" value="(\d+)"', page)
    assert history is not None
    back = {**csrf, "finish": price.parallel, "bring_back": history[1]}
    assert "The price is back" in client.post(f"/cards/{card.id}/price", data=back, follow_redirects=True).text
    copy = session.scalars(
        select(CopyRecord).where(CopyRecord.box_id == 2, CopyRecord.card_id.is_not(None)).limit(1)
    ).one()
    facts = {
        **csrf,
        "copy": str(copy.id),
        "client_key": "f1",
        "owner": "Mira",
        "place": "Top box",
        "certificate": "C-77",
    }
    page = client.post(f"/cards/{copy.card_id}/copy", data=facts, follow_redirects=True).text
    assert "Mira" in page
    assert "no. C-77" in page
    assert "What hangs on it" in client.get("/library/1").text
    aside = client.post("/library/1/aside", data={**csrf, "what": "aside"}, follow_redirects=True).text
    assert "Take it back into the lists" in aside
    assert "stays" in client.post("/library/1/aside", data={**csrf, "what": "remove"}, follow_redirects=True).text
    unknown = client.post("/library/1/aside", data={**csrf, "what": "burn"}, follow_redirects=True).text
    assert "“burn” is none of aside, back, remove" in unknown
    assert "Take it back into the lists" in unknown, "it stays aside"


@pytest.mark.parametrize("currency", ["zzz9", "<b>", "US", ""])
def test_what_is_no_currency_is_not_written(client: FlaskClient, session: Session, currency: str) -> None:
    before = session.scalar(select(func.count()).select_from(TransactionRecord))
    sent = {"csrf_token": token(client), "client_key": "no-code", "what": "materials", "amount": "5"}
    answer = client.post("/books/note", data={**sent, "currency": currency}, follow_redirects=True)
    assert "is no currency" in answer.text
    assert session.scalar(select(func.count()).select_from(TransactionRecord)) == before


@pytest.mark.parametrize("rate", ["9" * 400, "1000000000000", "0"])
def test_a_rate_beyond_all_reason_is_refused_in_words(client: FlaskClient, rate: str) -> None:
    sent = {"csrf_token": token(client), "client_key": "rate", "currency": "USD", "rate": rate}
    answer = client.post("/orders/new", data=sent, follow_redirects=True)
    assert answer.status_code < 500
    assert "is no rate" in answer.text
