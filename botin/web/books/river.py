"""The river of money: where it came from flows in on the left, where it is now flows out on the right."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from botin.core.books.posting import Account
from botin.core.books.results import Result

WIDTH, HEIGHT = 620.0, 250.0
LEFT, RIGHT, TOP = 150.0, 470.0, 16.0
GAP, LEAST, WORDS = 10.0, 3.0, 34.0
BED = HEIGHT - 2 * TOP


@dataclass(frozen=True, slots=True)
class Bank:
    """One stream: its name, its amount (minor units), the shape it flows in, and where its words stand."""

    name: str
    minor: int
    path: str
    css: str
    words_y: float


@dataclass(frozen=True)
class River:
    """The picture, 620 wide and as high as its words need."""

    sources: tuple[Bank, ...]
    ends: tuple[Bank, ...]

    @property
    def height(self) -> float:
        """Return how high it is."""
        return max(HEIGHT, *(bank.words_y + 20 for bank in (*self.sources, *self.ends)))


COSTS = (Account.POSTAGE, Account.MATERIALS, Account.FEES)
Stream = tuple[str, int, str]
"""Name, amount and class of a stream."""


def sources_of(result: Result) -> list[Stream]:
    """What was put in, by what it was paid for."""
    bought = {account: result.of([account], "purchase") for account in (Account.BOXES, Account.CARDS)}
    rest = result.of(COSTS, "expense")
    return [
        ("boxes bought", bought[Account.BOXES], "river-boxes"),
        ("singles bought", bought[Account.CARDS], "river-cards"),
        ("grading paid", -result.of([Account.CASH], "grading"), "river-graded"),
        ("other costs", rest, "river-costs"),
    ]


def ends_of(result: Result) -> list[Stream]:
    """Where that is now, at what it cost."""
    return [
        ("sealed or open", result.of([Account.BOXES]), "river-boxes"),
        ("cards here", result.of([Account.CARDS]), "river-cards"),
        ("graded and out", result.of([Account.GRADED, Account.PREPAID]), "river-graded"),
        ("in cards sold", result.of([Account.SOLD]), "river-sold"),
        ("others’ part", result.of([Account.PEOPLE], "opening"), "river-people"),
        ("the fun and costs", result.of([Account.FUN]) + result.of(COSTS, "expense"), "river-costs"),
    ]  # fmt: skip


def river(result: Result) -> River | None:
    """Draw where the money that was put in is now; None while nothing was."""
    left = [stream for stream in sources_of(result) if stream[1] > 0]
    right = [stream for stream in ends_of(result) if stream[1] > 0]
    total = max(sum(minor for _, minor, _ in left), sum(minor for _, minor, _ in right))
    if not left or not right or not total:
        return None
    return River(tuple(_side(left, total, left=True)), tuple(_side(right, total, left=False)))


def _side(streams: Sequence[Stream], total: int, *, left: bool) -> list[Bank]:
    """Stack the streams of one side; each bends from its bank into the one stream in the middle."""
    scale = (BED - GAP * (len(streams) - 1)) / total
    middle = (HEIGHT - BED + GAP * (len(streams) - 1)) / 2
    outer, words, found = TOP, 0.0, list[Bank]()
    for name, minor, css in streams:
        height = max(LEAST, minor * scale)
        words = max(words + WORDS, outer + height / 2)
        found.append(Bank(name, minor, _bend(outer, middle, height, left=left), css, round(words, 1)))
        outer, middle = outer + height + GAP, middle + height
    return found


def _bend(outer: float, middle: float, height: float, *, left: bool) -> str:
    """Return a stream from its bank to the middle as a path."""
    bank, mid = (LEFT, WIDTH / 2) if left else (RIGHT, WIDTH / 2)
    turn = (bank + mid) / 2
    a, b, c, d = (round(y, 1) for y in (outer, middle, middle + height, outer + height))
    return f"M{bank} {a}C{turn} {a} {turn} {b} {mid} {b}V{c}C{turn} {c} {turn} {d} {bank} {d}z"
