"""``botin read``: rows with the lines they came from, every line, and nothing stored."""

from __future__ import annotations

import json
from pathlib import Path

from click.testing import CliRunner

from botin.main import cli
from tests.corpus.tablelayouts import xlsx_bytes


def run(*args: str | Path) -> tuple[int, dict[str, object]]:
    done = CliRunner().invoke(cli, ["read", *map(str, args), "--json"])
    return done.exit_code, json.loads(done.stdout)


def test_rows_name_their_lines_and_sheets_their_file(tmp_path: Path) -> None:
    book = tmp_path / "season.xlsx"
    book.write_bytes(xlsx_bytes([("Base", [["No", "Name", "Team"], ["1", "Orla Thorsby", "Tarn"]])]))
    text = tmp_path / "odds.txt"
    text.write_text("Something nobody can read at all\n", encoding="utf-8")
    code, document = run(book, "--odds", text, "--name", "Small")
    assert code == 0
    product, lines = document["product"], document["lines"]
    assert product["cards"][0]["from"] == ["season.xlsx#Base", 2]
    assert set(product) == {
        "formats", "sections", "cards", "parallels", "odds", "promises", "overall", "teams",
    }  # fmt: skip
    assert [(line["source"], line["line"]) for line in lines] == [
        ("season.xlsx#Base", 1), ("season.xlsx#Base", 2), ("odds.txt", 1),
    ]  # fmt: skip
    assert lines[2]["status"] == "unread"


def test_two_files_of_one_name_keep_their_lines_apart(tmp_path: Path) -> None:
    for name in ("one", "two"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "list.csv").write_text(f"No,Name,Team\n1,Orla {name},Tarn\n", encoding="utf-8")
    _, document = run(tmp_path / "one" / "list.csv", tmp_path / "two" / "list.csv")
    assert {line["source"] for line in document["lines"]} == {"list.csv", "list.csv (2)"}


def test_nothing_given_is_said_and_a_missing_file_too(tmp_path: Path) -> None:
    code, document = run()
    assert code == 2
    assert "nothing to read" in str(document["error"])
    code, document = run(tmp_path / "no.csv")
    assert code == 2
    assert "no.csv" in str(document["error"])
