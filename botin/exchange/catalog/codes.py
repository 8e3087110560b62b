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


_RANGED = re.compile(
    r"(?P<label>[^\W\d_][^\d()]{2,50}?)\s*\(?(?P<code>[A-Z]{1,5})-?\d{1,3}\s?[-–]\s?(?P=code)-?\d{1,3}\)?"
)
_PLAIN = re.compile(r"[^\d]{3,60}(?:\s\(?1\s?[-–]\s?\d{1,4}\)?)?|.*\b(?:19|20)\d\d\b[^\d]*")


def ranged(text: str) -> list[tuple[str, str]]:
    """Return codes and sections of “Base 1-40 / Quick Starts QS1-QS10 / Ink IK1-IK8”; none of any other line."""
    parts = [part.strip() for part in re.split(r"\s*[/|;•]\s*", text) if part.strip()]
    found = [_RANGED.fullmatch(part) for part in parts]
    others = [part for part, match in zip(parts, found, strict=True) if match is None]
    if len(parts) < 2 or not any(found) or not all(map(_PLAIN.fullmatch, others)):
        return []
    return [(match["code"], match["label"].strip(" :–-")) for match in found if match]


_CODE_BEFORE = re.compile(r"(?P<code>[A-Z]{1,5})\s+(?P<label>[^\W\d_a-z][^\d(),|\t–-]{2,50})")


def without_own_code(text: str, codes: frozenset[str]) -> str:
    """Return “SK Sky Kings” as Sky Kings where numbers begin with SK: it is the heading of those cards."""
    found = _CODE_BEFORE.fullmatch(text.strip())
    return found["label"] if found and found["code"] in codes else text


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
