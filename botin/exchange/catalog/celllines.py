"""Tables that were pasted into a text: cells on lines of their own, and small tables of finishes."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping
from itertools import pairwise

from botin.exchange.catalog.columnvalues import NUMBER
from botin.exchange.catalog.columnwords import field_of
from botin.exchange.catalog.runtext import UNNUMBERED, USUAL_RUNS, run_of

FEWEST, SHARE = 4, 0.6
"""Cards at least whose cells stand on lines of their own, and share of them that have as many (choices)."""
MOST = 4
"""Cells of a card at most."""
_ALONE = re.compile(r"#?(?:[A-Za-z]{0,6}-?\d{1,5}[A-Za-z]{0,2}|[A-Z0-9]{1,6}-[A-Z0-9]{1,6})")
"""A number of a card and nothing else: “Tarn 1904” is a club."""
_CELLS = re.compile(r"\t+|\s*\|\s*")
Lines = Mapping[int, str]
"""What stands on each line that is not blank."""


def cells_below(said: Lines) -> dict[int, tuple[int, ...]]:
    """Return the lines of name and club by the line of their number; empty where each card has one line."""
    lines = list(said.items())
    numbers = [at for at, (_, text) in enumerate(lines) if _ALONE.fullmatch(text.strip())]
    steps = Counter(b - a for a, b in pairwise(numbers))
    step = max(steps, key=steps.__getitem__, default=0)
    if len(numbers) < FEWEST or not 1 < step <= MOST or steps[step] < SHARE * (len(numbers) - 1):
        return {}
    found = {}
    for at in numbers:
        members = lines[at + 1 : at + step]
        worded = all(_is_worded(text.strip()) for _, text in members)
        if len(members) == step - 1 and worded:
            found[lines[at][0]] = tuple(line for line, _ in members)
    return found


def _is_worded(text: str) -> bool:
    return re.match(r"[^\W\d_]", text) is not None and not _ALONE.fullmatch(text)


_STARRED = re.compile(r"\s*[•·▪◦*+>→–-]\s*(?P<label>[^\W\d_][^\d:]{1,30}?)\s*:\s*(?P<run>\S.*?)\s*")


def starred_finishes(said: Lines) -> dict[int, str]:
    """Return lines like “* Copper: 99” as lines of finishes, where all of a block say a usual run or none."""
    made: dict[int, str] = {}
    block: dict[int, tuple[str, str | None]] = {}
    for line, text in (*said.items(), (0, "")):
        found = _STARRED.fullmatch(text)
        if found:
            block[line] = (found["label"], _run_said(found["run"]))
            continue
        if block and all(run is not None for _, run in block.values()):
            made |= {at: f"{label} /{run}" if run else f"{label} (unnumbered)" for at, (label, run) in block.items()}
        block = {}
    return made


def _run_said(text: str) -> str | None:
    """Return a usual run, empty for a finish that has none; None for anything else."""
    bare = text.casefold().strip(" ()/#")
    if len(bare) > 1 and (bare in UNNUMBERED or re.fullmatch(r"(?:no|without) (?:run|numbers?|print run)", bare)):
        return ""
    return bare if bare == "1" or bare in USUAL_RUNS else None


def finish_tables(said: Lines) -> tuple[dict[int, str], list[int]]:
    """Return the rows of small tables “Parallel | Print run” as lines of finishes, and where their headings stand."""
    rows: dict[int, str] = {}
    heads: list[int] = []
    inside = False
    for line, text in said.items():
        cells = [cell.strip() for cell in _CELLS.split(text.strip(" |\t")) if cell.strip()]
        if len(cells) == 2 and not re.search(r"\d", text) and [*map(field_of, cells)] == ["parallel", "run"]:
            inside = True
            heads.append(line)
        elif inside and len(cells) == 2 and not NUMBER.fullmatch(cells[0]) and run_of(cells[1]) is not None:
            rows[line] = f"{cells[0]} /{run}" if (run := run_of(cells[1])) else f"{cells[0]} (unnumbered)"
        else:
            inside = False
    return rows, heads
