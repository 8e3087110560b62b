"""Orders: several boxes and singles of one seller in one parcel, from the pre-order until all has arrived."""

from __future__ import annotations

from collections.abc import Callable

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.books.orders import IN_PART, ORDERED, STATES
from botin.core.errors import BotinError
from botin.desk.books import purchases as desk
from botin.desk.books.budget import month_of
from botin.desk.books.orderpage import order_page
from botin.desk.opening.shelf import product_tiles
from botin.desk.settings import load_settings
from botin.store.catalog.lists import format_choices
from botin.web.purchases.forms import (
    BOX_ROWS,
    MOST_ROWS,
    SINGLE_ROWS,
    ArrivedForm,
    AskedForm,
    PaidForm,
    SentForm,
    sent_order,
)
from botin.web.requests import bench, new_key, session

purchases = Blueprint("purchases", __name__, template_folder="templates", url_prefix="/orders")


@purchases.route("/new", methods=["GET", "POST"])
def new() -> str | Response | tuple[str, int]:
    """Write down an order."""
    if request.method == "GET":
        return _form({}, "")
    asked = AskedForm()
    try:
        order = sent_order(session(), bench())
        month = month_of(session(), order.bought_on, load_settings(session()), order.currency)
        over = month.over(order.total) if order.state != ORDERED else None
        if over is not None and asked.over_budget.text != "asked":
            return _form(request.form.to_dict(), "", over=over, month=month), 409
        made = desk.place_order(session(), bench(), asked.client_key.text, order)
    except BotinError as exc:
        session().rollback()
        return _form(request.form.to_dict(), exc.message), 422
    flash(f"Order {made.id} is written down.")
    return redirect(url_for("purchases.show", purchase_id=made.id), 303)


def _form(typed: dict[str, str], wrong: str, **more: object) -> str:
    """Show the form with what was typed; asked for more rows, it has them."""
    asked = request.args.get("rows", 0, int)
    return render_template(
        "purchases/new.html",
        typed=typed,
        wrong=wrong,
        formats=format_choices(session()),
        products=product_tiles(session(), 200),
        states=[state for state in STATES if state != IN_PART],
        box_rows=min(MOST_ROWS, max(BOX_ROWS, asked)),
        single_rows=min(MOST_ROWS, max(SINGLE_ROWS, asked)),
        today=bench().today(),
        client_key=typed.get("client_key") or new_key(),
        **more,
    )


@purchases.get("/<int:purchase_id>")
def show(purchase_id: int) -> str:
    """Show an order: what was in it, what each thing cost with its part of postage and tax, where it is."""
    found = order_page(session(), bench(), purchase_id)
    return render_template("purchases/show.html", order=found, today=bench().today())


@purchases.post("/<int:purchase_id>/paid")
def paid(purchase_id: int) -> Response:
    """Say that it was paid."""
    return _done(purchase_id, lambda: _pay(purchase_id), "It is paid, and in the books.")


def _pay(purchase_id: int) -> None:
    desk.pay(session(), bench(), purchase_id, PaidForm().day.or_today())


@purchases.post("/<int:purchase_id>/sent")
def sent(purchase_id: int) -> Response:
    """Say that it is on its way."""
    return _done(purchase_id, lambda: _send(purchase_id), "It is on its way.")


def _send(purchase_id: int) -> None:
    desk.send_off(session(), purchase_id, SentForm().due_on.day())


@purchases.post("/<int:purchase_id>/arrived")
def arrived(purchase_id: int) -> Response:
    """Say what of it arrived: the ticked things, or all of it."""
    form = ArrivedForm()
    boxes, copies = form.things()
    if form.ticked and not boxes and not copies:
        flash("Tick what arrived first.")
        return redirect(url_for("purchases.show", purchase_id=purchase_id), 303)
    return _done(
        purchase_id, lambda: desk.arrive(session(), bench(), purchase_id, boxes, copies), "Noted: it is here."
    )


@purchases.post("/<int:purchase_id>/cancel")
def cancel(purchase_id: int) -> Response:
    """Take the whole order back."""
    return _done(
        purchase_id, lambda: desk.cancel(session(), bench(), purchase_id), "Taken back, and in the books by mirrors."
    )


def _done(purchase_id: int, deed: Callable[[], object], words: str) -> Response:
    try:
        deed()
    except BotinError as exc:
        session().rollback()
        flash(exc.message)
    else:
        flash(words)
    return redirect(url_for("purchases.show", purchase_id=purchase_id), 303)
