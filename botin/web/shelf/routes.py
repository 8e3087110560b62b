"""The shelf: what is there, what is bought, which box is opened next."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BadAmountError, BotinError
from botin.desk.books.budget import month_of
from botin.desk.opening import boxedit
from botin.desk.opening import rip as rip_desk
from botin.desk.opening import shelf as desk
from botin.desk.opening.boxedit import facts_of_box
from botin.desk.pricing.sealedprices import sealed_values
from botin.desk.selling.sales import empty_sold, sell_empty, sell_sealed, undo_empty_sale, undo_sealed_sale
from botin.desk.settings import load_settings
from botin.store.catalog.history import history_of
from botin.store.catalog.lists import format_choices
from botin.store.opening.boxes import get_box
from botin.store.selling.sales import live_listings
from botin.web.requests import bench, keep_typed, new_key, session
from botin.web.shelf.forms import PurchaseForm, SellForm, shown

shelf = Blueprint("shelf", __name__, template_folder="templates")


@shelf.get("/")
def index() -> str:
    """Show the shelf."""
    return render_template(
        "shelf/index.html", shelf=desk.shelf(session()), sealed_worth=sealed_values(session(), bench()),
        offered={row.box_id: row.channel for row in live_listings(session()) if row.box_id is not None},
    )  # fmt: skip


@shelf.route("/boxes/new", methods=["GET", "POST"])
def buy() -> str | Response | tuple[str, int]:
    """Take a bought box onto the shelf."""
    choices = format_choices(session())
    form = PurchaseForm(bought_on=bench().today())
    form.offer(choices)
    if not form.client_key.data:
        form.client_key.data = new_key()
    if not form.is_submitted():
        return render_template("shelf/buy.html", form=form, choices=choices)
    if form.validate():
        try:
            purchase = form.purchase(choices)
        except BadAmountError as exc:
            form.price.errors = [exc.message]
        else:
            return _bought(form, purchase, choices)
    return render_template("shelf/buy.html", form=form, choices=choices), 422


def _bought(
    form: PurchaseForm, purchase: desk.Purchase, choices: list[tuple[int, str, str]]
) -> Response | tuple[str, int]:
    """Put it on the shelf; going over the month's budget asks once, plainly."""
    month = month_of(session(), purchase.bought_on, load_settings(session()), purchase.price.currency)
    over = month.over(purchase.price + purchase.shipping + purchase.tax)
    if over is not None and form.over_budget.data != "asked":
        return render_template("shelf/buy.html", form=form, choices=choices, over=over, month=month), 409
    box = desk.buy_box(session(), bench(), str(form.client_key.data), purchase)
    flash(f"Box {box.id} is on the shelf.")
    return redirect(url_for("shelf.index", _anchor=f"box-{box.id}"), 303)


@shelf.route("/boxes/<int:box_id>/correct", methods=["GET", "POST"])
def correct(box_id: int) -> str | Response | tuple[str, int]:
    """Correct what was paid for a box and when, its label and its format."""
    box = get_box(session(), box_id)
    choices = [(fmt.id, fmt.label, box.currency) for fmt in box.format.product.formats]
    form = PurchaseForm(data=None if request.method == "POST" else shown(facts_of_box(box)))
    form.offer(choices)
    if not form.client_key.data:
        form.client_key.data = new_key()
    if form.is_submitted() and form.validate():
        try:
            facts = form.facts(box.currency)
            boxedit.correct_box(session(), bench(), box_id, str(form.client_key.data), facts)
        except BotinError as exc:
            form.price.errors = [exc.message]
        else:
            flash(f"Corrected. The books have a mirror of what was wrong, and box {box_id} as it is.")
            return redirect(url_for("shelf.correct", box_id=box_id), 303)
    status = 422 if form.is_submitted() else 200
    history = history_of(session(), "box", box_id)
    empty = empty_sold(session(), box_id)
    return render_template(
        "shelf/correct.html", form=form, box=box, history=history, empty=empty, today=bench().today()
    ), status


@shelf.post("/boxes/<int:box_id>/seal")
def seal(box_id: int) -> Response:
    """Put a box that was opened by accident back to sealed."""
    try:
        boxedit.seal_again(session(), bench(), box_id)
    except BotinError as exc:
        flash(exc.message)
        return redirect(url_for("shelf.correct", box_id=box_id), 303)
    flash(f"Box {box_id} is sealed on the shelf again.")
    return redirect(url_for("shelf.index", _anchor=f"box-{box_id}"), 303)


@shelf.post("/boxes/<int:box_id>/remove")
def remove(box_id: int) -> Response:
    """Take a box that was never bought off the shelf."""
    try:
        boxedit.remove_box(session(), bench(), box_id)
    except BotinError as exc:
        flash(exc.message)
        return redirect(url_for("shelf.correct", box_id=box_id), 303)
    flash(f"Box {box_id} is removed, and its purchase taken back in the books.")
    return redirect(url_for("shelf.correct", box_id=box_id), 303)


@shelf.post("/boxes/<int:box_id>/sell")
def sell(box_id: int) -> Response:
    """Sell a box as it is, or the empty box of one that was opened; or take that back."""
    box, form = get_box(session(), box_id), SellForm()
    try:
        if form.back.text:
            undo_sealed_sale(session(), bench(), box_id)
            undo_empty_sale(session(), bench(), box_id)
            flash("The sale is taken back.")
        else:
            deal, key = form.deal(box.currency), form.client_key.text
            if box.state == "closed":
                sell_empty(session(), bench(), key, deal, box_id)
            else:
                sell_sealed(session(), bench(), key, deal, box_id)
            flash("Sold, and in the books.")
    except BotinError as exc:
        session().rollback()
        flash(exc.message)
        return redirect(url_for("shelf.correct", box_id=box_id, typed=keep_typed(), _anchor="sell-head"), 303)
    return redirect(url_for("shelf.correct", box_id=box_id), 303)


@shelf.post("/boxes/<int:box_id>/bring-back")
def bring_back(box_id: int) -> Response:
    """Put a removed box on the shelf again."""
    try:
        boxedit.bring_back_box(session(), bench(), box_id)
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(f"Box {box_id} is on the shelf again.")
    return redirect(url_for("shelf.index", _anchor=f"box-{box_id}"), 303)


@shelf.post("/boxes/<int:box_id>/open")
def open_box(box_id: int) -> Response:
    """Open a sealed box and go to the rip desk."""
    box = rip_desk.open_box(session(), bench(), box_id)
    return redirect(url_for("rip.desk", box_id=box.id), 303)
