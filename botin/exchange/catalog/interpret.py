"""From whatever was given to a product in the making: each line read, and a note about each."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from botin.core.catalog.numberrule import short_print_rule
from botin.exchange.catalog.build import Reading, build
from botin.exchange.catalog.cardtext import card_of, has_count, heading_of, parallels_in, take_marks
from botin.exchange.catalog.formatstext import format_cells, slug
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.oddstext import rates_in
from botin.exchange.catalog.ratenames import settle
from botin.exchange.catalog.sheets import Sources
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.catalog.tablerows import read_table_sheet
from botin.exchange.headers import find_header
from botin.exchange.notes import Note, Sheet, Status, shown
from botin.exchange.tables import PRODUCT_TABLES, RawPackage, RawRow, RawTable, TableSpec

Progress = Callable[[int, int], None]
PRODUCT_SHEET = "product"


@dataclass(frozen=True, slots=True)
class About:
    """What the form says of the product; ``formats`` is a line of text for each."""

    name: str = ""
    maker: str = ""
    season: str = ""
    sport: str = ""
    released_on: str = ""
    currency: str = ""
    formats: str = ""


@dataclass
class Draft:
    """A product in the making.

    Attributes
    ----------
    reading : Reading
        The product, and findings of rows that cannot be read.
    notes : list of Note
        One for each line of the sources, in their order.
    places : list of (sheet, line)
        Where the rows' ``line`` numbers (from 1) lie in the sources.
    """

    reading: Reading
    notes: list[Note] = field(default_factory=list)
    places: list[tuple[str, int]] = field(default_factory=list)

    def place_of(self, where: str) -> tuple[str, int] | None:
        """Return the source line of a finding, by its ``table.csv:7``."""
        number = where.rpartition(":")[2]
        if number.isdecimal() and 0 < int(number) <= len(self.places):
            return self.places[int(number) - 1]
        return None


def silent(_done: int, _of: int) -> None:
    """Tell nobody how far it is."""


def interpret(sources: Sources, about: About, progress: Progress = silent) -> Draft:
    """Read everything that was given.

    Parameters
    ----------
    sources : Sources
        Sheets of tables or text.
    about : About
        What the form says; it wins over what the files say.
    progress : callable
        Told how many of how many lines are done.
    """
    sorting = Sorting()
    descriptor = dict(sources.descriptor)
    total = sum(len(sheet.rows) for sheet in sources.sheets)
    _formats_text(sorting, about.formats)
    for sheet in sorted(sources.sheets, key=_order):
        if sheet.name.casefold() == PRODUCT_SHEET and not sheet.is_text:
            descriptor |= _product_sheet(sorting, sheet)
        else:
            _sheet(sorting, sheet)
        progress(len(sorting.places), total)
    sorting.finish()
    for place, text, fmt in sorting.later:
        for rated in rates_in(text, sorting.format_words()):
            settle(sorting, place, rated, fmt)
    package = RawPackage(_described(sorting, descriptor, about))
    for spec in PRODUCT_TABLES:
        if sorting.rows[spec.name]:
            package.tables[spec.name] = RawTable(spec, tuple(sorting.rows[spec.name]))
    reading = build(package)
    return Draft(reading, [sorting.notes[place] for place in sorted(sorting.notes)], sorting.places)


def _order(sheet: Sheet) -> tuple[int, str]:
    """Formats first, rates last: names are known before rates are read."""
    name = sheet.name.casefold()
    rank = next((i for i, word in enumerate(("format", "section", "card", "check", "parallel")) if word in name), 5)
    return (9 if "odds" in name or "promise" in name or "overall" in name else rank, "")


def _described(sorting: Sorting, descriptor: dict[str, Any], about: About) -> dict[str, Any]:
    meta = descriptor.get("botin")
    kept: dict[str, Any] = dict(meta) if isinstance(meta, dict) else {}
    for name in ("maker", "season", "sport", "released_on", "currency"):
        if value := getattr(about, name).strip():
            kept[name] = value
    title = about.name.strip() or str(descriptor.get("title") or "") or (sorting.titles or [""])[0]
    key = str(descriptor.get("name") or "") or slug(title)
    return {**descriptor, "title": title, "name": key, "botin": kept}


def _product_sheet(sorting: Sorting, sheet: Sheet) -> dict[str, Any]:
    pairs: dict[str, str] = {}
    for line, cells in sheet.rows:
        place = sorting.at(sheet, line, cells)
        if len(cells) > 1 and cells[0].strip():
            pairs[cells[0].strip().casefold()] = cells[1].strip()
            sorting.note(place, Status.UNDERSTOOD, f"{cells[0].strip()} of the product")
    return {"name": pairs.pop("name", ""), "title": pairs.pop("title", ""), "botin": pairs}


def _formats_text(sorting: Sorting, text: str) -> None:
    """Formats as the form states them, one a line."""
    lines = tuple((n, (line,)) for n, line in enumerate(text.splitlines(), 1) if line.strip())
    sheet = Sheet("how it is boxed", lines, is_text=True)
    for line, cells in lines:
        place = sorting.at(sheet, line, cells)
        found = format_cells(cells[0])
        if found is None:
            says = "write it like: Hobby box: 24 packs of 8 cards, 12 boxes a case, 118.00"
            sorting.note(place, Status.NOT, says)
            continue
        sorting.add("formats", place, **found)
        says = f"{found['label']}: {found['packs_per_box']} packs of {found['cards_per_pack']}"
        sorting.note(place, Status.UNDERSTOOD, says)


def _sheet(sorting: Sorting, sheet: Sheet) -> None:
    spec = _strict(sheet)
    if spec is not None:
        _strict_rows(sorting, sheet, spec)
        return
    header = None if sheet.is_text else find_header(sheet.rows, sorting.format_words())
    if header is not None and (header.formats or set(header.fields.values()) & {"name", "number", "odds"}):
        read_table_sheet(sorting, sheet, header)
        return
    _text(sorting, sheet)


def _strict(sheet: Sheet) -> TableSpec | None:
    """Return the package table a sheet is, by its name and its columns."""
    spec = next((spec for spec in PRODUCT_TABLES if spec.name == sheet.name.casefold()), None)
    if spec is None or not sheet.rows:
        return None
    first = next((cells for _, cells in sheet.rows if any(cell.strip() for cell in cells)), ())
    header = {cell.strip().casefold() for cell in first}
    return spec if all(column.name in header for column in spec.columns if column.required) else None


def _strict_rows(sorting: Sorting, sheet: Sheet, spec: TableSpec) -> None:
    header: list[str] | None = None
    for line, cells in sheet.rows:
        if not any(cell.strip() for cell in cells):
            continue
        place = sorting.at(sheet, line, cells)
        if header is None:
            header = [cell.strip().casefold() for cell in cells]
            sorting.note(place, Status.UNDERSTOOD, f"the columns of {spec.name}")
            continue
        sorting.rows[spec.name].append(RawRow(place, dict(zip(header, cells, strict=False))))
        sorting.note(place, Status.UNDERSTOOD, f"a row of {spec.name}")


def _text(sorting: Sorting, sheet: Sheet) -> None:
    """Lines of text: headings, cards, parallels, rules and rates, in whatever order."""
    lines = [(line, cells, "\t".join(cells).strip() if sheet.is_text else shown(cells)) for line, cells in sheet.rows]
    for number, (line, cells, text) in enumerate(lines):
        if not text.strip():
            continue
        place = sorting.at(sheet, line, cells)
        following = next((t for _, _, t in lines[number + 1 :] if t.strip()), "")
        _text_line(sorting, place, text, following)


def _text_line(sorting: Sorting, place: int, text: str, following: str) -> None:
    rule = short_print_rule(text)
    if rule is not None:
        sorting.rules.append((place, sorting.current or "base", rule.numbers))
        return
    entries = parallels_in(text)
    if entries is not None:
        _parallels(sorting, place, entries)
        return
    card = card_of(text)
    rates = rates_in(text, sorting.format_words())
    if rates:
        sorting.later.append((place, text, sorting.current_format))
        return
    if has_count(text) and not rates:
        label, expected = heading_of(text)
        sorting.section(label, place, expected)
        return
    if card is not None:
        sorting.card(place, card)
        return
    _other_line(sorting, place, text, following)


def _other_line(sorting: Sorting, place: int, text: str, following: str) -> None:
    """Neither card nor rate: a format's heading, a section's heading, or not understood."""
    words = sorting.format_words()
    bare = text.casefold().strip(" :*-–—").removesuffix(" odds").removesuffix(" packs").strip()
    if bare in words:
        sorting.current_format = words[bare]
        sorting.note(place, Status.UNDERSTOOD, f"what follows holds for {words[bare]}")
        return
    heading, _ = heading_of(text)
    named = guess_kind(heading)[1]
    loud = text.isupper() or text.rstrip().endswith(":") or named
    leads = card_of(following) is not None and not rates_in(following, words)
    if len(heading) <= 60 and (leads or (loud and named)) and heading:
        sorting.section(heading, place)
        if not loud:
            sorting.note(place, Status.GUESSED, "taken as a heading because cards follow")
        return
    if not sorting.sections:
        sorting.titles.append(heading)
        sorting.note(place, Status.PASSED, "a title above the cards")
        return
    says = "neither a card (12 Orla Thorsby - Harrow Bay RC), a heading, a finish nor a rate (Copper 1:24)"
    sorting.note(place, Status.NOT, says)


def _parallels(sorting: Sorting, place: int, entries: list[str]) -> None:
    if not sorting.current:
        sorting.section("Base", 0)
    section, names = sorting.current, []
    for entry in entries:
        rates = rates_in(entry.replace("(", " ").replace(")", " "), sorting.format_words())
        bare = re.sub(r"\(.*?\)", " ", entry) if rates else entry
        marks = take_marks(bare)
        label = " ".join(marks.text.strip(" -–—").split())
        if not label:
            sorting.note(place, Status.NOT, f"a finish without a name in “{entry}”")
            continue
        sorting.parallel(place, section, label, marks.run)
        names.append(f"{label} /{marks.run}" if marks.run else label)
        for rated in rates:
            text = f"{sorting.sections[section].label} {label} 1:{rated.text}"
            if rated.column == "packs_per_hit":
                sorting.later.append((place, text, rated.format or sorting.current_format))
    if names:
        sorting.note(place, Status.UNDERSTOOD, f"finishes of {sorting.sections[section].label}: {', '.join(names)}")
