"""The grading desk: its orders, which copies to send, memberships and vouchers, how others graded."""

from __future__ import annotations

from flask import Blueprint, current_app, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, NotFoundError
from botin.desk.fees import grading_fees
from botin.desk.flags.drafting import begin_order, tier_named
from botin.desk.flags.everything import is_stale
from botin.desk.flags.submission import best_mix
from botin.desk.grading.counts import borrow_counts, counted_products, import_counts, save_counts
from botin.desk.grading.memberships import drop_voucher, join, leave, take_voucher, vouchers_left
from botin.desk.grading.orders import orders
from botin.desk.grading.returns import calibration
from botin.desk.grading.simulated import play
from botin.desk.insight.gradingresults import results
from botin.exchange.loosetable import ColumnsUnclearError
from botin.store.catalog.products import product_names
from botin.store.grading.counts import borrowings
from botin.store.grading.orders import memberships
from botin.web.askcolumns import ask, given_file, keep_told
from botin.web.forms import DaysForm
from botin.web.grading.forms import BeginForm, CountsForm, JoinForm, VoucherForm
from botin.web.requests import bench, keep_typed, new_key, session
from botin.web.typed import chosen_copies, limit_of

grading = Blueprint("grading", __name__, template_folder="templates", url_prefix="/grading")
DAYS_AT_ONCE = 60


@grading.get("/")
def index() -> str:
    """Show the orders under way and done, memberships, vouchers, and how good the forecasts were."""
    today = bench().today()
    return render_template(
        "grading/index.html", orders=orders(session()), today=today, memberships=memberships(session()),
        vouchers=vouchers_left(session(), today), terms=grading_fees(session(), today),
        learned=calibration(session()), client_key=new_key(), currency=_currency(),
    )  # fmt: skip


def _currency() -> str:
    """Currency of the latest order, else that of the first product."""
    found = orders(session(), 1)
    if found:
        return found[0].record.currency
    first = next(iter(product_names(session())), None)
    return bench().record(session(), first[0]).currency if first else "EUR"


@grading.get("/choose")
def choose() -> str:
    """Choose the best mix of tiers over all candidates, also with limited money."""
    cash = limit_of("cash")
    terms = grading_fees(session(), bench().today())
    return render_template(
        "grading/choose.html", terms=terms, mix=best_mix(session(), bench(), terms, cash), cash=cash,
        today=bench().today(), stale=is_stale(session()), client_key=new_key(),
    )  # fmt: skip


@grading.post("/orders")
def begin() -> Response:
    """Begin an order in a tier with the ticked copies."""
    form = BeginForm()
    terms = grading_fees(session(), bench().today())
    try:
        tier = tier_named(terms, form.tier.text)
        order = begin_order(session(), bench(), form.client_key.text, tier, chosen_copies(), _currency())
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(exc.message)
        return redirect(url_for("grading.choose"), 303)
    flash(f"Order {order.id} is begun. Look over its form, then close it.")
    return redirect(url_for("grading.order", order_id=order.id), 303)


@grading.get("/results")
def brought() -> str:
    """Show what grading brought, by order and by box."""
    return render_template("grading/results.html", found=results(session(), bench()))


@grading.post("/memberships")
def joined() -> Response:
    """Note a membership that was bought, or take one back."""
    form = JoinForm()
    try:
        if form.leave.row_id():
            leave(session(), bench(), form.leave.row_id())
            flash("Taken back: that membership was not bought.")
            return redirect(url_for("grading.index", _anchor="members-head"), 303)
        made = join(session(), bench(), form.client_key.text, form.joining(_currency()))
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
    else:
        flash(f"Noted: the membership of {made.house or 'the house'} is held until {made.until_on:%d %B %Y}.")
    if form.order.row_id():
        return redirect(url_for("grading.order", order_id=form.order.row_id()), 303)
    return redirect(url_for("grading.index", _anchor="members-head"), 303)


@grading.post("/vouchers")
def voucher() -> Response:
    """Note a voucher that was got, or take one out."""
    form = VoucherForm()
    try:
        if form.drop.row_id():
            drop_voucher(session(), bench(), form.drop.row_id())
            flash("That voucher is out of the records.")
        else:
            take_voucher(session(), bench(), form.client_key.text, form.given(_currency()))
            flash("Noted: the voucher counts in the best mix, and can be given on an order.")
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
    return redirect(url_for("grading.index", _anchor="members-head"), 303)


@grading.post("/days")
def days() -> Response:
    """Let days pass in the demo, and the simulated house do its work."""
    if not current_app.config["DEMO"]:
        message = "Days can be let pass in the demo only."
        raise NotFoundError(message)
    form = DaysForm()
    bench().let_pass(form.count(DAYS_AT_ONCE))
    happened = play(session(), bench())
    flash(f"It is {bench().today():%d %B %Y} in the demo. " + (" ".join(happened) or "Nothing came of any order."))
    back = form.order.row_id()
    return redirect(url_for("grading.order", order_id=back) if back else url_for("grading.index"), 303)


@grading.get("/counts")
def counted() -> str:
    """Show how others graded: the counts houses publish, and what is borrowed from a sister product."""
    return render_template(
        "grading/counts.html", counted=counted_products(session()), borrowings=borrowings(session()),
        products=product_names(session()),
    )  # fmt: skip


@grading.post("/counts")
def counts() -> Response | tuple[str, int]:
    """Keep how copies of a product graded, as a house publishes it."""
    form = CountsForm()
    try:
        record = bench().record(session(), form.product.row_id() or request.args.get("product", 0, int))
        name, data = given_file()
        if data:
            keep_told()
            copies = import_counts(session(), bench(), record, data, name)
        else:
            copies = save_counts(session(), bench(), record, form.counts.text)
    except ColumnsUnclearError as exc:
        session().rollback()
        return ask(exc, url_for("grading.counts", product=record.id), name, data)
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
        return redirect(url_for("grading.counted", typed=keep_typed()), 303)
    flash(f"Kept: {copies:,} graded copies of {record.name}. Flags follow when they are worked out anew.")
    return redirect(url_for("grading.counted"), 303)


@grading.post("/borrow")
def borrow() -> Response:
    """Let the counts of a sister product stand in where a product has none; or end it."""
    form = CountsForm()
    try:
        record = bench().record(session(), form.product.row_id())
        sister = bench().record(session(), form.sister.row_id()) if form.sister.text else None
        borrow_counts(session(), record, sister)
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
    else:
        flash(
            f"{record.name} borrows the counts of {sister.name} until it has its own."
            if sister
            else f"{record.name} borrows no counts any more."
        )
    return redirect(url_for("grading.counted"), 303)
