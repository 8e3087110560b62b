"""Tables of a package as Botin writes them, and as people change them: renamed columns are found by their words."""

from __future__ import annotations

from botin.exchange.catalog.columnwords import fits
from botin.exchange.catalog.formatstext import slug
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Sheet, Status
from botin.exchange.tables import PRODUCT_TABLES, RawRow, TableSpec

RATES = frozenset(("packs_per_hit", "per_pack", "per_box", "per_case", "promise"))
"""One of them a table of odds has; another with a word of its own for them is read by its words and values."""


def strict_spec(sheet: Sheet) -> TableSpec | None:
    """Return the package table a sheet is, by its name and its columns."""
    spec = next((spec for spec in PRODUCT_TABLES if spec.name == sheet.name.casefold()), None)
    if spec is None or not sheet.rows or sheet.is_text:
        return None
    first = next((cells for _, cells in sheet.rows if any(cell.strip() for cell in cells)), ())
    header = {cell.strip().casefold() for cell in first}
    required = all(column.name in header for column in spec.columns if column.required)
    rated = spec.name != "odds" or bool(header & RATES)
    return spec if required and rated and not _is_by_hand(sheet, spec, header) else None


def _is_by_hand(sheet: Sheet, spec: TableSpec, header: set[str]) -> bool:
    """Whether a table only has some names of columns in common: one of its own, and no keys in the first of ours."""
    if header - {""} <= set(spec.names):
        return False
    (_, first), *below = [row for row in sheet.rows if any(map(str.strip, row[1]))]
    words = [cell.strip().casefold() for cell in first]
    at = words.index(spec.names[0]) if spec.names[0] in words else 0
    keys = [cells[at].strip() for _, cells in below if at < len(cells) and cells[at].strip()]
    return bool(keys) and all(key != slug(key) for key in keys)


def read_strict(sorting: Sorting, sheet: Sheet, spec: TableSpec, places: dict[int, int]) -> None:
    """Read a table of a package; rows are taken as they are, and checked when the product is built."""
    header: list[str] | None = None
    for line, cells in sheet.rows:
        if not any(cell.strip() for cell in cells):
            continue
        if header is None:
            header, says, sure = _header(spec, cells)
            sorting.note(places[line], Status.UNDERSTOOD if sure else Status.GUESSED, says)
            continue
        if ".xls" in sheet.source and any(cell.startswith("=") for cell in cells):
            says = "a formula without its value: copy the sheet and paste it as values"
            sorting.note(places[line], Status.NOT, says)
            continue
        sorting.rows[spec.name].append(RawRow(places[line], dict(zip(header, cells, strict=False))))
        sorting.note(places[line], Status.UNDERSTOOD, f"a row of {spec.name}")


def _header(spec: TableSpec, cells: tuple[str, ...]) -> tuple[list[str], str, bool]:
    """Return the columns of a table, what is said of them, and whether each is the package's own."""
    header = [cell.strip().casefold() for cell in cells]
    free = [name for name in spec.names if name not in header]
    said = []
    for place, word in enumerate(header):
        if not word or word in spec.names:
            continue
        best = max((name for name in fits(word) if name in free), key=fits(word).__getitem__, default="")
        if best and fits(word)[best] >= 0.8:
            header[place] = best
            free.remove(best)
            said.append(f"“{word}” is read as {best}")
        else:
            said.append(f"“{word}” is no column of it: passed over")
    words = "; ".join([f"the columns of {spec.name}", *said])
    return header, words, not said
