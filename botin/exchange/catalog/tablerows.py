"""Rows of a table whose columns were recognised: cards with their marks, or rates beside names."""

from __future__ import annotations

import re

from botin.exchange.catalog.cardtext import CardLine, card_from, card_of, has_count, heading_of
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.headers import Header
from botin.exchange.notes import Sheet, Status

_YES = {"yes", "y", "x", "rc", "1", "true", "rookie", "✓", "*"}
_NUMBER = re.compile(r"#?\s{0,9}([A-Za-z]{0,6}[-\s]?\d{1,5}[A-Za-z]?|[A-Z0-9]{1,6}-[A-Z0-9]{1,5})(?:\.0)?")


def read_table_sheet(sorting: Sorting, sheet: Sheet, header: Header) -> None:
    """Read a sheet under its header; what stands above the header is a title."""
    rated = header.column("odds") is not None or bool(header.formats)
    is_cards = header.column("name") is not None and (header.column("number") is not None or not rated)
    sorting.current = ""
    for number, (line, cells) in enumerate(sheet.rows):
        if not any(cell.strip() for cell in cells):
            continue
        place = sorting.at(sheet, line, cells)
        if number < header.row:
            _title(sorting, place, cells)
        elif number == header.row:
            ignored = f"; passed over: {', '.join(header.unknown)}" if header.unknown else ""
            named = ", ".join(dict.fromkeys([*header.fields.values(), *header.formats.values()]))
            sorting.note(place, Status.GUESSED if ignored else Status.UNDERSTOOD, f"columns: {named}{ignored}")
        elif is_cards:
            _card_row(sorting, sheet, header, place, cells)
        else:
            _rate_row(sorting, header, place, cells)


def _title(sorting: Sorting, place: int, cells: tuple[str, ...]) -> None:
    text = next(cell.strip() for cell in cells if cell.strip())
    sorting.titles.append(" ".join(text.split()))
    sorting.note(place, Status.PASSED, "a title above the columns")


Fields = dict[str, str]


def _fields(header: Header, cells: tuple[str, ...]) -> Fields:
    """Return the cells of a row by what their columns mean."""
    size = len(cells)
    return {field: cells[column].strip() for column, field in header.fields.items() if column < size}


def _lines(text: str, guesses: list[str]) -> str:
    if "\n" not in text:
        return text
    parts = [part.strip() for part in text.splitlines() if part.strip()]
    if len(parts) > 1:
        guesses.append("several lines in a cell are several names")
    return "; ".join(parts)


def _run_of(row: Fields) -> str:
    return row.get("run", "").lstrip("#/ ").removesuffix(".0")


def _card_row(sorting: Sorting, sheet: Sheet, header: Header, place: int, cells: tuple[str, ...]) -> None:
    row = _fields(header, cells)
    number, name = row.get("number", ""), row.get("name", "")
    found = _NUMBER.fullmatch(number)
    if not found or not name:
        _odd_row(sorting, place, cells, (number, name))
        return
    _section_of(sorting, sheet, row)
    guesses: list[str] = []
    team, label = _lines(row.get("team", ""), guesses), _lines(name, guesses)
    read = card_from(found[1].replace(" ", ""), label, team, has_team="team" in row)
    parallel, rookie = row.get("parallel", ""), row.get("rookie", "")
    card = CardLine(
        number=read.number,
        name=read.name,
        team=read.team,
        rookie=read.rookie or ("yes" if rookie.casefold() in _YES else rookie),
        run="" if parallel else _run_of(row) or read.run,
        short=read.short,
        guesses=(*guesses, *read.guesses),
    )
    if not parallel or not _as_finish(sorting, place, card, parallel, _run_of(row)):
        sorting.card(place, card, {key: row[key] for key in ("note", "group") if row.get(key)})


def _odd_row(sorting: Sorting, place: int, cells: tuple[str, ...], known: tuple[str, str]) -> None:
    """A row that is no card by its columns: a heading in a lone cell, or something missing."""
    number, name = known
    filled = [cell.strip() for cell in cells if cell.strip()]
    is_name = len(filled) == 1 and name == filled[0]
    if (len(filled) == 1 and not (is_name and not _is_heading(name))) or not (number or name):
        _lone_cell(sorting, place, filled[0])
    else:
        _unplain(sorting, place, number, name)


def _as_finish(sorting: Sorting, place: int, card: CardLine, parallel: str, run: str) -> bool:
    """A row for each finish: the card is listed once, the finish belongs to its section."""
    section = sorting.sections[sorting.current]
    if parallel.casefold() in ("base", "plain", "none", "-"):
        return False
    sorting.parallel(place, section.key, parallel, run)
    if card.number in section.numbers:
        sorting.note(place, Status.UNDERSTOOD, f"card {card.number} also as {parallel}")
        return True
    return False


def _section_of(sorting: Sorting, sheet: Sheet, row: Fields) -> None:
    """The section column wins; without one the heading above, then the sheet's own name where it names a kind."""
    named = row.get("section", "")
    if named:
        sorting.section(named, 0)
    elif not sorting.current:
        sorting.section(sheet.name if guess_kind(sheet.name)[1] else "Base", 0)


def _is_heading(text: str) -> bool:
    """Whether a lone text in the column of names reads like a heading and not like a name without a number."""
    return has_count(text) or text.isupper() or text.endswith(":") or guess_kind(text)[1]


def _lone_cell(sorting: Sorting, place: int, text: str) -> None:
    card = None if has_count(text) else card_of(text)
    if card is not None:
        sorting.card(place, card)
        return
    label, expected = heading_of(" ".join(text.split()))
    if len(label) > 60 or not any(letter.isalpha() for letter in label):
        sorting.note(place, Status.NOT, "neither a card nor a heading: fill in number and name, or empty the row")
        return
    sorting.section(label, place, expected)


def _unplain(sorting: Sorting, place: int, number: str, name: str) -> None:
    """No number of its own: the name's cell may hold both."""
    card = card_of(name)
    if not number and card is not None:
        sorting.card(place, card)
        sorting.note(place, Status.GUESSED, "number and name stand in one cell")
    elif not number:
        sorting.note(place, Status.NOT, f"“{name[:60]}” has no number: write it, or empty the row")
    elif not name:
        sorting.note(place, Status.NOT, f"number {number[:20]} has no name: write it, or empty the row")
    else:
        sorting.note(place, Status.NOT, f"“{number[:20]}” is no card number: write it like 12 or SB-12")


def _rate_row(sorting: Sorting, header: Header, place: int, cells: tuple[str, ...]) -> None:
    """A name, and a rate in the column of each format (or in the one column of odds)."""
    columns = dict(header.formats)
    odds = header.column("odds")
    if odds is not None:
        columns[odds] = ""
    words = [
        cell.strip()
        for column, cell in enumerate(cells)
        if column not in columns and cell.strip() and header.fields.get(column) not in ("run", "note")
    ]
    name, run = " ".join(dict.fromkeys(words)), _run_of(_fields(header, cells))
    stated = [(cells[c].strip(), word) for c, word in columns.items() if c < len(cells) and cells[c].strip(" -–—")]
    if not name or not stated:
        sorting.note(
            place, Status.PASSED if not stated else Status.NOT, "no rate here" if name else "a rate without a name"
        )
        return
    formats = sorting.format_words()
    for text, word in stated:
        plain = re.sub(r"\s*packs?$", "", text, flags=re.IGNORECASE)
        rate = f"1:{plain}" if re.fullmatch(r"[\d.,]+", plain) else text
        stamped = f" /{run}" if run else ""
        sorting.later.append((place, f"{name}{stamped} {rate}", formats.get(word, "")))
