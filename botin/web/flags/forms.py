"""The form of the flag board."""

from __future__ import annotations

from botin.web.fields import TicksField, TypedForm, WordField


class ChooseForm(TypedForm):
    """My own flag for the ticked versions."""

    row = TicksField()
    go = WordField(most=40)
