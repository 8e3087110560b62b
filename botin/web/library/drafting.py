"""What the user says of a draft: columns, kinds, guesses that are right, names that are known, more files."""

from __future__ import annotations

import re

from flask import flash, redirect, request, url_for

from botin.core.errors import ColumnTwiceError, UnreadableFileError
from botin.desk.catalog import drafting as desk
from botin.desk.catalog import drafts as kept
from botin.exchange.notes import Status
from botin.web.library.drafts import Answer, back_to, drafts, given, refusal, refused
from botin.web.requests import bench, session

_COLUMN = re.compile(r"column-(\d{1,4})-(\d{1,3})")


@drafts.post("/drafts/<int:draft_id>/columns")
def columns(draft_id: int) -> Answer:
    """Say what the columns are; the next file with the same ones is read so by itself."""
    record = kept.get_draft(session(), draft_id)
    tables = kept.view_draft(session(), bench(), record).draft.tables
    told: dict[str, dict[int, str]] = {}
    for name, value in request.form.items():
        found = _COLUMN.fullmatch(name)
        if found and int(found[1]) < len(tables):
            told.setdefault(tables[int(found[1])].shape, {})[int(found[2])] = value[:80]
    try:
        desk.tell_columns(session(), bench(), record, told)
    except ColumnTwiceError as exc:
        return refused(record, exc.message)
    flash("Read again with these columns; they are remembered.")
    return redirect(url_for("drafts.draft", draft_id=draft_id), 303)


@drafts.post("/drafts/<int:draft_id>/kind")
def kind(draft_id: int) -> Answer:
    """Say which kind a section is."""
    record = kept.get_draft(session(), draft_id)
    desk.tell_kind(session(), record, request.form.get("section", ""), request.form.get("kind", ""))
    return redirect(url_for("drafts.draft", draft_id=draft_id) + "#sections-head", 303)


@drafts.post("/drafts/<int:draft_id>/reading")
def reading(draft_id: int) -> Answer:
    """Say that a guess, or all of them, is right, or take the other reading of its line."""
    record = kept.get_draft(session(), draft_id)
    sheet, line = request.form.get("sheet", ""), request.form.get("line", 0, type=int)
    text = request.form.get("as", "")
    if request.form.get("all"):
        notes = kept.view_draft(session(), bench(), record).notes
        desk.confirm(session(), record, [(n.sheet, n.line) for n in notes if n.status is Status.GUESSED])
    elif text:
        kept.mend_line(session(), record, sheet, line, [text[:2000]])
    else:
        desk.confirm(session(), record, [(sheet, line)])
    return back_to(record)


@drafts.post("/drafts/<int:draft_id>/word")
def word(draft_id: int) -> Answer:
    """Write a name as the library knows it."""
    record = kept.get_draft(session(), draft_id)
    written, known = request.form.get("word", "")[:200], request.form.get("known", "")[:200]
    lines = desk.take_word(session(), record, written, known)
    said = f"{written} is {known} now, in {lines} line{'' if lines == 1 else 's'}."
    flash(said if lines else f"“{written}” stands nowhere in the draft. Nothing was changed.")
    return redirect(url_for("drafts.draft", draft_id=draft_id), 303)


@drafts.post("/drafts/<int:draft_id>/more")
def more(draft_id: int) -> Answer:
    """Add files or texts to the draft."""
    record = kept.get_draft(session(), draft_id)
    files, texts = given()
    wrong = refusal(files, texts)
    if wrong:
        return refused(record, wrong)
    try:
        desk.add_given(session(), record, files, texts)
    except UnreadableFileError as exc:
        return refused(record, exc.message)
    return redirect(url_for("drafts.draft", draft_id=draft_id), 303)
