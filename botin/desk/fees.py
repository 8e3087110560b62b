"""Fees as the user edits them, as rows from a day on: channels and postage, grading tiers, limits of houses."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from botin.core.flags.ways import GradingCosts, Tier
from botin.core.grading.grades import COMMON, Standard
from botin.core.selling.costs import Channel, SaleCosts
from botin.desk.settings import Settings, load_settings
from botin.exchange.selling.feerows import (
    TABLES,
    FeeRow,
    channels_of,
    read_rows,
    return_rows,
    returns_of,
    rows_of,
    standards_of,
    steps_of,
    tiers_of,
)
from botin.exchange.selling.fees import Fees
from botin.exchange.selling.feestext import Row
from botin.store.fees import all_fees, fees_of_day
from botin.store.grading.orders import held_memberships
from botin.store.unit import finish

GRADING, SELLING, LIMITS = "grading", "selling", "limits"
TABLES_OF = {SELLING: ("channels", "postage_steps"), GRADING: ("tiers", "returns"), LIMITS: ("limits",)}
"""The tables that are written down together, from the same day on."""
NUMBERS = {"shipping": 43.25, "membership": 99.0, "insured": 0.01, "monthly": 0.01, "together": 20.0}
"""What an order of grading costs beside its tiers, while nothing was written down: an example, of no real house."""
TIERS_EXAMPLE = """economy; 16; 200; 12; 65; 20; member
regular; 22; 500; 25; 20; 1
express; 60; 1500; 60; 5; 1"""
"""Invented figures of no real house: name; fee; ceiling; upcharge; days; fewest cards; member."""
LIMITS_EXAMPLE = "10; 55; 75\n9; 60; 90\n8; 65; 90\n7; 70; 90\n6; 80; 90"
"""Usual limits of centering, from memory; houses differ and change them."""
OLDER = {"postage_steps": "postage"}
"""What a table was called when it was kept as it was typed."""


@dataclass(frozen=True, slots=True)
class Kept:
    """Fees of a kind as they are kept: tables as rows, and numbers; ``since`` is None while the example stands."""

    tables: Mapping[str, list[FeeRow]]
    numbers: Mapping[str, float]
    since: date | None


def in_force(session: Session, kind: str, day: date) -> Kept:
    """Return the fees of a kind on a day."""
    rows = [(since, body) for of, since, body in all_fees(session) if of == kind and since <= day]
    if not rows:
        return Kept({}, {}, None)
    since, text = max(rows)
    body = json.loads(text)
    tables = {name: _rows_in(name, body) for name in TABLES_OF[kind]}
    numbers = {name: float(body[name]) for name in NUMBERS if name in body}
    return Kept(tables, numbers, since)


def _rows_in(name: str, body: Mapping[str, Any]) -> list[FeeRow]:
    """Return a table of what is kept; earlier versions kept it as it was typed, which reads into the same rows."""
    found = body.get(name, body.get(OLDER.get(name, name), []))
    return read_rows(name, found) if isinstance(found, str) else list(found)


def save_fees(
    session: Session,
    kind: str,
    valid_from: date,
    tables: Mapping[str, str | Iterable[Row] | list[FeeRow]],
    numbers: Mapping[str, float] | None = None,
) -> None:
    """Keep fees from a day on; the same day again replaces them, older ones stay.

    Parameters
    ----------
    tables : mapping
        Each table as text, as typed lines, or as rows of ``fees.json``.

    Raises
    ------
    TermsError
        When a table cannot be read.
    """
    body: dict[str, object] = {name: _read(name, typed) for name, typed in tables.items()}
    body |= numbers or {}
    fees_of_day(session, kind, valid_from).body = json.dumps(body)
    finish(session)


def _read(name: str, typed: str | Iterable[Row] | list[FeeRow]) -> list[FeeRow]:
    if isinstance(typed, str):
        return read_rows(name, typed)
    found = list(typed)
    rows = [one for one in found if isinstance(one, dict)]
    return rows or read_rows(name, [one for one in found if isinstance(one, Row)])


@dataclass(frozen=True, slots=True)
class GradingFees:
    """The grading fees as rows, and as costs; ``valid_from`` is None for the example."""

    tiers: list[FeeRow]
    costs: GradingCosts
    valid_from: date | None = None
    returns: list[FeeRow] = field(default_factory=list)
    all_tiers: tuple[Tier, ...] = ()
    """Also those that are not offered on the day, and those that do something else than grading a raw card."""

    @property
    def houses(self) -> tuple[str, ...]:
        """Houses of the tiers, in their order; one without a name is empty."""
        return tuple(dict.fromkeys(tier.house for tier in self.costs.tiers))


def grading_fees(session: Session, day: date) -> GradingFees:
    """Return the grading fees in force on a day; before any were written, the example."""
    kept = in_force(session, GRADING, day)
    rows = kept.tables["tiers"] if kept.since else read_rows("tiers", TIERS_EXAMPLE)
    numbers = {**NUMBERS, **kept.numbers}
    tiers, returns = tiers_of(rows), kept.tables["returns"] if kept.since else []
    costs = GradingCosts(
        tiers=tiers,
        shipping=numbers["shipping"],
        insured=numbers["insured"],
        together=max(1, int(numbers["together"])),
        membership=numbers["membership"],
        monthly=numbers["monthly"],
        held=held_memberships(session, day),
        returns=returns_of(returns),
    )
    return GradingFees(rows, costs.on(day), kept.since, returns, tiers)


@dataclass(frozen=True, slots=True)
class SellingFees:
    """Channels and postage as rows, and since when; while none were written they follow from the settings."""

    tables: Mapping[str, list[FeeRow]]
    costs: SaleCosts
    since: date | None = field(default=None)


def selling_fees(session: Session, day: date, settings: Settings | None = None) -> SellingFees:
    """Return what selling costs on a day: the channels written down, or the one of the settings."""
    settings = settings or load_settings(session)
    kept, plain = in_force(session, SELLING, day), settings.sale_costs()
    if kept.since is None:
        usual = Channel("usual", plain.fee, plain.fixed, plain.materials, plain.minutes)
        rows = {"channels": rows_of("channels", [usual]), "postage_steps": [{"postage": plain.postage}]}
        return SellingFees(rows, plain)
    channels, steps = channels_of(kept.tables["channels"]), steps_of(kept.tables["postage_steps"])
    return SellingFees(kept.tables, replace(plain, channels=channels, steps=steps), kept.since)


def sale_costs(session: Session, day: date, settings: Settings | None = None) -> SaleCosts:
    """Return what a sale costs on a day."""
    return selling_fees(session, day, settings).costs


def standards(session: Session, day: date) -> dict[str, Standard]:
    """Return the limits of each house on a day; the empty house has the common ones, from memory."""
    kept = in_force(session, LIMITS, day)
    return {"": COMMON, **standards_of(kept.tables.get("limits", []))}


def limits_kept(session: Session, day: date) -> Kept:
    """Return the limits as rows, or the common ones."""
    kept = in_force(session, LIMITS, day)
    return kept if kept.since else Kept({"limits": read_rows("limits", LIMITS_EXAMPLE)}, {}, None)


def fees_document(session: Session, day: date) -> dict[str, object]:
    """Return all fees in force on a day as ``fees.json`` holds them."""
    settings, selling, grading = load_settings(session), selling_fees(session, day), grading_fees(session, day)
    plain, costs = settings.sale_costs(), grading.costs
    return {
        "selling": {
            **selling.tables,
            **{name: getattr(plain, name) for name in ("hourly", "bulk_below", "bulk_each")},
        },
        "grading": {
            "tiers": grading.tiers,
            "returns": grading.returns,
            **{name: getattr(costs, name) for name in NUMBERS},
        },
        "looking": {"minutes": settings.look_minutes, "hourly": plain.hourly},
        "limits": limits_kept(session, day).tables["limits"],
    }


def take_fees(session: Session, valid_from: date, found: Fees) -> None:
    """Keep the fees of a ``fees.json`` from a day on; a selling part without channels is one channel."""
    selling, grading = found.selling, found.grading
    if "selling" in found.parts:
        _take_selling(session, valid_from, selling)
    if "grading" in found.parts:
        numbers = {name: float(getattr(grading, name)) for name in NUMBERS}
        tables = {"tiers": rows_of("tiers", grading.tiers), "returns": return_rows(grading.returns)}
        save_fees(session, GRADING, valid_from, tables, numbers)
    if "limits" in found.parts:
        save_fees(session, LIMITS, valid_from, {"limits": list(found.limits)})


def _take_selling(session: Session, valid_from: date, selling: SaleCosts) -> None:
    usual = Channel("usual", selling.fee, selling.fixed, selling.materials, selling.minutes)
    steps = rows_of("postage_steps", selling.steps) or [{"postage": selling.postage}]
    tables = {"channels": rows_of("channels", selling.channels or [usual]), "postage_steps": steps}
    save_fees(session, SELLING, valid_from, tables)


def cells_of(name: str, rows: Sequence[FeeRow]) -> list[dict[str, str]]:
    """Return rows as the cells of a table one edits."""
    return [{column.key: column.cell(row) for column in TABLES[name]} for row in rows]
