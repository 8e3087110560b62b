"""The price desk: sold prices by the line, from the simulated feed, and what moved since I looked."""

from __future__ import annotations

from dataclasses import asdict

from flask import Blueprint, abort, current_app, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError
from botin.core.odds.findings import Severity
from botin.desk.catalog.cards import find_card
from botin.desk.copies.cardpage import card_page
from botin.desk.flags.pricepage import price_page
from botin.desk.grading.inspections import save_inspection
from botin.desk.grading.returns import Back, grade_copy
from botin.desk.pricing.editing import removed_prices
from botin.desk.pricing.files import export_prices, import_prices
from botin.desk.pricing.prices import fetch, moved_since, type_comps
from botin.desk.pricing.sealedprices import sealed_prices
from botin.desk.selling.disposals import WENT
from botin.exchange.loosetable import ColumnsUnclearError
from botin.standins.soldfeed import SimulatedFeed
from botin.store.buying import products_to_buy
from botin.store.pricing.prices import forget, made_up, prices_of
from botin.web.askcolumns import ask, given_file, keep_told
from botin.web.flags.routes import judge_anew
from botin.web.prices.forms import FinishForm, LinesForm, LookForm, ReturnedForm
from botin.web.prices.months import months_picture
from botin.web.prices.picture import price_picture
from botin.web.requests import bench, keep_typed, new_key, session

prices = Blueprint("prices", __name__, template_folder="templates", url_prefix="/prices")
PARTS = ("centering", "corners", "edges", "surface")


@prices.route("/", methods=["GET", "POST"])
def index() -> str | tuple[str, int]:
    """Take typed lines of prices; what is not understood stays in the field."""
    products = products_to_buy(session())
    chosen = request.values.get("product", type=int) or (products[0].id if products else 0)
    record = next((row for row in products if row.id == chosen), None)
    typed = None
    if request.method == "POST" and record is not None:
        typed = type_comps(session(), bench(), record, LinesForm().lines.text)
    page = render_template(
        "prices/index.html",
        products=products,
        record=record,
        typed=typed,
        left="\n".join(line for line, _ in typed.wrong) if typed else "",
        moved=moved_since(session()),
        sealed=sealed_prices(session(), bench(), record) if record else (),
    )
    return (page, 422) if typed and typed.wrong else page


@prices.get("/<int:product_id>/prices.csv")
def table(product_id: int) -> Response:
    """Give all prices of a product."""
    record = bench().record(session(), product_id)
    headers = {"Content-Disposition": f'attachment; filename="{record.key}-prices.csv"'}
    return Response(export_prices(session(), bench(), record), mimetype="text/csv", headers=headers)


@prices.post("/<int:product_id>/prices.csv")
def take_in(product_id: int) -> Response | tuple[str, int]:
    """Take in a file of prices, all or nothing; a column nobody can be sure of is asked for once."""
    record = bench().record(session(), product_id)
    name, data = given_file()
    if not name:
        flash("Choose a prices.csv first.")
        return redirect(url_for("prices.index", product=product_id), 303)
    keep_told()
    try:
        found = import_prices(session(), bench(), record, data, name)
    except ColumnsUnclearError as exc:
        session().rollback()
        return ask(exc, url_for("prices.take_in", product_id=product_id), name, data)
    except BotinError as exc:
        flash(exc.message)
        return redirect(url_for("prices.index", product=product_id), 303)
    for finding in found.wrong[:8]:
        flash(f"{finding.where}: {finding.message}")
    if any(finding.severity is Severity.ERROR for finding in found.wrong):
        flash(f"Nothing was stored: {len(found.wrong)} lines need mending.")
    else:
        flash(f"{found.stored} prices stored, {found.known} were known already.")
    if found.stored:
        return judge_anew()
    return redirect(url_for("prices.index", product=product_id), 303)


@prices.get("/card/<int:card_id>")
def card(card_id: int) -> str:
    """Show prices and routes of one version of a card, beside its copies."""
    parallel = request.args.get("finish", "")
    found = price_page(session(), bench(), card_id, parallel)
    page = card_page(session(), bench(), card_id)
    version = (page.record.id, page.card.section, page.card.number, parallel)
    return render_template(
        "prices/card.html",
        page=page,
        stored=prices_of(session(), *version),
        removed=removed_prices(session(), *version),
        found=found,
        chart=price_picture(found.rows, found.used, found.guess, bench().today()),
        months=months_picture(found.paths),
        went=WENT,
        today=bench().today(),
        client_key=new_key(),
        made_up=made_up(session(), SimulatedFeed().name),
        parts=PARTS,
        asdict=asdict,
    )


@prices.post("/card/<int:card_id>/fetch")
def fetched(card_id: int) -> Response:
    """Ask the simulated feed: in the demo only, since its sales are made up."""
    if not current_app.config["DEMO"]:
        abort(404)
    parallel = FinishForm().finish.text
    found = fetch(session(), bench(), card_id, parallel, SimulatedFeed())
    flash(
        f"The simulated feed gave {found.taken} new sales; {found.left_out} listings were no sale of one such card."
    )
    return redirect(url_for("prices.card", card_id=card_id, finish=parallel), 303)


@prices.post("/card/<int:card_id>/forget-feed")
def forget_feed(card_id: int) -> Response:
    """Remove every sale that the simulated feed made up."""
    count = forget(session(), SimulatedFeed().name)
    flash(f"{count} made-up sales were removed. Every price follows from now on.")
    return redirect(url_for("prices.card", card_id=card_id, finish=FinishForm().finish.text), 303)


@prices.post("/card/<int:card_id>/look")
def look(card_id: int) -> Response:
    """Keep my look at a copy: 1 to 10 in halves, centering in percent."""
    find_card(session(), bench(), card_id)
    form = LookForm()
    parallel = form.finish.text
    try:
        save_inspection(session(), bench(), form.copy.row_id(), form.seen())
    except BotinError as exc:
        flash(f"Nothing was stored: {exc.message}")
        return _typed(card_id, parallel, "look-head")
    flash("Kept. Its flag follows from it.")
    return redirect(url_for("prices.card", card_id=card_id, finish=parallel, _anchor="ways-head"), 303)


@prices.post("/card/<int:card_id>/returned")
def returned(card_id: int) -> Response:
    """Write down a grade that came back: it teaches bias and noise."""
    form = ReturnedForm()
    parallel = form.finish.text
    try:
        found = Back(form.copy.row_id(), form.grade.text, form.house.word)
        grade_copy(session(), bench(), card_id, form.client_key.text, found)
    except BotinError as exc:
        flash(exc.message)
        return _typed(card_id, parallel, "back-head")
    flash("Noted. The forecasts learn from it.")
    return redirect(url_for("prices.card", card_id=card_id, finish=parallel, _anchor="grade-head"), 303)


def _typed(card_id: int, parallel: str, anchor: str) -> Response:
    """Go back to the form with what was typed."""
    return redirect(url_for("prices.card", card_id=card_id, finish=parallel, typed=keep_typed(), _anchor=anchor), 303)
