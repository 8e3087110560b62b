"""Copies that did not come from my boxes, and copies that leave: bought, traded, given; sold, swapped, lost."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from botin.core.copycost import CostRule, share_cost
from botin.core.errors import BotinError, BoxStateError, NotFoundError
from botin.core.money import Money
from botin.core.numberlist import NumberListError, read_numbers
from botin.desk.sentagain import same_again, same_things
from botin.desk.workbench import Workbench
from botin.store.boxes import card_ids
from botin.store.graded import grades_of, out_of
from botin.store.models import BoxRecord, FormatRecord, ProductRecord, PullRecord
from botin.store.models_copies import ArrivalRecord, DepartureRecord

CAME = ("bought", "trade", "gift", "part set")
WENT = ("sold", "swapped", "given away", "lost")


@dataclass(frozen=True, slots=True)
class Arrival:
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


def add_arrivals(session: Session, bench: Workbench, record: ProductRecord, client_key: str, arrival: Arrival) -> int:
    """Store copies from elsewhere; all or nothing, and the same key again stores nothing more.

    The cost is shared equally, exactly to the minor unit.

    Raises
    ------
    NumberListError
        When a number is not understood or not on the checklist.
    """
    wanted = read_numbers(arrival.numbers)
    known = session.scalars(select(ArrivalRecord).where(ArrivalRecord.client_key.startswith(f"{client_key}:"))).all()
    if known:
        _same_arrival(session, record, arrival, wanted, known)
        return 0
    cards = card_ids(session, record.id, [(arrival.section, number) for number in wanted])
    lacking = [number for number in wanted if (arrival.section, number) not in cards]
    if not wanted or lacking:
        what = f"{', '.join(lacking[:8])} not on the checklist of this section" if lacking else "no number was given"
        message = f"Nothing was stored: {what}."
        raise NumberListError(message)
    product = bench.product(session, record)
    copies = [number for number, count in wanted.items() for _ in range(count)]
    shares = share_cost(arrival.cost.minor, [1.0] * len(copies), CostRule.EQUAL)
    for place, (number, minor) in enumerate(zip(copies, shares, strict=True)):
        card = product.card_by_number[(arrival.section, number)]
        stated = product.parallel_of(card, arrival.parallel)
        session.add(
            ArrivalRecord(
                client_key=f"{client_key}:{place}",
                card_id=cards[(arrival.section, number)],
                parallel=arrival.parallel,
                serial=arrival.serial,
                run=stated.stamped if stated and arrival.serial else None,
                grade=arrival.grade,
                came=arrival.came if arrival.came in CAME else CAME[0],
                source=arrival.source.strip()[:120],
                got_on=arrival.got_on,
                cost_minor=minor,
                currency=arrival.cost.currency,
                made_at=bench.now(),
            )
        )
    session.commit()
    return len(copies)


def _same_arrival(
    session: Session,
    record: ProductRecord,
    arrival: Arrival,
    wanted: Mapping[str, int],
    known: Sequence[ArrivalRecord],
) -> None:
    """See that a list that comes a second time is the same list.

    Raises
    ------
    StaleFormError
        When it is another one.
    """
    cards = card_ids(session, record.id, [(arrival.section, number) for number in wanted])
    sent = Counter({cards.get((arrival.section, number), 0): count for number, count in wanted.items()})
    stored, cost = Counter(row.card_id for row in known), sum(row.cost_minor for row in known)
    same_things((stored, cost), (sent, arrival.cost.minor))
    for row in known:
        same_again(row, parallel=arrival.parallel, serial=arrival.serial, grade=arrival.grade, got_on=arrival.got_on)


@dataclass(frozen=True, slots=True)
class Departure:
    """How a copy left: price and costs when it was sold, what came in when it was swapped."""

    went: str
    left_on: date
    price: Money
    costs: Money
    came_in: str = ""
    to: str = ""


class DepartureError(BotinError):
    """A copy cannot have left so: before it came, in the future, or sold for nothing."""

    status = 422


def _came_on(session: Session, bench: Workbench, copy: PullRecord | ArrivalRecord) -> date:
    """Return the first day a copy can have left: that of its box, or the day it came."""
    if isinstance(copy, ArrivalRecord):
        return copy.got_on
    box = session.get_one(BoxRecord, copy.box_id)
    return bench.day_of(box.opened_at) if box.opened_at is not None else box.bought_on


def _check_departure(departure: Departure, came: date, today: date) -> None:
    """Refuse what cannot be.

    Raises
    ------
    DepartureError
        Before it came, after today, or a sale without a price.
    """
    if departure.left_on < came:
        message = f"It came on {came.isoformat()} and cannot have left on {departure.left_on.isoformat()}."
        raise DepartureError(message)
    if departure.left_on > today:
        message = f"{departure.left_on.isoformat()} lies ahead. Write the day it left."
        raise DepartureError(message)
    if departure.went == "sold" and departure.price.minor <= 0:
        message = "A sale needs its price. Write what it sold for, or say that it was given away."
        raise DepartureError(message)


def depart(
    session: Session,
    bench: Workbench,
    client_key: str,
    departure: Departure,
    *,
    pull_id: int | None = None,
    arrival_id: int | None = None,
) -> DepartureRecord:
    """Note that a copy left; the same key again gives the same note.

    Raises
    ------
    NotFoundError
        When there is no such copy.
    BoxStateError
        When it has left already.
    """
    known = session.scalar(select(DepartureRecord).where(DepartureRecord.client_key == client_key))
    if known is not None:
        price, costs = departure.price.minor, departure.costs.minor
        same_again(known, pull_id=pull_id, arrival_id=arrival_id, price_minor=price, costs_minor=costs)
        same_again(known, went=departure.went, left_on=departure.left_on)
        return known
    copy = session.get(PullRecord, pull_id) if pull_id else session.get(ArrivalRecord, arrival_id or 0)
    if copy is None or copy.undone_at is not None:
        message = "That copy is not in the records any more. Go back to its card."
        raise NotFoundError(message)
    _check_departure(departure, _came_on(session, bench, copy), bench.today())
    made = DepartureRecord(
        client_key=client_key,
        pull_id=pull_id,
        arrival_id=arrival_id,
        went=departure.went if departure.went in WENT else WENT[0],
        left_on=departure.left_on,
        price_minor=departure.price.minor,
        costs_minor=departure.costs.minor,
        currency=departure.price.currency,
        came_in=departure.came_in.strip()[:200],
        to=departure.to.strip()[:120],
        made_at=bench.now(),
    )
    session.add(made)
    try:
        session.commit()
    except IntegrityError as exc:
        session.rollback()
        message = "That copy has left already. Take that note back first."
        raise BoxStateError(message) from exc
    return made


def take_back(session: Session, bench: Workbench, departure_id: int) -> None:
    """Take a departure back: the copy is there again, and the note is kept as undone."""
    row = session.get(DepartureRecord, departure_id)
    if row is not None and row.undone_at is None:
        row.undone_at = bench.now()
        session.commit()


def undo_arrival(session: Session, bench: Workbench, arrival_id: int) -> None:
    """Take an arrival out of every count, without deleting it."""
    row = session.get(ArrivalRecord, arrival_id)
    if row is not None and row.undone_at is None:
        row.undone_at = bench.now()
        session.commit()


@dataclass(frozen=True, slots=True)
class OwnedCopy:
    """A copy of a card, wherever it came from and whether it is still there; ``out`` for grading."""

    key: str
    parallel: str
    serial: int | None
    run: int | None
    grade: str
    origin: str
    box_id: int | None
    got_on: date | None
    cost: Money | None
    gone: DepartureRecord | None
    out: bool = False


def copies_of_card(session: Session, bench: Workbench, card_id: int, rule: CostRule) -> tuple[OwnedCopy, ...]:
    """Return all copies of a card, those of boxes first."""
    gone = _gone(session, card_id)
    mine = session.scalars(select(PullRecord.id).where(PullRecord.card_id == card_id, PullRecord.undone_at.is_(None)))
    ids = mine.all()
    grades, out = grades_of(session, ids), out_of(session, ids)
    found = [
        OwnedCopy(
            f"pull-{pull.id}", pull.parallel, pull.serial, pull.run, grades.get(pull.id, ""),
            box.label or f"box {box.id}", box.id, pull.logged_at.date(),
            pull_cost(session, bench, box, pull.id, rule), gone.get(("pull", pull.id)), pull.id in out,
        )
        for pull, box in session.execute(
            select(PullRecord, BoxRecord).join(BoxRecord, BoxRecord.id == PullRecord.box_id)
            .where(PullRecord.card_id == card_id, PullRecord.undone_at.is_(None)).order_by(PullRecord.id).limit(200)
        )
    ]  # fmt: skip
    found += [
        OwnedCopy(
            f"arrival-{row.id}", row.parallel, row.serial, row.run, row.grade,
            f"{row.came}{' · ' + row.source if row.source else ''}", None, row.got_on,
            Money(row.cost_minor, row.currency), gone.get(("arrival", row.id)),
        )
        for row in session.scalars(
            select(ArrivalRecord).where(ArrivalRecord.card_id == card_id, ArrivalRecord.undone_at.is_(None))
            .order_by(ArrivalRecord.id).limit(200)
        )
    ]  # fmt: skip
    return tuple(found)


def _gone(session: Session, card_id: int) -> dict[tuple[str, int], DepartureRecord]:
    d = DepartureRecord
    pulls = select(d).join(PullRecord, PullRecord.id == d.pull_id).where(PullRecord.card_id == card_id)
    others = select(d).join(ArrivalRecord, ArrivalRecord.id == d.arrival_id).where(ArrivalRecord.card_id == card_id)
    rows = [
        *session.scalars(pulls.where(d.undone_at.is_(None))),
        *session.scalars(others.where(d.undone_at.is_(None))),
    ]
    return {("pull", row.pull_id) if row.pull_id else ("arrival", row.arrival_id or 0): row for row in rows}


def pull_cost(session: Session, bench: Workbench, box: BoxRecord, pull_id: int, rule: CostRule) -> Money | None:
    """Return what a copy's share of its box cost, by the rule; None while the box is open."""
    if box.state != "closed":
        return None
    key = ("shares", box.id, box.closed_at, rule, bench.today())
    shares: dict[int, int] = bench.keep(key, lambda: _shares(session, bench, box, rule))
    minor = shares.get(pull_id)
    return None if minor is None else Money(minor, box.currency)


def _shares(session: Session, bench: Workbench, box: BoxRecord, rule: CostRule) -> dict[int, int]:
    from botin.desk.recap import pulled_copies  # noqa: PLC0415  (the recap shows copies that left)
    from botin.store.boxes import pulls_of  # noqa: PLC0415

    record = session.get_one(FormatRecord, box.format_id).product
    book, rows = bench.prices(session, record), pulls_of(session, box.id)
    copies = {copy.id: copy for copy in pulled_copies(bench.product(session, record), rows)}
    values = [
        book.estimate(copies[row.id].card, copies[row.id].parallel).amount if row.id in copies else 0.0
        for row in rows
    ]
    total = box.price_minor + box.shipping_minor + box.tax_minor
    return dict(zip((row.id for row in rows), share_cost(total, values, rule), strict=True))


def departures(session: Session, since: date | None = None, limit: int = 200) -> Sequence[DepartureRecord]:
    """Return the copies that left, the latest first."""
    d = DepartureRecord
    query = select(d).where(d.undone_at.is_(None)).order_by(d.left_on.desc(), d.id.desc()).limit(limit)
    return session.scalars(query.where(d.left_on >= since) if since else query).all()
