"""One card: versions, copies, and how copies leave."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response

from botin.core.days import typed_day
from botin.core.errors import BotinError
from botin.core.money import Money, parse_money
from botin.desk.books.singles import read_single
from botin.desk.catalog.cards import find_card
from botin.desk.copies.editing import CopyFacts, correct_copy, correct_disposal
from botin.desk.copies.elsewhere import undo_acquisition
from botin.desk.pricing.editing import bring_back_price, remove_price
from botin.desk.selling import disposals as desk
from botin.desk.selling.sales import ComesIn, Swap, swap
from botin.web.requests import bench, keep_typed, sent_id, session

cards = Blueprint("cards", __name__, template_folder="templates", url_prefix="/cards")


@cards.get("/<int:card_id>")
def card(card_id: int) -> Response:
    """Go to the page of a card: its prices, routes and copies."""
    return redirect(url_for("prices.card", card_id=card_id))


@cards.post("/<int:card_id>/leave")
def leave(card_id: int) -> Response:
    """Note that a copy left: sold, swapped, given away, lost."""
    record, _, _ = find_card(session(), bench(), card_id)
    form = request.form
    try:
        disposal = _disposal(form, record.currency)
        _leave(record.id, form.get("client_key", ""), disposal, sent_id("copy"))
    except (BotinError, ValueError) as exc:
        flash(exc.message if isinstance(exc, BotinError) else "Nothing was stored: write the day like 2026-03-14.")
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


def _disposal(form: Mapping[str, str], currency: str) -> desk.Disposal:
    """Read how a copy left.

    Raises
    ------
    BotinError
        When an amount or a day cannot be read.
    """
    return desk.Disposal(
        form.get("went", desk.WENT[0]),
        typed_day(form.get("left_on", ""), bench().today()),
        parse_money(form.get("price") or "0", currency),
        parse_money(form.get("costs") or "0", currency),
        form.get("came_in", ""),
        form.get("to", ""),
    )


@cards.post("/<int:card_id>/correct-leaving")
def correct_leaving(card_id: int) -> Response:
    """Correct how a copy left."""
    record, _, _ = find_card(session(), bench(), card_id)
    try:
        disposal = _disposal(request.form, record.currency)
        correct_disposal(session(), bench(), sent_id("disposal"), request.form.get("client_key", ""), disposal)
    except BotinError as exc:
        flash(exc.message)
        return _page(card_id, typed=keep_typed(), anchor="copies-head")
    flash("Corrected. The books keep what was wrong beside its mirror.")
    return _page(card_id, anchor="copies-head")


@cards.post("/<int:card_id>/copy")
def copy(card_id: int) -> Response:
    """Correct whose a copy is, where it lies, its certificate and note."""
    form = request.form
    facts = CopyFacts(*(form.get(name, "") for name in ("owner", "place", "certificate", "note")))
    try:
        correct_copy(session(), bench(), sent_id("copy"), form.get("client_key", ""), facts)
    except BotinError as exc:
        flash(exc.message)
        return _page(card_id, typed=keep_typed(), anchor="copies-head")
    flash("Saved.")
    return _page(card_id, anchor="copies-head")


@cards.post("/<int:card_id>/price")
def price(card_id: int) -> Response:
    """Take a price that was typed wrongly out, or bring it back."""
    record, _, _ = find_card(session(), bench(), card_id)
    try:
        if request.form.get("bring_back"):
            bring_back_price(session(), bench(), record.id, sent_id("bring_back"))
            flash("The price is back.")
        else:
            remove_price(session(), bench(), record.id, sent_id("price"))
            flash("The price is out, and everything that rests on it follows. It stands below: bring it back there.")
    except BotinError as exc:
        flash(exc.message)
    return _page(card_id, anchor="rows-head")


def _page(card_id: int, typed: str | None = None, anchor: str | None = None) -> Response:
    """Go to the page of the card, at the finish the form was about."""
    return redirect(
        url_for("prices.card", card_id=card_id, finish=request.form.get("finish", ""), typed=typed, _anchor=anchor),
        303,
    )


@cards.post("/<int:card_id>/back")
def back(card_id: int) -> Response:
    """Take it back that a copy left, or that one came."""
    try:
        if request.form.get("disposal"):
            desk.undo_disposal(session(), bench(), sent_id("disposal"))
            flash("Taken back: the copy is here again.")
        elif request.form.get("acquired"):
            undo_acquisition(session(), bench(), sent_id("acquired"))
            flash("Taken out of every count.")
    except BotinError as exc:
        flash(exc.message)
    return redirect(url_for("cards.card", card_id=card_id), 303)
