"""Sales from a table: each row a copy that is here, rows with the same number one sale; all of them or none."""

from __future__ import annotations

import hashlib
from collections import defaultdict
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.catalog.naming import Names
from botin.core.catalog.product import Product
from botin.core.errors import BotinError, ImportRefusedError
from botin.core.money import Money, parse_money
from botin.core.selling.road import Stop
from botin.desk.selling.selling import Sold, note_sale
from botin.desk.workbench import Workbench
from botin.exchange.loosetable import read_loose
from botin.exchange.salescolumns import SALES
from botin.exchange.tables import RawRow
from botin.exchange.values import Days
from botin.store.catalog.known import known_columns
from botin.store.catalog.lists import all_products
from botin.store.copies.copies import copies_alike
from botin.store.models import BoxRecord, ProductRecord
from botin.store.models_copies import CopyRecord
from botin.store.models_selling import SaleRecord, SaleStepRecord
from botin.store.opening.boxes import card_ids, sealed_boxes
from botin.store.selling.sales import free_step_key, sale_keyed
from botin.store.unit import finish

SEALED = "sealed"
"""Stands in the column of the section for a sealed box; its format stands under the finish."""


@dataclass(frozen=True, slots=True)
class _Row:
    """A row as understood: a copy, or a sealed box."""

    copy: CopyRecord | None
    box: BoxRecord | None
    price: Money
    fee: Money


@dataclass(frozen=True, slots=True)
class Taken:
    """Sales that came, those of the same file that were here, and columns nobody used."""

    came: int
    here: int
    unused: tuple[str, ...]


def import_sales(session: Session, bench: Workbench, data: bytes, name: str) -> Taken:
    """Take in sales of copies that are here; the same file given again stores nothing more.

    Raises
    ------
    ColumnsUnclearError
        When a column that is needed is not surely there.
    ImportRefusedError
        When a row names no copy that is here, or cannot be read: the message names its line, nothing is stored.
    """
    if not data:
        message = "No file was given. Choose a table of sales."
        raise ImportRefusedError(message)
    table = read_loose(SALES, data, name, known_columns(session))
    groups: dict[str, list[RawRow]] = defaultdict(list)
    for row in table.rows:
        groups[row.get("sale") or f"line {row.line}"].append(row)
    if not groups:
        message = f"{name} has no row with a sale. Nothing was stored."
        raise ImportRefusedError(message)
    stamp, used, here = hashlib.sha256(data).hexdigest()[:16], set[int](), 0
    for word, rows in groups.items():
        key = f"file-{stamp}-{word}"
        if sale_keyed(session, key) is not None:
            here += 1
            continue
        _take(session, bench, key, rows, used)
    finish(session)
    return Taken(len(groups) - here, here, table.unknown)


def _take(session: Session, bench: Workbench, key: str, rows: list[RawRow], used: set[int]) -> None:
    first, line = rows[0], rows[0].line
    try:
        found = [_row(session, bench, row, used) for row in rows]
        day = Days([one.get("sold_on") for one in rows]).read(first.get("sold_on"))
        _check_alike(rows)
        if len(found) > 1 and any(row.box is not None for row in found):
            message = f"Line {line}: a sealed box is a sale of its own. Give it another number. Nothing was stored."
            raise ImportRefusedError(message)
        if day is None:
            message = f"Line {line}: the day of the sale is missing. Nothing was stored."
            raise ImportRefusedError(message)
        code = found[0].price.currency
        total, fees = (sum(getattr(row, name).minor for row in found) for name in ("price", "fee"))
        sold = Sold(
            channel=first.get("channel"), buyer=first.get("buyer"), day=day, price=Money(total, code),
            shipping=Money(0, code), fee=Money(fees, code), checked=False,
            copies=tuple(row.copy.id for row in found if row.copy is not None),
            box=next((row.box.id for row in found if row.box is not None), 0),
            weights={row.copy.id: float(row.price.minor) for row in found if row.copy is not None},
        )  # fmt: skip
        sale = note_sale(session, bench, key, sold)
    except ImportRefusedError:
        raise
    except BotinError as exc:
        message = f"Line {line}: {exc.message} Nothing was stored."
        raise ImportRefusedError(message) from exc
    if first.get("state").casefold() in ("", Stop.DONE.value):
        _done(session, bench, sale)


def _check_alike(rows: list[RawRow]) -> None:
    """Refuse rows of one sale that say different things of it, and sales that did not go well."""
    for name in ("sold_on", "channel", "buyer", "state"):
        if len({row.get(name).casefold() for row in rows}) > 1:
            message = f"Line {rows[0].line}: rows of one sale say different things under {name}. Nothing was stored."
            raise ImportRefusedError(message)
    state = rows[0].get("state").casefold()
    if state not in ("", *(stop.value for stop in Stop)):
        message = (
            f"Line {rows[0].line}: a sale that was “{state[:20]}” is not taken in. Take its rows out of the table."
        )
        raise ImportRefusedError(message)


def _done(session: Session, bench: Workbench, sale: SaleRecord) -> None:
    """A sale of a table lies behind: its road is not walked again."""
    sale.state = Stop.DONE.value
    step = SaleStepRecord(
        client_key=free_step_key(session, sale.id, Stop.DONE.value), sale_id=sale.id, state=Stop.DONE,
        day=sale.sold_on, made_at=bench.now(),
    )  # fmt: skip
    session.add(step)


def _row(session: Session, bench: Workbench, row: RawRow, used: set[int]) -> _Row:
    record = _product(session, row)
    if row.get("section").casefold() == SEALED:
        return _Row(None, _sealed(session, record, row, used), *_amounts(row, record))
    return _Row(_copy(session, bench, row, record, used), None, *_amounts(row, record))


def _sealed(session: Session, record: ProductRecord, row: RawRow, used: set[int]) -> BoxRecord:
    """Return a sealed box of the format that stands under ``parallel``, by its label when it has one."""
    wanted, label = row.get("parallel").casefold(), row.get("name").casefold()
    rows = [one for one in sealed_boxes(session, record.id) if -one.id not in used]
    rows = [one for one in rows if wanted in (one.format.key.casefold(), one.format.label.casefold())]
    found = next((one for one in rows if one.label.casefold() == label), next(iter(rows), None))
    if found is None:
        message = f"Line {row.line}: no sealed “{row.get('parallel')[:30]}” of it is here. Nothing was stored."
        raise ImportRefusedError(message)
    used.add(-found.id)
    return found


def _copy(session: Session, bench: Workbench, row: RawRow, record: ProductRecord, used: set[int]) -> CopyRecord:
    product = bench.product(session, record)
    section, number, parallel = _version(Names(product), product, row)
    version = (section, number)
    cards = card_ids(session, record.id, [version])
    serial = row.get("serial").partition("/")[0].strip("# ")
    stamped = int(serial) if serial.isdecimal() else None
    here = copies_alike(session, cards[version], parallel, grade=row.get("grade"), serial=stamped)
    copy = next((one for one in here if one.id not in used), None)
    if copy is None:
        message = f"Line {row.line}: no such copy is here. Note it among the cards first. Nothing was stored."
        raise ImportRefusedError(message)
    used.add(copy.id)
    return copy


def _amounts(row: RawRow, record: ProductRecord) -> tuple[Money, Money]:
    """Read price and fee, in the currency of the product."""
    code = row.get("currency").upper()
    if code not in ("", record.currency):
        message = (
            f"Line {row.line}: {record.name} is kept in {record.currency}, not in {code[:10]}. Nothing was stored."
        )
        raise ImportRefusedError(message)
    price, fee = (parse_money(row.get(name) or "0", record.currency) for name in ("price", "fee"))
    if price.minor < 0 or fee.minor < 0:
        message = f"Line {row.line}: an amount is less than nothing. Nothing was stored."
        raise ImportRefusedError(message)
    return price, fee


def _version(names: Names, product: Product, row: RawRow) -> tuple[str, str, str]:
    """Read section, number and finish; a section that is left out is the one that has such a number."""
    typed = row.get("section")
    sections = [names.section(typed)] if typed else [one.key for one in product.sections]
    fits = [(key, number) for key in sections if key and (number := names.number(key, row.get("number"))) is not None]
    if len(fits) != 1:
        why = "is in several sections: name one" if fits else "is on no checklist of it"
        message = f"Line {row.line}: “{row.get('number')[:20]}” {why}. Nothing was stored."
        raise ImportRefusedError(message)
    section, number = fits[0]
    parallel = names.parallel(section, row.get("parallel")) if row.get("parallel") else ""
    if parallel is None:
        message = f"Line {row.line}: “{row.get('parallel')[:30]}” is no finish of it. Nothing was stored."
        raise ImportRefusedError(message)
    return section, number, parallel


def _product(session: Session, row: RawRow) -> ProductRecord:
    text = row.get("product").strip().casefold()
    found = [one for one in all_products(session) if text in (one.key.casefold(), one.name.casefold())]
    if len(found) != 1:
        message = f"Line {row.line}: “{row.get('product')[:40]}” is no product here. Write its key or name."
        raise ImportRefusedError(message)
    return found[0]
