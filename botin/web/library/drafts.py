"""Add a product: files or pasted text, a preview line by line, then all or nothing."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict

from flask import Blueprint, current_app, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from botin.core.catalog.changes import Change
from botin.core.catalog.product import Kind
from botin.core.errors import BotinError, ImportRefusedError
from botin.core.odds.outline import boxes, outline
from botin.desk.catalog import drafting as said
from botin.desk.catalog import drafts as desk
from botin.desk.jobs import MOMENT, Job
from botin.desk.keeping import apart
from botin.exchange.catalog.wholedoubts import doubts_in
from botin.exchange.notes import Note, Status
from botin.store.catalog.known import product_choices
from botin.store.models import DraftRecord
from botin.web.library.forms import MAX_TEXT, MAX_WORDS, GiveForm, LineForm, StoreForm
from botin.web.requests import bench, is_fragment, let_write, new_key, session

drafts = Blueprint("drafts", __name__, template_folder="templates", url_prefix="/library")
Answer = str | Response | tuple[str, int]
PAGE = 100
SHOWS = {
    "not": (Status.NOT,), "guessed": (Status.GUESSED,), "passed": (Status.PASSED,), "all": tuple(Status),
}  # fmt: skip


@drafts.get("/add")
def add() -> str:
    """Show the form that takes files and text in."""
    return _form("", {})


@drafts.post("/add")
def give() -> Answer:
    """Read what was given; what takes longer than a moment shows its progress."""
    files, texts = given()
    wrong = refusal(files, texts) or too_long()
    if wrong:
        return _form(wrong + again(chosen=bool(files)), texts), 422
    form = GiveForm()
    key, about, at = form.key, form.about(), bench()
    let_write()
    large = sum(len(data) for _, data in files) + sum(map(len, texts.values())) > apart.MUCH
    task = {"files": files, "texts": texts, "about": about}
    job = at.jobs.start(
        key,
        "Reading",
        lambda job: desk.keep_read(at, key, about, *apart.run(at, job, "read", task, large=large)),
        {**asdict(about), **texts, "chosen": "yes" if files else ""},
        long=True,
    )
    return _after(job) if job.wait(MOMENT) else redirect(url_for("drafts.work", key=key), 303)


def given() -> tuple[list[tuple[str, bytes]], dict[str, str]]:
    """Return the files and the texts that a form gave."""
    files = [(file.filename or "", file.read()) for file in request.files.getlist("files") if file.filename]
    return files, GiveForm().texts()


def too_long() -> str:
    """Return why what is said of the product cannot be taken, empty when it can."""
    if GiveForm().too_long():
        return f"What is said of a product may have {MAX_WORDS:,} characters in one place. Shorten it."
    return ""


def refusal(files: Sequence[tuple[str, bytes]], texts: dict[str, str]) -> str:
    """Return why what was given cannot be read, empty when it can."""
    if not files and not any(text.strip() for text in texts.values()):
        return "There is nothing to read yet. Choose a file, or paste a checklist."
    if max(map(len, texts.values())) > MAX_TEXT:
        return f"A text may have {MAX_TEXT:,} characters. Save it as a file and choose that."
    return ""


def _form(wrong: str, typed: dict[str, str]) -> str:
    return render_template(
        "library/add.html", typed={**request.form, **typed}, form_key=new_key(), wrong=wrong,
        likes=product_choices(session()),
    )  # fmt: skip


@drafts.get("/progress/<key>")
def work(key: str) -> Answer:
    """Show how far a piece of work is; go on when it is done."""
    job = bench().jobs.get(key)
    if not job.wait(0):
        template = "library/_work.html" if is_fragment() else "library/work.html"
        return render_template(template, job=job)
    target = _after(job)
    if is_fragment() and isinstance(target, Response):
        return Response("", headers={"HX-Redirect": target.location})
    return target


@drafts.post("/progress/<key>/stop")
def stop(key: str) -> Answer:
    """Stop a piece of work; nothing of it is stored."""
    bench().jobs.get(key).stop()
    return redirect(url_for("drafts.work", key=key), 303)


def _after(job: Job) -> Answer:
    """Go to what a job made, or back to its form with what was typed."""
    error = job.future.exception()
    if error is None:
        if job.words == "Storing":
            flash("Stored. This is the product’s page.")
            return redirect(url_for("library.product", product_id=job.future.result()), 303)
        return redirect(url_for("drafts.draft", draft_id=job.future.result()), 303)
    if not isinstance(error, BotinError):
        current_app.logger.error("reading failed", exc_info=error)
        error = ImportRefusedError("The file could not be read. Save it again as CSV or .xlsx, then try once more.")
    if job.words == "Storing":
        raise error
    return _form(error.message + again(chosen=bool(job.typed.get("chosen"))), job.typed), error.status


def again(*, chosen: bool) -> str:
    """Return what to say of the files of a form that is shown again: a browser does not keep them."""
    return " Choose the files again: none of them was kept." if chosen else ""


@drafts.get("/drafts/<int:draft_id>")
def draft(draft_id: int) -> str:
    """Show what was understood, guessed and not, line by line."""
    return _draft(desk.get_draft(session(), draft_id))


def refused(record: DraftRecord, wrong: str) -> Answer:
    """Show a draft with what was wrong and all that was typed."""
    chosen = any(file.filename for file in request.files.getlist("files"))
    return _draft(record, wrong + again(chosen=chosen)), 422


def _draft(record: DraftRecord, wrong: str = "") -> str:
    view, given = desk.view_draft(session(), bench(), record), said.source_sheets(record)
    shown = request.values.get("show", "")
    if shown not in SHOWS:
        shown = "not" if view.counts.get(Status.NOT.value) else "guessed" if view.counts.get("guessed") else "all"
    lines = [(n, note) for n, note in enumerate(view.notes) if note.status in SHOWS[shown]]
    pages = max(1, math.ceil(len(lines) / PAGE))
    page = min(max(1, request.values.get("page", _page_of(lines), type=int)), pages)
    unread = (n for n, note in enumerate(view.notes) if note.status is Status.NOT)
    template = "library/_lines.html" if is_fragment() else "library/draft.html"
    return render_template(
        template, record=record, view=view, show=shown, lines=lines[(page - 1) * PAGE : page * PAGE], page=page,
        pages=pages, tally=changes_tally(view.changes), form_key=new_key(), first_unread=next(unread, None),
        sections=outline(view.product), filling=boxes(view.product), kinds=list(Kind), doubts=doubts_in(view.notes),
        near=said.nearly_known(session(), bench(), record, view.product), given=given,
        not_read={one.place for one in given if not one.read}, wrong=wrong, typed=request.form if wrong else {},
        likes=[choice for choice in product_choices(session()) if choice[0] != view.product.key],
    )  # fmt: skip


def _page_of(lines: Sequence[tuple[int, Note]]) -> int:
    """Return the page of the line that was asked for by its number."""
    wanted = request.values.get("n", -1, type=int)
    return next((at // PAGE + 1 for at, (n, _) in enumerate(lines) if n == wanted), 1)


def changes_tally(changes: Sequence[Change]) -> list[tuple[str, int, int, int]]:
    """Return how many rows of each table are new, changed and gone."""
    found: dict[str, Counter[str]] = {}
    for change in changes:
        found.setdefault(change.table, Counter())[change.what] += 1
    return [(table, count["new"], count["changed"], count["gone"]) for table, count in found.items()]


def back_to(record: DraftRecord) -> Answer:
    """Return to the draft, with the lines that were shown."""
    if is_fragment():
        return _draft(record)
    return redirect(url_for("drafts.draft", draft_id=record.id, show=LineForm().show.text), 303)


@drafts.post("/drafts/<int:draft_id>/about")
def about(draft_id: int) -> Answer:
    """Change name, maker, formats and the like."""
    record = desk.get_draft(session(), draft_id)
    wrong = too_long()
    if wrong:
        return refused(record, wrong)
    desk.set_about(session(), record, GiveForm().about())
    return redirect(url_for("drafts.draft", draft_id=draft_id), 303)


@drafts.get("/drafts/<int:draft_id>/line")
def line(draft_id: int) -> str:
    """Show one line of the source to mend."""
    record = desk.get_draft(session(), draft_id)
    sheet, number = request.args.get("sheet", ""), request.args.get("line", 0, type=int)
    cells, words = desk.line_cells(record, sheet, number)
    template = "library/_line.html" if is_fragment() else "library/line.html"
    return render_template(
        template, record=record, sheet=sheet, line=number, cells=list(zip(words, cells, strict=True)),
        show=request.args.get("show", ""),
    )  # fmt: skip


@drafts.post("/drafts/<int:draft_id>/line")
def mend(draft_id: int) -> Answer:
    """Write one line anew, or leave it out."""
    record = desk.get_draft(session(), draft_id)
    form = LineForm()
    cells = [] if form.leave.text else form.cell.data
    desk.mend_line(session(), record, form.sheet.text, form.line.lenient(0), cells)
    return back_to(record)


@drafts.post("/drafts/<int:draft_id>/leave-out")
def leave_out(draft_id: int) -> Answer:
    """Leave every line out that was not understood."""
    record = desk.get_draft(session(), draft_id)
    count = desk.leave_out_unread(session(), bench(), record)
    flash("One line was left out." if count == 1 else f"{count} lines were left out.")
    return redirect(url_for("drafts.draft", draft_id=draft_id), 303)


@drafts.post("/drafts/<int:draft_id>/store")
def store(draft_id: int) -> Answer:
    """Store the draft, all of it or nothing."""
    record, at = desk.get_draft(session(), draft_id), bench()
    form = StoreForm()
    keep_mine, key = form.keep_mine.text == "yes", form.client_key.text or new_key()
    session().rollback()
    let_write()
    task = {"draft": record.id, "keep_mine": keep_mine}
    large = len(record.sources) > apart.MUCH
    job = at.jobs.start(key, "Storing", lambda job: apart.run(at, job, "store", task, large=large), long=True)
    return _after(job) if job.wait(MOMENT) else redirect(url_for("drafts.work", key=key), 303)


@drafts.post("/drafts/<int:draft_id>/discard")
def discard(draft_id: int) -> Answer:
    """Throw a draft away."""
    desk.discard(session(), desk.get_draft(session(), draft_id))
    flash("The draft was thrown away; nothing was stored.")
    return redirect(url_for("library.index"), 303)
