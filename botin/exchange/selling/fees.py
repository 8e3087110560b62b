"""``fees.json``: what selling and grading cost, as the user wrote it down."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Any

from botin.core.errors import UnreadableFileError
from botin.core.flags.ways import GradingCosts, Looking, Tier
from botin.core.selling.costs import Channel, PostageStep, SaleCosts
from botin.exchange.selling.services import SERVICES, service_named
from botin.exchange.unused import Unused, meant

PLAIN = ("fee", "fixed", "postage", "materials", "minutes", "hourly", "bulk_below", "bulk_each")
SELLING = (*PLAIN, "channels", "postage_steps")
CHANNEL = ("name", "fee", "fixed", "materials", "minutes", "least", "most", "by_hand")
STEP = ("up_to", "postage", "insured")
GRADING_NUMBERS = ("shipping", "insured", "membership", "monthly", "handling_minutes", "hourly")
GRADING = (*GRADING_NUMBERS, "together", "tiers", "joined", "returns")
TIER = (
    "name", "fee", "ceiling", "upcharge", "days", "least", "member", "house", "service", "from_year", "to_year",
    "since", "until",
)  # fmt: skip
RETURN = ("house", "more_than", "shipping")
PARTS = ("selling", "grading", "looking")


@dataclass(frozen=True)
class Fees:
    """``fees.json`` as understood, and what of it was not used."""

    selling: SaleCosts
    grading: GradingCosts
    looking: Looking
    unused: tuple[Unused, ...]
    limits: tuple[dict[str, Any], ...] = ()
    parts: frozenset[str] = frozenset()
    """Parts that stand in the file: only these may take the place of what a home keeps."""


LIMIT = ("house", "grade", "front", "back")


def read_fees(path: Path, places: int = 2, currency: str = "", *, for_home: bool = False) -> Fees:
    """Read what selling, grading and looking cost.

    Parameters
    ----------
    places : int
        Decimals of the currency: a sale is settled in whole minor units.
    currency : str
        Its code, written behind amounts in words.
    for_home : bool
        Read the limits of centering too, which a command reads from ``grades.json``.

    Raises
    ------
    UnreadableFileError
        When the file cannot be read, a value is no number, or a tier has no fee.
    """
    found = read_json(path, '{"selling": {"fee": 0.12}, "grading": {"tiers": [{"name": "value", "fee": 20}]}}')
    if not isinstance(found, dict):
        message = f"{path} must be one JSON object; see docs/fees.md."
        raise UnreadableFileError(message)
    inside = any(key in found for key in (*PARTS, *(("limits",) if for_home else ())))
    selling = found.get("selling", {} if inside else found)
    costs = replace(sale_costs(selling, path), places=places, currency=currency)
    grading = found.get("grading", {})
    looking = found.get("looking", {})
    if not isinstance(looking, dict):
        message = f"{path}: “looking” must be an object with minutes; see docs/fees.md."
        raise UnreadableFileError(message)
    look = Looking(
        number_of(looking.get("minutes", Looking().minutes), path, "minutes"),
        number_of(looking.get("hourly", costs.hourly), path, "hourly"),
    )
    parts = (*PARTS, "limits") if for_home else PARTS
    unused = [*_unknown(found, parts, path, "")] if inside else []
    limits = _limits(found.get("limits", []) if for_home else [], path)
    unused += _unused_selling(selling, path) + _unused_grading(grading, path)
    unused += _unknown(looking, ("minutes", "hourly"), path, "looking")
    for at, row in enumerate(found.get("limits", []) if for_home else []):
        unused += _unknown(row, LIMIT, path, f"limits[{at}]")
    given = frozenset(found) if inside else frozenset(("selling",) if found else ())
    return Fees(costs, grading_costs(grading, path), look, tuple(unused), limits, given)


def _limits(rows: Any, path: Path) -> tuple[dict[str, Any], ...]:
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        message = f"{path}: “limits” must be a list of objects with grade, front and back; see docs/fees.md."
        raise UnreadableFileError(message)
    for row in rows:
        grade, front, back = (number_of(row.get(key), path, key) for key in LIMIT[1:])
        if grade > 10 or not 50 <= min(front, back) <= max(front, back) <= 100:
            message = f"{path}: a limit has a grade up to 10, and the larger border in percent, 50 to 100."
            raise UnreadableFileError(message)
    return tuple({key: row[key] for key in LIMIT if key in row} for row in rows)


def _unknown(part: Any, keys: tuple[str, ...], path: Path, where: str) -> list[Unused]:
    """Keys of an object that mean nothing there."""
    at = f"{path.name}: {where}" if where else path.name
    found = part if isinstance(part, dict) else {}
    return [
        Unused(at, str(key), f"no key that is read here{meant(str(key), keys)}") for key in found if key not in keys
    ]


def _unused_selling(part: Any, path: Path) -> list[Unused]:
    found = _unknown(part, SELLING, path, "selling")
    for name, keys in (("channels", CHANNEL), ("postage_steps", STEP)):
        for at, row in enumerate(part.get(name, [])):
            found += _unknown(row, keys, path, f"selling.{name}[{at}]")
    return found


def _unused_grading(part: Any, path: Path) -> list[Unused]:
    found = _unknown(part, GRADING, path, "grading")
    for at, row in enumerate(part.get("tiers", [])):
        found += _unknown(row, TIER, path, f"grading.tiers[{at}]")
    for at, row in enumerate(part.get("returns", [])):
        found += _unknown(row, RETURN, path, f"grading.returns[{at}]")
    return found


def grading_costs(part: Any, path: Path) -> GradingCosts:
    """Turn the grading part into costs.

    Raises
    ------
    UnreadableFileError
        When it is no object of numbers and tiers.
    """
    tiers = part.get("tiers", []) if isinstance(part, dict) else None
    if not isinstance(tiers, list) or not all(isinstance(tier, dict) and tier.get("name") for tier in tiers):
        message = f"{path}: “grading” must be an object with a list of tiers, each with a name; see docs/fees.md."
        raise UnreadableFileError(message)
    numbers = {name: number_of(part.get(name, 0), path, name) for name in GRADING_NUMBERS}
    together = int(number_of(part.get("together", 1), path, "together"))
    return GradingCosts(
        tuple(_tier(tier, path) for tier in tiers),
        together=max(1, together),
        joined=bool(part.get("joined", False)),
        returns=tuple(_return(row, path) for row in _rows(part, "returns", path)),
        shipping=numbers["shipping"],
        insured=numbers["insured"],
        membership=numbers["membership"],
        monthly=numbers["monthly"],
        handling_minutes=numbers["handling_minutes"],
        hourly=numbers["hourly"],
    )


def _rows(part: dict[str, Any], name: str, path: Path) -> list[dict[str, Any]]:
    rows = part.get(name, [])
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        message = f"{path}: “{name}” must be a list of objects; see docs/fees.md."
        raise UnreadableFileError(message)
    return rows


def _return(row: dict[str, Any], path: Path) -> tuple[str, int, float]:
    cards = int(number_of(row.get("more_than", 0), path, "more_than"))
    return str(row.get("house", "")), cards, number_of(row.get("shipping", 0), path, "shipping")


def _tier(tier: dict[str, Any], path: Path) -> Tier:
    if "fee" not in tier:
        near = next((key for key in tier if meant(str(key), ("fee",))), None)
        hint = f" “{near}” is not read: write “fee”." if near else " Write “fee”, 0 when it is free."
        message = f"{path}: tier “{tier['name']}” has no fee.{hint}"
        raise UnreadableFileError(message)
    ceiling = tier.get("ceiling")
    since, until = _day(tier, "since", path), _day(tier, "until", path)
    if since and until and until < since:
        message = f"{path}: tier “{tier['name']}” ends on {until.isoformat()}, before it begins."
        raise UnreadableFileError(message)
    return Tier(
        name=str(tier["name"]),
        fee=number_of(tier["fee"], path, "fee"),
        ceiling=None if ceiling is None else number_of(ceiling, path, "ceiling"),
        upcharge=number_of(tier.get("upcharge", 0), path, "upcharge"),
        days=number_of(tier.get("days", 30), path, "days"),
        least=max(1, int(number_of(tier.get("least", 1), path, "least"))),
        member=bool(tier.get("member", False)),
        house=str(tier.get("house", "")),
        service=_service(tier, path),
        years=(_year(tier, "from_year", path), _year(tier, "to_year", path)),
        since=since,
        until=until,
    )


def _service(tier: dict[str, Any], path: Path) -> str:
    text = str(tier.get("service", "")).strip()
    found = service_named(text)
    if found is None:
        message = f"{path}: “{text}” is no service of a tier; it is one of grade, {', '.join(SERVICES[1:])}."
        raise UnreadableFileError(message)
    return found


def _year(tier: dict[str, Any], key: str, path: Path) -> int | None:
    value = tier.get(key)
    return None if value in (None, "") else int(number_of(value, path, key))


def _day(tier: dict[str, Any], key: str, path: Path) -> date | None:
    try:
        return date.fromisoformat(str(tier[key])) if tier.get(key) else None
    except ValueError as exc:
        message = f"{path}: “{tier[key]}” is no day like 2026-03-14 ({key} of tier “{tier['name']}”)."
        raise UnreadableFileError(message) from exc


def read_json(path: Path, example: str) -> Any:
    """Read a JSON file.

    Raises
    ------
    UnreadableFileError
        When it cannot be opened or is not JSON.
    """
    try:
        return json.loads(path.read_text("utf-8-sig"))
    except (OSError, ValueError, RecursionError) as exc:
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
    return SaleCosts(channels=channels, steps=steps, **plain)  # type: ignore[arg-type]  # (all but places are floats)


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
