"""Commons given away together: each noted as given away, and all of them taken back in one step."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError
from botin.core.money import Money
from botin.desk.books.booking import book_left, unbook_left
from botin.desk.selling.disposals import Disposal, check_disposal
from botin.desk.selling.selling import SaleError
from botin.desk.sentagain import same_things
from botin.desk.workbench import Workbench
from botin.store.copies.copies import get_copy, require_here
from botin.store.copies.people import party_named
from botin.store.models_copies import DisposalRecord
from botin.store.selling.sales import copies_with_cards, end_copies, given_under, was_given
from botin.store.unit import finish

MOST = 4_000
"""Cards given away at once; a choice."""
WENT = "given away"


def give_away(session: Session, bench: Workbench, client_key: str, copies: Sequence[int], to: str, day: date) -> int:
    """Note that copies were given away; all or none. Returns how many; the same key again gives no more away.

    Raises
    ------
    SaleError
        When no copy is named, or too many are.
    BoxStateError
        When one of them is not here, or is promised.
    DisposalError
        When the day lies ahead, or before one came.
    """
    chosen = list(dict.fromkeys(copies))
    known = given_under(session, client_key)
    if known:
        same_things(sorted(row.copy_id for row in known), sorted(chosen))
        return len(known)
    if not 1 <= len(chosen) <= MOST:
        message = f"Choose 1 to {MOST:,} cards to give away."
        raise SaleError(message)
    if was_given(session, client_key):
        message = "That was given away and taken back since. Reload the page, then give it away again."
        raise BoxStateError(message)
    codes = {copy: one.product.currency for copy, one in copies_with_cards(session, chosen).items()}
    party = party_named(session, to, bench.now()).id if to.strip() else None
    for place, copy_id in enumerate(chosen):
        copy, nothing = get_copy(session, copy_id), Money(0, codes.get(copy_id, "EUR"))
        require_here(copy)
        check_disposal(session, bench, copy, Disposal(WENT, day, nothing, nothing))
        row = DisposalRecord(
            client_key=f"{client_key}:{place}", copy_id=copy_id, went=WENT, left_on=day, price_minor=0, costs_minor=0,
            currency=nothing.currency, came_in="", to=to.strip()[:120], made_at=bench.now(),
        )  # fmt: skip
        session.add(row)
        session.flush()
        book_left(session, bench, copy, row, party)
        copy.state = "gone"
    end_copies(session, chosen, day)
    finish(session)
    return len(chosen)


def not_given(session: Session, bench: Workbench, client_key: str) -> int:
    """Take back that copies were given away together: they are here again. Returns how many.

    Raises
    ------
    BoxStateError
        When nothing was given away under the key, or it is taken back already.
    """
    rows = given_under(session, client_key)
    if not rows:
        message = "That is taken back already, or was never given away. Reload the page."
        raise BoxStateError(message)
    for row in rows:
        unbook_left(session, bench, row)
        row.undone_at = bench.now()
        get_copy(session, row.copy_id).state = "here"
    finish(session)
    return len(rows)
