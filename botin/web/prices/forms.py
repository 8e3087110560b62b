"""Forms of the page of a card's prices."""

from __future__ import annotations

from botin.core.grading.grades import Inspection, inspection_of
from botin.web.fields import NumberField, OnceForm, TypedForm, WholeField, WordField


class LookForm(TypedForm):
    """A look at a copy: 1 to 10 for each part, the larger border of each side in percent."""

    copy = WholeField()
    finish = WordField(most=120)
    corners = NumberField(low=1, high=10, must="is not between 1 and 10.")
    edges = NumberField(low=1, high=10, must="is not between 1 and 10.")
    surface = NumberField(low=1, high=10, must="is not between 1 and 10.")
    signature = NumberField(low=1, high=10, must="is not between 1 and 10.")
    front = NumberField(low=50, high=100, must="is not between 50 and 100.")
    back = NumberField(low=50, high=100, must="is not between 50 and 100.")

    def seen(self) -> Inspection:
        """Return the look.

        Raises
        ------
        TypedError
            When a number cannot be read.
        """
        fields = (self.corners, self.edges, self.surface, self.signature, self.front, self.back)
        return inspection_of({field.name: field.number() for field in fields})


class ReturnedForm(OnceForm):
    """A grade that came back."""

    copy = WholeField()
    finish = WordField(most=120)
    grade = WordField(most=40)
    house = WordField(most=80)


class LinesForm(TypedForm):
    """Prices typed one a line."""

    lines = WordField(most=200_000)


class FinishForm(TypedForm):
    """The finish a form of the page is about."""

    finish = WordField(most=120)
