"""What is made plain before odds are read may take nothing away that says something."""

from __future__ import annotations

import pytest

from botin.exchange.catalog.interpret import About, interpret
from botin.exchange.catalog.oddstext import rates_in
from botin.exchange.catalog.readout import read_document
from botin.exchange.catalog.sheets import Sources, text_sheet

FORMATS = {"hobby": "hobby", "retail": "retail"}


@pytest.mark.parametrize(
    ("line", "name", "text", "fmt"),
    [
        ("Hobby odds: Copper 1:29", "Copper", "29", "hobby"),
        ("Odds (retail): Copper 1:40", "Copper", "40", "retail"),
        ("ODDS OF FINDING (PER PACK): Copper 1:4", "Copper", "4", ""),
        ("Lost and Found 1:24", "Lost and Found", "24", ""),
        ("Here It Comes 1:8", "Here It Comes", "8", ""),
        ("Copper falls 1:8", "Copper", "8", ""),
        ("Copper 1:2 240", "Copper", "2,240", ""),
        ("Copper every 5th box", "Copper", "0.2", ""),
    ],
)
def test_a_rate_keeps_name_and_format(line: str, name: str, text: str, fmt: str) -> None:
    (found,) = rates_in(line, FORMATS, odds=True)
    assert (found.name, found.format) == (name, fmt)
    assert found.text == text or (found.column, found.text) == ("per_box", text)


def test_a_finish_of_one_format_without_odds_says_that_this_is_not_kept() -> None:
    sources = Sources()
    sources.add(text_sheet("checklist", "Base\n1 Orla Thorsby - Harrow Bay\nParallels: Lime (hobby exclusive), Rust"))
    read = read_document(interpret(sources, About()))
    line = next(one for one in read["lines"] if "Lime" in one["text"])
    assert line["status"] == "guessed"
    assert "hobby exclusive" in line["meaning"]
