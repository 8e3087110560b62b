"""Blanks as typed: pages and office programs put others in their place that look the same."""

from __future__ import annotations

import re
from dataclasses import replace

from botin.exchange.notes import Sheet

_WIDE = "\u00a0\u1680\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a\u202f\u205f\u3000"
_NONE = "\u00ad\u200b\u2060\ufeff"
"""Marks without a width: where a word may be parted or not, what a file begins with; those that join letters stay."""
_OTHER = re.compile(f"[{_WIDE}{_NONE}]")
_PLAIN = {**dict.fromkeys(map(ord, _WIDE), " "), **dict.fromkeys(map(ord, _NONE), "")}


def with_plain_blanks(sheet: Sheet) -> Sheet:
    """Return a sheet with plain blanks in its cells, the same one where it has no others."""
    if not any(_OTHER.search(cell) for _, cells in sheet.rows for cell in cells):
        return sheet
    rows = tuple((line, tuple(map(_plain, cells))) for line, cells in sheet.rows)
    return replace(sheet, rows=rows)


def _plain(cell: str) -> str:
    """Return a cell with plain blanks; one of nothing but marks without a width stays, so that it is answered."""
    made = cell.translate(_PLAIN)
    return made if made.strip() or not cell.strip() else cell
