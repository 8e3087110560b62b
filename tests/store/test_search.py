"""Search over all checklists: beginnings of words, filters, pages by key, and an index that follows every change."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Kind, Product, Section, TeamClub
from botin.store.catalog.products import load_product, save_product
from botin.store.catalog.search import CardFilter, club_names, find_cards, rookie_words
from botin.store.models import ProductRecord

CARDS = (
    Card("base", "1", "Maëlle Söderquist", "Harrow Bay Juniors", "yes"),
    Card("base", "12", "Orla Xanthorsby; Fenn Lunemark", "Nordhaven Academy; Saltmarsh Velo"),
    Card("base", "120", "Bram Zedsparrow", "Harrow Bay RC", "debut"),
    Card("sp", "301", "Orla Xanthorsby", "Quay Street Flyers"),
)
MADE = Product("zed", "Zed 2030", sections=(Section("base", "Zed base", Kind.BASE), Section("sp", "Zed shorts", Kind.SHORT_PRINT)),
               cards=CARDS, teams=(TeamClub("Harrow Bay Juniors", "Harrow Bay"), TeamClub("Nordhaven Academy", "Nordhaven")))  # fmt: skip


@pytest.fixture
def stored(session: Session) -> ProductRecord:
    record = save_product(session, MADE)
    session.commit()
    return record


def numbers(session: Session, **wanted: object) -> list[str]:
    return [card.number for card in find_cards(session, CardFilter(**wanted)).cards if card.product == "Zed 2030"]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("words", "found"),
    [
        ("xanth", ["12", "301"]),
        ("orla xan", ["12", "301"]),
        ("maelle", ["1"]),
        ("SÖDER", ["1"]),
        ("lunem", ["12"]),
        ("academy", ["12"]),
        ("nordhaven zed", ["12"]),
        ("zed shorts", ["301"]),
        ("xanth velo", ["12"]),
        ("nobody", []),
        ('"', []),
        ("AND OR NOT *", []),
        ("xanth' OR 9=9", []),
    ],
)
def test_words(session: Session, stored: ProductRecord, words: str, found: list[str]) -> None:
    assert numbers(session, words=words, product_id=stored.id) == found


def test_the_number_typed_comes_first(session: Session, stored: ProductRecord) -> None:
    assert numbers(session, words="12", product_id=stored.id) == ["12", "120"]
    assert numbers(session, words="120", product_id=stored.id) == ["120"]


def test_a_card_is_found_by_the_club_that_holds_the_rights(session: Session, stored: ProductRecord) -> None:
    """common practice, no source: a minor-league team's name hides which club holds the player's rights."""
    assert numbers(session, club="Harrow Bay", product_id=stored.id) == ["1"]
    assert numbers(session, club="Nordhaven", product_id=stored.id) == ["12"]
    assert "Nordhaven" in club_names(session, stored.id)


@pytest.mark.parametrize(
    ("kinds", "found"), [(("*",), ["1", "120"]), (("debut",), ["120"]), (("yes", "debut"), ["1", "120"])]
)
def test_rookies_as_the_user_counts_them(
    session: Session, stored: ProductRecord, kinds: tuple[str, ...], found: list[str]
) -> None:
    assert numbers(session, rookie_kinds=kinds, product_id=stored.id) == found
    assert {"yes", "debut"} <= set(rookie_words(session))


def test_short_prints_only(session: Session, stored: ProductRecord) -> None:
    assert numbers(session, kinds=("short_print", "variation"), product_id=stored.id) == ["301"]
    assert numbers(session, section="sp", product_id=stored.id) == ["301"]


def test_pages_go_on_by_key(session: Session) -> None:
    seen: list[int] = []
    after: int | None = 0
    while after is not None:
        page = find_cards(session, CardFilter(words="bank", after=after))
        seen += [card.id for card in page.cards]
        after = page.after
    everything = find_cards(session, CardFilter(words="bank")).cards
    assert len(seen) == len(set(seen))
    assert seen[: len(everything)] == [card.id for card in everything]


def test_the_index_follows_changes(session: Session, stored: ProductRecord) -> None:
    moved = tuple(replace(c, section="sp") if c.number == "12" else c for c in CARDS if c.number != "1")
    renamed = tuple(replace(c, name="Nova Quillon") if c.number == "120" else c for c in moved)
    before = {c.number: c.id for c in find_cards(session, CardFilter(product_id=stored.id)).cards}
    save_product(session, replace(MADE, cards=renamed))
    session.commit()
    assert numbers(session, words="maelle") == []
    assert numbers(session, words="zedsparrow") == []
    assert numbers(session, words="quillon") == ["120"]
    assert numbers(session, words="shorts", product_id=stored.id) == ["12", "301"]
    after = {c.number: c.id for c in find_cards(session, CardFilter(product_id=stored.id)).cards}
    assert after["12"] == before["12"]
    again = load_product(session, session.scalars(select(ProductRecord).where(ProductRecord.key == "zed")).one())
    assert {(c.section, c.number) for c in again.cards} == {(c.section, c.number) for c in renamed}
