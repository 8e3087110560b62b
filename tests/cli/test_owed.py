"""``botin owed``, the bounds of ``odds`` and ``worth``, ``check``'s sets, ``printrun --log``: shapes and sums by hand."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from botin.cli import buying as buying  # noqa: PLC0414  (registers its commands)
from botin.cli import cli
from botin.cli import opening as opening  # noqa: PLC0414
from botin.cli import scripts as scripts  # noqa: PLC0414

FILES = {
    "formats.csv": "format,label,packs_per_box,cards_per_pack,boxes_per_case\nhobby,Hobby,4,5,2\n",
    "sections.csv": "section,label,kind\nbase,Base,base\nsigned,Signed,autograph\nworn,Worn,relic\nboth,Both,autograph_relic\n",
    "cards.csv": "section,number,name\n"
    + "".join(f"base,{n},Rider {n}\n" for n in range(1, 41))
    + "".join(f"{key},{letter}{n},Rider {n}\n" for key, letter in (("signed", "S"), ("worn", "W"), ("both", "B")) for n in (1, 2)),
    "parallels.csv": "parallel,label,section,run\ngold,Gold,signed,499\n",
    "odds.csv": "format,section,parallel,packs_per_hit\nhobby,signed,,\nhobby,worn,,\nhobby,both,,\n",
    "promises.csv": "format,label,count,per,promise,covers\n"
    "hobby,one signed and one worn,1,box,exact,kind=autograph\nhobby,one signed and one worn,1,box,exact,kind=relic\n",
}  # fmt: skip
PACKED = "".join(f"1,{pack},base,{n},\n" for pack in (1, 2, 3, 4) for n in (1, 2, 3))


@pytest.fixture
def package(tmp_path: Path) -> Path:
    folder = tmp_path / "package"
    folder.mkdir()
    for name, text in FILES.items():
        (folder / name).write_text(text, "utf-8")
    meta = {"name": "p", "title": "P", "resources": [{"name": n[:-4], "path": n} for n in FILES]}
    (folder / "datapackage.json").write_text(json.dumps(meta), "utf-8")
    return folder


def run(*args: object) -> dict[str, Any]:
    found = CliRunner().invoke(cli, [str(arg) for arg in (*args, "--json")])
    assert found.exit_code in (0, 1), found.stderr
    document: dict[str, Any] = json.loads(found.stdout)
    return document


def owed(package: Path, rows: str, *more: object) -> list[dict[str, Any]]:
    log = package.parent / "openings.csv"
    log.write_text("box,pack,section,number,parallel\n" + rows, "utf-8")
    found: list[dict[str, Any]] = run("owed", package, "--format", "hobby", "--log", log, *more)["promises"]
    return found


def test_a_signed_card_in_an_unprinted_finish_fills_its_promise(package: Path) -> None:
    signed, worn = owed(package, PACKED + "1,1,signed,S1,gold\n1,2,worn,W1,\n")
    assert (signed["seen"], signed["owed"], signed["claim"]) == (1, 0, False)
    assert signed["counted"] == [["signed", "S1", "gold"]]
    assert (worn["seen"], worn["claim"]) == (1, False)


def test_cards_are_given_so_that_most_promises_are_filled(package: Path) -> None:
    """A signed relic first, then a plain signed card: counted one by one the relic would seem owed."""
    signed, worn = owed(package, PACKED + "1,1,both,B1,\n1,2,signed,S1,\n")
    assert (signed["owed"], worn["owed"]) == (0, 0)
    assert worn["counted"] == [["both", "B1", ""]]
    assert not signed["claim"]
    assert not worn["claim"]


def test_one_card_does_not_fill_two_places_of_a_sentence(package: Path) -> None:
    rows = owed(package, PACKED + "1,1,both,B1,\n")
    assert sum(row["owed"] for row in rows) == 1
    assert any(row["claim"] for row in rows)
    shared = (package / "promises.csv").read_text("utf-8").replace("one worn,", "one worn (may be one card),")
    (package / "promises.csv").write_text(shared, "utf-8")
    assert [row["owed"] for row in owed(package, PACKED + "1,1,both,B1,\n")] == [0, 0]


def test_packs_left_and_unlisted_cards_can_still_fill_it(package: Path) -> None:
    assert not any(row["claim"] for row in owed(package, PACKED, "--packs-left", 1))
    assert not any(row["claim"] for row in owed(package, "1,1,base,1,\n1,2,base,2,\n"))
    assert all(row["claim"] for row in owed(package, PACKED))
    strange = owed(package, PACKED + "1,1,who knows,X1,\n1,2,who knows,X2,\n")
    assert not any(row["claim"] for row in strange)


def test_chances_and_worth_carry_their_bounds(package: Path) -> None:
    found = run("odds", package, "--format", "hobby", "--want", "signed:S1:gold", "--boxes", 3)
    low, high = found["bounds"]["box"]
    assert low == pytest.approx(0, abs=1e-6)
    assert low <= found["chance"]["box"] <= high <= 0.5 + 1e-6
    assert found["expected_bounds"] == [
        pytest.approx(0, abs=1e-6),
        pytest.approx(19 / 42),
    ]  # no more a card than base
    assert found["unprinted"] == [{"section": "signed", "parallel": "gold", "group": ""}]
    prices = package.parent / "prices.csv"
    prices.write_text(
        "section,number,parallel,price\nbase,,,0.10\nsigned,,,10\nsigned,,gold,40\nworn,,,5\nboth,,,50\n", "utf-8"
    )
    worth = run("worth", package, "--format", "hobby", "--prices", prices, "--cost", 20)
    low, high = worth["mean_bounds"]
    assert low == pytest.approx(18 * 0.1 + 10 + 5)  # one plain signed, one worn
    assert high == pytest.approx(19 * 0.1 + 50)  # one card that is both
    assert low <= worth["mean"] <= high
    assert worth["chance_bounds"][0] <= worth["chance_break_even"] <= worth["chance_bounds"][1]
    assert worth["chance_bounds"] == [pytest.approx(0, abs=1e-6), pytest.approx(1, abs=1e-6)]
    assert worth["would_settle"][0]["moves_mean_by"] > 0


def test_check_names_the_set(package: Path) -> None:
    (package / "odds.csv").write_text(
        "format,section,parallel,packs_per_hit\nhobby,signed,,1\nhobby,worn,,\nhobby,both,,\n", "utf-8"
    )
    found = run("check", package)
    assert not found["ok"]
    assert [{row["where"] for row in one} for one in found["conflict"]] == [{"odds.csv:2", "promises.csv:2"}]


def test_logs_narrow_the_print_run(package: Path) -> None:
    """499 × 2 gold cards; one in 20 boxes of the log speaks for some 20,000 boxes, and stays inside what is stated."""
    log = package.parent / "openings.csv"
    rows = "".join(f"{box},{pack},base,1,\n" for box in range(20) for pack in (1, 2, 3, 4))
    log.write_text("box,pack,section,number,parallel\n" + rows + "3,1,signed,S1,gold\n", "utf-8")
    before = run("printrun", package)["formats"]["hobby"]
    after = run("printrun", package, "--log", log)["formats"]["hobby"]
    assert before["boxes"]["high"] is None
    assert after["boxes"]["low"] >= before["boxes"]["low"]
    assert 5_000 < after["boxes"]["estimate"] < 60_000
