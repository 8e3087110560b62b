"""The audit: facts of the trade hold, and every fault is found, once, where it is, with what to do."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

import pytest

from botin.core.catalog.product import (
    Card,
    Format,
    Kind,
    OddsRow,
    OverallRow,
    Parallel,
    Product,
    PromiseRow,
    Section,
    TeamClub,
)
from botin.core.odds.audit import LoggedBoxes, Logs, Stamp, audit
from botin.core.odds.findings import Finding, Severity
from tests.core.small import product


def row(section: str, packs: str = "", parallel: str = "", line: int = 2, **more: str) -> OddsRow:
    return OddsRow("hobby", section, parallel, packs_per_hit=packs, line=line, **more)  # type: ignore[arg-type]


def total(packs: str, kinds: str = "autograph;relic") -> OverallRow:
    return OverallRow("hobby", "hits", kinds, packs, line=2)


def codes(made: Product, logs: Logs | None = None) -> list[str]:
    return [found.code for found in audit(made, logs)]


def one(made: Product, code: str, logs: Logs | None = None) -> Finding:
    found = [item for item in audit(made, logs) if item.code == code]
    assert len(found) == 1, [item.code for item in audit(made, logs)]
    return found[0]


def with_total(packs: str, *rows: OddsRow) -> Product:
    return replace(product(*rows), overall=(total(packs),))


def test_groups_that_add_up_to_the_printed_total_pass() -> None:
    """common practice, no source: 1:124 and 1:78 together are the printed 1:48."""
    made = with_total("48", row("signed", "124"), row("worn", "78"))
    assert [code for code in codes(made) if code.startswith(("conflict", "odds"))] == []


def test_a_total_that_does_not_add_up_names_the_swapped_digits() -> None:
    found = one(with_total("48", row("signed", "124"), row("worn", "87")), "conflict")
    assert found.severity is Severity.ERROR
    assert found.where == "overall.csv:2"
    assert "1:78 instead of 1:87" in found.message


def test_one_missing_number_of_a_group_follows_from_the_total() -> None:
    """1/48 − 1/124 = 1/78.3; common practice, no source."""
    found = one(with_total("48", row("signed", "124"), row("worn", "", line=3)), "odds-follow")
    assert found.where == "odds.csv:3"
    assert "about 1:78" in found.message


@pytest.mark.parametrize("packs", ["20", "30", "100"])
def test_totals_far_off_are_errors(packs: str) -> None:
    assert "conflict" in codes(with_total(packs, row("signed", "124"), row("worn", "78")))


def test_too_many_cards_for_the_packs() -> None:
    found = one(product(OddsRow("hobby", "signed", per_pack="9", line=4)), "conflict")
    assert "8 cards a pack" in found.message
    assert "Signed exactly 9 a pack" in found.message.replace("Signed 9 a pack", "Signed exactly 9 a pack")


def test_too_few_cards_when_nothing_fills_the_packs() -> None:
    assert "conflict" in codes(product(OddsRow("hobby", "base", per_pack="5", promise="exact", line=4)))
    bare = product(row("signed", "12"))
    bare = replace(bare, sections=bare.sections[1:], cards=tuple(c for c in bare.cards if c.section == "signed"))
    assert "too-few-cards" in codes(bare)


@pytest.mark.parametrize(
    ("count", "promise", "packs", "far"),
    [("2", "exact", "12", False), ("2", "at_least", "12", False), ("2", "exact", "24", True),
     ("2", "at_least", "30", True), ("2", "at_least", "6", False), ("2", "average", "6", True)],
)  # fmt: skip
def test_promise_against_odds(count: str, promise: str, packs: str, far: bool) -> None:
    """An expected 2.0 is 1:12 in 24 packs."""
    promised = PromiseRow("hobby", "two signed", count, "box", promise, "kind=autograph", line=2)
    assert ("conflict" in codes(product(row("signed", packs), promises=(promised,)))) is far


def test_two_promises_over_one_line_must_agree() -> None:
    def twice(second: str) -> Product:
        rows = tuple(
            PromiseRow("hobby", label, count, "box", "exact", "signed", line=n)
            for n, label, count in ((2, "a", "1"), (3, "b", second))
        )
        return product(row("signed"), promises=rows)

    assert "conflict" not in codes(twice("1"))
    found = one(twice("2"), "conflict")
    assert (found.severity, found.where) == (Severity.ERROR, "promises.csv:2")
    assert "promises.csv:3" in found.message


@pytest.mark.parametrize("made", [
    product(OddsRow("hobby", "signed", per_box="1.5", promise="exact", line=2)),
    product(row("signed"), promises=(PromiseRow("hobby", "x", "2.5", "box", "exact", "signed", line=2),)),
])  # fmt: skip
def test_a_fractional_exact_promise_is_an_error(made: Product) -> None:
    assert one(made, "fractional-promise").severity is Severity.ERROR


CARDS = product().cards
BROKEN = {
    "unknown-section": replace(product(), cards=(*CARDS, Card("lost", "1", "A", line=9))),
    "unknown-format": product(OddsRow("mega", "signed", packs_per_hit="9", line=2)),
    "unknown-parallel": product(row("base", "9", "velvet")),
    "unknown-group": product(OddsRow("hobby", "base", "", "z", packs_per_hit="9", line=2)),
    "unknown-kind": replace(product(row("signed", "9")), overall=(total("9", "autograph;sparkle"),)),
    "unknown-cover": product(row("signed"), promises=(PromiseRow("hobby", "x", "1", "box", "", "sparkle", line=2),)),
    "promise-empty": replace(
        product(OddsRow("b", "signed", packs_per_hit="9"), promises=(PromiseRow("a", "x", "1", "box", "", "signed", line=2),)),
        formats=(Format("a", "A", 24, 8), Format("b", "B", 12, 8, line=3)),
    ),
    "number-twice": replace(product(), cards=(*CARDS, replace(CARDS[0], line=40))),
    "key-twice": replace(product(), formats=(Format("hobby", "A", 24, 8), Format("hobby", "B", 12, 8, line=3))),
    "line-twice": product(row("signed", "9"), row("signed", "12", line=3)),
    "run-twice": product(parallels=tuple(Parallel("c", "C", "base", run_text=run) for run in ("25", "49"))),
    "parallel-twice": product(parallels=(Parallel("c", "C", "base", run_text="25"),) * 2),
    "empty-section": replace(product(), sections=(*product().sections, Section("x", "X", Kind.INSERT, line=7))),
    "empty-cell": replace(product(), cards=(*CARDS, Card("base", "99", "", line=9))),
    "case-size-unknown": product(OddsRow("hobby", "signed", per_case="1", line=2), fmt=Format("hobby", "H", 24, 8)),
    "unknown-club": replace(product(), teams=(TeamClub("Lindmark Wheelers", "Lindmark"),)),
    "odds-unprinted": product(row("signed")),
}  # fmt: skip


@pytest.mark.parametrize("code", BROKEN)
def test_each_fault_is_found_once_with_its_place(code: str) -> None:
    found = one(BROKEN[code], code)
    assert re.fullmatch(r"\w+\.csv:\d+", found.where)
    assert len(found.message) > 20


@pytest.mark.parametrize(
    ("parallel", "code"),
    [(Parallel("c", "C", "base", line=2), "parallel-unknown"),
     (Parallel("c", "C", "base", run_text="25", line=2), "parallel-without-odds")],
)  # fmt: skip
def test_a_finish_of_which_nothing_is_known(parallel: Parallel, code: str) -> None:
    assert codes(product(parallels=(parallel,))).count(code) == 1


def test_a_sound_product_has_no_finding() -> None:
    sound = product(row("signed", "12"), row("worn", "24"), row("base", "29", "copper"), row("base", "4", "slate"),
                    row("poster", "24"))  # fmt: skip
    assert codes(sound) == []


RUNS = ("50", "100", "250", "200")


def test_numbered_lines_that_contradict_each_other_are_said() -> None:
    runs = tuple(Parallel(k, k.upper(), "base", run_text=r) for k, r in zip("abcd", RUNS, strict=True))
    rows = (row("base", "460", "a"), row("base", "230", "b"), row("base", "92", "c"), row("base", "100", "d", line=7))
    found = one(product(*rows, parallels=runs), "conflict")
    assert found.where == "odds.csv:7"
    assert "Base D" in found.message


def test_a_serial_above_the_stated_run() -> None:
    """common practice, no source: a parallel announced at /399 came out of the packs at /499."""
    made = product(parallels=(Parallel("copper", "Copper", "base", run_text="399", line=5),))
    found = one(made, "serial-differs", Logs(stamps=(Stamp("base", "7", "copper", 499),)))
    assert (found.where, found.severity) == ("parallels.csv:5", Severity.WARNING)
    assert "/499" in found.message
    assert "399" in found.message
    assert "serial-differs" not in codes(made, Logs(stamps=(Stamp("base", "7", "copper", 399),)))


@pytest.mark.parametrize(
    ("boxes", "seen", "differs"), [(2, 30, False), (10, 20, False), (10, 45, True), (10, 3, True)]
)
def test_the_logs_against_the_print(boxes: int, seen: int, differs: bool) -> None:
    """1:12 in 24 packs is 2 a box; ten boxes with 45 or with 3 are not that, two boxes say too little."""
    logs = Logs(boxes=(LoggedBoxes("hobby", boxes, {("signed", "", ""): seen}),))
    assert ("logs-differ" in codes(product(row("signed", "12")), logs)) is differs


def test_errors_come_first() -> None:
    found = audit(BROKEN["number-twice"])
    order = [("error", "warning", "info").index(item.severity.value) for item in found]
    assert order == sorted(order)


def test_every_code_is_documented() -> None:
    documented = set(re.findall(r"^\| `([a-z-]+)` \|", Path("docs/findings.md").read_text("utf-8"), re.MULTILINE))
    used = set()
    for path in Path("botin").rglob("*.py"):
        text = path.read_text("utf-8")
        used |= set(re.findall(r"(?:finding|Finding|note|_twice)\(\s*\"([a-z]+-[a-z-]+|unreadable|conflict)\"", text))
    unknown = {"unknown-section", "unknown-format", "unknown-parallel", "unknown-group", "unknown-kind"}
    assert documented == used | unknown
