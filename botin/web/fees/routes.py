"""What selling and grading cost, the limits of houses, rates of exchange: tables written down from a day on."""

from __future__ import annotations

import json
import tempfile
from datetime import date
from pathlib import Path

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, ImportRefusedError
from botin.desk.fees import (
    GRADING,
    LIMITS,
    NUMBERS,
    SELLING,
    TABLES_OF,
    cells_of,
    fees_document,
    grading_fees,
    limits_kept,
    save_fees,
    selling_fees,
    take_fees,
)
from botin.desk.pricing.rates import latest_rates, save_rates
from botin.exchange.selling.feerows import TABLES
from botin.exchange.selling.fees import read_fees
from botin.exchange.selling.feestext import (
    CHANNEL_CELLS,
    LIMIT_CELLS,
    POSTAGE_CELLS,
    RATE_CELLS,
    RETURN_CELLS,
    TIER_CELLS,
)
from botin.store.fees import versions
from botin.web.fees.forms import FeesForm, typed_cells, typed_table
from botin.web.requests import bench, session

fees = Blueprint("fees", __name__, template_folder="templates", url_prefix="/fees")
CELLS = {
    "channels": CHANNEL_CELLS,
    "postage_steps": POSTAGE_CELLS,
    "tiers": TIER_CELLS,
    "returns": RETURN_CELLS,
    "limits": LIMIT_CELLS,
    "rates": RATE_CELLS,
}
SPARE = 2
"""Empty rows below a table, to write on."""


@fees.get("/")
def index() -> str:
    """Show all tables as they are in force on a day, today if none is given."""
    return _page()


def _page(error: str = "", of: str = "") -> str:
    day = _day(request.args.get("on", "")) or bench().today()
    selling, grading, limits = (
        selling_fees(session(), day),
        grading_fees(session(), day),
        limits_kept(session(), day),
    )
    rows = {**selling.tables, "tiers": grading.tiers, "returns": grading.returns, **limits.tables}
    shown = {name: cells_of(name, rows[name]) for name in TABLES}
    if error and of in TABLES_OF:
        shown |= {name: typed_cells(name) for name in TABLES_OF[of]}
    return render_template(
        "fees/index.html",
        selling=selling,
        terms=grading,
        limits=limits,
        shown=shown,
        columns=TABLES,
        spare=SPARE,
        numbers={name: getattr(grading.costs, name) for name in NUMBERS},
        rates=latest_rates(session()),
        versions={kind: versions(session(), kind) for kind in (SELLING, GRADING, LIMITS)},
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


@fees.get("/fees.json")
def document() -> Response:
    """Give all fees in force on a day as one file."""
    day = _day(request.args.get("on", "")) or bench().today()
    text = json.dumps(fees_document(session(), day), indent=1, ensure_ascii=False)
    named = {"Content-Disposition": f'attachment; filename="fees-{day.isoformat()}.json"'}
    return Response(text + "\n", mimetype="application/json", headers=named)


@fees.post("/<kind>")
def keep(kind: str) -> str | Response | tuple[str, int]:
    """Keep a table from a day on; what cannot be read is handed back as it was typed."""
    try:
        words = _save(kind)
    except BotinError as exc:
        session().rollback()
        return _page(exc.message, kind), 422
    flash(words)
    return redirect(url_for("fees.index", _anchor=f"{kind}-head"), 303)


def _save(kind: str) -> str:
    form = FeesForm()
    if kind == "rates":
        count = save_rates(session(), form.rates.text, bench().today())
        return f"{count} rate{'' if count == 1 else 's'} written down."
    since = form.valid_from.or_today()
    if kind == "file":
        return _take_file(since)
    if kind not in TABLES_OF:
        message = "There is no such table. Go back to the fees."
        raise BotinError(message)
    numbers = form.numbers() if kind == GRADING else {}
    save_fees(session(), kind, since, {name: typed_table(name) for name in TABLES_OF[kind]}, numbers)
    return "Kept from that day on; what was written down before stays. The flags are worked out anew when you ask."


def _take_file(since: date) -> str:
    """Keep the fees of a file that was given, and name what of it was not used."""
    given = request.files.get("file")
    if given is None or not given.filename:
        message = "Choose a fees.json first."
        raise ImportRefusedError(message)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "fees.json"
        given.save(path)
        try:
            found = read_fees(path, for_home=True)
        except BotinError as exc:
            raise ImportRefusedError(exc.message.replace(str(path), "The file")) from exc
    taken = [kind for kind in TABLES_OF if kind in found.parts]
    if not taken:
        message = "Nothing was kept: the file has no selling, grading or limits in it. See docs/fees.md."
        raise ImportRefusedError(message)
    if GRADING in taken and not found.grading.tiers:
        message = "Nothing was kept: grading needs its tiers, each with a name and a fee."
        raise ImportRefusedError(message)
    take_fees(session(), since, found)
    unused = "; ".join(f"{one.where}: {one.text} ({one.why})" for one in found.unused[:8])
    words = f"Taken in from that day on: {', '.join(taken)}."
    words += " Your hour, the bulk line and the minutes of a look stay in the settings."
    return f"{words} Not used: {unused}." if unused else words
