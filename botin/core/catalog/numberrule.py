"""A rule of numbers with exceptions: ``1–80 short prints except 17; also 312``."""

from __future__ import annotations

import re
from dataclasses import dataclass

_RANGE = re.compile(r"(\d+)\s*(?:-|–|—|to)\s*(\d+)|(\d+)")
_LIST = r"[\d\s,&–—-]|and\b|to\b"
_SHORT = r"(?:are\s+|all\s+)*(?:short[ -]?prints?|short[ -]?printed|ssps?|sps?)"
_AFTER = re.compile(
    rf"^(?:cards?|numbers?|nos?\.?|#)?\s*(?P<own>\d(?:{_LIST})*?)\s*{_SHORT}\b(?P<rest>.*)$", re.IGNORECASE
)
_BEFORE = re.compile(rf"^{_SHORT}\s*(?::|=|–|-|are)?\s*(?P<own>\d(?:{_LIST})*)(?P<rest>.*)$", re.IGNORECASE)
_EXCEPT = re.compile(
    rf"\b(?:except|but not|not|without|excluding|ausser|außer|sauf|excepto)\b\s*(?:for\s+)?((?:{_LIST})+)",
    re.IGNORECASE,
)
_ALSO = re.compile(rf"\b(?:also|plus|and also)\b\s*((?:{_LIST})+)", re.IGNORECASE)
_IN_BRACKETS = re.compile(
    r"[(\[]\s*((?:except|but not|not|without|excluding)\b[^()\[\]]*)[)\]](?=.*[^\W\d_])", re.IGNORECASE
)
_CODED = re.compile(r"^S{1,2}P-?\d+[A-Za-z]?[\s.:]+[^\W\d_](?!o\b)", re.IGNORECASE)
"""A card whose number begins with SP: ``SP-1 Orla Thorsby``."""
MOST = 5_000


@dataclass(frozen=True, slots=True)
class NumberRule:
    """The numbers a rule marks, in order."""

    numbers: tuple[int, ...]

    def words(self) -> str:
        """Return the numbers as short as they go: ``1–16, 18–80, 312``."""
        runs: list[list[int]] = []
        for number in self.numbers:
            if runs and number == runs[-1][1] + 1:
                runs[-1][1] = number
            else:
                runs.append([number, number])
        return ", ".join(f"{a}–{b}" if a != b else f"{a}" for a, b in runs)


def _numbers(text: str) -> set[int]:
    found: set[int] = set()
    for first, last, single in _RANGE.findall(text):
        if single:
            found.add(int(single))
        elif int(first) <= int(last) and int(last) - int(first) <= MOST:
            found.update(range(int(first), int(last) + 1))
    return found


def _plainly(text: str) -> str:
    """Return a rule without # before its numbers, ``through`` as a dash, and what it excepts at its end."""
    plain = re.sub(r"#\s?(?=\d)", "", text.strip())
    plain = re.sub(r"\b(?:through|thru|until|bis)\b", "-", plain, flags=re.IGNORECASE)
    inside = _IN_BRACKETS.search(plain)
    return f"{plain[: inside.start()]} {plain[inside.end() :]} {inside[1]}" if inside else plain


def short_print_rule(text: str) -> NumberRule | None:
    """Read a rule that marks short prints; None when the text is none.

    Examples
    --------
    >>> short_print_rule("1–80 short prints except 17; also 312").words()
    '1–16, 18–80, 312'
    """
    if _CODED.match(text.strip()):
        return None
    plain = _plainly(text)
    found = _AFTER.match(plain) or _BEFORE.match(plain)
    if not found:
        return None
    rest = found["rest"]
    marked = _numbers(found["own"])
    for part in _EXCEPT.findall(rest):
        marked -= _numbers(part)
    for part in _ALSO.findall(rest):
        marked |= _numbers(part)
    return NumberRule(tuple(sorted(marked))) if marked else None
