"""The entry line's grammar as rules."""

from __future__ import annotations

import pytest

from botin.core.entry import EntryReader
from botin.core.product import Card, Kind, Parallel, Product, Section

PRODUCT = Product(
    "p",
    "P",
    sections=(
        Section("base", "Base", Kind.BASE),
        Section("signed", "Signed on the boards", Kind.AUTOGRAPH),
        Section("kings", "Sprint kings", Kind.INSERT),
    ),
    cards=(
        *(Card("base", str(n), f"Rider {n}") for n in range(1, 200)),
        Card("signed", "12", "Rider 12"),
        Card("kings", "SK-3", "Rider 3"),
    ),
    parallels=(
        Parallel("copper", "Copper", "base"),
        Parallel("cinder", "Cinder", "base", run_text="50"),
        Parallel("coral", "Coral reef", "base", run_text="25"),
        Parallel("halo", "Halo", "base", run_text="25"),
        Parallel("pool", "Pool", "kings", run_text="100+80+4"),
    ),
)
READER = EntryReader(PRODUCT)


def words(line: str) -> list[tuple[str, str, str, int | None, int | None]]:
    entry = READER.read(line)
    assert entry.problems == ()
    return [(item.card.section, item.card.number, item.parallel, item.serial, item.run) for item in entry.items]


@pytest.mark.parametrize(
    ("line", "understood"),
    [
        ("12", [("base", "12", "", None, None)]),
        ("12 45 101", [("base", n, "", None, None) for n in ("12", "45", "101")]),
        ("12, 45", [("base", n, "", None, None) for n in ("12", "45")]),
        ("12 copper", [("base", "12", "copper", None, None)]),
        ("12 cop 7", [("base", "12", "copper", None, None), ("base", "7", "", None, None)]),
        ("12 COPPER", [("base", "12", "copper", None, None)]),
        ("12 cinder 13/50", [("base", "12", "cinder", 13, 50)]),
        ("12 13/50 cinder", [("base", "12", "cinder", 13, 50)]),
        ("12 13 / 50", [("base", "12", "cinder", 13, 50)]),
        ("12 halo 3/25", [("base", "12", "halo", 3, 25)]),
        ("signed 12", [("signed", "12", "", None, None)]),
        ("sk3", [("kings", "SK-3", "", None, None)]),
        ("SK-3 pool 90/184", [("kings", "SK-3", "pool", 90, 184)]),
        ("12 cinder 13/99!", [("base", "12", "cinder", 13, 99)]),
        ("", []),
    ],
)
def test_understood(line: str, understood: list[tuple[str, str, str, int | None, int | None]]) -> None:
    assert words(line) == understood


@pytest.mark.parametrize(
    ("line", "says", "offers"),
    [
        ("999", "no card 999", ()),
        ("13/25", "type the card’s number before it", ()),
        ("12 30/25", "The serial 30/25 cannot be", ()),
        ("12 cinder 13/99", "numbered to 50, the serial says /99", ("13/99!",)),
        ("12 copper 1/5", "not numbered", ("1/5!",)),
        ("12 13/25", "/25 is the run of coral or halo", ("coral", "halo")),
        ("12 co", "could be copper or coral", ("copper", "coral")),
        ("12 coper", "is no parallel of card 12", ("copper",)),
        ("SK-3 copper", "does not come as copper", ("pool",)),
        ("sk33", "no card sk33", ("SK-3",)),
    ],
)
def test_not_understood_gets_a_remedy(line: str, says: str, offers: tuple[str, ...]) -> None:
    entry = READER.read(line)
    assert len(entry.problems) == 1
    assert says in entry.problems[0].message
    assert set(offers) <= set(entry.problems[0].suggestions)


def test_one_problem_does_not_hide_the_rest() -> None:
    entry = READER.read("12 999 45")
    assert [item.card.number for item in entry.items] == ["12", "45"]
    assert [problem.token for problem in entry.problems] == ["999"]
