"""Offered, sold, packed, sent by way of the authenticator, refunded, returned, lost: each step, and nothing twice."""

from __future__ import annotations

import threading
from dataclasses import replace
from datetime import date, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.errors import BotinError, BoxStateError
from botin.core.money import Money, exponent
from botin.core.selling.road import Stop
from botin.desk.copies.elsewhere import Acquisition, acquire
from botin.desk.fees import sale_costs
from botin.desk.grading.moves import send
from botin.desk.insight.salesresults import sales_results
from botin.desk.insight.today import today_lines
from botin.desk.opening.rip import open_box, reopen_box
from botin.desk.opening.shelf import kept_packs
from botin.desk.selling import changes, listings, roads
from botin.desk.selling.disposals import Disposal, dispose, undo_disposal
from botin.desk.selling.salepage import sale_page
from botin.desk.selling.sales import Deal, sell_lot, undo_sealed_sale
from botin.desk.selling.sealedgoods import sealed_goods
from botin.desk.selling.selling import SaleError, Sold, cancel_sale, note_sale
from botin.desk.selling.simulated import fee_on, play
from botin.desk.selling.whattosell import lots, to_sell
from botin.desk.sentagain import StaleFormError
from botin.desk.settings import load_settings, save_settings
from botin.desk.workbench import Workbench
from botin.store.models_copies import CopyRecord
from botin.store.opening.boxes import get_box
from botin.store.selling.sales import get_sale, live_listings
from tests.builders import DAY, EUR, Home, eur, sums
from tests.desk.test_orders import VALUE

ADDRESS = "Eva Birk\nLamp Street 4\n1234 Harrow Bay"
HOUSE = "The market's desk\nHall 2\n9000 Lindmark"


def cards(home: Home, line: str = "1 2 3") -> list[int]:
    return [copy.id for copy in home.copies(home.opened(line))]


def sell(home: Home, copies: list[int], price: int = 1_000, *, key: str = "s", **more: object) -> int:
    """Note a sale by a channel and return its number."""
    sold = Sold("stall", "Eva", DAY, eur(price), eur(0), eur(price // 10), tuple(copies), ADDRESS)
    return note_sale(home.session, home.bench, key, replace(sold, **more)).id  # type: ignore[arg-type]


def to(home: Home, sale: int, *stops: Stop, postage: int = 0) -> None:
    """Let a sale reach some stops, packing it where that is asked for."""
    for stop in stops:
        if stop is Stop.PACKED:
            parcel = roads.put_in_parcel(home.session, home.bench, home.key(), [sale])
            done = [step.key for step in roads.steps_of_packing(home.session, parcel.id)]
            roads.keep_packing(home.session, parcel.id, done, 90)
        how = roads.Posting("parcel", "A1", eur(postage))
        roads.move_sale(home.session, home.bench, sale, stop, DAY, home.key(), how)


def offered(home: Home, some: list[int], key: str = "l", **more: object) -> int:
    what = listings.Offering("stall", eur(1_200), eur(900), tuple(some), DAY)
    return listings.offer_for_sale(home.session, home.bench, key, replace(what, **more)).id  # type: ignore[arg-type]


def goods(home: Home, box: int, minor: int = 9_000, *, key: str = "g", **more: object) -> int:
    """Note the sale of a sealed box by a channel and return its number."""
    sold = Sold("stall", "Eva", DAY, eur(minor), eur(690), eur(minor // 10), box=box, address=ADDRESS)
    return note_sale(home.session, home.bench, key, replace(sold, **more)).id  # type: ignore[arg-type]


def test_a_sealed_box_is_offered_sold_and_goes_its_road(built: Home) -> None:
    """It is no card: nothing goes by the authenticator, and its film is photographed before it is packed."""
    box = built.box(4_000)
    listing = offered(built, [], box=box.id)
    assert listings.listings(built.session, DAY)[0].words == "Small Hobby, sealed"
    for deed in (lambda: open_box(built.session, built.bench, box.id), lambda: offered(built, [], "m", box=box.id)):
        with pytest.raises(BoxStateError, match="offered for sale"):
            deed()
    sale = goods(built, box.id, 60_000, listing=listing)
    assert not live_listings(built.session)
    page = sale_page(built.session, sale)
    assert (page.title, page.product, page.record.checked) == ("Small Hobby, sealed", "Small", False)
    to(built, sale, Stop.PAID, Stop.PACKED, Stop.SENT, postage=531)
    assert roads.packed_of(built.session, [page.record]).sealed
    assert sums(built) == {
        Account.CASH: -4_000 - 531, Account.PEOPLE: 54_690, Account.SALES: -60_000, Account.FEES: 6_000,
        Account.POSTAGE: 531 - 690, Account.SOLD: 4_000,
    }  # fmt: skip
    assert sales_results(built.session).products[0].name == "Small"


def test_a_sealed_box_is_sold_once_and_comes_back_at_what_it_had_cost(built: Home) -> None:
    box = built.box(4_000)
    sale = goods(built, box.id)
    assert goods(built, box.id) == sale
    with pytest.raises(BoxStateError, match="nothing sealed any more"):
        goods(built, box.id, key="twice")
    with pytest.raises(BoxStateError, match=f"left by sale {sale}"):
        undo_sealed_sale(built.session, built.bench, box.id)
    to(built, sale, Stop.PAID, Stop.PACKED, Stop.SENT)
    made = changes.note_change(built.session, built.bench, "r", sale, changes.Change(changes.RETURN, DAY, eur(9_690)))
    assert sums(built)[Account.BOXES] == 4_000
    assert Account.SALES in sums(built)  # the buyer got his shipping back too
    changes.undo_change(built.session, built.bench, made.id)
    assert get_box(built.session, box.id).state == "sold"
    assert sums(built)[Account.SOLD] == 4_000


def test_a_bought_card_that_comes_back_has_its_cost_again(built: Home) -> None:
    came = Acquisition("base", "4", "", "bought", "a fair", DAY, eur(500))
    acquire(built.session, built.bench, built.record, built.key(), came)
    copy = built.session.scalars(select(CopyRecord.id)).one()
    sale = sell(built, [copy])
    to(built, sale, Stop.PAID, Stop.PACKED, Stop.SENT)
    changes.note_change(built.session, built.bench, "r", sale, changes.Change(changes.RETURN, DAY, eur(1_000)))
    assert sums(built) == {Account.CARDS: 500, Account.CASH: -500, Account.FEES: 100, Account.PEOPLE: -100}


def test_a_sale_of_a_sealed_box_that_is_cancelled_leaves_it_on_the_shelf(built: Home) -> None:
    before = built.box(4_000)
    books = sums(built)
    sale = goods(built, before.id)
    cancel_sale(built.session, built.bench, sale)
    assert (get_box(built.session, before.id).state, sums(built)) == ("sealed", books)


def test_packs_kept_sealed_are_sold_with_their_part_of_the_box(built: Home) -> None:
    box = built.box(4_000)
    built.log(box, "1 2 3", "4 5 6")
    built.close(box, "kept")
    books = sums(built)
    kept = sealed_goods(built.session, box.id)
    assert (kept.packs, kept.cost.minor) == (2, books[Account.BOXES])
    sale = goods(built, box.id, 3_000)
    assert sale_page(built.session, sale).title == "Small Hobby, 2 sealed packs"
    assert sums(built)[Account.SOLD] == kept.cost.minor
    assert not kept_packs(built.session)
    with pytest.raises(BoxStateError, match=f"left by sale {sale}"):
        reopen_box(built.session, built.bench, get_box(built.session, box.id))
    cancel_sale(built.session, built.bench, sale)
    assert (sums(built), len(kept_packs(built.session))) == (books, 1)


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"price": eur(0), "fee": eur(0)}, "a price above 0"),
        ({"price": Money(900, "USD"), "fee": Money(0, "USD")}, "kept in EUR"),
        ({"day": DAY - timedelta(9)}, "before it was bought"),
        ({"day": DAY + timedelta(9)}, "lies ahead"),
        ({"copies": (1,)}, "sold by itself"),
    ],
)
def test_a_sale_of_a_sealed_box_that_cannot_be_is_refused(built: Home, more: dict[str, object], says: str) -> None:
    box = built.box(4_000)
    with pytest.raises(BotinError, match=says):
        goods(built, box.id, **more)
    assert get_box(built.session, box.id).state == "sealed"


def test_amounts_are_in_the_currency_in_which_the_cards_are_kept(built: Home) -> None:
    """An amount would be taken for what it is not."""
    copies = cards(built)
    with pytest.raises(SaleError, match="kept in EUR"):
        note_sale(
            built.session, built.bench, "d", Sold("x", "", DAY, *(Money(n, "USD") for n in (500, 0, 0)), (copies[0],))
        )
    what = listings.Offering("stall", Money(900, "USD"), Money(100, "USD"), tuple(copies), DAY)
    with pytest.raises(SaleError, match="kept in EUR"):
        listings.offer_for_sale(built.session, built.bench, "l", what)
    one, two = sell(built, copies[:1], key="1"), sell(built, copies[1:2], key="2")
    get_sale(built.session, two).currency = "USD"
    with pytest.raises(SaleError, match="in one currency"):
        roads.put_in_parcel(built.session, built.bench, "p", [one, two])


def test_what_went_from_hand_to_hand_goes_in_no_parcel(built: Home) -> None:
    copies = cards(built)
    by_post, by_hand = sell(built, copies[:1], key="1"), sell(built, copies[1:2], key="2", by_hand=True)
    with pytest.raises(SaleError, match="from hand to hand"):
        roads.put_in_parcel(built.session, built.bench, "p", [by_post, by_hand])
    assert sale_page(built.session, by_post).parcel is None


@pytest.mark.parametrize(("code", "fee"), [("EUR", 150), ("JPY", 122)])
def test_the_fee_of_a_channel_is_in_the_currency_of_the_price(
    session: Session, bench: Workbench, code: str, fee: int
) -> None:
    """12 % and 0.30 of a price of 1,000 minor units where a unit has cents and where it has none; rounded to units."""
    ways = {way.name: way for way in sale_costs(session, bench.today()).ways}
    way = ways["open listing"]
    expected = round(1_000 * way.fee + way.fixed * 10 ** exponent(code))
    assert fee_on(session, bench, "open listing", Money(1_000, code)).minor == expected
    assert abs(expected - fee) < 40  # the terms of the demo: about an eighth


def test_what_was_paid_out_stays_what_it_was(built: Home) -> None:
    """A refund after the payout, taken back again: the payout was what it was."""
    sale = sell(built, cards(built)[:1])
    to(built, sale, Stop.PAID, Stop.PACKED, Stop.SENT)
    refund = changes.Change(changes.REFUND, DAY, eur(100))
    before = changes.note_change(built.session, built.bench, "b", sale, refund)
    assert roads.pay_out(built.session, built.bench, sale, DAY).minor == 800
    changes.undo_change(built.session, built.bench, before.id)
    assert (sale_page(built.session, sale).paid_out, sale_page(built.session, sale).owed) == (800, 900)
    assert roads.pay_out(built.session, built.bench, sale, DAY).minor == 800


def test_a_listing_is_offered_lowered_and_taken_off(built: Home) -> None:
    copies = cards(built)
    listing = offered(built, copies[:2], lower_permille=100, every_days=7)
    assert offered(built, copies[:2], lower_permille=100, every_days=7) == listing
    assert [built.copy(one).state for one in copies] == ["listed", "listed", "here"]
    row = listings.listings(built.session, DAY)[0]
    assert [listings.asked_on(row.record, DAY + timedelta(days)) for days in (0, 7, 14, 70)] == [
        1_200,
        1_080,
        972,
        900,
    ]
    with pytest.raises(BoxStateError, match="offered for sale already"):
        offered(built, copies[1:], "again")
    listings.note_offer(built.session, built.bench, "o", listing, eur(1_000), "Ada")
    assert listings.listings(built.session, DAY)[0].best is not None
    listings.end_listing(built.session, built.bench, listing)
    assert [built.copy(one).state for one in copies] == ["here"] * 3
    assert listings.listings(built.session, DAY) == []
    with pytest.raises(listings.ListingError, match="still offered"):
        listings.note_offer(built.session, built.bench, "p", listing, eur(1_000), "Ada")


@pytest.mark.parametrize(
    "change", [{"ask": eur(0)}, {"floor": eur(1_300)}, {"day": DAY + timedelta(1)}, {"copies": ()}]
)
def test_a_listing_that_cannot_be_is_refused(built: Home, change: dict[str, object]) -> None:
    copies = cards(built)
    with pytest.raises(BotinError):
        offered(built, copies[:1], **change)
    built.session.rollback()
    assert built.copy(copies[0]).state == "here"


def test_a_sale_is_owed_until_it_is_paid_out_and_its_road_is_walked(built: Home) -> None:
    copies = cards(built)
    before = sums(built)
    sale = sell(built, copies[:1], 10_000, shipping=eur(490))
    assert sums(built)[Account.PEOPLE] == 10_000 + 490 - 1_000
    with pytest.raises(BoxStateError, match="cannot be"):
        to(built, sale, Stop.SENT)
    to(built, sale, Stop.PAID, Stop.PACKED, Stop.SENT, Stop.THERE, postage=690)
    assert roads.pay_out(built.session, built.bench, sale, DAY) == eur(9_490)
    assert Account.PEOPLE not in sums(built)
    assert sums(built)[Account.CASH] - before[Account.CASH] == 9_490 - 690
    page = sale_page(built.session, sale)
    assert (page.net, page.postage, page.owed) == (8_800, 690, 9_490)
    found = sales_results(built.session)
    assert (found.net, found.channels[0].name, found.channels[0].net) == (8_800, "stall", 8_800)


def test_each_stop_is_taken_back_and_a_sale_cancelled(built: Home) -> None:
    copies = cards(built)
    before = sums(built)
    sale = sell(built, copies[:2])
    to(built, sale, Stop.PAID, Stop.PACKED, Stop.SENT, postage=300)
    with pytest.raises(BoxStateError, match="on its way"):
        cancel_sale(built.session, built.bench, sale)
    assert [roads.step_back(built.session, built.bench, sale) for _ in range(3)] == [
        Stop.PACKED,
        Stop.PAID,
        Stop.SOLD,
    ]
    with pytest.raises(BoxStateError, match="no stop"):
        roads.step_back(built.session, built.bench, sale)
    cancel_sale(built.session, built.bench, sale)
    assert sums(built) == before
    assert [built.copy(one).state for one in copies] == ["here"] * 3


def test_nothing_is_sold_twice(built: Home) -> None:
    copies = cards(built)
    listing = offered(built, copies[:2])
    sale = sell(built, copies[:2], listing=listing)
    assert live_listings(built.session) == []
    assert sell(built, copies[:2], listing=listing) == sale
    with pytest.raises(StaleFormError):
        sell(built, copies[:2], 2_000)
    with pytest.raises(BoxStateError, match="listing is over"):
        sell(built, copies[:1], key="t", listing=listing)
    with pytest.raises(BoxStateError, match="has left, sold"):
        sell(built, copies[:1], key="u")
    gone = Disposal("given away", DAY, eur(0), eur(0))
    with pytest.raises(BoxStateError, match="has left"):
        dispose(built.session, built.bench, "d", gone, copy_id=copies[0])
    send(built.session, built.bench, "g", VALUE, DAY, copies[2:])
    with pytest.raises(BoxStateError, match="out for grading"):
        sell(built, copies[2:], key="v")
    line = sale_page(built.session, sale).lines[0]
    with pytest.raises(BoxStateError, match=f"left by sale {sale}"):
        undo_disposal(built.session, built.bench, line.disposal_id or 0)


def test_two_windows_sell_one_card_once(built: Home) -> None:
    """Both look, both write: the store takes one of them."""
    copies, done = cards(built), []

    def window(key: str) -> None:
        with built.bench.sessions() as session:
            try:
                sold = Sold("stall", "Eva", DAY, eur(900), eur(0), eur(0), (copies[0],))
                done.append(note_sale(session, built.bench, key, sold).id)
            except Exception as exc:  # noqa: BLE001  (whatever it is, it must not be a second sale)
                done.append(str(type(exc).__name__))

    threads = [threading.Thread(target=window, args=(f"w{number}",)) for number in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sum(isinstance(one, int) for one in done) == 1
    assert len(sales_results(built.session).rows) == 1


def test_a_listed_card_that_leaves_otherwise_ends_its_listing(built: Home) -> None:
    copies = cards(built)
    offered(built, copies)
    deal = Deal(DAY, eur(700), eur(0), "Ada")
    sell_lot(built.session, built.bench, "lot", deal, copies[:2])
    assert [len(one.copies) for one in listings.listings(built.session, DAY)] == [1]
    dispose(built.session, built.bench, "d", Disposal("lost", DAY, eur(0), eur(0)), copy_id=copies[2])
    assert listings.listings(built.session, DAY) == []


def test_a_dear_raw_card_goes_to_the_authenticator_and_never_to_the_buyer_by_mistake(built: Home) -> None:
    copies = cards(built)
    sale = sell(built, copies[:1], 25_100)
    assert sale_page(built.session, sale).record.checked
    to(built, sale, Stop.PAID)
    parcel = roads.put_in_parcel(built.session, built.bench, "p", [sale])
    assert parcel.address == ""
    done = [step.key for step in roads.steps_of_packing(built.session, parcel.id)]
    roads.keep_packing(built.session, parcel.id, done)
    with pytest.raises(BoxStateError, match="authenticator’s"):
        roads.move_sale(built.session, built.bench, sale, Stop.PACKED, DAY, "k")
    save_settings(built.session, replace(load_settings(built.session), authenticator_address=HOUSE))
    roads.keep_address(built.session, sale, ADDRESS)
    assert roads.get_parcel(built.session, parcel.id).address == HOUSE
    to(built, sale, Stop.PACKED, Stop.SENT, Stop.CHECKING, Stop.PASSED, Stop.THERE)
    assert not sale_page(built.session, sell(built, copies[1:2], 25_000, key="cheap")).record.checked
    slab = built.copy(copies[2])
    slab.grade, slab.house = "9", "Ash"
    built.session.commit()
    assert not sale_page(built.session, sell(built, copies[2:], 90_000, key="slab")).record.checked


def test_several_sales_to_one_buyer_go_in_one_parcel_and_share_its_postage(built: Home) -> None:
    copies = cards(built, "1 2 3")
    one, two = sell(built, copies[:1], 1_000), sell(built, copies[1:2], 3_000, key="t")
    other = sell(built, copies[2:], 500, key="o", buyer="Ada")
    for sale in (one, two):
        to(built, sale, Stop.PAID)
    with pytest.raises(SaleError, match="one buyer"):
        roads.put_in_parcel(built.session, built.bench, "x", [one, other])
    parcel = roads.put_in_parcel(built.session, built.bench, "p", [one, two])
    roads.keep_packing(
        built.session, parcel.id, [step.key for step in roads.steps_of_packing(built.session, parcel.id)]
    )
    roads.move_sale(built.session, built.bench, one, Stop.PACKED, DAY, "pp")
    roads.move_sale(built.session, built.bench, one, Stop.SENT, DAY, "ss", roads.Posting(postage=eur(400)))
    pages = [sale_page(built.session, sale) for sale in (one, two)]
    assert [page.stop for page in pages] == [Stop.SENT] * 2
    assert [page.postage for page in pages] == [100, 300]
    assert sums(built)[Account.POSTAGE] == 400


def test_a_refund_a_return_and_a_loss_with_its_claim(built: Home) -> None:
    copies = cards(built, "1 2 3")
    one, two, three = (sell(built, [copy], 2_000, key=f"s{copy}") for copy in copies)
    for sale in (one, two, three):
        to(built, sale, Stop.PAID, Stop.PACKED, Stop.SENT)
    with pytest.raises(SaleError, match="No more can be given back"):
        changes.note_change(built.session, built.bench, "r0", one, changes.Change("refund", DAY, eur(2_001)))
    refund = changes.note_change(
        built.session, built.bench, "r", one, changes.Change("refund", DAY, eur(300), "soft corner")
    )
    assert (
        changes.note_change(built.session, built.bench, "r", one, changes.Change("refund", DAY, eur(300))).id
        == refund.id
    )
    back = changes.note_change(
        built.session, built.bench, "b", two, changes.Change("return", DAY, eur(2_000), fee_back=eur(200))
    )
    assert (built.copy(copies[1]).state, sale_page(built.session, two).record.over) == ("here", "returned")
    with pytest.raises(SaleError, match="claim pays"):
        changes.note_change(built.session, built.bench, "c0", three, changes.Change("claim", DAY, eur(50)))
    changes.note_change(built.session, built.bench, "l", three, changes.Change("lost", DAY, eur(2_000)))
    changes.note_change(built.session, built.bench, "c", three, changes.Change("claim", DAY, eur(2_000)))
    assert [sale_page(built.session, sale).net for sale in (one, two, three)] == [1_500, -200, 1_800]
    changes.undo_change(built.session, built.bench, back.id)
    assert (built.copy(copies[1]).state, sale_page(built.session, two).record.over) == ("sold", "")
    dispose_again = Disposal("sold", DAY, eur(100), eur(0))
    with pytest.raises(BoxStateError, match="has left"):
        dispose(built.session, built.bench, "again", dispose_again, copy_id=copies[1])


def test_today_says_what_is_to_pack_and_what_is_late(built: Home) -> None:
    sale = sell(built, cards(built)[:1])
    assert not [line for line in today_lines(built.session, built.bench) if line.kind == "sales"]
    to(built, sale, Stop.PAID)
    assert [line.action for line in today_lines(built.session, built.bench) if line.kind == "sales"] == ["Pack it"]
    to(built, sale, Stop.PACKED, Stop.SENT)
    built.bench.let_pass(10)
    assert [line.action for line in today_lines(built.session, built.bench) if line.kind == "sales"] == [
        "Ask after it"
    ]
    roads.move_sale(built.session, built.bench, sale, Stop.THERE, DAY + timedelta(10), "there")
    built.bench.let_pass(22)
    assert [line.action for line in today_lines(built.session, built.bench) if line.kind == "sales"] == [
        "Remind the buyer"
    ]


def test_what_to_sell_has_a_channel_an_ask_above_and_a_floor_below(session: Session, bench: Workbench) -> None:
    found = to_sell(session, bench)
    assert found
    for one in found:
        assert one.floor < one.ask
        assert one.net < one.price
        assert one.sold.copy.state == "here"
    assert [one.net for one in found] == sorted((one.net for one in found), reverse=True)
    inside = [card.copy_id for lot in lots(session, bench) for card in lot.cards]
    assert len(inside) == len(set(inside))


def test_the_simulated_market_plays_a_sale_to_its_feedback(session: Session, bench: Workbench) -> None:
    copies = [one.sold.copy.id for one in to_sell(session, bench)[:8]]
    for copy in copies:
        what = listings.Offering("open listing", eur(400), eur(300), (copy,), bench.today())
        listings.offer_for_sale(session, bench, f"l{copy}", what)
    for _ in range(4):
        bench.let_pass(5)
        play(session, bench)
    rows = [row for row in sales_results(session).rows if row.page.record.client_key.startswith("market-")]
    assert rows
    assert {row.page.stop for row in rows} <= {Stop.SOLD, Stop.PAID}
    sold = next(row.page.record for row in rows if row.page.stop is Stop.PAID)
    parcel = roads.put_in_parcel(session, bench, "p", [sold.id])
    parcel.address = parcel.address or ADDRESS
    roads.keep_packing(session, parcel.id, [step.key for step in roads.steps_of_packing(session, parcel.id)])
    for stop in (Stop.PACKED, Stop.SENT):
        roads.move_sale(session, bench, sold.id, stop, bench.today(), f"k{stop}", roads.Posting("parcel", "A7"))
    for _ in range(6):
        bench.let_pass(4)
        play(session, bench)
    page = sale_page(session, sold.id)
    assert page.stop is Stop.THERE or page.record.over
    assert page.record.payout_on is not None
    assert session.get_one(CopyRecord, page.copies[0].copy.id).state in ("sold", "here")


def test_the_kept_currency_of_a_sale_is_that_of_its_card(built: Home) -> None:
    sale = sell(built, cards(built)[:1])
    assert sale_page(built.session, sale).record.currency == EUR
    assert sale_page(built.session, sale).record.sold_on == date(2026, 11, 1)
