"""Correct what is logged: a card in place, a pack's facts, the trays of what is not sure and not listed."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Product
from botin.core.errors import EntryError, NotFoundError
from botin.core.opening.entryitems import EntryItem, Problem
from botin.desk.opening.owners import settle_owners
from botin.desk.opening.steps import Change, add_step, require_open
from botin.desk.workbench import Workbench
from botin.store.catalog.lists import products_with_cards
from botin.store.catalog.products import load_product, save_product
from botin.store.copies.copies import follow
from botin.store.keys import stored_under
from botin.store.models import BoxRecord, CardRecord, PullRecord, StepRecord
from botin.store.opening.boxes import card_ids
from botin.store.opening.packs import pack_row, product_of_pack
from botin.store.unit import finish

FLAGS = ("short", "over", "flipped", "out of order", "searched?")
PROPOSALS = 5


@dataclass(frozen=True, slots=True)
class Version:
    """One thing a copy could be, with the cue that tells it."""

    section: str
    number: str
    parallel: str
    label: str
    cue: str
    back_code: str


def get_pull(session: Session, box: BoxRecord, pull_id: int) -> PullRecord:
    """Return a copy of a box.

    Raises
    ------
    NotFoundError
        When it is not there, or taken back.
    """
    found = session.get(PullRecord, pull_id)
    if found is None or found.box_id != box.id or found.undone_at is not None:
        message = "That card is not in this box any more. Reload the desk."
        raise NotFoundError(message)
    return found


def change_pull(
    session: Session, bench: Workbench, box: BoxRecord, pull: PullRecord, *, after: dict[str, object], client_key: str
) -> None:
    """Change columns of a logged copy as one step that can be undone; the same key again changes nothing."""
    if stored_under(session, StepRecord, client_key) is not None:
        return
    require_open(box)
    before = {name: getattr(pull, name) for name in after}
    if before == after:
        return
    for name, value in after.items():
        setattr(pull, name, value)
    add_step(session, box, bench.now(), client_key, "corrected", [Change("pull", pull.id, before, dict(after))])
    follow(session, [pull.id])
    settle_owners(session, bench, box, [pull.id])
    finish(session)


def remove_pull(session: Session, bench: Workbench, box: BoxRecord, pull_id: int, client_key: str) -> None:
    """Take one card out, wherever it stands; undo brings it back."""
    if stored_under(session, StepRecord, client_key) is not None:
        return
    require_open(box)
    pull, now = get_pull(session, box, pull_id), bench.now()
    pull.undone_at = now
    gone = Change("pull", pull.id, {"undone_at": None}, {"undone_at": now.isoformat()})
    add_step(session, box, now, client_key, "taken out", [gone])
    follow(session, [pull.id])
    finish(session)


def as_typed(session: Session, pull: PullRecord) -> str:
    """Return a copy as one would type it, to correct it in place."""
    if pull.card_id is None:
        return f"+ {pull.typed}"
    card = session.get_one(CardRecord, pull.card_id)
    details = json.loads(pull.details) if pull.details else {}
    words = [card.number, pull.parallel, f"{pull.serial}/{pull.run}!" if pull.serial else ""]
    words += [mark.replace(" ", "").replace("-", "") for mark in details.get("marks", "").split(";") if mark]
    words += [f"…{details['back_code']}"] if details.get("back_code") else []
    words += [f"cert:{details['certificate']}"] if details.get("certificate") else []
    words += [f"code:{details['claim_code']}"] if details.get("claim_code") else []
    words += [f"by:{details['claim_by']}"] if details.get("claim_by") else []
    words += [f"claimed:{details['claimed_on']}"] if details.get("claimed_on") else []
    words += [f"received:{details['received_on']}"] if details.get("received_on") else []
    words += ["?"] if pull.candidates else []
    words += [f"@{details['owner'].replace(' ', '_')}"] if details.get("owner") else []
    words += [f'"{details["note"]}"'] if details.get("note") else []
    return " ".join(word for word in words if word)


def edit_pull(
    session: Session, bench: Workbench, box: BoxRecord, pull: PullRecord, text: str, *, pack: int, client_key: str
) -> tuple[Problem, ...]:
    """Read a line anew for a logged copy and put it in its place; return what is wrong with it, if anything."""
    record = product_of_pack(session, box, pull.pack)
    entry = bench.reader(session, record).read(text)
    if entry.problems:
        return entry.problems
    if len(entry.items) != 1:
        return (Problem("", "A card in its place is one card. Type one number, with its finish and marks."),)
    item = entry.items[0]
    if not 0 <= pack <= max(1, box.format.packs_per_box):
        return (Problem("", f"This box has packs 1 to {box.format.packs_per_box}, and 0 for outside them."),)
    after = _columns(session, record.id, item)
    change_pull(session, bench, box, pull, after={**after, "pack": pack}, client_key=client_key)
    return ()


def _columns(session: Session, product_id: int, item: EntryItem) -> dict[str, object]:
    card = None
    if item.card is not None:
        place = (item.card.section, item.card.number)
        card = card_ids(session, product_id, [place])[place]
    details = item.details.to_dict()
    return {
        "card_id": card,
        "parallel": item.parallel,
        "serial": item.serial,
        "run": item.run,
        "typed": item.typed,
        "details": json.dumps(details, ensure_ascii=False) if details else "",
        "candidates": json.dumps(item.candidates) if item.candidates else "",
    }


def versions_of(product: Product, candidates: str) -> list[Version]:
    """Return what a copy could be, with the cues of the product beside each."""
    found = []
    for section, number, parallel in json.loads(candidates) if candidates else ():
        card, part = product.card_by_number.get((section, number)), product.section_by_key.get(section)
        if card is None or part is None:
            continue
        row = product.parallel_of(card, parallel) if parallel else None
        label = f"{part.label} {number}" + (f" {row.label}" if row else "")
        cue, code = (row.cue, row.back_code) if row else (part.cue, part.back_code)
        found.append(Version(section, number, parallel, label, cue, code))
    return found


def settle(
    session: Session, bench: Workbench, box: BoxRecord, pull: PullRecord, version: Sequence[str], client_key: str
) -> None:
    """Settle what a copy is: one of its candidates, or the checklist entry an unlisted one turned out to be.

    Raises
    ------
    EntryError
        When that version is not on the checklist.
    """
    section, number, parallel = version
    record = product_of_pack(session, box, pull.pack)
    card = card_ids(session, record.id, [(section, number)]).get((section, number))
    if card is None:
        message = "That card is not on the checklist. Pick one of those shown, or add it."
        raise EntryError(message)
    after: dict[str, object] = {"card_id": card, "parallel": parallel, "candidates": ""}
    change_pull(session, bench, box, pull, after=after, client_key=client_key)


def proposals(product: Product, typed: str) -> list[Version]:
    """Return the checklist entries that are closest to what was typed for an unlisted card."""
    from rapidfuzz import fuzz, process, utils  # noqa: PLC0415

    words = [f"{card.number} {card.name} {product.section_by_key[card.section].label}" for card in product.cards]
    near = process.extract(
        typed, words, scorer=fuzz.token_set_ratio, processor=utils.default_process, limit=PROPOSALS
    )
    found = []
    for _, score, place in near:
        if score < 45:
            continue
        card = product.cards[place]
        section = product.section_by_key[card.section]
        found.append(
            Version(card.section, card.number, "", f"{section.label} {card.number} {card.name}", section.cue, "")
        )
    return found


def add_to_checklist(
    session: Session,
    bench: Workbench,
    box: BoxRecord,
    pull: PullRecord,
    card: Card,
    client_key: str,
    finish: str = "",
) -> None:
    """Put an unlisted card onto the checklist of its product, and the copy onto it in its finish.

    Parameters
    ----------
    finish : str
        Key of the finish, empty where it is plain; a copy with a serial takes the one finish of that run by itself.

    Raises
    ------
    EntryError
        When number or section cannot be.
    """
    if stored_under(session, StepRecord, client_key) is not None:
        return
    require_open(box)
    record = product_of_pack(session, box, pull.pack)
    product = load_product(session, record)
    if card.section not in product.section_by_key:
        message = "Pick the section it belongs to."
        raise EntryError(message)
    if not card.number.strip() or not card.name.strip():
        message = "A card on the checklist needs a number and a name."
        raise EntryError(message)
    if (card.section, card.number) in product.card_by_number:
        message = f"Number {card.number} is on that section’s list already. Match the copy to it instead."
        raise EntryError(message)
    parallel = finish or pull.parallel or _finish_of_run(product, card, pull.run)
    save_product(session, replace(product, cards=(*product.cards, card)))
    settle(session, bench, box, pull, (card.section, card.number, parallel), client_key)


def _finish_of_run(product: Product, card: Card, run: int | None) -> str:
    """Return the finish that a stamped run stands for in a section; empty for a copy without a serial.

    Raises
    ------
    EntryError
        When no finish has that run, or several have: then it must be said.
    """
    if run is None:
        return ""
    found = [key for key, row in product.finishes(card.section, card.group).items() if row.stamped == run]
    if len(found) != 1:
        why = "no finish of that section is" if not found else f"{', '.join(found)} are"
        message = f"It is stamped /{run}, and {why} numbered to {run}. Say which finish it is."
        raise EntryError(message)
    return found[0]


def set_pack(
    session: Session, bench: Workbench, box: BoxRecord, number: int, *, after: dict[str, object], client_key: str
) -> None:
    """Write down facts of a pack (flags, owner, note, its product in a mixed box) as one step."""
    if stored_under(session, StepRecord, client_key) is not None:
        return
    require_open(box)
    row = pack_row(session, box.id, number)
    before = {name: getattr(row, name) for name in after}
    if before == after:
        return
    for name, value in after.items():
        setattr(row, name, value)
    add_step(session, box, bench.now(), client_key, f"pack {number}", [Change("pack", number, before, dict(after))])
    settle_owners(session, bench, box)
    finish(session)


def set_box(session: Session, bench: Workbench, box: BoxRecord, *, after: dict[str, object], client_key: str) -> None:
    """Change how a box is logged: every card or hits only, with or without pack borders, its case, its owners."""
    if stored_under(session, StepRecord, client_key) is not None:
        return
    require_open(box)
    before = {name: getattr(box, name) for name in after}
    if before == after:
        return
    for name, value in after.items():
        setattr(box, name, value)
    add_step(session, box, bench.now(), client_key, "how it is logged", [Change("box", box.id, before, dict(after))])
    settle_owners(session, bench, box)
    finish(session)


def other_products(session: Session, box: BoxRecord) -> list[tuple[int, str]]:
    """Return the products a pack of a mixed box can be of, the box's own first."""
    return sorted(products_with_cards(session, 200), key=lambda row: row[0] != box.format.product_id)
