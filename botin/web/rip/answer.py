"""How the rip desk answers: the whole page, or the parts that changed."""

from __future__ import annotations

from dataclasses import replace

from flask import flash, redirect, render_template, url_for
from werkzeug.wrappers import Response

from botin.core.opening.entryitems import Problem
from botin.store.models import BoxRecord
from botin.store.once import read_once
from botin.web.requests import bench, is_fragment, new_key, session
from botin.web.rip.view import DeskView, desk_view

Answer = str | Response | tuple[str, int]


def in_range(box: BoxRecord, number: int) -> int:
    """Return a pack number the box has; 0 is outside the packs."""
    return min(max(number, 0), box.format.packs_per_box)


def view_of(box: BoxRecord, number: int) -> DeskView:
    """Read the desk at a pack."""
    return desk_view(session(), bench(), box, in_range(box, number), new_key())


def done(box: BoxRecord, number: int, said: str = "") -> Answer:
    """Answer a step that was made."""
    if not is_fragment():
        if said:
            flash(said)
        return redirect(url_for("rip.desk", box_id=box.id, pack=number), 303)
    read_once(session())  # all is written: what follows only looks
    return show(replace(view_of(box, number), said=said))


def refuse(
    box: BoxRecord, number: int, typed: str, problems: tuple[Problem, ...], status: int = 422
) -> tuple[str, int]:
    """Show what is wrong at the line, with what was typed kept; nothing was stored."""
    return show(replace(view_of(box, number), typed=typed, problems=problems)), status


def show(view: DeskView) -> str:
    """Render the desk, or its parts."""
    return render_template("rip/_desk.html" if is_fragment() else "rip/desk.html", view=view)
