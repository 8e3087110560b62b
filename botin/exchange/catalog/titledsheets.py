"""Sheets whose names say nothing and whose titles differ: the title above the columns names the section."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from botin.exchange.catalog.blocks import filled
from botin.exchange.catalog.headingtext import heading_of
from botin.exchange.catalog.tablesheet import GENERIC, Table
from botin.exchange.notes import Sheet

_COUNTED = re.compile(r"(?:set|subset|insert|part|series|section|tab)\s*#?\d{1,3}", re.IGNORECASE)


def titled_sheets(sheets: Sequence[Sheet]) -> frozenset[str]:
    """Return the places of such sheets: two and more of a workbook, no title twice."""
    titles = {
        sheet.place: " ".join(filled(sheet.rows[0][1])).casefold()
        for sheet in sheets
        if _says_nothing(sheet) and sheet.rows and len(filled(sheet.rows[0][1])) == 1
    }
    return frozenset(titles) if len(set(titles.values())) == len(titles) > 1 else frozenset()


def with_title(tables: Sequence[Table]) -> list[Table]:
    """Return the tables of such a sheet: the first without a label is of the section that its title names."""
    made = list(tables)
    for at, table in enumerate(tables[:1]):
        if table.kind == "cards" and not table.label and table.segment.above:
            place, cells = table.segment.above[0]
            label, expected = heading_of(filled(cells)[0])
            made[at] = replace(table, label=label, line=place, expected=expected)
    return made


def _says_nothing(sheet: Sheet) -> bool:
    bare = sheet.name.strip()
    counted = _COUNTED.fullmatch(bare) or GENERIC.fullmatch(bare)
    return not sheet.is_text and "#" in sheet.source and counted is not None
