"""Today: what needs doing, each a line with its one action."""

from __future__ import annotations

from flask import Blueprint, render_template

from botin.desk.insight.today import today_lines
from botin.web.requests import bench, session

today_desk = Blueprint("today", __name__, template_folder="templates", url_prefix="/today")


@today_desk.get("/")
def index() -> str:
    """Show what needs doing."""
    return render_template("today/index.html", lines=today_lines(session(), bench()), today=bench().today())
