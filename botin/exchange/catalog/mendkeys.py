"""Keys of a package that are written by label or in another case: found, and said."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TypeVar

from botin.core.catalog.naming import Names, chosen
from botin.core.catalog.product import Card, OddsRow, Parallel, Product
from botin.core.odds.findings import Severity
from botin.exchange import tables as t

Note = Callable[[str, t.TableSpec, int, str, Severity], None]
Named = TypeVar("Named", Card, Parallel, OddsRow)


def mend_keys(product: Product, note: Note) -> Product:
    """Find sections, formats and finishes that are named by label or in another case; say how they were read."""
    reader = _Keys(product, note)
    return replace(
        product,
        cards=tuple(reader.row(t.CARDS, row) for row in product.cards),
        parallels=tuple(reader.row(t.PARALLELS, row) for row in product.parallels),
        odds=tuple(reader.odds(row) for row in product.odds),
    )


class _Keys:
    """Finds the keys that a row means, and notes each that was not written as it is."""

    def __init__(self, product: Product, note: Note) -> None:
        self.product, self.note, self.names = product, note, Names(product)
        self.formats = {fmt.key: fmt.label for fmt in product.formats}
        self.finishes = {(row.section, row.key) for row in product.parallels}

    def section(self, text: str) -> str:
        """Return the section a text means."""
        return text if text in self.product.section_by_key else (self.names.section(text) or text)

    def row(self, spec: t.TableSpec, row: Named) -> Named:
        """Return a row with the key of its section."""
        section = self.section(row.section)
        if section == row.section:
            return row
        self.say(spec, row.line, "section", row.section, section)
        return replace(row, section=section)

    def odds(self, row: OddsRow) -> OddsRow:
        """Return a row of the odds with its keys."""
        row = self.row(t.ODDS, row)
        format_key, parallel = self.format(row.format), row.parallel
        if parallel and (row.section, parallel) not in self.finishes:
            found = self.names.parallel(row.section, parallel)
            parallel = parallel if found is None else found
        for name, before, after in (("format", row.format, format_key), ("parallel", row.parallel, parallel)):
            if before != after:
                self.say(t.ODDS, row.line, name, before, after or "the plain card")
        same = (row.format, row.parallel) == (format_key, parallel)
        return row if same else replace(row, format=format_key, parallel=parallel)

    def format(self, text: str) -> str:
        """Return the format a text means."""
        found = [text] if text in self.formats else chosen(text, self.formats)
        return found[0] if len(found) == 1 else text

    def say(self, spec: t.TableSpec, line: int, name: str, before: str, after: str) -> None:
        """Note how a key was read."""
        self.note("key-read", spec, line, f"{name} is “{before}”, read as “{after}”.", Severity.WARNING)
