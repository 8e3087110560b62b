"""Words of the entry line beside number, finish and serial: marks, back code, count, note, owner, claim code."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field, fields, replace
from datetime import date
from typing import Any

from botin.core.days import EARLIEST, LATEST

MARKS = {
    "off-centre": "offcentre offcenter oc offcentered",
    "soft corner": "softcorner corner corners",
    "edge chip": "edgechip edge chip chipped",
    "print line": "printline line roller",
    "dimple": "dimple surface dent",
    "gum stain": "gumstain gum wax stain stained",
    "fingerprint": "fingerprint finger smudge",
    "miscut": "miscut cut-off misscut",
    "signature bubble": "signaturebubble bubble bubbles",
    "upside down": "upsidedown upside flipped reversed",
}
"""What is seen on a card, with the words that mean it; the facts are the trade's, the words a choice."""
SIGNATURES = {"on card": "oncard on-card hard", "sticker": "sticker label", "cut": "cutsignature cutsig"}
RELICS = {"used in play": "used inplay", "only worn": "worn", "from a venue": "venue"}
MOST = 99
UNSURE = "?"


def _by_word(table: dict[str, str]) -> dict[str, str]:
    return {re.sub(r"[^a-z]", "", word): name for name, words in table.items() for word in words.split()}


_MARK, _SIGNATURE, _RELIC = _by_word(MARKS), _by_word(SIGNATURES), _by_word(RELICS)
_BACK = re.compile(r"(?:…|\.{2,3}|\*)([0-9A-Za-z]{1,12})")
_COUNT = re.compile(r"(?:x|×)(\d{1,2})|(\d{1,2})(?:x|×)", re.IGNORECASE)
_PAIR = re.compile(r"(code|by|claimed|received|cert):(\S{1,60})", re.IGNORECASE)
_NOTE = re.compile(r"[\"“]([^\"”]{0,300})[\"”]?")


@dataclass(frozen=True, slots=True)
class Details:
    """What is written down of one copy beside its card, finish and serial."""

    marks: tuple[str, ...] = ()
    back_code: str = ""
    note: str = ""
    certificate: str = ""
    signature: str = ""
    relic: str = ""
    owner: str = ""
    claim_code: str = ""
    claim_by: str = ""
    claimed_on: str = ""
    received_on: str = ""

    def to_dict(self) -> dict[str, str]:
        """Return what is filled, as text; marks are separated by ``;``."""
        cells = {f.name: getattr(self, f.name) for f in fields(self)}
        cells["marks"] = ";".join(self.marks)
        return {name: value for name, value in cells.items() if value}

    @classmethod
    def from_dict(cls, cells: dict[str, str]) -> Details:
        """Read what `to_dict` wrote; unknown names are left out."""
        known = {f.name for f in fields(cls)} & cells.keys() - {"marks"}
        marks = tuple(part for part in cells.get("marks", "").split(";") if part)
        return cls(marks=marks, **{name: cells[name] for name in known})

    def words(self) -> str:
        """Return everything in one phrase."""
        parts = [*self.marks, self.signature, self.relic]
        parts += [f"…{self.back_code}"] if self.back_code else []
        parts += [f"certificate {self.certificate}"] if self.certificate else []
        parts += (
            [f"claim {self.claim_code}" + (f" by {self.claim_by}" if self.claim_by else "")]
            if self.claim_code
            else []
        )
        parts += [f"claimed {self.claimed_on}"] if self.claimed_on else []
        parts += [f"received {self.received_on}"] if self.received_on else []
        parts += [f"“{self.note}”"] if self.note else []
        return ", ".join(part for part in parts if part)


@dataclass(frozen=True, slots=True)
class Word:
    """What one word does: changes the details, says how many, asks to settle later, or is wrong."""

    change: Callable[[Details], Details] | None = None
    count: int = 0
    unsure: bool = False
    wrong: str = ""


def mark_named(word: str) -> str | None:
    """Return the mark a word means: one of its words, or the beginning of just one of them."""
    bare = re.sub(r"[^a-z]", "", word.casefold())
    if bare in _MARK:
        return _MARK[bare]
    found = {name for known, name in _MARK.items() if len(bare) >= 4 and known.startswith(bare)}
    return found.pop() if len(found) == 1 else None


def _set(**cells: Any) -> Word:
    return Word(change=lambda details: replace(details, **cells))


def _later_day(value: str) -> str:
    """A day from the first cards to the end of this century: a redemption is claimed years later at most."""
    day = date.fromisoformat(value)
    if not EARLIEST <= day < LATEST:
        raise ValueError(value)
    return day.isoformat()


def _pair(name: str, value: str) -> Word:
    if name == "code":
        return _set(claim_code=value)
    if name == "cert":
        return _set(certificate=value)
    cell = {"by": "claim_by", "claimed": "claimed_on", "received": "received_on"}[name]
    try:
        return _set(**{cell: _later_day(value)})
    except ValueError:
        return Word(wrong=f"“{value}” is no date. Write it like {name}:2027-05-31.")


def plain_word(token: str) -> Word | None:
    """Read a word that cannot be anything else, like ``…308``, ``x3``, ``?`` or ``@Mira``; None for others."""
    if token == UNSURE:
        return Word(unsure=True)
    if back := _BACK.fullmatch(token):
        return _set(back_code=back[1])
    if count := _COUNT.fullmatch(token):
        number = int(count[1] or count[2])
        return Word(count=number) if 1 <= number <= MOST else Word(wrong=f"A count goes from 1 to {MOST}.")
    if token.startswith("@") and len(token) > 1:
        return _set(owner=token[1:41].replace("_", " "))
    if pair := _PAIR.fullmatch(token):
        return _pair(pair[1].casefold(), pair[2])
    return None


def described_word(token: str) -> Word | None:
    """Read a word that describes the copy: a mark, the kind of its signature or relic; None for others."""
    bare = re.sub(r"[^a-z]", "", token.casefold())
    if bare in _SIGNATURE:
        return _set(signature=_SIGNATURE[bare])
    if bare in _RELIC:
        return _set(relic=_RELIC[bare])
    mark = mark_named(token)
    if mark is None:
        return None
    return Word(change=lambda details: replace(details, marks=tuple(dict.fromkeys((*details.marks, mark)))))


@dataclass(frozen=True, slots=True)
class Lines:
    """A line without its note."""

    text: str
    note: str = field(default="")


def take_note(text: str) -> Lines:
    """Take a note in quotes out of a line; it belongs to the last card of it."""
    found = _NOTE.search(text)
    if not found:
        return Lines(text)
    return Lines(f"{text[: found.start()]} {text[found.end() :]}".strip(), found[1].strip())
