"""Tables that were pasted into a text: cells on lines of their own, and small tables of finishes."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping
from itertools import pairwise

from botin.exchange.catalog.columnvalues import NUMBER
from botin.exchange.catalog.columnwords import field_of
from botin.exchange.catalog.runtext import run_of

FEWEST, SHARE = 4, 0.6
"""Cards at least whose cells stand on lines of their own, and share of them that have as many (choices)."""
MOST = 4
"""Cells of a card at most."""
_CELLS = re.compile(r"\t+|\s*\|\s*")
Lines = Mapping[int, str]
"""What stands on each line that is not blank."""


def cells_below(said: Lines) -> dict[int, tuple[int, ...]]:
    """Return the lines of name and club by the line of their number; empty where each card has one line."""
    lines = list(said.items())
    numbers = [at for at, (_, text) in enumerate(lines) if NUMBER.fullmatch(text.strip())]
    steps = Counter(b - a for a, b in pairwise(numbers))
    step = max(steps, key=steps.__getitem__, default=0)
    if len(numbers) < FEWEST or not 1 < step <= MOST or steps[step] < SHARE * (len(numbers) - 1):
        return {}
    found = {}
    for at in numbers:
        members = lines[at + 1 : at + step]
        if len(members) == step - 1 and all(re.match(r"[^\W\d_]", text.strip()) for _, text in members):
            found[lines[at][0]] = tuple(line for line, _ in members)
    return found


def finish_tables(said: Lines) -> tuple[dict[int, str], list[int]]:
    """Return the rows of small tables “Parallel | Print run” as lines of finishes, and where their headings stand."""
    rows: dict[int, str] = {}
    heads: list[int] = []
    inside: list[str] = []
    for line, text in said.items():
        cells = [cell.strip() for cell in _CELLS.split(text.strip(" |\t")) if cell.strip()]
        fields = [field_of(cell) for cell in cells]
        if fields == ["parallel", "run"]:
            inside = fields
            heads.append(line)
        elif inside and len(cells) == len(inside) and not NUMBER.fullmatch(cells[0]) and run_of(cells[1]) is not None:
            rows[line] = f"{cells[0]} /{run}" if (run := run_of(cells[1])) else f"{cells[0]} (unnumbered)"
        else:
            inside = []
    return rows, heads
