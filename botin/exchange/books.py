"""The books as text: a double-entry journal in the syntax of plain-text accounting, and ``ledger.csv``."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date

from botin.core.books.posting import Account
from botin.core.money import Money
from botin.exchange.catalog.package import amount_text, csv_bytes

NAMES = {
    Account.CASH: "Assets:Cash",
    Account.BOXES: "Assets:Boxes",
    Account.CARDS: "Assets:Cards",
    Account.GRADED: "Assets:GradedAndOut",
    Account.PREPAID: "Assets:GradingPrepaid",
    Account.PEOPLE: "Assets:People",
    Account.SALES: "Income:Sales",
    Account.SOLD: "Expenses:CostOfSold",
    Account.FEES: "Expenses:Fees",
    Account.POSTAGE: "Expenses:Postage",
    Account.MATERIALS: "Expenses:Materials",
    Account.FUN: "Expenses:TheFun",
    Account.EXCHANGE: "Equity:Exchange",
}
"""How the accounts are called in the journal."""
COLUMNS = (
    "entry", "day", "kind", "words", "with", "account", "debit", "credit", "currency", "product", "box", "copy",
    "order", "estimated", "takes_back",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Line:
    """One posting of an entry: ``about`` says by its names what it is for."""

    account: Account
    money: Money
    person: tuple[int, str] | None = None
    about: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Entry:
    """One transaction of the books."""

    id: int
    day: date
    kind: str
    words: str
    party: str
    estimated: bool
    takes_back: int | None
    lines: tuple[Line, ...]


def account_name(account: Account, person: tuple[int, str] | None = None) -> str:
    """Return the name of an account in the journal; people have one each."""
    name = NAMES[account]
    if account is not Account.PEOPLE or person is None:
        return name if account is not Account.PEOPLE else f"{name}:Unsettled"
    number, words = person
    plain = unicodedata.normalize("NFKD", words).encode("ascii", "ignore").decode()
    return f"{name}:P{number}-{re.sub(r'[^A-Za-z0-9]+', '-', plain).strip('-') or 'x'}"


def _code(currency: str) -> str:
    """Return a currency as the journal can name it."""
    return currency if re.fullmatch(r"[A-Z]{3}", currency) else f"CODE{currency.encode().hex().upper()}"[:24]


def _text(words: str) -> str:
    """Return words as a string of the journal."""
    plain = " ".join(words.split())
    return '"' + plain.replace("\\", "\\\\").replace('"', '\\"') + '"'


def journal(entries: Iterable[Entry], title: str) -> Iterator[str]:
    """Write the entries as a journal, line by line; accounts are opened on the first day they are used.

    An entry whose amounts are estimates carries the flag ``!``, any other ``*``.
    """
    yield f'option "title" {_text(title)}\n'
    opened: set[str] = set()
    for entry in entries:
        for line in entry.lines:
            name = account_name(line.account, line.person)
            if name not in opened:
                opened.add(name)
                yield f"\n{entry.day.isoformat()} open {name}\n"
                if line.person is not None:
                    yield f"  name: {_text(line.person[1])}\n"
        yield from _entry(entry)


def _entry(entry: Entry) -> Iterator[str]:
    payee = f"{_text(entry.party)} " if entry.party else ""
    words = _text(entry.words or entry.kind)
    yield f"\n{entry.day.isoformat()} {'!' if entry.estimated else '*'} {payee}{words}\n"
    yield f'  entry: "{entry.id}"\n  kind: {_text(entry.kind)}\n'
    if entry.takes_back is not None:
        yield f'  takes-back: "{entry.takes_back}"\n'
    for line in entry.lines:
        name = account_name(line.account, line.person)
        yield f"  {name}  {amount_text(line.money)} {_code(line.money.currency)}\n"
        for key, value in line.about:
            yield f"    {key}: {_text(value)}\n"


def _sides(money: Money) -> tuple[str, str]:
    """Return an amount on its side: no cell is below nothing, which a spreadsheet might take for a formula."""
    return (amount_text(money), "") if money.minor >= 0 else ("", amount_text(-money))


def ledger_csv(entries: Iterable[Entry]) -> bytes:
    """Write the entries as ``ledger.csv``: one row a posting."""
    rows = [list(COLUMNS)]
    for entry in entries:
        for line in entry.lines:
            about = dict(line.about)
            with_ = line.person[1] if line.person else entry.party
            rows.append(
                [
                    str(entry.id), entry.day.isoformat(), entry.kind, entry.words, with_, line.account.value,
                    *_sides(line.money), line.money.currency,
                    *(about.get(name, "") for name in ("product", "box", "copy", "order")),
                    "yes" if entry.estimated else "", "" if entry.takes_back is None else str(entry.takes_back),
                ]
            )  # fmt: skip
    return csv_bytes(rows)
