"""What the user says of a draft: columns, kinds, guesses that are right, names that are known, more files."""

from __future__ import annotations

from flask import flash, redirect, url_for

from botin.core.errors import ColumnTwiceError, UnreadableFileError
from botin.desk.catalog import drafting as desk
from botin.desk.catalog import drafts as kept
from botin.exchange.notes import Status
from botin.web.library.drafts import Answer, back_to, drafts, given, refusal, refused
from botin.web.library.forms import ColumnsForm, KindForm, KnownForm, LineForm
from botin.web.requests import bench, session


@drafts.post("/drafts/<int:draft_id>/columns")
def columns(draft_id: int) -> Answer:
    """Say what the columns are; the next file with the same ones is read so by itself."""
    record = kept.get_draft(session(), draft_id)
    tables = kept.view_draft(session(), bench(), record).draft.tables
    told: dict[str, dict[int, str]] = {}
    for table, column, words in ColumnsForm().told():
        if table < len(tables):
            told.setdefault(tables[table].shape, {})[column] = words
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
    form = KindForm()
    desk.tell_kind(session(), record, form.section.text, form.kind.text)
    return redirect(url_for("drafts.draft", draft_id=draft_id) + "#sections-head", 303)


@drafts.post("/drafts/<int:draft_id>/reading")
def reading(draft_id: int) -> Answer:
    """Say that a guess, or all of them, is right, or take the other reading of its line."""
    record = kept.get_draft(session(), draft_id)
    form = LineForm()
    sheet, line = form.sheet.text, form.line.lenient(0)
    if form.every.text:
        notes = kept.view_draft(session(), bench(), record).notes
        desk.confirm(session(), record, [(n.sheet, n.line) for n in notes if n.status is Status.GUESSED])
    elif form.reading.text:
        kept.mend_line(session(), record, sheet, line, [form.reading.text])
    else:
        desk.confirm(session(), record, [(sheet, line)])
    return back_to(record)


@drafts.post("/drafts/<int:draft_id>/word")
def word(draft_id: int) -> Answer:
    """Write a name as the library knows it."""
    record = kept.get_draft(session(), draft_id)
    form = KnownForm()
    written, known = form.word.text, form.known.text
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
