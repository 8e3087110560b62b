"""A box corrected: what was paid and when, its label and format; opened by accident; what to ask before it closes."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError, NotFoundError
from botin.core.money import Money
from botin.desk.books.booking import book_closing, frozen_shares, rebook_box, unbook_box, unbook_closing
from botin.desk.opening.state import RipState, rip_state
from botin.desk.selling.sealedgoods import require_not_offered, require_not_sold_by
from botin.desk.sentagain import same_correction
from botin.desk.workbench import Workbench
from botin.store.catalog.history import corrected, fresh_key, note_change
from botin.store.models import BoxRecord, FormatRecord
from botin.store.opening.boxes import get_box
from botin.store.opening.packs import last_pack, lines_logged
from botin.store.unit import finish


@dataclass(frozen=True, slots=True)
class BoxFacts:
    """What may be corrected of a box."""

    bought_on: date
    price: Money
    shipping: Money
    tax: Money
    label: str
    format_id: int


def facts_of_box(box: BoxRecord) -> BoxFacts:
    """Return what a box says now."""
    price, shipping, tax = (
        Money(minor, box.currency) for minor in (box.price_minor, box.shipping_minor, box.tax_minor)
    )
    return BoxFacts(box.bought_on, price, shipping, tax, box.label, box.format_id)


def correct_box(session: Session, bench: Workbench, box_id: int, client_key: str, facts: BoxFacts) -> BoxRecord:
    """Correct a box; the books get a mirror and the right entry, and its cards their part of the right cost.

    The parts in which a closed box was shared stay as they were frozen.

    Raises
    ------
    BoxStateError
        When the format cannot be the one: of another product, or too small for what is logged; when it was sold or
        removed.
    StaleFormError
        When the key was used for another correction.
    """
    box = get_box(session, box_id)
    if (noted := corrected(session, client_key)) is not None:
        same_correction(noted, "box", box.id, box, _columns(facts))
        return box
    if box.state in ("sold", "removed"):
        message = f"This box was {box.state}, and the books say so. Take that back first, then correct it."
        raise BoxStateError(message)
    _check_format(session, box, facts.format_id)
    columns = _columns(facts)
    changes = {name: (getattr(box, name), value) for name, value in columns.items()}
    if not note_change(session, bench.now(), client_key, "box", box.id, changes):
        return box
    money = any(was != now for name, (was, now) in changes.items() if name.endswith("_minor") or name == "bought_on")
    if money:
        require_not_sold_by(session, box.id)
    shares = frozen_shares(session, box) if money and box.state == "closed" else None
    if money:
        _unbook(session, bench, box)
    for name, value in columns.items():
        setattr(box, name, value)
    if money:
        session.flush()
        rebook_box(session, bench, box)
        if shares is not None:
            book_closing(session, bench, box, shares)
    finish(session)
    return get_box(session, box_id)


def _columns(facts: BoxFacts) -> dict[str, object]:
    return {
        "bought_on": facts.bought_on, "price_minor": facts.price.minor, "shipping_minor": facts.shipping.minor,
        "tax_minor": facts.tax.minor, "label": facts.label.strip()[:80], "format_id": facts.format_id,
    }  # fmt: skip


def _unbook(session: Session, bench: Workbench, box: BoxRecord) -> None:
    if box.state == "closed":
        unbook_closing(session, bench, box)
    unbook_box(session, bench, box)


def _check_format(session: Session, box: BoxRecord, format_id: int) -> None:
    if format_id == box.format_id:
        return
    fmt = session.get(FormatRecord, format_id)
    if fmt is None or fmt.product_id != box.format.product_id:
        message = "That format is of another product. Add the right box, and seal or remove this one."
        raise BoxStateError(message)
    last = last_pack(session, box.id)
    if last > fmt.packs_per_box:
        message = f"Cards are logged up to pack {last}; {fmt.label} has {fmt.packs_per_box} packs."
        raise BoxStateError(message)


def seal_again(session: Session, bench: Workbench, box_id: int) -> BoxRecord:
    """Put a box that was opened by accident back on the shelf, sealed.

    Raises
    ------
    BoxStateError
        When a card is logged or it is closed: then it was opened.
    """
    box = get_box(session, box_id)
    if box.state == "sealed":
        return box
    if box.state in ("sold", "removed"):
        message = f"This box was {box.state}, and the books say so. Take that back on the shelf."
        raise BoxStateError(message)
    if lines_logged(session, box.id) or box.state == "closed":
        message = "Cards of it are logged: it was opened. Take them out first, or reopen it when it is closed."
        raise BoxStateError(message)
    note_change(
        session,
        bench.now(),
        fresh_key(bench.now(), f"seal-{box.id}"),
        "box",
        box.id,
        {"state": (box.state, "sealed")},
    )
    box.state, box.opened_at, box.pack = "sealed", None, 1
    finish(session)
    return box


def remove_box(session: Session, bench: Workbench, box_id: int) -> None:
    """Take a box that was never bought off the shelf and out of the books.

    Raises
    ------
    BoxStateError
        When it was opened.
    NotFoundError
        When there is none.
    """
    box = get_box(session, box_id)
    if box.state != "sealed":
        message = "Only a sealed box is removed. Put this one back to sealed first, or correct what was paid."
        raise BoxStateError(message)
    require_not_offered(session, box.id)
    unbook_box(session, bench, box)
    key = fresh_key(bench.now(), f"remove-box-{box.id}")
    note_change(session, bench.now(), key, "box", box.id, {"state": (box.state, "removed")})
    box.state = "removed"
    finish(session)


def bring_back_box(session: Session, bench: Workbench, box_id: int) -> None:
    """Put a removed box on the shelf again."""
    box = get_box(session, box_id)
    if box.state != "removed":
        message = "That box is on the shelf. Look at it there."
        raise NotFoundError(message)
    box.state = "sealed"
    session.flush()
    rebook_box(session, bench, box)
    key = fresh_key(bench.now(), f"bring-back-box-{box.id}")
    note_change(session, bench.now(), key, "box", box.id, {"state": ("removed", "sealed")})
    finish(session)


def before_closing(session: Session, bench: Workbench, box: BoxRecord) -> tuple[str, ...]:
    """Return what is unsettled in a box, or does not add up, before it is closed: one sentence each."""
    return tuple(_open_questions(rip_state(session, bench, box)))


def _open_questions(state: RipState) -> list[str]:
    found = []
    if state.unsure:
        names = ", ".join(f"{copy.row.number} {copy.row.name}" for copy in state.unsure[:5])
        found.append(f"It is not settled which card these are: {names}.")
    if state.unlisted:
        names = ", ".join(f"“{copy.row.typed}”" for copy in state.unlisted[:5])
        found.append(f"Not on the checklist: {names}.")
    whose = [
        copy.row.number for pack in (state.outside, *state.packs) for copy in pack.copies if copy.row.owner == "?"
    ]
    if whose:
        found.append(f"It is not settled whose these are: {', '.join(whose[:5])}.")
    return [*found, *_miscounted(state)]


def _miscounted(state: RipState) -> list[str]:
    """Packs that hold more or fewer cards than printed, unless that was written down as a fact."""
    if state.box.stacked or state.box.mode == "hits":
        return []
    size = state.box.format.cards_per_pack
    odd = [
        pack for pack in state.packs if pack.opened and pack.cards != size and not {"short", "over"} & set(pack.flags)
    ]
    if not odd:
        return []
    words = ", ".join(f"pack {pack.number} has {pack.cards}" for pack in odd[:6])
    more = f" and {len(odd) - 6} more packs" if len(odd) > 6 else ""
    return [f"{words[0].upper()}{words[1:]}{more} of {size} cards. Was one typed twice, or into the wrong pack?"]
