"""The set board: what is there, what is missing, and what finishing costs."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from botin.core.copies.finishing import Terms, finish
from botin.core.errors import BotinError, NotFoundError
from botin.core.money import Money, parse_money
from botin.desk.buying.prepared import Valuation, prepared, repeats_of
from botin.desk.copies.elsewhere import CAME, acquire
from botin.desk.copies.files import copies_csv, import_copies, needs_csv
from botin.desk.copies.havelist import TakenIn, import_have
from botin.desk.copies.setboard import Board, board, history, named_sets
from botin.desk.odds.learning import measured_fit
from botin.desk.settings import load_settings, save_settings
from botin.exchange.loosetable import ColumnsUnclearError
from botin.store.buying import products_to_buy
from botin.web.askcolumns import ask, given_file, keep_told
from botin.web.requests import bench, is_fragment, keep_typed, new_key, session
from botin.web.sets.forms import ArriveForm, HaveForm, SetsForm
from botin.web.sets.picture import board_picture, finish_picture, history_line

sets = Blueprint("sets", __name__, template_folder="templates", url_prefix="/sets")

MOST_BOXES = 12
SINGLES_A_PARCEL = 5
"""Missing singles are bought several at a time; a choice."""


@sets.get("/")
def index() -> str:
    """List what can be built: every section, and the sets the user named."""
    settings = load_settings(session())
    products = [
        (record, [section for section in bench().product(session(), record).sections])  # noqa: C416
        for record in products_to_buy(session())
    ]
    return render_template(
        "sets/index.html", products=products, named=named_sets(session(), settings), settings=settings
    )


@sets.post("/name")
def name() -> AnyResponse:
    """Keep the user's sets: a name and its sections, one a line."""
    save_settings(session(), replace(load_settings(session()), sets=SetsForm().sets.text))
    flash("Kept.")
    return redirect(url_for("sets.index"), 303)


def asked_parts() -> list[tuple[int, str]]:
    """Sections asked for in the address: part=product:section, once each.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = []
    for part in request.args.getlist("part"):
        number, _, section = part.partition(":")
        if number.isdecimal() and section:
            found.append((int(number), section))
    if not found:
        message = "No section was named. Pick a set on the page of the sets."
        raise NotFoundError(message)
    return found


@sets.get("/board")
def show() -> str:
    """Show the board of some sections; what finishing costs is asked for when the board is there."""
    return _board_page(None)


@sets.get("/finish")
def finishing() -> str:
    """Say what finishing costs with more boxes; htmx asks for that part alone."""
    found = board(session(), bench(), asked_parts(), request.args.get("name", ""))
    answer, error = None, ""
    try:
        answer = _finish(found)
    except BotinError as exc:
        error = exc.message
    if not is_fragment():
        return _board_page(answer, error)
    return render_template("sets/_finish.html", finish=answer, error=error, **_asked(found))


def _asked(found: Board) -> dict[str, Any]:
    return {
        "board": found,
        "asked": request.args,
        "parts": [f"{part.record.id}:{part.section.key}" for part in found.parts],
        "formats": found.parts[0].record.formats,
    }


def _board_page(answer: dict[str, Any] | None, error: str = "") -> str:
    parts = asked_parts()
    found = board(session(), bench(), parts, request.args.get("name", ""))
    first = found.parts[0]
    return render_template(
        "sets/board.html",
        picture=board_picture(found.cells, url_for("cards.card", card_id=0)[:-1]),
        finish=answer,
        error=error,
        sections=bench().product(session(), first.record).sections,
        line=history_line(history(session(), parts), len(found.cells)),
        client_key=new_key(),
        came=CAME,
        today=bench().today(),
        **_asked(found),
    )


def _finish(found: Board) -> dict[str, Any] | None:
    """Work out finishing the first part with boxes of one of its formats."""
    part = found.parts[0]
    formats = {row.key: row for row in part.record.formats}
    fmt = formats.get(request.args.get("format", "")) or next(iter(formats.values()), None)
    if fmt is None:
        return None
    settings = load_settings(session())
    listed = Money(fmt.list_price_minor, fmt.list_price_currency).major if fmt.list_price_minor else 0.0
    typed = request.args.get("price", "").strip()
    price = parse_money(typed, found.currency).major if typed else listed
    fit = measured_fit(session(), bench(), part.record, fmt.key)
    repeats = f"{fit.pooled.factor:.4f}" if fit else "independent"
    chosen = request.args.get("repeats", "")
    how = Valuation(fmt.key, net=True, repeats=chosen if chosen in ("independent", "none") else repeats)
    net = prepared(session(), bench(), part.record, how, settings)
    gross = prepared(session(), bench(), part.record, replace(how, net=False), settings)
    have = {cell.number: cell.have for cell in part.cells}
    model = repeats_of(how.repeats)
    most = 12
    answer = finish(
        net.box, gross.box, part.section.key, have, Terms(price, most, settings.single_postage / 5), model
    )
    return {
        "answer": answer,
        "picture": finish_picture(answer.curve),
        "format": fmt,
        "price": price,
        "fit": fit,
        "how": how,
    }


@sets.post("/arrive")
def arrive() -> AnyResponse:
    """Take copies from elsewhere: a list of numbers with what all of them cost."""
    form = ArriveForm()
    record = bench().record(session(), form.product_id.row_id())
    back = form.back.text
    back = back if back.startswith("/sets/") else url_for("sets.index")
    try:
        count = acquire(session(), bench(), record, form.client_key.text, form.acquisition(record.currency))
    except BotinError as exc:
        flash(exc.message)
        return redirect(f"{back}{'&' if '?' in back else '?'}typed={keep_typed()}#arrive-head", 303)
    flash(f"{count} cop{'y' if count == 1 else 'ies'} taken in.")
    return redirect(back, 303)


@sets.get("/needs.csv")
def needs() -> Response:
    """The missing numbers, or the spares, as CSV."""
    found = board(session(), bench(), asked_parts())
    spares = request.args.get("spares") == "1"
    name = "spares" if spares else "needs"
    return Response(
        needs_csv(found, spares=spares),
        mimetype="text/csv",
        headers={"Content-Disposition": f'attachment; filename="{name}.csv"'},
    )


@sets.get("/copies.csv")
def export() -> Response:
    """All copies that did not come from a box, and all that left."""
    return Response(
        copies_csv(session()),
        mimetype="text/csv",
        headers={"Content-Disposition": 'attachment; filename="copies.csv"'},
    )


@sets.post("/copies")
def take_in() -> AnyResponse | tuple[str, int]:
    """Read a copies.csv: all rows or none; a column nobody can be sure of is asked for once."""
    name, data = given_file()
    keep_told()
    try:
        count = import_copies(session(), bench(), data)
    except ColumnsUnclearError as exc:
        session().rollback()
        return ask(exc, url_for("sets.take_in"), name, data)
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(f"{count} cop{'y' if count == 1 else 'ies'} taken in; those that are here already stay as they are.")
    return redirect(url_for("sets.index"), 303)


@sets.post("/have")
def have() -> AnyResponse | tuple[str, int]:
    """Read a list of what one has of a product already: all rows or none; an unsure column is asked for once."""
    name, data = given_file()
    keep_told()
    record = bench().record(session(), HaveForm().product.row_id() or request.args.get("product", 0, int))
    try:
        taken = import_have(session(), bench(), record, data, name)
    except ColumnsUnclearError as exc:
        session().rollback()
        return ask(exc, url_for("sets.have", product=record.id), name, data)
    except BotinError as exc:
        session().rollback()
        flash(exc.message)
    else:
        flash(_taken_in(taken))
    return redirect(url_for("sets.index"), 303)


def _taken_in(taken: TakenIn) -> str:
    says = f"{taken.came} cop{'y' if taken.came == 1 else 'ies'} taken in, at no cost."
    if taken.here:
        says += f" {taken.here} of this file were here already."
    if taken.passed_over:
        says += f" Not used: the column{'s' * (len(taken.passed_over) > 1)} {', '.join(taken.passed_over)}."
    return says
