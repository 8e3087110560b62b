"""Forms of safe keeping."""

from __future__ import annotations

from botin.web.fields import TypedForm, WordField


class PutBackForm(TypedForm):
    """The backup that is put back."""

    file = WordField(name="name", most=200)


class SettleForm(TypedForm):
    """What failed and is dealt with."""

    kind = WordField(most=200)
