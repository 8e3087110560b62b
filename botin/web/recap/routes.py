"""The recap of a box."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, render_template, url_for
from werkzeug.wrappers import Response

from botin.desk.recap import box_recap
from botin.store.boxes import boxes_by_state, get_box
from botin.web.recap.picture import money_line
from botin.web.requests import bench, session

recap = Blueprint("recap", __name__, template_folder="templates", url_prefix="/recap")


@recap.get("/")
def index() -> str:
    """List the closed boxes."""
    return render_template("recap/index.html", rows=boxes_by_state(session(), "closed"))


@recap.get("/<int:box_id>")
def box(box_id: int) -> str | Response:
    """Show the recap of a box; one that was never opened has none."""
    if get_box(session(), box_id).state == "sealed":
        flash("This box is still sealed: it has no recap yet. Open it here first.")
        return redirect(url_for("shelf.index", _anchor=f"box-{box_id}"))
    found = box_recap(session(), bench(), box_id)
    return render_template("recap/box.html", recap=found, line=money_line(found))
