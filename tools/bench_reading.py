"""How much of each source of the corpus is read right, and how long twenty thousand lines take."""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))  # the corpus lies with the tests

from botin.exchange.catalog.interpret import About, interpret
from botin.exchange.catalog.sheets import Sources, csv_sheet, text_sheet
from tests.corpus import byhand
from tests.corpus.layouts import LAYOUTS, make
from tests.corpus.truth import Score, read_case, score
from tests.corpus.world import FIRST, LAST, PLACES

SEEDS = range(100, 104)
LINES = 20_000


def shares() -> None:
    """Print for each case the rows, the share that came out right, and the share wrong under a ✓."""
    whole = Score(0, 0, 0)
    for name in LAYOUTS:
        found = Score(0, 0, 0)
        for seed in SEEDS:
            case = make(name, seed)
            found += score(case, read_case(case))
        whole += found
        _say(name, found)
    for name in byhand.names():
        case = byhand.load(name)
        found = score(case, read_case(case))
        whole += found
        _say(name, found)
    _say("all", whole)


def _say(name: str, found: Score) -> None:
    rows = max(found.rows, 1)
    print(f"  {name:<28} {found.rows:>7,} rows  right {found.right / rows:7.2%}  wrong ✓ {found.wrong / rows:7.2%}")


def speeds() -> None:
    """Print how long a table and a text of many cards take."""
    rng = random.Random(1)  # noqa: S311  (names, no secret)
    rows, lines = ["Set,No,Player,Team"], []
    for n in range(LINES):
        name, club = f"{rng.choice(FIRST)} {rng.choice(LAST)}", rng.choice(PLACES)
        rows.append(f"Section {n // 500},{n % 500 + 1},{name},{club}")
        if n % 500 == 0:
            lines.append(f"Section {n // 500}x - 500 cards")
        lines.append(f"{n % 500 + 1} {name} - {club}")
    table = Sources([csv_sheet("all.csv", "\n".join(rows).encode())])
    text = Sources([text_sheet("checklist", "\n".join(lines))])
    interpret(Sources([csv_sheet("few.csv", "\n".join(rows[:40]).encode())]), About())  # loads what is slow to import
    for words, sources in (("table", table), ("text", text)):
        began = time.perf_counter()
        interpret(sources, About())
        print(f"  {words} of {LINES:,} cards read in {1000 * (time.perf_counter() - began):,.0f} ms")


def main() -> None:
    """Print both."""
    print("reading messy sources (the corpus of the tests, seeds of its own)")
    shares()
    speeds()


if __name__ == "__main__":
    main()
