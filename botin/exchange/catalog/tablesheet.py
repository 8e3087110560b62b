"""A sheet of a table: its tables found, their columns recognised, and each handed to who reads its kind."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from botin.exchange.catalog.blocks import (
    Row,
    Segment,
    filled,
    formats_down,
    segments,
    side_by_side,
    turned,
    without_margin,
)
from botin.exchange.catalog.columns import Columns, make_columns, recognise
from botin.exchange.catalog.columnwords import bare
from botin.exchange.catalog.finishesacross import are_across, columns_across
from botin.exchange.catalog.headingtext import has_count, heading_of
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.oddstext import FORMAT_WORDS, RATED_TAIL, Rated, rates_in
from botin.exchange.catalog.questions import Question, Seen, shape_of
from botin.exchange.catalog.runtext import run_of
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.catalog.textboxes import says_product, take_about
from botin.exchange.notes import Sheet, Status

GENERIC = re.compile(
    r"(?:sheet|tabelle|feuil(?:le)?|hoja|foglio|blad|ark|arkusz|list|page|table|tab)\s*\d*"
    r"|(?:full |master |complete )?check ?lists?|cards?|list|liste|lista|karten(?:liste)?|cartes?|cartas?|kaarten"
    r"|main|data|daten|export|import|all(?: cards)?|set ?list|inventory|collection|my .*|unnamed.*|book\d*|products?"
    r"|season|overview|info|notes?|sets?",
    re.IGNORECASE,
)
"""Names of sheets that say nothing of what is in them."""
_FORMATS = (
    r"formats?|formate|formatos?|boxes|configurations?|box types|packaging|verpackung|product config.*|"
    r"konfiguration"
)
_RATES = (
    r".*\bodds\b.*|quoten?|chancen?|cotes?|probabilidades|kansen|pull rates?|ratios?|insertion.*|wahrscheinlichkeiten"
)
_FINISHES = (
    r".*parallel\w*|finishes|farben|varianten|colou?rs|variants|parall[èe]les|paralelas|runs?|print runs?|auflagen|"
    r"tirages"
)
_SECTIONS = r"sections?|sets?|subsets?|inserts?(?: list)?|serien|s[ée]ries|insert sets"
_PROMISES = r"promises|guarantees?|box breaks?|breakdown|per box|was drin ist"
HINTS = (
    ("formats", _FORMATS), ("rates", _RATES), ("finishes", _FINISHES), ("sections", _SECTIONS),
    ("promises", _PROMISES),
)  # fmt: skip
NOT_CARDS = ("rates", "finishes", "formats", "sections", "promises")


@dataclass(frozen=True)
class Table:
    """A table whose columns are known.

    Attributes
    ----------
    kind : str
        cards, finishes, grid (runs by section), rates, formats, sections, or empty.
    label : str
        Section that sheet or heading name, empty when none does.
    line : int
        Place of the heading that names it.
    """

    sheet: Sheet
    segment: Segment
    columns: Columns
    kind: str
    label: str = ""
    line: int = 0
    expected: int | None = None
    rates: tuple[Rated, ...] = ()
    """Odds behind its heading: those of the section."""
    club: str = ""
    """Club that the name of its sheet is."""


def hint_of(name: str) -> str:
    """Return what the name of a sheet says it holds, empty when nothing."""
    bare = name.strip()
    return next((kind for kind, words in HINTS if re.fullmatch(words, bare, re.IGNORECASE)), "")


def tables_of(sorting: Sorting, sheet: Sheet, places: dict[int, int], sections: Iterable[str]) -> list[Table]:
    """Find the tables of a sheet and say what each column of them is."""
    rows = without_margin([(places[line], cells) for line, cells in sheet.rows if filled(cells)])
    blocks = side_by_side(rows)
    formats = sorting.format_words() or {word: word for word in FORMAT_WORDS}
    words = [*sorting.format_words(), *FORMAT_WORDS]
    found = []
    for block in blocks:
        parts = [_turned(sorting, segment) for segment in segments(block)]
        several = sum(part.head is not None for part in parts) > 1
        for segment in parts:
            shape = shape_of(segment.heads, max((len(cells) for _, cells in segment.rows), default=0))
            columns = recognise(segment.heads, segment.sample, words, sections, sorting.told.get(shape))
            found.append(_table(sheet, segment, columns, formats, beside=len(blocks) > 1 or several))
            if _are_lists(segment, sections):
                found[-1] = replace(found[-1], kind="lists", segment=_headed(segment))
            elif are_across(segment, sections):
                found[-1] = replace(found[-1], kind="finishes across", columns=columns_across(segment))
    return found


def _turned(sorting: Sorting, segment: Segment) -> Segment:
    """Return a table with its fields above; where they stood at the side its lines are all of one reading."""
    about, segment = _without_about(segment)
    made = turned(segment)
    for place, cells in about if made is not segment or not segment.rows else ():
        take_about(sorting, place, "\t".join(filled(cells)))
    if made is not segment:
        for place, _ in segment.rows:
            sorting.note(place, Status.UNDERSTOOD, "boxes side by side: one of their fields")
    return made


def _without_about(segment: Segment) -> tuple[list[Row], Segment]:
    """Part the rows above boxes side by side that say what the product is called, or when it is released."""
    rows = ([segment.head] if segment.head else []) + segment.rows
    count = 0
    while count < len(rows) and _says_product(rows[count][1]):
        count += 1
    bare = Segment([*segment.above, *(row for row in rows[:count] if len(filled(row[1])) == 1)], None, rows[count:])
    if not count or turned(bare) is bare:
        return [], segment
    return [row for row in rows[:count] if len(filled(row[1])) > 1], bare


def _says_product(cells: Sequence[str]) -> bool:
    given = filled(cells)
    return given == [cells[0].strip()] or (len(given) == 2 and says_product("\t".join(given)))


def _are_lists(segment: Segment, sections: Iterable[str]) -> bool:
    """Whether all that stands above the columns are sections, and words below them."""
    known = {bare(label) for label in sections}
    heads = _headed(segment).heads
    named = [bare(head) in known for head in heads if head.strip()]
    rows = _headed(segment).cells
    return len(named) > 1 and all(named) and all(_is_list(heads, rows, at) for at in range(len(heads)))


def _is_list(heads: Sequence[str], rows: Sequence[Sequence[str]], at: int) -> bool:
    """Whether a column is a list of finishes below a section, or their runs beside it."""
    cells = [bare for row in rows if at < len(row) and (bare := row[at].strip())]
    if heads[at].strip():
        return bool(cells) and all(re.match(r"[^\W\d_]", cell) for cell in cells)
    return all(run_of(cell) is not None for cell in cells)


def _headed(segment: Segment) -> Segment:
    """Return a table with its first row as its headings where it has none."""
    if segment.head is not None or not segment.rows:
        return segment
    return Segment(segment.above, segment.rows[0], segment.rows[1:])


def _table(
    sheet: Sheet, segment: Segment, columns: Columns, formats: Mapping[str, str], *, beside: bool
) -> Table:  # fmt: skip
    kind = "across" if formats_down(segment) else kind_of(columns, hint_of(sheet.name))
    nearest = segment.above[-1] if segment.above else None
    if nearest is None:
        return Table(sheet, segment, columns, kind)
    text = " ".join(filled(nearest[1])[0].split())
    rates = rates_in(text, formats)
    if rates:
        text = RATED_TAIL.sub("", text).strip(" (–—:-") or text
    label, expected = heading_of(text)
    own = sheet.name.strip()
    if "#" in sheet.source and len(own) > 2 and own.casefold() in text.casefold() and not beside:
        return Table(sheet, segment, columns, kind)
    names_it = (has_count(text) or guess_kind(label)[1] or beside) and not re.match(r"(?:19|20)\d\d\b", text)
    label = label if names_it else ""
    stated = tuple(replace(rated, name="") for rated in rates) if label else ()
    return Table(sheet, segment, columns, kind, label=label, line=nearest[0], expected=expected, rates=stated)


def kind_of(columns: Columns, hint: str) -> str:
    """Return what kind of table has such columns.

    Names with numbers are cards whatever the sheet is called; without numbers the sheet's name counts.
    """
    spread = columns.spread.values()
    rated = columns.has("odds") or any(word.startswith("rate:") for word in spread)
    counted = columns.has("per_box") or columns.has("per_case")
    rules: list[tuple[str, bool]] = [
        ("formats", columns.has("packs_per_box", "cards_per_pack")),
        ("cards", columns.has("card") or (columns.has("number", "name") and not (rated and hint == "rates"))),
        ("lines", any(word.startswith("line:") for word in spread)),
        ("grid", any(word.startswith("run:") for word in spread)),
        ("rates", rated or (counted and (columns.has("section") or columns.has("name") or columns.has("parallel")))),
        ("finishes", columns.has("parallel") or hint == "finishes"),
        ("sections", columns.has("section", "back_code") and not columns.has("number")),
        ("sections", columns.has("section") and (columns.has("kind") or columns.has("count") or hint == "sections")),
        ("cards", columns.has("name") and hint not in NOT_CARDS),
        ("cards", columns.has("number") and columns.has("team")),
    ]
    return next((kind for kind, holds in rules if holds), "")


def is_table(found: Sequence[Table]) -> bool:
    """Whether what was found is tables and not lines of text in cells."""
    return any(table.kind and (table.segment.head or len(table.segment.sample) >= 3) for table in found)


def ask(sorting: Sorting, table: Table) -> None:
    """Note what the columns are; each that was guessed is one question."""
    shape = shape_of(table.segment.heads, max((len(cells) for _, cells in table.segment.rows), default=0))
    if table.columns.all and all(seen.shape != shape for seen in sorting.tables):
        sorting.tables.append(Seen(table.sheet.place, shape, table.columns.all, len(table.segment.rows)))
    for column in table.columns.unsure:
        question = Question(table.sheet.place, shape, column, len(table.segment.rows))
        if all((one.shape, one.column.place) != (shape, column.place) for one in sorting.questions):
            sorting.questions.append(question)
    if table.segment.head is None:
        return
    used = [c.field.partition(":")[2] or c.field for c in table.columns.all if c.field and c.field != "own"]
    out = [c.heading for c in table.columns.unused]
    says = f"columns: {', '.join(used)}" + (f"; passed over: {', '.join(out)}" if out else "")
    guessed = [f"“{c.heading or 'no heading'}” is {c.field} {c.why}" for c in table.columns.unsure]
    says += f"; {', '.join(guessed)}" if guessed else ""
    sorting.note(table.segment.head[0], Status.GUESSED if guessed else Status.UNDERSTOOD, says)


def with_sure(columns: Columns, fields: Iterable[str]) -> Columns:
    """Return the columns with some fields taken as sure: the kind of the table leaves no other reading."""
    wanted = set(fields)
    return make_columns(replace(c, sure=c.sure or c.field in wanted) for c in columns.all)
