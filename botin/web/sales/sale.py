"""One sale: its road, its parcel, what happened beside it; and what is printed for it."""

from __future__ import annotations

from collections.abc import Callable

from flask import current_app, render_template, request
from werkzeug.wrappers import Response

from botin.core.errors import BoxStateError, NotFoundError
from botin.core.money import Money
from botin.core.selling.packing import BOX_FROM
from botin.core.selling.road import Stop
from botin.desk.selling.changes import note_change, undo_change
from botin.desk.selling.roads import (
    keep_address,
    keep_feedback,
    keep_packing,
    move_sale,
    not_paid_out,
    packed_of,
    pay_out,
    put_in_parcel,
    step_back,
    steps_of_packing,
    tick_packing,
)
from botin.desk.selling.salepage import SalePage, sale_page, under_way
from botin.desk.selling.selling import cancel_sale
from botin.desk.settings import load_settings
from botin.standins.carrier import Parcel, Quote, SimulatedCarrier
from botin.standins.scale import Contents, SimulatedScale
from botin.store.selling.sales import boxes_of, get_parcel, get_sale
from botin.web.requests import bench, new_key, session
from botin.web.sales.forms import BesideForm, MoveForm, PackForm, ParcelForm
from botin.web.sales.routes import sales_desk
from botin.web.tried import ticked, tried


@sales_desk.get("/<int:sale_id>")
def sale(sale_id: int) -> str:
    """Show a sale on its road."""
    found = sale_page(session(), sale_id)
    steps = steps_of_packing(session(), found.parcel.id) if found.parcel else ()
    mates = [one for one in under_way(session()) if _fits(one, found)]
    return render_template(
        "sales/sale.html", sale=found, today=bench().today(), client_key=new_key(), packing=steps, mates=mates,
        done=(found.parcel.checks.split(";") if found.parcel else []), quotes=_quotes(found),
        settings=load_settings(session()),
    )  # fmt: skip


def _fits(one: SalePage, found: SalePage) -> bool:
    """Whether another sale may go in the same parcel."""
    record = one.record
    alike = record.buyer_id == found.record.buyer_id and record.checked == found.record.checked
    alike = alike and not record.by_hand and record.currency == found.record.currency
    return record.id != found.record.id and alike and one.stop in (Stop.SOLD, Stop.PAID) and record.parcel_id is None


def _quotes(found: SalePage) -> list[Quote]:
    """What the simulated carrier asks, in the demo; a parcel that is packed and not sent."""
    if not current_app.config["DEMO"] or found.stop is not Stop.PACKED or found.parcel is None:
        return []
    value = Money(sum(one.price_minor for one in (found.record, *found.beside)), found.record.currency).major
    return list(SimulatedCarrier().quotes(Parcel(found.parcel.grams or 60, value=value)))


def _try(sale_id: int, deed: Callable[[], str], anchor: str = "") -> Response:
    return tried(deed, "sales.sale", anchor=anchor, sale_id=sale_id)


@sales_desk.post("/<int:sale_id>/move")
def move(sale_id: int) -> Response:
    """Let a sale reach its next stop."""
    form, code = MoveForm(), get_sale(session(), sale_id).currency

    def deed() -> str:
        if form.undo.text:
            return f"Taken back: it is {step_back(session(), bench(), sale_id)} again."
        how, day = form.posting(code), form.day.or_today()
        move_sale(session(), bench(), sale_id, form.stop(), day, form.client_key.text, how)
        return f"Sale {sale_id}: {sale_page(session(), sale_id).words.name}."

    return _try(sale_id, deed)


@sales_desk.post("/<int:sale_id>/parcel")
def parcel(sale_id: int) -> Response:
    """Begin the parcel of a sale, with others to the same buyer; keep address."""
    form = ParcelForm()

    def deed() -> str:
        if form.address.raw_data:
            keep_address(session(), sale_id, form.address.text)
        if form.begin.text:
            put_in_parcel(session(), bench(), form.client_key.text, [sale_id, *form.together.ids()])
            return "The parcel is begun: pack it step by step."
        return "The address is kept."

    return _try(sale_id, deed, "pack-head")


@sales_desk.post("/<int:sale_id>/pack")
def pack(sale_id: int) -> Response:
    """Keep which steps of packing are done; with all of them it is packed."""
    form, found = PackForm(), sale_page(session(), sale_id)
    if form.step.text and found.parcel is not None:
        parcel, step = found.parcel.id, form.step.text
        return ticked(lambda: tick_packing(session(), parcel, step, done=step in form.done.data))
    return _try(sale_id, lambda: _pack(found, form), "pack-head")


def _pack(found: SalePage, form: PackForm) -> str:
    if found.parcel is None:
        message = "It is in no parcel yet: begin one first."
        raise NotFoundError(message)
    sale, parcel = found.record.id, found.parcel.id
    grams = _weigh(found) if form.weigh.text else form.grams.whole() or None
    keep_packing(session(), parcel, form.done.data, grams)
    if form.then.text != "packed":
        return "Kept."
    try:
        move_sale(session(), bench(), sale, Stop.PACKED, bench().today(), form.client_key.text)
    except BoxStateError as exc:
        session().rollback()
        keep_packing(session(), parcel, form.done.data, grams)  # what is done is done: only the rest is missing
        return f"Ticks and weight are kept. {exc.message}"
    return "Packed. Send it."


def _weigh(found: SalePage) -> int:
    if not current_app.config["DEMO"]:
        message = "The simulated scale is part of the demo only: type what yours shows."
        raise NotFoundError(message)
    together = (found.record, *found.beside)
    what, boxes = packed_of(session(), together), boxes_of(session(), [one.box_id for one in together if one.box_id])
    packs = {one.box_id: one.packs for one in together}
    sealed = sum((packs[box.id] or box.format.packs_per_box) * box.format.cards_per_pack for box in boxes.values())
    boxed = what.price >= BOX_FROM or bool(boxes)
    inside = Contents(what.copies - what.slabs, what.slabs, boxed=boxed, sealed=sealed)
    return SimulatedScale().weigh(inside, str(found.record.id)) + 20


@sales_desk.post("/<int:sale_id>/beside")
def beside(sale_id: int) -> Response:
    """Note a refund, a return, a loss, a claim, the payout, feedback, or that it is cancelled."""
    form, code = BesideForm(), get_sale(session(), sale_id).currency

    def deed() -> str:
        if form.cancel.text:
            cancel_sale(session(), bench(), sale_id)
            return "Cancelled: its cards are here again."
        if form.undo_change.text:
            undo_change(session(), bench(), form.undo_change.row_id())
            return "Taken back."
        if form.payout.text == "no":
            not_paid_out(session(), bench(), sale_id)
            return "Taken back: it is not paid out."
        if form.payout.text:
            paid = pay_out(session(), bench(), sale_id, form.payout_on.or_today())
            return f"Paid out: {paid.major:,.2f} {code}."
        if form.feedback.text:
            keep_feedback(session(), bench(), sale_id, given=bool(form.given.text), got=form.got.text)
            return "Feedback kept."
        note_change(session(), bench(), form.client_key.text, sale_id, form.change(code))
        return f"Noted: {form.kind.text}."

    return _try(sale_id, deed, "beside-head")


PAPERS = {"invoice": "Invoice", "slip": "Packing slip", "label": "Address label"}


@sales_desk.get("/<int:sale_id>/print")
def paper(sale_id: int) -> str:
    """Show what is printed for a sale: the invoice inside, the packing slip, the address label."""
    found, wanted = sale_page(session(), sale_id), request.args.get("what", "")
    address = found.parcel.address if found.parcel else ""
    return render_template(
        "sales/print.html", sale=found, what=wanted if wanted in PAPERS else "", papers=PAPERS, address=address,
        settings=load_settings(session()), today=bench().today(), code=f"SALE{sale_id}",
    )  # fmt: skip


@sales_desk.get("/parcels")
def day_list() -> str:
    """List the parcels that are packed or sent on a day."""
    pages = [one for one in under_way(session()) if one.parcel is not None]
    seen: dict[int, list[SalePage]] = {}
    for one in pages:
        seen.setdefault(one.record.parcel_id or 0, []).append(one)
    parcels = [(get_parcel(session(), key), rows) for key, rows in seen.items()]
    today = bench().today()
    shown = [(row, rows) for row, rows in parcels if row.sent_on in (None, today)]
    return render_template("sales/parcels.html", parcels=shown, today=today)
