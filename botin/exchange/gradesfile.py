"""``grades.json`` and the grading part of ``fees.json``, and ``copies.csv`` as the command for routes reads it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from botin.core.errors import BotinError, UnreadableFileError
from botin.core.grading import COMMON, Grader, Inspection, Limit, Quality, Standard, chances_of, fit_quality
from botin.core.routing import GradingCosts, Tier
from botin.core.selling import SaleCosts
from botin.exchange.fees import number_of, read_json, sale_costs
from botin.exchange.source import read_table
from botin.exchange.tables import Column, TableSpec

COPIES = TableSpec(
    "copies",
    (
        Column("id", "Any word that tells copies apart", required=True),
        Column("section", "Section of the card", required=True),
        Column("number", "Number of the card", required=True),
        Column("parallel", "Finish, empty for the plain card"),
        Column("wanted", "yes for the personal collection"),
        Column("centering", "1 to 10 in halves"),
        Column("corners", "1 to 10 in halves"),
        Column("edges", "1 to 10 in halves"),
        Column("surface", "1 to 10 in halves"),
        Column("front", "larger border in percent, front"),
        Column("back", "larger border in percent, back"),
    ),
)


@dataclass(frozen=True, slots=True)
class CopyRow:
    """A copy as listed."""

    id: str
    section: str
    number: str
    parallel: str
    wanted: bool
    inspection: Inspection | None


def read_copies(path: Path) -> list[CopyRow]:
    """Read a list of copies.

    Raises
    ------
    UnreadableFileError
        When the file cannot be opened or lacks a column.
    BotinError
        When a value is no number of its scale.
    """
    try:
        data = path.read_bytes()
    except OSError as exc:
        message = f"{path} cannot be opened. Give a CSV file with the columns id, section, number; see docs/fees.md."
        raise UnreadableFileError(message) from exc
    found = []
    for raw in read_table(COPIES, data, path.name).rows:
        where = f"{path.name}:{raw.line}"
        parts = [_value(raw.get(name), 1, 10, where) for name in ("centering", "corners", "edges", "surface")]
        sides = [_value(raw.get(name), 50, 100, where) for name in ("front", "back")]
        seen = any(value is not None for value in (*parts, *sides))
        wanted = raw.get("wanted").casefold() in ("yes", "y", "1", "true")
        inspection = Inspection(*parts, *sides) if seen else None
        found.append(
            CopyRow(raw.get("id"), raw.get("section"), raw.get("number"), raw.get("parallel"), wanted, inspection)
        )
    return found


def _value(text: str, low: float, high: float, where: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not low <= value <= high:
        message = f"{where}: “{text}” is not between {low:g} and {high:g}."
        raise BotinError(message)
    return value


def read_fees(path: Path) -> tuple[SaleCosts, GradingCosts]:
    """Read selling and grading costs.

    Raises
    ------
    UnreadableFileError
        When the file cannot be read or a value is no number.
    """
    found = read_json(path, '{"selling": {"fee": 0.12}, "grading": {"tiers": [{"name": "value", "fee": 20}]}}')
    if not isinstance(found, dict):
        message = f"{path} must be one JSON object; see docs/fees.md."
        raise UnreadableFileError(message)
    return sale_costs(found.get("selling", {}), path), grading_costs(found.get("grading", {}), path)


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
    plain = ("shipping", "insured", "membership", "monthly", "handling_minutes", "hourly")
    numbers = {name: number_of(part[name], path, name) for name in plain if name in part}
    together = int(number_of(part.get("together", 1), path, "together"))
    return GradingCosts(tuple(_tier(tier, path) for tier in tiers), together=max(1, together), **numbers)


def _tier(tier: dict[str, Any], path: Path) -> Tier:
    ceiling = tier.get("ceiling")
    return Tier(
        str(tier["name"]),
        number_of(tier.get("fee", 0), path, "fee"),
        None if ceiling is None else number_of(ceiling, path, "ceiling"),
        number_of(tier.get("upcharge", 0), path, "upcharge"),
        number_of(tier.get("days", 30), path, "days"),
        max(1, int(number_of(tier.get("least", 1), path, "least"))),
        bool(tier.get("member", False)),
        str(tier.get("house", "")),
    )


@dataclass(frozen=True)
class GradeBook:
    """Chances or counts of grades, by section, with the grader and the limits."""

    chances: Mapping[str, Mapping[float, float]] = field(default_factory=dict)
    qualities: Mapping[str, Quality] = field(default_factory=dict)
    grader: Grader = field(default_factory=Grader)
    standard: Standard = COMMON

    def of(self, section: str, inspection: Inspection | None) -> dict[float, float]:
        """Chance of each grade of a copy of a section."""
        fixed = self.chances.get(section) or self.chances.get("")
        quality = self.qualities.get(section) or self.qualities.get("")
        if fixed is not None and (quality is None or inspection is None):
            return dict(fixed)
        return chances_of(quality or Quality(), self.grader, inspection, self.standard)


def read_grades(path: Path) -> GradeBook:
    """Read ``grades.json``: chances or counts for all (``chances``, ``counts``) and by section (``sections``).

    Raises
    ------
    UnreadableFileError
        When the file cannot be read or a value is no number.
    """
    found = read_json(path, '{"counts": {"10": 350, "9": 450, "8": 200}}')
    if not isinstance(found, dict):
        message = f"{path} must be one JSON object; see docs/fees.md."
        raise UnreadableFileError(message)
    sections = {"": found, **(found.get("sections") or {})}
    chances: dict[str, dict[float, float]] = {}
    qualities: dict[str, Quality] = {}
    for name, part in sections.items():
        if "chances" in part:
            given = _table(part["chances"], path)
            total = sum(given.values()) or 1.0
            chances[name] = {grade: share / total for grade, share in given.items()}
        if "counts" in part:
            qualities[name] = fit_quality(
                {grade: int(count) for grade, count in _table(part["counts"], path).items()}
            )
    grader = found.get("grader") or {}
    limits = tuple(
        Limit(*(number_of(row.get(key), path, key) for key in ("grade", "front", "back")))
        for row in found.get("limits", [])
    )
    standard = Standard(str(found.get("standard", "own")), limits) if limits else COMMON
    known = Grader()
    own = Grader(
        bias=float(grader.get("bias", known.bias)),
        noise=float(grader.get("noise", known.noise)),
        own_noise=float(grader.get("own_noise", known.own_noise)),
    )
    return GradeBook(chances, qualities, own, standard)


def _table(found: Any, path: Path) -> dict[float, float]:
    if not isinstance(found, dict) or not found:
        message = f'{path}: grades are an object like {{"10": 0.35, "9": 0.45}}; see docs/fees.md.'
        raise UnreadableFileError(message)
    try:
        return {float(grade): number_of(value, path, grade) for grade, value in found.items()}
    except ValueError as exc:
        message = f"{path}: a grade is a number like 10 or 9.5."
        raise UnreadableFileError(message) from exc
