"""Forms of the buy desk."""

from __future__ import annotations

from botin.core.catalog.wants import BadWantError, parse_want
from botin.web.fields import MoneyField, OnceForm, TypedForm, WholeField, WordField


class UsualForm(TypedForm):
    """A usual price for a whole line."""

    section = WordField(most=120)
    parallel = WordField(most=120)
    amount = MoneyField()


class SeenForm(TypedForm):
    """A numbered copy that someone else pulled, or such a note that is taken back."""

    forget = WholeField()
    copy = WordField(most=200)
    note = WordField(most=200)

    def seen(self) -> tuple[tuple[str, str, str], int]:
        """Return the version and the serial.

        Raises
        ------
        BadWantError
            When it is no version with a serial behind it.
        """
        text, _, serial = self.copy.word.partition(" ")
        want = parse_want(text).conditions[0]
        if want.field != "card" or not (serial.strip().isascii() and serial.strip().isdecimal()):
            raise BadWantError(self.copy.text)
        return (want.value, want.number, want.parallel), int(serial.strip()[:15])


class DecideForm(OnceForm):
    """A decision that is kept."""

    choice = WordField(most=40)
    note = WordField(most=500)
