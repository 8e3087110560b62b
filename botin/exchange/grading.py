"""``grades.json``: how copies grade, for all and by section, at one house or at several."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from botin.core.catalog.naming import chosen
from botin.core.errors import UnreadableFileError
from botin.core.grading.forecast import Forecaster, House, compared, house_of, quality_from, told_apart
from botin.core.grading.grades import COMMON, Grader, Inspection, Limit, Quality, Standard
from botin.exchange.selling.fees import number_of, read_json
from botin.exchange.unused import Unused, meant
from botin.exchange.values import ValueUnclearError, read_grade

ASSUMED = replace(COMMON, assumed=True)
KEYS = ("counts", "chances", "grader", "limits", "sections", "houses", "standard")
SECTION_KEYS = ("counts", "chances")
GRADER_KEYS = ("bias", "noise", "own_noise")
SHARES_NEAR = 0.02
"""Shares are taken when they add up to 1 (or 100) within this part of it."""
LEAST_NOISE = 0.05


@dataclass(frozen=True)
class HouseBook:
    """What is known of one house: quality by section (empty: all others), its grader, its limits."""

    qualities: Mapping[str, Quality] = field(default_factory=dict)
    grader: Grader = field(default_factory=Grader)
    standard: Standard = ASSUMED

    def house(self, section: str) -> House:
        """Return the house ready to forecast the cards of a section."""
        quality = self.qualities.get(section) or self.qualities.get("") or Quality()
        return house_of(quality, self.grader, self.standard)


@dataclass(frozen=True)
class GradeBook:
    """The houses by name; the empty name is any house that is not described."""

    houses: Mapping[str, HouseBook] = field(default_factory=lambda: {"": HouseBook()})
    unused: tuple[Unused, ...] = ()

    def of(self, section: str, inspection: Inspection | None, house: str = "") -> dict[float, float]:
        """Chance of each grade of a copy of a section at a house."""
        return self._of(house).house(section).forecast(inspection)

    def looks(self, section: str, houses: tuple[str, ...]) -> dict[str, Forecaster]:
        """Return what a closer look can show at each of some houses."""
        return compared(tuple((name, self._of(name).house(section)) for name in houses))

    def _of(self, house: str) -> HouseBook:
        return self.houses.get(house.casefold()) or self.houses[""]


def read_grades(path: Path, section: Callable[[str], str | None] = lambda text: text) -> GradeBook:
    """Read ``grades.json``.

    Parameters
    ----------
    path : Path
        The file; its shape is in docs/fees.md.
    section : callable
        Finds the section a key means.

    Raises
    ------
    UnreadableFileError
        When the file cannot be read or a value is no number.
    """
    found = read_json(path, '{"counts": {"10": 350, "9": 450, "8": 200}}')
    if not isinstance(found, dict):
        message = f"{path} must be one JSON object; see docs/fees.md."
        raise UnreadableFileError(message)
    reader = _Reader(path, section)
    return reader.book(found)


class _Reader:
    """Reads one file, and notes what of it was not used."""

    def __init__(self, path: Path, section: Callable[[str], str | None]) -> None:
        self.path, self.section = path, section
        self.unused: list[Unused] = []

    def book(self, found: dict[str, Any]) -> GradeBook:
        general = self.house(found, HouseBook(), "", KEYS)
        houses = {"": general}
        for name, part in self.object(found.get("houses"), "houses").items():
            if not isinstance(part, dict):
                message = f"{self.path}: house “{name}” must be an object; see docs/fees.md."
                raise UnreadableFileError(message)
            houses[name.casefold()] = self.house(part, general, f"houses.{name}", KEYS[:5])
        return GradeBook(_told_apart(houses, found), tuple(self.unused))

    def house(self, part: dict[str, Any], general: HouseBook, where: str, keys: tuple[str, ...]) -> HouseBook:
        """Read one house; what it does not say is as in general; a section's counts come before those for all."""
        self.unknown(part, keys, where)
        own = self.quality(part, where)
        qualities = {name: quality for name, quality in general.qualities.items() if name or own is None}
        if own is not None:
            qualities[""] = own
        for text, rows in self.object(part.get("sections"), f"{where}.sections").items():
            name = self.section(text)
            if name is None:
                self.unused.append(
                    Unused(self.at(f"{where}.sections"), text, "no section is called so, or more than one")
                )
                continue
            self.unknown(rows, SECTION_KEYS, f"{where}.sections.{text}")
            quality = self.quality(rows, f"{where}.sections.{text}")
            if quality is not None:
                qualities[name] = quality
        limits = self.limits(part.get("limits"), where)
        standard = general.standard if limits is None else Standard(str(part.get("standard", "own")), limits)
        return HouseBook(qualities, self.grader(part.get("grader"), general.grader, where), standard)

    def at(self, where: str) -> str:
        """Return a place in the file."""
        return f"{self.path.name}: {where.strip('.')}" if where.strip(".") else self.path.name

    def object(self, found: Any, where: str) -> dict[str, Any]:
        """Return an object; nothing when it is not there."""
        if found is None:
            return {}
        if not isinstance(found, dict):
            message = f"{self.path}: “{where.strip('.')}” must be an object; see docs/fees.md."
            raise UnreadableFileError(message)
        return found

    def unknown(self, part: Any, keys: tuple[str, ...], where: str) -> None:
        """Note keys that mean nothing here."""
        for key in self.object(part, where):
            if key not in keys:
                self.unused.append(
                    Unused(self.at(where), str(key), f"no key that is read here{meant(str(key), keys)}")
                )

    def quality(self, part: dict[str, Any], where: str) -> Quality | None:
        """Return how copies grade by chances, else by counts; None when neither is given."""
        if "chances" in part:
            shares = self.table(part["chances"], f"{where}.chances")
            total = sum(shares.values())
            whole = next((one for one in (1.0, 100.0) if abs(total / one - 1) <= SHARES_NEAR), None)
            if whole is None:
                message = (
                    f"{self.at(where)}: the chances add up to {total:g}. They must add up to 1, or to 100 percent."
                )
                raise UnreadableFileError(message)
            return quality_from(shares, 1000)
        if "counts" not in part:
            return None
        counts = self.table(part["counts"], f"{where}.counts")
        total = sum(counts.values())
        if total <= 0:
            message = f"{self.at(where)}: the counts are all 0. Give the number of copies of each grade."
            raise UnreadableFileError(message)
        shares_given = abs(total - 1) <= SHARES_NEAR and any(value != int(value) for value in counts.values())
        return quality_from(counts, 1000 if shares_given else max(5, round(total)))

    def table(self, found: Any, where: str) -> dict[float, float]:
        """Return grades with their numbers; ``10``, ``10.0`` and ``Gem 10`` are one grade."""
        if not isinstance(found, dict) or not found:
            message = f'{self.path}: grades are an object like {{"10": 0.35, "9": 0.45}}; see docs/fees.md.'
            raise UnreadableFileError(message)
        rows: dict[float, float] = {}
        for text, value in found.items():
            try:
                grade = read_grade(str(text))
            except ValueUnclearError as exc:
                message = f"{self.at(where)}: {exc.message}"
                raise UnreadableFileError(message) from exc
            if not grade:
                self.unused.append(
                    Unused(self.at(where), str(text), "no grade: copies that were not graded do not count")
                )
                continue
            rows[float(grade)] = rows.get(float(grade), 0.0) + number_of(value, self.path, str(text))
        return rows

    def grader(self, part: Any, general: Grader, where: str) -> Grader:
        """Return bias and noise; what is not said is as in general."""
        values = self.object(part, f"{where}.grader")
        self.unknown(values, GRADER_KEYS, f"{where}.grader")
        bias = values.get("bias", general.bias)
        if isinstance(bias, bool) or not isinstance(bias, int | float) or not -5 <= bias <= 5:
            message = f"{self.path}: “bias” is {bias!r}; it is a number of grades, like -0.2."
            raise UnreadableFileError(message)
        noise, own = (
            max(LEAST_NOISE, number_of(values.get(name, getattr(general, name)), self.path, name))
            for name in ("noise", "own_noise")
        )
        return Grader(bias=float(bias), noise=noise, own_noise=own)

    def limits(self, rows: Any, where: str) -> tuple[Limit, ...] | None:
        """Return limits of centering, sorted by their grade; None when none are given."""
        if rows is None:
            return None
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            message = f"{self.path}: “limits” must be a list of objects with grade, front and back; see docs/fees.md."
            raise UnreadableFileError(message)
        found = []
        for at, row in enumerate(rows):
            self.unknown(row, ("grade", "front", "back"), f"{where}.limits[{at}]")
            sides = [
                max(one, 100 - one)
                for one in (number_of(row.get(key, 100), self.path, key) for key in ("front", "back"))
            ]
            found.append(Limit(number_of(row.get("grade"), self.path, "grade"), *sides))
        return tuple(found)


def _told_apart(houses: dict[str, HouseBook], found: dict[str, Any]) -> dict[str, HouseBook]:
    """Give houses without a stated bias the one that their own counts beside the others' show."""
    parts = {name.casefold(): part for name, part in (found.get("houses") or {}).items()}
    own = {name: houses[name].qualities[""] for name, part in parts.items() if {"counts", "chances"} & set(part)}
    biases = told_apart(own)
    stated = "bias" in (found.get("grader") or {})
    for name, bias in biases.items():
        if not stated and "bias" not in (parts[name].get("grader") or {}):
            book = houses[name]
            houses[name] = replace(book, grader=replace(book.grader, bias=bias))
    return houses


def section_finder(sections: list[str]) -> Callable[[str], str | None]:
    """Return what finds one of some sections by what people call it."""
    names = {name: name for name in sections}

    def find(text: str) -> str | None:
        found = chosen(text, names)
        return found[0] if len(found) == 1 else (text if not found else None)

    return find
