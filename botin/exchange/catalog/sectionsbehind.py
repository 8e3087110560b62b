"""Cards with their section in brackets behind them: “12 Orla Thorsby - Tarn [Night Sprints]”."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import replace

from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.textcards import card_line, plain_card
from botin.exchange.catalog.textreader import Line, Reader, one_card
from botin.exchange.notes import Sheet

_BEHIND = re.compile(
    r"\s*\[(?P<label>[^\W\d_][^\[\]/;,]{2,50})\](?P<marks>(?:[\s,]*[(\[]?(?:RC|S?SP|rookie)[)\]]?)*)\s*$",
    re.IGNORECASE,
)
_BEHIND_DASH = re.compile(r"(?<=[)\]])\s+[-–—]\s+(?P<label>[^\W\d_][^\[\]()/;,]{2,50}?)(?P<marks>)\s*$")
"""``12 Orla Thorsby (Tarn) - Night Sprints``: behind a bracket the dash parts no club."""
FEWEST, SHARE, MOST = 8, 0.8, 0.25
"""Cards at least; share of all cards that end so; share of different ones among them at most (choices)."""
FEWEST_NAMED = 4
"""Cards at least, where one of the labels names a kind."""


def repeats_behind(sheet: Sheet) -> frozenset[str]:
    """Return what stands in brackets behind the cards, where it stands behind nearly all and repeats."""
    lines = ["\t".join(cells) for _, cells in sheet.rows if any(map(str.strip, cells))]
    found = Counter(match["label"].strip() for text in lines if (match := _find(text)))
    ended = found.total()
    fewest = FEWEST_NAMED if are_sections(frozenset(found)) else FEWEST
    cards = sum(one_card(text) is not None for text in lines) if ended >= fewest else 0
    fits = ended >= max(fewest, SHARE * cards) and len(found) <= max(2, MOST * ended)
    return frozenset(found) if fits else frozenset()


def _find(text: str) -> re.Match[str] | None:
    found = _BEHIND.search(text) or _BEHIND_DASH.search(text)
    return found if found and text[: found.start()].strip() else None


def are_sections(labels: frozenset[str]) -> bool:
    """Whether one of them names a kind: else they are clubs."""
    return any(guess_kind(label)[1] for label in labels)


def is_club_behind(reader: Reader, label: str) -> bool:
    """Whether what stands in brackets behind a card stands behind most of them and is no section: a club."""
    if reader.behind is None:
        reader.behind = repeats_behind(reader.sheet)
    return label in reader.behind and not are_sections(reader.behind)


def with_section(reader: Reader, line: Line) -> bool:
    """A card with its section in brackets behind it."""
    if "[" not in line.bare and "(" not in line.bare:
        return False
    if reader.behind is None:
        reader.behind = repeats_behind(reader.sheet)
    found = _find(line.bare)
    if found is None or found["label"].strip() not in reader.behind or not are_sections(reader.behind):
        return False
    text, bare = (found.re.sub(r"\g<marks>", given) for given in (line.text, line.bare))
    inner = replace(line, text=text, bare=bare)
    if one_card(inner.text) is None:
        return False
    reader.sorting.section(found["label"].strip(), line.place, says=False)
    return plain_card(reader, inner) or card_line(reader, inner)
