"""What happened in the demo after the boxes: sales, fees written down, grade counts, grading orders."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.books.orders import PAID
from botin.core.grading.grades import Inspection
from botin.core.grading.stack import CHECKS
from botin.core.grading.steps import Step
from botin.core.money import Money
from botin.core.selling.road import Stop
from botin.desk.books.accounts import Noted, take_back_entry, write_down
from botin.desk.books.purchases import BoxLine, Order, arrive, place_order, send_off
from botin.desk.books.singles import read_single
from botin.desk.fees import GRADING, LIMITS, SELLING, grading_fees, save_fees
from botin.desk.flags.drafting import begin_order, tier_named
from botin.desk.flags.submission import Mix, best_mix
from botin.desk.grading.billing import pay
from botin.desk.grading.drafts import Form, fill_form
from botin.desk.grading.inspections import save_inspection
from botin.desk.grading.memberships import Given, Joining, join, take_voucher
from botin.desk.grading.moves import Told, move_on
from botin.desk.grading.packing import keep_checks, pack, stack_of
from botin.desk.grading.simulated import play
from botin.desk.pricing.prices import type_comps
from botin.desk.pricing.rates import save_rates
from botin.desk.selling.describing import description_for, description_of_goods
from botin.desk.selling.disposals import Disposal, dispose
from botin.desk.selling.listings import Offering, offer_for_sale, title_for
from botin.desk.selling.roads import Posting, keep_packing, move_sale, pay_out, put_in_parcel, steps_of_packing
from botin.desk.selling.sealedgoods import sealed_goods
from botin.desk.selling.selling import Sold, note_sale
from botin.desk.selling.simulated import fee_on, forecast_of
from botin.desk.selling.whattosell import ToSell, for_copies, to_sell, worth_of_goods
from botin.desk.settings import load_settings, save_settings
from botin.desk.workbench import Workbench
from botin.store.books.purchases import boxes_of
from botin.store.catalog.lists import find_product
from botin.store.grading.orders import lines_of
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, GradeCountRecord
from botin.store.opening.boxes import sealed_boxes
from botin.store.selling.sales import steps_of

CHANNELS = """open listing; 12; 0.30; 0.40; 6
evening auction; 9; 0.50; 0.40; 9; 40
card table; 0; 1.50; 0; 4; 2; 60; by hand"""
POSTAGE = "20; 1.20\n100; 4.90\n; 9.50; 0.8"
TIERS = """House A:
economy; 16; 200; 12; 65; 20; member
regular; 22; 500; 25; 20; 1
express; 60; 1500; 60; 5; 1
House B:
value; 14; 250; 9; 45; 5"""
LIMITS_TABLE = """House A:
10; 55; 75
9; 60; 90
8; 65; 90
7; 70; 90
6; 80; 90
House B:
10; 58; 80
9; 63; 90
8; 70; 95
7; 80; 95"""


def sales_and_grades(session: Session, bench: Workbench, record: ProductRecord) -> None:
    """Sell a few hits of the first box, and note how a house graded the product (invented counts)."""
    for grade, count in ((10, 410), (9, 530), (8, 190), (7, 40), (6, 12)):
        session.add(GradeCountRecord(product_id=record.id, section="", grade_halves=2 * grade, count=count))
    first = select(CopyRecord).where(CopyRecord.box_id == 11, CopyRecord.run.is_not(None))
    hits = session.scalars(first.order_by(CopyRecord.id).limit(4)).all()
    for place, copy in enumerate(hits):
        sold = Disposal("sold", bench.today() - timedelta(20 - 4 * place), *_paid(8 + 7 * place))
        dispose(session, bench, f"demo-sale-{place}", sold, copy_id=copy.id)


def _paid(price: int) -> tuple[Money, Money]:
    return Money.from_major(price, "EUR"), Money.from_major(round(1.5 + 0.12 * price, 2), "EUR")


SEALED = (
    ("banked-2026", "sealed hobby 118 122 119.50"), ("banked-2026", "sealed blaster 23 24.50"),
    ("banked-2026", "set base 44 48 46"), ("pinewood-2025", "sealed jumbo 210 226 219"),
    ("trackside-1988", "sealed cello 74 79"), ("trackside-1988", "sealed cello empty 3"),
)  # fmt: skip


def sealed_sales(session: Session, bench: Workbench, records: dict[str, ProductRecord]) -> None:
    """Type what sealed boxes, an empty one and a complete set sold for."""
    for key, line in SEALED:
        type_comps(session, bench, records[key], line)


def fees(session: Session, bench: Workbench) -> None:
    """Write down fees of invented channels and houses, and some rates of exchange (all invented)."""
    since = bench.today() - timedelta(200)
    save_fees(session, SELLING, since, {"channels": CHANNELS, "postage_steps": POSTAGE})
    save_fees(session, GRADING, since, {"tiers": TIERS}, {"shipping": 19.0, "together": 8})
    save_fees(session, LIMITS, since, {"limits": LIMITS_TABLE})
    days = (since + timedelta(7 * week) for week in range(28))
    lines = (f"{day.isoformat()}; USD; EUR; {0.92 + 0.001 * (at % 7):.3f}" for at, day in enumerate(days))
    save_rates(session, "\n".join(lines), bench.today())


LOOKED = 10
"""Cards of the order that is back, with a look at each before it went."""


def grading_orders(session: Session, bench: Workbench) -> list[int]:
    """An order that is back, one to pay for, one being packed, a draft; returns the dearest signed card."""
    _joined(session, bench)
    mix = best_mix(session, bench, grading_fees(session, bench.today()), None)
    best, signed = _best(mix), _best(mix, signed=True)
    _look_first(session, bench, best[:LOOKED])
    done = _order(session, bench, "demo-order-back", "House A regular", best[:LOOKED], 78)
    play(session, bench)
    pay(session, bench, done, bench.today() - timedelta(41))
    play(session, bench)
    _order(session, bench, "demo-order-out", "House B value", best[LOOKED : LOOKED + 5], 66)
    play(session, bench)
    _being_packed(session, bench, best[LOOKED + 5 : LOOKED + 9])
    tier = tier_named(grading_fees(session, bench.today()), "House B value")
    begin_order(session, bench, "demo-order-draft", tier, signed[4:7])
    before = bench.now() - timedelta(10)
    c = CopyRecord
    old = select(c.id).where(
        c.id.in_(signed[:4] + signed[7:]), c.made_at < before.replace(tzinfo=None), c.box_id != 1
    )
    return list(session.scalars(old.limit(1)))


def _joined(session: Session, bench: Workbench) -> None:
    today = bench.today()
    joining = Joining("House A", today - timedelta(345), today + timedelta(20), Money(9_900, "EUR"))
    join(session, bench, "demo-member", joining)
    given = Given("House A", Money(500, "EUR"), 3, "regular", today + timedelta(60))
    take_voucher(session, bench, "demo-voucher", given)


def _best(mix: Mix, *, signed: bool = False) -> list[int]:
    """Candidates for grading, those that gain most first; no holder takes a poster."""
    found = sorted(mix.candidates, key=lambda one: -max(one.gains))
    return [one.copy_id for one in found if one.signed is signed and not one.number.startswith("BP")]


def _look_first(session: Session, bench: Workbench, copies: list[int]) -> None:
    for place, copy in enumerate(copies):
        score = 9.5 if place % 3 else 9.0
        look = Inspection(corners=score, edges=score, surface=score + 0.5 * (place % 2), front=54.0, back=60.0)
        save_inspection(session, bench, copy, look)


def _order(session: Session, bench: Workbench, key: str, label: str, copies: list[int], ago: int) -> int:
    """Begin, pack and send an order some days ago; a simulated house takes it."""
    day = bench.today() - timedelta(ago)
    order = _closed(session, bench, key, label, copies, day)
    for card in stack_of(session, order):
        pack(session, bench, order, card.code)
    keep_checks(session, order, [check.key for check in CHECKS], 280)
    move_on(session, bench, order, Step.PACKED, day, f"{key}-packed")
    told = Told(f"SIM{ago:06d}", Money(690, "EUR"), Money(310, "EUR"))
    move_on(session, bench, order, Step.SENT, day, f"{key}-sent", told).simulated = True
    return order


def _closed(session: Session, bench: Workbench, key: str, label: str, copies: list[int], day: date) -> int:
    tier = tier_named(grading_fees(session, bench.today()), label)
    order = begin_order(session, bench, key, tier, copies).id
    fill_form(session, bench, order, Form("555 01 42", agreed=True, share_by="person"))
    move_on(session, bench, order, Step.CLOSED, day, f"{key}-closed")
    return order


def _being_packed(session: Session, bench: Workbench, mine: list[int]) -> None:
    """An order that waits on the table, with two cards of Mira's; three are on the stack."""
    c, k, s = CopyRecord, CardRecord, SectionRecord
    hers = select(c.id).join(k, k.id == c.card_id).join(s, s.id == k.section_id).where(s.kind == "base")
    theirs = session.scalars(hers.where(c.owner_id != 1, c.state == "here").order_by(c.id).limit(2)).all()
    order = _closed(session, bench, "demo-order", "House A regular", [*mine, *theirs], bench.today())
    for card in stack_of(session, order)[:3]:
        pack(session, bench, order, card.code)
    keep_checks(session, order, ["hands", "dust", "sleeve", "holder"])


AUTHENTICATOR = "The market's authenticator\nHall 2, Velodrome Way\n9000 Lindmark"
BUYERS = ("Ada Birkeland\nLamp Street 4\n1234 Harrow Bay", "Tom Ashgrove\nTrack Road 17\n5600 Saltmarsh")


def market(session: Session, bench: Workbench, dear: list[int]) -> None:
    """Three cards and a box offered, four sales: by the authenticator, being packed, no feedback, at a table."""
    kept = replace(
        load_settings(session), authenticator_address=AUTHENTICATOR, my_address="Velodrome Lane 2\n1000 Elm"
    )
    save_settings(session, kept)
    today, (*offers, by_hand) = bench.today(), to_sell(session, bench, 4)
    sent = [line.copy_id for line in lines_of(session, 1)]
    apart = select(CopyRecord.id).where(CopyRecord.id.in_(sent), CopyRecord.box_id != 1)  # the first box stays whole
    slabs = session.scalars(apart.order_by(CopyRecord.id.desc()).limit(2)).all()
    rows = for_copies(session, bench, [*dear, *slabs])
    for place, one in enumerate(offers):
        ask, floor = (Money.from_major(value, one.currency) for value in (one.ask, one.floor))
        words = description_for(session, [one.sold])
        what = Offering(
            channel=one.channel, ask=ask, floor=floor, copies=(one.sold.copy.id,), day=today - timedelta(5),
            lower_permille=50, title=title_for([one.sold]), words=words,
        )  # fmt: skip
        offer_for_sale(session, bench, f"demo-offer-{place}", what)
    goods = sealed_goods(session, sealed_boxes(session)[0].id)
    asks = Money.from_major(1.1 * worth_of_goods(session, bench, goods), goods.box.currency)
    box = Offering(
        channel="open listing", ask=asks, floor=goods.cost, copies=(), day=today - timedelta(3), box=goods.box.id,
        title=goods.words, words=description_of_goods(goods),
    )  # fmt: skip
    offer_for_sale(session, bench, "demo-offer-box", box)
    _sale(session, bench, by_hand, "demo-sold-3", 9, channel="card table")
    checked = _sale(session, bench, rows[0], "demo-sold-0", 6, checked=True)
    _pack(session, bench, checked, whole=True)
    move_sale(
        session, bench, checked, Stop.SENT, today - timedelta(4), "demo-sold-0-sent", Posting("courier", "SIM77")
    )
    _pack(session, bench, _sale(session, bench, rows[1], "demo-sold-1", 1), whole=False)
    there = _sale(session, bench, rows[2], "demo-sold-2", 27)
    _pack(session, bench, there, whole=True)
    for stop, ago in ((Stop.SENT, 26), (Stop.THERE, 23)):
        how = Posting("tracked letter", "SIM78", Money(260, "EUR"))
        move_sale(session, bench, there, stop, today - timedelta(ago), f"demo-sold-2-{stop}", how)
    pay_out(session, bench, there, today - timedelta(22))


def _sale(
    session: Session, bench: Workbench, one: ToSell, key: str, ago: int, *, checked: bool = False,
    channel: str = "open listing",
) -> int:  # fmt: skip
    price, day = Money.from_major(one.price, one.currency), bench.today() - timedelta(ago)
    address = BUYERS[ago % 2]
    values = {one.sold.copy.id: one.price}
    sold = Sold(
        channel=channel, buyer=address.partition("\n")[0], day=day, price=price,
        shipping=Money(0, one.currency), fee=fee_on(session, bench, channel, price),
        copies=(one.sold.copy.id,), address=address, checked=checked, weights=values, by_hand=channel == "card table",
        forecast=forecast_of(session, bench, values, price, channel),
    )  # fmt: skip
    sale = note_sale(session, bench, key, sold)
    sale.simulated = True
    if sold.by_hand:
        for stop in (Stop.PAID, Stop.THERE, Stop.DONE):
            move_sale(session, bench, sale.id, stop, day, f"{key}-{stop}")
        return sale.id
    move_sale(session, bench, sale.id, Stop.PAID, day, f"{key}-paid")
    return sale.id


def _pack(session: Session, bench: Workbench, sale: int, *, whole: bool) -> None:
    made = put_in_parcel(session, bench, f"demo-parcel-{sale}", [sale])
    steps = [step.key for step in steps_of_packing(session, made.id)]
    keep_packing(session, made.id, steps if whole else steps[:1], 120)
    if whole:
        day = max(step.day for step in steps_of(session, [sale])[sale])
        move_sale(session, bench, sale, Stop.PACKED, day, f"demo-packed-{sale}")


def parcel(session: Session, bench: Workbench) -> None:
    """An order of two boxes and two singles: one box is here, the rest is on its way."""
    day, record = bench.today(), find_product(session, "banked-2026")
    hobby = next(fmt for fmt in record.formats if fmt.key == "hobby")
    singles = (
        *read_single(session, bench, record.id, "12 slate 7/199", Money(350, "EUR")),
        *read_single(session, bench, record.id, "30", Money(60, "EUR")),
    )
    boxes = (BoxLine(hobby.id, 2, Money(10_500, "EUR"), "pair"),)
    order = Order(
        bought_on=day - timedelta(6), seller="Fairground table 4", shipping=Money(990, "EUR"), tax=Money(420, "EUR"),
        state=PAID, boxes=boxes, singles=singles, due_on=day + timedelta(2),
    )  # fmt: skip
    made = place_order(session, bench, "demo-parcel", order)
    send_off(session, made.id, order.due_on)
    arrive(session, bench, made.id, [boxes_of(session, made.id)[0].id], [])


def costs(session: Session, bench: Workbench) -> None:
    """Sleeves that were bought, one entry written twice and taken back, and what Mira paid for her packs."""
    day = bench.today()
    sleeves = Noted("materials", Money(1_250, "EUR"), day - timedelta(20), words="100 sleeves, 25 holders")
    write_down(session, bench, "demo-sleeves", sleeves)
    twice = write_down(session, bench, "demo-twice", sleeves)
    take_back_entry(session, bench, twice.id)
    write_down(session, bench, "demo-mira", Noted("got from", Money(500, "EUR"), day - timedelta(10), "Mira"))
