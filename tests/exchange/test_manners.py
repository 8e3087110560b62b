"""The same source in another manner reads the same: other strokes, blanks, marks of headings, margins, code pages."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable
from dataclasses import replace
from functools import cache

import pytest

from tests.corpus import byhand
from tests.corpus.truth import Case, read_case, score

Manner = Callable[[str], str]
SHARES = 10
"""Each manner is tried on one case in so many, each case by several manners."""


def each(change: Manner) -> Manner:
    return lambda text: "\n".join(map(change, text.split("\n")))


TEXTS: dict[str, Manner] = {
    "strokes": lambda text: text.replace(" - ", " – "),
    "long strokes": lambda text: re.sub(r" [-–] ", " — ", text),
    "a blank line between all": lambda text: text.replace("\n", "\n\n"),
    "ends of lines": lambda text: text.replace("\n", "  \r\n"),
    "hard blanks": lambda text: text.replace(" ", "\u00a0"),
    "words before": lambda text: f"This is what I found in my boxes, please tell me what is wrong.\n\n{text}",
    "words behind": lambda text: f"{text}\n\nThanks to everybody who helped with this list!\nwww.example.org",
}
ODDS: dict[str, Manner] = {
    "in": lambda text: re.sub(r"\b1:(\d)", r"1 in \1", text),
    "blanks": lambda text: re.sub(r"\b1:(\d)", r"1 : \1", text),
    "packs": each(lambda line: re.sub(r"(\b1:[\d,.]*\d)$", r"\1 packs", line)),
    "a stroke": each(lambda line: re.sub(r"^(\D+?)\s+(1:[\d,.]+)$", r"\1 - \2", line)),
    "brackets": each(lambda line: re.sub(r"^(\D+?)\s+(1:[\d,.]+)$", r"\1 (\2)", line)),
    "dots": each(lambda line: re.sub(r"^(\D+?)\s+(1:[\d,.]+)$", r"\1 ........ \2", line)),
}
KEPT_APART = frozenset(("unlisted_heading", "text_slash_lists", "odds_joined_by_and"))
"""What these say hangs on a blank line, or on the very stroke."""


def heads_marked(case: Case, mark: str) -> Case:
    heads = {row["section"].casefold() for row in case.truth.get("sections", [])}
    change = each(lambda line: mark.format(line.strip()) if line.strip().casefold() in heads else line)
    return replace(case, texts={**case.texts, "checklist": change(case.texts["checklist"])})


def tables_of(case: Case) -> dict[str, list[list[str]]]:
    """The CSV files of a case as rows; none where it has others."""
    found = {}
    for name, data in case.files.items():
        text = data.decode("utf-8-sig", "replace")
        if not name.endswith(".csv") or "\ufffd" in text or "\n" not in text:
            return {}
        mark = max(",;|\t", key=text.count)
        found[name] = list(csv.reader(io.StringIO(text), delimiter=mark))
    return found


def with_tables(case: Case, tables: dict[str, list[list[str]]], mark: str = ";") -> Case:
    files = {}
    for name, rows in tables.items():
        out = io.StringIO()
        csv.writer(out, delimiter=mark).writerows(rows)
        files[name] = out.getvalue().encode()
    return replace(case, files=files)


def assert_reads_alike(case: Case, changed: Case) -> None:
    after = score(changed, read_case(changed))
    assert (after.right, after.wrong) == as_it_stands(case.name), after.misses[:3]


@cache
def loaded(name: str) -> Case:
    return byhand.load(name)


@cache
def as_it_stands(name: str) -> tuple[int, int]:
    """How many rows of a case come out right as it stands, and how many wrong and certain."""
    case = loaded(name)
    found = score(case, read_case(case))
    return found.right, found.wrong


def shared(manner: str, names: list[str]) -> list[str]:
    at = [*TEXTS, *ODDS].index(manner) % SHARES if manner in {**TEXTS, **ODDS} else 0
    return names[at::SHARES]


@pytest.mark.parametrize("manner", TEXTS)
def test_a_checklist_in_another_manner_reads_the_same(manner: str) -> None:
    cases = [loaded(name) for name in byhand.names() if name not in KEPT_APART]
    for case in shared(manner, [case.name for case in cases if "checklist" in case.texts]):
        found = loaded(case)
        texts = {**found.texts, "checklist": TEXTS[manner](found.texts["checklist"])}
        assert_reads_alike(found, replace(found, texts=texts))


@pytest.mark.parametrize("manner", ODDS)
def test_odds_in_another_manner_read_the_same(manner: str) -> None:
    for name in shared(manner, [name for name in byhand.names() if name not in KEPT_APART]):
        case = loaded(name)
        if "odds" in case.texts:
            assert_reads_alike(case, replace(case, texts={**case.texts, "odds": ODDS[manner](case.texts["odds"])}))


@pytest.mark.parametrize("mark", ["{}:", "## {}", "**{}**", "=== {} ==="])
def test_headings_marked_otherwise_read_the_same(mark: str) -> None:
    for name in byhand.names()[:: 2 * SHARES]:
        case = loaded(name)
        if "checklist" in case.texts:
            assert_reads_alike(case, heads_marked(case, mark))


@pytest.mark.parametrize("manner", ["tabs", "bars", "an empty column before", "a blank row after each", "a total"])
def test_a_table_in_another_manner_reads_the_same(manner: str) -> None:
    apart = ("one_column_csv", "package_like")
    with_files = [name for name in byhand.names() if name not in apart and tables_of(loaded(name))]
    for name in with_files[:: SHARES // 2]:
        case = loaded(name)
        tables = tables_of(case)
        mark = {"tabs": "\t", "bars": "|"}.get(manner, ";")
        if manner == "an empty column before":
            tables = {at: [["", *row] for row in rows] for at, rows in tables.items()}
        elif manner == "a blank row after each":
            tables = {at: [one for row in rows for one in (row, [])] for at, rows in tables.items()}
        elif manner == "a total":
            tables = {at: [*rows, ["Total", str(len(rows) - 1)]] for at, rows in tables.items()}
        assert_reads_alike(case, with_tables(case, tables, mark))
