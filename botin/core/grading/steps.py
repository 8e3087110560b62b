"""The way of a grading order, from the draft to done: its steps, what each leads to, and what each asks for."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Step(StrEnum):
    """Where an order stands."""

    DRAFT = "draft"
    CLOSED = "closed"
    PACKED = "packed"
    SENT = "sent"
    THERE = "there"
    GRADED = "graded"
    RETURNING = "returning"
    BACK = "back"
    DONE = "done"


WAY = tuple(Step)
AWAY = (Step.SENT, Step.THERE, Step.GRADED, Step.RETURNING)
"""The copies are not here."""
AT_HOME = (Step.DRAFT, Step.CLOSED, Step.PACKED)
"""The copies are still here, but promised to the order."""


@dataclass(frozen=True, slots=True)
class StepWords:
    """What a step is called, what is to do in it, and what the button says that leads to it."""

    name: str
    to_do: str
    button: str


WORDS = {
    Step.DRAFT: StepWords("draft", "Choose the cards, then close the order", "Open it again"),
    Step.CLOSED: StepWords("closed", "Pack the cards in the order of the form", "Close the order"),
    Step.PACKED: StepWords("packed", "Send the parcel", "It is packed"),
    Step.SENT: StepWords("on its way there", "Wait until it is there", "It is sent"),
    Step.THERE: StepWords("at the house", "Wait for the grades", "It arrived"),
    Step.GRADED: StepWords("graded", "Pay, then the cards are sent back", "Grading is done"),
    Step.RETURNING: StepWords("on its way back", "Take the cards in", "They are on their way back"),
    Step.BACK: StepWords("back", "Settle what is left: payment, cards of others", "All are back"),
    Step.DONE: StepWords("done", "Nothing is left to do", "It is done"),
}


def after(step: Step) -> tuple[Step, ...]:
    """Steps that an order may take from where it stands: the next, and away from home also later ones.

    At home each step rests on the one before: what is not closed has no form to pack by. Once it is sent the house
    does what it does, and one may hear of a later step first.
    """
    at = WAY.index(step)
    if step in AT_HOME:
        return WAY[at + 1 : at + 2]
    return WAY[at + 1 : -1] if step in AWAY else WAY[at + 1 :]


def before(step: Step) -> Step | None:
    """Return the step in front of one, to which it is taken back; None for the draft."""
    at = WAY.index(step)
    return WAY[at - 1] if at else None
