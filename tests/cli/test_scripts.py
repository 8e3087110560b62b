"""Commands for scripts: shapes, exit codes, and nothing but one JSON document on standard output."""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner, Result

from botin.cli import cli
from botin.cli import library as library  # noqa: PLC0414  (registers its commands)
from botin.cli import scripts as scripts  # noqa: PLC0414
from botin.demo.build import make_products


def run(args: Sequence[str | Path], **env: str) -> Result:
    return CliRunner().invoke(cli, [str(arg) for arg in args], env=env)


def document(found: Result) -> dict[str, Any]:
    made: dict[str, Any] = json.loads(found.stdout)
    return made


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("packages")
    make_products(folder, date(2026, 11, 24))
    return folder


@pytest.fixture
def small(tmp_path: Path) -> Path:
    files = {
        "formats.csv": "format,label,packs_per_box,cards_per_pack,boxes_per_case\nhobby,Hobby,24,8,12\nretail,Retail,7,6,\n",
        "sections.csv": "section,label,kind\nbase,Base,base\nink,Ink,autograph\n",
        "cards.csv": "section,number,name\n"
        + "".join(f"base,{n},Rider {n}\n" for n in range(1, 11))
        + "ink,I-1,Rider 1\n",
        "parallels.csv": "parallel,label,section,run\ncopper,Copper,base,50\n",
        "odds.csv": "format,section,parallel,packs_per_hit\nhobby,base,copper,460\nhobby,ink,,24\nretail,ink,,70\n",
    }
    for name, text in files.items():
        (tmp_path / name).write_text(text, "utf-8")
    return tmp_path


def test_check_of_a_sound_package(small: Path) -> None:
    found = run(["check", small, "--json"])
    assert (found.exit_code, document(found)) == (0, {"ok": True, "findings": [], "conflict": []})


def test_check_names_what_is_wrong_and_exits_1(small: Path) -> None:
    with (small / "odds.csv").open("a") as file:
        file.write("hobby,nowhere,,9\n")
    found = run(["check", small, "--json"])
    assert found.exit_code == 1
    made = document(found)
    assert made["ok"] is False
    assert set(made["findings"][0]) == {"code", "severity", "where", "message"}
    assert (made["findings"][0]["code"], made["findings"][0]["where"]) == ("unknown-section", "odds.csv:5")


@pytest.mark.parametrize("broken", ["missing column", "no folder", "no zip"])
def test_check_of_what_cannot_be_opened_exits_2_with_json(small: Path, broken: str) -> None:
    path = small
    if broken == "missing column":
        (small / "cards.csv").write_text("section,number\nbase,1\n")
    elif broken == "no folder":
        path = small / "lost"
    else:
        path = small / "a.zip"
        path.write_bytes(b"hello")
    found = run(["check", path, "--json"])
    assert found.exit_code == 2
    assert document(found)["ok"] is False


@pytest.mark.parametrize("args", [["check"], ["printrun"], ["nothing"], ["check", "a", "--colour"]])
def test_wrong_usage_exits_2(args: list[str]) -> None:
    assert run(args).exit_code == 2


def test_warnings_alone_exit_0(small: Path) -> None:
    (small / "parallels.csv").write_text("parallel,label,section,run\ncopper,Copper,base,50\nslate,Slate,base,\n")
    found = run(["check", small, "--json"])
    assert found.exit_code == 0
    assert [item["severity"] for item in document(found)["findings"]] == ["warning"]


def test_check_in_words(small: Path) -> None:
    assert "Nothing to say against it" in run(["check", small]).output


def test_printrun_has_the_shape_of_the_contract(small: Path) -> None:
    found = run(["printrun", small, "--json"])
    assert found.exit_code == 0
    made = document(found)
    assert set(made) == {"formats", "slack", "lines", "populations", "missing_odds"}
    assert made["formats"]["retail"] is None
    hobby = made["formats"]["hobby"]
    assert set(hobby) == {"packs", "boxes", "cases", "separable"}
    assert hobby["packs"]["low"] == pytest.approx(500 * 459.5)
    assert hobby["packs"]["high"] == pytest.approx(500 * 460.5)
    assert made["lines"] == [{"section": "base", "parallel": "copper", "group": "", "copies": 500, "agrees": None}]
    assert {"section", "parallel", "group", "per_card"} == set(made["populations"][0])


def test_printrun_of_the_demo_finds_what_was_packed(demo: Path) -> None:
    """The demo's own plan packed 9,600 hobby and 52,000 blaster boxes."""
    made = document(run(["printrun", demo / "banked-2026", "--json"]))
    for key, packed in (("hobby", 9_600), ("blaster", 52_000)):
        boxes = made["formats"][key]["boxes"]
        assert boxes["low"] <= packed <= boxes["high"]


def test_printrun_of_what_cannot_be_opened(tmp_path: Path) -> None:
    found = run(["printrun", tmp_path / "lost", "--json"])
    assert found.exit_code == 2
    assert "error" in document(found)


def test_import_and_export_round_trip(demo: Path, tmp_path: Path) -> None:
    home = {"BOTIN_HOME": str(tmp_path / "home")}
    assert run(["import", demo / "banked-2026"], **home).exit_code == 0
    for name in ("a", "a.zip", "a.xlsx"):
        assert run(["export", "banked-2026", "--to", tmp_path / name], **home).exit_code == 0
    again = {"BOTIN_HOME": str(tmp_path / "again")}
    assert run(["import", tmp_path / "a.xlsx"], **again).exit_code == 0
    assert run(["export", "banked-2026", "--to", tmp_path / "b"], **again).exit_code == 0
    for file in sorted((tmp_path / "a").iterdir()):
        assert file.read_bytes() == (tmp_path / "b" / file.name).read_bytes(), file.name


def test_import_of_loose_csv_files(tmp_path: Path) -> None:
    listed, boxed = tmp_path / "list.csv", tmp_path / "formats.csv"
    listed.write_text("No.;Rider\n1;Orla Thorsby\n", "utf-8")
    boxed.write_text("format,packs_per_box,cards_per_pack\nhobby,24,8\n", "utf-8")
    home = {"BOTIN_HOME": str(tmp_path / "home")}
    assert run(["import", listed, boxed, "--name", "Loose 2027"], **home).exit_code == 0
    assert run(["export", "loose-2027", "--to", tmp_path / "out"], **home).exit_code == 0
    assert "Orla Thorsby" in (tmp_path / "out" / "cards.csv").read_text("utf-8")


def test_expected_failures_are_one_line(tmp_path: Path) -> None:
    home = {"BOTIN_HOME": str(tmp_path / "home")}
    (tmp_path / "list.csv").write_text("No.,Rider\n1,\n")
    refused = run(["import", tmp_path / "list.csv"], **home)
    assert refused.exit_code == 1
    assert refused.stdout == ""
    assert len(refused.stderr.strip().splitlines()) == 1
    assert "Nothing was stored" in refused.stderr
    assert run(["import", tmp_path / "lost.csv"], **home).exit_code == 2
    assert run(["export", "lost", "--to", tmp_path / "x"], **home).exit_code == 1


def test_check_and_printrun_never_touch_the_store(small: Path, tmp_path: Path) -> None:
    home = tmp_path / "untouched"
    run(["check", small, "--json"], BOTIN_HOME=str(home))
    run(["printrun", small, "--json"], BOTIN_HOME=str(home))
    assert not home.exists()
    assert os.environ.get("BOTIN_HOME") != str(home)
