"""Read the backs: a scan of a pack fills its slots; nothing is stored before the lines are logged."""

from __future__ import annotations

from flask import current_app, redirect, render_template, request, url_for

from botin.core.errors import BotinError, NotFoundError
from botin.desk.opening import rip as desk_rip
from botin.desk.opening.packbacks import MOST, Slot, read_pack
from botin.standins.scanner import SimulatedScanner, Subject
from botin.store.models import BoxRecord
from botin.store.opening.boxes import get_box
from botin.store.opening.packs import product_of_pack
from botin.web.offshelf import off_shelf
from botin.web.requests import bench, new_key, session
from botin.web.rip.answer import Answer, done, in_range
from botin.web.rip.forms import BacksForm
from botin.web.rip.routes import rip


@rip.route("/<int:box_id>/backs", methods=["GET", "POST"])
def backs(box_id: int) -> Answer:
    """Take in a scan of a pack's backs, and show what was read."""
    box = get_box(session(), box_id)
    if (gone := off_shelf(box)) is not None:
        return gone
    if box.state != "open":
        return redirect(url_for("rip.desk", box_id=box_id))
    pack = in_range(box, request.values.get("pack", box.pack, type=int))
    if request.method == "GET":
        return _page(box, pack)
    try:
        slots = read_pack(session(), bench(), box, pack, _given(box, pack))
    except NotFoundError:
        raise
    except BotinError as exc:
        return _page(box, pack, wrong=exc.message), 422
    return _page(box, pack, slots)


def _page(box: BoxRecord, pack: int, slots: list[Slot] | None = None, wrong: str = "") -> str:
    return render_template("rip/backs.html", box=box, pack=pack, slots=slots, wrong=wrong, most=MOST, key=new_key())


def _given(box: BoxRecord, pack: int) -> bytes:
    """Return the scan that was given, or the stand-in's of a pack nobody knows."""
    if BacksForm().simulated.text != "1":
        file = request.files.get("scan")
        return file.read() if file else b""
    if not current_app.config["DEMO"]:
        message = "The simulated scanner is part of the demo only."
        raise NotFoundError(message)
    product = bench().product(session(), product_of_pack(session(), box, pack))
    count = min(MOST, box.format.cards_per_pack)
    picked = [
        product.cards[(977 * box.id + 131 * pack + 37 * at * at + 11 * at) % len(product.cards)]
        for at in range(count)
    ]
    subjects = [
        Subject(
            at,
            product.name,
            card.number,
            card.name,
            code=f"V{40 + at}{product.section_by_key[card.section].back_code}",
        )
        for at, card in enumerate(picked)
    ]
    return SimulatedScanner().sheet(subjects)


@rip.post("/<int:box_id>/backs/log")
def log_backs(box_id: int) -> Answer:
    """Log the lines of a scan as one step: all of them or none; each line is read by itself."""
    box = get_box(session(), box_id)
    form = BacksForm()
    pack, key, lines = in_range(box, form.pack.lenient(box.pack)), form.key, form.lines()
    try:
        read = [desk_rip.read_entry(session(), bench(), box, line, pack, key) for line in lines]
        problems = [
            f"“{line}”: {one.message}" for line, entry in zip(lines, read, strict=True) for one in entry.problems
        ]
        if problems or not lines:
            return _again(
                box, pack, lines, " ".join(problems) or "No card is chosen. Choose one, or type its number."
            )
        items = tuple(item for entry in read for item in entry.items)
        desk_rip.log_entry(session(), bench(), box, items=items, pack=pack, client_key=key)
    except BotinError as exc:
        return _again(box, pack, lines, exc.message)
    return done(box, pack, f"{len(items)} card{'' if len(items) == 1 else 's'} logged from their backs.")


def _again(box: BoxRecord, pack: int, lines: list[str], wrong: str) -> tuple[str, int]:
    """Show the lines as they were, and what is wrong with them; nothing was stored."""
    return _page(box, pack, [Slot(line, "", (), "") for line in lines], wrong), 422
