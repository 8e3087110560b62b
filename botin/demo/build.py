"""Fill an empty store with the demo."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from pathlib import Path

import numpy as np
from sqlalchemy import insert
from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.demo.afterwards import costs, fees, grading_orders, market, parcel, sales_and_grades, sealed_sales
from botin.demo.league import riders
from botin.demo.market import demo_prices
from botin.demo.packing import pack_box, packed_model
from botin.demo.products import Made, make_product
from botin.demo.season import SEASON
from botin.demo.seasons import OTHERS
from botin.desk.books.booking import book_closing
from botin.desk.catalog.library import import_files
from botin.desk.flags.everything import judge_all
from botin.desk.opening.owners import settle_owners
from botin.desk.opening.shelf import Purchase, buy_box
from botin.desk.settings import Settings, save_settings
from botin.desk.workbench import Workbench
from botin.exchange.catalog.package import write_folder
from botin.exchange.pricing import prices_csv
from botin.store.catalog.lists import find_product
from botin.store.copies.copies import follow_box
from botin.store.models import BoxRecord, FormatRecord, PullRecord
from botin.store.opening.boxes import card_ids, get_box

START = 20260824
"""Start value of the random generator: the demo is the same each time."""


@dataclass(frozen=True, slots=True)
class BoxPlan:
    """A box of the demo: what was paid, and how far it is opened (``packs`` of one that is half open)."""

    product: str
    format: str
    days_ago: int
    paid: tuple[str, str, str]
    state: str
    label: str = ""
    packs: int = 0
    owners: str = ""


BOXES = (
    BoxPlan("banked-2026", "hobby", 41, ("112.00", "6.90", "0.00"), "closed", "club night"),
    BoxPlan("pinewood-2025", "jumbo", 30, ("189.00", "0.00", "11.34"), "closed"),
    BoxPlan("banked-2026", "blaster", 12, ("27.99", "0.00", "0.00"), "closed", "corner shop"),
    BoxPlan("banked-2026", "hobby", 6, ("109.50", "6.90", "0.00"), "sealed"),
    BoxPlan("banked-2026", "blaster", 5, ("24.99", "0.00", "0.00"), "sealed"),
    BoxPlan("pinewood-2025", "jumbo", 2, ("196.00", "8.50", "0.00"), "sealed", "birthday"),
    BoxPlan("trackside-1988", "cello", 300, ("72.00", "9.00", "0.00"), "closed", "fair, table 9"),
    BoxPlan("trackside-1988", "cello", 300, ("72.00", "9.00", "0.00"), "closed", "fair, table 9"),
    BoxPlan("banked-2025", "hobby", 400, ("99.00", "6.90", "0.00"), "closed"),
    BoxPlan("banked-2025", "hobby", 398, ("99.00", "6.90", "0.00"), "closed"),
    BoxPlan("banked-2026", "hobby", 90, ("126.00", "6.90", "0.00"), "closed", "release week"),
    BoxPlan("banked-2026", "hobby", 90, ("126.00", "6.90", "0.00"), "closed", "release week"),
    BoxPlan("banked-2026", "hobby", 70, ("115.00", "6.90", "0.00"), "closed"),
    BoxPlan("banked-2026", "hobby", 64, ("115.00", "6.90", "0.00"), "closed"),
    BoxPlan("pinewood-2025", "jumbo", 210, ("199.00", "0.00", "0.00"), "closed"),
    BoxPlan("pinewood-2025", "jumbo", 205, ("199.00", "0.00", "0.00"), "closed"),
    BoxPlan(
        "banked-two-2026", "hanger", 14, ("19.99", "0.00", "0.00"), "closed", "with Mira", owners="packs 1-2: Mira"
    ),
    BoxPlan("mail-box-2026", "mail", 9, ("44.00", "0.00", "0.00"), "sealed", "November"),
    BoxPlan(
        product="banked-2026",
        format="hobby",
        days_ago=3,
        paid=("109.50", "6.90", "0.00"),
        state="open",
        label="half open",
        packs=11,
    ),
)


def make_products(folder: Path, today: date) -> list[Made]:
    """Write every product of the demo as a package folder with its prices; return what was made."""
    rng = np.random.default_rng(START)
    league = riders(340, rng)
    made = [make_product(plan, league, rng) for plan in SEASON]
    for item in made:
        _write(item, folder, today, rng)
    for place, plan in enumerate(OTHERS):
        own = np.random.default_rng(START + 100 + place)
        item = make_product(plan, riders(max(340, plan.sections[0].size), own), own)
        _write(item, folder, today, own)
        made.append(item)
    return made


def _write(item: Made, folder: Path, today: date, rng: np.random.Generator) -> None:
    write_folder(item.product, folder / item.product.key)
    prices = demo_prices(item, today, rng)
    (folder / item.product.key / "prices.csv").write_bytes(prices_csv(prices, item.product.currency))


def build_demo(session: Session, bench: Workbench) -> None:
    """Put the demo into an empty store: products through the importer, then the boxes."""
    now = bench.now()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        made = {item.product.key: item for item in make_products(folder, now.date())}
        records = {key: import_files(session, bench, [folder / key]).record for key in made}
    star = max(made["banked-2026"].fame.items(), key=lambda pair: pair[1] * (pair[0][0] == "base"))[0]
    collected = made["banked-2026"].product.card_by_number[star].name
    storage = "Top box: hits\nTop box: value over 5\nBinder, row 1: section Base\nLong box 2: everything"
    save_settings(session, Settings(collected=f"{collected};Harrow Bay RC", storage_plan=storage))
    sealed_sales(session, bench, records)  # before anything rests on prices: each model is fitted once
    rng = np.random.default_rng(START + 1)
    for place, plan in enumerate(BOXES):
        key = f"demo-box-{place}"
        _box(session, bench, made[plan.product], plan=plan, rng=rng, key=key)
    sales_and_grades(session, bench, records["banked-2026"])
    fees(session, bench)
    judge_all(session, bench)
    market(session, bench, grading_orders(session, bench))
    parcel(session, bench)
    costs(session, bench)
    judge_all(session, bench)  # what came back has taught


def _box(
    session: Session, bench: Workbench, made: Made, *, plan: BoxPlan, rng: np.random.Generator, key: str
) -> None:
    record = find_product(session, made.product.key)
    fmt = next(row for row in record.formats if row.key == plan.format)
    price, shipping, tax = (Money.from_major(part, record.currency) for part in plan.paid)
    bought = bench.now() - timedelta(days=plan.days_ago)
    box = buy_box(session, bench, key, Purchase(fmt.id, bought.date(), price, shipping, tax, plan.label))
    if plan.state != "sealed":
        when = bought + timedelta(days=1)
        box.owners = plan.owners
        _open(session, bench, made, box=box, when=when, rng=rng, packs=plan.packs)


def _open(
    session: Session, bench: Workbench, made: Made, *, box: BoxRecord, when: datetime, rng: np.random.Generator,
    packs: int = 0,
) -> None:  # fmt: skip
    product, fmt = made.product, session.get_one(FormatRecord, box.format_id)
    packed = pack_box(product, packed_model(product, fmt.key), rng)
    versions = [(copy.card.section, copy.card.number) for copy in packed]
    ids = card_ids(session, fmt.product_id, versions)
    rows = [
        {
            "box_id": box.id,
            "card_id": ids[(copy.card.section, copy.card.number)],
            "client_key": f"demo-{box.id}:{place}",
            "pack": copy.pack,
            "parallel": copy.parallel,
            "serial": copy.serial,
            "run": copy.run,
            "logged_at": when + timedelta(seconds=4 * place),
        }
        for place, copy in enumerate(packed)
        if not packs or copy.pack <= packs
    ]
    session.execute(insert(PullRecord), rows)
    follow_box(session, box.id)
    settle_owners(session, bench, box)
    box.state, box.opened_at, box.pack = ("open", when, packs + 1) if packs else ("closed", when, fmt.packs_per_box)
    if not packs:
        box.closed_at = when + timedelta(seconds=4 * len(rows))
        session.flush()
        book_closing(session, bench, get_box(session, box.id))
    session.commit()
