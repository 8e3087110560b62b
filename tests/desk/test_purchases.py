"""Orders of boxes and singles: postage and tax shared, paid in another currency, on the way, here in parts, taken back."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.books.orders import ItemCost, in_currency, share_parcel
from botin.core.books.posting import Account, AmountError
from botin.core.errors import BoxStateError, NotFoundError, StaleFormError
from botin.core.money import Money
from botin.desk.books.accounts import books
from botin.desk.books.orderpage import order_page
from botin.desk.books.purchases import (
    ARRIVED,
    IN_PART,
    ORDERED,
    PAID,
    UNDER_WAY,
    BoxLine,
    Order,
    arrive,
    cancel,
    pay,
    place_order,
    send_off,
)
from botin.desk.books.singles import read_single
from botin.desk.copies.setboard import board
from botin.desk.opening.boxedit import bring_back_box, correct_box, facts_of_box, remove_box
from botin.desk.opening.rip import open_box
from botin.desk.pricing.rates import NoRateError, save_rates
from botin.desk.selling.listings import Offering, end_listing, offer_for_sale
from botin.desk.selling.sales import Deal, sell_lot
from botin.store.books.postings import bases, results_of_purchase, results_with
from botin.store.books.purchases import boxes_of, copies_of, open_orders
from botin.store.models import BoxRecord
from botin.store.models_books import PurchaseRecord
from botin.store.opening.boxes import get_box
from tests.builders import DAY, EUR, Home, eur, sums
from tests.web.test_fees import token


def order(built: Home, state: str = ARRIVED, **more: object) -> Order:
    """Two boxes at 40.00, one at 20.00 and two singles at 5.00; 12.34 of postage, 1.00 of duty."""
    fmt = built.record.formats[0].id
    singles = read_single(built.session, built.bench, built.record.id, "1 copper 3/25, 2", eur(500))
    boxes = (BoxLine(fmt, 2, eur(4_000), "pair"), BoxLine(fmt, 1, eur(2_000)))
    made = Order(DAY, "The fair", eur(1_234), eur(100), state, boxes, tuple(singles))
    return replace(made, **more)  # type: ignore[arg-type]


def test_postage_and_tax_are_shared_to_the_cent() -> None:
    shared = share_parcel([eur(4_000), eur(4_000), eur(2_000), eur(1)], eur(1_000), eur(333))
    assert sum(cost.shipping.minor for cost in shared) == 1_000
    assert sum(cost.tax.minor for cost in shared) == 333
    assert [cost.shipping.minor for cost in shared] == [400, 400, 200, 0]
    free = share_parcel([eur(0), eur(0)], eur(501), eur(0))
    assert sorted(cost.shipping.minor for cost in free) == [250, 251]
    assert share_parcel([], eur(0), eur(0)) == []


def test_parts_in_another_currency_add_up() -> None:
    cost = ItemCost(Money(3_333, "USD"), Money(333, "USD"), Money(33, "USD"))
    turned = cost.turned(Decimal("0.92"), EUR)
    assert turned.total == in_currency(cost.total, Decimal("0.92"), EUR) == eur(3_403)
    assert in_currency(Money(1_200, "JPY"), Decimal("0.0061"), EUR) == eur(732)


def test_everything_of_an_order_is_stored_and_booked_once(built: Home) -> None:
    for _ in range(2):
        made = place_order(built.session, built.bench, "k", order(built))
    boxes, copies = boxes_of(built.session, made.id), copies_of(built.session, made.id)
    assert [box.price_minor for box in boxes] == [4_000, 4_000, 2_000]
    assert [copy.serial for copy in copies] == [3, None]
    total = 4_000 + 4_000 + 2_000 + 500 + 500 + 1_234 + 100
    assert sums(built)[Account.CASH] == -total
    assert sums(built)[Account.BOXES] + sums(built)[Account.CARDS] == total
    page = order_page(built.session, built.bench, made.id)
    assert page.totals == (eur(total),)
    assert page.seller is not None
    with pytest.raises(StaleFormError):
        place_order(built.session, built.bench, "k", order(built, shipping=eur(1)))


@pytest.mark.parametrize(
    "more",
    [
        {"boxes": (), "singles": ()},
        {"shipping": Money(-1, EUR)},
        {"state": "lost"},
        {"state": IN_PART},
        {"bought_on": DAY + timedelta(90)},
    ],
)
def test_an_order_that_cannot_be_stores_nothing(built: Home, more: dict[str, object]) -> None:
    with pytest.raises(AmountError):
        place_order(built.session, built.bench, "k", order(built, **more))
    built.session.rollback()
    assert built.session.scalar(select(func.count()).select_from(PurchaseRecord)) == 0
    assert built.session.scalar(select(func.count()).select_from(BoxRecord)) == 0


def test_an_order_comes_in_parts(built: Home) -> None:
    made = place_order(built.session, built.bench, "k", order(built, PAID))
    first, *others = boxes_of(built.session, made.id)
    with pytest.raises(BoxStateError, match="not arrived"):
        open_box(built.session, built.bench, first.id)
    send_off(built.session, made.id, DAY + timedelta(5))
    assert made.state == UNDER_WAY
    assert [one.id for one in open_orders(built.session)] == [made.id]
    single = copies_of(built.session, made.id)[1]
    cell = next(c for c in board(built.session, built.bench, [(built.record.id, "base")]).cells if c.number == "2")
    assert cell.have == 1, "what is paid and on its way is mine"
    arrive(built.session, built.bench, made.id, [first.id], [single.id])
    assert made.state == IN_PART
    assert open_box(built.session, built.bench, first.id).state == "open"
    with pytest.raises(BoxStateError):
        open_box(built.session, built.bench, others[0].id)
    arrive(built.session, built.bench, made.id, [], [])
    assert made.state == ARRIVED
    assert open_orders(built.session) == []


def test_a_pre_order_is_in_no_book_until_it_is_paid(built: Home) -> None:
    made = place_order(built.session, built.bench, "k", order(built, ORDERED, bought_on=DAY + timedelta(60)))
    assert sums(built) == {}
    with pytest.raises(BoxStateError, match="not paid"):
        arrive(built.session, built.bench, made.id, [], [])
    with pytest.raises(BoxStateError, match="not paid"):
        send_off(built.session, made.id, None)
    with pytest.raises(AmountError):
        pay(built.session, built.bench, made.id, DAY + timedelta(60))
    for _ in range(2):
        pay(built.session, built.bench, made.id, DAY)
    assert sums(built)[Account.CASH] == -12_334
    assert made.state == PAID


def test_paid_in_another_currency(built: Home) -> None:
    dollars = order(
        built, shipping=Money(1_234, "USD"), tax=Money(100, "USD"), singles=(),
        boxes=(BoxLine(built.record.formats[0].id, 1, Money(10_000, "USD")),),
    )  # fmt: skip
    with pytest.raises(NoRateError):
        place_order(built.session, built.bench, "k", dollars)
    built.session.rollback()
    save_rates(built.session, f"{DAY.isoformat()}; USD; EUR; 0.92", DAY)
    made = place_order(built.session, built.bench, "k", dollars)
    (box,) = boxes_of(built.session, made.id)
    assert box.currency == EUR
    assert sums(built)[Account.BOXES] == round(11_334 * 0.92)
    assert sums(built, "USD")[Account.CASH] == -11_334
    assert sums(built)[Account.EXCHANGE] == -sums(built)[Account.BOXES]
    facts = replace(facts_of_box(box), price=Money(2 * box.price_minor, EUR))
    correct_box(built.session, built.bench, box.id, "fix", facts)
    assert sums(built)[Account.EXCHANGE] == -sums(built)[Account.BOXES], "corrected, it stays paid in dollars"
    remove_box(built.session, built.bench, box.id)
    bring_back_box(built.session, built.bench, box.id)
    assert sums(built)[Account.EXCHANGE] == -sums(built)[Account.BOXES]
    assert Account.CASH not in {account for account, minor in sums(built).items() if minor}
    own = place_order(built.session, built.bench, "k2", replace(dollars, rate="0.5"))
    assert boxes_of(built.session, own.id)[0].price_minor == 5_000


def test_an_order_that_never_was_is_taken_back(built: Home) -> None:
    made = place_order(built.session, built.bench, "k", order(built))
    for _ in range(2):
        cancel(built.session, built.bench, made.id)
    assert not any(sums(built).values())
    assert boxes_of(built.session, made.id) == []
    other = place_order(built.session, built.bench, "k2", order(built))
    built.log(boxes_of(built.session, other.id)[0], "1 2 3")
    with pytest.raises(BoxStateError, match="was opened"):
        cancel(built.session, built.bench, other.id)


def test_an_order_by_the_browser(client: FlaskClient, session: Session) -> None:
    csrf = {"csrf_token": token(client)}
    page = client.get("/orders/new").text
    assert 'name="box-3-price"' in page
    assert 'name="box-11-price"' in client.get("/orders/new?rows=12").text
    fields = {
        **csrf, "client_key": "w", "seller": "Card table 9", "bought_on": "2026-11-20", "state": "paid", "currency": "EUR",
        "box-0-quantity": "2", "box-0-format": "1", "box-0-price": "99.50", "single-1-product": "1", "single-1-card": "12 slate 7/199",
        "single-1-price": "3", "shipping": "9.90", "due_on": "2026-12-01",
    }  # fmt: skip
    for more, words in (
        ({"box-0-quantity": "two"}, "is no number of boxes"),
        ({"single-1-card": "99999"}, "99999"),
        ({"rate": "x", "currency": "USD"}, "is no rate"),
        ({"currency": "12"}, "12"),
        ({"box-0-price": "dear"}, "dear"),
    ):
        refused = client.post("/orders/new", data={**fields, **more})
        assert refused.status_code == 422
        assert words in refused.text
        assert 'value="Card table 9"' in refused.text, "what was typed is kept"
    own = PurchaseRecord.client_key != "demo-parcel"
    assert session.scalar(select(func.count()).where(own)) == 0
    shown = client.post("/orders/new", data=fields, follow_redirects=True).text
    assert "Nothing was stored" not in shown, re.findall(r"Nothing was stored.*", shown)
    assert "Card table 9" in shown
    assert "€211.90" in shown
    made = session.scalars(select(PurchaseRecord).where(own)).one()
    assert "On the way" in client.get("/").text
    path = f"/orders/{made.id}"
    assert (
        "Tick what arrived"
        in client.post(f"{path}/arrived", data={**csrf, "what": "ticked"}, follow_redirects=True).text
    )
    assert (
        "on its way" in client.post(f"{path}/sent", data={**csrf, "due_on": "2026-12-02"}, follow_redirects=True).text
    )
    assert "it is here" in client.post(f"{path}/arrived", data={**csrf, "what": "all"}, follow_redirects=True).text
    assert "by mirrors" in client.post(f"{path}/cancel", data=csrf, follow_redirects=True).text
    assert "was taken back" in client.get(path).text
    assert client.get("/orders/999").status_code == 404
    ahead = {**fields, "client_key": "p", "state": "pre-ordered", "bought_on": "2027-02-01"}
    page = client.post("/orders/new", data=ahead, follow_redirects=True).text
    assert "It is paid" in page
    second = session.scalars(select(PurchaseRecord.id).order_by(PurchaseRecord.id.desc())).first()
    assert "in the books" in client.post(f"/orders/{second}/paid", data=csrf, follow_redirects=True).text


def test_two_copies_of_a_single_are_two_lines_and_what_it_cannot_be_is_refused(built: Home) -> None:
    lines = read_single(built.session, built.bench, built.record.id, "1 x2", eur(500))
    assert [line.item.known.number for line in lines] == ["1", "1"]
    with pytest.raises(AmountError, match="is mine"):
        read_single(built.session, built.bench, built.record.id, "1 @Mira", eur(500))


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"box-1-price": "40"}, "row 2 of the boxes"),
        ({"box-1-format": "1"}, "row 2 of the boxes"),
        ({"box-1-price": "40", "box-1-format": "x"}, "row 2 of the boxes"),
        ({"box-1-label": "a gift"}, "row 2 of the boxes"),
        ({"single-2-price": "4"}, "row 3 of the singles"),
        ({"rate": "0.92"}, "no rate is needed"),
        ({"box-²-price": "4"}, "cannot be told apart"),
        ({f"single-{'9' * 5000}-price": "4"}, "cannot be told apart"),
        ({"bought_on": ""}, "day it was bought"),
        ({"bought_on": "2027-11-20"}, "lies ahead"),
        ({"tax": "-3"}, "not negative"),
    ],
)
def test_what_an_order_could_not_use_is_named(client: FlaskClient, more: dict[str, str], words: str) -> None:
    fields = {
        "csrf_token": token(client), "client_key": "w", "bought_on": "2026-11-20", "state": "paid", "currency": "EUR",
        "box-0-quantity": "1", "box-0-format": "1", "box-0-price": "99.50",
    }  # fmt: skip
    answer = client.post("/orders/new", data={**fields, **more})
    assert answer.status_code == 422
    assert words in answer.text


def test_a_thing_of_another_order_does_not_arrive_with_this_one(built: Home) -> None:
    made = place_order(built.session, built.bench, "a", order(built, UNDER_WAY))
    other = place_order(built.session, built.bench, "b", order(built, UNDER_WAY))
    with pytest.raises(NotFoundError, match="not of this order"):
        arrive(built.session, built.bench, made.id, [boxes_of(built.session, other.id)[0].id], [])
    built.session.rollback()
    with pytest.raises(NotFoundError, match="not of this order"):
        arrive(built.session, built.bench, made.id, [], [copies_of(built.session, other.id)[0].id])


def test_an_order_has_its_result_over_boxes_their_cards_and_its_singles(built: Home) -> None:
    made = place_order(built.session, built.bench, "k", order(built))
    total = 12_334
    (result,) = results_of_purchase(built.session, made.id)
    assert (result.spent, result.came_in, result.stock, result.realised) == (total, 0, total, 0)
    box = boxes_of(built.session, made.id)[0].id
    for line in ("1 2 3", "4 5 6", "7 8 9", "10 S-1 1"):
        built.log(get_box(built.session, box), line)
    built.close(get_box(built.session, box))
    copy = built.copies(get_box(built.session, box))[0]
    single = copies_of(built.session, made.id)[0]
    cost = sum(bases(built.session, [one.id])[one.id].minor for one in (copy, single))
    sell_lot(built.session, built.bench, "s", Deal(DAY, eur(2_000), eur(150)), [copy.id, single.id])
    (result,) = results_of_purchase(built.session, made.id)
    assert (result.came_in, result.realised) == (1_850, 1_850 - cost)
    assert result.spent - result.came_in + result.realised == result.stock, "every entry adds up to nothing"
    other = place_order(built.session, built.bench, "k2", order(built))
    assert results_of_purchase(built.session, other.id)[0].came_in == 0
    parts = [results_of_purchase(built.session, one.id)[0] for one in (made, other)]
    year = books(built.session, built.bench).years[0]
    assert (year.name, year.result.cash) == ("2026", sum(part.cash for part in parts))
    assert year.result.realised == sum(part.realised for part in parts)
    (fair,) = results_with(built.session, made.seller_id or 0)
    assert (fair.spent, fair.came_in) == (2 * total, 0)


def test_what_is_known_of_a_bought_single_stays_with_it(built: Home) -> None:
    singles = read_single(
        built.session,
        built.bench,
        built.record.id,
        'S-1 sticker corner cert:A771 code:AB-1 "from the album"',
        eur(500),
    )
    made = place_order(built.session, built.bench, "k", Order(DAY, "", eur(0), eur(0), ARRIVED, (), tuple(singles)))
    (copy,) = copies_of(built.session, made.id)
    assert (copy.marks, copy.certificate) == ("soft corner", "A771")
    for words in ("from the album", "sticker", "AB-1"):
        assert words in copy.note


def test_an_order_is_not_taken_back_while_a_box_of_it_is_offered(built: Home) -> None:
    made = place_order(built.session, built.bench, "o", order(built))
    box = boxes_of(built.session, made.id)[0]
    what = Offering("stall", eur(5_000), eur(4_000), (), DAY, box=box.id)
    listing = offer_for_sale(built.session, built.bench, "l", what)
    with pytest.raises(BoxStateError, match="offered for sale"):
        cancel(built.session, built.bench, made.id)
    end_listing(built.session, built.bench, listing.id)
    assert cancel(built.session, built.bench, made.id).undone_at is not None
