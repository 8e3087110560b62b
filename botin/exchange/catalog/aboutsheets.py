"""Sheets that say what a product is called and how it is boxed, a field a row: they are read as lines."""

from __future__ import annotations

from dataclasses import replace

from botin.exchange.catalog.blocks import filled, is_head
from botin.exchange.catalog.textboxes import says_product
from botin.exchange.notes import Sheet

MOST = 30
"""Rows that such a sheet has at most."""


def as_lines(sheet: Sheet) -> Sheet | None:
    """Return such a sheet as lines of text; None when it is any other.

    Two of its rows say something of the product, or one in a sheet of few rows, and no row is headings of columns.
    """
    if len(sheet.rows) > 2 * MOST:
        return None
    rows = [(line, filled(cells)) for line, cells in sheet.rows if filled(cells)]
    said = sum(len(cells) == 2 and says_product("\t".join(cells)) for _, cells in rows)
    if not rows or len(rows) > MOST or said < 1 or 5 * said < len(rows):
        return None
    if any(is_head(cells, []) for _, cells in rows) or sum(len(cells) > 2 for _, cells in rows) > 2:
        return None
    return replace(sheet, rows=tuple((line, ("\t".join(cells),)) for line, cells in rows), is_text=True)
