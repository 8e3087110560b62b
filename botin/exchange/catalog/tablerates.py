"""Tables of odds: a name and a rate in the column of each format, or one rate a row with its format beside."""

from __future__ import annotations

import re
from dataclasses import replace

from botin.exchange.catalog.blocks import is_sum
from botin.exchange.catalog.columns import Columns
from botin.exchange.catalog.finishtext import is_plain
from botin.exchange.catalog.listedsections import open_listed
from botin.exchange.catalog.oddstext import FORMAT_WORDS, Rated, cell_rate, rates_in
from botin.exchange.catalog.ratenames import find_section
from botin.exchange.catalog.rateunits import is_unit, unit_of
from botin.exchange.catalog.runtext import run_of, take_run
from botin.exchange.catalog.sorting import Pending, Sorting
from botin.exchange.catalog.tablecards import Fields, fields_of
from botin.exchange.catalog.tablelists import OF_FINISHES, add_listed
from botin.exchange.catalog.tablesheet import Table
from botin.exchange.notes import Status

_NONE = frozenset(("", "-", "–", "—", "n/a", "na", "none", "x", "no", "not in", "·"))


def read_rates(sorting: Sorting, table: Table) -> None:
    """Read a table of odds."""
    section = group = ""
    apart = table.columns.has("section", "parallel")
    listed = apart and _lists_finishes(table)
    apart = apart and not listed
    grouped = not apart and _is_grouped(sorting, table)
    per, of_sheet = _counted_per(table), _format_of(sorting, table)
    if table.columns.has("count") or not sorting.sections:
        open_listed(sorting, [_named(table, place, cells) for place, cells in table.segment.rows])
    _learn_codes(sorting, table)
    above = (
        find_section(sorting, OF_FINISHES.sub("", table.label).strip(" -–—:")) if table.label and not apart else None
    )
    group = sorting.sections[above[0]].label if above and above[1] else group
    for place, cells in table.segment.rows:
        row = fields_of(table.columns, cells)
        section = row.get("section", "") or section
        name = _name(table.columns, cells)
        stated = _stated(table.columns, cells, per)
        if listed:
            name = section
            add_listed(sorting, place, section, row.pop("parallel", ""))
        if is_sum(name or section) and not apart:
            sorting.note(place, Status.PASSED, "a total")
            continue
        if grouped and (found := find_section(sorting, name)) and found[1]:
            group = sorting.sections[found[0]].label
            if not stated:
                sorting.note(place, Status.UNDERSTOOD, f"what follows is of {group}")
                continue
        if not stated and apart and _finish_alone(sorting, place, row, section):
            continue
        if not (name or row.get("parallel")) or not stated:
            says = "no rate here" if name else "a rate without a name"
            sorting.note(place, Status.NOT if stated else Status.PASSED, says)
            continue
        name, stamped = take_run(name)
        run = run_of(row.get("run", "")) or stamped
        for text, word in stated:
            line = _line(row, name, section, apart=apart)
            counts = text.isdecimal() and is_unit(row.get("unit", ""))
            rate = f"1 in {text} {row['unit']}" if counts else text
            _pend(sorting, place, rate, word or row.get("format", "") or of_sheet, line, run, group)


def _finish_alone(sorting: Sorting, place: int, row: Fields, section: str) -> bool:
    """Take a row of a section and a finish without odds for what it is: the finish."""
    found = find_section(sorting, section)
    label, stamped = take_run(row.get("parallel", ""))
    if found is None or is_plain(label):
        return False
    run = run_of(row.get("run", "")) or stamped
    sorting.parallel(place, found[0], label, run)
    words = f"{label} /{run}" if run else label
    sorting.note(place, Status.UNDERSTOOD, f"finish {words} of {sorting.sections[found[0]].label}, without odds")
    return True


def _learn_codes(sorting: Sorting, table: Table) -> None:
    """Learn the codes of sections from a list of them: cards elsewhere have them in a column or in their numbers."""
    field = next((name for name in ("prefix", "back_code") if table.columns.has(name)), "")
    for place, cells in table.segment.rows if field else ():
        row = fields_of(table.columns, cells)
        code, name = row.get(field, ""), row.get("name", "") or row.get("section", "")
        if code and name:
            sorting.codes[code.strip("- ")] = (place, name)


def _named(table: Table, place: int, cells: tuple[str, ...]) -> tuple[int, str, str]:
    """Return what a row names and how many cards it has; empty where a finish has a column of its own."""
    row = fields_of(table.columns, cells)
    name = row.get("section", "") if table.columns.has("parallel") else _name(table.columns, cells)
    plain = is_plain(row.get("parallel", "")) and not is_sum(name)
    return place, name if plain else "", row.get("count", "").removesuffix(".0")


def _format_of(sorting: Sorting, table: Table) -> str:
    """Return the box that a sheet or the heading of a table names; empty when neither does."""
    above = " ".join(" ".join(cells) for _, cells in table.segment.above)
    text = f"{table.sheet.name} {above}".casefold()
    words = [*sorting.format_words(), *FORMAT_WORDS]
    found = [word for word in dict.fromkeys(words) if re.search(rf"\b{re.escape(word)}\b", text)]
    return max(found, key=len) if found else ""


def _lists_finishes(table: Table) -> bool:
    """Whether the column of finishes lists those of a section, beside how many cards it has: the rate is its own."""
    cells = [fields_of(table.columns, cells).get("parallel", "") for _, cells in table.segment.rows]
    several = any(len(re.split(r"[;,](?!\d{3}\b)", cell.strip(" ;,"))) > 1 for cell in cells)
    return several or table.columns.has("count")


def _is_grouped(sorting: Sorting, table: Table) -> bool:
    """Whether finishes stand under their sections: a section has no rate of its own, or a finish comes twice."""
    rows = [(fields_of(table.columns, cells), cells) for _, cells in table.segment.rows]
    names = [
        (_name(table.columns, cells), row.get("format", ""), bool(_stated(table.columns, cells)))
        for row, cells in rows
    ]
    lone = any(not rated and name and find_section(sorting, name) for name, _, rated in names)
    several = [(name, fmt) for name, fmt, rated in names if rated]
    return lone or len(set(several)) < len(several)


def _line(row: Fields, name: str, section: str, *, apart: bool) -> tuple[str, str, str | None]:
    """Return name, section and finish of a row; section and finish only where both have columns of their own."""
    if not apart:
        return name, "", None
    finish = row.get("parallel", "")
    return name, section, "" if is_plain(finish) else finish


def _pend(
    sorting: Sorting,
    place: int,
    text: str,
    word: str,
    line: tuple[str, str, str | None],
    run: str,
    group: str = "",
) -> None:
    rate = cell_rate(text)
    several = rates_in(text, sorting.format_words(), odds=True) if rate is None else ()
    if several and all(one.format and not one.name for one in several):
        name, section, parallel = line
        for one in several:
            rated = replace(one, name=name, run=run, group=group)
            sorting.pending.append(Pending(place, rated, "", section, parallel))
        return
    if rate is None:
        sorting.note(place, Status.NOT, f"“{text}” is no rate: write it like 1:24")
        return
    column, value, guess = rate
    name, section, parallel = line
    rated = Rated(name, column, value, run=run, guesses=(guess,) if guess else (), group=group)
    sorting.pending.append(Pending(place, rated, word, section, parallel))


def _name(columns: Columns, cells: tuple[str, ...]) -> str:
    """Return the words of a row that name a line: section, finish, or the first column of words."""
    named = [columns.by_field[field] for field in ("section", "name", "parallel") if field in columns.by_field]
    if columns.has("section", "name") and (columns.has("back_code") or columns.has("prefix")):
        named.remove(columns.by_field["section"])  # beside code and name of a set stands what kind it is
    rest = [c.place for c in columns.all if not c.field and c.values]
    words = [
        cells[place].strip() for place in sorted(named or rest[:1]) if place < len(cells) and cells[place].strip()
    ]
    return " ".join(dict.fromkeys(words))


_HOLDS = re.compile(
    r"\b(?:(?:per|pro|je|par|por|each|every|in a|in every)\s+(?P<unit>\w+)|box breaks?|break ?downs?|guarantees?)\b",
    re.IGNORECASE,
)


def _counted_per(table: Table) -> str:
    """Return pack, box or case where the name of a table says that its plain numbers count cards in one."""
    named = [table.sheet.name, *(" ".join(cells) for _, cells in table.segment.above)]
    found = next((match for text in named if (match := _HOLDS.search(text))), None)
    if found is None:
        return ""
    return unit_of(found["unit"]) if found["unit"] and is_unit(found["unit"]) else "box" if not found["unit"] else ""


_PER_UNIT = re.compile(r"(.+) per (box|case)")


def _stated(columns: Columns, cells: tuple[str, ...], per: str = "") -> list[tuple[str, str]]:
    """Return the rates of a row and the format each is for; plain numbers are counts ``per`` what a table says."""
    found = [(place, word.partition(":")[2]) for place, word in columns.spread.items() if word.startswith("rate:")]
    units = {place: said[2] for place, word in found if (said := _PER_UNIT.fullmatch(word))}
    found = [(place, _PER_UNIT.sub(r"\1", word)) for place, word in found]
    packs = () if columns.has("cards_per_pack") else ("packs_per_box",)
    found += [(columns.by_field[name], "") for name in ("odds", "per_box", "per_case", *packs) if columns.has(name)]
    made = []
    for place, word in found:
        text = cells[place].strip() if place < len(cells) else ""
        if text.casefold() in _NONE:
            continue
        own = f"per_{units[place]}" if place in units else ""
        unit = own or next(
            (u for u in ("per_box", "per_case") if columns.by_field.get(u) == place), per and f"per_{per}"
        )
        made.append(
            (f"{text} per {unit.removeprefix('per_')}" if unit and text.replace(".", "").isdecimal() else text, word)
        )
    return made


def read_across(sorting: Sorting, table: Table) -> None:
    """Read odds with a row for each format and a column for each line."""
    heads = table.segment.heads
    for place, cells in table.segment.rows:
        fmt = cells[0].strip() if cells else ""
        for column, text in enumerate(cells[1:], 1):
            head = heads[column].strip() if column < len(heads) else ""
            if head and text.strip().casefold() not in _NONE:
                _pend(sorting, place, text.strip(), fmt, (head, "", None), "")


def read_lines(sorting: Sorting, table: Table) -> None:
    """Read odds with a row for each finish and a column for each section."""
    for place, cells in table.segment.rows:
        finish = next((cell.strip() for at, cell in enumerate(cells) if at not in table.columns.spread), "")
        label, run = take_run(finish)
        for column, word in table.columns.spread.items():
            text = cells[column].strip() if column < len(cells) else ""
            if text.casefold() not in _NONE:
                line = ("", word.partition(":")[2], "" if is_plain(label) else label)
                _pend(sorting, place, text, "", line, run)
