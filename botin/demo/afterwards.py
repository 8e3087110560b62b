"""What happened in the demo after the boxes: sales, fees written down, grade counts, one grading order out."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.grading.grades import Inspection
from botin.core.money import Money
from botin.desk.books.accounts import Noted, take_back_entry, write_down
from botin.desk.books.purchases import PAID, BoxLine, Order, arrive, boxes_of, place_order, send_off
from botin.desk.books.singles import read_single
from botin.desk.catalog.library import find_product
from botin.desk.fees import GRADING, LIMITS, SELLING, grading_fees, save_fees
from botin.desk.flags.submission import best_mix
from botin.desk.grading.inspections import save_inspection
from botin.desk.grading.orders import came_back, orders, send
from botin.desk.pricing.prices import type_comps
from botin.desk.pricing.rates import save_rates
from botin.desk.selling.disposals import Disposal, dispose
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord
from botin.store.models_copies import CopyRecord, FlagRecord, GradeCountRecord

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
SENT = 4


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


GRADES = ("10", "9", "10", "8", "9", "9", "10", "9", "8", "9")


def order_back(session: Session, bench: Workbench) -> None:
    """Send ten cards that had been looked at, and take their grades in, so that there are forecasts to judge."""
    tier = grading_fees(session, bench.today()).costs.tiers[1]
    v = FlagRecord
    rows = session.execute(select(v.card_id, v.parallel).where(v.go == "sell now").order_by(v.net.desc()).offset(10))
    versions = [(card, parallel) for card, parallel in rows.fetchmany(len(GRADES))]
    order = send(session, bench, "demo-order-back", tier, bench.today() - timedelta(70), versions)
    for copy, grade in zip(next(o for o in orders(session) if o.record.id == order.id).copies, GRADES, strict=True):
        score = min(10.0, float(grade) + (0.5 if copy.place % 3 else -0.5))
        look = Inspection(corners=score, edges=score, surface=score, front=54.0, back=60.0)
        save_inspection(session, bench, copy.copy_id, look)
        came_back(session, bench, copy.id, grade, bench.today() - timedelta(41))


def order_out(session: Session, bench: Workbench) -> None:
    """Send the best candidates of one tier to a house: the demo's grading order that is out."""
    terms = grading_fees(session, bench.today())
    mix = best_mix(session, bench, terms, None)
    for tier in terms.costs.tiers:
        rows = mix.parcels.get(tier.label) or mix.parcels.get(f"{tier.label}, signed")
        if rows:
            chosen = [(one.card_id, one.parallel) for one, _ in rows[:SENT]]
            send(session, bench, "demo-order", tier, bench.today() - timedelta(12), chosen)
            return


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
