"""``openings.csv`` for the commands: which cards came out of which pack of which box, counted or named."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from botin.core.catalog.naming import Names
from botin.core.catalog.product import Format, Product
from botin.core.odds.boxlaw import LoggedBoxes
from botin.core.odds.promised import Version
from botin.core.odds.rowrates import LineKey
from botin.core.odds.statements import statements_of
from botin.exchange import tables as t
from botin.exchange.loosetable import read_loose_file

OPENED = t.TableSpec(
    "openings",
    (
        t.Column("box", "Box; empty where all rows are of one"),
        t.Column("format", "Format of the box; empty where the package has one"),
        t.Column("pack", "Pack the card came out of; 0 outside the packs"),
        t.Column("section", "Section of the card"),
        t.Column("number", "Number of the card; empty for base that was only counted", required=True),
        t.Column("parallel", "Finish; empty for the plain card"),
        t.Column("count", "Copies; empty is one"),
    ),
)
MOST_COPIES = 5_000
"""Copies that one row may stand for."""


@dataclass(frozen=True)
class OpenedBox:
    """What was logged of one box.

    Attributes
    ----------
    cards : tuple of Version
        Cards whose section is known, in any finish, listed or not.
    unlisted : tuple of Version
        Cards that no section of the product has, as they were written.
    packs : frozenset of int
        Packs of which something was logged.
    """

    box: str
    format: str
    cards: tuple[Version, ...]
    unlisted: tuple[Version, ...]
    packs: frozenset[int]


def read_log(path: Path, product: Product) -> tuple[OpenedBox, ...]:
    """Read a log; boxes in the order they begin.

    Raises
    ------
    UnreadableFileError
        When the file cannot be opened or lacks the column number.
    """
    table, names = read_loose_file(OPENED, path, "section, number, parallel, pack, box"), Names(product)
    found: dict[tuple[str, str], list[tuple[Version, bool, int]]] = defaultdict(list)
    for row in table.rows:
        pack, count = (_whole(row.get(name), usual) for name, usual in (("pack", 0), ("count", 1)))
        version, listed = _version(names, row.get("section"), row.get("number"), row.get("parallel"))
        found[(row.get("box"), row.get("format"))] += [(version, listed, pack)] * min(count, MOST_COPIES)
    return tuple(_box(key, rows) for key, rows in found.items())


def _whole(text: str, usual: int) -> int:
    return int(text) if text.strip().isdecimal() else usual


def _version(names: Names, section: str, number: str, parallel: str) -> tuple[Version, bool]:
    """Return the version a row means, and whether its section is one of the product's."""
    own = section if section in names.product.section_by_key else names.section(section)
    if own is None:
        return (section, number, parallel), False
    known = names.number(own, number) if number else ""
    finish = names.parallel(own, parallel) if parallel else ""
    return (own, known if known is not None else number, finish if finish is not None else parallel), True


def _box(key: tuple[str, str], rows: Sequence[tuple[Version, bool, int]]) -> OpenedBox:
    return OpenedBox(
        box=key[0],
        format=key[1],
        cards=tuple(version for version, listed, _ in rows if listed),
        unlisted=tuple(version for version, listed, _ in rows if not listed),
        packs=frozenset(pack for _, _, pack in rows if pack > 0),
    )


def packs_left(box: OpenedBox, fmt: Format) -> int:
    """Return the packs of a box of which nothing is logged; none where a log does not tell packs apart."""
    return max(0, fmt.most_packs - len(box.packs)) if box.packs else 0


def whole_boxes(product: Product, boxes: Sequence[OpenedBox]) -> tuple[LoggedBoxes, ...]:
    """Add up the boxes of each format that were opened whole."""
    said = statements_of(product)
    found: dict[str, tuple[int, Counter[LineKey]]] = {}
    only = product.formats[0].key if len(product.formats) == 1 else ""
    for box in boxes:
        fmt = product.format_by_key.get(box.format or only)
        if fmt is None or packs_left(box, fmt) > fmt.most_packs - fmt.fewest_packs:
            continue
        count, seen = found.get(fmt.key, (0, Counter()))
        for section, number, parallel in box.cards:
            card = product.card_by_number.get((section, number))
            place = said.line_of(card, parallel) if card else None
            if place is not None:
                seen[said.lines[place].key] += 1
        found[fmt.key] = (count + 1, seen)
    return tuple(LoggedBoxes(key, count, seen) for key, (count, seen) in found.items())
