"""The books against a naive replay of random histories, and against an independent reader of their journal."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from beancount import loader
from beancount.core import realization
from click.testing import CliRunner
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin import main as main  # noqa: PLC0414  (registers its commands)
from botin.cli import cli
from botin.core.books import channelsales
from botin.core.books import posting as rules
from botin.core.books.posting import Account, Posting
from botin.exchange.books import NAMES
from botin.store.books.postings import totals
from botin.store.models_books import PostingRecord
from tests.builders import Home, make_home
from tests.desk.bookreplay import History, of_the_books

STEPS = 60
LONGER = 110
"""Steps of a history in which a broken rule is looked for: some things happen seldom."""


def play(home: Home, seed: int, steps: int = STEPS) -> None:
    """Live through a random history; after each step the books say what the wallet and the pile say."""
    history = History(home, seed)
    for number in range(steps):
        history.step()
        if number % 5 == 0 or number == steps - 1:
            reckoned = history.pile.reckon()
            assert +of_the_books(home) == +reckoned, f"seed {seed}, step {number}"
            assert -of_the_books(home) == -reckoned, f"seed {seed}, step {number}"


def play_many(folder: Path) -> None:
    """Live through several histories, until one does not agree."""
    for seed in range(12):
        home = folder / str(seed)
        home.mkdir()
        play(make_home(home), seed, LONGER)


@pytest.mark.parametrize("seed", range(8))
def test_the_books_say_what_a_wallet_and_a_pile_say(seed: int, tmp_path: Path) -> None:
    play(make_home(tmp_path), seed)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(100, 140))
def test_the_books_over_long_histories(seed: int, tmp_path: Path) -> None:
    play(make_home(tmp_path), seed, 200)


def turned(account: Account, into: Account) -> Callable[[Any], Any]:
    """A rule that posts to the wrong account; what it posts still adds up."""

    def broken(rule: Callable[..., Any]) -> Callable[..., Any]:
        def run(*args: Any, **more: Any) -> Any:
            rows = rule(*args, **more)
            return type(rows)(replace(row, account=into) if row.account is account else row for row in rows)

        return run

    return broken


def nothing(_rule: Callable[..., Any]) -> Callable[..., tuple[Posting, ...]]:
    return lambda *_args, **_more: ()


BROKEN = [
    ("paid", turned(Account.CASH, Account.FUN)),
    ("sale", turned(Account.SOLD, Account.FUN)),
    ("sale", turned(Account.PEOPLE, Account.SALES)),
    ("sale", turned(Account.FEES, Account.SALES)),
    ("write_off", turned(Account.FUN, Account.SOLD)),
    ("close_box", turned(Account.PEOPLE, Account.CARDS)),
    ("close_box", turned(Account.SOLD, Account.CARDS)),
    ("close_box", nothing),
    ("sent", turned(Account.PREPAID, Account.FEES)),
    ("came_back", turned(Account.PREPAID, Account.CASH)),
    ("came_back", turned(Account.PEOPLE, Account.FEES)),
    ("came_back", nothing),
    ("billed", turned(Account.PEOPLE, Account.CASH)),
    ("billed", nothing),
    ("bill_paid", turned(Account.PEOPLE, Account.PREPAID)),
    ("joined", turned(Account.PREPAID, Account.FEES)),
    ("trued_up", turned(Account.PREPAID, Account.CASH)),
    ("trued_up", nothing),
    ("sold_on_account", turned(Account.PEOPLE, Account.CASH)),
    ("sold_on_account", turned(Account.FEES, Account.SALES)),
    ("sold_on_account", turned(Account.SOLD, Account.FUN)),
    ("paid_out", turned(Account.PEOPLE, Account.SALES)),
    ("shipping_charged", turned(Account.POSTAGE, Account.SALES)),
    ("posted", turned(Account.POSTAGE, Account.FEES)),
    ("refunded", turned(Account.SALES, Account.FEES)),
    ("provisional", lambda _rule: lambda *_args: 0),
]


@pytest.mark.parametrize(("name", "how"), BROKEN, ids=[f"{number}-{name}" for number, (name, _) in enumerate(BROKEN)])
def test_a_broken_rule_is_found(
    name: str, how: Callable[[Any], Any], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each rule that posts wrongly, though what it posts adds up to zero, fails the replay."""
    where = channelsales if hasattr(channelsales, name) else rules
    monkeypatch.setattr(where, name, how(getattr(where, name)))
    with pytest.raises(AssertionError, match="seed"):
        play_many(tmp_path)


def test_a_mirror_that_takes_nothing_back_is_found(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("botin.store.books.postings.mirror", lambda rows: (rows[0], rows[0].turned()))
    with pytest.raises(AssertionError, match="seed"):
        play_many(tmp_path)


def test_the_journal_loads_in_beancount_and_has_the_same_balances(home: Path, session: Session) -> None:
    """The reader is the library beancount (3.2), which knows nothing of Botin."""
    made = CliRunner().invoke(cli, ["journal", "--home", str(home)])
    assert made.exit_code == 0
    read, errors, _ = loader.load_string(made.stdout)
    assert errors == []
    found: Counter[tuple[str, str]] = Counter()
    for account in realization.iter_children(realization.realize(read)):
        for position in account.balance:
            name = ":".join(account.account.split(":")[:2])
            found[(name, position.units.currency)] += position.units.number
    ours = {
        (NAMES[account], sums.currency): Decimal(minor) / 100
        for sums in totals(session)
        for account, minor in sums.by_account.items()
        if minor
    }
    assert {key: number for key, number in found.items() if number} == ours
    count = len(session.scalars(select(PostingRecord.id)).all())
    assert sum(len(entry.postings) for entry in read if hasattr(entry, "postings")) == count


def test_a_currency_the_journal_cannot_name_has_a_name_of_its_own_there(home: Path, session: Session) -> None:
    made = session.scalars(select(PostingRecord).where(PostingRecord.currency == "EUR").limit(1)).one()
    for one in session.scalars(select(PostingRecord).where(PostingRecord.transaction_id == made.transaction_id)):
        one.currency = "zl1"
    session.commit()
    text = CliRunner().invoke(cli, ["journal", "--home", str(home)]).stdout
    assert "CODE7A6C31" in text
    assert loader.load_string(text)[1] == []


def test_the_journal_of_an_empty_home_loads(tmp_path: Path) -> None:
    made = CliRunner().invoke(cli, ["journal", "--home", str(tmp_path)])
    assert made.exit_code == 0
    assert loader.load_string(made.stdout)[1] == []
