"""Lines that say how a product is boxed, in one line or in several, and what it is called."""

from __future__ import annotations

import re
from dataclasses import replace

from botin.exchange.catalog.formatstext import cells_of, format_cells, parts_of, price_of_pack, slug, three_in_a_row
from botin.exchange.catalog.oddstext import FORMAT_WORDS
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.catalog.textreader import Line, Reader
from botin.exchange.notes import Status
from botin.exchange.tables import RawRow

_ABOUT = re.compile(
    r"^(?P<key>product(?: name)?|title|set name|release date|released?(?: on)?|on sale(?: date)?|street date|"
    r"in stores|maker|manufacturer|brand|publisher"
    r"|season|year|sport|currency)\s*[:=\t]\s*(?P<value>\S.{0,80})$",
    re.IGNORECASE,
)
_KEYS = {
    "product": "title", "product name": "title", "release date": "released_on", "released": "released_on",
    "released on": "released_on", "on sale": "released_on", "on sale date": "released_on",
    "street date": "released_on", "in stores": "released_on", "release": "released_on", "release on": "released_on",
    "set name": "title", "manufacturer": "maker", "brand": "maker", "publisher": "maker", "year": "season",
}  # fmt: skip
LONGEST_LABEL = 40
_NAMED = re.compile(rf"\b(?:{'|'.join(FORMAT_WORDS)})\b", re.IGNORECASE)
"""A word of the line above that names the box whose parts follow without a name."""


_CONFIGURATION = re.compile(
    r"(?:product |box |pack )?(?:configuration|config|contents|details|format|specs?)", re.IGNORECASE
)


def format_line(reader: Reader, line: Line) -> bool:
    """A whole format in a line."""
    parts = re.split(r";\s+|(?<=\w)\.\s+(?=[A-Z])", line.bare) if reader.of_formats else []
    if len(parts) > 1 and all(_is_whole(part) for part in parts):
        read = [format_line(reader, replace(line, text=part, bare=part)) for part in parts]
        return all(read)
    three = three_in_a_row(line.bare) if reader.of_formats else None
    found = three[0] if three else format_cells(line.bare, short=reader.of_formats)
    if found is None or (not reader.of_formats and len(found["label"]) > LONGEST_LABEL):
        return False
    above = _NAMED.search(reader.before)
    if found["label"].casefold() == "box" and above and len(reader.before) < 90:
        found = {**found, "label": above[0].capitalize(), "format": slug(above[0])}
    reader.box = {}
    reader.sorting.add("formats", line.place, **found)
    price = f", {found['list_price']} {found['currency']}".rstrip() if found["list_price"] else ""
    case = f", {found['boxes_per_case']} boxes a case" if found["boxes_per_case"] else ""
    says = f"{found['label']}: {found['packs_per_box']} packs of {found['cards_per_pack']}{case}{price}"
    reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    if three:
        reader.sorting.note(line.place, Status.GUESSED, three[1])
    return True


def _is_whole(text: str) -> bool:
    """Whether a text names a box and says its packs and cards."""
    found = format_cells(text)
    return found is not None and found["label"].casefold() != "box"


def more_of_format(reader: Reader, line: Line) -> bool:
    """Below a whole format what it did not say yet: “16 boxes per case”, “$89.99 a box”."""
    parts, rows = parts_of(line.bare), reader.sorting.rows["formats"]
    if reader.box or not parts or not rows or any(rows[-1].get(name) for name in parts if name != "currency"):
        return False
    row = rows[-1]
    rows[-1] = RawRow(row.line, {**row.values, **parts})
    said = ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in parts.items())
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"{row.get('label')}: {said}")
    return True


def format_name(reader: Reader, line: Line) -> bool:
    """A line without a number, where formats are told, names the format whose parts follow."""
    if re.search(r"\d", line.bare) or len(line.bare) > LONGEST_LABEL or not parts_of(line.following):
        return False
    name = line.bare.strip(" :–—-")
    reader.box = {"label": "Box" if _CONFIGURATION.fullmatch(name) else name}
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"format “{reader.box['label']}”")
    return True


def format_part(reader: Reader, line: Line) -> bool:
    """One part of a format: its packs, its cards, its case or its price."""
    parts = parts_of(line.bare)
    if not parts or not reader.box:
        return False
    before = dict(reader.box)
    reader.box |= parts
    cells = cells_of(reader.box)
    rows = reader.sorting.rows["formats"]
    if cells is not None and cells_of(before) is not None:
        rows[-1] = RawRow(rows[-1].line, cells)
    elif cells is not None:
        reader.sorting.add("formats", line.place, **cells)
    said = ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in parts.items())
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"{reader.box['label']}: {said}")
    return True


_PACKED_WORDS = re.compile(
    r"\b(?:the|an?|each|every|in|of|per|with|and|there|are|is|has|holds?|contains?|comes?|box(?:es)?|packs?|cards?|cases?|"
    r"total|pro|je|par|por)\b|[\W\d_]",
    re.IGNORECASE,
)


def configuration(reader: Reader, line: Line) -> bool:
    """Among the cards a heading “Configuration” stands above how the product is boxed."""
    if not _CONFIGURATION.fullmatch(line.bare.strip(" :–—-")) or not parts_of(line.following):
        return False
    reader.box = {"label": "Box"}
    reader.sorting.note(line.place, Status.UNDERSTOOD, "how it is boxed follows")
    return True


def packed_line(reader: Reader, line: Line) -> bool:
    """A line that says nothing but how many packs, cards or boxes: “12 packs per box”, “Each pack has 6 cards.”."""
    parts = parts_of(line.bare)
    if not set(parts) - {"list_price", "currency"} or _PACKED_WORDS.sub("", line.bare):
        return False
    above = _NAMED.search(reader.before)
    if not reader.box or (above and set(parts) & set(reader.box)):
        reader.box = {"label": above[0].capitalize() if above else "Box"}
    return format_part(reader, line)


def price_alone(reader: Reader, line: Line) -> bool:
    """A price alone, where one format is told, is that of its box."""
    parts, rows = parts_of(line.bare), reader.sorting.rows["formats"]
    if set(parts) - {"list_price", "currency"} or not parts.get("list_price") or len(rows) != 1:
        return False
    row = rows[0]
    if row.get("list_price"):
        return False
    rows[0] = RawRow(row.line, {**row.values, **parts})
    says = f"{row.get('label')}: {parts['list_price']} {parts.get('currency', '')}".rstrip()
    reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    return True


def no_format(reader: Reader, line: Line) -> bool:
    """Say what a format looks like."""
    if price_of_pack(line.bare):
        says = "the price of a pack is not kept: write that of the box"
        reader.sorting.note(line.place, Status.NOT, says)
        return True
    says = "write it like: Hobby box: 24 packs of 8 cards, 12 boxes a case, 118.00"
    reader.sorting.note(line.place, Status.NOT, says)
    return True


def says_product(text: str) -> bool:
    """Whether a line says what the product is called, by whom it is made or when."""
    return _ABOUT.match(re.sub(r"\s*:\s*\t", "\t", text)) is not None


def about_line(reader: Reader, line: Line) -> bool:
    """A line like “Released: 2026-03-14”."""
    return take_about(reader.sorting, line.place, line.bare)


def take_about(sorting: Sorting, place: int, text: str) -> bool:
    """Take a line that says what the product is called, by whom it is made or when; false for any other."""
    found = _ABOUT.match(re.sub(r"\s*:\s*\t", "\t", text))
    if not found:
        return False
    key = found["key"].casefold()
    sorting.about[_KEYS.get(key, key)] = found["value"].strip()
    sorting.note(place, Status.UNDERSTOOD, f"{key} of the product")
    return True
