"""Values of a product corrected by hand: kept with who, when, what it was; everything computed follows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from botin.core.catalog.product import Product, parse_run
from botin.core.errors import BadOddsError, EntryError, NotFoundError, StaleFormError
from botin.core.odds.rates import parse_printed
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.catalog.corrections import corrections_of
from botin.store.catalog.products import load_product, save_product
from botin.store.keys import TakenError, stored_meanwhile, stored_under
from botin.store.models import CorrectionRecord, ProductRecord
from botin.store.unit import finish

JOIN = "\x1f"
_KEYS: dict[str, tuple[str, ...]] = {
    "cards": ("section", "number"),
    "parallels": ("section", "key", "group"),
    "odds": ("format", "section", "parallel", "group"),
    "formats": ("key",),
    "sections": ("key",),
}


@dataclass(frozen=True, slots=True)
class Correction:
    """One value to change; ``seen`` is what the screen showed it to be."""

    table: str
    key: tuple[str, ...]
    field: str
    seen: str
    value: str
    why: str = ""


def _run(text: str) -> str:
    try:
        parse_run(text)
    except ValueError as exc:
        message = f"“{text}” is no run. Write 25, a pooled run like 100+80+4, or nothing for unnumbered."
        raise EntryError(message) from exc
    return text.strip().lstrip("/")


def _rate(text: str) -> str:
    if not text.strip():
        return ""
    try:
        return parse_printed(text).text.removeprefix("1:")
    except BadOddsError as exc:
        raise EntryError(exc.message) from exc


def _whole(text: str) -> int:
    if not (text.isascii() and text.isdecimal() and 0 < int(text) < 100_000):
        message = f"“{text}” is no whole number from 1 on."
        raise EntryError(message)
    return int(text)


def _filled(text: str) -> str:
    if not text.strip():
        message = "It cannot be empty. Write what the card says."
        raise EntryError(message)
    return text.strip()[:200]


def _free(text: str) -> str:
    return text.strip()[:200]


FIELDS: dict[tuple[str, str], tuple[str, Callable[[str], Any]]] = {
    ("cards", "name"): ("name", _filled),
    ("cards", "team"): ("team", _free),
    ("cards", "rookie"): ("rookie mark", _free),
    ("cards", "note"): ("note", _free),
    ("parallels", "run_text"): ("run", _run),
    ("parallels", "label"): ("name", _filled),
    ("parallels", "back_code"): ("back code", _free),
    ("parallels", "cue"): ("cue", _free),
    ("odds", "packs_per_hit"): ("odds", _rate),
    ("odds", "per_box"): ("cards a box", _rate),
    ("odds", "per_case"): ("cards a case", _rate),
    ("odds", "per_pack"): ("cards a pack", _rate),
    ("formats", "packs_per_box"): ("packs a box", _whole),
    ("formats", "cards_per_pack"): ("cards a pack", _whole),
    ("formats", "boxes_per_case"): ("boxes a case", _whole),
    ("sections", "label"): ("name", _filled),
    ("sections", "cue"): ("cue", _free),
    ("sections", "back_code"): ("back code", _free),
}
"""What can be corrected: its word on the screen, and how a typed value is read."""


def _is_row(table: str, key: tuple[str, ...], row: Any) -> bool:
    """Whether a row has this key; one of another length, from a form that was changed by hand, is none."""
    return tuple(getattr(row, name) for name in _KEYS[table]) == key


def value_of(product: Product, table: str, key: tuple[str, ...], field: str) -> str:
    """Return a value of a product as text.

    Raises
    ------
    NotFoundError
        When the row is not there.
    """
    row = next((row for row in getattr(product, table) if _is_row(table, key, row)), None)
    if row is None:
        message = "That row is not in the product any more. Reload the page."
        raise NotFoundError(message)
    value = getattr(row, field)
    return "" if value is None else str(value)


def with_value(product: Product, table: str, key: tuple[str, ...], field: str, value: str) -> Product:
    """Return the product with one value changed.

    Raises
    ------
    EntryError
        When the value cannot be that.
    """
    if (table, field) not in FIELDS:
        message = f"{field} of {table} is not corrected here."
        raise EntryError(message)
    read = FIELDS[(table, field)][1](value)
    rows = tuple(
        replace(row, **{field: read}) if _is_row(table, key, row) else row for row in getattr(product, table)
    )
    changed: dict[str, Any] = {table: rows}
    return replace(product, **changed)


def correct(
    session: Session, bench: Workbench, record: ProductRecord, change: Correction, *, who: str, client_key: str
) -> CorrectionRecord:
    """Change one value, once, and keep what it was.

    Raises
    ------
    StaleFormError
        When the value is not what the screen showed any more.
    EntryError
        When the new value cannot be read.
    """
    known = stored_under(session, CorrectionRecord, client_key)
    if known is not None:
        same_again(known, product_id=record.id, table=change.table, row_key=JOIN.join(change.key), field=change.field)
        return known
    product = load_product(session, record)
    was = value_of(product, change.table, change.key, change.field)
    if was != change.seen:
        message = f"It was changed meanwhile to “{was}”. Look at it, then correct it again; nothing was stored."
        raise StaleFormError(message)
    changed = with_value(product, change.table, change.key, change.field, change.value)
    now = value_of(changed, change.table, change.key, change.field)
    made = CorrectionRecord(
        client_key=client_key,
        product_id=record.id,
        made_at=bench.now(),
        who=who,
        table=change.table,
        row_key=JOIN.join(change.key),
        field=change.field,
        was=was,
        now=now,
        why=change.why.strip()[:300],
    )
    session.add(made)
    save_product(session, changed)
    try:
        finish(session)
    except TakenError:
        session.rollback()
        return stored_meanwhile(session, CorrectionRecord, client_key)
    return made


def words_of(made: CorrectionRecord) -> str:
    """Return what a correction changed, in words."""
    key = " ".join(filter(None, made.row_key.split(JOIN)))
    word = FIELDS.get((made.table, made.field), (made.field, _free))[0]
    return f"{word} of {key}: {made.was or 'nothing'} → {made.now or 'nothing'}"


def kept_corrections(session: Session, product_id: int, incoming: Product) -> tuple[Product, list[str]]:
    """Put corrections onto a product that is imported again, where it still says what was wrong before."""
    kept = []
    for made in reversed(corrections_of(session, product_id)):
        key = tuple(made.row_key.split(JOIN))
        try:
            if value_of(incoming, made.table, key, made.field) == made.was:
                incoming = with_value(incoming, made.table, key, made.field, made.now)
                kept.append(words_of(made))
        except NotFoundError:
            continue
    return incoming, kept
