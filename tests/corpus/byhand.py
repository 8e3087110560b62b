"""Cases written by hand: a file each, its sources and its truth one below the other.

``--- file NAME`` is a file as it stands, ``--- sheets NAME`` a workbook (``== SHEET``, cells parted by bars),
``--- checklist``, ``--- odds`` and ``--- formats`` are texts, ``--- truth`` says what they hold: ``format``,
``section``, ``card`` (of the section above), ``parallel``, ``odds``, ``promise``; ``trap`` where what must not come out
of it counts in every table.
"""

from __future__ import annotations

from pathlib import Path

from tests.corpus.tablelayouts import Cells, xlsx_bytes
from tests.corpus.truth import Case, Row

FOLDER = Path(__file__).parent / "hand"
SHAPES: dict[str, tuple[str, tuple[str, ...]]] = {
    "format": ("formats", ("format", "packs_per_box", "cards_per_pack", "boxes_per_case", "list_price", "currency")),
    "section": ("sections", ("section", "kind")),
    "card": ("cards", ("number", "name", "team", "rookie")),
    "parallel": ("parallels", ("section", "parallel", "run", "group")),
    "odds": ("odds", ("format", "section", "parallel", "rate")),
    "promise": ("promises", ("format", "count", "per", "promise", "covers")),
}


def names() -> list[str]:
    """Return the names of all cases written by hand."""
    return sorted(path.stem for path in FOLDER.glob("*.case"))


def load(name: str) -> Case:
    """Read a case."""
    _, *parts = (FOLDER / f"{name}.case").read_text(encoding="utf-8").split("\n--- ")
    case = Case(name)
    for part in parts:
        head, _, body = part.partition("\n")
        kind, _, label = head.partition(" ")
        if kind == "file":
            case.files[label] = body.encode()
        elif kind == "sheets":
            case.files[label] = xlsx_bytes(_sheets(body))
        elif kind == "truth":
            _truth(case, body)
        else:
            case.texts[kind] = body
    return case


def _sheets(body: str) -> list[tuple[str, Cells]]:
    made: list[tuple[str, Cells]] = []
    for line in body.splitlines():
        if line.startswith("== "):
            made.append((line[3:], []))
        else:
            made[-1][1].append(list(line.split("|")))
    return made


def _truth(case: Case, body: str) -> None:
    section = ""
    for line in filter(None, body.splitlines()):
        word, _, rest = line.partition(" ")
        if word == "trap":
            case.trap = True
            continue
        table, fields = SHAPES[word]
        cells = [cell.strip() for cell in rest.split("|")]
        row: Row = dict(zip(fields, cells, strict=False))
        if word == "section":
            section = row["section"]
        if word == "card":
            row = {"rookie": "", **row, "section": section}
        case.truth.setdefault(table, []).append(row)
