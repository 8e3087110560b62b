"""Forms of the rip desk."""

from __future__ import annotations

import json
from collections.abc import Container

from flask import request

from botin.core.opening.sealed import LOOKS
from botin.web.fields import OnceForm, TicksField, TypedForm, WholeField, WordField
from botin.web.requests import new_key


class KeyedForm(OnceForm):
    """A step at the rip desk: with the key it was made under, so that twice sent is once stored."""

    pack = WholeField()

    @property
    def key(self) -> str:
        """The key, or a new one."""
        return self.client_key.text or new_key()


class EntryForm(KeyedForm):
    """A typed line."""

    entry = WordField(most=4_000)


class BacksForm(KeyedForm):
    """Lines that were read off the backs of a scan, or whether the stand-in makes the scan."""

    line = TicksField()
    simulated = WordField()

    def lines(self) -> list[str]:
        """Return the lines in which something stands."""
        return [line.strip() for line in self.line.data if line.strip()]


class TurnForm(TypedForm):
    """A step that is undone or redone, and how the steps stood on the screen."""

    turn_key = WordField(most=64)
    seen = WordField(most=40)


class PackForm(TypedForm):
    """The pack that is taken in hand."""

    to = WholeField()


class CloseForm(TypedForm):
    """Closing a box: how many cards the screen showed, and what becomes of the packs left."""

    seen = WholeField()
    anyway = WordField()
    rest = WordField(most=40)


class SettleForm(KeyedForm):
    """What an unsure card is: section, number and finish as a button names them."""

    version = WordField(name="is", most=1_000)

    def named(self) -> tuple[str, str, str]:
        """Return the version; what is no such thing names nothing."""
        try:
            section, number, parallel = json.loads(self.version.text)
        except (ValueError, TypeError):
            return "", "", ""
        return str(section), str(number), str(parallel)


class ListForm(KeyedForm):
    """An unlisted card that goes onto the checklist."""

    section = WordField(most=120)
    number = WordField(most=120)
    person = WordField(name="name", most=120)
    team = WordField(most=120)
    finish = WordField(most=120)


class FactsForm(KeyedForm):
    """What is odd about a pack, whose it is, what product it is of."""

    product = WholeField()
    flag = TicksField()
    owner = WordField(most=40)
    note = WordField(most=300)


class HowForm(KeyedForm):
    """How a box is logged."""

    mode = WordField(most=20)
    stacked = WordField(most=20)
    case_label = WordField(most=40)
    owners = WordField(most=4_000)


class PlaceForm(TypedForm):
    """Where a pile lies."""

    place = WordField(most=200)


class CheckForm(TypedForm):
    """What was found at a sealed box: one answer to each look."""

    wrap = WordField(most=40)
    note = WordField()

    def found(self) -> dict[str, str]:
        """Return the answer to each look there is."""
        return {look.key: request.form.get(look.key, "") for looks in LOOKS.values() for look in looks}


class LogForm(OnceForm):
    """A log that is taken in: the file that was read before or the text, its heading row, what its columns are."""

    kept = WordField(most=80_000_000)
    text_given = WordField(name="text", most=80_000_000)
    header = WholeField()
    leave = TicksField()
    step = WordField(most=20)

    def columns(self, taken: Container[str]) -> dict[int, str]:
        """Return the columns as they were named on the screen."""
        found = {}
        for key, name in request.form.items():
            if key.startswith("column-") and key[7:].isascii() and key[7:].isdecimal() and name in taken:
                found[int(key[7:12])] = name
        return found
