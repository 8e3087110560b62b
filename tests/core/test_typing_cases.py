"""The reader on the server, held to the table that the candidates in the browser are held to as well."""

from __future__ import annotations

import pytest

from botin.core.opening.entry import EntryReader
from botin.core.opening.entryitems import squeeze
from tests.typingcases import OFFERED, PRODUCT, SQUEEZED

READER = EntryReader(PRODUCT)


@pytest.mark.parametrize(("text", "key"), SQUEEZED)
def test_squeezed(text: str, key: str) -> None:
    assert squeeze(text) == key


@pytest.mark.parametrize(("typed", "card"), OFFERED)
def test_what_is_typed_whole_is_the_card_that_is_offered_or_asked_about(
    typed: str, card: tuple[str, str] | None
) -> None:
    """A part that several cards have comes back with a question; it is never another card."""
    entry = READER.read(typed)
    read = [(item.known.section, item.known.number) for item in entry.items if item.card is not None]
    if card is None:
        assert entry.problems
        assert read == []
    elif not entry.problems:
        assert read[-1] == card
