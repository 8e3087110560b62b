"""Files as people spoil them: what is not used is named, what cannot be is refused, nothing passes in silence."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from botin.cli import building as building  # noqa: PLC0414  (registers its commands)
from botin.cli import cli
from botin.cli import routing as routing  # noqa: PLC0414

FILES = {
    "formats.csv": "format,label,packs_per_box,cards_per_pack\nhobby,Hobby,4,5\n",
    "sections.csv": "section,label,kind\nb,Track Base,base\n",
    "cards.csv": "section,number,name\n" + "".join(f"b,{n},Rider {n}\n" for n in range(1, 31)),
    "odds.csv": "format,section,parallel,packs_per_hit\n",
}
FEES = '{"selling": {"fee": 0.1}, "grading": {"tiers": [{"name": "value", "fee": 20}]}}'
GRADES = '{"counts": {"10": 500, "9": 300, "8": 200}}'


@pytest.fixture
def package(tmp_path: Path) -> Path:
    folder = tmp_path / "package"
    folder.mkdir()
    for name, text in FILES.items():
        (folder / name).write_text(text, "utf-8")
    return folder


def ran(folder: Path, command: list[str], **files: str) -> tuple[int, dict[str, Any]]:
    """Run a command; ``{name}`` stands for the file of that name."""
    for name, text in files.items():
        (folder.parent / name).write_text(text, "utf-8")
    words = [str(folder.parent / word[1:]) if word.startswith("@") else word for word in command]
    found = CliRunner().invoke(cli, words)
    return found.exit_code, json.loads(found.stdout)


def named(document: dict[str, Any], word: str) -> list[str]:
    return [one["why"] for one in document["unused"] if word in f"{one['where']} {one['text']} {one['why']}"]


def test_a_price_of_nothing_and_one_that_is_asked_are_no_sales(package: Path) -> None:
    prices = "section,number,price,kind\nb,1,0,\nb,1,5,\nb,2,9,asking\n"
    code, found = ran(package, ["estimate", "@package", "--prices", "@p", "--json"], p=prices)
    assert code == 0
    assert len(found["unused"]) == 2
    assert named(found, "p:2")
    assert named(found, "p:4")


def test_a_price_beyond_any_card_is_refused(package: Path) -> None:
    prices = "section,number,price\nb,1,99999999999999999999\n"
    code, found = ran(package, ["estimate", "@package", "--prices", "@p", "--json"], p=prices)
    assert code != 0
    assert "p:2" in found["error"]


def test_copies_with_one_id_cannot_be_told_apart_and_it_is_said(package: Path) -> None:
    command = ["routes", "--copies", "@c", "--prices", "@p", "--fees", "@f", "--grades", "@g", "--json"]
    files = {"p": "section,number,price\nb,1,5\n", "f": FEES, "g": GRADES}
    _, found = ran(package, command, c="id,section,number\na,b,1\nA,b,1\na,b,1\n,b,1\n", **files)
    assert len(found["copies"]) == 4
    assert named(found, "c:4")
    assert named(found, "c:5")
    assert not named(found, "c:3")


@pytest.mark.parametrize("table", ["Cur;set;no;sold for\nJPY;b;1;1500\n", "set;no;sold for\nb;1;£ 15\n"])
def test_without_a_package_the_currency_is_that_of_the_file(package: Path, table: str) -> None:
    command = ["routes", "--copies", "@c", "--prices", "@p", "--fees", "@f", "--grades", "@g", "--json"]
    code, found = ran(package, command, c="id,section,number\na,b,1\n", p=table, f=FEES, g=GRADES)
    assert code == 0, found


@pytest.mark.parametrize("name", ["b", "B", "Track Base", "track base", "Base"])
def test_a_set_is_finished_by_any_clear_name_of_its_section(package: Path, name: str) -> None:
    command = ["finish", "@package", "--format", "hobby", "--section", name, "--have", "@h", "--prices", "@p"]
    files = {"h": "section,number,count\nb,1,1\n", "p": "section,number,price\nb,,1\n"}
    code, found = ran(package, [*command, "--box-price", "9", "--json"], **files)
    assert code == 0, found
