"""Another owner gets his cards back from a grading order: they are not here any more."""

from __future__ import annotations

from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError
from botin.core.money import Money
from botin.desk.selling.disposals import Disposal, dispose
from botin.desk.workbench import Workbench
from botin.store.copies.people import get_party
from botin.store.grading.orders import form_of, get_order
from botin.store.models_copies import ME
from botin.store.unit import finish


def hand_over(session: Session, bench: Workbench, order_id: int, owner: int, day: date) -> int:
    """Note that a person got those of his cards that are back; returns how many.

    Raises
    ------
    BoxStateError
        When the cards are my own, or the day lies before they were back.
    """
    order, person = get_order(session, order_id), get_party(session, owner)
    if owner == ME:
        message = "Those are your own cards."
        raise BoxStateError(message)
    lines = [one for one in form_of(session, order_id) if one.copy.owner_id == owner and one.line.back_on is not None]
    lines = [one for one in lines if one.line.handed_on is None and one.copy.state == "here"]
    early = [one.line.back_on for one in lines if one.line.back_on is not None and one.line.back_on > day]
    if early:
        message = f"They were back on {max(early).isoformat()}: they cannot have been handed over before."
        raise BoxStateError(message)
    nothing = Money(0, order.currency)
    for one in lines:
        gone = Disposal("given away", day, nothing, nothing, "", person.name)
        dispose(session, bench, f"handed-{one.line.id}-{bench.now():%Y%m%d%H%M%S%f}", gone, copy_id=one.copy.id)
        one.line.handed_on = day
    finish(session)
    return len(lines)
