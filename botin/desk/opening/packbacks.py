"""Reads a scan of a pack's backs into entry lines: sure ones filled in, the others to choose from."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.catalog.product import Product
from botin.core.errors import UnreadableFileError
from botin.core.opening.entry import EntryReader
from botin.desk.workbench import Workbench
from botin.exchange.looking.pixels import read_pixels
from botin.exchange.looking.readbacks import BackReader
from botin.store.models import BoxRecord
from botin.store.opening.boxes import logged_in_pack
from botin.store.opening.packs import product_of_pack

MOST = 12
"""Cards of one scan: a pack, and a little more."""
Version = tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class Choice:
    """A version a back may be: the line to type for it, and its words."""

    line: str
    words: str


@dataclass(frozen=True, slots=True)
class Slot:
    """A card on the scan.

    Attributes
    ----------
    line : str
        What to type for it; empty where it is not sure.
    words : str
        What it is, or what is unsure about it.
    choices : tuple of Choice
        What it may be, the likeliest first.
    code : str
        The code on its back as read.
    """

    line: str
    words: str
    choices: tuple[Choice, ...]
    code: str


def read_pack(session: Session, bench: Workbench, box: BoxRecord, pack: int, data: bytes) -> list[Slot]:
    """Read the backs on a scan, in reading order; nothing is stored.

    Raises
    ------
    UnreadableFileError
        When it is no picture, or no card is on it, or too many are.
    NoReaderError
        When the extra that reads print is not installed.
    """
    record = product_of_pack(session, box, pack)
    product, entry = bench.product(session, record), bench.reader(session, record)
    reader = bench.keep(("backs", record.id, record.revision), lambda: BackReader(product))
    found = reader.read(read_pixels(data))
    if not found or len(found) > MOST:
        what = f"{len(found)} cards were" if found else "No card was"
        message = f"{what} found on the scan. Lay one to {MOST} backs on one colour, with some room between them."
        raise UnreadableFileError(message)
    here = logged_in_pack(session, box, pack)
    slots = []
    for one in found:
        ordered = sorted(one.back.candidates, key=lambda version: version[:2] in here)
        choices = tuple(_choice(entry, product, version) for version in ordered)
        sure = one.back.sure and ordered[0][:2] not in here
        slots.append(_slot(choices, one.back.code, sure=sure, again=one.back.sure and not sure))
    return slots


def _slot(choices: tuple[Choice, ...], code: str, *, sure: bool, again: bool) -> Slot:
    if sure and choices[0].line:
        return Slot(choices[0].line, choices[0].words, choices, code)
    if again:
        return Slot("", f"{choices[0].words} is in this pack already: again?", choices, code)
    words = "which one is it?" if choices else "nothing on it could be read"
    return Slot("", words, tuple(choice for choice in choices if choice.line), code)


def _choice(entry: EntryReader, product: Product, version: Version) -> Choice:
    section, number, parallel = version
    card = product.card_by_number[section, number]
    finish = next((row.label for row in product.parallels_of(card) if row.key == parallel), "")
    label = product.section_by_key[section].label
    words = " · ".join(part for part in (f"{number} {card.name}", label, finish) if part)
    return Choice(line_for(entry, product, version), words)


def line_for(entry: EntryReader, product: Product, version: Version) -> str:
    """Return the shortest line that the rip desk reads as this very version; empty when there is none."""
    section, number, parallel = version
    label = product.section_by_key[section].label
    finish = next(
        (row.label for row in product.parallels if row.key == parallel and row.section == section), parallel
    )
    for words in (number, f"{section} {number}", f"{label} {number}"):
        line = f"{words} {finish}".strip() if parallel else words
        read = entry.read(line)
        if read.problems or len(read.items) != 1 or read.items[0].card is None:
            continue
        item = read.items[0]
        if (item.known.section, item.known.number, item.parallel) == version:
            return line
    return ""
