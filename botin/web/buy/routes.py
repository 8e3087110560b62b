"""The buy desk: one screen before money is spent."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.buying.scorecard import PRICE_SCHOOLS
from botin.core.errors import BotinError
from botin.core.insight.measured import ENOUGH_BOXES
from botin.core.odds.collation import Repeats
from botin.core.pricing.prices import PriceRow
from botin.core.pricing.simulate import simulate
from botin.desk.boxlogs import box_logs
from botin.desk.buying import decisions as desk
from botin.desk.buying.answer import BuyPage, buy_page
from botin.desk.buying.prepared import prepared
from botin.desk.buying.question import Question
from botin.desk.fees import sale_costs
from botin.desk.odds.learning import measured_repeats
from botin.desk.pricing.rates import rate_on
from botin.desk.pricing.sealedprices import sealed_prices
from botin.desk.settings import load_settings
from botin.store.buying import products_to_buy, seen_list
from botin.store.models import ProductRecord
from botin.store.pricing.prices import add_prices
from botin.store.unit import finish
from botin.web.buy.forms import DecideForm, SeenForm, UsualForm
from botin.web.buy.picture import hundred_picture, value_picture
from botin.web.buy.typed import Typed, note_field, score_field, typed_question
from botin.web.requests import bench, is_fragment, new_key, session
from botin.web.words import minor

buy = Blueprint("buy", __name__, template_folder="templates", url_prefix="/buy")


@buy.get("/")
def index() -> str:
    """Pick a product; earlier decisions and what came of them."""
    found = desk.decisions(session(), bench())
    return render_template("buy/index.html", products=products_to_buy(session()), decisions=found)


@buy.get("/<int:product_id>")
def ask(product_id: int) -> str | Response:
    """Answer the question of the address; htmx asks for the answer alone."""
    record = bench().record(session(), product_id)
    if not record.formats:
        flash(f"{record.name} has no format yet. Add its formats in the library.")
        return redirect(url_for("library.product", product_id=record.id))
    typed, page = _page(record)
    return _answer(typed, page)


def _page(record: ProductRecord) -> tuple[Typed, BuyPage]:
    typed, question = _asked(record)
    return typed, buy_page(session(), bench(), record, question)


def _asked(record: ProductRecord) -> tuple[Typed, Question]:
    """Read the question of the address; what was typed is kept."""
    values = request.args
    product, settings = bench().product(session(), record), load_settings(session())
    return typed_question(
        values, product, settings, _measured(record, values), _rates(record), _boxes(record, values)
    )


def _boxes(record: ProductRecord, values: Mapping[str, str]) -> int:
    """Closed boxes of the format asked about."""
    fmt = values.get("format") or record.formats[0].key
    return sum(1 for log in box_logs(session(), bench(), record) if log.format == fmt)


def _rates(record: ProductRecord) -> Callable[[str], float]:
    return lambda code: rate_on(session(), code, record.currency, bench().today())


def _measured(record: ProductRecord, values: Mapping[str, str]) -> Repeats | None:
    """What the logged boxes of the format say about repeats."""
    fmt = values.get("format") or record.formats[0].key
    return measured_repeats(session(), bench(), record, fmt)


def _answer(typed: Typed, page: BuyPage) -> str:
    name = "buy/_answer.html" if is_fragment() else "buy/desk.html"
    return render_template(
        name,
        typed=typed,
        page=page,
        picture=value_picture(page.curve, page.evidence.cost, page.mine),
        asked=dict(request.args),
        client_key=new_key(),
        seen=seen_list(session(), page.record),
        score_field=score_field,
        price_schools=PRICE_SCHOOLS,
        note_field=note_field,
        measured=_measured(page.record, request.args),
        logged=_boxes(page.record, request.args),
        enough=ENOUGH_BOXES,
        sealed=[row for row in sealed_prices(session(), bench(), page.record) if row.format == page.format.key],
        costs=sale_costs(session(), bench().today(), page.settings),
    )


@buy.get("/<int:product_id>/hundred")
def hundred(product_id: int) -> str:
    """Open a hundred boxes by simulation; the seed is in the address, so that the same row can be seen again."""
    record = bench().record(session(), product_id)
    settings = load_settings(session())
    _, question = _asked(record)
    ready = prepared(session(), bench(), record, question.how(), settings)
    seed = request.args.get("seed", 1, int)
    values = simulate(ready.box, 100, np.random.default_rng(seed))
    row = hundred_picture(values, question.price.total, seed)
    return render_template(
        "buy/_hundred.html", row=row, currency=record.currency, record=record, asked=dict(request.args)
    )


@buy.post("/<int:product_id>/price")
def price(product_id: int) -> Response:
    """Take a usual price for a whole line: the few that matter settle the answer."""
    record = bench().record(session(), product_id)
    form = UsualForm()
    section, parallel = form.section.text, form.parallel.text
    try:
        amount = form.amount.given(record.currency)
    except BotinError as exc:
        flash(exc.message)
    else:
        row = PriceRow(
            section=section,
            number="",
            parallel=parallel,
            grade="",
            amount=amount.major,
            sold_on=bench().today(),
            source="typed at the buy desk",
        )
        add_prices(session(), record, [row])
        finish(session())
        flash(f"Noted: {section} {parallel or 'plain'} usually sells for {amount.major:,.2f}.")
    return _back(product_id)


@buy.post("/<int:product_id>/seen")
def seen(product_id: int) -> Response:
    """Note a numbered copy that someone else pulled, or take the note back."""
    record = bench().record(session(), product_id)
    form = SeenForm()
    if form.forget.text:
        desk.forget_seen(session(), record, form.forget.row_id())
        return _back(product_id)
    try:
        version, serial = form.seen()
        desk.mark_seen(session(), bench(), record, version, serial, form.note.text)
    except BotinError as exc:
        flash(f"{exc.message} A pulled copy is written like base:12:copper 7, with its serial.")
    else:
        flash(f"Noted: {':'.join(filter(None, version))} number {serial} cannot come any more.")
    return _back(product_id)


@buy.post("/<int:product_id>/decide")
def decide(product_id: int) -> Response:
    """Keep a decision with its figures."""
    record = bench().record(session(), product_id)
    typed, question = _asked(record)
    if typed.no_cost:
        flash("Type what the box costs first: nothing was kept.")
        return _back(product_id)
    page = buy_page(session(), bench(), record, question)
    form = DecideForm()
    made = desk.save_decision(session(), bench(), page, form.client_key.text, form.choice.text, form.note.text)
    flash(f"Kept: {made.choice}, at {minor(made.price_minor, made.currency)}. It will be held against what happens.")
    return redirect(url_for("buy.index", _anchor=f"decision-{made.id}"), 303)


def _back(product_id: int) -> Response:
    asked: dict[str, Any] = request.args.to_dict()
    return redirect(url_for("buy.ask", product_id=product_id, **asked), 303)
