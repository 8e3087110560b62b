"""Which section, card and finish a person means: keys, labels, clear parts of labels, in any case, accents or not."""

from __future__ import annotations

import re
import unicodedata
from collections import defaultdict
from collections.abc import Mapping
from functools import cached_property
from typing import Protocol

from botin.core.catalog.product import Card, Kind, Product

PLAIN_WORDS = frozenset(
    ("", "plain", "base", "basic", "none", "no", "regular", "standard", "normal", "n a", "base card")
)
"""What people write for the plain card where a finish is asked for."""
_LETTERS = str.maketrans(
    {"ß": "ss", "ø": "o", "đ": "d", "ł": "l", "æ": "ae", "œ": "oe", "ð": "d", "þ": "th", "ı": "i"}
)
_RUN = re.compile(
    r"(?<!\s)\s*(?:\(?\s?(?:#|no\.?|numbered(?:\s+to)?|#'?d(?:\s+to)?)?\s?/\s?(\d{1,6})\s?\)?)\s*$", re.IGNORECASE
)
_FILLER = frozenset(
    ("the", "of", "set", "card", "cards", "parallel", "parallels", "insert", "inserts", "section", "finish")
)


def unaccented(text: str) -> str:
    """Return a text without case and accents: ``Østby`` is ``ostby``. The browser follows the same rule."""
    lower = unicodedata.normalize("NFKC", text).casefold().translate(_LETTERS)
    spread = unicodedata.normalize("NFKD", lower)
    return "".join(char for char in spread if not unicodedata.combining(char))


def fold(text: str) -> str:
    """Return words without case, accents and punctuation: ``Café-Racer`` and ``cafe racer`` are the same."""
    return " ".join(re.findall(r"[^\W_]+", unaccented(text)))


def number_key(text: str) -> str:
    """Return a card number without what people leave out or add: ``#S-07``, ``s7`` and ``S 7.0`` are the same."""
    bare = text.strip().casefold().removeprefix("no.").removeprefix("nr.").lstrip("#").strip()
    bare = re.sub(r"^(\d+)\.0+$", r"\1", bare)
    parts = re.findall(r"\d+|[^\W\d_]+", unicodedata.normalize("NFKC", bare))
    return "".join(part.lstrip("0") or "0" if part.isdecimal() else part for part in parts)


def stem(words: str) -> frozenset[str]:
    """Return the words of a name that tell it apart: without filler, without plural."""
    kept = [word for word in words.split() if word not in _FILLER] or words.split()
    return frozenset(
        word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word for word in kept
    )


class Namer(Protocol):
    """What finds the thing a text means; ``candidates`` say what it may have meant when it is not clear."""

    def section(self, text: str) -> str | None:
        """Return the key of a section."""

    def number(self, section: str, text: str) -> str | None:
        """Return the number of a card as it is printed."""

    def parallel(self, section: str, text: str) -> str | None:
        """Return the key of a finish; empty for the plain card."""


def chosen(text: str, names: Mapping[str, str]) -> list[str]:
    """Return the keys a text may mean: one when it is clear.

    Parameters
    ----------
    text : str
        As written.
    names : mapping
        Label by key.
    """
    if text in names:
        return [text]
    bare = fold(text)
    exact = [key for key, label in names.items() if bare and bare in (fold(key), fold(label))]
    if exact:
        return exact
    wanted = stem(bare)
    same = [key for key, label in names.items() if wanted and wanted in (stem(fold(label)), stem(fold(key)))]
    if same:
        return same
    return [key for key, label in names.items() if wanted and wanted <= stem(fold(f"{label} {key}"))]


class Names:
    """Finds what a text means on the checklist of a product."""

    def __init__(self, product: Product) -> None:
        self.product = product

    @cached_property
    def _sections(self) -> dict[str, str]:
        return {section.key: section.label for section in self.product.sections}

    @cached_property
    def _numbers(self) -> dict[str, dict[str, list[str]]]:
        found: dict[str, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
        for card in self.product.cards:
            for key in dict.fromkeys((number_key(card.number), re.sub(r"\D", "", number_key(card.number)))):
                if key:
                    found[card.section][key].append(card.number)
        return found

    @cached_property
    def _by_name(self) -> dict[str, list[Card]]:
        found: dict[str, list[Card]] = defaultdict(list)
        for card in self.product.cards:
            for name in dict.fromkeys((card.name, *card.people)):
                found[fold(name)].append(card)
        return found

    def sections(self, text: str) -> list[str]:
        """Return the sections a text may mean."""
        found = chosen(text, self._sections)
        if not found and fold(text) in ("base", "base set", "base card", "base cards"):
            found = [section.key for section in self.product.sections if section.kind is Kind.BASE]
        return found

    def section(self, text: str) -> str | None:
        """Return the key of the section a text means; None when it is none or not clear."""
        found = self.sections(text)
        return found[0] if len(found) == 1 else None

    def number(self, section: str, text: str) -> str | None:
        """Return the number of the card of a section that a text means."""
        if (section, text) in self.product.card_by_number:
            return text
        known = self._numbers.get(section, {})
        key = number_key(text)
        found = known.get(key, [])
        exact = [number for number in found if number_key(number) == key]
        one = exact or found
        return one[0] if len(set(one)) == 1 else None

    def parallel(self, section: str, text: str) -> str | None:
        """Return the key of the finish a text means in a section; empty for the plain card."""
        names = {row.key: row.label for row in self.product.parallels_by_section.get(section, ()) if row.key}
        if text in names:
            return text
        run = _RUN.search(text)
        bare = text[: run.start()] if run else text
        found = chosen(bare, names) if fold(bare) else []
        if run and len(found) != 1:
            runs = {row.key: row.stamped for row in self.product.parallels_by_section.get(section, ())}
            found = [key for key in (found or names) if runs.get(key) == int(run[1])]
        if (
            not found
            and not run
            and (fold(bare) in PLAIN_WORDS or fold(bare) == fold(self._sections.get(section, "")))
        ):
            return ""
        return found[0] if len(found) == 1 else None

    def by_name(self, name: str, section: str = "") -> list[Card]:
        """Return the cards that show someone of exactly this name, accents and case aside."""
        return [card for card in self._by_name.get(fold(name), []) if section in ("", card.section)]


class LooseNames:
    """Finds the same thing in different spellings without a checklist: what was named first gives the key."""

    def __init__(self) -> None:
        self._sections: dict[str, str] = {}
        self._numbers: dict[tuple[str, str], str] = {}
        self._parallels: dict[tuple[str, str], str] = {}
        self._settled = False

    def section(self, text: str) -> str | None:
        """Return the section's key; once settled, words that are part of one section's words mean that section."""
        key = fold(text)
        if key in self._sections:
            return self._sections[key]
        wanted = stem(key)
        near = {
            found
            for words, found in self._sections.items()
            if wanted and (wanted <= stem(words) or stem(words) <= wanted)
        }
        if self._settled and len(near) == 1:
            return near.pop()
        return self._sections.setdefault(key, text.strip())

    def number(self, section: str, text: str) -> str | None:
        """Return the number as it was first written."""
        return self._numbers.setdefault((section, number_key(text)), text.strip().lstrip("#"))

    def parallel(self, section: str, text: str) -> str | None:
        """Return the finish as it was first written, a run behind it aside."""
        run = _RUN.search(text)
        bare = fold(text[: run.start()] if run else text)
        if bare in PLAIN_WORDS and not run:
            return ""
        words = bare or (f"run {run[1]}" if run else "")
        return self._parallels.setdefault((section, words), text.strip()) if words else ""

    def settle(self) -> None:
        """Take the sections named so far as told apart, whatever their words have in common."""
        self._settled = True
