"""What happened in the demo after the boxes: sales, fees written down, grade counts, grading orders."""

from __future__ import annotations

from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.grading.grades import Inspection
from botin.core.grading.stack import CHECKS
from botin.core.grading.steps import Step
from botin.core.money import Money
from botin.desk.books.accounts import Noted, take_back_entry, write_down
from botin.desk.books.purchases import PAID, BoxLine, Order, arrive, boxes_of, place_order, send_off
from botin.desk.books.singles import read_single
from botin.desk.catalog.library import find_product
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
from botin.desk.selling.disposals import Disposal, dispose
from botin.desk.workbench import Workbench
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, GradeCountRecord

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


def grading_orders(session: Session, bench: Workbench) -> None:
    """An order that is back, one to pay for, one being packed for two people, a draft; the house is made up."""
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
