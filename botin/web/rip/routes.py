"""The rip desk: open pack by pack, log each card."""

from __future__ import annotations

from dataclasses import replace

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.entry import Problem
from botin.core.errors import BotinError, EntryError, StaleFormError
from botin.desk import rip as desk_rip
from botin.store.boxes import boxes_by_state, get_box
from botin.store.models import BoxRecord
from botin.web.requests import bench, is_fragment, new_key, session
from botin.web.rip.view import DeskView, desk_view

rip = Blueprint("rip", __name__, template_folder="templates", url_prefix="/rip")
Answer = str | Response | tuple[str, int]


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
    if box.state == "closed":
        return redirect(url_for("recap.box", box_id=box_id))
    if box.state == "sealed":
        flash("This box is still sealed. Open it here first.")
        return redirect(url_for("shelf.index", _anchor=f"box-{box_id}"))
    return _show(_view(box, request.args.get("pack", box.pack, type=int)))


@rip.post("/<int:box_id>/log")
def log(box_id: int) -> Answer:
    """Log what was typed; an empty line takes the next pack."""
    box = get_box(session(), box_id)
    pack = _pack(box, request.form.get("pack", box.pack, type=int))
    typed = request.form.get("entry", "")
    key = request.form.get("client_key", "")[:64] or new_key()
    if not typed.strip():
        return _turn(box, pack + 1 if pack else box.pack)
    try:
        entry = desk_rip.read_entry(session(), bench(), box, typed)
        if entry.problems:
            return _refuse(box, pack, typed, entry.problems)
        logged = desk_rip.log_entry(session(), bench(), box, items=entry.items, pack=pack, client_key=key)
    except (EntryError, StaleFormError) as exc:
        return _refuse(box, pack, typed, (Problem("", exc.message),))
    except BotinError as exc:
        return _refuse(box, pack, typed, (Problem("", exc.message),), exc.status)
    said = "That line was logged already; nothing was stored twice." if logged.repeated else ""
    return _done(box, pack, said)


@rip.post("/<int:box_id>/undo")
def undo(box_id: int) -> Answer:
    """Take the last card back."""
    box = get_box(session(), box_id)
    gone = desk_rip.undo_last(session(), bench(), box)
    said = f"Taken back: {gone.number} {gone.name}." if gone else "There is nothing to take back."
    return _done(box, gone.pack if gone else box.pack, said)


@rip.post("/<int:box_id>/redo")
def redo(box_id: int) -> Answer:
    """Bring the card that was taken back again."""
    box = get_box(session(), box_id)
    back = desk_rip.redo_last(session(), box)
    said = "It is back." if back is not None else "There is nothing to bring back."
    return _done(box, box.pack if back is None else back, said)


@rip.post("/<int:box_id>/pack")
def pack(box_id: int) -> Answer:
    """Take another pack in hand."""
    box = get_box(session(), box_id)
    return _turn(box, request.form.get("to", box.pack, type=int))


@rip.post("/<int:box_id>/close")
def close(box_id: int) -> Answer:
    """Close the box and read its recap."""
    box = get_box(session(), box_id)
    desk_rip.close_box(session(), bench(), box, request.form.get("seen", -1, type=int))
    target = url_for("recap.box", box_id=box_id)
    return redirect(target, 303)


@rip.post("/<int:box_id>/reopen")
def reopen(box_id: int) -> Answer:
    """Open a closed box again."""
    desk_rip.reopen_box(session(), get_box(session(), box_id))
    return redirect(url_for("rip.desk", box_id=box_id), 303)


def _pack(box: BoxRecord, number: int) -> int:
    return min(max(number, 0), box.format.packs_per_box)


def _view(box: BoxRecord, number: int) -> DeskView:
    return desk_view(session(), bench(), box, _pack(box, number), new_key())


def _turn(box: BoxRecord, number: int) -> Answer:
    """Go to a pack; past the last one it stays there and says so."""
    last = box.format.packs_per_box
    said = "That was the last pack. Close the box when everything is logged." if number > last else ""
    if number:
        desk_rip.go_to_pack(session(), box, number)
    return _done(box, _pack(box, number), said)


def _done(box: BoxRecord, number: int, said: str) -> Answer:
    if not is_fragment():
        if said:
            flash(said)
        return redirect(url_for("rip.desk", box_id=box.id, pack=number), 303)
    return _show(replace(_view(box, number), said=said))


def _refuse(
    box: BoxRecord, number: int, typed: str, problems: tuple[Problem, ...], status: int = 422
) -> tuple[str, int]:
    """Show what is wrong at the line, with what was typed kept; nothing was stored."""
    view = replace(_view(box, number), typed=typed, problems=problems)
    return _show(view), status


def _show(view: DeskView) -> str:
    template = "rip/_desk.html" if is_fragment() else "rip/desk.html"
    return render_template(template, view=view)
