"""The stack: an order packed card by card in the order of its form, and the steps before and after."""

from __future__ import annotations

from flask import current_app, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, NotFoundError
from botin.core.grading.stack import AFTER, BEFORE, Fit, StackCard, next_card
from botin.core.grading.steps import Step
from botin.desk.grading.moves import move_on
from botin.desk.grading.orders import order_page
from botin.desk.grading.packing import checks_of, keep_checks, pack, stack_of, tick_check, unpack
from botin.desk.looking.stackscan import meant_by_scan
from botin.standins.scale import Contents, SimulatedScale
from botin.standins.scanner import SimulatedScanner, Subject
from botin.store.grading.orders import form_of, get_order
from botin.web.grading.forms import ChecksForm, StackForm
from botin.web.grading.routes import grading
from botin.web.requests import bench, new_key, session
from botin.web.tried import ticked


@grading.get("/<int:order_id>/stack")
def stack(order_id: int) -> str:
    """Show the stack of an order as far as it is packed, and which card comes now."""
    return _page(order_id)


def _page(order_id: int, wrong: str = "", typed: str = "", on: str = "") -> str:
    found, cards = order_page(session(), order_id), stack_of(session(), order_id)
    return render_template(
        "grading/stack.html", order=found, cards=cards, now=next_card(cards), before=BEFORE, after=AFTER,
        done=checks_of(found.record), wrong=wrong, typed=typed, on=on, client_key=new_key(),
        left=sum(1 for card in cards if not card.packed),
    )  # fmt: skip


@grading.post("/<int:order_id>/stack")
def put_on(order_id: int) -> Response | str | tuple[str, int]:
    """Put the card that was typed, scanned or confirmed on the stack; one that is wrong stops it with words."""
    form = StackForm()
    try:
        if form.off.text:
            count = unpack(session(), order_id, all_cards=form.off.text == "all")
            flash(f"{count} card{'' if count == 1 else 's'} off the stack.")
            return redirect(url_for("grading.stack", order_id=order_id), 303)
        cards = stack_of(session(), order_id)
        wanted = next_card(cards)
        typed = form.card.text
        if form.following.text and wanted is not None:
            typed = wanted.code
        if form.photo.text:
            typed = meant_by_scan(session(), bench(), order_id, _photo(order_id, wanted, form.photo.text))
        found = pack(session(), bench(), order_id, typed)
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        return _page(order_id, exc.message), 422
    if found.fit is not Fit.RIGHT:
        return _page(order_id, found.words, typed), 422
    return redirect(url_for("grading.stack", order_id=order_id), 303)  # an anchor would keep the field unfocused


def _photo(order_id: int, wanted: StackCard | None, asked: str) -> bytes:
    """Return the photo that was given, or in the demo the simulated scan of the back that comes now."""
    if asked != "simulated":
        file = request.files.get("scan")
        return file.read() if file else b""
    if not current_app.config["DEMO"] or wanted is None:
        message = "The simulated scanner is part of the demo only."
        raise NotFoundError(message)
    one = next(line for line in form_of(session(), order_id) if line.copy.id == wanted.copy_id)
    code = bench().product(session(), one.product).section_by_key[one.section].back_code
    subject = Subject(wanted.copy_id, one.product.name, wanted.number, wanted.name, wanted.parallel, code=code)
    return SimulatedScanner().scan(subject, "back")


@grading.post("/<int:order_id>/checks")
def check(order_id: int) -> Response | tuple[str, int]:
    """Keep which steps of packing are done; with all of them the order is packed."""
    form = ChecksForm()
    if form.step.text:
        step = form.step.text
        return ticked(lambda: tick_check(session(), order_id, step, done=step in form.done.data))
    weight = form.weight.whole() or None
    try:
        if form.weigh.text:
            weight = _weigh(order_id)
        keep_checks(session(), order_id, form.done.data, weight)
        if form.then.text == "packed":
            move_on(session(), bench(), order_id, Step.PACKED, bench().today(), form.client_key.text)
            flash(f"Order {order_id} is packed. Send it.")
            return redirect(url_for("grading.order", order_id=order_id), 303)
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        if form.then.text == "packed":
            keep_checks(session(), order_id, form.done.data, weight)
        return _page(order_id, f"Not packed yet. {exc.message}"), 422
    flash("Kept.")
    return redirect(url_for("grading.stack", order_id=order_id, _anchor="after-head"), 303)


def _weigh(order_id: int) -> int:
    """Put the parcel on the simulated scale, in the demo only."""
    if not current_app.config["DEMO"]:
        message = "The simulated scale is part of the demo only: type what yours shows."
        raise NotFoundError(message)
    order = get_order(session(), order_id)
    count = len(stack_of(session(), order_id))
    slabs = bool(order.service)
    contents = Contents(0 if slabs else count, count if slabs else 0)
    return SimulatedScale().weigh(contents, str(order_id))
