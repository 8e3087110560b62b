"""The entry line's grammar as rules."""

from __future__ import annotations

import pytest

from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.opening.entry import EntryReader

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


NAMES = Product(
    "n", "N",
    sections=(Section("base", "Base", Kind.BASE), Section("late", "Late variations", Kind.VARIATION), Section("plates", "Signed Plates", Kind.AUTOGRAPH)),
    cards=(
        *(Card("base", str(n), f"Rider {n}") for n in range(1, 60)), Card("base", "60", "Zoë Ångström"), Card("base", "61", "Orla Thorsby"),
        Card("late", "33", "Rider 33"), Card("plates", "S-1", "Orla Thorsby"), Card("plates", "S-2", "Ib Ruud"), Card("base", "62", "Thorsbyn Lake"),
    ),
    parallels=(Parallel("copper", "Copper", "base"), Parallel("gold", "Gold Leaf", "base", run_text="25"), Parallel("black", "Black", "base", run_text="70"),
               Parallel("ten", "Ten", "plates", run_text="10")),
)  # fmt: skip
BY_NAME = EntryReader(NAMES)


def found(line: str) -> list[tuple[str, str, str, int | None]]:
    entry = BY_NAME.read(line)
    assert entry.problems == (), entry.problems
    return [(item.known.section, item.known.number, item.parallel, item.serial) for item in entry.items]


@pytest.mark.parametrize(
    ("line", "understood"),
    [
        ("Zoë Ångström", [("base", "60", "", None)]),
        ("zoe angstrom", [("base", "60", "", None)]),
        ("ZOE ANGSTROM gold leaf 3/25", [("base", "60", "gold", 3)]),
        ("ib ruud", [("plates", "S-2", "", None)]),
        ("ruud", [("plates", "S-2", "", None)]),
        ("plates orla thorsby", [("plates", "S-1", "", None)]),
        ("signed plates S-2", [("plates", "S-2", "", None)]),
        ("plates 2", None),
        ("variation 33", [("late", "33", "", None)]),
        ("late variations 33", [("late", "33", "", None)]),
        ("12 /25", [("base", "12", "gold", None)]),
        ("12 gold /25", [("base", "12", "gold", None)]),
        ("12 copper /25", None),
        ("12 #13/25", [("base", "12", "gold", 13)]),
        ("12 13 of 25", [("base", "12", "gold", 13)]),
        ("S-2 /10", [("plates", "S-2", "ten", None)]),
        ("12 gold leaf 3/25", [("base", "12", "gold", 3)]),
        ("1-5", None),
        ("10-12", None),
        ("orla thorsby", None),
        ("12 /99", None),
        ("plates 12", None),
    ],
)
def test_a_line_means_what_a_person_means_or_is_asked_about(
    line: str, understood: list[tuple[str, str, str, int | None]] | None
) -> None:
    """Never another card: where it is not clear the line comes back with a question and nothing is taken for sure."""
    if understood is None:
        assert BY_NAME.read(line).problems
    else:
        assert found(line) == understood


def test_two_parts_of_a_hundred_are_a_centering_unless_a_finish_has_the_run() -> None:
    off = BY_NAME.read("12 40/60").items[0]
    assert (off.serial, off.details.marks, off.details.note) == (None, ("centering 40/60",), "")
    wide = BY_NAME.read("12 15/85").items[0]
    assert (wide.run, wide.details.marks) == (None, ("off-centre", "centering 15/85"))
    assert found("12 30/70") == [("base", "12", "black", 30)]


def test_a_range_is_asked_about_with_what_to_type() -> None:
    problem = BY_NAME.read("1-5").problems[0]
    assert problem.suggestions == ("1 2 3 4 5",)
    assert not BY_NAME.read("1-5").items
