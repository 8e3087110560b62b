"""The library: every checklist, what a product's page states, and what follows from it."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, render_template, request, send_file, url_for
from werkzeug.wrappers import Response

from botin.core.catalog.product import Kind
from botin.core.errors import BotinError, EntryError, NotFoundError
from botin.desk.catalog import corrections as fix
from botin.desk.catalog import lookagain
from botin.desk.catalog.library import export_bytes
from botin.desk.catalog.productedit import remove_product, set_aside
from botin.desk.catalog.productpage import product_page
from botin.desk.opening.shelf import product_tiles
from botin.desk.settings import load_settings
from botin.store.catalog.corrections import open_drafts
from botin.store.catalog.lists import hangs_on
from botin.store.catalog.search import CardFilter, FoundPage, club_names, find_cards, where_kept
from botin.web.library.forms import AgainForm, AsideForm, CorrectForm
from botin.web.library.ladder import odds_ladder
from botin.web.requests import bench, is_fragment, new_key, session

library = Blueprint("library", __name__, template_folder="templates", url_prefix="/library")
Answer = str | Response | tuple[str, int]
KINDS = [kind.value for kind in Kind]
SHORT = (Kind.SHORT_PRINT.value, Kind.VARIATION.value)


def asked_filter(product_id: int | None = None) -> CardFilter:
    """Return the filter the query string asks for; what makes no sense is left out."""
    args = request.args
    only = args.get("only", "")
    kinds = SHORT if only == "short" else tuple(kind for kind in args.getlist("kind") if kind in KINDS)
    return CardFilter(
        words=args.get("q", "")[:100],
        product_id=product_id or args.get("product", type=int),
        section=args.get("section", "")[:100],
        kinds=kinds,
        rookie_kinds=load_settings(session()).rookies() if only == "rookies" else (),
        club=args.get("club", "")[:100],
        after=args.get("after", 0, type=int),
    )


def kept_of(found: FoundPage) -> dict[int, str]:
    """Say how many copies of the cards shown are logged, and where they lie."""
    return where_kept(session(), [card.id for card in found.cards])


@library.get("/")
def index() -> str:
    """Search all checklists, and list the products."""
    wanted = asked_filter()
    found = find_cards(session(), wanted)
    if is_fragment():
        return render_template("library/_found.html", found=found, wanted=wanted, kept=kept_of(found))
    return render_template(
        "library/index.html",
        found=found,
        kept=kept_of(found),
        wanted=wanted,
        products=product_tiles(session(), aside=True),
        clubs=club_names(session()),
        drafts=open_drafts(session()),
    )


@library.get("/<int:product_id>")
def product(product_id: int) -> str:
    """Show a product's page."""
    record = bench().record(session(), product_id)
    wanted = asked_filter(product_id)
    if is_fragment() and "q" in request.args:
        cards = find_cards(session(), wanted)
        return render_template("library/_found.html", found=cards, wanted=wanted, kept=kept_of(cards))
    page = product_page(session(), bench(), record)
    keys = [facts.format.key for facts in page.formats]
    chosen = request.args.get("format", "")
    facts = page.formats[keys.index(chosen)] if chosen in keys else page.formats[0] if page.formats else None
    cards = find_cards(session(), wanted)
    ladder = odds_ladder(page.product, facts.model, load_settings(session()).hit_rule()) if facts else None
    if is_fragment():
        return render_template("library/_ladder.html", page=page, facts=facts, ladder=ladder)
    return render_template(
        "library/product.html",
        page=page,
        facts=facts,
        ladder=ladder,
        found=cards,
        kept=kept_of(cards),
        wanted=wanted,
        clubs=club_names(session(), product_id),
        key=new_key(),
        hanging=hangs_on(session(), record),
    )


@library.get("/<int:product_id>/checklist")
def checklist(product_id: int) -> str:
    """Show the checklist to print."""
    record = bench().record(session(), product_id)
    return render_template("library/checklist.html", record=record, product=bench().product(session(), record))


@library.get("/<int:product_id>/cheat-sheet")
def cheat_sheet(product_id: int) -> str:
    """Show one page to lie beside the packs: back codes, cues, finishes, odds."""
    record = bench().record(session(), product_id)
    page = product_page(session(), bench(), record)
    return render_template("library/cheatsheet.html", page=page)


@library.get("/<int:product_id>/export.<any(zip, xlsx):kind>")
def export(product_id: int, kind: str) -> Response:
    """Send the product as a package or workbook."""
    record = bench().record(session(), product_id)
    data = export_bytes(session(), record, kind)
    return send_file(data, as_attachment=True, download_name=f"{record.key}.{kind}")


@library.route("/<int:product_id>/correct", methods=["GET", "POST"])
def correct(product_id: int) -> Answer:
    """Correct one value; what it was is kept."""
    record = bench().record(session(), product_id)
    table, field = request.values.get("table", ""), request.values.get("field", "")
    if (table, field) not in fix.FIELDS:
        message = "That is not corrected here. Go back to the product’s page."
        raise NotFoundError(message)
    key = tuple(request.values.getlist("key"))
    seen = fix.value_of(bench().product(session(), record), table, key, field)
    form = CorrectForm()
    typed, why, wrong = request.values.get("value", seen), form.why.text, ""
    if request.method == "POST":
        change = fix.Correction(table, key, field, form.seen.text, typed, why)
        try:
            who = load_settings(session()).my_name
            sent = form.client_key.text or new_key()
            made = fix.correct(session(), bench(), record, change, who=who, client_key=sent)
        except EntryError as exc:
            wrong = exc.message
        else:
            flash(f"Corrected: {fix.words_of(made)}. Everything computed from it follows.")
            return redirect(url_for("library.product", product_id=product_id), 303)
    page = render_template(
        "library/correct.html", record=record, table=table, field=field, key=key, seen=seen, typed=typed, why=why,
        wrong=wrong, word=fix.FIELDS[(table, field)][0], form_key=new_key(),
    )  # fmt: skip
    return (page, 422) if wrong else page


@library.post("/look-again/<int:look_id>")
def look_again(look_id: int) -> Response:
    """Settle one copy that was to be looked at again."""
    product_id = lookagain.settle(session(), bench(), look_id, it_is=AgainForm().it_is.text == "yes")
    return redirect(url_for("library.product", product_id=product_id, _anchor="look-again"), 303)


@library.post("/<int:product_id>/aside")
def aside(product_id: int) -> Response:
    """Set a product aside, take it back, or remove it when nothing was bought or logged of it."""
    record = bench().record(session(), product_id)
    what = AsideForm().what.text
    try:
        if what == "remove":
            remove_product(session(), bench(), record)
            flash("Removed. What it was made of is kept as a draft: it can be stored again.")
            return redirect(url_for("library.index"), 303)
        if what not in ("aside", "back"):
            message = f"“{what[:20]}” is none of aside, back, remove. Nothing was changed."
            raise EntryError(message)
        set_aside(session(), bench(), record, aside=what == "aside")
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(
            "Set aside: it is offered nowhere, and what is logged of it stays." if what == "aside" else "Back again."
        )
    return redirect(url_for("library.product", product_id=product_id), 303)
