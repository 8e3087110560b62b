"""A card under the glass: what is known of the copy, my looks at it, its pins, and what its flag becomes."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.errors import NotFoundError
from botin.core.flags.verdict import best_route
from botin.core.flags.ways import RouteVerdict
from botin.core.grading.centering import allowed
from botin.core.grading.grades import PIN_KINDS, Inspection
from botin.desk.flags.everything import judge_one
from botin.desk.flags.judging import FlagInputs, kept_inputs, verdict_of
from botin.desk.grading.inspections import looks_at, read_inspection, save_inspection
from botin.desk.looking.scans import Face, faces_of, get_scan, put_rulers
from botin.desk.workbench import Workbench
from botin.store.catalog.lists import card_and_product
from botin.store.copies.copies import copy_words, get_copy
from botin.store.grading.counts import borrowings
from botin.store.grading.looks import looks_kept, pins
from botin.store.keys import stored_under
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import ME, PRESENT, CopyRecord, InspectionRecord, PinRecord
from botin.store.unit import finish

SEVERITIES = ("slight", "", "heavy")


@dataclass(frozen=True, slots=True)
class Judged:
    """A flag in a line: where it should go, what the best way nets (major units), and why."""

    go: str
    tier: str
    net: float
    reason: str


@dataclass(frozen=True)
class Glass:
    """A copy as one looks at it.

    Attributes
    ----------
    look : Inspection or None
        The one that counts, with the marks.
    earlier : sequence of (day and time, Inspection)
        All looks, the latest first.
    faces : mapping
        The latest scan of each side.
    allows : mapping
        By house the highest grade its limits allow at this centering.
    chances : mapping
        By house the chance of each grade.
    lender : str
        The sister product whose counts stand in; empty when it has its own, or none.
    """

    copy: CopyRecord
    card: CardRecord
    product: ProductRecord
    words: str
    look: Inspection | None
    earlier: Sequence[tuple[InspectionRecord, Inspection]]
    faces: Mapping[str, Face]
    pins: Sequence[PinRecord]
    allows: Mapping[str, float]
    chances: Mapping[str, Mapping[float, float]]
    unseen: Mapping[str, Mapping[float, float]]
    flag: Judged
    lender: str

    @property
    def no_flag(self) -> str:
        """Why the copy has no flag of mine; empty when it has one."""
        if self.copy.owner_id != ME:
            return "It is not yours: no flag of yours follows."
        return "" if self.copy.state in PRESENT else "It is not here any more: no flag follows."


def glass(session: Session, bench: Workbench, copy_id: int) -> Glass:
    """Lay a copy under the glass.

    Raises
    ------
    NotFoundError
        When it is not there, or not on a checklist.
    """
    copy, card, record = _found(session, copy_id)
    j, checklist = kept_inputs(session, bench, record), _checklist_card(session, bench, record, card)
    look = looks_at(session, [copy_id]).get(copy_id)
    faces = faces_of(session, copy_id)
    front, back = _centering(look, faces)
    seen = replace(look or Inspection(), front=front, back=back)
    return Glass(
        copy=copy,
        card=card,
        product=record,
        words=copy_words(session, copy),
        look=look,
        earlier=_earlier(session, copy_id),
        faces=faces,
        pins=pins(session, copy_id),
        allows=allowed({house: standard for house, (_, standard) in j.houses.items()}, front, back),
        chances=j.chances(checklist, seen if seen.measured or seen.marks else None),
        unseen=j.chances(checklist, None),
        flag=_judged(j, checklist, copy, look),
        lender=borrowings(session).get(record.id, ""),
    )


def _found(session: Session, copy_id: int) -> tuple[CopyRecord, CardRecord, ProductRecord]:
    copy = get_copy(session, copy_id)
    found = card_and_product(session, copy.card_id or 0)
    if found is None:
        message = "That copy is of no card on a checklist: put it on one first, then look at it."
        raise NotFoundError(message)
    return copy, found[0], found[1]


def _checklist_card(session: Session, bench: Workbench, record: ProductRecord, card: CardRecord) -> Card:
    product = bench.product(session, record)
    section = session.get_one(SectionRecord, card.section_id).key
    return product.card_by_number[section, card.number]


def _centering(look: Inspection | None, faces: Mapping[str, Face]) -> tuple[float | None, float | None]:
    """Return the larger border of front and back: what the look says, else what was measured."""
    said = [getattr(look, side) if look else None for side in ("front", "back")]
    measured = [faces[side].borders if side in faces else None for side in ("front", "back")]
    front, back = (
        say if say is not None else (borders.larger if borders else None)
        for say, borders in zip(said, measured, strict=True)
    )
    return front, back


def _judged(j: FlagInputs, card: Card, copy: CopyRecord, look: Inspection | None) -> Judged:
    verdict: RouteVerdict = verdict_of(j, card, copy.parallel, look, copy.grade)[0]
    return Judged(verdict.go.value, verdict.tier, best_route(verdict.routes, j.costs).mean, verdict.reason)


def _earlier(session: Session, copy_id: int) -> list[tuple[InspectionRecord, Inspection]]:
    return [(row, read_inspection(row.values)) for row in looks_kept(session, copy_id)]


def keep_look(session: Session, bench: Workbench, copy_id: int, look: Inspection) -> tuple[Judged, Judged]:
    """Keep a look; its flag follows at once. Return the flag before and after."""
    before = glass(session, bench, copy_id).flag
    save_inspection(session, bench, copy_id, look)
    return before, _flag_now(session, bench, copy_id)


def _flag_now(session: Session, bench: Workbench, copy_id: int) -> Judged:
    found = glass(session, bench, copy_id)
    judge_one(session, bench, found.product, copy_id)
    finish(session)
    return found.flag


@dataclass(frozen=True, slots=True)
class Pin:
    """A mark to be pinned: where in thousandths of the card, how large in micrometres."""

    side: str
    kind: str
    severity: str
    x: int
    y: int
    size_um: int | None = None


def put_pin(session: Session, bench: Workbench, copy_id: int, client_key: str, pin: Pin) -> tuple[Judged, Judged]:
    """Pin a mark on a copy; the same key again pins nothing more. Return the flag before and after.

    Raises
    ------
    NotFoundError
        When kind, side or severity is none of those there are.
    """
    if pin.kind not in PIN_KINDS or pin.side not in ("front", "back") or pin.severity not in SEVERITIES:
        message = f"“{pin.severity} {pin.kind}” on the {pin.side} is no mark. Choose one of {', '.join(PIN_KINDS)}."
        raise NotFoundError(message)
    before = glass(session, bench, copy_id).flag
    p = PinRecord
    if stored_under(session, PinRecord, client_key) is None:
        session.add(
            p(client_key=client_key, copy_id=copy_id, side=pin.side, kind=pin.kind, severity=pin.severity,
              x_permille=min(1000, max(0, pin.x)), y_permille=min(1000, max(0, pin.y)), size_um=pin.size_um,
              pinned_at=bench.now())
        )  # fmt: skip
        finish(session)
    return before, _flag_now(session, bench, copy_id)


def take_pin(session: Session, bench: Workbench, copy_id: int, pin_id: int) -> tuple[Judged, Judged]:
    """Take a pin off again; it stays in the history of the copy. Return the flag before and after.

    Raises
    ------
    NotFoundError
        When it is not on this copy.
    """
    found = session.get(PinRecord, pin_id)
    if found is None or found.copy_id != copy_id:
        message = "That mark is not on this copy."
        raise NotFoundError(message)
    before = glass(session, bench, copy_id).flag
    found.removed_at = found.removed_at or bench.now()
    finish(session)
    return before, _flag_now(session, bench, copy_id)


def rulers_of(session: Session, scan_id: int, copy_id: int) -> Mapping[str, float]:
    """Return the measured borders of a scan of a copy, by side; empty when there are none."""
    scan = get_scan(session, scan_id)
    if scan.copy_id != copy_id:
        message = "That scan is of another copy."
        raise NotFoundError(message)
    return dict(json.loads(scan.measured).get("borders") or {})


__all__ = ["Glass", "Judged", "Pin", "glass", "keep_look", "pins", "put_pin", "put_rulers", "rulers_of", "take_pin"]
