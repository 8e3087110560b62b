"""Fees as rows: the one notation of ``fees.json``, of the tables on screen, and of what is stored from a day on."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from botin.core.flags.ways import Tier
from botin.core.grading.grades import Limit, Standard
from botin.core.selling.costs import Channel, PostageStep
from botin.exchange.selling.fees import grading_costs, number_of, sale_costs
from botin.exchange.selling.feestext import (
    Row,
    TermsError,
    read_channels,
    read_postage,
    read_returns,
    read_standards,
    read_tiers,
)

FeeRow = dict[str, Any]
STORED = Path("fees")
"""What stands in a message where a file would be named."""


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a table of fees: its key in ``fees.json``, its word on screen, what a cell holds."""

    key: str
    words: str
    holds: str = "number"

    def cell(self, row: Mapping[str, Any]) -> str:
        """Return a cell as one types it; what is left out is empty."""
        value = row.get(self.key)
        if self.key == "years":
            return years_words(row)
        if value is None or value == "":
            return ""
        if self.holds == "tick":
            return "yes" if value else ""
        if self.holds == "percent":
            share = 100 * float(value)
            return f"{share:g} %" if 0 < share < 1 else f"{share:g}"
        return str(value) if self.holds == "text" else f"{float(value):g}"


def years_words(row: Mapping[str, Any]) -> str:
    """Return the years of the cards that a tier takes, as one types them."""
    first, last = (f"{float(row[key]):g}" if row.get(key) else "" for key in ("from_year", "to_year"))
    return first if first == last else f"{first}-{last}"


HOUSE = Column("house", "house", "text")
TABLES: dict[str, tuple[Column, ...]] = {
    "channels": (
        Column("name", "channel", "text"), Column("fee", "fee %", "percent"), Column("fixed", "fixed"),
        Column("materials", "materials"), Column("minutes", "minutes"), Column("least", "prices from"),
        Column("most", "prices to"), Column("by_hand", "by hand", "tick"),
    ),
    "postage_steps": (
        Column("up_to", "price up to"), Column("postage", "postage"), Column("insured", "insurance %", "percent"),
    ),
    "tiers": (
        HOUSE, Column("name", "tier", "text"), Column("fee", "fee"), Column("ceiling", "ceiling"),
        Column("upcharge", "upcharge"), Column("days", "days"), Column("least", "fewest"),
        Column("member", "members only", "tick"), Column("service", "service", "text"),
        Column("years", "cards of", "text"), Column("since", "sent from", "text"),
        Column("until", "sent until", "text"),
    ),
    "returns": (HOUSE, Column("more_than", "more than cards"), Column("shipping", "shipping")),
    "limits": (HOUSE, Column("grade", "grade"), Column("front", "front %"), Column("back", "back %")),
}  # fmt: skip
"""The tables of fees; in ``fees.json`` the first two stand under ``selling``, the next two under ``grading``."""


def _plain(row: FeeRow) -> FeeRow:
    """Leave out what says nothing: empty cells, and ticks that are not set."""
    return {key: value for key, value in row.items() if value not in ("", None, False)}


def _channel_row(way: Channel) -> FeeRow:
    return _plain(
        {
            "name": way.name, "fee": way.fee, "fixed": way.fixed, "materials": way.materials, "minutes": way.minutes,
            "least": way.least or None, "most": way.most, "by_hand": not way.sent,
        }
    )  # fmt: skip


def _tier_row(tier: Tier) -> FeeRow:
    return _plain(
        {
            "house": tier.house, "name": tier.name, "fee": tier.fee, "ceiling": tier.ceiling,
            "upcharge": tier.upcharge or None, "days": tier.days, "least": tier.least, "member": tier.member,
            "service": tier.service, "from_year": tier.years[0], "to_year": tier.years[1],
            "since": tier.since.isoformat() if tier.since else None,
            "until": tier.until.isoformat() if tier.until else None,
        }
    )  # fmt: skip


def _step_row(step: PostageStep) -> FeeRow:
    return _plain({"up_to": step.up_to, "postage": step.postage, "insured": step.insured or None})


def return_rows(returns: Iterable[tuple[str, int, float]]) -> list[FeeRow]:
    """Return the shipping of orders by their cards as rows."""
    return [_plain({"house": house, "more_than": cards, "shipping": cost}) for house, cards, cost in returns]


def limit_rows(standards: Mapping[str, Standard]) -> list[FeeRow]:
    """Return limits of centering as rows, house by house."""
    return [
        _plain({"house": house, "grade": limit.grade, "front": limit.front, "back": limit.back})
        for house, standard in standards.items()
        for limit in standard.limits
    ]


def rows_of(name: str, costs: Sequence[Channel] | Sequence[PostageStep] | Sequence[Tier]) -> list[FeeRow]:
    """Return channels, steps of postage or tiers as rows."""
    make: dict[str, Callable[[Any], FeeRow]] = {
        "channels": _channel_row,
        "postage_steps": _step_row,
        "tiers": _tier_row,
    }
    return [make[name](cost) for cost in costs]


def read_rows(name: str, typed: str | Iterable[Row]) -> list[FeeRow]:
    """Read a table of fees as it was typed, pasted line by line or cell by cell.

    Raises
    ------
    TermsError
        When a line cannot be read.
    """
    if name == "limits":
        return _each_once(name, limit_rows(read_standards(typed)))
    if name == "returns":
        return _each_once(name, return_rows(read_returns(typed)))
    if name == "tiers":
        return _each_once(name, rows_of(name, read_tiers(typed)))
    return _each_once(name, rows_of(name, read_channels(typed) if name == "channels" else read_postage(typed)))


TELLS = {
    "returns": ("house", "more_than"),
    "channels": ("name",),
    "tiers": ("house", "name"),
    "limits": ("house", "grade"),
    "postage_steps": ("up_to",),
}
"""What tells the rows of a table apart."""


def _each_once(name: str, rows: list[FeeRow]) -> list[FeeRow]:
    seen: set[tuple[str, ...]] = set()
    for row in rows:
        key = tuple(str(row.get(part, "")).casefold() for part in TELLS[name])
        if key in seen:
            words = " ".join(filter(None, (str(row.get(part, "")) for part in TELLS[name])))
            message = f"“{words}” stands twice. Keep the row that is right, or give one another name."
            raise TermsError(message)
        seen.add(key)
        if row.get("most") is not None and float(row["most"]) < float(row.get("least", 0)):
            message = f"“{row['name']}” takes prices from {row['least']:g} to {row['most']:g}: no price is both."
            raise TermsError(message)
    return rows


def typed_rows(name: str, cells: Sequence[Mapping[str, str]]) -> list[Row]:
    """Turn cells of a form into lines of a table; a row in which nothing is written is left out."""
    columns = TABLES[name]
    return [
        Row(
            number,
            row.get("house", "").strip(),
            tuple(row.get(column.key, "").strip() for column in columns if column is not HOUSE),
        )
        for number, row in enumerate(cells, 1)
        if any(cell.strip() for cell in row.values())
    ]


def tiers_of(rows: Sequence[FeeRow]) -> tuple[Tier, ...]:
    """Return stored rows as grading tiers."""
    return grading_costs({"tiers": list(rows)}, STORED).tiers


def returns_of(rows: Sequence[FeeRow]) -> tuple[tuple[str, int, float], ...]:
    """Return stored rows as the shipping of orders by their cards."""
    return grading_costs({"tiers": [], "returns": list(rows)}, STORED).returns


def channels_of(rows: Sequence[FeeRow]) -> tuple[Channel, ...]:
    """Return stored rows as selling channels."""
    return sale_costs({"channels": list(rows)}, STORED).channels


def steps_of(rows: Sequence[FeeRow]) -> tuple[PostageStep, ...]:
    """Return stored rows as steps of postage."""
    return sale_costs({"postage_steps": list(rows)}, STORED).steps


def standards_of(rows: Sequence[FeeRow]) -> dict[str, Standard]:
    """Return stored rows as the limits of each house."""
    found: dict[str, list[Limit]] = {}
    for row in rows:
        grade, front, back = (number_of(row.get(key), STORED, key) for key in ("grade", "front", "back"))
        found.setdefault(str(row.get("house", "")), []).append(Limit(grade, front, back))
    return {
        house: Standard(house or "common limits", tuple(sorted(limits, key=lambda limit: -limit.grade)))
        for house, limits in found.items()
    }
