"""Correct what is logged: a card in its place, a pack's facts, how the box is logged."""

from __future__ import annotations

from dataclasses import replace

from flask import Blueprint, render_template, request
from werkzeug.wrappers import Response

from botin.core.catalog.product import Card
from botin.core.errors import EntryError
from botin.core.opening.entryitems import Problem
from botin.desk.opening import editing as ripedit
from botin.store.models import BoxRecord
from botin.store.opening.boxes import get_box
from botin.web.requests import bench, is_fragment, session
from botin.web.rip.answer import Answer, done, in_range, show, view_of
from botin.web.rip.forms import EntryForm, FactsForm, HowForm, KeyedForm, ListForm, SettleForm
from botin.web.rip.view import editing

edit = Blueprint("edit", __name__, template_folder="templates", url_prefix="/rip")


def _form(box: BoxRecord, pull_id: int, typed: str = "", problems: tuple[Problem, ...] = ()) -> str:
    pull = ripedit.get_pull(session(), box, pull_id)
    view = view_of(box, pull.pack)
    found = editing(session(), view, pull_id, problems)
    if typed:
        found = replace(found, typed=typed)
    view = replace(view, editing=found)
    if is_fragment():
        return render_template("rip/_card.html", view=view) if request.method == "GET" else show(view)
    return render_template("rip/card.html", view=view)


@edit.get("/<int:box_id>/card/<int:pull_id>")
def card(box_id: int, pull_id: int) -> str:
    """Show one logged card to correct, settle or take out."""
    return _form(get_box(session(), box_id), pull_id)


@edit.post("/<int:box_id>/card/<int:pull_id>")
def correct(box_id: int, pull_id: int) -> Answer:
    """Put a line in the place of a logged card."""
    box = get_box(session(), box_id)
    pull = ripedit.get_pull(session(), box, pull_id)
    form = EntryForm()
    typed, pack = form.entry.text, form.pack.lenient(pull.pack)
    problems = ripedit.edit_pull(session(), bench(), box, pull, typed, pack=pack, client_key=form.key)
    if problems:
        return _form(box, pull_id, typed, problems), 422
    return done(box, pull.pack, "Corrected.")


@edit.post("/<int:box_id>/card/<int:pull_id>/remove")
def remove(box_id: int, pull_id: int) -> Answer:
    """Take a logged card out."""
    box = get_box(session(), box_id)
    pack = ripedit.get_pull(session(), box, pull_id).pack
    ripedit.remove_pull(session(), bench(), box, pull_id, KeyedForm().key)
    return done(box, pack, "Taken out; Ctrl+Z brings it back.")


@edit.post("/<int:box_id>/card/<int:pull_id>/settle")
def settle(box_id: int, pull_id: int) -> Answer:
    """Settle what a card is."""
    box = get_box(session(), box_id)
    pull = ripedit.get_pull(session(), box, pull_id)
    form = SettleForm()
    try:
        ripedit.settle(session(), bench(), box, pull, form.named(), form.key)
    except EntryError as exc:
        return _form(box, pull_id, problems=(Problem("", exc.message),)), 422
    return done(box, pull.pack, "Settled.")


@edit.post("/<int:box_id>/card/<int:pull_id>/list")
def add_to_list(box_id: int, pull_id: int) -> Answer:
    """Put an unlisted card onto the checklist."""
    box = get_box(session(), box_id)
    pull = ripedit.get_pull(session(), box, pull_id)
    form = ListForm()
    card = Card(form.section.word, form.number.word, form.person.word, form.team.word)
    try:
        ripedit.add_to_checklist(session(), bench(), box, pull, card, form.key, form.finish.word)
    except EntryError as exc:
        return _form(box, pull_id, problems=(Problem("", exc.message),)), 422
    return done(box, pull.pack, "It is on the checklist now.")


@edit.post("/<int:box_id>/facts")
def facts(box_id: int) -> Answer:
    """Write down what is odd about the pack in hand, whose it is, what product it is of."""
    box = get_box(session(), box_id)
    form = FactsForm()
    number, product = in_range(box, form.pack.lenient(box.pack)), form.product.row_id()
    known = {key for key, _ in ripedit.other_products(session(), box)}
    after: dict[str, object] = {
        "flags": ";".join(flag for flag in ripedit.FLAGS if flag in form.flag.data),
        "owner": form.owner.word,
        "note": form.note.word,
        "product_id": product if product in known and product != box.format.product_id else None,
    }
    ripedit.set_pack(session(), bench(), box, number, after=after, client_key=form.key)
    return done(box, number, "Noted.")


@edit.post("/<int:box_id>/how")
def how(box_id: int) -> Answer | Response:
    """Change how the box is logged."""
    box = get_box(session(), box_id)
    form = HowForm()
    after: dict[str, object] = {
        "mode": "hits" if form.mode.text == "hits" else "all",
        "stacked": form.stacked.text == "yes",
        "case_label": form.case_label.word,
        "owners": form.owners.word,
    }
    ripedit.set_box(session(), bench(), box, after=after, client_key=form.key)
    return done(box, box.pack, "Noted.")
