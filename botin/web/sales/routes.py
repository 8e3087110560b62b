"""The selling desk: what to sell where and when, what is offered, what is on its road, and what sales left."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence

from flask import Blueprint, Response, current_app, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from botin.core.errors import BotinError, NotFoundError
from botin.core.money import Money
from botin.core.selling.road import Stop
from botin.desk.fees import sale_costs
from botin.desk.grading.simulated import play as play_house
from botin.desk.insight.flagresults import brought_in_all, kept_cards, sold_by_flag
from botin.desk.insight.salesresults import sales_of, sales_results
from botin.desk.opening.sealed import read_check
from botin.desk.selling.describing import description_for, description_of_goods
from botin.desk.selling.giving import give_away, not_given
from botin.desk.selling.listings import (
    LONGEST_TITLE,
    change_ask,
    end_listing,
    listings,
    note_offer,
    offer_for_sale,
    refuse_offer,
    title_for,
)
from botin.desk.selling.salepage import SalePage, sale_pages, under_way
from botin.desk.selling.salesfile import SEALED, import_sales
from botin.desk.selling.sealedgoods import SealedGoods, sealed_goods
from botin.desk.selling.selling import Sold, note_sale
from botin.desk.selling.simulated import fee_on, forecast_of, play
from botin.desk.selling.whattosell import best_way, to_sell, worth_of, worth_of_goods
from botin.desk.selling.whattosell import commons as lots_and_rest
from botin.exchange.loosetable import ColumnsUnclearError
from botin.store.opening.boxes import get_box
from botin.store.selling.sales import SoldCopy, copies_with_cards, get_listing, given_lately, listed_copies, sales
from botin.web.askcolumns import ask, given_file, keep_told
from botin.web.forms import DaysForm
from botin.web.requests import bench, keep_typed, new_key, session
from botin.web.sales.forms import GivenForm, ListingForm, OfferForm, SaleForm

sales_desk = Blueprint("sales", __name__, template_folder="templates", url_prefix="/sales")
DAYS_AT_ONCE = 60
DONE_SHOWN = 30
SAID = 20
"""Happenings of simulated days that are said one by one."""
COLUMNS = (
    "sale", "sold_on", "channel", "product", "section", "number", "name", "parallel", "serial", "grade", "price",
    "fee",
    "currency", "sale_refunds", "sale_postage", "sale_net", "state",
)  # fmt: skip
"""Of ``sales.csv``, one row a copy; what belongs to the whole sale stands in each of its rows."""


@sales_desk.get("/")
def index() -> str:
    """Show what to sell, what is offered, and what is on its road."""
    today = bench().today()
    rows = [one for one in sales(session(), DONE_SHOWN + 200) if one.over or one.state == Stop.DONE]
    return render_template(
        "sales/index.html", tosell=to_sell(session(), bench(), 20), offered=listings(session(), today),
        road=under_way(session()), over=sale_pages(session(), rows[:DONE_SHOWN]), today=today, client_key=new_key(),
    )  # fmt: skip


@sales_desk.get("/lots")
def commons() -> str:
    """Propose lots of commons, compared with selling them singly, and what is better given away."""
    return render_template(
        "sales/lots.html", found=lots_and_rest(session(), bench()), client_key=new_key(), today=bench().today(),
        given=given_lately(session()),
    )  # fmt: skip


@sales_desk.post("/given")
def given() -> AnyResponse:
    """Note that commons were given away together; or take that back."""
    form = GivenForm()
    try:
        if form.back.text:
            count = not_given(session(), bench(), form.back.text)
            flash(f"Taken back: {count} cards are here again.")
        else:
            key = f"give-{form.client_key.text}"
            count = give_away(session(), bench(), key, form.ids(), form.to.text, form.day.or_today())
            flash(f"Given away: {count} card{'' if count == 1 else 's'}.")
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
    return redirect(url_for("sales.commons", _anchor="away-head"), 303)


def _asked_for() -> list[SoldCopy]:
    """Copies that the address names, in its order."""
    texts = request.args.getlist("copy") or request.args.get("copies", "").split(",")
    ids = [int(text) for text in texts if text.isascii() and text.isdecimal() and len(text) < 19]
    cards = copies_with_cards(session(), ids)
    found = [cards[one] for one in dict.fromkeys(ids) if one in cards]
    if not found:
        message = "Tick a card first: nothing is chosen."
        raise NotFoundError(message)
    return found


@sales_desk.get("/offer")
def offer() -> str:
    """Prepare a listing: channel, ask and floor, and words made ready to copy."""
    box = request.args.get("box", 0, int)
    if box:
        return _offer_goods(sealed_goods(session(), box))
    copies = _asked_for()
    worth = sum(worth_of(session(), bench(), copies).values())
    title, words = title_for(copies), description_for(session(), copies)
    return _offer_page(worth, title, words, copies[0].product.currency, copies=copies)


def _offer_goods(goods: SealedGoods) -> str:
    worth = worth_of_goods(session(), bench(), goods)
    seal = read_check(goods.box).opinion.verdict if goods.box.sealed_check else ""
    words = description_of_goods(goods, seal)
    return _offer_page(worth, goods.words[:LONGEST_TITLE], words, goods.box.currency, goods=goods)


def _offer_page(
    worth: float, title: str, words: str, currency: str, *, copies: Sequence[SoldCopy] = (),
    goods: SealedGoods | None = None,
) -> str:  # fmt: skip
    costs = sale_costs(session(), bench().today())
    way = best_way(costs, worth)
    return render_template(
        "sales/offer.html", copies=copies, goods=goods, worth=worth, ways=costs.ways, today=bench().today(),
        title=title, words=words, client_key=new_key(), currency=currency,
        selling=request.args.get("sold") == "1", best=way.name if way else "",
    )  # fmt: skip


@sales_desk.post("/offer")
def offered() -> AnyResponse:
    """Keep a listing, or a sale that was made without one."""
    form = OfferForm()
    copies = tuple(form.copy.ids("copy:"))
    cards, box = copies_with_cards(session(), list(copies)), form.box.row_id()
    code = get_box(session(), box).currency if box else next((one.product.currency for one in cards.values()), "EUR")
    named = {"box": box} if box else {"copies": ",".join(map(str, copies))}
    back = url_for("sales.offer", **named, sold=form.sold.text or None)
    try:
        if form.sold.text == "1":
            return _note(list(cards.values()), code, box)
        offer_for_sale(session(), bench(), form.client_key.text, form.offering(copies, code))
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
        return redirect(f"{back}&typed={keep_typed()}", 303)
    flash("It is offered: it stays here until it is sold.")
    return redirect(url_for("sales.index", _anchor="offered-head"), 303)


def _note(copies: list[SoldCopy], code: str, box: int = 0) -> AnyResponse:
    form = SaleForm()
    values = worth_of(session(), bench(), copies)
    price, channel = form.ask.money(code), form.channel.text
    fee = form.fee.money(code) if form.fee.word else fee_on(session(), bench(), channel, price)
    by_hand = any(way.name == channel and not way.sent for way in sale_costs(session(), bench().today()).ways)
    sold = Sold(
        channel=channel, buyer=form.buyer.text, day=form.day.or_today(), price=price,
        shipping=form.shipping.money(code), fee=fee, copies=tuple(one.copy.id for one in copies),
        address=form.address.text, listing=form.listing.row_id(), by_hand=by_hand, weights=values, box=box,
        forecast=forecast_of(session(), bench(), values, price, channel, box),
    )  # fmt: skip
    sale = note_sale(session(), bench(), form.client_key.text, sold)
    flash(f"Sale {sale.id} is noted.")
    return redirect(url_for("sales.sale", sale_id=sale.id), 303)


@sales_desk.post("/listings/<int:listing_id>")
def listing(listing_id: int) -> AnyResponse:
    """Change a listing, end it, note an offer, or note that it sold."""
    form, row = ListingForm(), get_listing(session(), listing_id)
    try:
        if form.sold.text:
            ids = listed_copies(session(), [listing_id])[listing_id]
            return _note(list(copies_with_cards(session(), ids).values()), row.currency, row.box_id or 0)
        if form.end.text:
            end_listing(session(), bench(), listing_id)
            flash("Taken off: its cards are here as before.")
        elif form.refuse.text:
            refuse_offer(session(), form.refuse.row_id())
            flash("Refused.")
        elif form.offer.word:
            amount = form.offer.money(row.currency)
            note_offer(session(), bench(), form.client_key.text, listing_id, amount, form.by.text)
            flash("The offer is noted.")
        else:
            change_ask(session(), listing_id, form.ask.money(row.currency), form.floor.money(row.currency))
            flash("Asked from now on.")
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was changed. {exc.message}")
    return redirect(url_for("sales.index", typed=keep_typed(), _anchor="offered-head"), 303)


@sales_desk.post("/days")
def days() -> AnyResponse:
    """Let days pass in the demo: the simulated market and house do their work."""
    if not current_app.config["DEMO"]:
        message = "Days can be let pass in the demo only."
        raise NotFoundError(message)
    form, happened = DaysForm(), list[str]()
    for _ in range(form.count(DAYS_AT_ONCE)):
        bench().let_pass(1)
        happened += play(session(), bench()) + play_house(session(), bench())
    more = f" And {len(happened) - SAID} things more: see the road of each." if len(happened) > SAID else ""
    told = " ".join(happened[:SAID]) or "Nothing happened."
    flash(f"It is {bench().today():%d %B %Y} in the demo. {told}{more}")
    back = form.sale.row_id()
    return redirect(url_for("sales.sale", sale_id=back) if back else url_for("sales.index"), 303)


@sales_desk.get("/results")
def results() -> str:
    """Show what sales left, of all years or one, and whether the flags were right."""
    year = request.args.get("year", 0, int)
    found = sales_results(session(), year, request.args.get("currency", ""))
    kept = kept_cards(session())
    return render_template(
        "sales/results.html", found=found, year=year, today=bench().today(), kept=kept, brought=brought_in_all(kept),
        flagged=sold_by_flag(session(), bench(), found.rows),
    )  # fmt: skip


@sales_desk.post("/results")
def taken_in() -> AnyResponse | tuple[str, int]:
    """Take in sales from a table: all rows or none."""
    name, data = given_file()
    try:
        keep_told()
        found = import_sales(session(), bench(), data, name)
    except ColumnsUnclearError as exc:
        session().rollback()
        return ask(exc, url_for("sales.taken_in"), name, data)
    except BotinError as exc:
        session().rollback()
        flash(exc.message)
        return redirect(url_for("sales.results", _anchor="file-head"), 303)
    unused = f" Columns nobody used: {', '.join(found.unused)}." if found.unused else ""
    again = f" {found.here} were here already." if found.here else ""
    flash(f"{found.came} sale{'' if found.came == 1 else 's'} taken in.{again}{unused}")
    return redirect(url_for("sales.results"), 303)


@sales_desk.get("/sales.csv")
def table() -> Response:
    """Give the sales of a year (or all) as a table, one row a copy: for the tax, and to take along."""
    year = request.args.get("year", 0, int)
    out = io.StringIO()
    write = csv.writer(out)
    write.writerow(COLUMNS)
    for page in sale_pages(session(), sales_of(session(), year)):
        for what, price, fee in _table_lines(page):
            write.writerow(_table_row(page, what, price, fee))
    named = {"Content-Disposition": f'attachment; filename="sales{f"-{year}" if year else ""}.csv"'}
    return Response(out.getvalue(), mimetype="text/csv", headers=named)


What = tuple[str, str, str, str, str, str, str]
"""Product, section, number, name, finish, serial and grade of a line of the table."""


def _table_lines(page: SalePage) -> Iterator[tuple[What, int, int]]:
    """Each thing of a sale with its price and fee (minor units): its copies, or the sealed box."""
    at = page.record
    if page.box is not None:
        fmt = page.box.format
        yield (fmt.product.key, SEALED, "", page.box.label, fmt.key, "", ""), at.price_minor, at.fee_minor
    cards = {one.copy.id: one for one in page.copies}
    for line in page.lines:
        one = cards[line.copy_id]
        what = (
            one.product.key,
            one.section,
            one.card.number,
            one.card.name,
            one.copy.parallel,
            one.serial,
            one.copy.grade,
        )
        yield what, line.price_minor, line.fee_minor


def _table_row(page: SalePage, what: What, price: int, fee: int) -> tuple[object, ...]:
    at = page.record
    money = (_major(price, page), _major(fee, page), at.currency)
    whole = (_major(page.refunds, page), _major(page.postage, page), _major(page.net, page))
    told = (at.id, at.sold_on, _plain(at.channel), *map(_plain, what))
    return (*told, *money, *whole, at.over or at.state)


def _plain(text: str) -> str:
    """Return a cell that no spreadsheet runs."""
    return f"'{text}" if text[:1] in "=+-@" and text else text


def _major(minor: int, page: SalePage) -> str:
    return f"{Money(minor, page.record.currency).major:.2f}"
