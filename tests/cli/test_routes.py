"""``botin routes``: shapes of the contract and values by hand."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from botin.cli import cli
from botin.cli import routing as routing  # noqa: PLC0414  (registers its command)

FILES = {
    "copies.csv": "id,section,number,parallel,wanted,front,back,corners\na,signed,S1,,,,,\nb,base,1,,,,,\nc,base,2,,yes,,,\n"
    "d,signed,S2,,,60,70,10\n",
    "prices.csv": "section,number,parallel,grade,price,sold_on\nsigned,S1,,,50,2026-11-01\nsigned,S1,,10,200,2026-11-01\n"
    "signed,S1,,9,60,2026-11-01\nbase,,,,0.1,2026-11-01\nsigned,,,,30,2026-11-01\nsigned,,,10,120,2026-11-01\n",
    "fees.json": '{"selling": {"fee": 0.1, "postage": 2, "bulk_each": 0.02}, "grading": {"shipping": 40, "together": 10,'
    ' "tiers": [{"name": "value", "fee": 20, "ceiling": 500, "upcharge": 30}]}}',
    "grades.json": '{"chances": {"10": 0.5, "9": 0.3, "8": 0.2}, "counts": {"10": 500, "9": 300, "8": 200}}',
}


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for name, text in FILES.items():
        (tmp_path / name).write_text(text, "utf-8")
    return tmp_path


def run(folder: Path, **other: Path) -> Result:
    names = ("copies", "prices", "fees", "grades")
    suffix = {"copies": "csv", "prices": "csv"}
    args = [
        x
        for name in names
        for x in (f"--{name}", str(other.get(name, folder / f"{name}.{suffix.get(name, 'json')}")))
    ]
    return CliRunner().invoke(cli, ["routes", *args, "--json"])


def test_routes_by_hand(folder: Path) -> None:
    found = run(folder)
    assert found.exit_code == 0, found.stderr
    copies = {row["id"]: row for row in json.loads(found.stdout)["copies"]}
    assert set(copies) == {"a", "b", "c", "d"}
    routes = {(row["route"], row["tier"]): row for row in copies["a"]["routes"]}
    assert {"route", "tier", "net_mean", "p10", "p90", "chance_of_loss", "house", "channel"} <= set(
        routes[("sell now", None)]
    )
    assert routes[("sell now", None)]["net_mean"] == pytest.approx(43, rel=0.1)  # one sale at 50, a tenth and postage
    graded = 0.5 * (178 - 24) + 0.3 * (52 - 24) + 0.2 * (43 - 24)
    assert routes[("grade", "value")]["net_mean"] == pytest.approx(graded, rel=0.15)
    assert copies["a"]["verdict"] in ("grade", "look closer")
    assert copies["a"]["look_gain"] >= 0
    assert json.loads(found.stdout)["unused"] == []
    assert copies["b"]["verdict"] == "bulk"
    assert copies["c"]["verdict"] == "keep"
    assert "reason" in copies["d"]


def test_an_inspection_moves_the_chances(folder: Path) -> None:
    """60/40 on the front caps copy d at the next grade: the top grade's price is out of reach."""
    rows = {row["id"]: row for row in json.loads(run(folder).stdout)["copies"]}
    capped = next(row for row in rows["d"]["routes"] if row["route"] == "grade")
    (folder / "copies.csv").write_text(FILES["copies.csv"].replace(",60,70,10", ",50,70,10"), "utf-8")
    free = next(row for row in json.loads(run(folder).stdout)["copies"] if row["id"] == "d")
    graded = next(row for row in free["routes"] if row["route"] == "grade")
    assert capped["net_mean"] < graded["net_mean"] - 20


@pytest.mark.parametrize(
    ("name", "text", "code"),
    [
        ("fees.json", "{", 2),
        ("fees.json", '{"grading": {"tiers": [{"fee": 20}]}}', 2),
        ("grades.json", '{"chances": {"ten": 1}}', 2),
        ("grades.json", '{"chances": {}}', 2),
        ("copies.csv", "id,section\na,base\n", 2),
        ("copies.csv", "id,section,number,front\na,base,1,20\n", 1),
        ("grades.json", '{"chances": {"10": 0.5, "9": 0.2}}', 2),
        ("grades.json", '{"counts": {"10": 5}, "grader": {"noise": "low"}}', 2),
        ("fees.json", '{"grading": {"tiers": [{"name": "value", "fees": 20}]}}', 2),
        ("prices.csv", "section,number,price,sold_on\nbase,1,3,2206-11-01\n", 1),
        ("prices.csv", "section,price\nbase,cheap\n", 1),
    ],
)
def test_exit_codes(folder: Path, name: str, text: str, code: int) -> None:
    (folder / name).write_text(text, "utf-8")
    assert run(folder).exit_code == code
