"""Copies that did not come from my boxes: bought, traded, given, of an old part set; and the copies of a card."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books.basis import CostRule, share_cost
from botin.core.books.posting import Basis
from botin.core.catalog.numberlist import NumberListError, read_numbers
from botin.core.money import Money
from botin.desk.books.booking import book_acquired, unbook_acquired
from botin.desk.sentagain import same_again, same_things
from botin.desk.workbench import Workbench
from botin.store.books.postings import bases
from botin.store.copies.copies import require_here
from botin.store.copies.left import copies_with_leaving
from botin.store.copies.people import UNSETTLED
from botin.store.keys import stored_together
from botin.store.models import BoxRecord, ProductRecord
from botin.store.models_copies import ME, CopyRecord, DisposalRecord
from botin.store.opening.boxes import card_ids
from botin.store.unit import finish

CAME = ("bought", "trade", "gift", "part set")
MOST = 100
"""Copies of one card that its page lists."""


@dataclass(frozen=True, slots=True)
class Acquisition:
    """What came in one go: numbers of a section, what all of it cost, and from where."""

    section: str
    numbers: str
    parallel: str
    came: str
    source: str
    got_on: date
    cost: Money
    serial: int | None = None
    grade: str = ""


def acquire(
    session: Session, bench: Workbench, record: ProductRecord, client_key: str, acquisition: Acquisition
) -> int:
    """Store copies from elsewhere; all or nothing, and the same key again stores nothing more.

    The cost is shared equally, exactly to the minor unit, and stands in the books.

    Raises
    ------
    NumberListError
        When a number is not understood or not on the checklist.
    """
    wanted = read_numbers(acquisition.numbers)
    known = stored_together(session, CopyRecord, client_key)
    if known:
        _same_acquisition(session, record, acquisition, wanted, known)
        return 0
    cards = card_ids(session, record.id, [(acquisition.section, number) for number in wanted])
    lacking = [number for number in wanted if (acquisition.section, number) not in cards]
    if not wanted or lacking:
        what = f"{', '.join(lacking[:8])} not on the checklist of this section" if lacking else "no number was given"
        message = f"Nothing was stored: {what}."
        raise NumberListError(message)
    numbers = [number for number, count in wanted.items() for _ in range(count)]
    shares = share_cost(acquisition.cost.minor, [1.0] * len(numbers), CostRule.EQUAL)
    made = [_copy(session, bench, record, acquisition, number) for number in numbers]
    for place, copy in enumerate(made):
        copy.card_id, copy.client_key = cards[(acquisition.section, numbers[place])], f"{client_key}:{place}"
    session.add_all(made)
    session.flush()
    for copy, minor in zip(made, shares, strict=True):
        book_acquired(session, bench, copy, Money(minor, acquisition.cost.currency))
    finish(session)
    return len(made)


def _copy(
    session: Session,
    bench: Workbench,
    record: ProductRecord,
    acquisition: Acquisition,
    number: str,
) -> CopyRecord:
    product = bench.product(session, record)
    stated = product.parallel_of(product.card_by_number[(acquisition.section, number)], acquisition.parallel)
    return CopyRecord(
        parallel=acquisition.parallel,
        serial=acquisition.serial,
        run=stated.stamped if stated and acquisition.serial else None,
        grade=acquisition.grade,
        came=acquisition.came if acquisition.came in CAME else CAME[0],
        source=acquisition.source.strip()[:120],
        got_on=acquisition.got_on,
        made_at=bench.now(),
    )


def _same_acquisition(
    session: Session,
    record: ProductRecord,
    acquisition: Acquisition,
    wanted: Mapping[str, int],
    known: Sequence[CopyRecord],
) -> None:
    """See that a list that comes a second time is the same list.

    Raises
    ------
    StaleFormError
        When it is another one.
    """
    cards = card_ids(session, record.id, [(acquisition.section, number) for number in wanted])
    sent = Counter({cards.get((acquisition.section, number), 0): count for number, count in wanted.items()})
    stored = Counter(row.card_id for row in known)
    cost = sum(basis.minor for basis in bases(session, [row.id for row in known]).values())
    unchanged = all(row.state in ("here", "coming") for row in known)
    same_things((stored, cost if unchanged else acquisition.cost.minor), (sent, acquisition.cost.minor))
    for row in known:
        same_again(row, parallel=acquisition.parallel, serial=acquisition.serial, got_on=acquisition.got_on)


def undo_acquisition(session: Session, bench: Workbench, copy_id: int) -> None:
    """Take a copy from elsewhere out of every count, and its cost back, without deleting it.

    Raises
    ------
    BoxStateError
        When it has left or is out for grading.
    """
    copy = session.get(CopyRecord, copy_id, populate_existing=True)
    if copy is None or copy.pull_id is not None or copy.state == "void":
        return
    if copy.state != "coming":
        require_here(copy)
    unbook_acquired(session, bench, copy)
    copy.state, copy.void_at = "void", bench.now()
    finish(session)


@dataclass(frozen=True, slots=True)
class OwnedCopy:
    """A copy of a card, wherever it came from, whosever it is and whether it is still there.

    Attributes
    ----------
    owner : str
        Empty when it is mine, ``?`` while nobody knows.
    cost : Money or None
        What it cost so far; None while its box is open.
    """

    id: int
    parallel: str
    serial: int | None
    run: int | None
    grade: str
    house: str
    certificate: str
    marks: str
    state: str
    place: str
    owner: str
    owner_id: int | None
    origin: str
    elsewhere: bool
    box_id: int | None
    got_on: date | None
    cost: Money | None
    gone: DisposalRecord | None
    note: str = ""
    order: int | None = None
    """The grading order it is in and not back from."""

    @property
    def out(self) -> bool:
        """Whether it is out for grading."""
        return self.state == "out"

    @property
    def mine(self) -> bool:
        """Whether it is mine."""
        return not self.owner


def copies_of_card(session: Session, card_id: int) -> tuple[OwnedCopy, ...]:
    """Return all copies of a card, those of boxes first."""
    rows = copies_with_leaving(session, card_id, MOST)
    held = bases(session, [copy.id for copy, *_ in rows])
    return tuple(
        replace(_owned(copy, gone, box, name, held[copy.id]), order=order) for copy, gone, box, name, order in rows
    )


def _owned(
    copy: CopyRecord, gone: DisposalRecord | None, box: BoxRecord | None, name: str | None, basis: Basis
) -> OwnedCopy:
    origin = f"{copy.came}{' · ' + copy.source if copy.source else ''}"
    if box is not None:
        origin = box.label or f"box {box.id}"
    settled = box is None or box.state == "closed"
    owner = "" if copy.owner_id == ME else name or UNSETTLED
    known = settled and not owner and gone is None
    return OwnedCopy(
        id=copy.id,
        parallel=copy.parallel,
        serial=copy.serial,
        run=copy.run,
        grade=copy.grade,
        house=copy.house,
        certificate=copy.certificate,
        marks=copy.marks,
        state=copy.state,
        place=copy.place,
        owner=owner,
        owner_id=copy.owner_id,
        origin=origin,
        elsewhere=copy.pull_id is None,
        box_id=copy.box_id,
        got_on=copy.got_on or copy.made_at.date(),
        cost=Money(basis.minor, basis.currency) if known else None,
        gone=gone,
        note=copy.note,
    )
