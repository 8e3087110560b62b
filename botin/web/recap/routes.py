"""Recaps: of a box, a product, a year, and boxes side by side."""

from __future__ import annotations

from datetime import date

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from botin.core.errors import BotinError, NotFoundError
from botin.core.insight.recap import Pulled
from botin.desk.catalog.productpage import printed_run
from botin.desk.insight.aftermath import BoxMore, box_more, period, told
from botin.desk.insight.cards import at_opening, box_cards
from botin.desk.insight.recap import box_recap
from botin.desk.odds.learning import learned, run_follows
from botin.desk.pulled import pulled_copies
from botin.desk.selling.sales import sell_lot
from botin.store.flags.board import own_routes
from botin.store.grading.orders import graded_since, promised
from botin.store.models import BoxRecord
from botin.store.opening.boxes import get_box, pulls_of
from botin.store.opening.closed import closed_boxes, not_closed, years
from botin.web.forms import LotForm
from botin.web.offshelf import off_shelf
from botin.web.recap.picture import money_line
from botin.web.recap.share import share_svg
from botin.web.requests import bench, keep_typed, new_key, session

recap = Blueprint("recap", __name__, template_folder="templates", url_prefix="/recap")


@recap.get("/")
def index() -> str:
    """List the closed boxes with their money and luck."""
    found = period(session(), bench(), "All boxes", closed_boxes(session()))
    return render_template("recap/index.html", found=found, years=years(session()))


@recap.get("/<int:box_id>")
def box(box_id: int) -> str | AnyResponse:
    """Show the recap of a box; one that was never opened has none."""
    record = get_box(session(), box_id)
    if (gone := off_shelf(record)) is not None:
        return gone
    if record.state == "sealed":
        flash("This box is still sealed: it has no recap yet. Open it here first.")
        return redirect(url_for("shelf.index", _anchor=f"box-{box_id}"))
    found = box_recap(session(), bench(), box_id, by_rarity=request.args.get("best") == "rare")
    cards = [best.row.card_id for best in found.best if best.row.card_id is not None]
    more, pulled = _more(found.box)
    return render_template(
        "recap/box.html",
        recap=found,
        line=money_line(found),
        more=more,
        chosen=own_routes(session(), cards),
        then=at_opening(session(), bench(), found.box, pulled),
        graded=graded_since(session(), box_id),
    )


@recap.get("/<int:box_id>/cards")
def every_card(box_id: int) -> str:
    """List every card of a box with its worth, its share of the cost and its route."""
    found = box_cards(session(), bench(), box_id)
    return render_template(
        "recap/cards.html", found=found, today=bench().today(), client_key=new_key(), promised=promised(session())
    )


@recap.post("/<int:box_id>/lot")
def lot(box_id: int) -> AnyResponse:
    """Sell the ticked cards of a box as a lot."""
    record, form = get_box(session(), box_id), LotForm()
    try:
        rows = sell_lot(session(), bench(), form.client_key.text, form.deal(record.currency), form.copy.ids())
    except BotinError as exc:
        session().rollback()
        flash(exc.message)
        return redirect(url_for("recap.every_card", box_id=box_id, typed=keep_typed(), _anchor="lot-form"), 303)
    flash(f"{len(rows)} cards went as a lot; its price is shared over them by what they had cost.")
    return redirect(url_for("recap.every_card", box_id=box_id), 303)


def _more(record: BoxRecord) -> tuple[BoxMore, list[Pulled]]:
    product = bench().product(session(), record.format.product)
    pulled = pulled_copies(product, pulls_of(session(), record.id))
    book = bench().prices(session(), record.format.product)
    value = sum(book.estimate(copy.card, copy.parallel).amount for copy in pulled if copy.mine)
    return box_more(session(), bench(), record, pulled, value), pulled


@recap.get("/<int:box_id>/picture.svg")
def picture(box_id: int) -> Response:
    """Give a picture to share: the best cards and the luck, nothing private."""
    found = box_recap(session(), bench(), box_id)
    svg = share_svg(found, _more(found.box)[0])
    headers = {"Content-Disposition": f'attachment; filename="box-{box_id}.svg"'}
    return Response(svg, mimetype="image/svg+xml", headers=headers)


@recap.get("/product/<int:product_id>")
def product(product_id: int) -> str:
    """Show what all logged boxes of a product say."""
    record = bench().record(session(), product_id)
    found = period(session(), bench(), record.name, closed_boxes(session(), product_id=product_id))
    formats = learned(session(), bench(), record)
    run = printed_run(session(), bench(), record)
    follows = {one.format.key: run_follows(one, run) for one in formats}
    return render_template("recap/product.html", record=record, found=found, formats=formats, follows=follows)


@recap.get("/year/<int:year>")
def year(year: int) -> str:
    """Show all boxes bought in a year."""
    found = period(session(), bench(), str(year), closed_boxes(session(), year=year)) if 1900 < year < 2200 else None
    return render_template("recap/index.html", found=found, years=years(session()), year=year)


@recap.get("/purchase/<day>")
def purchase(day: str) -> str:
    """Show what was bought on one day: its closed boxes, and what of it is still sealed or half open."""
    try:
        when = date.fromisoformat(day)
    except ValueError as exc:
        message = f"“{day}” is no day. Follow a day of the recaps."
        raise NotFoundError(message) from exc
    found = period(session(), bench(), day, closed_boxes(session(), bought_on=when))
    return render_template(
        "recap/index.html", found=found, years=years(session()), bought=when, others=not_closed(session(), when)
    )


@recap.get("/compare")
def compare() -> str | AnyResponse:
    """Put boxes side by side, line by line."""
    ids = [int(text) for text in request.args.getlist("box") if text.isdecimal()][:6]
    boxes = closed_boxes(session(), ids=ids) if ids else []
    if len(boxes) < 2:
        flash("Tick two boxes or more, up to six, then compare.")
        return redirect(url_for("recap.index"))
    found = period(session(), bench(), "Side by side", boxes)
    counts = [(row, told(session(), bench(), get_box(session(), row.box.id))) for row in found.rows]
    names: dict[tuple[str, str, str], None] = {}
    for _, one in counts:
        names |= dict.fromkeys(one.lines if one else {})
    return render_template("recap/compare.html", found=found, counts=counts, lines=sorted(names))
