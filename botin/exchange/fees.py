"""``fees.json``: what selling and grading cost, as the user wrote it down."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from botin.core.errors import UnreadableFileError
from botin.core.selling import Channel, PostageStep, SaleCosts

PLAIN = ("fee", "fixed", "postage", "materials", "minutes", "hourly", "bulk_below", "bulk_each")


def read_json(path: Path, example: str) -> Any:
    """Read a JSON file.

    Raises
    ------
    UnreadableFileError
        When it cannot be opened or is not JSON.
    """
    try:
        return json.loads(path.read_text("utf-8-sig"))
    except (OSError, ValueError) as exc:
        message = f"{path} cannot be read as JSON. It looks like {example}; see docs/fees.md."
        raise UnreadableFileError(message) from exc


def number_of(found: Any, path: Path, name: str) -> float:
    """Return a number that is not negative.

    Raises
    ------
    UnreadableFileError
        When it is something else.
    """
    if isinstance(found, bool) or not isinstance(found, int | float) or not 0 <= found < 1e12:
        message = f"{path}: “{name}” is {found!r}; it must be a number that is not negative."
        raise UnreadableFileError(message)
    return float(found)


def read_sale_costs(path: Path) -> SaleCosts:
    """Read the ``selling`` part: fee (a share), fixed, postage, materials, minutes, hourly, bulk_below, bulk_each.

    Raises
    ------
    UnreadableFileError
        When the file cannot be read, or a value is no number.
    """
    found = read_json(path, '{"selling": {"fee": 0.12, "fixed": 0.3, "postage": 1.2}}')
    return sale_costs(found.get("selling", found) if isinstance(found, dict) else None, path)


def sale_costs(part: Any, path: Path) -> SaleCosts:
    """Turn one JSON object into sale costs; ``channels`` and ``postage_steps`` are lists of objects.

    Raises
    ------
    UnreadableFileError
        When it is no object, or a value is no number.
    """
    if not isinstance(part, dict):
        message = f"{path}: “selling” must be an object with fee, fixed and postage; see docs/fees.md."
        raise UnreadableFileError(message)
    plain = {key: number_of(part[key], path, key) for key in PLAIN if key in part}
    if plain.get("fee", 0.0) >= 1:
        message = f"{path}: “fee” is {plain['fee']:g}; write 12 % as 0.12."
        raise UnreadableFileError(message)
    channels = tuple(_channel(row, path) for row in _objects(part, "channels", path))
    steps = tuple(_step(row, path) for row in _objects(part, "postage_steps", path))
    tops = [float("inf") if step.up_to is None else step.up_to for step in steps]
    if tops != sorted(set(tops)):
        message = f"{path}: “up_to” of “postage_steps” must rise from step to step."
        raise UnreadableFileError(message)
    return SaleCosts(**plain, channels=channels, steps=steps)


def _objects(part: dict[str, Any], name: str, path: Path) -> list[dict[str, Any]]:
    rows = part.get(name, [])
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        message = f"{path}: “{name}” must be a list of objects; see docs/fees.md."
        raise UnreadableFileError(message)
    return rows


def _channel(row: dict[str, Any], path: Path) -> Channel:
    numbers = {
        key: number_of(row[key], path, key) for key in ("fee", "fixed", "materials", "minutes", "least") if key in row
    }
    if not row.get("name") or numbers.get("fee", 0.0) >= 1:
        message = f"{path}: a channel has a “name” and a “fee” below 1 (12 % is 0.12)."
        raise UnreadableFileError(message)
    most = row.get("most")
    return Channel(
        str(row["name"]),
        most=None if most is None else number_of(most, path, "most"),
        sent=not row.get("by_hand", False),
        **numbers,
    )


def _step(row: dict[str, Any], path: Path) -> PostageStep:
    top = row.get("up_to")
    return PostageStep(
        None if top is None else number_of(top, path, "up_to"),
        number_of(row.get("postage", 0), path, "postage"),
        number_of(row.get("insured", 0), path, "insured"),
    )
