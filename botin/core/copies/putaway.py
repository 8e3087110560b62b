"""Where each copy belongs: a storage plan of rules, the first that fits wins, and the order within a place."""

from __future__ import annotations

import re
from dataclasses import dataclass

HEADS = ("everything", "hits", "kind", "section", "team", "value")
_VALUE = re.compile(r"value\s+(?:over|from|above)\s+(\d+(?:[.,]\d+)?)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Facts:
    """What a rule can ask of a copy."""

    section: str
    kind: str
    number: str
    teams: tuple[str, ...]
    price: float
    hit: bool
    parallel: str = ""


@dataclass(frozen=True, slots=True)
class Rule:
    """A place and which copies belong there; ``text`` is the rule as written."""

    place: str
    text: str

    def fits(self, copy: Facts) -> bool:
        """Whether a copy belongs here."""
        words = self.text.casefold()
        if value := _VALUE.fullmatch(words):
            return copy.price >= float(value[1].replace(",", "."))
        head, _, rest = words.partition(" ")
        rest = rest.strip()
        return {
            "everything": True,
            "hits": copy.hit,
            "kind": copy.kind.replace("_", " ") == rest,
            "section": copy.section.casefold() == rest,
            "team": rest in {team.casefold() for team in copy.teams},
        }.get(head, False)


def read_plan(text: str) -> tuple[tuple[Rule, ...], tuple[str, ...]]:
    """Read a plan, one place a line (``Binder 3, row 1: section Base``); return rules, and lines that are none."""
    rules, wrong = [], []
    for line in filter(None, map(str.strip, text.splitlines())):
        place, colon, rule = line.rpartition(":")
        known = rule.strip().casefold().partition(" ")[0] in (
            "everything",
            "hits",
            "kind",
            "section",
            "team",
            "value",
        )
        is_value = not rule.strip().casefold().startswith("value") or _VALUE.fullmatch(rule.strip())
        if colon and place.strip() and known and is_value:
            rules.append(Rule(place.strip(), rule.strip()))
        else:
            wrong.append(line)
    return tuple(rules), tuple(wrong)


def place_of(rules: tuple[Rule, ...], copy: Facts) -> str:
    """Return the place of a copy; empty when no rule fits."""
    return next((rule.place for rule in rules if rule.fits(copy)), "")


def in_order(copy: Facts) -> tuple[str, tuple[tuple[int, str], ...], str]:
    """Sort key within a place: section, then number as people count (2 before 10), then finish."""
    parts = re.findall(r"\d+|\D+", copy.number)
    return (
        copy.section,
        tuple((int(part), "") if part.isdecimal() else (0, part.casefold()) for part in parts),
        copy.parallel,
    )
