"""Look: which copies first, and one copy under the glass: rulers, close-ups, subgrades, pins, its flag at once."""

from __future__ import annotations

from flask import Blueprint, Response, current_app, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as AnyResponse

from botin.core.errors import BotinError, NotFoundError
from botin.core.grading.grades import PIN_KINDS
from botin.desk.flags.everything import is_stale
from botin.desk.looking import glass as desk
from botin.desk.looking.queue import piles
from botin.desk.looking.scans import FACES, add_scan, get_scan, put_rulers
from botin.desk.looking.sheets import SheetCard, keep_sheet, read_sheet
from botin.desk.photofiles import laid_photo
from botin.standins.scanner import SimulatedScanner, Subject
from botin.store.grading.looks import scans_of
from botin.web.look.forms import PLACES, LookForm, PinForm, RulersForm, SheetForm
from botin.web.look.view import centering, closeups, drives, likeliest, limits_of, ruler_lines, size_of
from botin.web.requests import bench, new_key, session
from botin.web.words import amount

look = Blueprint("look", __name__, template_folder="templates", url_prefix="/look")
look.add_app_template_filter(size_of, "drawing_size")
look.add_app_template_filter(centering, "centering")
look.add_app_template_filter(likeliest, "likeliest")
SCORED = ("corners", "edges", "surface", "signature")


@look.get("/")
def index() -> str:
    """List what to look at first, what is worth grading, and how many need no look."""
    return render_template("look/index.html", piles=piles(session()), stale=is_stale(session()))


@look.post("/sheet")
def sheet() -> AnyResponse:
    """Take in a scan of several cards, and ask which copy each is."""
    form = SheetForm()
    side = form.side.text or "front"
    try:
        if form.simulated.text == "1":
            data = _simulated_sheet(side)
        else:
            file = request.files.get("scan")
            data = file.read() if file else b""
        cards = read_sheet(data)
    except NotFoundError:
        raise
    except BotinError as exc:
        flash(exc.message)
        return redirect(url_for("look.index", _anchor="sheet-head"), 303)
    key = new_key()
    bench().keep(("sheet", key), lambda: cards)
    return redirect(url_for("look.sheet_cards", key=key, side=side), 303)


def _simulated_sheet(side: str) -> bytes:
    """Let the stand-in scan the first cards of the list, in an order of its own."""
    if not current_app.config["DEMO"]:
        message = "The simulated scanner is part of the demo only."
        raise NotFoundError(message)
    first = piles(session()).first[:6]
    subjects = [Subject(one.copy_id, one.product, one.number, one.name, one.parallel) for one in first[::-1]]
    return SimulatedScanner().sheet(subjects, side if side in FACES else "front")


def _held(key: str) -> list[SheetCard]:
    def lost() -> list[SheetCard]:
        message = "That scan is not held any more. Give it again."
        raise NotFoundError(message)

    return bench().keep(("sheet", key), lost)


@look.get("/sheet/<key>")
def sheet_cards(key: str) -> str:
    """Show the cards of a sheet, and ask which copy each is."""
    found = piles(session())
    return render_template(
        "look/sheet.html", cards=_held(key), key=key, side=request.args.get("side", "front"),
        copies=[*found.first, *found.grade],
    )  # fmt: skip


@look.get("/sheet/<key>/<int:at>.jpg")
def sheet_card(key: str, at: int) -> Response:
    """Send one card of a sheet, straightened."""
    cards = _held(key)
    if at >= len(cards):
        message = "There is no such card on the scan."
        raise NotFoundError(message)
    return Response(cards[at].cut, mimetype="image/jpeg")


@look.post("/sheet/<key>")
def match_sheet(key: str) -> AnyResponse | tuple[str, int]:
    """Keep the cards of a sheet with their copies."""
    form, cards = SheetForm(), _held(key)
    side, chosen = form.side.text, form.copies(len(cards))
    try:
        count = keep_sheet(session(), bench(), side, cards, chosen)
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(exc.message)
        return redirect(url_for("look.sheet_cards", key=key, side=side), 303)
    flash(f"{count} card{' is' if count == 1 else 's are'} kept with {'its copy' if count == 1 else 'their copies'}.")
    return redirect(url_for("look.index"), 303)


@look.get("/<int:copy_id>")
def card(copy_id: int) -> str:
    """Show a copy under the glass."""
    return _page(copy_id)


def _page(copy_id: int, typed: dict[str, str] | None = None, wrong: str = "") -> str:
    found = desk.glass(session(), bench(), copy_id)
    asked = request.args.get("side", "")
    side = asked if asked in FACES else "front"
    face = found.faces.get(side)
    return render_template(
        "look/card.html", found=found, side=side, face=face, typed=typed or {}, wrong=wrong,
        lines=ruler_lines(face), closeups=closeups(face), limits=limits_of(found), drives=drives(found),
        pin_kinds=PIN_KINDS, severities=desk.SEVERITIES, places=list(PLACES), key=new_key(),
        scans=scans_of(session(), copy_id), queue=piles(session()).first,
    )  # fmt: skip


@look.post("/<int:copy_id>")
def keep(copy_id: int) -> AnyResponse | tuple[str, int]:
    """Keep a look: its flag follows at once."""
    form = LookForm()
    try:
        before, after = desk.keep_look(session(), bench(), copy_id, form.seen())
    except NotFoundError:
        raise
    except BotinError as exc:
        return _page(copy_id, request.form.to_dict(), exc.message), 422
    flash(f"Kept. {_turned(before, after, copy_id)}")
    onwards = url_for("look.card", copy_id=copy_id)
    if form.onwards.text == "1":
        first = piles(session()).first
        onwards = url_for("look.card", copy_id=first[0].copy_id) if first else url_for("look.index")
    return redirect(onwards, 303)


def _turned(before: desk.Judged, after: desk.Judged, copy_id: int) -> str:
    """Say what became of the flag, with the figure before and after."""
    found = desk.glass(session(), bench(), copy_id)
    if found.no_flag:
        return found.no_flag
    currency = found.product.currency
    was, now = (f"{one.go} ({amount(one.net, currency)})" for one in (before, after))
    if before.go == after.go:
        return f"Its flag stays {after.go}: {amount(before.net, currency)} before, {amount(after.net, currency)} now."
    return f"Its flag was {was} and is {now} now."


@look.post("/<int:copy_id>/scan")
def scan(copy_id: int) -> AnyResponse:
    """Take in scans or photos of front and back; each is measured."""
    given = [(side, file) for side in FACES if (file := request.files.get(side)) and file.filename]
    side = given[0][0] if given else "front"
    if not given:
        flash("No picture was given. Choose, drop or paste a scan of the front or the back.")
    for one, file in given:
        try:
            add_scan(session(), bench(), copy_id, one, file.read())
        except NotFoundError:
            raise
        except BotinError as exc:
            flash(f"The {one}: {exc.message}")
        else:
            flash(f"The {one} is measured.")
    return redirect(url_for("look.card", copy_id=copy_id, side=side), 303)


@look.post("/<int:copy_id>/simulate")
def simulate(copy_id: int) -> AnyResponse:
    """Let the scanner stand-in scan front and back."""
    if not current_app.config["DEMO"]:
        message = "The simulated scanner is part of the demo only."
        raise NotFoundError(message)
    found = desk.glass(session(), bench(), copy_id)
    subject = Subject(copy_id, found.product.name, found.card.number, found.card.name, found.copy.parallel)
    for side in FACES:
        add_scan(session(), bench(), copy_id, side, SimulatedScanner().scan(subject, side), simulated=True)
    flash("The simulated scanner made a scan of front and back.")
    return redirect(url_for("look.card", copy_id=copy_id), 303)


@look.post("/<int:copy_id>/rulers/<int:scan_id>")
def rulers(copy_id: int, scan_id: int) -> AnyResponse:
    """Keep the rulers where the user put them, or take the measured ones again."""
    measured = desk.rulers_of(session(), scan_id, copy_id)
    kept = get_scan(session(), scan_id)
    form = RulersForm()
    if form.again.text == "1":
        put_rulers(session(), kept, None)
        flash("The rulers are where they were measured.")
    else:
        try:
            put_rulers(session(), kept, form.borders(dict(measured)))
        except BotinError as exc:
            flash(exc.message)
        else:
            flash("The rulers stay where you put them.")
    return redirect(url_for("look.card", copy_id=copy_id, side=kept.side), 303)


@look.post("/<int:copy_id>/pin")
def pin(copy_id: int) -> AnyResponse:
    """Pin a mark where it is: clicked on the picture, or by the name of the place."""
    form = PinForm()
    try:
        key = form.client_key.text or new_key()
        before, after = desk.put_pin(session(), bench(), copy_id, key, form.pin())
    except NotFoundError:
        raise
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(f"Pinned. {_turned(before, after, copy_id)}")
    return redirect(url_for("look.card", copy_id=copy_id, side=form.side.text, _anchor="pins-head"), 303)


@look.post("/<int:copy_id>/unpin/<int:pin_id>")
def unpin(copy_id: int, pin_id: int) -> AnyResponse:
    """Take a pin off again."""
    before, after = desk.take_pin(session(), bench(), copy_id, pin_id)
    flash(f"Taken off. {_turned(before, after, copy_id)}")
    return redirect(url_for("look.card", copy_id=copy_id, _anchor="pins-head"), 303)


@look.get("/<int:copy_id>/thumb")
def thumb(copy_id: int) -> Response:
    """Send the latest straightened picture of a copy."""
    latest = next(iter(scans_of(session(), copy_id)), None)
    if latest is None:
        message = "That copy has no scan."
        raise NotFoundError(message)
    return Response(laid_photo(bench(), latest.cut), mimetype="image/jpeg")


@look.get("/scan/<int:scan_id>/<which>")
def picture(scan_id: int, which: str) -> Response:
    """Send the straightened card, or the picture as it was given; what is shown under a name never changes."""
    kept = get_scan(session(), scan_id)
    if which not in ("card", "given"):
        message = "A scan has two pictures: the card, and the picture as given."
        raise NotFoundError(message)
    name, mime = (kept.cut, "image/jpeg") if which == "card" else (kept.file, kept.mime)
    answer = Response(laid_photo(bench(), name), mimetype=mime)
    answer.set_etag(name)
    answer.cache_control.private, answer.cache_control.max_age = True, 31_536_000
    return answer
