"""The shelf: what is there, what is bought, which box is opened next."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, render_template, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BadAmountError
from botin.desk import rip as rip_desk
from botin.desk import shelf as desk
from botin.desk.budget import month_of
from botin.desk.pricing import sealed_values
from botin.desk.settings import load_settings
from botin.web.requests import bench, new_key, session
from botin.web.shelf.forms import PurchaseForm

shelf = Blueprint("shelf", __name__, template_folder="templates")


@shelf.get("/")
def index() -> str:
    """Show the shelf."""
    return render_template(
        "shelf/index.html", shelf=desk.shelf(session()), sealed_worth=sealed_values(session(), bench())
    )


@shelf.route("/boxes/new", methods=["GET", "POST"])
def buy() -> str | Response | tuple[str, int]:
    """Take a bought box onto the shelf."""
    choices = desk.format_choices(session())
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


@shelf.post("/boxes/<int:box_id>/open")
def open_box(box_id: int) -> Response:
    """Open a sealed box and go to the rip desk."""
    box = rip_desk.open_box(session(), bench(), box_id)
    return redirect(url_for("rip.desk", box_id=box.id), 303)
