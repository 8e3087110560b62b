"""Today: what needs doing, each a line with its one action."""

from __future__ import annotations

from flask import Blueprint, render_template
from werkzeug.wrappers import Response

from botin.desk.insight.today import days_ahead, today_lines
from botin.exchange.calendarfile import MIME, Entry, calendar_file
from botin.web.requests import bench, session
from botin.web.words import said

today_desk = Blueprint("today", __name__, template_folder="templates", url_prefix="/today")


@today_desk.get("/")
def index() -> str:
    """Show what needs doing."""
    return render_template("today/index.html", lines=today_lines(session(), bench()), today=bench().today())


@today_desk.get("/days.ics")
def days() -> Response:
    """Give the days that must not be forgotten as a calendar file, to take along."""
    lines = days_ahead(session(), bench())
    entries = [
        Entry(line.key or f"{line.kind}-{at}", line.due, said(line)) for at, line in enumerate(lines) if line.due
    ]
    named = {"Content-Disposition": 'attachment; filename="botin-days.ics"'}
    return Response(calendar_file(entries, bench().now()), mimetype=MIME, headers=named)
