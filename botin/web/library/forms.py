"""Forms of the library: what is given, what is said of it, what is mended."""

from __future__ import annotations

import re
from dataclasses import fields

from flask import request

from botin.exchange.catalog.interpret import About
from botin.web.fields import OnceForm, TicksField, TypedForm, WholeField, WordField
from botin.web.requests import new_key

MAX_TEXT, MAX_WORDS = 2_000_000, 4_000
"""Characters of a pasted text, and of what is said of the product."""


class GiveForm(OnceForm):
    """Texts that were pasted, and what is said of the product in fields of its own."""

    checklist = WordField(most=MAX_TEXT + 1)
    odds = WordField(most=MAX_TEXT + 1)

    @property
    def key(self) -> str:
        """The key, or a new one."""
        return self.client_key.text or new_key()

    def texts(self) -> dict[str, str]:
        """Return the texts by what they are."""
        return {"checklist": self.checklist.text, "odds": self.odds.text}

    def about(self) -> About:
        """Return what is said of the product."""
        return About(**{field.name: request.form.get(field.name, "").strip() for field in fields(About)})

    def too_long(self) -> bool:
        """Whether something that is said of the product is longer than is kept."""
        return max(len(request.form.get(field.name, "")) for field in fields(About)) > MAX_WORDS


class LineForm(TypedForm):
    """A line of a draft: written anew, left out, or read another way."""

    sheet = WordField()
    line = WholeField()
    show = WordField(most=20)
    leave = WordField()
    cell = TicksField()
    reading = WordField(name="as", most=2_000)
    every = WordField(name="all")


class KindForm(TypedForm):
    """Which kind a section is."""

    section = WordField()
    kind = WordField(most=40)


class KnownForm(TypedForm):
    """A name, and how the library knows it."""

    word = WordField(most=200)
    known = WordField(most=200)


class StoreForm(OnceForm):
    """Whether corrections of one's own stay when a draft is stored."""

    keep_mine = WordField(most=10)


class CorrectForm(OnceForm):
    """One value corrected: what it was on the screen, and why."""

    seen = WordField()
    why = WordField(most=300)


class AgainForm(TypedForm):
    """Whether a logged card is the one that became known later."""

    it_is = WordField(name="is", most=10)


class AsideForm(TypedForm):
    """What becomes of a product: set aside, back, removed."""

    what = WordField(most=40)


class ColumnsForm(TypedForm):
    """What the columns of tables are: one field a column, named by its table and place."""

    def told(self) -> list[tuple[int, int, str]]:
        """Return table, column and what it is."""
        found = ((_COLUMN.fullmatch(name), value) for name, value in request.form.items())
        return [(int(match[1]), int(match[2]), value[:80]) for match, value in found if match]


_COLUMN = re.compile(r"column-(\d{1,4})-(\d{1,3})")
