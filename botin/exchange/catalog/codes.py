"""Codes before numbers that a legend explains: cards go to the section that their code stands for."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from botin.exchange.catalog.sorting import OpenSection, Sorting

_EXPLAINED = re.compile(
    r"(?P<code>[A-Z][A-Z0-9]{0,5})-?\s*(?:=|:|→|\s[–—-]\s|\bstands for\b|\bmeans\b)\s*(?P<label>[^\W\d_][^=]{1,50})$"
)
_CODED = re.compile(r"\W*(?P<code>[A-Z][A-Z0-9]{0,5}?)-?(?=\d|(?<=-)[A-Z])")


def code_of(number: str) -> str:
    """Return the letters before a number: QS of QS-12 and of QS12, and of QS-OT; empty when there are none."""
    found = re.match(r"([A-Z][A-Z0-9]*?)(?:-|(?=\d+[a-z]?$))", number)
    return found[1] if found else ""


def explained(text: str) -> tuple[str, str] | None:
    """Return code and section of a line like “QS = Quick Starts”; None for any other."""
    found = _EXPLAINED.fullmatch(text.strip())
    return (found["code"], found["label"].strip(" .")) if found else None


def codes_in(lines: Iterable[str]) -> frozenset[str]:
    """Return the codes that begin lines of cards."""
    return frozenset(found["code"] for line in lines if (found := _CODED.match(line)))


def _code(number: str, more: Mapping[str, str]) -> str:
    """Return the code a card has beside its number, else the one before it."""
    return more.get("back_code", "") or code_of(number)


def settle_codes(sorting: Sorting) -> None:
    """Put cards into the sections their codes stand for, out of sections that hold cards of several codes."""
    if not sorting.codes:
        return
    for section in list(sorting.sections.values()):
        if len({_code(card.number, more) for _, card, more in section.cards}) > 1 or not section.line:
            _part(sorting, section)
            if not section.cards and not section.line:
                del sorting.sections[section.key]


def _part(sorting: Sorting, section: OpenSection) -> None:
    kept = []
    for item in section.cards:
        place, label = sorting.codes.get(_code(item[1].number, item[2]), (0, ""))
        target = sorting.section(label, place, says=False) if label else section
        if target is section:
            kept.append(item)
            continue
        target.line, target.by_column = place, False
        target.cards.append(item)
        target.numbers.add(item[1].number)
    section.cards = kept
    section.numbers = {card.number for _, card, _ in kept}
