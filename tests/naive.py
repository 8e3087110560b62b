"""Boxes packed the plain way, from the rows of a package alone: nothing of Botin is used here.

An independent reading of the words of the model (counts, promises, the rest), to hold the exact answers against.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np

TOGETHER = 4
"""So many boxes in a row are of one maker's habit."""
Rows = list[dict[str, str]]
Version = tuple[str, str, str]


def read(text: str) -> Rows:
    return list(csv.DictReader(io.StringIO(text)))


@dataclass
class Boxes:
    """So many boxes: which box each copy lies in, and what version it is."""

    count: int
    box: list[np.ndarray] = field(default_factory=list)
    version: list[np.ndarray] = field(default_factory=list)
    names: list[Version] = field(default_factory=list)

    def add(self, counts: np.ndarray, cards: list[Version], rng: np.random.Generator) -> None:
        """Put copies into the boxes, each a card drawn evenly from a line."""
        start = len(self.names)
        self.names += cards
        self.box.append(np.repeat(np.arange(self.count, dtype=np.int32), counts))
        drawn = rng.integers(0, len(cards), int(counts.sum()), dtype=np.int16)
        drawn += start
        self.version.append(drawn)

    def with_any(self, wanted: Callable[[Version], bool]) -> np.ndarray:
        """How many wanted copies lie in each box; line by line, since all together are tens of millions."""
        hit, found = np.array([wanted(name) for name in self.names]), np.zeros(self.count, int)
        for box, version in zip(self.box, self.version, strict=True):
            found += np.bincount(box[hit[version]], minlength=self.count)
        return found

    def share_with(self, wanted: Callable[[Version], bool]) -> tuple[float, float]:
        """Share of the boxes with at least one wanted copy, and how many come in a box."""
        found = self.with_any(wanted)
        return float((found > 0).mean()), float(found.mean())

    def values(self, price: Callable[[Version], float]) -> np.ndarray:
        """Value of each box."""
        prices, found = np.array([price(name) for name in self.names]), np.zeros(self.count)
        for box, version in zip(self.box, self.version, strict=True):
            for part in range(0, len(box), 4_000_000):
                here = slice(part, part + 4_000_000)
                found += np.bincount(box[here], prices[version[here]], self.count)
        return found


def binomial_by_packs(packs: int, per_hit: float, boxes: int, rng: np.random.Generator) -> np.ndarray:
    """1:N: every pack holds one with chance 1/N; below 1, some for certain and one more with what is left."""
    sure = math.floor(1 / per_hit) if per_hit < 1 else 0
    return sure * packs + rng.binomial(packs, 1 / per_hit - sure, boxes)


def promised(count: float, promise: str, expect: float | None, boxes: int, rng: np.random.Generator) -> np.ndarray:
    """Exactly, at least, or on average: evenly or at random, nobody knows which, but the same for boxes bought together."""
    even = math.floor(count) + (rng.random(boxes) < count - math.floor(count)).astype(int)
    if promise == "exact":
        return even
    if promise in ("at_least", "guaranteed"):
        return even + rng.poisson(max(0.0, (expect or 0.0) - count), boxes)
    school = np.repeat(rng.random(math.ceil(boxes / TOGETHER)) < 0.5, TOGETHER)[:boxes]
    return np.where(school, even, rng.poisson(count, boxes))


def of_a_case(count: int, size: int, boxes: int, rng: np.random.Generator) -> np.ndarray:
    """Each of a case's hits in one of its boxes, at most one a box: one box out of many cases."""
    return (np.argsort(rng.random((boxes, size)), axis=1)[:, 0] < count).astype(int)


def count_of(row: Mapping[str, str], packs: int, case: int, boxes: int, rng: np.random.Generator) -> np.ndarray:
    """Copies of one row of the odds in each box."""
    odds = float(row["packs_per_hit"]) if row.get("packs_per_hit") else None
    if row.get("per_box"):
        return promised(float(row["per_box"]), row.get("promise") or "", odds and packs / odds, boxes, rng)
    if row.get("per_case"):
        return of_a_case(int(row["per_case"]), case, boxes, rng)
    if row.get("per_pack"):
        return np.full(boxes, int(row["per_pack"]) * packs)
    assert odds is not None
    return binomial_by_packs(packs, odds, boxes, rng)


def apart(counts: np.ndarray, packs: int, rng: np.random.Generator) -> np.ndarray:
    """Lay so many copies into the packs of each box: no pack holds two while another one holds none."""
    rank = np.argsort(np.argsort(rng.random((len(counts), packs)), axis=1), axis=1)
    return counts[:, None] // packs + (rank < (counts % packs)[:, None])


def laid(row: Mapping[str, str], packs: int, case: int, boxes: int, rng: np.random.Generator) -> np.ndarray:
    """Copies of one row of the odds in each pack of each box."""
    if row.get("per_box") or row.get("per_case"):
        return apart(count_of(row, packs, case, boxes, rng), packs, rng)
    if row.get("per_pack"):
        return np.full((boxes, packs), int(row["per_pack"]))
    odds = float(row["packs_per_hit"])
    sure = math.floor(1 / odds) if odds < 1 else 0
    return sure + (rng.random((boxes, packs)) < 1 / odds - sure)


def pack(files: Mapping[str, str], boxes: int, seed: int) -> Boxes:
    """Pack boxes of the first format of a package."""
    rng, made = np.random.default_rng(seed), Boxes(boxes)
    fmt = read(files["formats.csv"])[0]
    packs, size, case = (int(fmt[name] or 0) for name in ("packs_per_box", "cards_per_pack", "boxes_per_case"))
    kinds = {row["section"]: row["kind"] for row in read(files["sections.csv"])}
    cards = read(files["cards.csv"])
    inside = np.zeros(boxes, int)
    rows = [row for row in read(files["odds.csv"]) if row["format"] == fmt["format"]]
    joint = read(files["promises.csv"]) if "promises.csv" in files else []
    taken: set[int] = set()

    def line(row: Mapping[str, str]) -> list[Version]:
        return [
            (card["section"], card["number"], row.get("parallel") or "")
            for card in cards
            if card["section"] == row["section"] and (not row.get("group") or card.get("group") == row["group"])
        ]

    def put(row: Mapping[str, str], counts: np.ndarray) -> None:
        nonlocal inside
        made.add(counts, line(row), rng)
        if kinds[row["section"]] != "box_topper":
            inside = inside + counts

    for promise in joint:
        covers = promise["covers"].split(";")
        covered = [at for at, row in enumerate(rows) if _covers(covers, row, kinds)]
        taken |= set(covered)
        sizes = [len(line(rows[at])) for at in covered]
        expect = shares_of([rows[at] for at in covered], sizes, packs, float(promise["count"]))
        total = promised(float(promise["count"]), promise["promise"], sum(expect), boxes, rng)
        split = rng.multinomial(total, np.array(expect) / sum(expect))
        for column, at in enumerate(covered):
            put(rows[at], split[:, column])
    for at, row in enumerate(rows):
        if at not in taken:
            put(row, count_of(row, packs, case, boxes, rng))
    base = [(card["section"], card["number"], "") for card in cards if kinds[card["section"]] == "base"]
    made.add(np.maximum(packs * size - inside, 0), base, rng)
    return made


def shares_of(rows: Rows, sizes: list[int], packs: int, count: float) -> list[float]:
    """Printed lines keep their odds, those without printed odds share what is left of the promise card by card."""
    known = [packs / float(row["packs_per_hit"]) if row["packs_per_hit"] else None for row in rows]
    blank = sum(size for size, part in zip(sizes, known, strict=True) if part is None)
    left = max(0.0, count - sum(part or 0.0 for part in known)) / max(blank, 1)
    return [left * size if part is None else part for size, part in zip(sizes, known, strict=True)]


def urn(factor: float, size: int, drawn: int, boxes: int, seed: int) -> np.ndarray:
    """Draw from a set one by one: a number that came c times has weight factor^c; 0 fills whole rounds of the set."""
    rng, counts, row = np.random.default_rng(seed), np.zeros((boxes, size)), np.arange(boxes)
    for _ in range(drawn):
        weight = (counts == counts.min(axis=1, keepdims=True)).astype(float) if factor == 0 else factor**counts
        running = np.cumsum(weight, axis=1)
        at = (running < (rng.random(boxes) * running[:, -1])[:, None]).sum(axis=1)
        counts[row, np.minimum(at, size - 1)] += 1
    return counts


def _covers(covers: list[str], row: Mapping[str, str], kinds: Mapping[str, str]) -> bool:
    """Whether a promise covers a row: by section, by section and finish, or by kind."""
    names = (row["section"], f"{row['section']}:{row.get('parallel') or ''}", f"kind={kinds[row['section']]}")
    return any(part.strip() in names for part in covers)
