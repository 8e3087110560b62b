"""Cards in cells below headings of columns in the middle of a text: each cell means what its heading says."""

from __future__ import annotations

from dataclasses import replace

from botin.exchange.catalog.cardtext import CardLine, card_from
from botin.exchange.catalog.columnvalues import MARKS, NO, NUMBER, SAYS_ROOKIE, SAYS_SHORT, YES
from botin.exchange.catalog.columnwords import field_of, fits
from botin.exchange.catalog.runtext import run_of
from botin.exchange.catalog.textcards import add_card
from botin.exchange.catalog.textreader import Line, Reader, is_column_heads
from botin.exchange.notes import Status

FAIR = 0.6
"""How well a heading must fit a field where no other does (a choice)."""
_KNOWN = frozenset(("number", "name", "team", "rookie", "run", "note", "marks", "short"))


def column_heads(reader: Reader, line: Line) -> bool:
    """Headings of columns in the middle of a text: the cells below are what they say."""
    if not is_column_heads(line.text):
        return False
    reader.heads = tuple(map(_field, cells_in(line.text)))
    reader.sorting.note(line.place, Status.PASSED, "headings of columns")
    return True


def celled_card(reader: Reader, line: Line) -> bool:
    """A card whose cells stand below headings; only where one of them says more than number, name and club do."""
    if not reader.heads or ("|" not in line.text and "\t" not in line.text):
        return False
    cells = cells_in(line.text)
    row = {name: cell for name, cell in zip(reader.heads, cells, strict=False) if name and cell}
    number, name = row.get("number", ""), row.get("name", "")
    if not name or not NUMBER.fullmatch(number) or len(cells) > len(reader.heads):
        return False
    card = _with_fields(
        card_from(number.lstrip("# "), name, row.get("team", ""), has_team="team" in reader.heads), row
    )
    add_card(reader, line, card)
    return True


def cells_in(text: str) -> list[str]:
    """Part a line at its bars or tabs; empty cells stay, so that each keeps its place."""
    bare = text.strip()
    if "|" in bare:
        return [cell.strip() for cell in bare.removeprefix("|").removesuffix("|").split("|")]
    return [cell.strip() for cell in bare.split("\t")]


def _field(head: str) -> str:
    """Return what a heading means for a card, empty for nothing that a card keeps."""
    found = fits(head)
    best = field_of(head) or max(found, key=lambda name: found[name], default="")
    return best if best in _KNOWN and found.get(best, 0.0) >= FAIR else ""


def _with_fields(card: CardLine, row: dict[str, str]) -> CardLine:
    """Return a card with rookie, short print and run as the other cells say."""
    note = row.get("note", "")
    marks = f"{row.get('marks', '')} {note if MARKS.fullmatch(note) else ''}"
    run = run_of(row.get("run", ""))
    ticked = row.get("rookie", "").casefold()
    guesses = (f"“{row['run']}” is no print run: left out",) if run is None else ()
    if ticked not in NO | YES:
        guesses = (*guesses, f"“{row['rookie']}” in the column of rookies is taken for yes")
    return replace(
        card,
        rookie=card.rookie or ("yes" if ticked not in NO or SAYS_ROOKIE.search(marks) else ""),
        short=card.short or row.get("short", "").casefold() not in NO or bool(SAYS_SHORT.search(marks)),
        run=card.run or run or "",
        guesses=(*card.guesses, *guesses),
    )
