"""Packages in and out: the round trip, bad rows as findings, files that are not taken in."""

from __future__ import annotations

import io
import json
import zipfile
from datetime import date
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from botin.core.catalog.naming import LooseNames
from botin.core.catalog.product import Card, Product
from botin.core.errors import UnreadableFileError
from botin.core.pricing.prices import PriceRow
from botin.demo.build import make_products
from botin.exchange.catalog.package import load, package_members, workbook_bytes, write_folder, zip_bytes
from botin.exchange.guard import guard, unguard
from botin.exchange.pricing import parse_prices, prices_csv
from botin.exchange.zips import zip_members


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> list[Product]:
    folder = tmp_path_factory.mktemp("packages")
    return [made.product for made in make_products(folder, date(2026, 11, 24))]


def test_demo_products_have_what_the_slice_needs(demo: list[Product]) -> None:
    assert len(demo) >= 2
    assert all(len(product.cards) >= 300 and product.odds and product.promises for product in demo[:2])
    names = [card.name for card in demo[0].cards_by_section["base"]]
    assert len(set(names)) == len(names)


@pytest.mark.parametrize("kind", ["folder", "zip", "xlsx"])
def test_export_then_import_gives_the_same(demo: list[Product], tmp_path: Path, kind: str) -> None:
    for product in demo:
        path = tmp_path / product.key
        if kind == "folder":
            write_folder(product, path)
        else:
            path = path.with_suffix(f".{kind}")
            path.write_bytes(zip_bytes(product) if kind == "zip" else workbook_bytes(product))
        reading = load(path)
        assert reading.findings == []
        assert reading.product == product


def test_the_zip_is_the_same_each_time(demo: list[Product]) -> None:
    assert zip_bytes(demo[0]) == zip_bytes(demo[0])


@given(st.text(max_size=30))
def test_a_guarded_cell_never_runs_and_comes_back(cell: str) -> None:
    assert not guard(cell).startswith(("=", "+", "-", "@"))
    assert unguard(guard(cell)) == cell


@settings(max_examples=60, deadline=None)
@given(st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), max_size=20).map(str.strip))
def test_any_name_survives_the_round_trip(name: str) -> None:
    product = Product("p", "P", cards=(Card("s", "1", name, note=name),))
    members = package_members(product)
    card = members["cards.csv"].decode().splitlines()
    assert len(card) >= 2
    raw = {"datapackage.json": members["datapackage.json"], **members}
    from botin.exchange.catalog.build import build
    from botin.exchange.source import package_from

    found = build(package_from(raw)).product.cards
    assert [(card.name, card.note) for card in found] == [(name, name)]


def members(**files: str) -> dict[str, bytes]:
    base = {
        "formats.csv": "format,label,packs_per_box,cards_per_pack\nhobby,Hobby,24,8\n",
        "sections.csv": "section,label,kind\nbase,Base,base\n",
        "cards.csv": "section,number,name\nbase,1,Orla Thorsby\n",
        "datapackage.json": json.dumps({"name": "p", "botin": {"currency": "EUR"}}),
    }
    return {name: text.encode() for name, text in {**base, **files}.items()}


def findings_of(**files: str) -> list[tuple[str, str]]:
    from botin.exchange.catalog.build import build
    from botin.exchange.source import package_from

    named = {name.replace("_csv", ".csv").replace("_json", ".json"): text for name, text in files.items()}
    return [(found.code, found.where) for found in build(package_from(members(**named))).findings]


@pytest.mark.parametrize(
    ("files", "finding"),
    [
        ({"formats_csv": "format,packs_per_box,cards_per_pack\nh,0,8\n"}, ("bad-number", "formats.csv:2")),
        ({"formats_csv": "format,packs_per_box,cards_per_pack\n\nh,24,many\n"}, ("bad-number", "formats.csv:3")),
        (
            {"formats_csv": "format,packs_per_box,cards_per_pack,list_price\nh,24,8,-3\n"},
            ("bad-price", "formats.csv:2"),
        ),
        ({"sections_csv": "section,kind\nbase,shiny\n"}, ("bad-kind", "sections.csv:2")),
        ({"parallels_csv": "parallel,section,run\na,base,25\nb,base,many\n"}, ("bad-run", "parallels.csv:3")),
        ({"odds_csv": "format,section,packs_per_hit\nhobby,base,1:?\n"}, ("bad-rate", "odds.csv:2")),
        ({"odds_csv": "format,section,packs_per_hit,per_box\nhobby,base,4,6\n"}, ("two-rates", "odds.csv:2")),
        (
            {"odds_csv": "format,section,packs_per_hit,per_pack,promise\nhobby,base,4,1,exact\n"},
            ("two-rates", "odds.csv:2"),
        ),
        ({"odds_csv": "format,section,per_box,promise\nhobby,base,4,maybe\n"}, ("bad-promise", "odds.csv:2")),
        ({"promises_csv": "count,per,covers\n2,crate,base\n"}, ("bad-per", "promises.csv:2")),
        ({"datapackage_json": '{"botin": {"currency": "euros"}}'}, ("bad-currency", "datapackage.json")),
        ({"datapackage_json": '{"botin": {"released_on": "soon"}}'}, ("bad-date", "datapackage.json")),
    ],
)
def test_a_bad_row_is_a_finding_with_its_place(files: dict[str, str], finding: tuple[str, str]) -> None:
    assert findings_of(**files) == [finding]


def test_a_line_break_in_a_cell_does_not_shift_the_places() -> None:
    text = 'section,kind,cue\nbase,base,"two\nlines"\nx,shiny,\n'
    assert findings_of(sections_csv=text) == [("bad-kind", "sections.csv:4")]


@pytest.mark.parametrize(
    "data",
    [
        "section;kind".encode("utf-16"),
        b"\xff\xfe\x00",
        b"section,kind\n" + b"x" * 1_200_000,
    ],
)
def test_unreadable_tables_are_refused_in_words(data: bytes) -> None:
    from botin.exchange.source import package_from

    with pytest.raises(UnreadableFileError):
        package_from({**members(), "sections.csv": data + b"\nx"})


def packed(files: dict[str, bytes]) -> io.BytesIO:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out


@pytest.mark.parametrize("name", ["../cards.csv", "/etc/cards.csv", "a/../../b.csv", "C:\\cards.csv", "a\\..\\b.csv"])
def test_names_that_leave_the_zip_are_refused(name: str) -> None:
    with pytest.raises(UnreadableFileError, match="outside itself"):
        zip_members(packed({name: b"x"}))


def test_a_zip_bomb_is_refused() -> None:
    with pytest.raises(UnreadableFileError, match="would unpack to"):
        zip_members(packed({"cards.csv": b"0" * 80_000_000}))


def test_a_folder_around_the_package_is_taken_off() -> None:
    assert set(zip_members(packed({f"mine/{name}": data for name, data in members().items()}))) == set(members())


@settings(max_examples=50, deadline=None)
@given(st.binary(max_size=400))
def test_any_bytes_as_zip_or_workbook_are_refused_or_read(data: bytes) -> None:
    from botin.exchange.workbook import read_workbook

    for read in (zip_members, read_workbook):
        with pytest.raises(UnreadableFileError):
            read(io.BytesIO(data))


def test_prices_round_trip_and_bad_rows() -> None:
    rows = [
        PriceRow("base", "1", "copper", "", 14.5, date(2026, 3, 2), "market"),
        PriceRow("base", "", "", "10", 0.05, None, ""),
    ]
    day, names = date(2026, 11, 24), LooseNames()
    file = parse_prices(prices_csv(rows, "EUR"), "prices.csv", "EUR", names, day)
    assert (list(file.rows), file.findings, file.unused) == (rows, (), ())
    text = b"section,price,currency\nbase,-1,\nbase,free,\nbase,3,JPY\nbase,4,EUR\n"
    file = parse_prices(text, "prices.csv", "EUR", names, day)
    assert [row.amount for row in file.rows] == [4.0]
    assert [found.where for found in file.findings] == ["prices.csv:2", "prices.csv:3", "prices.csv:4"]
