"""Beside the rip desk: the sealed check before, openings.csv out and in, putting away after."""

from __future__ import annotations

import io

from flask import Blueprint, flash, redirect, render_template, request, send_file, url_for
from werkzeug.datastructures import FileStorage
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, ImportRefusedError
from botin.core.opening.sealed import CAUTIONS, LOOKS, Wrap
from botin.desk.opening import files as logs
from botin.desk.opening import putaway as away
from botin.desk.opening import sealed as check_desk
from botin.exchange.catalog.sheets import Sources, add_file
from botin.exchange.keeping.picture import Photo, clean_photo
from botin.exchange.notes import Sheet
from botin.exchange.opening import TAKEN, guess_columns, log_shape, mapped_rows
from botin.store.catalog.known import known_columns, remember_columns
from botin.store.catalog.lists import format_choices
from botin.store.models import BoxRecord
from botin.store.opening.boxes import get_box
from botin.store.opening.packs import photos_of
from botin.web.offshelf import off_shelf
from botin.web.requests import bench, new_key, session
from botin.web.rip.forms import CheckForm, LogForm, PlaceForm
from botin.web.shelf.forms import PurchaseForm

sealed = Blueprint("sealed", __name__, template_folder="templates", url_prefix="/boxes")
openings = Blueprint("openings", __name__, template_folder="templates", url_prefix="/openings")
putaway = Blueprint("putaway", __name__, template_folder="templates", url_prefix="/put-away")
Answer = str | Response | tuple[str, int]
SHOWN = 40


@sealed.route("/<int:box_id>/check", methods=["GET", "POST"])
def check(box_id: int) -> Answer:
    """Look a sealed box over before it is opened."""
    box = get_box(session(), box_id)
    if (gone := off_shelf(box)) is not None:
        return gone
    if request.method == "GET":
        return _check_page(box, check_desk.read_check(box), request.args.get("wrap", ""))
    form = CheckForm()
    made = check_desk.made_check(form.wrap.text, form.found(), form.note.text)
    try:
        photos = [_photo_of(file) for file in request.files.getlist("photos") if file.filename]
        check_desk.save_check(session(), bench(), box, made, photos)
    except ImportRefusedError as exc:
        session().rollback()
        return _check_page(box, made, made.wrap.value, f"Nothing was noted. {exc.message}"), 422
    flash(f"Noted: {made.opinion.verdict}.")
    return redirect(url_for("sealed.check", box_id=box_id), 303)


def _photo_of(file: FileStorage) -> Photo:
    """Read one of several photos; what is wrong is said under its name."""
    try:
        return clean_photo(file.read())
    except ImportRefusedError as exc:
        raise ImportRefusedError(f"{file.filename}: {exc.message}") from exc


def _check_page(box: BoxRecord, made: check_desk.SealedCheck, asked: str, wrong: str = "") -> str:
    wrap = Wrap(asked) if asked in set(Wrap) else made.wrap
    photos = photos_of(session(), box.id)
    return render_template(
        "rip/sealed.html", box=box, check=made, wrap=wrap, wraps=list(Wrap), looks=LOOKS[wrap], photos=photos,
        cautions=CAUTIONS, wrong=wrong,
    )  # fmt: skip


@sealed.get("/photos/<int:photo_id>")
def photo(photo_id: int) -> Response:
    """Send a photo; a browser that has it asks only whether it is still the one."""
    data, known = check_desk.photo_bytes(session(), bench(), photo_id)
    answer = send_file(io.BytesIO(data), mimetype=known.mime)
    answer.set_etag(known.file)
    answer.headers["Cache-Control"] = "private, no-cache"
    return answer.make_conditional(request)


@openings.get("/<int:box_id>/openings.csv")
def export(box_id: int) -> Response:
    """Send a box's log."""
    box = get_box(session(), box_id)
    data = io.BytesIO(logs.export_opening(session(), box))
    return send_file(data, mimetype="text/csv", as_attachment=True, download_name=f"openings-box-{box_id}.csv")


@openings.route("/import", methods=["GET", "POST"])
def take_in() -> Answer:
    """Take in a log from a spreadsheet: name its columns, look it through, then store all of it or nothing."""
    choices = format_choices(session())
    form = PurchaseForm(bought_on=bench().today())
    form.offer(choices)
    told = LogForm()
    form.client_key.data = told.client_key.text or new_key()
    if request.method == "GET":
        return _page(form, choices)
    sources, wrong = _sources(told)
    if wrong or not form.validate():
        return _page(form, choices, wrong=wrong), 422
    left = set(told.leave.data)
    given = sources.sheets[0]
    sheet = Sheet(given.name, tuple(row for row in given.rows if str(row[0]) not in left))
    header, guessed = guess_columns(sheet)
    header = told.header.lenient(header)
    shape = log_shape(sheet, header)
    columns = told.columns(TAKEN) or known_columns(session()).get(shape) or guessed
    key = next(found for found in choices if found[0] == form.format_id.data)
    product = bench().product(session(), logs.product_of_format(session(), key[0]))
    rows = mapped_rows(sheet, header, columns)
    read = logs.read_rows(product, rows)
    if (known := logs.known_log(session(), read)) is not None:
        flash(f"This log, or a part of it, is here already as box {known.id}. Nothing was stored.")
        return redirect(url_for("rip.desk", box_id=known.id), 303)
    if told.step.text == "store":
        try:
            remember_columns(session(), shape, columns, bench().now())
            box = logs.import_opening(session(), bench(), form.purchase(choices), read, str(form.client_key.data))
        except BotinError as exc:
            session().rollback()
            return _page(form, choices, (sheet, header, columns, read), exc.message), 422
        flash(f"{sum(row.item is not None for row in read)} rows are logged. Look at them, then close the box.")
        return redirect(url_for("rip.desk", box_id=box.id), 303)
    return _page(form, choices, (sheet, header, columns, read))


def _sources(told: LogForm) -> tuple[Sources, str]:
    sources = Sources()
    file, kept, text = request.files.get("file"), told.kept.text, told.text_given.text
    try:
        if kept:
            sources = Sources.from_json(kept)
        elif file and file.filename:
            add_file(sources, file.filename, file.read())
        elif text.strip():
            add_file(sources, "pasted.csv", text.encode())
    except (BotinError, ValueError, KeyError, TypeError) as exc:
        return sources, exc.message if isinstance(exc, BotinError) else "The file is lost. Choose it again."
    if not sources.sheets or not sources.sheets[0].rows:
        return sources, "There is nothing to read yet. Choose a file, or paste the log with its column names."
    return sources, ""


def _page(form: PurchaseForm, choices: object, log: object = None, wrong: str = "") -> str:
    return render_template(
        "rip/openings.html", form=form, choices=choices, log=log, wrong=wrong, fields=TAKEN, shown=SHOWN,
        text=LogForm().text_given.text,
    )  # fmt: skip


@putaway.route("/<int:box_id>", methods=["GET", "POST"])
def sort(box_id: int) -> Answer:
    """Show where each copy of a box belongs; note what lies there."""
    box = get_box(session(), box_id)
    if request.method == "POST":
        place = PlaceForm().place.text
        count = away.put_away(session(), bench(), box, place)
        flash(f"{count} cards lie in {place}." if count else "Nothing was put away.")
        return redirect(url_for("putaway.sort", box_id=box_id), 303)
    return render_template("rip/putaway.html", box=box, found=away.sort_list(session(), bench(), box))
