"""Which card of a grading order a photo of a back shows: held against the stack like any other."""

from __future__ import annotations

from sqlalchemy.orm import Session

from botin.core.errors import UnreadableFileError
from botin.core.grading.stack import code_of
from botin.desk.workbench import Workbench
from botin.exchange.looking.pixels import read_pixels
from botin.exchange.looking.readbacks import BackReader, CardBack
from botin.store.grading.orders import FormLine, form_of
from botin.store.models import ProductRecord


def meant_by_scan(session: Session, bench: Workbench, order_id: int, data: bytes) -> str:
    """Return the code of the copy whose back is on a photo: the one that comes now, where it may be that.

    Raises
    ------
    UnreadableFileError
        When it is no picture, shows no card or several, or nothing on it tells a card of the order.
    NoReaderError
        When the extra that reads print is not installed.
    """
    form = form_of(session, order_id)
    pixels = read_pixels(data)
    products = {one.product.id: one.product for one in form}
    versions: list[tuple[int, str, str]] = []
    for record in products.values():
        found = _reader(session, bench, record).read(pixels)
        versions += [(record.id, section, number) for section, number, _ in _one(found).back.candidates]
    waiting = sorted(form, key=lambda one: one.line.packed_at is not None)
    meant = next((one for one in waiting if _is(one, versions)), None)
    if meant is None:
        message = "The photo tells no card of this order. Scan its code, or type its number."
        raise UnreadableFileError(message)
    return code_of(meant.copy.id)


def _reader(session: Session, bench: Workbench, record: ProductRecord) -> BackReader:
    product = bench.product(session, record)
    return bench.keep(("backs", record.id, record.revision), lambda: BackReader(product))


def _one(found: list[CardBack]) -> CardBack:
    if len(found) != 1:
        what = f"{len(found)} cards are" if found else "No card is"
        message = f"{what} on the photo. Show the back of one."
        raise UnreadableFileError(message)
    return found[0]


def _is(one: FormLine, versions: list[tuple[int, str, str]]) -> bool:
    return (one.product.id, one.section, one.card.number) in versions
