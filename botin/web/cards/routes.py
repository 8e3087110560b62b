"""One card: versions, copies, and how copies leave."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response

from botin.core.days import typed_day
from botin.core.errors import BotinError
from botin.core.money import parse_money
from botin.desk import disposals as desk
from botin.desk.cardpage import find_card
from botin.desk.copies import undo_acquisition
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
        disposal = desk.Disposal(
            form.get("went", desk.WENT[0]),
            typed_day(form.get("left_on", ""), bench().today()),
            parse_money(form.get("price") or "0", record.currency),
            parse_money(form.get("costs") or "0", record.currency),
            form.get("came_in", ""),
            form.get("to", ""),
        )
        desk.dispose(session(), bench(), form.get("client_key", ""), disposal, copy_id=sent_id("copy"))
    except (BotinError, ValueError) as exc:
        flash(exc.message if isinstance(exc, BotinError) else "Nothing was stored: write the day like 2026-03-14.")
        return _page(card_id, typed=keep_typed(), anchor="copies-head")
    flash(f"Noted: {disposal.went}.")
    return _page(card_id)


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
