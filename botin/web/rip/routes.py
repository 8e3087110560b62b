"""The rip desk: open pack by pack, log each card."""

from __future__ import annotations

import re
from collections.abc import Callable

from flask import Blueprint, flash, jsonify, redirect, render_template, request, url_for
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, EntryError, StaleFormError
from botin.core.opening.entryitems import Problem
from botin.desk.opening import rip as desk_rip
from botin.desk.opening import steps
from botin.desk.opening.boxedit import before_closing
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord, StepRecord
from botin.store.opening.boxes import boxes_by_state, get_box
from botin.store.opening.packs import product_of_pack
from botin.store.opening.steps import version
from botin.store.unit import finish
from botin.web.offshelf import off_shelf
from botin.web.requests import bench, is_fragment, session
from botin.web.rip.answer import Answer, done, in_range, refuse, show, view_of
from botin.web.rip.forms import CloseForm, EntryForm, PackForm, TurnForm
from botin.web.rip.index import card_index
from botin.web.rip.view import counted_words

rip = Blueprint("rip", __name__, template_folder="templates", url_prefix="/rip")
rip.add_app_template_filter(counted_words)
Turn = Callable[[Session, Workbench, BoxRecord, str, str], StepRecord | None]
_COUNTED = re.compile(r"=\s*(\d{1,3})")


@rip.get("/")
def index() -> Answer:
    """Go to the open box, or list them."""
    rows = boxes_by_state(session(), "open")
    if len(rows) == 1:
        return redirect(url_for("rip.desk", box_id=rows[0][0].id))
    return render_template("rip/index.html", rows=rows)


@rip.get("/<int:box_id>")
def desk(box_id: int) -> Answer:
    """Show the desk for one box, at the pack asked for or the one in hand."""
    box = get_box(session(), box_id)
    if (gone := off_shelf(box)) is not None:
        return gone
    if box.state == "closed":
        return redirect(url_for("recap.box", box_id=box_id))
    if box.state == "sealed":
        flash("This box is still sealed. Open it here first.")
        return redirect(url_for("shelf.index", _anchor=f"box-{box_id}"))
    return show(view_of(box, request.args.get("pack", box.pack, type=int)))


@rip.get("/<int:box_id>/pulse")
def pulse(box_id: int) -> Answer | Response:
    """Tell another window whether something was logged meanwhile: nothing, or the desk as it is now."""
    box = get_box(session(), box_id)
    if box.state == "closed":
        return Response(status=200, headers={"X-Closed": "yes"})
    if version(session(), box_id) == request.args.get("v"):
        return Response(status=204)
    return show(view_of(box, request.args.get("pack", box.pack, type=int)))


@rip.get("/<int:box_id>/index.json")
def candidates(box_id: int) -> Response:
    """Send the checklist for the entry line's candidates, once per revision."""
    box = get_box(session(), box_id)
    record = product_of_pack(session(), box, request.args.get("pack", 1, type=int))
    answer = jsonify(card_index(bench().product(session(), record)))
    answer.headers["Cache-Control"] = "private, max-age=86400"
    return answer


@rip.post("/<int:box_id>/log")
def log(box_id: int) -> Answer:
    """Log what was typed; an empty line takes the next pack, ``=6`` counts base cards."""
    box = get_box(session(), box_id)
    form = EntryForm()
    pack, typed, key = in_range(box, form.pack.lenient(box.pack)), form.entry.text, form.key
    if not typed.strip():
        return _turn(box, pack + 1 if pack else box.pack)
    counted = _COUNTED.fullmatch(typed.strip())
    try:
        if counted:
            count = int(counted[1])
            desk_rip.set_base_count(session(), bench(), box, pack=pack, count=count, client_key=key)
            finish(session())
            return done(box, pack, f"{count} base cards counted in pack {pack}.")
        entry = desk_rip.read_entry(session(), bench(), box, typed, pack, key)
        if entry.problems:
            return refuse(box, pack, typed, entry.problems)
        logged = desk_rip.log_entry(session(), bench(), box, items=entry.items, pack=pack, client_key=key)
    except (EntryError, StaleFormError) as exc:
        return refuse(box, pack, typed, (Problem("", exc.message),))
    except BotinError as exc:
        return refuse(box, pack, typed, (Problem("", exc.message),), exc.status)
    again = logged.repeated and not is_fragment()
    said = "That line was logged already; nothing was stored twice." if again else ""
    return done(box, pack, said)


@rip.post("/<int:box_id>/undo")
def undo(box_id: int) -> Answer:
    """Take the last step back."""
    return _turned(box_id, steps.undo, "Taken back", "There is nothing to take back.")


@rip.post("/<int:box_id>/redo")
def redo(box_id: int) -> Answer:
    """Bring back what was taken back last."""
    return _turned(box_id, steps.redo, "Back again", "There is nothing to bring back.")


def _turned(box_id: int, turn: Turn, words: str, nothing: str) -> Answer:
    """Turn a step; what another window changed meanwhile is shown first."""
    box = get_box(session(), box_id)
    form = TurnForm()
    try:
        step = turn(session(), bench(), box, form.turn_key.text, form.seen.text)
    except StaleFormError as exc:
        answer = done(box, box.pack, exc.message)
        return (answer, exc.status) if isinstance(answer, str) else answer
    return done(box, box.pack, f"{words}: {step.words}." if step else nothing)


@rip.post("/<int:box_id>/pack")
def pack(box_id: int) -> Answer:
    """Take another pack in hand."""
    box = get_box(session(), box_id)
    return _turn(box, PackForm().to.lenient(box.pack))


@rip.post("/<int:box_id>/close")
def close(box_id: int) -> Answer:
    """Close the box and read its recap."""
    box = get_box(session(), box_id)
    form = CloseForm()
    seen, rest = form.seen.lenient(-1), form.rest.text
    asked = before_closing(session(), bench(), box) if box.state == "open" and not form.anyway.text else ()
    if asked:
        return render_template("rip/closing.html", box=box, asked=asked, seen=seen, rest=rest), 409
    desk_rip.close_box(session(), bench(), box, seen, rest)
    return redirect(url_for("recap.box", box_id=box_id), 303)


@rip.post("/<int:box_id>/reopen")
def reopen(box_id: int) -> Answer:
    """Open a closed box again."""
    desk_rip.reopen_box(session(), bench(), get_box(session(), box_id))
    return redirect(url_for("rip.desk", box_id=box_id), 303)


def _turn(box: BoxRecord, number: int) -> Answer:
    """Go to a pack; past the last one it stays there and says so."""
    last = box.format.packs_per_box
    said = "That was the last pack. Close the box when everything is logged." if number > last else ""
    if number:
        desk_rip.go_to_pack(session(), bench(), box, number)
    return done(box, in_range(box, number), said)


@rip.get("/help")
def grammar() -> str:
    """Show what the entry line understands."""
    return render_template("rip/_help.html" if is_fragment() else "rip/help.html")
