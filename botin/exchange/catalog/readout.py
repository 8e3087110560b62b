"""What a reading says, as one document: rows with the lines they came from, every line, the questions."""

from __future__ import annotations

from typing import Any

from botin.exchange.catalog.interpret import Draft
from botin.exchange.catalog.package import product_tables
from botin.exchange.notes import Note, Status

STATUS = {
    Status.UNDERSTOOD: "understood",
    Status.GUESSED: "guessed",
    Status.NOT: "unread",
    Status.PASSED: "unread",
}


def read_document(draft: Draft) -> dict[str, Any]:
    """Shape a draft as the contract of ``botin read`` has it."""
    return {
        "product": product_rows(draft),
        "lines": [_line(note) for note in draft.notes],
        "questions": [question.document() for question in draft.questions],
    }


def product_rows(draft: Draft) -> dict[str, list[dict[str, Any]]]:
    """Return the rows of each table as text, each with its source line under ``from``."""
    product = draft.reading.product
    found: dict[str, list[dict[str, Any]]] = {}
    for name, (header, *rows) in product_tables(product).items():
        lines = [row.line for row in getattr(product, name)]
        found[name] = [
            {**dict(zip(header, cells, strict=True)), "from": _place(draft, line)}
            for cells, line in zip(rows, lines, strict=True)
        ]
    return found


def _place(draft: Draft, line: int) -> list[Any] | None:
    return list(draft.places[line - 1]) if 0 < line <= len(draft.places) else None


def _line(note: Note) -> dict[str, Any]:
    return {
        "source": note.sheet,
        "line": note.line,
        "status": STATUS[note.status],
        "text": note.text,
        "meaning": note.says,
    }
