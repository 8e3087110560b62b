"""Words that are nearly known: a letter off, an accent lost, a first name shortened."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from botin.core.catalog.naming import unaccented

NEAR, SHORTEST, MOST = 88.0, 5, 400
"""Score of rapidfuzz from which words are near, letters below which none are, words that are looked up (choices)."""


@dataclass(frozen=True, slots=True)
class NearWord:
    """A word and the known one it is near to."""

    word: str
    known: str


def near_words(words: Iterable[str], known: Iterable[str]) -> tuple[NearWord, ...]:
    """Return the words that are not known but near to one that is; each with the nearest.

    A word is looked for among those that begin with the same letter: what differs there is another name.
    """
    from rapidfuzz import fuzz, process  # noqa: PLC0415

    have = set(known)
    by_letter: dict[str, list[str]] = defaultdict(list)
    for word in have:
        by_letter[unaccented(word)[:1]].append(word)
    new = [word for word in dict.fromkeys(words) if word not in have and len(word) >= SHORTEST]
    found = []
    for word in new[:MOST]:
        choices = by_letter.get(unaccented(word)[:1], ())
        best = process.extractOne(word, choices, scorer=fuzz.ratio, score_cutoff=NEAR)
        if best:
            found.append(NearWord(word, best[0]))
    return tuple(found)
