"""A sheet as the tables that stand in it: side by side, below one another, each with what is written above it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import islice, pairwise

from botin.exchange.catalog.columns import SAMPLE
from botin.exchange.catalog.columnvalues import NUMBER, RATE, profile
from botin.exchange.catalog.columnwords import SURE, bare, field_of, fits, is_card_word
from botin.exchange.catalog.kinds import is_section_word
from botin.exchange.catalog.oddstext import FORMAT_WORDS

Row = tuple[int, tuple[str, ...]]
"""The place of a row among all source lines, and its cells."""
_FORMAT = re.compile(rf"\b(?:{'|'.join(FORMAT_WORDS)}|displays?|blisters?|tins?)\b", re.IGNORECASE)
TOTAL = re.compile(
    r"(?:sub|grand )?\s?totals?\b.*|summe\b.*|gesamt\w*\b.*|zwischensumme.*|totaa?l\b.*|total g[ée]n[ée]ral.*|"
    r"suma\b.*|count\b.*|"
    r"anzahl\b.*|celkem.*|razem.*|totale\b.*",
    re.IGNORECASE,
)
LOOK = 15
"""Rows that may stand above the first headings."""


@dataclass
class Segment:
    """A table: its headings, its rows, and the lone lines above it, the nearest last."""

    above: list[Row] = field(default_factory=list)
    head: Row | None = None
    rows: list[Row] = field(default_factory=list)

    @property
    def heads(self) -> tuple[str, ...]:
        """Return what stands above the columns."""
        return self.head[1] if self.head else ()

    @property
    def sample(self) -> list[tuple[str, ...]]:
        """Return the first of them, enough to see what the columns are."""
        return list(
            islice((cells for _, cells in self.rows if len(filled(cells)) > 1 and not is_total(cells)), SAMPLE)
        )

    @property
    def cells(self) -> list[tuple[str, ...]]:
        """Return the cells of the rows that fill more than one, totals left out."""
        return [cells for _, cells in self.rows if len(filled(cells)) > 1 and not is_total(cells)]


def filled(cells: Sequence[str]) -> list[str]:
    """Return the cells that hold something."""
    return [bare for cell in cells if (bare := cell.strip())]


def is_total(cells: Sequence[str]) -> bool:
    """Whether a row sums up those above it."""
    return TOTAL.fullmatch(next(iter(filled(cells)), "")) is not None


_SUM = re.compile(
    r"(?:sub|grand\s?|zwischen)[ -]?(?:totals?|summen?)\b.*"
    r"|(?:totals?|summen?|gesamt\w*|totaa?l|suma|celkem|razem|totale|anzahl|count)"
    r"(?:\W*|\W*[:=(].*|\W+\d.*|\s+(?:cards?|finishes|parallels?|sets?|inserts?|copies|karten|hits?|odds|all|of|for|per)\b.*)",
    re.IGNORECASE,
)


def is_sum(text: str) -> bool:
    """Whether a name in a list is that of a sum; a finish may be called Total Eclipse."""
    return _SUM.fullmatch(text.strip()) is not None


def without_margin(rows: Sequence[Row]) -> list[Row]:
    """Return rows without the empty columns before all of them."""
    first = min((next(at for at, cell in enumerate(cells) if cell.strip()) for _, cells in rows), default=0)
    return [(place, tuple(cells[first:])) for place, cells in rows] if first else list(rows)


def side_by_side(rows: Sequence[Row]) -> list[list[Row]]:
    """Part a sheet whose tables stand beside one another; one block when they do not."""
    starts, gaps = _starts(rows), _gaps(rows)
    if len(starts) < 2 and not gaps:
        return [list(rows)]
    edges = [0, *(_edge(rows, one, other) for one, other in pairwise(starts))] if len(starts) > 1 else [0, *gaps]
    ends = [*edges[1:], max(len(cells) for _, cells in rows)]
    blocks = []
    for start, end in zip(edges, ends, strict=True):
        cut = [(place, tuple(cells[start:end])) for place, cells in rows]
        blocks.append([row for row in cut if filled(row[1])])
    return blocks


def _gaps(rows: Sequence[Row]) -> list[int]:
    """Return the empty columns that part two tables with headings of their own: one stands on both sides."""
    heads = next((cells for _, cells in rows[:LOOK] if is_head(cells, [])), ())
    used = {at for _, cells in rows for at, cell in enumerate(cells) if cell.strip()}
    found: list[int] = []
    for at in (at for at in range(2, len(heads) - 2) if at not in used):
        before, behind = ([bare(cell) for cell in filled(part)] for part in (heads[:at], heads[at + 1 :]))
        if len(before) > 1 and len(behind) > 1 and set(before) & set(behind):
            found.append(at)
    return found


def _edge(rows: Sequence[Row], start: int, following: int) -> int:
    """Return where one table ends: at its first empty column, else behind its last; the gap is the next one’s.

    What stands above a gap, askew, is the name of the table to its right.
    """
    full = [cells for _, cells in rows if len(filled(cells[start:following])) > 1]
    top = next((at for at, cells in enumerate(full[:LOOK]) if is_head(cells[start:following], [])), 0)
    body = full[top:]
    used = {place for cells in body for place in range(start, min(following, len(cells))) if cells[place].strip()}
    gap = next((place for place in range(start + 2, max(used, default=0)) if place not in used), None)
    return gap if gap is not None else max(used, default=following - 1) + 1


def _starts(rows: Sequence[Row]) -> list[int]:
    """Return the columns where a block begins: numbers with names behind them, again and again in the same shape."""
    width = max((len(cells) for _, cells in rows), default=0)
    body = [cells for _, cells in rows[:SAMPLE] if len(filled(cells)) > 1]
    if width < 4 or len(body) < 3:
        return []
    top = next((at for at, cells in enumerate(body[:LOOK]) if is_head(cells, [])), None)
    below = body if top is None else body[top + 1 :]
    columns = [[cells[place].strip() if place < len(cells) else "" for cells in below] for place in range(width)]
    found = [profile(values) for values in columns]
    numbers = [p for p, f in enumerate(found) if f is not None and f.numbers > 0.6 and f.runs < 0.5]
    names = {
        p for p, f in enumerate(found) if f is not None and f.words > 0.6 and f.several > 0.4 and f.distinct > 0.3
    }
    starts = [place for place in numbers if place + 1 in names]
    if len(starts) < 2 or starts[0] != 0:
        return []
    if top is not None:
        heads = body[top]
        first = bare(heads[starts[0]])
        starts = [place for place in starts if place < len(heads) and bare(heads[place]) == first]
    return starts if len(starts) > 1 else []


def is_head(cells: Sequence[str], below: Sequence[Sequence[str]]) -> bool:
    """Whether a row is the headings of the rows below it: by its words, or by being unlike what is below."""
    given = filled(cells)
    if not given or any(_is_figure(cell) for cell in given):
        return False
    known = sum(_is_field(cell) for cell in given)
    known += sum(_FORMAT.search(cell) is not None and len(cell) < 30 and not fits(cell) for cell in given)
    if any(map(_is_value, given)):
        return known >= SEVERAL and known * 2 >= len(given)  # “Pop 10” stands among the names of fields
    if known >= 2 and known * 2 >= len(given):
        return True
    if len(given) == 1 and is_section_word(given[0]):
        return False
    return bool(below) and (len(given) > 1 or known > 0) and _is_unlike(cells, below)


SEVERAL = 3
"""Names of fields from which a row is headings, whatever else stands in it (a choice)."""


_ORDINAL = re.compile(r"\d+(?:st|nd|rd|th|\.)\s*[^\W\d_]", re.IGNORECASE)
"""``1st year``."""


def _is_figure(cell: str) -> bool:
    """Whether a cell is a number, a rate or a run and nothing else."""
    plain = (
        (cell[:1].isdigit() and not field_of(cell) and not _ORDINAL.match(cell))
        or RATE.fullmatch(cell)
        or re.fullmatch(r"#?\s?/\s?\d{1,5}", cell)
    )
    return bool(plain) or re.fullmatch(r"[A-Z]{1,6}-\d{1,4}", cell) is not None


def _is_value(cell: str) -> bool:
    """Whether a cell is a number or a rate, and no heading that is counted: “Player 2”."""
    if not re.search(r"\d", cell):
        return re.fullmatch(r"[A-Z]{1,4}-[A-Z]{1,4}", cell) is not None and not field_of(cell)
    if cell.isdecimal():
        return True
    counted = NUMBER.fullmatch(cell) and not field_of(re.sub(r"[\s_#]*\d$", "", cell))
    sized = re.match(r"\d{1,5}\s+(?:packs?|cards?|boxes|packungen|karten|pochettes|cartes)\b", cell, re.IGNORECASE)
    return bool(sized or counted or RATE.fullmatch(cell) or re.fullmatch(r"#?\s?/\s?\d{1,5}", cell))


def _is_field(cell: str) -> bool:
    """Whether a cell is the name of a field, word for word."""
    return is_card_word(cell) or max((s for name, s in fits(cell).items() if name != "own"), default=0) >= SURE


def _is_unlike(cells: Sequence[str], below: Sequence[Sequence[str]]) -> bool:
    """Whether a word stands above a column of numbers, rates or runs."""
    for place, cell in enumerate(cells):
        if not cell.strip() or len(cell) > 40:
            continue
        found = profile([row[place] if place < len(row) else "" for row in below[:SAMPLE]])
        if found is not None and found.words < 0.3 and max(found.numbers, found.rates, found.runs, found.ticks) > 0.6:
            return True
    return False


def segments(rows: Sequence[Row]) -> list[Segment]:
    """Part a block at its headings, each with the lone lines right above it."""
    body = [cells for _, cells in rows if len(filled(cells)) > 1]
    worded = any(is_head(cells, []) for _, cells in rows[:LOOK])
    parts = [Segment()]
    for number, (place, cells) in enumerate(rows):
        early = parts[-1].head is None and number < LOOK and not worded
        if is_head(cells, body[1:] if early else []):
            above = _lone_tail(parts[-1])
            if parts[-1].head is not None and not parts[-1].rows and not above:
                parts[-1].head = (place, _both_rows(parts[-1].head[1], cells))
            elif parts[-1].head is None and not parts[-1].rows:
                parts[-1].head, parts[-1].above = (place, cells), above
            else:
                parts.append(Segment(above, (place, cells)))
        else:
            parts[-1].rows.append((place, cells))
    return parts


def _both_rows(upper: Sequence[str], lower: Sequence[str]) -> tuple[str, ...]:
    """Return the headings of columns that stand in two rows: a word that comes twice takes the one above to it.

    The one above stands at the first of the columns it is about, as in a merged cell: “Subject” over name and team.
    """
    words = [bare(cell) for cell in lower]
    made, over = [], ""
    for at in range(max(len(upper), len(lower))):
        above, own = (row[at].strip() if at < len(row) else "" for row in (upper, lower))
        over = above or over
        made.append(f"{over} {own}".strip() if not own or words.count(bare(own)) > 1 else own)
    return tuple(made)


def _lone_tail(segment: Segment) -> list[Row]:
    """Take the lone lines off the end of a table: they belong to the one that follows."""
    tail: list[Row] = []
    while segment.rows and len(filled(segment.rows[-1][1])) == 1:
        tail.insert(0, segment.rows.pop())
    return tail


def turned(segment: Segment) -> Segment:
    """Return a table whose fields stand in its first column with rows for columns; others as they are."""
    rows = ([segment.head] if segment.head else []) + segment.rows
    if len(rows) > LOOK:
        return segment
    first = [cells[0] for _, cells in rows if cells]
    known = sum(
        any(name.endswith(("_box", "_pack", "_case")) and s >= SURE for name, s in fits(c).items()) for c in first
    )
    if known < 2 or len(rows) < 3:
        return segment
    width = max(len(cells) for _, cells in rows)
    columns = [tuple(cells[at] if at < len(cells) else "" for _, cells in rows) for at in range(width)]
    heads = ("format", *columns[0][1:]) if not columns[0][0].strip() or not fits(columns[0][0]) else columns[0]
    place = rows[0][0]
    boxes = [column for column in columns[1:] if len(filled(column)) > 1]
    return Segment(segment.above, (place, heads), [(place, column) for column in boxes])


def formats_down(segment: Segment) -> bool:
    """Whether the rows of a table are formats, with rates under the names of lines."""
    rows = segment.cells
    if segment.head is None or not rows or sum(_FORMAT.search(head) is not None for head in segment.heads) > 1:
        return False
    named = all(cells and _FORMAT.search(cells[0]) for cells in rows)
    rates = [cell for cells in rows for cell in filled(cells[1:])]
    return named and len(segment.heads) > 2 and bool(rates) and all(RATE.fullmatch(cell) for cell in rates)
