"""Safe keeping: backups, taken and put back; and what failed in the background."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, render_template, request, send_file, send_from_directory, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, ImportRefusedError
from botin.desk.keeping import backups as desk
from botin.store.keeping.backup import FOLDER
from botin.web.keeping.forms import PutBackForm, SettleForm
from botin.web.requests import bench, session

keeping = Blueprint("keeping", __name__, template_folder="templates", url_prefix="/keeping")

PICK = "No file was given. Pick the .zip of a whole home."


@keeping.get("/")
def index() -> str:
    """Show the backups there are."""
    kept, empty = desk.backups(bench()), desk.can_take_in(bench())
    return render_template("keeping/index.html", kept=kept, empty=empty, home=bench().home)


@keeping.post("/take")
def take() -> Response:
    """Take a backup now."""
    try:
        made = desk.back_up_now(bench())
    except (BotinError, OSError) as exc:
        flash(f"No backup was taken: {getattr(exc, 'message', exc)}")
    else:
        flash(f"Backup {made.name} was taken and checked.")
    return redirect(url_for("keeping.index"), 303)


@keeping.get("/everything")
def everything() -> Response:
    """Give all that the home holds, in open form."""
    name = f"botin-home-{bench().today().isoformat()}.zip"
    return send_file(desk.everything(bench()), mimetype="application/zip", as_attachment=True, download_name=name)


@keeping.post("/everything")
def take_in() -> Response:
    """Take a whole home into this empty one."""
    file = request.files.get("file")
    try:
        if file is None or not file.filename:
            raise ImportRefusedError(PICK)
        rows = desk.take_in(session(), bench(), file.stream, file.filename)
    except BotinError as exc:
        flash(exc.message)
        return redirect(url_for("keeping.index"), 303)
    flash(f"Everything is here: {rows:,} rows.")
    return redirect(url_for("shelf.index"), 303)


@keeping.get("/<name>")
def give(name: str) -> Response:
    """Give a backup to take along."""
    known = {kept.name for kept in desk.backups(bench())}
    return send_from_directory(desk.home_of(bench()) / FOLDER, name if name in known else "-", as_attachment=True)


@keeping.post("/put-back")
def put_back() -> Response:
    """Put a backup of the list, or an uploaded one, in place of the data; what is there now is kept first."""
    file = request.files.get("file")
    try:
        if file is not None and file.filename:
            before = desk.put_back_upload(session(), bench(), file.read(), file.filename)
        else:
            before = desk.put_back(session(), bench(), PutBackForm().file.text)
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(f"Put back. What was there is kept as {before.name}.")
    return redirect(url_for("keeping.index"), 303)


@keeping.post("/settle")
def settle() -> Response:
    """Take something that failed off the list."""
    bench().troubles.settle(SettleForm().kind.text)
    return redirect(url_for("keeping.index"), 303)
