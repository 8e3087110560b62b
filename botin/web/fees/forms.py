"""The form of the fees: numbers beside the tables, the day they hold from, lines that were pasted."""

from __future__ import annotations

import re
from typing import Any

from flask import request

from botin.core.days import PLANNED
from botin.core.errors import ImportRefusedError
from botin.exchange.selling.feerows import TABLES, typed_rows
from botin.exchange.selling.feestext import Row
from botin.web.fields import DayField, NumberField, TypedForm, WordField

MOST_ROWS, LONGEST = 400, 80
"""Rows of a table, and letters of a cell, that are kept."""
PLAIN = "is no plain number. Write it like 12.50, from 0 on."


class CostField(NumberField):
    """A number from 0 on; nothing when it is left out."""

    def __init__(self, label: str = "", **more: Any) -> None:
        super().__init__(label, low=0, high=1e9, must=PLAIN, **more)


class FeesForm(TypedForm):
    """What stands beside the tables of fees."""

    valid_from = DayField(ahead=PLANNED)
    rates = WordField(most=200_000)
    shipping = CostField()
    insured = CostField()
    together = CostField()
    membership = CostField()
    monthly = CostField()

    def numbers(self) -> dict[str, float]:
        """Return the numbers of grading.

        Raises
        ------
        BotinError
            When one cannot be read, or cannot be.
        """
        fields = (self.shipping, self.insured, self.together, self.membership, self.monthly)
        found = {field.name: field.number() or 0.0 for field in fields}
        if found["together"] < 1 or found["together"] != int(found["together"]):
            message = "Cards in an order: write a whole number from 1 on."
            raise ImportRefusedError(message)
        if max(found["insured"], found["monthly"]) >= 1:
            message = "Insurance and a month of waiting are shares of the value: write 0.01 for one percent."
            raise ImportRefusedError(message)
        return found


def typed_cells(name: str) -> list[dict[str, str]]:
    """Read the cells of a table out of the form, row by row."""
    rows = [
        {column.key: request.form.get(f"{name}-{row}-{column.key}", "") for column in TABLES[name]}
        for row in range(MOST_ROWS)
    ]
    while rows and not any(cell.strip() for cell in rows[-1].values()):
        rows.pop()
    return rows


def typed_table(name: str) -> str | list[Row]:
    """Return a table as it was typed: lines that were pasted take the place of its rows.

    Raises
    ------
    ImportRefusedError
        When it has more rows, or a longer cell, than is kept.
    """
    beyond = re.compile(rf"{name}-(?:\d{{4,}}|[4-9]\d\d)-")
    if any(beyond.match(key) for key in request.form):
        message = f"A table takes {MOST_ROWS} rows. Nothing was kept."
        raise ImportRefusedError(message)
    if any(len(cell) > LONGEST for row in typed_cells(name) for cell in row.values()):
        message = f"A cell takes {LONGEST} letters. Shorten the long one; nothing was kept."
        raise ImportRefusedError(message)
    pasted = request.form.get(name, "")
    return pasted if pasted.strip() else typed_rows(name, typed_cells(name))
