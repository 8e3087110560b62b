"""Rows of cards: numbers, names, clubs and marks by their columns, headings and totals among them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from botin.core.catalog.product import Kind
from botin.exchange.catalog.blocks import TOTAL, filled
from botin.exchange.catalog.cardfinishes import as_finish, finish_of, finish_of_range
from botin.exchange.catalog.cardtext import CardLine, card_from, card_of, is_prose
from botin.exchange.catalog.clubsheets import SHEET
from botin.exchange.catalog.columns import Columns
from botin.exchange.catalog.columnvalues import MARKS, NO, SAYS_ROOKIE, SAYS_SHORT, YES
from botin.exchange.catalog.finishesbelow import add_below, finishes_below, told_below
from botin.exchange.catalog.headingtext import back_code_of, has_count, heading_of
from botin.exchange.catalog.kinds import guess_kind, is_only_kinds
from botin.exchange.catalog.oddstext import FORMAT_WORDS, RATED_TAIL, Rated, cell_rate, rates_in
from botin.exchange.catalog.runtext import RUN_ALONE, run_in, run_of, take_run
from botin.exchange.catalog.sorting import Pending, Sorting
from botin.exchange.catalog.tablesheet import GENERIC, Table
from botin.exchange.catalog.turnednames import TURNED, are_turned, turn
from botin.exchange.notes import Sheet, Status

_NUMBER = re.compile(
    r"(?:no\.?(?!-)\s*|nr\.?(?!-)\s*)?#?\s{0,9}([A-Za-z]{0,6}[-\s.]?\d{1,5}[A-Za-z]{0,2}|[A-Za-z0-9]{1,6}-[A-Za-z0-9]{1,6})(?:\.0)?"
)
_BOTH = re.compile(
    r"(?P<number>#?\s?(?:[A-Za-z]{0,6}-?\d{1,4}[a-z]?|[A-Z]{1,6}-[A-Z]{1,6}))[\s.:)–-]+(?P<name>\S.*)$"
)
_NUMBERS_OF = re.compile(
    r"(?!(?:card|row|line|item|order|serial|page|box|pack|cert\w*)\b)[^\W\d_].*\s(?:#|nos?\.?|nr\.?|numbers?)",
    re.IGNORECASE,
)
"""``Night Sprints #``: a column with the numbers of one set."""
_IS_MARK = re.compile(r"[(\[]?(?:RC|S?SP|rookie)[)\]]?", re.IGNORECASE)
"""A mark in a column without a heading."""
_MONTHS = "Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec|Mrz|Mai|Okt|Dez"
_DATE = re.compile(rf"(?:{_MONTHS})[. -]\s?\d{{1,2}}|\d{{1,2}}[. -]\s?(?:{_MONTHS})")
"""What a spreadsheet makes of the number 1-3."""
_LETTERS = re.compile(r"[A-Za-z]{1,4}")
CARD_FIELDS = frozenset(("number", "name", "card", "first_name", "last_name", "team", "section", "rookie", "run"))
Fields = dict[str, str]


def fields_of(columns: Columns, cells: tuple[str, ...]) -> Fields:
    """Return the cells of a row by what their columns mean."""
    size = len(cells)
    row = {name: cells[place].strip() for name, place in columns.by_field.items() if place < size}
    for place, word in columns.spread.items():
        if word.startswith("more:") and place < size and (more := cells[place].strip()):
            name = word.partition(":")[2]
            row[name] = "; ".join(dict.fromkeys(filter(None, (row.get(name, ""), more))))
    if row.get("card") and (found := _BOTH.match(row["card"])):
        row |= {"number": found["number"], "name": found["name"]}
    _gather_marks(columns, cells, row)
    prefix, number = row.get("prefix", ""), row.get("number", "")
    if prefix and number and not number.casefold().startswith(prefix.casefold()):
        row["number"] = f"{prefix}{number}"
    if row.get("team_place"):
        row["team"] = f"{row['team_place']} {row.get('team', '')}".strip()
    if row.get("last_name"):
        row["name"] = f"{row.get('name', '')} {row['last_name']}".strip()
    return row


def _gather_marks(columns: Columns, cells: tuple[str, ...], row: Fields) -> None:
    """Gather the marks of a card from its notes, and from columns without a heading."""
    found = [
        row.pop(name) for name in ("note", "parallel", "run") if row.get("number") and _is_marks(row.get(name, ""))
    ]
    found += [mark for at in columns.nameless if at < len(cells) and _IS_MARK.fullmatch(mark := cells[at].strip())]
    if found:
        row["marks"] = " ".join([row.get("marks", ""), *found])


def _is_marks(text: str) -> bool:
    return bool(text) and MARKS.fullmatch(text) is not None


def read_cards(sorting: Sorting, table: Table) -> None:
    """Read a table of cards."""
    sorting.current = ""
    if table.label:
        _open(sorting, table.label, table.line, table.expected)
        for rated in table.rates:
            sorting.pending.append(Pending(table.line, rated, "", sorting.current, ""))
    guess = (*_doubt(table.columns), *((SHEET,) if table.club else ()))
    fields = [fields_of(table.columns, cells) for _, cells in table.segment.rows]
    turned = table.columns.has("team") and are_turned([row.get("name", "") for row in fields])
    guess = (*guess, TURNED) if turned else guess
    numbered = (
        table.columns.has("number")
        or table.columns.has("card")
        or any(c.field == "name" for c in table.columns.unsure)
    )
    below = finishes_below(table.segment.rows)
    heads = _lone_headings(table.segment.rows, fields)
    for count, (place, cells) in enumerate(table.segment.rows, 1):
        row = fields[count - 1]
        if place in below:
            add_below(sorting, place, cells)
            continue
        if place in heads:
            _lone_cell(sorting, place, filled(cells)[0])
            continue
        if turned:
            row["name"] = turn(row.get("name", ""))
        if not numbered and row.get("name") and len(filled(cells)) >= min(2, len(table.columns.by_field)):
            row = {**row, "number": str(count)}
            _card_row(sorting, table, place, cells, row, (*guess, "it has no number: counted from 1"))
        else:
            _card_row(sorting, table, place, cells, row, guess)
    _ticked_kinds(sorting, table)
    _empty_finishes(sorting, table)


def _lone_headings(rows: Sequence[tuple[int, tuple[str, ...]]], fields: Sequence[Fields]) -> set[int]:
    """Return the rows with a lone name below which the numbers begin anew, or with other letters: headings."""
    found = set()
    for at, ((place, cells), row) in enumerate(zip(rows, fields, strict=True)):
        alone = bool(row.get("name")) and not row.get("number") and filled(cells) == [row.get("name")]
        following = fields[at + 1].get("number", "") if alone and at + 1 < len(fields) else ""
        before = next((one["number"] for one in reversed(fields[:at]) if one.get("number")), "") if following else ""
        if following and (re.sub(r"[\W\d].*", "", following) != re.sub(r"[\W\d].*", "", before) or following == "1"):
            found.add(place)
    return found


def _empty_finishes(sorting: Sorting, table: Table) -> None:
    """A column to tick that is headed by a finish with its run and is empty yet: the finish is there all the same."""
    for at, word in table.columns.spread.items():
        label, run = take_run(word.partition(":")[2])
        empty = word.startswith("finish:") and not any(_column(table, at))
        if empty and sorting.current and table.segment.head is not None:
            sorting.parallel(table.segment.head[0], sorting.current, label, run)


def _ticked_kinds(sorting: Sorting, table: Table) -> None:
    """A column “Auto?” says the kind of a section all of whose cards are ticked in it."""
    cells_at = dict(table.segment.rows)
    for column, word in table.columns.spread.items():
        if not word.startswith("kind:"):
            continue
        for section in sorting.sections.values():
            rows = [cells_at[place] for place, _, _ in section.cards if place in cells_at]
            ticked = [column < len(cells) and cells[column].strip().casefold() not in NO for cells in rows]
            if rows and all(ticked) and not section.named:
                section.kind, section.named = Kind(word.partition(":")[2]), True


def _open(sorting: Sorting, label: str, place: int, expected: int | None = None) -> None:
    label, code = back_code_of(label)
    section = sorting.section(label, place, expected)
    section.back_code = section.back_code or code


def _doubt(columns: Columns) -> tuple[str, ...]:
    """Return what of the columns of cards was guessed, once for all rows."""
    asked = [
        c.field.partition(":")[0] for c in columns.unsure if c.field in CARD_FIELDS or c.field.startswith("finish:")
    ]
    other = next((c.heading for c in columns.unused if _NUMBERS_OF.fullmatch(c.heading) and c.values), "")
    more = (f"“{other}” holds numbers, too: are its cards another set?",) if other else ()
    return (*((f"the columns of {', '.join(asked)} are guessed",) if asked else ()), *more)


def _card_row(
    sorting: Sorting, table: Table, place: int, cells: tuple[str, ...], row: Fields, doubt: tuple[str, ...]
) -> None:
    number, name = row.get("number", ""), row.get("name", "")
    if TOTAL.fullmatch(next(iter(filled(cells)))) and not (number and name and len(filled(cells)) > 2):
        sorting.note(place, Status.PASSED, "a total, no card")
        return
    found = _number_of(number, table.columns)
    if not (found and name) and told_below(sorting, place, cells):
        return
    if not found or not name or name.startswith("=") or TOTAL.fullmatch(number):
        _odd_row(sorting, place, cells, (number, name))
        return
    if row.get("parallel") and finish_of_range(sorting, place, row):
        return
    _section_of(sorting, table, row, place)
    guesses = list(doubt)
    team, label = _lines(row.get("team", table.club), guesses), _lines(name, guesses)
    people = "more:name" in table.columns.spread.values()
    read = card_from(found.replace(" ", ""), label, team, has_team="team" in row or people or bool(table.club))
    parallel, run = finish_of(sorting, place, row), _run(sorting, place, row) or _run_noted(row)
    card = CardLine(
        number=read.number,
        name=read.name,
        team=read.team,
        rookie=read.rookie
        or _rookie(row.get("rookie", ""), guesses)
        or ("yes" if SAYS_ROOKIE.search(row.get("marks", "")) else ""),
        run="" if parallel else run or read.run,
        short=read.short or _is_short(row),
        guesses=(*guesses, *read.guesses),
        open_rookie=read.open_rookie,
        people=people,
    )
    if not parallel or not as_finish(sorting, place, card, parallel, run):
        sorting.card(place, card, {key: row[key] for key in ("note", "group", "back_code") if row.get(key)})
    _ticked(sorting, table, place, cells)
    _rated(sorting, table, place, row, parallel)


def _run_noted(row: Fields) -> str:
    """Return the run that stands among the marks or notes of a card."""
    found = RUN_ALONE.search(row.get("marks", "")) or RUN_ALONE.fullmatch(row.get("note", ""))
    if found:
        return run_in(found)
    words, run = take_run(row.get("note", ""))
    return run if is_only_kinds(words) else ""


def _rated(sorting: Sorting, table: Table, place: int, row: Fields, parallel: str) -> None:
    """Odds beside a card are those of its section and finish: taken once."""
    texts = {"": row.get("odds", "")}
    columns = {word.partition(":")[2]: at for at, word in table.columns.spread.items() if word.startswith("rate:")}
    cells = next((cells for at, cells in table.segment.rows if at == place), ()) if columns else ()
    texts |= {word: cells[at].strip() for word, at in columns.items() if at < len(cells)}
    for word, text in texts.items():
        rate = cell_rate(text) if text else None
        key = (sorting.current, parallel, word)
        if rate is None or key in sorting.rated:
            continue
        sorting.rated.add(key)
        column, value, guess = rate
        rated = Rated("", column, value, guesses=(guess,) if guess else ())
        fmt = word or row.get("format", "")
        sorting.pending.append(Pending(place, rated, fmt, sorting.current, take_run(parallel)[0]))


def _ticked(sorting: Sorting, table: Table, place: int, cells: tuple[str, ...]) -> None:
    """Add the finishes that are ticked in columns of their own, or whose runs stand there."""
    columns = {at: word.partition(":")[2] for at, word in table.columns.spread.items() if word.startswith("finish:")}
    of_runs = any(run.isdecimal() and int(run) > 1 for at in columns for run in _column(table, at))
    for column, word in columns.items():
        if column < len(cells) and (cell := cells[column].strip()).casefold() not in NO:
            label, run = take_run(word)
            sorting.parallel(place, sorting.current, label, run or (run_of(cell) or "" if of_runs else ""))


def _column(table: Table, at: int) -> list[str]:
    """Cells of a column."""
    return [cells[at].strip() for _, cells in table.segment.rows if at < len(cells)]


def _number_of(text: str, columns: Columns) -> str:
    """Return a card number; a column that is headed as numbers may hold letters."""
    found = _NUMBER.fullmatch(text) if not _DATE.fullmatch(text) else None
    of_size = re.fullmatch(r"#?\s?(\d{1,4})\s?/\s?\d{1,4}", text)
    if found or of_size:
        return re.sub(r"(?<=\d)\.0$", "", (found or of_size)[1])  # type: ignore[index]
    return text if _LETTERS.fullmatch(text) and columns.has("name") else ""


def _is_short(row: Fields) -> bool:
    """Whether a card is ticked as a short print, or its marks or its tier say so: “Rare SSP”."""
    words = f"{row.get('marks', '')} {row.get('group', '')}"
    return _ticked_yes(row.get("short", "")) or SAYS_SHORT.search(words) is not None


def _ticked_yes(text: str) -> bool:
    return text.casefold().strip() not in NO


def _rookie(text: str, guesses: list[str]) -> str:
    """Return yes for a rookie; a word that says neither yes nor no is taken for yes and asked about."""
    word = text.casefold().strip()
    if word in NO:
        return ""
    if word not in YES:
        guesses.append(f"“{text[:30]}” in the column of rookies is taken for yes")
    return "yes"


def _run(sorting: Sorting, place: int, row: Fields) -> str:
    text = row.get("run", "")
    run = run_of(text)
    if run is None:
        sorting.note(place, Status.GUESSED, f"“{text}” is no print run: left out")
        return ""
    return run


def _lines(text: str, guesses: list[str]) -> str:
    if "\n" not in text:
        return text
    parts = [part.strip() for part in text.splitlines() if part.strip()]
    if len(parts) > 1:
        guesses.append("several lines in a cell are several names")
    return "; ".join(parts)


def _odd_row(sorting: Sorting, place: int, cells: tuple[str, ...], known: tuple[str, str]) -> None:
    """A row that is no card by its columns: a heading in a lone cell, or something missing."""
    number, name = known
    given = filled(cells)
    is_name = len(given) == 1 and name == given[0]
    if (len(given) == 1 and not (is_name and not _is_heading(name))) or not (number or name):
        _lone_cell(sorting, place, given[0])
    elif len(given) == 2 and number == given[0] and not _NUMBER.fullmatch(number) and (run := run_of(given[1])):
        _lone_cell(sorting, place, f"{number} /{run}")
    else:
        _unplain(sorting, place, number, name)


def _section_of(sorting: Sorting, table: Table, row: Fields, place: int) -> None:
    """The section column wins; without one the heading above, then the sheet's own name."""
    named = row.get("section", "")
    if named:
        if named not in ("-", "–"):
            sorting.section(named, place, says=False)
    elif table.columns.has("section") and _begins_plain(sorting, row.get("number", "")):
        sorting.section("Base", place, says=False)
    elif not sorting.current:
        opened = sorting.section(sheet_label(table.sheet), place, says=False)
        opened.by_column, opened.sized = False, sheet_size(table.sheet)


def _begins_plain(sorting: Sorting, number: str) -> bool:
    """Whether a card without a section has a plain number below cards with letters: it is of the base set again."""
    current = sorting.sections.get(sorting.current)
    if current is None or not number.isdecimal() or not current.cards:
        return False
    return all(card.number[:1].isalpha() for _, card, _ in current.cards)


_COUNTED_NAME = re.compile(r"(?<=\w)\s*\(\d{1,4}\)$")


def sheet_label(sheet: Sheet) -> str:
    """Return the section that a sheet's name names: a sheet of a workbook, or a file whose name says its kind."""
    bare = _COUNTED_NAME.sub("", sheet.name.strip())
    if guess_kind(bare)[1] and not GENERIC.fullmatch(bare):
        return bare
    if "#" in sheet.source and not GENERIC.fullmatch(bare):
        return bare
    return "Base"


def sheet_size(sheet: Sheet) -> str:
    """Return the number in brackets behind a sheet's name: how many cards it has, or to what they are numbered."""
    found = _COUNTED_NAME.search(sheet.name.strip())
    return re.sub(r"\D", "", found[0]) if found else ""


def _is_heading(text: str) -> bool:
    """Whether a lone text in the column of names reads like a heading and not like a name without a number."""
    return has_count(text) or text.isupper() or text.endswith(":") or guess_kind(text)[1]


_YEAR = re.compile(r"(?:19|20)\d\d(?:[-/–]\d{2,4})?")


def _lone_cell(sorting: Sorting, place: int, text: str) -> None:
    card = None if has_count(text) else card_of(text)
    if is_prose(text):
        sorting.note(place, Status.PASSED, "a remark, no card")
        return
    if card is not None and _YEAR.fullmatch(card.number) and not sorting.current:
        sorting.note(place, Status.PASSED, "a title above the cards")
        return
    if card is not None:
        sorting.card(place, card)
        return
    words = " ".join(text.split())
    rates = rates_in(words, sorting.format_words() or dict.fromkeys(FORMAT_WORDS, ""))
    label, expected = heading_of(RATED_TAIL.sub("", words) if rates else words)
    if len(label) > 60 or not any(letter.isalpha() for letter in label):
        sorting.note(place, Status.NOT, "neither a card nor a heading: fill in number and name, or empty the row")
        return
    _open(sorting, label, place, expected)
    for rated in rates:
        stated = replace(rated, name="")
        sorting.pending.append(Pending(place, stated, "", sorting.sections[sorting.current].label, ""))


def _unplain(sorting: Sorting, place: int, number: str, name: str) -> None:
    """No number of its own: the name's cell may hold both."""
    card = card_of(name)
    if not number and card is not None:
        sorting.card(
            place,
            CardLine(card.number, card.name, card.team, card.rookie, guesses=("number and name stand in one cell",)),
        )
    elif "=" in (number[:1], name[:1]):
        sorting.note(place, Status.NOT, "a formula without its value: copy the sheet and paste it as values")
    elif not number:
        sorting.note(place, Status.NOT, f"“{name[:60]}” has no number: write it, or empty the row")
    elif not name:
        sorting.note(place, Status.NOT, f"number {number[:20]} has no name: write it, or empty the row")
    else:
        sorting.note(place, Status.NOT, f"“{number[:20]}” is no card number: write it like 12 or SB-12")
