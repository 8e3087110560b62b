"""The flag board: where all copies should go, and which mix of grading tiers is best."""

from __future__ import annotations

import re
from datetime import date
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.sansio.blueprints import BlueprintSetupState
from werkzeug.wrappers import Response

from botin.core.days import typed_day
from botin.core.errors import BotinError, NotFoundError
from botin.core.flags.ways import Go
from botin.desk.buying.stillsealed import sealed_ways
from botin.desk.fees import grading_fees
from botin.desk.flags.board import SORTS, BoardFilter, choose, flag_board
from botin.desk.flags.everything import is_stale
from botin.desk.flags.submission import best_mix
from botin.desk.grading.counts import borrow_counts, borrowings, counted_products, import_counts, save_counts
from botin.desk.grading.orders import Chosen, Slab, grades_came_back, not_back, orders, send, take_back_order
from botin.desk.grading.returns import calibration
from botin.desk.keeping import apart
from botin.desk.keeping.apart import StoppedError
from botin.exchange.loosetable import ColumnsUnclearError
from botin.store.catalog.products import product_names
from botin.store.copies.copies import copies_at_most
from botin.web.askcolumns import ask, given_file, keep_told
from botin.web.requests import bench, is_fragment, keep_typed, let_write, new_key, session

flags = Blueprint("flags", __name__, template_folder="templates", url_prefix="/flags")
MOMENT = 1.0


def _filter() -> BoardFilter:
    args = request.args
    return BoardFilter(
        go=args.get("go", "") if args.get("go") in set(Go) else "",
        product_id=args.get("product", 0, int),
        words=args.get("q", "").strip()[:80],
        least=args.get("least", 0.0, float),
        unsure=args.get("unsure") == "1",
        sort=args.get("sort", "net") if args.get("sort") in SORTS else "net",
        page=max(1, args.get("page", 1, int)),
    )


@flags.get("/")
def index() -> str:
    """Show the board."""
    wanted = _filter()
    products = product_names(session())
    asked = {key: value for key, value in request.args.items() if key != "page"}
    return render_template(
        "flags/index.html", board=flag_board(session(), wanted), wanted=wanted, products=products, sorts=SORTS,
        gos=list(Go), asked=asked, stale=is_stale(session()),
        sealed=sealed_ways(session(), bench()),
    )  # fmt: skip


@flags.post("/again")
def again() -> Response:
    """Work all verdicts out anew, beside the request."""
    return judge_anew()


def judge_anew() -> Response:
    """Start to work all verdicts out anew and go where its progress is shown; also after prices came in."""
    workbench = bench()
    key = f"routes-{workbench.now():%Y%m%d%H%M%S%f}"
    let_write()
    large = copies_at_most(session(), apart.MANY + 1) > apart.MANY
    job = workbench.jobs.start(
        key, "Working out the flags", lambda job: apart.run(workbench, job, "judge", {}, large=large), long=True
    )
    if job.wait(MOMENT):
        flash(f"{job.future.result()} versions worked out anew.")
        return redirect(url_for("flags.index"), 303)
    return redirect(url_for("flags.progress", key=key), 303)


@flags.get("/again/<key>")
def progress(key: str) -> str | Response:
    """Show how far it is."""
    job = bench().jobs.get(key)
    if not job.wait(0.01):
        template = "flags/_progress.html" if is_fragment() else "flags/progress.html"
        return render_template(template, job=job)
    error = job.future.exception()
    flash(error.message if isinstance(error, StoppedError) else f"{job.future.result()} versions worked out anew.")
    target = url_for("flags.index")
    if is_fragment():
        return Response("", headers={"HX-Redirect": target})
    return redirect(target, 303)


@flags.post("/again/<key>/stop")
def stop(key: str) -> Response:
    """Stop working them out; what was known stays."""
    bench().jobs.get(key).stop()
    return redirect(url_for("flags.progress", key=key), 303)


@flags.post("/choose")
def chosen() -> Response:
    """Set my own route for the ticked versions."""
    ids = [int(text) for text in request.form.getlist("row") if text.isdecimal()]
    try:
        count = choose(session(), ids, request.form.get("go", ""))
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(f"Set for {count} version{'' if count == 1 else 's'}." if count else "Tick some rows first.")
    return redirect(url_for("flags.index", **_asked()), 303)


def _asked() -> dict[str, Any]:
    names = ("go", "product", "q", "least", "unsure", "sort", "page")
    return {name: request.args[name] for name in names if name in request.args}


@flags.get("/grading")
def grading() -> str:
    """Choose the best mix of tiers over all candidates, also with limited money."""
    cash = request.args.get("cash", type=float)
    terms = grading_fees(session(), bench().today())
    return render_template(
        "flags/grading.html",
        learned=calibration(session()),
        terms=terms,
        mix=best_mix(session(), bench(), terms, cash),
        cash=cash,
        today=bench().today(),
        orders=orders(session()),
        counted=counted_products(session()),
        borrowings=borrowings(session()),
        products=product_names(session()),
        client_key=new_key(),
    )


@flags.post("/grading/counts")
def counts() -> Response | tuple[str, int]:
    """Keep how copies of a product graded, as a house publishes it."""
    try:
        record = bench().record(session(), request.form.get("product", 0, int) or request.args.get("product", 0, int))
        name, data = given_file()
        if data:
            keep_told()
            copies = import_counts(session(), bench(), record, data, name)
        else:
            copies = save_counts(session(), bench(), record, request.form.get("counts", "")[:20_000])
    except ColumnsUnclearError as exc:
        session().rollback()
        return ask(exc, url_for("flags.counts", product=record.id), name, data)
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
        return redirect(url_for("flags.grading", typed=keep_typed(), _anchor="counts-head"), 303)
    flash(f"Kept: {copies:,} graded copies of {record.name}. Flags follow when they are worked out anew.")
    return redirect(url_for("flags.grading", _anchor="counts-head"), 303)


@flags.post("/grading/borrow")
def borrow() -> Response:
    """Let the counts of a sister product stand in where a product has none; or end it."""
    form = request.form
    try:
        record = bench().record(session(), form.get("product", 0, int))
        sister = bench().record(session(), form.get("sister", 0, int)) if form.get("sister") else None
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
    return redirect(url_for("flags.grading", _anchor="counts-head"), 303)


@flags.post("/grading/send")
def sent() -> Response:
    """Note an order as sent: the ticked copies, in one tier."""
    form = request.form
    terms = grading_fees(session(), bench().today())
    tier = next((tier for tier in terms.costs.tiers if tier.label == form.get("tier", "")), None)
    chosen = [one for text in form.getlist("copy") if (one := _chosen_copy(text)) is not None]
    try:
        if tier is None:
            message = "That tier is not among your tiers any more. Choose the mix anew."
            raise NotFoundError(message)
        made = send(session(), bench(), form.get("client_key", ""), tier, _day("sent_on"), chosen)
    except (BotinError, ValueError) as exc:
        return _not_stored(exc)
    else:
        flash(f"Noted: {len(chosen)} in {tier.label}, due about {made.due_on:%d %B}. The parcel must hold them so.")
    return redirect(url_for("flags.grading", _anchor="orders-head"), 303)


def _chosen_copy(text: str) -> Chosen | None:
    """Read what a ticked box stands for: the very copy (``copy:12``) or a card and a finish."""
    key, _, rest = text.partition(":")
    if key == "copy":
        return int(rest) if rest.isdecimal() else None
    return (int(key), rest) if key.isdecimal() else None


def _day(name: str) -> date:
    return typed_day(request.form.get(name, ""), bench().today())


@flags.post("/grading/back")
def back() -> Response:
    """Note what came back: a grade for each copy that was filled in, all or none."""
    form = request.form
    lines = [name.removeprefix("grade-") for name in form if re.fullmatch(r"grade-\d{1,15}", name)]
    slabs = [Slab(int(line), form[f"grade-{line}"], form.get(f"cert-{line}", "")) for line in lines]
    try:
        if form.get("undo", "").isdecimal():
            take_back_order(session(), bench(), int(form["undo"]))
            flash("Taken back: its copies are here again.")
        elif form.get("not_back", "").isdecimal():
            not_back(session(), bench(), int(form["not_back"]))
            flash("Taken back: that copy is out again, and its grade teaches nothing.")
        else:
            count = grades_came_back(session(), bench(), slabs, _day("back_on"))
            flash(f"{count} came back. The forecasts learn from them." if count else "Fill in a grade first.")
    except (BotinError, ValueError) as exc:
        return _not_stored(exc)
    return redirect(url_for("flags.grading", _anchor="orders-head"), 303)


def _not_stored(exc: BotinError | ValueError) -> Response:
    """Say why, and show the orders with what was typed."""
    flash(exc.message if isinstance(exc, BotinError) else "Write the day like 2026-03-14.")
    return redirect(url_for("flags.grading", typed=keep_typed(), _anchor="orders-head"), 303)


@flags.record_once
def _old_address(state: BlueprintSetupState) -> None:
    """Bookmarks of the board's earlier address lead to it."""
    state.app.add_url_rule("/routes/", "flags_before", lambda: redirect(url_for("flags.index"), 301))
