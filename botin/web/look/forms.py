"""Forms of the card under the glass."""

from __future__ import annotations

from typing import Any

from flask import request

from botin.core.grading.centering import WIDEST_MM, Borders, larger_of
from botin.core.grading.grades import Inspection, inspection_of
from botin.desk.looking.glass import Pin
from botin.web.fields import NumberField, OnceForm, TypedError, TypedForm, WordField

PLACES = {
    "upper left": (80, 60), "top": (500, 40), "upper right": (920, 60), "left": (40, 500), "middle": (500, 500),
    "right": (960, 500), "lower left": (80, 940), "bottom": (500, 960), "lower right": (920, 940),
}  # fmt: skip
"""Where a mark lies that is named by its place, in thousandths of the width and the height."""

GRADE = "for the {name} is no grade. Write 1 to 10, in halves like 9.5."
SIDES = ("front", "back")


class GradeField(NumberField):
    """A grade from 1 to 10 in halves."""

    def __init__(self, label: str = "", **more: Any) -> None:
        super().__init__(label, low=1, high=10, step=0.5, must=GRADE, **more)


class CenteringField(WordField):
    """A centering as both borders in percent, or the larger one."""

    def larger(self) -> float | None:
        """Return the larger border; None when it is left out.

        Raises
        ------
        TypedError
            When it is no centering.
        """
        if not self.word:
            return None
        found = larger_of(self.word)
        if found is None:
            message = f"“{self.word[:20]}” is no centering of the {self.name}. Write both borders like 55/45."
            raise TypedError(message)
        return found


class BorderField(NumberField):
    """The width of a border, millimetres."""

    def __init__(self, label: str = "", **more: Any) -> None:
        must = f"is no width of the {{name}} border. Write millimetres, 0 to {WIDEST_MM:g}."
        super().__init__(label, low=0, high=WIDEST_MM, must=must, **more)


class LookForm(TypedForm):
    """What was seen of a copy: grades of its parts, centering of its sides."""

    onwards = WordField(name="next")
    corners = GradeField()
    edges = GradeField()
    surface = GradeField()
    signature = GradeField()
    front = CenteringField()
    back = CenteringField()

    def seen(self) -> Inspection:
        """Return the look.

        Raises
        ------
        TypedError
            When a grade or a centering cannot be read, or nothing is filled in.
        """
        grades = {part.name: part.number() for part in (self.corners, self.edges, self.surface, self.signature)}
        found = inspection_of(grades | {side.name: side.larger() for side in (self.front, self.back)})
        if not found.measured and found.signature is None:
            message = "Nothing is filled in yet. Write a centering like 55/45, or a grade from 1 to 10."
            raise TypedError(message)
        return found


class RulersForm(TypedForm):
    """Where the rulers were put, or that they go back to where they were measured."""

    again = WordField()
    left = BorderField()
    right = BorderField()
    top = BorderField()
    bottom = BorderField()

    def borders(self, measured: dict[str, float]) -> Borders:
        """Return the borders; a field that is left out stays as it was measured.

        Raises
        ------
        TypedError
            When one cannot be read, or is neither written nor measured.
        """
        made: dict[str, float] = {}
        for field in (self.left, self.right, self.top, self.bottom):
            width = field.number() if field.word else measured.get(field.name)
            if width is None:
                message = f"The {field.name} border was not measured: write its millimetres."
                raise TypedError(message)
            made[field.name] = round(width, 3)
        return Borders(**made)


class PinForm(OnceForm):
    """A mark that is pinned where it is."""

    side = WordField(most=20)
    kind = WordField(most=40)
    severity = WordField(most=40)
    place = WordField(most=40)
    x = WordField()
    y = WordField()
    size = NumberField(low=0.001, high=90, must="is no size. Write millimetres, like 0.5.")

    def pin(self) -> Pin:
        """Return the mark: where it was clicked, or where the named place is.

        Raises
        ------
        TypedError
            When its size cannot be read.
        """
        across, down = PLACES.get(self.place.text, PLACES["middle"])
        size = self.size.number()
        return Pin(
            self.side.text, self.kind.text, self.severity.text, _permille(self.x.text, across),
            _permille(self.y.text, down), None if size is None else round(1000 * size),
        )  # fmt: skip


def _permille(text: str, otherwise: int) -> int:
    return int(text) if text.isascii() and text.isdecimal() and len(text) < 5 else otherwise


class SheetForm(TypedForm):
    """A scan of several cards: of which side, and whether the stand-in makes it."""

    side = WordField(most=20)
    simulated = WordField()

    def copies(self, count: int) -> dict[int, int]:
        """Return the copy chosen for each card of the scan, by its place on it."""
        texts = {at: request.form.get(f"copy-{at}", "") for at in range(count)}
        return {at: int(text) for at, text in texts.items() if text.isascii() and text.isdecimal() and len(text) < 19}
