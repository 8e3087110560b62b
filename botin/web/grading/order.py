"""One grading order: its form while it is a draft, its steps, its bill, and its cards when they are back."""

from __future__ import annotations

from collections.abc import Callable

from flask import current_app, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, NotFoundError
from botin.core.grading.ordercosts import surcharge_of
from botin.core.grading.steps import Step
from botin.core.money import Money
from botin.desk.fees import grading_fees
from botin.desk.flags.drafting import add_to_order, closing_of, move_to_tier, reckon_shipping
from botin.desk.grading.back import Slab, grades_came_back, not_back, tell_grades
from botin.desk.grading.billing import correct_bill, not_paid, pay
from botin.desk.grading.drafts import ITEMS, fill_form, not_ready, put_line, remove_line
from botin.desk.grading.memberships import vouchers_left
from botin.desk.grading.moves import already_sent, move_on, remove_order, step_back
from botin.desk.grading.orders import Order, order_page
from botin.desk.insight.gradingresults import order_result
from botin.desk.selling.handing import hand_over
from botin.standins.carrier import Parcel, Quote, SimulatedCarrier
from botin.store.copies.people import get_party
from botin.store.grading.orders import copies_found, get_order, held_memberships
from botin.web.grading.forms import BackForm, BillForm, HandForm, LineForm, MoveForm, OrderForm
from botin.web.grading.routes import grading
from botin.web.requests import bench, keep_typed, new_key, session
from botin.web.tried import tried
from botin.web.typed import by_line, chosen_copies


@grading.get("/<int:order_id>")
def order(order_id: int) -> str:
    """Show an order: its form, where it stands and what is next."""
    return _page(order_id)


def _page(order_id: int, *, ask_to_close: bool = False) -> str:
    found = order_page(session(), order_id)
    today = bench().today()
    words = request.args.get("q", "").strip()[:80]
    draft = found.step is Step.DRAFT
    back = any(copy.back_on for copy in found.copies)
    terms = grading_fees(session(), today)
    return render_template(
        "grading/order.html", order=found, today=today, client_key=new_key(), words=words, items=ITEMS,
        found=copies_found(session(), words) if draft and words else [],
        lacks=not_ready(session(), found.record, today) if draft else [],
        closing=closing_of(session(), bench(), found.record) if ask_to_close else None,
        tiers=[tier for tier in terms.all_tiers if tier.offered(today)], terms=terms,
        vouchers=vouchers_left(session(), today, found.record.house) if draft else [],
        member=found.record.house in held_memberships(session(), today),
        quotes=_quotes(found) if found.step is Step.PACKED and current_app.config["DEMO"] else [],
        result=order_result(session(), bench(), found) if back else None,
        surcharge=surcharge_of(found.costs.fees),
    )  # fmt: skip


def _quotes(found: Order) -> list[Quote]:
    """What the simulated carrier asks for the parcel of an order."""
    value = Money(found.declared, found.record.currency).major
    grams = found.record.weight_g or 20 * len(found.copies)
    quotes = SimulatedCarrier().quotes(Parcel(grams, value=value))
    return sorted(quotes, key=lambda quote: (bool(quote.why_not), quote.at_risk > 0, quote.in_all))


def _try(order_id: int, deed: Callable[[], str], anchor: str = "") -> Response:
    return tried(deed, "grading.order", anchor=anchor, order_id=order_id)


@grading.post("/<int:order_id>/add")
def add(order_id: int) -> Response:
    """Put the ticked copies into a draft."""

    def deed() -> str:
        copies = [one for one in chosen_copies() if isinstance(one, int)]
        count = add_to_order(session(), bench(), order_id, copies)
        return f"{count} card{'' if count == 1 else 's'} came to the order." if count else "Tick a card first."

    return _try(order_id, deed, "form-head")


@grading.post("/<int:order_id>/line")
def line(order_id: int) -> Response:
    """Take a line out of a draft, or put it further up or down."""
    form = LineForm()

    def deed() -> str:
        if form.remove.text:
            remove_line(session(), order_id, form.remove.row_id())
            reckon_shipping(session(), bench(), get_order(session(), order_id))
            return "Taken out of the order: it is free again."
        place = form.place.whole(1)
        put_line(session(), order_id, form.line.row_id(), place)
        return f"It stands in line {place} of the form now."

    return _try(order_id, deed, "form-head")


@grading.post("/<int:order_id>/form")
def fill(order_id: int) -> Response | str:
    """Keep the form of a draft; closing asks for what was forgotten first."""
    form = OrderForm()
    if form.move.text:
        return _put(form)
    try:
        _fill(order_id, form)
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was changed. {exc.message}")
        return redirect(url_for("grading.order", order_id=order_id, typed=keep_typed(), _anchor="form-head"), 303)
    if form.then.text != "close":
        flash("The form is kept.")
        return redirect(url_for("grading.order", order_id=order_id, _anchor="form-head"), 303)
    return redirect(url_for("grading.close", order_id=order_id), 303)


def _put(form: OrderForm) -> Response:
    """Put a line one further up or down, by the button beside it."""
    order_id, line_id, place = form.moved()
    put_line(session(), order_id, line_id, place)
    return redirect(url_for("grading.order", order_id=order_id, _anchor=f"line-{line_id}"), 303)


def _fill(order_id: int, form: OrderForm) -> None:
    fill_form(session(), bench(), order_id, form.filled(get_order(session(), order_id).currency))
    label = form.tier.text
    found = get_order(session(), order_id)
    if label and label != f"{found.house} {found.tier}".strip():
        move_to_tier(session(), bench(), order_id, label)


@grading.get("/<int:order_id>/close")
def close(order_id: int) -> str:
    """Ask for forgotten cards before an order is closed."""
    return _page(order_id, ask_to_close=True)


@grading.post("/<int:order_id>/move")
def move(order_id: int) -> Response:
    """Let an order take its next step, or a later one."""
    form, code = MoveForm(), get_order(session(), order_id).currency

    def deed() -> str:
        to, told, day = form.step(), form.told(code), form.day.or_today()
        if form.already.text:
            already_sent(session(), bench(), order_id, day, form.client_key.text, told)
            return f"Order {order_id} is on its way since that day."
        made = move_on(session(), bench(), order_id, to, day, form.client_key.text, told)
        if to is Step.SENT and current_app.config["DEMO"]:
            made.simulated = True
            return f"Order {order_id} is on its way. In the demo it goes to a simulated house: let days pass."
        return f"Order {order_id}: {order_page(session(), order_id).words.name}."

    return _try(order_id, deed)


@grading.post("/<int:order_id>/undo")
def undo(order_id: int) -> Response:
    """Take the last step of an order back."""

    def deed() -> str:
        step_back(session(), bench(), order_id)
        return f"Taken back: order {order_id} is {order_page(session(), order_id).words.name} again."

    return _try(order_id, deed)


@grading.post("/<int:order_id>/remove")
def remove(order_id: int) -> Response:
    """Take an order back as if it had not been."""
    try:
        remove_order(session(), bench(), order_id)
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was changed. {exc.message}")
        return redirect(url_for("grading.order", order_id=order_id), 303)
    flash(f"Order {order_id} is taken back: its cards are here and free.")
    return redirect(url_for("grading.index"), 303)


@grading.post("/<int:order_id>/bill")
def bill(order_id: int) -> Response:
    """Correct what the house charges, or note that it is paid."""
    form, code = BillForm(), get_order(session(), order_id).currency

    def deed() -> str:
        if form.not_paid.text:
            not_paid(session(), bench(), order_id)
            return "Taken back: the bill is not paid."
        if form.pay.text:
            paid = pay(session(), bench(), order_id, form.paid_on.or_today())
            return f"Paid: {paid.major:,.2f} {paid.currency}."
        correct_bill(session(), bench(), order_id, form.bill(code))
        return "The bill is kept; what is owed follows it."

    return _try(order_id, deed, "bill-head")


@grading.post("/<int:order_id>/back")
def back(order_id: int) -> Response:
    """Note grades: as the house tells them, or with the slabs in hand."""
    form = BackForm()
    certs, places, wrong = by_line("cert"), by_line("place"), by_line("wrong")
    slabs = [
        Slab(key, grade, certs.get(key, ""), places.get(key, ""), wrong_label=key in wrong)
        for key, grade in by_line("grade").items()
    ]

    def deed() -> str:
        if form.not_back.text:
            not_back(session(), bench(), form.not_back.row_id())
            return "Taken back: that copy is out again, and its grade teaches nothing."
        if form.told.text:
            count = tell_grades(session(), slabs)
            return f"{count} grade{'' if count == 1 else 's'} kept as the house tells them; the cards are still out."
        count = grades_came_back(session(), bench(), slabs, form.back_on.or_today())
        return f"{count} came back. The forecasts learn from them." if count else "Fill in a grade first."

    return _try(order_id, deed, "back-head")


@grading.get("/<int:order_id>/people/<int:owner>")
def sheet(order_id: int, owner: int) -> str:
    """Show a person's sheet: his cards in the order, what he owes, his grades, and whether he has them back."""
    found = order_page(session(), order_id)
    share = next((one for one in found.shares if one.owner == owner), None)
    if share is None:
        message = "That person has no card in this order."
        raise NotFoundError(message)
    return render_template(
        "grading/sheet.html", order=found, share=share, person=get_party(session(), owner), client_key=new_key(),
        today=bench().today(),
    )  # fmt: skip


@grading.post("/<int:order_id>/people/<int:owner>")
def hand(order_id: int, owner: int) -> Response:
    """Hand a person the cards of his that are back."""
    try:
        count = hand_over(session(), bench(), order_id, owner, HandForm().day.or_today())
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was changed. {exc.message}")
    else:
        flash(
            f"{count} card{'' if count == 1 else 's'} handed over."
            if count
            else "No card of this order is here to hand over."
        )
    return redirect(url_for("grading.sheet", order_id=order_id, owner=owner), 303)
