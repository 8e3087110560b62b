"""The selling desk by its forms: offered, sold, packed, sent, refunded; what is typed is kept; what is printed is right."""

from __future__ import annotations

import csv
import io
import re

import pytest
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.selling.road import Stop
from botin.desk.insight.flagresults import kept_cards
from botin.desk.insight.salesresults import sales_results
from botin.desk.selling.listings import listings
from botin.desk.selling.salepage import sale_page, under_way
from botin.desk.selling.whattosell import lots, to_sell
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord
from botin.store.models_copies import FlagRecord
from botin.store.opening.boxes import sealed_boxes
from botin.store.selling.sales import live_listings
from tests.web.test_routes import token


def sale_at(session: Session, stop: Stop) -> int:
    return next(page.record.id for page in under_way(session) if page.stop is stop)


def test_every_page_of_the_desk_answers(client: FlaskClient, session: Session) -> None:
    for path in ("", "lots", "parcels", "results", "results?year=2026", "sales.csv"):
        assert client.get(f"/sales/{path}").status_code == 200
    for page in under_way(session):
        for path in ("", "/print", "/print?what=label"):
            assert client.get(f"/sales/{page.record.id}{path}").status_code == 200
    assert client.get("/sales/999").status_code == 404
    assert client.get("/sales/offer").status_code == 404


def test_a_card_is_offered_and_noted_as_sold_from_its_listing(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    one = to_sell(session, bench, 5)[0]
    copy = one.sold.copy.id
    page = client.get(f"/sales/offer?copy={copy}").text
    assert one.sold.card.name in page
    key = token(client, f"/sales/offer?copy={copy}")
    form = {
        "csrf_token": key,
        "client_key": "o",
        "copy": str(copy),
        "channel": "open listing",
        "ask": "12",
        "floor": "20",
    }
    wrong = client.post("/sales/offer", data=form, follow_redirects=True).text
    assert "no less than the floor" in wrong
    assert 'value="20"' in wrong
    assert "It is offered" in client.post("/sales/offer", data={**form, "floor": "9"}, follow_redirects=True).text
    session.expire_all()
    listing = next(row for row in listings(session, bench.today()) if any(one.copy.id == copy for one in row.copies))
    offer = {"csrf_token": key, "client_key": "b", "offer": "10.50", "by": "Ada"}
    assert (
        "The offer is noted"
        in client.post(f"/sales/listings/{listing.record.id}", data=offer, follow_redirects=True).text
    )
    sold = {
        "csrf_token": key,
        "client_key": "s",
        "sold": "1",
        "ask": "12",
        "channel": "open listing",
        "listing": listing.record.id,
        "buyer": "Ada",
    }
    said = client.post(f"/sales/listings/{listing.record.id}", data=sold, follow_redirects=True).text
    assert "is noted" in said
    again = client.post(
        f"/sales/listings/{listing.record.id}", data={**sold, "client_key": "t"}, follow_redirects=True
    ).text
    assert "Nothing was changed" in again


def test_ticks_set_quickly_may_arrive_in_any_order(client: FlaskClient, session: Session) -> None:
    sale = sale_at(session, Stop.PAID)
    path, key = f"/sales/{sale}", token(client, f"/sales/{sale}")
    steps = re.findall(r'name="done" value="(\w+)"', client.get(path).text)

    def tick(step: str, *done: str) -> None:
        sent = {"csrf_token": key, "step": step, "done": [*done], "client_key": "p"}
        assert client.post(f"{path}/pack", data=sent).status_code == 204

    def ticked() -> list[str]:
        return re.findall(r'name="done" value="(\w+)"[^>]* checked', client.get(path).text)

    first, *others = steps
    client.post(f"{path}/pack", data={"csrf_token": key, "done": steps, "grams": "90", "client_key": "q"})
    tick(first, first)  # was set before all others, and comes last
    assert ticked() == steps
    tick(first)
    assert ticked() == others
    assert 'name="grams" inputmode="numeric" value="90"' in client.get(path).text
    client.post(f"{path}/pack", data={"csrf_token": key, "done": steps, "then": "packed", "client_key": "s"})
    client.post(f"{path}/move", data={"csrf_token": key, "to": "sent", "postage": "4.90", "client_key": "r"})
    late = client.post(f"{path}/pack", data={"csrf_token": key, "step": first, "done": [], "client_key": "t"})
    assert (late.status_code, late.headers["HX-Refresh"]) == (204, "true")
    assert "That tick is not kept. That parcel is sent already." in client.get(path).text


def test_a_sale_is_packed_and_sent_by_its_forms(client: FlaskClient, session: Session) -> None:
    sale = sale_at(session, Stop.PAID)
    path, key = f"/sales/{sale}", token(client, f"/sales/{sale}")
    early = client.post(
        f"{path}/pack",
        data={"csrf_token": key, "done": ["slab"], "then": "packed", "client_key": "p"},
        follow_redirects=True,
    )
    assert "Ticks and weight are kept. Not packed yet" in early.text
    steps = re.findall(r'name="done" value="(\w+)"', client.get(path).text)
    packed = client.post(
        f"{path}/pack",
        data={"csrf_token": key, "done": steps, "grams": "90", "then": "packed", "client_key": "q"},
        follow_redirects=True,
    )
    assert "Packed. Send it." in packed.text
    bad = client.post(
        f"{path}/move",
        data={"csrf_token": key, "to": "sent", "postage": "dear", "client_key": "r"},
        follow_redirects=True,
    ).text
    assert 'value="dear"' in bad
    sent = client.post(
        f"{path}/move",
        data={"csrf_token": key, "to": "sent", "postage": "4.90", "client_key": "r"},
        follow_redirects=True,
    ).text
    assert "on its way" in sent
    session.expire_all()
    assert sale_page(session, sale).postage == 490
    refund = {"csrf_token": key, "client_key": "f", "kind": "refund", "amount": "1.50", "why": "soft corner"}
    assert "Noted: refund" in client.post(f"{path}/beside", data=refund, follow_redirects=True).text
    assert (
        "No more can be given back"
        in client.post(
            f"{path}/beside", data={**refund, "client_key": "g", "amount": "90000"}, follow_redirects=True
        ).text
    )
    assert (
        "Taken back" in client.post(f"{path}/move", data={"csrf_token": key, "undo": "1"}, follow_redirects=True).text
    )


def test_the_label_of_a_checked_sale_carries_the_authenticator_s_address(
    client: FlaskClient, session: Session
) -> None:
    sale = next(page for page in under_way(session) if page.record.checked)
    label = client.get(f"/sales/{sale.record.id}/print?what=label").text
    assert "authenticator" in label
    street = sale.record.address.split("\n")[1]
    assert street not in label
    assert street in client.get(f"/sales/{sale.record.id}/print?what=invoice").text


def test_the_table_of_a_year(client: FlaskClient, session: Session) -> None:
    rows = list(csv.DictReader(io.StringIO(client.get("/sales/sales.csv?year=2026").data.decode())))
    assert {row["sold_on"][:4] for row in rows} == {"2026"}
    assert len(rows) == sum(len(row.page.lines) for row in sales_results(session, 2026).rows)
    assert not list(csv.DictReader(io.StringIO(client.get("/sales/sales.csv?year=1999").data.decode())))


def test_sales_come_in_from_a_table_and_the_same_table_again_brings_nothing(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    """What the desk gives out it takes in: a table of copies that are here, by the columns of sales.csv or other words."""
    one, two = to_sell(session, bench, 12)[-2:]
    rows = [
        f"9,2026-11-20,stall,{row.sold.product.key},{row.sold.section},{row.sold.card.number},{row.sold.copy.parallel},{row.sold.copy.grade},12.50,1.25"
        for row in (one, two)
    ]
    text = "sale,sold_on,channel,product,section,number,parallel,grade,price,fee\n" + "\n".join(rows)
    key, before = token(client, "/grading/"), len(sales_results(session).rows)

    def give(data: str) -> str:
        files = {"csrf_token": key, "file": (io.BytesIO(data.encode()), "sales.csv")}
        return client.post(
            "/sales/results", data=files, content_type="multipart/form-data", follow_redirects=True
        ).text

    assert "1 sale taken in" in give(text)
    session.expire_all()
    row = next(row for row in sales_results(session).rows if row.page.record.channel == "stall")
    assert (len(row.page.lines), row.page.record.price_minor, row.page.record.fee_minor, row.page.stop) == (
        2,
        2_500,
        250,
        Stop.DONE,
    )
    assert "0 sales taken in. 1 were here already" in give(text)
    wrong = text.replace("9,2026", "10,2026") + "\n11,2026-11-20,stall,nowhere,,1,,,5,0"
    assert "is no product here" in give(wrong) or "no such copy is here" in give(wrong)
    assert len(sales_results(session).rows) == before + 1


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ({"sold_on": "2026-11-19"}, "say different things under sold_on"),
        ({"channel": "table"}, "say different things under channel"),
        ({"currency": "XTS"}, "not in XTS"),
        ({"fee": "-1.25"}, "less than nothing"),
        ({"sold_on": ""}, "say different things under sold_on"),
        ({"sale": "8", "sold_on": ""}, "the day of the sale is missing"),
        ({"sale": "8", "state": "returned"}, "a sale that was “returned” is not taken in"),
        ({"sale": "8", "section": "sealed", "parallel": "crate"}, "no sealed “crate” of it is here"),
    ],
)
def test_a_spoiled_row_of_a_table_of_sales_is_named_and_nothing_stored(
    client: FlaskClient, session: Session, bench: Workbench, spoil: dict[str, str], says: str
) -> None:
    sold = [
        {
            "sale": "9", "sold_on": "2026-11-20", "channel": "stall", "product": row.sold.product.key,
            "section": row.sold.section, "number": row.sold.card.number, "parallel": row.sold.copy.parallel,
            "grade": row.sold.copy.grade, "currency": "", "price": "12.50", "fee": "1.25", "state": "",
        }
        for row in to_sell(session, bench, 12)[-2:]
    ]  # fmt: skip
    out = io.StringIO()
    table = csv.DictWriter(out, fieldnames=list(sold[0]))
    table.writeheader()
    table.writerows([sold[0], sold[1] | spoil])
    key, before = token(client, "/grading/"), len(sales_results(session).rows)
    files = {"csrf_token": key, "file": (io.BytesIO(out.getvalue().encode()), "sales.csv")}
    answer = client.post("/sales/results", data=files, content_type="multipart/form-data", follow_redirects=True)
    assert says in answer.text
    session.expire_all()
    assert len(sales_results(session).rows) == before


def sealed_box(session: Session) -> BoxRecord:
    return sealed_boxes(session)[-1]


def test_a_sealed_box_is_offered_sold_and_found_in_the_table(client: FlaskClient, session: Session) -> None:
    box = sealed_box(session)
    assert f"/sales/offer?box={box.id}" in client.get("/").text
    page = client.get(f"/sales/offer?box={box.id}").text
    assert "packs, " in page
    assert "sealed" in page
    form = {
        "csrf_token": token(client, f"/sales/offer?box={box.id}"), "client_key": "o", "box": str(box.id),
        "channel": "open listing", "ask": "0", "floor": "0",
    }  # fmt: skip
    assert "Ask for something" in client.post("/sales/offer", data=form, follow_redirects=True).text
    assert "It is offered" in client.post("/sales/offer", data={**form, "ask": "140"}, follow_redirects=True).text
    assert f'Offered, open listing<span class="visually-hidden">: box {box.id}' in client.get("/").text
    refused = client.post(f"/boxes/{box.id}/open", data=form, follow_redirects=True)
    assert "is offered for sale (open listing)" in refused.text
    listing = next(row for row in live_listings(session) if row.box_id == box.id)
    sold = {**form, "client_key": "s", "sold": "1", "ask": "135", "buyer": "Ada", "listing": str(listing.id)}
    answer = client.post(f"/sales/listings/{listing.id}", data=sold, follow_redirects=True)
    assert "is noted" in answer.text
    for path in ("/print", "/print?what=label"):
        assert client.get(f"{answer.request.path}{path}").status_code == 200
    rows = list(csv.DictReader(io.StringIO(client.get("/sales/sales.csv").text)))
    row = next(one for one in rows if one["section"] == "sealed")
    assert (row["product"], row["parallel"], row["price"]) == (box.format.product.key, box.format.key, "135.00")


def test_a_sealed_sale_of_a_table_is_taken_in(client: FlaskClient, session: Session) -> None:
    box = sealed_box(session)
    head = "sale,sold_on,channel,product,section,parallel,price,fee,number\n"
    text = f"9,2026-11-23,stall,{box.format.product.key},sealed,{box.format.key},150,10,\n"
    data = {"csrf_token": token(client, "/sales/results"), "file": (io.BytesIO((head + text).encode()), "s.csv")}
    answer = client.post("/sales/results", data=data, follow_redirects=True, content_type="multipart/form-data")
    assert "1 sale taken in" in answer.text
    session.expire_all()
    assert session.get_one(BoxRecord, box.id).state == "sold"


def test_two_sealed_boxes_in_one_sale_of_a_table_are_refused(client: FlaskClient, session: Session) -> None:
    """The second one would be paid for and stay on the shelf."""
    boxes = [box for box in sealed_boxes(session) if box.format.key == "hobby"][:2]
    head = "sale,sold_on,channel,product,section,parallel,price,fee,number\n"
    line = f"9,2026-11-23,stall,{boxes[0].format.product.key},sealed,hobby,150,10,\n"
    data = {"csrf_token": token(client, "/sales/results"), "file": (io.BytesIO((head + 2 * line).encode()), "s.csv")}
    answer = client.post("/sales/results", data=data, follow_redirects=True, content_type="multipart/form-data")
    assert "a sale of its own" in answer.text
    session.expire_all()
    assert {box.state for box in boxes} == {"sealed"}


def test_commons_are_given_away_and_taken_back(client: FlaskClient, session: Session, bench: Workbench) -> None:
    some = ",".join(str(card.copy_id) for card in lots(session, bench)[0].cards[:3])
    form = {"csrf_token": token(client, "/sales/results"), "client_key": "k", "copies": some, "to": "the club"}
    assert "Given away: 3 cards" in client.post("/sales/given", data=form, follow_redirects=True).text
    page = client.get("/sales/lots").text
    assert "3 cards given away to the club" in page
    back = {**form, "back": "give-k"}
    assert "3 cards are here again" in client.post("/sales/given", data=back, follow_redirects=True).text
    assert "taken back already" in client.post("/sales/given", data=back, follow_redirects=True).text
    assert "Choose 1 to" in client.post("/sales/given", data={**form, "copies": "x"}, follow_redirects=True).text


def test_results_say_whether_sell_now_was_right_and_what_keeping_brought(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    one = to_sell(session, bench, 5)[0]
    assert 0.0 < one.sure <= 1.0
    form = {
        "csrf_token": token(client, f"/sales/offer?copy={one.sold.copy.id}"), "client_key": "o", "sold": "1",
        "copy": str(one.sold.copy.id), "channel": "open listing", "ask": "500",
    }  # fmt: skip
    assert "is noted" in client.post("/sales/offer", data=form, follow_redirects=True).text
    page = client.get("/sales/results").text
    assert "right so far" in page
    flag = session.scalars(select(FlagRecord).where(FlagRecord.go == "sell now", FlagRecord.chosen == "")).first()
    assert flag is not None
    chosen = {"csrf_token": token(client, "/flags/"), "row": str(flag.id), "go": "keep"}
    before = len(kept_cards(session))
    client.post("/flags/choose", data=chosen)
    session.expire_all()
    assert len(kept_cards(session)) == before + 1
    assert "What keeping brought" in client.get("/sales/results").text
