"""``botin owed``: what boxes still owe of what was promised, from a log; no store is touched."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from botin.cli import cli
from botin.cli.buying import FORMAT, product_and_format
from botin.cli.scripts import JSON, PACKAGE, scripted
from botin.core.catalog.product import Format, Product
from botin.core.odds.boxlaw import BoxLaw
from botin.core.odds.lines import BoxModel, box_model
from botin.core.odds.promised import Filled, Version, filled, is_open_ended, promise_law, short
from botin.core.opening.owed import Opened, over_case, owed
from botin.exchange.openedboxes import OpenedBox, packs_left, read_log


@cli.command("owed")
@PACKAGE
@FORMAT
@click.option("--log", "log_path", type=click.Path(path_type=Path), required=True, help="openings.csv")
@click.option("--packs-left", type=click.IntRange(0, 10_000), help="Packs not opened yet; default: those not logged.")
@JSON
@scripted
def owed_command(
    package: Path,
    format_key: str,
    log_path: Path,
    packs_left: int | None,
    *,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say what is still owed of each promise, which cards were counted for it, and whether that is a claim."""
    product, fmt = product_and_format(package, format_key)
    model = box_model(product, fmt, law=BoxLaw(product))
    boxes = [box for box in read_log(log_path, product) if box.format in ("", fmt.key)]
    rows = [row for box in boxes for row in _of_box(model, box, packs_left)]
    rows += _of_case(model, boxes, packs_left)
    unlisted = [list(card) for box in boxes for card in (*box.unlisted, *_not_listed(product, box))]
    return {"promises": rows, "unlisted": unlisted}


def _not_listed(product: Product, box: OpenedBox) -> list[Version]:
    """Cards of a known section whose number or finish the checklist does not have."""
    found = []
    for section, number, parallel in box.cards:
        card = product.card_by_number.get((section, number))
        if number and (card is None or (parallel and product.parallel_of(card, parallel) is None)):
            found.append((section, number, parallel))
    return found


def _of_box(model: BoxModel, box: OpenedBox, told: int | None) -> list[dict[str, Any]]:
    """The promises of one box."""
    fmt = model.format
    left = packs_left(box, fmt) if told is None else told
    room = left * fmt.cards_per_pack + len(box.unlisted)
    product = _product(model)
    lacking = short(product, fmt, box.cards, room=room)
    return [
        _row(model, one, box.box, left, claim=one.owed > 0 and _label(one) in lacking)
        for one in filled(product, fmt, box.cards)
    ]


def _of_case(model: BoxModel, boxes: list[OpenedBox], told: int | None) -> list[dict[str, Any]]:
    """The promises of a whole case: every box of it must be logged before anything is a claim."""
    fmt, product = model.format, _product(model)
    cards = [card for box in boxes for card in box.cards]
    missing = max(0, (fmt.boxes_per_case or 0) - len(boxes)) * fmt.most_packs
    left = missing + sum(packs_left(box, fmt) if told is None else told for box in boxes)
    room = left * fmt.cards_per_pack + sum(len(box.unlisted) for box in boxes)
    lacking = short(product, fmt, cards, room=room, per=("case",))
    complete = bool(fmt.boxes_per_case) and len(boxes) >= (fmt.boxes_per_case or 0)
    return [
        _row(model, one, None, left, claim=complete and one.owed > 0 and _label(one) in lacking)
        for one in filled(product, fmt, cards, per=("case",))
    ]


def _label(one: Filled) -> str:
    return one.row.label or f"{one.row.count} per {one.row.per}"


def _product(model: BoxModel) -> Product:
    if model.box_law is None:
        raise AssertionError
    return model.box_law.product


def _packs(fmt: Format, left: int, *, case: bool) -> Opened:
    whole = fmt.packs_per_box * (fmt.boxes_per_case or 1) if case else fmt.packs_per_box
    return Opened(max(whole, left), left)


def _row(model: BoxModel, one: Filled, box: str | None, left: int, *, claim: bool) -> dict[str, Any]:
    """One promise as the contract has it."""
    law = promise_law(model, one.row)
    case = one.row.per == "case"
    if case and model.format.boxes_per_case:
        joint = next((joint.case_law for joint in model.joint if joint.row == one.row), None)
        law = over_case(law, model.format.boxes_per_case, joint)
    opened = _packs(model.format, left, case=case)
    stands = owed(_label(one), law, len(one.counted), opened, open_ended=is_open_ended(one.row, law))
    return {
        "box": box,
        "label": one.row.label,
        "promised": one.sure or law.mean,
        "seen": len(one.counted),
        "owed": one.owed,
        "chance_next_pack": stands.chance_next,
        "claim": claim,
        "counted": [list(card) for card in one.counted],
    }
