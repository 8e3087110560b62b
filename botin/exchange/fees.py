"""``fees.json``: what selling and grading cost, as the user wrote it down."""

from __future__ import annotations

import json
from dataclasses import fields
from pathlib import Path
from typing import Any

from botin.core.errors import UnreadableFileError
from botin.core.selling import SaleCosts


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
    """Turn one JSON object into sale costs.

    Raises
    ------
    UnreadableFileError
        When it is no object, or a value is no number.
    """
    if not isinstance(part, dict):
        message = f"{path}: “selling” must be an object with fee, fixed and postage; see docs/fees.md."
        raise UnreadableFileError(message)
    names = {field.name for field in fields(SaleCosts)}
    costs = SaleCosts(**{key: number_of(value, path, key) for key, value in part.items() if key in names})
    if costs.fee >= 1:
        message = f"{path}: “fee” is {costs.fee:g}; write 12 % as 0.12."
        raise UnreadableFileError(message)
    return costs
