"""What of a file was not used: each row, column or key, with what it looks like it meant."""

from __future__ import annotations

import difflib
from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Unused:
    """A part of a file that was not used.

    Attributes
    ----------
    where : str
        Like ``prices.csv:5`` or ``fees.json: grading.tiers[0]``.
    text : str
        What stood there.
    why : str
        Why it was not used, and what it looks like it meant.
    severe : bool
        A price that matches nothing, say: the answer would be another one with it.
    """

    where: str
    text: str
    why: str
    severe: bool = False

    def document(self) -> dict[str, str]:
        """Shape it as the contract has it."""
        return {"where": self.where, "text": self.text, "why": self.why}


def meant(word: str, known: Iterable[str]) -> str:
    """Return “; it looks like …” when a word is near a known one, else nothing."""
    near = difflib.get_close_matches(word.casefold(), [name.casefold() for name in known], 1, 0.6)
    return f"; it looks like “{near[0]}”" if near else ""
