"""The candidates while typing, run in the browser and held to the table that the reader on the server is held to."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page

from botin.core.opening.entry import EntryReader
from botin.web.rip.index import card_index
from tests.typingcases import OFFERED, PRODUCT, SQUEEZED

SCRIPT = Path(__file__).parents[2] / "botin" / "web" / "static" / "candidates.js"
READER = EntryReader(PRODUCT)


@pytest.fixture(scope="module")
def page(browser: Browser) -> Iterator[Page]:
    found = browser.new_page()
    found.add_script_tag(path=SCRIPT)
    found.evaluate("data => BotinCandidates.build(data)", card_index(PRODUCT))
    yield found
    found.close()


def offers(page: Page, line: str) -> list[dict[str, Any]]:
    options: list[dict[str, Any]] = page.evaluate("line => BotinCandidates.find(line, line.length).options", line)
    return options


@pytest.mark.parametrize(("text", "key"), SQUEEZED)
def test_squeezed(page: Page, text: str, key: str) -> None:
    assert page.evaluate("text => BotinCandidates.squeeze(text)", text) == key


@pytest.mark.parametrize(("typed", "card"), OFFERED)
def test_offered_first(page: Page, typed: str, card: tuple[str, str] | None) -> None:
    found = offers(page, typed)
    if card is None:
        assert found == []
    else:
        read = READER.read(found[0]["text"])
        assert read.problems == ()
        assert (read.items[0].known.section, read.items[0].known.number) == card


def test_whatever_is_offered_is_read_as_the_card_it_names(page: Page) -> None:
    """Every beginning of every number and name: what the browser writes into the line is that card on the server."""
    words = {word for card in PRODUCT.cards for word in (card.number, card.name, card.name.split()[-1])}
    for typed in sorted({word[:length] for word in words for length in range(1, len(word) + 1)}):
        for option in offers(page, typed):
            read = READER.read(option["text"])
            assert read.problems == (), (typed, option, read.problems)
            named = (read.items[0].known.number, read.items[0].known.name)
            assert named == (option["number"], option["label"]), (typed, option)


def test_a_finish_is_offered_behind_its_card(page: Page) -> None:
    assert [option["text"] for option in offers(page, "12 go")] == ["gold"]
