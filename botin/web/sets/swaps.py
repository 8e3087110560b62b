"""Swaps against the needs of a set: another's lists held against mine, a fair choice, and the swap noted."""

from __future__ import annotations

from flask import flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, NotFoundError
from botin.desk.copies.setboard import board, named_sets
from botin.desk.copies.swapping import keep_swap, said, spares_of, swap_table
from botin.desk.settings import load_settings
from botin.web.requests import bench, keep_typed, new_key, session
from botin.web.sets.forms import SwapForm
from botin.web.sets.routes import asked_parts, sets


@sets.get("/swap")
def swaps() -> str:
    """Hold what another has and looks for against my needs and spares."""
    parts = asked_parts()
    mine = board(session(), bench(), parts, request.args.get("name", ""))
    texts = {name: request.args.get(name, "")[:20_000] for name in ("wants", "has")}
    wants, has = (said(session(), bench(), mine, texts[name]) for name in ("wants", "has"))
    return render_template(
        "sets/swap.html", board=mine, parts=[f"{number}:{section}" for number, section in parts], texts=texts,
        table=swap_table(mine, spares_of(session(), mine), wants, has), has=has, client_key=new_key(),
        today=bench().today(), named=named_sets(session(), load_settings(session())),
    )  # fmt: skip


@sets.post("/swap")
def swapped() -> Response:
    """Note a swap as it was agreed."""
    parts, form = asked_parts(), SwapForm()
    mine = board(session(), bench(), parts, request.args.get("name", ""))
    back = url_for("sets.swaps", part=[f"{number}:{section}" for number, section in parts])
    try:
        count = keep_swap(session(), bench(), form.client_key.text, mine, form.agreed(mine.currency))
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(f"Nothing was stored. {exc.message}")
        return redirect(f"{back}&typed={keep_typed()}", 303)
    flash(f"Swapped: {count} came in. It is taken back on the page of any of these cards.")
    return redirect(back, 303)
