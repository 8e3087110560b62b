"""Correct what is logged: a card in its place, a pack's facts, how the box is logged."""

from __future__ import annotations

import json
from dataclasses import replace

from flask import Blueprint, render_template, request
from werkzeug.wrappers import Response

from botin.core.catalog.product import Card
from botin.core.errors import EntryError
from botin.core.opening.entryitems import Problem
from botin.desk.opening import editing as ripedit
from botin.store.models import BoxRecord
from botin.store.opening.boxes import get_box
from botin.web.requests import bench, is_fragment, session
from botin.web.rip.answer import Answer, done, in_range, key_of, show, view_of
from botin.web.rip.view import editing

edit = Blueprint("edit", __name__, template_folder="templates", url_prefix="/rip")


def _form(box: BoxRecord, pull_id: int, typed: str = "", problems: tuple[Problem, ...] = ()) -> str:
    pull = ripedit.get_pull(session(), box, pull_id)
    view = view_of(box, pull.pack)
    found = editing(session(), view, pull_id, problems)
    if typed:
        found = replace(found, typed=typed)
    view = replace(view, editing=found)
    if is_fragment():
        return render_template("rip/_card.html", view=view) if request.method == "GET" else show(view)
    return render_template("rip/card.html", view=view)


@edit.get("/<int:box_id>/card/<int:pull_id>")
def card(box_id: int, pull_id: int) -> str:
    """Show one logged card to correct, settle or take out."""
    return _form(get_box(session(), box_id), pull_id)


@edit.post("/<int:box_id>/card/<int:pull_id>")
def correct(box_id: int, pull_id: int) -> Answer:
    """Put a line in the place of a logged card."""
    box = get_box(session(), box_id)
    pull = ripedit.get_pull(session(), box, pull_id)
    typed, pack = request.form.get("entry", ""), request.form.get("pack", pull.pack, type=int)
    problems = ripedit.edit_pull(session(), bench(), box, pull, typed, pack=pack, client_key=key_of("client_key"))
    if problems:
        return _form(box, pull_id, typed, problems), 422
    return done(box, pull.pack, "Corrected.")


@edit.post("/<int:box_id>/card/<int:pull_id>/remove")
def remove(box_id: int, pull_id: int) -> Answer:
    """Take a logged card out."""
    box = get_box(session(), box_id)
    pack = ripedit.get_pull(session(), box, pull_id).pack
    ripedit.remove_pull(session(), bench(), box, pull_id, key_of("client_key"))
    return done(box, pack, "Taken out; Ctrl+Z brings it back.")


@edit.post("/<int:box_id>/card/<int:pull_id>/settle")
def settle(box_id: int, pull_id: int) -> Answer:
    """Settle what a card is."""
    box = get_box(session(), box_id)
    pull = ripedit.get_pull(session(), box, pull_id)
    try:
        ripedit.settle(session(), bench(), box, pull, _version(), key_of("client_key"))
    except EntryError as exc:
        return _form(box, pull_id, problems=(Problem("", exc.message),)), 422
    return done(box, pull.pack, "Settled.")


def _version() -> tuple[str, str, str]:
    """Return section, number and finish that a button names; what is no such thing names nothing."""
    try:
        section, number, parallel = json.loads(request.form.get("is", ""))
    except ValueError:
        return "", "", ""
    return str(section), str(number), str(parallel)


@edit.post("/<int:box_id>/card/<int:pull_id>/list")
def add_to_list(box_id: int, pull_id: int) -> Answer:
    """Put an unlisted card onto the checklist."""
    box = get_box(session(), box_id)
    pull = ripedit.get_pull(session(), box, pull_id)
    section, number, name, team, finish = (
        request.form.get(cell, "").strip()[:120] for cell in ("section", "number", "name", "team", "finish")
    )
    try:
        ripedit.add_to_checklist(
            session(), bench(), box, pull, Card(section, number, name, team), key_of("client_key"), finish
        )
    except EntryError as exc:
        return _form(box, pull_id, problems=(Problem("", exc.message),)), 422
    return done(box, pull.pack, "It is on the checklist now.")


@edit.post("/<int:box_id>/facts")
def facts(box_id: int) -> Answer:
    """Write down what is odd about the pack in hand, whose it is, what product it is of."""
    box = get_box(session(), box_id)
    number = in_range(box, request.form.get("pack", box.pack, type=int))
    product = request.form.get("product", 0, type=int)
    known = {key for key, _ in ripedit.other_products(session(), box)}
    after: dict[str, object] = {
        "flags": ";".join(flag for flag in ripedit.FLAGS if flag in request.form.getlist("flag")),
        "owner": request.form.get("owner", "").strip()[:40],
        "note": request.form.get("note", "").strip()[:300],
        "product_id": product if product in known and product != box.format.product_id else None,
    }
    ripedit.set_pack(session(), bench(), box, number, after=after, client_key=key_of("client_key"))
    return done(box, number, "Noted.")


@edit.post("/<int:box_id>/how")
def how(box_id: int) -> Answer | Response:
    """Change how the box is logged."""
    box = get_box(session(), box_id)
    after: dict[str, object] = {
        "mode": "hits" if request.form.get("mode") == "hits" else "all",
        "stacked": request.form.get("stacked") == "yes",
        "case_label": request.form.get("case_label", "").strip()[:40],
        "owners": request.form.get("owners", "").strip()[:4000],
    }
    ripedit.set_box(session(), bench(), box, after=after, client_key=key_of("client_key"))
    return done(box, box.pack, "Noted.")
