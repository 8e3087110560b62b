"""What is exported is a Data Package by another reader of the standard (frictionless)."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest
from frictionless import Package

from botin.demo.build import make_products
from botin.exchange.catalog.package import write_folder


@pytest.mark.parametrize("place", [0, 1])
def test_frictionless_accepts_the_exported_package(tmp_path: Path, place: int) -> None:
    made = make_products(tmp_path / "demo", date(2026, 11, 24))[place].product
    write_folder(made, tmp_path / "out")
    package = Package(str(tmp_path / "out" / "datapackage.json"))
    report = package.validate()
    assert report.valid, report.flatten(["title", "message"])
    names = {resource.name for resource in package.resources}
    assert {"formats", "sections", "cards", "parallels", "odds", "promises"} <= names
    rows = package.get_resource("cards").read_rows()
    assert len(rows) == len(made.cards)
    assert rows[0]["name"] == made.cards[0].name


def test_frictionless_refuses_a_broken_one(tmp_path: Path) -> None:
    made = make_products(tmp_path / "demo", date(2026, 11, 24))[0].product
    write_folder(made, tmp_path / "out")
    formats = tmp_path / "out" / "formats.csv"
    formats.write_text(formats.read_text("utf-8").replace(",24,8,", ",24,many,"), "utf-8")
    assert not Package(str(tmp_path / "out" / "datapackage.json")).validate().valid
