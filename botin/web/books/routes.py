"""The books: what went out and came back, where the money lies, entries by hand, and everything to take along."""

from __future__ import annotations

from flask import Blueprint, Response, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from botin.core.errors import BotinError
from botin.desk.books.accounts import WHATS, books, take_back_entry, write_down
from botin.desk.books.journal import journal_lines, ledger
from botin.web.books.forms import BackForm, NoteForm
from botin.web.books.river import river
from botin.web.requests import bench, keep_typed, new_key, session

books_desk = Blueprint("books", __name__, template_folder="templates", url_prefix="/books")


@books_desk.get("/")
def index() -> str:
    """Show the books in one currency."""
    page = max(1, request.args.get("page", 1, int))
    found = books(session(), bench(), request.args.get("currency", ""), page)
    return render_template(
        "books/index.html", books=found, river=river(found.all), whats=WHATS, today=bench().today(), page=page,
        client_key=new_key(),
    )  # fmt: skip


@books_desk.post("/note")
def note() -> AnyResponse:
    """Write down an expense, or what was paid to or got from a person."""
    form = NoteForm()
    try:
        noted = form.noted()
        write_down(session(), bench(), form.client_key.text, noted)
    except BotinError as exc:
        flash(exc.message)
        return redirect(url_for("books.index", typed=keep_typed(), _anchor="note-head"), 303)
    flash("Written into the books.")
    return redirect(url_for("books.index", currency=noted.amount.currency, _anchor="entries-head"), 303)


@books_desk.post("/back")
def back() -> AnyResponse:
    """Take an entry by hand back."""
    try:
        take_back_entry(session(), bench(), BackForm().entry.row_id())
    except BotinError as exc:
        flash(exc.message)
    else:
        flash("Taken back by its mirror: both stay in the books.")
    return redirect(url_for("books.index", _anchor="entries-head"), 303)


@books_desk.get("/ledger.csv")
def ledger_file() -> Response:
    """Give all postings as a table."""
    headers = {"Content-Disposition": 'attachment; filename="ledger.csv"'}
    return Response(ledger(session()), mimetype="text/csv", headers=headers)


@books_desk.get("/journal.beancount")
def journal_file() -> Response:
    """Give the books as a plain-text journal."""
    headers = {"Content-Disposition": 'attachment; filename="journal.beancount"'}
    return Response("".join(journal_lines(session())), mimetype="text/plain", headers=headers)
