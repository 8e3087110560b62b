"""One card: versions, copies, and how copies leave."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError
from botin.core.money import Money
from botin.desk.books.singles import read_single
from botin.desk.catalog.cards import find_card
from botin.desk.copies.editing import correct_copy, correct_disposal
from botin.desk.copies.elsewhere import undo_acquisition
from botin.desk.pricing.editing import bring_back_price, remove_price
from botin.desk.selling import disposals as desk
from botin.desk.selling.sales import ComesIn, Swap, swap
from botin.web.cards.forms import BackForm, CopyForm, LeaveForm, PriceForm
from botin.web.prices.forms import FinishForm
from botin.web.requests import bench, keep_typed, session

cards = Blueprint("cards", __name__, template_folder="templates", url_prefix="/cards")


@cards.get("/<int:card_id>")
def card(card_id: int) -> Response:
    """Go to the page of a card: its prices, routes and copies."""
    return redirect(url_for("prices.card", card_id=card_id))


@cards.post("/<int:card_id>/leave")
def leave(card_id: int) -> Response:
    """Note that a copy left: sold, swapped, given away, lost."""
    record, _, _ = find_card(session(), bench(), card_id)
    form = LeaveForm()
    try:
        disposal = form.leaving(record.currency)
        _leave(record.id, form.client_key.text, disposal, form.copy.row_id())
    except BotinError as exc:
        flash(exc.message)
        return _page(card_id, typed=keep_typed(), anchor="copies-head")
    flash(f"Noted: {disposal.went}.")
    return _page(card_id)


def _leave(product_id: int, key: str, disposal: desk.Disposal, copy_id: int) -> None:
    """Note that a copy left; a swap for cards that can be read is linked with them, any other is noted in words."""
    got = _came_in(product_id, disposal) if disposal.went == "swapped" else []
    if not got:
        desk.dispose(session(), bench(), key, disposal, copy_id=copy_id)
        return
    cash = disposal.costs - disposal.price
    swap(session(), bench(), key, Swap((copy_id,), tuple(got), cash, disposal.left_on, disposal.to))


def _came_in(product_id: int, disposal: desk.Disposal) -> list[ComesIn]:
    """Read what came in as cards of the same product; empty when it is none of them."""
    try:
        nothing = Money(0, disposal.price.currency)
        read = read_single(session(), bench(), product_id, disposal.came_in, nothing) if disposal.came_in else []
    except BotinError:
        return []
    return [ComesIn(product_id, line.item) for line in read]


@cards.post("/<int:card_id>/correct-leaving")
def correct_leaving(card_id: int) -> Response:
    """Correct how a copy left."""
    record, _, _ = find_card(session(), bench(), card_id)
    form = LeaveForm()
    try:
        disposal = form.leaving(record.currency)
        correct_disposal(session(), bench(), form.disposal.row_id(), form.client_key.text, disposal)
    except BotinError as exc:
        flash(exc.message)
        return _page(card_id, typed=keep_typed(), anchor="copies-head")
    flash("Corrected. The books keep what was wrong beside its mirror.")
    return _page(card_id, anchor="copies-head")


@cards.post("/<int:card_id>/copy")
def copy(card_id: int) -> Response:
    """Correct whose a copy is, where it lies, its certificate and note."""
    form = CopyForm()
    try:
        correct_copy(session(), bench(), form.copy.row_id(), form.client_key.text, form.facts())
    except BotinError as exc:
        flash(exc.message)
        return _page(card_id, typed=keep_typed(), anchor="copies-head")
    flash("Saved.")
    return _page(card_id, anchor="copies-head")


@cards.post("/<int:card_id>/price")
def price(card_id: int) -> Response:
    """Take a price that was typed wrongly out, or bring it back."""
    record, _, _ = find_card(session(), bench(), card_id)
    form = PriceForm()
    try:
        if form.bring_back.text:
            bring_back_price(session(), bench(), record.id, form.bring_back.row_id())
            flash("The price is back.")
        else:
            remove_price(session(), bench(), record.id, form.price.row_id())
            flash("The price is out, and everything that rests on it follows. It stands below: bring it back there.")
    except BotinError as exc:
        flash(exc.message)
    return _page(card_id, anchor="rows-head")


def _page(card_id: int, typed: str | None = None, anchor: str | None = None) -> Response:
    """Go to the page of the card, at the finish the form was about."""
    return redirect(
        url_for("prices.card", card_id=card_id, finish=FinishForm().finish.text, typed=typed, _anchor=anchor),
        303,
    )


@cards.post("/<int:card_id>/back")
def back(card_id: int) -> Response:
    """Take it back that a copy left, or that one came."""
    form = BackForm()
    try:
        if form.disposal.text:
            desk.undo_disposal(session(), bench(), form.disposal.row_id())
            flash("Taken back: the copy is here again.")
        elif form.acquired.text:
            undo_acquisition(session(), bench(), form.acquired.row_id())
            flash("Taken out of every count.")
    except BotinError as exc:
        flash(exc.message)
    return redirect(url_for("cards.card", card_id=card_id), 303)
