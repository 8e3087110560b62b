"""What selling and grading cost, the limits of houses, rates of exchange: written down from a day on."""

from __future__ import annotations

from datetime import date

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.days import PLANNED, typed_day
from botin.core.errors import BotinError
from botin.desk.fees import (
    GRADING,
    LIMITS,
    SELLING,
    grading_fees,
    limits_text,
    save_terms,
    selling_table,
    versions,
)
from botin.desk.pricing.rates import latest_rates, save_rates
from botin.exchange.selling.feestext import CHANNEL_CELLS, LIMIT_CELLS, POSTAGE_CELLS, RATE_CELLS, TIER_CELLS
from botin.web.requests import bench, session

fees = Blueprint("fees", __name__, template_folder="templates", url_prefix="/fees")
TEXTS = {SELLING: ("channels", "postage"), GRADING: ("tiers",), LIMITS: ("limits",)}
NUMBERS = {GRADING: ("shipping", "together", "membership", "insured", "monthly")}
CELLS = {
    "channels": CHANNEL_CELLS,
    "postage": POSTAGE_CELLS,
    "tiers": TIER_CELLS,
    "limits": LIMIT_CELLS,
    "rates": RATE_CELLS,
}


@fees.get("/")
def index() -> str:
    """Show all tables as they are in force on a day, today if none is given."""
    return _page()


def _page(error: str = "", of: str = "") -> str:
    day = _day(request.args.get("on", "")) or bench().today()
    return render_template(
        "fees/index.html",
        selling=selling_table(session(), day),
        terms=grading_fees(session(), day),
        limits=limits_text(session(), day),
        rates=latest_rates(session()),
        versions={kind: versions(session(), kind) for kind in TEXTS},
        cells=CELLS,
        day=day,
        today=bench().today(),
        typed=request.form if error else {},
        error=error,
        of=of,
    )


def _day(text: str) -> date | None:
    try:
        return date.fromisoformat(text)
    except ValueError:
        return None


@fees.post("/<kind>")
def keep(kind: str) -> str | Response | tuple[str, int]:
    """Keep a table from a day on; what cannot be read is handed back as it was typed."""
    try:
        words = _save(kind)
    except BotinError as exc:
        return _page(exc.message, kind), 422
    except ValueError:
        return _page("Write plain numbers, and the day like 2026-03-14.", kind), 422
    flash(words)
    return redirect(url_for("fees.index", _anchor=f"{kind}-head"), 303)


def _save(kind: str) -> str:
    form = request.form
    if kind == "rates":
        count = save_rates(session(), form.get("rates", ""), bench().today())
        return f"{count} rate{'' if count == 1 else 's'} written down."
    if kind not in TEXTS:
        message = "There is no such table. Go back to the fees."
        raise BotinError(message)
    body: dict[str, object] = {name: form.get(name, "") for name in TEXTS[kind]}
    for name in NUMBERS.get(kind, ()):
        number = float(form.get(name) or 0)
        if not 0 <= number < 1e9:
            raise ValueError(name)
        body[name] = number
    since = typed_day(form.get("valid_from", ""), bench().today(), PLANNED)
    save_terms(session(), kind, since, body)
    return "Kept from that day on; what was written down before stays. The flags are worked out anew when you ask."
