"""What came of it: results of boxes, products, months and people, as sums over postings and nothing else."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from botin.core.books.posting import RESULT, STOCK, Account

Key = tuple[str, Account]
"""Kind of the event and account."""


@dataclass(frozen=True)
class Result:
    """Sums of some postings in one currency (minor units), by kind of event and account.

    Every event adds up to zero, so what was realised is also cash, stock, prepaid and people together.
    """

    currency: str
    sums: Mapping[Key, int] = field(default_factory=dict)

    def of(self, accounts: Iterable[Account], kind: str = "") -> int:
        """Add up some accounts, over all kinds of events or one."""
        wanted = frozenset(accounts)
        return sum(minor for (of, account), minor in self.sums.items() if account in wanted and kind in ("", of))

    @property
    def paid(self) -> int:
        """Paid for boxes and singles."""
        return -self.of([Account.CASH], "purchase")

    @property
    def grading(self) -> int:
        """Grading fees added to what copies cost, or owed by their owners."""
        return -self.of([Account.PREPAID])

    @property
    def sold(self) -> int:
        """What sales brought, after their costs."""
        return -self.of([Account.SALES, Account.FEES, Account.POSTAGE], "sale")

    @property
    def basis_left(self) -> int:
        """What the copies that were sold had cost."""
        return self.of([Account.SOLD])

    @property
    def stock(self) -> int:
        """What is here, at what it cost."""
        return self.of(STOCK)

    @property
    def owed(self) -> int:
        """What others owe (negative: what is owed to them)."""
        return self.of([Account.PEOPLE])

    @property
    def cash(self) -> int:
        """What came in less what went out."""
        return self.of([Account.CASH])

    @property
    def spent(self) -> int:
        """Everything that went out, purchases, grading and expenses."""
        return -sum(
            minor for (kind, account), minor in self.sums.items() if account is Account.CASH and kind not in IN
        )

    @property
    def came_in(self) -> int:
        """Everything that came in, sales and payments."""
        return sum(minor for (kind, of), minor in self.sums.items() if of is Account.CASH and kind in IN)

    @property
    def realised(self) -> int:
        """Net proceeds less what the copies had cost, less what was written off."""
        return -self.of(RESULT)

    def __add__(self, other: Result) -> Result:
        sums = dict(self.sums)
        for key, minor in other.sums.items():
            sums[key] = sums.get(key, 0) + minor
        return Result(self.currency, sums)


IN = frozenset({"sale", "payment"})
"""Kinds of events whose cash counts as coming in."""
