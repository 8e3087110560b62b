"""Zips and folders as people send them: read whole, and what is not read is said."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from pathlib import Path

import pytest

from botin.core.errors import UnreadableFileError
from botin.exchange.catalog.interpret import About, interpret
from botin.exchange.catalog.sheets import Sources, add_file, read_paths
from botin.exchange.notes import Status
from tests.exchange.test_messy import HOBBY, book, read


def zipped(*members: tuple[str, str | bytes]) -> bytes:
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as packed:
        for name, content in members:
            packed.writestr(name, content)
    return data.getvalue()


CARDS = "Set,#,Player\nBase,1,Orla Thorsby\n"


def test_a_zip_is_read_whole_and_what_is_not_read_is_said() -> None:
    """A picture among the files, and a text of finishes: neither may be passed in silence."""
    data = zipped(
        ("mine/checklist.csv", "Set,#,Player\nNight Sprints,NS-1,Orla Thorsby\n"),
        ("mine/parallels.txt", "Night Sprints: Copper /99, Slate\n"),
        ("mine/more.xlsx", book(("Base", [["#", "Player"], [1, "Dov Quill"], [2, "Pia Fenwick"]]))),
        ("mine/front.jpg", b"\xff\xd8"),
        ("mine/.DS_Store", b"\0"),
    )
    draft = read(("all.zip", data))
    product = draft.reading.product
    assert {(p.label, p.run_text) for p in product.parallels if p.key} >= {("Copper", "99"), ("Slate", "")}
    assert {card.name for card in product.cards} == {"Orla Thorsby", "Dov Quill", "Pia Fenwick"}
    said = {note.sheet: (note.status, note.says) for note in draft.notes if note.status is Status.NOT}
    assert said == {
        "all.zip#mine/front.jpg": (Status.NOT, ".jpg is not read: give what it says as .csv, .xlsx or .txt")
    }


def test_a_file_that_is_not_read_can_be_left_out() -> None:
    data = zipped(
        ("checklist.csv", "Set,#,Player\nNight Sprints,NS-1,Orla Thorsby\n"),
        ("front.jpg", b"\xff\xd8"),
    )
    sources = Sources()
    add_file(sources, "all.zip", data)
    draft = interpret(sources.replaced("all.zip#front.jpg", 1, ()), About(name="Mine", formats=HOBBY))
    assert not [note for note in draft.notes if note.status is Status.NOT]
    assert [card.name for card in draft.reading.product.cards] == ["Orla Thorsby"]


def test_a_package_in_a_zip_is_its_tables_and_nothing_else() -> None:
    data = zipped(
        ("datapackage.json", '{"name": "p", "title": "P"}'),
        ("cards.csv", "section,number,name\nbase,1,Dov Quill\n"),
        ("README.txt", "1 Nobody At All\n"),
    )
    sources = Sources()
    add_file(sources, "p.zip", data)
    assert [(sheet.place, sheet.unread) for sheet in sources.sheets] == [
        ("p.zip#cards.csv", ""),
        ("p.zip#README.txt", "beside a product package only its own tables are read"),
    ]
    draft = interpret(sources, About(formats=HOBBY))
    assert [note.status for note in draft.notes if note.sheet == "p.zip#README.txt"] == [Status.PASSED]
    assert Sources.from_json(sources.to_json()) == sources


def test_tables_of_a_package_are_read_whatever_the_case_of_their_names() -> None:
    tables = (
        ("datapackage.json", '{"name": "p", "title": "P"}'),
        ("CARDS.CSV", "section,number,name\nbase,1,Dov Quill\n"),
    )
    assert [card.name for card in read(("p.zip", zipped(*tables))).reading.product.cards] == ["Dov Quill"]


def test_what_systems_leave_in_a_zip_is_nothing_and_photos_are_one_line() -> None:
    photos = [(f"p{n}.jpg", b"x") for n in range(30)]
    draft = read(("a.zip", zipped(("a/x.csv", CARDS), ("__MACOSX/a/._x.csv", b"\0\1"), *photos)))
    assert [card.name for card in draft.reading.product.cards] == ["Orla Thorsby"]
    assert [note.text for note in draft.notes if note.status is Status.NOT] == ["p0.jpg and 29 more"]


def test_a_folder_of_photos_is_read_for_its_tables(tmp_path: Path) -> None:
    (tmp_path / "x.csv").write_text(CARDS)
    (tmp_path / ".git").mkdir()
    (tmp_path / ".git" / "list.csv").write_text(CARDS)
    for n in range(210):
        (tmp_path / f"p{n}.jpg").write_bytes(b"x")
    assert [sheet.place for sheet in read_paths([tmp_path]).sheets] == ["x.csv", "p0.jpg"]


@pytest.mark.filterwarnings("ignore:Duplicate name")
@pytest.mark.parametrize(
    ("members", "says"),
    [
        ((("x.csv", CARDS), ("b.xlsx", b"PK junk")), "b.xlsx: "),
        ((("x.csv", CARDS), ("x.csv", CARDS)), "x.csv stands twice"),
        ([(f"p{n}.csv", CARDS) for n in range(201)], "201 files"),
    ],
)
def test_a_spoiled_zip_is_refused_by_the_name_of_what_spoils_it(
    members: Sequence[tuple[str, str | bytes]], says: str
) -> None:
    with pytest.raises(UnreadableFileError, match=says):
        add_file(Sources(), "a.zip", zipped(*members))
