"""Tables of fees as one types them: a line a row; cells parted by semicolons; ``House A:`` begins a house."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from typing import NoReturn

from botin.core.days import EARLIEST
from botin.core.errors import BadAmountError, BotinError
from botin.core.flags.ways import Tier
from botin.core.grading.grades import Limit, Standard
from botin.core.money import parse_money
from botin.core.selling.costs import Channel, PostageStep
from botin.exchange.selling.services import SERVICES, service_named
from botin.exchange.values import ValueUnclearError, read_tick

TIER_CELLS = "name; fee; ceiling; upcharge; days; fewest; member; service; cards of the years; sent from; sent until"
RETURN_CELLS = "more than so many cards; shipping"
CHANNEL_CELLS = "name; fee %; fixed; materials; minutes; from; to; by hand"
POSTAGE_CELLS = "up to; postage; insurance %"
LIMIT_CELLS = "grade; front; back"
RATE_CELLS = "day; currency; in currency; rate"


class TermsError(BotinError):
    """A line of a table of fees that cannot be read."""

    status = 422


@dataclass(frozen=True, slots=True)
class Row:
    """A line: its number, the house it stands under, its cells."""

    number: int
    house: str
    cells: tuple[str, ...]

    def cell(self, at: int) -> str:
        """Return a cell; one that was left out is empty."""
        return self.cells[at] if at < len(self.cells) else ""

    def amount(self, at: int, what: str, otherwise: float | None = 0.0, most: float = 1e9) -> float:
        """Return a cell as a number from 0 on.

        Raises
        ------
        TermsError
            When it is none; the message says what the line must hold.
        """
        text = self.cell(at).removesuffix("%").strip()
        if not text and otherwise is not None:
            return otherwise
        if not text:
            self.refuse("a number is missing", what)
        try:
            value = _number(text)
        except BadAmountError:
            why = "can be read in two ways" if re.fullmatch(r"\d{1,3}\.\d{3}", text) else "is no number"
            self.refuse(f"“{self.cell(at)}” {why}", what)
        if not 0 <= value <= most:
            self.refuse(f"“{self.cell(at)}” is no number from 0 to {most:g}", what)
        return value

    def whole(self, at: int, what: str) -> int:
        """Return a cell as a whole number from 1 on; 1 when it is left out.

        Raises
        ------
        TermsError
            When it is none.
        """
        value = self.amount(at, what, 1.0, 10_000)
        if value < 1 or value != int(value):
            self.refuse(f"“{self.cell(at)}” is no whole number from 1 on", what)
        return int(value)

    def percent(self, at: int, what: str) -> float:
        """Return a cell in percent as a share; ``0.12`` is asked about, since it may be meant as a share already.

        Raises
        ------
        TermsError
            When it is no number, or can be read in two ways.
        """
        value = self.amount(at, what, None, 99.9)
        if 0 < value < 1 and not self.cell(at).endswith("%"):
            self.refuse(
                f"“{self.cell(at)}” is less than one percent; write {100 * value:g} if you mean {100 * value:g} %,"
                f" or “{value:g} %”",
                what,
            )
        return value / 100

    def tick(self, at: int, words: Sequence[str], what: str) -> bool:
        """Return whether a cell says yes, or one of some words.

        Raises
        ------
        TermsError
            When it says neither yes nor no.
        """
        text = self.cell(at).casefold()
        if text.startswith(tuple(words)):
            return True
        try:
            return read_tick(text)
        except ValueUnclearError as exc:
            self.refuse(exc.message.rstrip("."), what)

    def refuse(self, why: str, what: str) -> NoReturn:
        """Refuse the line.

        Raises
        ------
        TermsError
            Always; it says what the line must hold.
        """
        message = f"Line {self.number}: {why}. Write: {what}."
        raise TermsError(message)


def _number(text: str) -> float:
    """Read ``1,500``, ``1 500.50``, ``16,50`` as amounts are read, and small ones like ``0.125`` as they are."""
    if re.fullmatch(r"0[.,]\d+", text):
        return float(text.replace(",", "."))
    return parse_money(text, "EUR").major


def rows_of(typed: str | Iterable[Row]) -> Iterator[Row]:
    """Split a text into rows, where it is none yet; empty lines are passed over."""
    if not isinstance(typed, str):
        yield from typed
        return
    text, house = typed, ""
    for number, line in enumerate(text.splitlines(), 1):
        if line.strip().endswith(":"):
            house = line.strip().removesuffix(":").strip()
        elif line.strip():
            yield Row(number, house, tuple(cell.strip() for cell in line.split(";")))


def _named(row: Row, what: str) -> str:
    if not row.cell(0) or re.fullmatch(r"[\d.,]+", row.cell(0)):
        message = f"Line {row.number} begins without a name. Write: {what}."
        raise TermsError(message)
    return row.cell(0)


def read_tiers(text: str | Iterable[Row]) -> tuple[Tier, ...]:
    """Read grading tiers; all but name and fee may be left out.

    Raises
    ------
    TermsError
        When a line cannot be read.
    """
    return tuple(_tier(row, TIER_CELLS) for row in rows_of(text))


def _tier(row: Row, what: str) -> Tier:
    tier = Tier(
        name=_named(row, what),
        fee=row.amount(1, what, None),
        ceiling=row.amount(2, what, None) if row.cell(2) else None,
        upcharge=row.amount(3, what),
        days=row.amount(4, what, 30.0),
        least=row.whole(5, what),
        member=row.tick(6, ("m",), what),
        house=row.house,
        service=_service(row, what),
        years=_years(row, what),
        since=_day(row, 9, what),
        until=_day(row, 10, what),
    )
    if tier.since and tier.until and tier.until < tier.since:
        row.refuse("its last day lies before its first", what)
    return tier


def _service(row: Row, what: str) -> str:
    found = service_named(row.cell(7))
    if found is None:
        row.refuse(f"“{row.cell(7)}” is no service; it is one of grade, {', '.join(SERVICES[1:])}", what)
    return found or ""


def _years(row: Row, what: str) -> tuple[int | None, int | None]:
    """Read ``1980-1999``, ``-1999``, ``2000-`` or a single year."""
    text = row.cell(8).replace("–", "-").replace(" ", "")
    if not text:
        return (None, None)
    found = re.fullmatch(r"(\d{4})?(-)?(\d{4})?", text)
    if found is None or (found[1] and found[3] and found[1] > found[3]):
        row.refuse(f"“{row.cell(8)}” are no years, like 1980-1999 or -1999", what)
    first = int(found[1]) if found[1] else None
    last = int(found[3]) if found[3] else None
    return (first, last if found[2] else first)


def _day(row: Row, at: int, what: str) -> date | None:
    text = row.cell(at)
    if not text:
        return None
    try:
        return date.fromisoformat(text)
    except ValueError:
        row.refuse(f"“{text}” is no day like 2026-03-14", what)


def read_returns(text: str | Iterable[Row]) -> list[tuple[str, int, float]]:
    """Read what shipping an order costs with more than so many cards: house, cards, amount.

    Raises
    ------
    TermsError
        When a line cannot be read.
    """
    what = RETURN_CELLS
    return [(row.house, row.whole(0, what), row.amount(1, what, None)) for row in rows_of(text)]


def read_channels(text: str | Iterable[Row]) -> tuple[Channel, ...]:
    """Read selling channels; ``by hand`` in the last cell: nothing is posted.

    Raises
    ------
    TermsError
        When a line cannot be read.
    """
    what = CHANNEL_CELLS
    return tuple(
        Channel(
            name=_named(row, what),
            fee=row.percent(1, what),
            fixed=row.amount(2, what),
            materials=row.amount(3, what),
            minutes=row.amount(4, what),
            least=row.amount(5, what),
            most=row.amount(6, what, None) if row.cell(6) else None,
            sent=not row.tick(7, ("by hand", "hand"), what),
        )
        for row in rows_of(text)
    )


def read_postage(text: str | Iterable[Row]) -> tuple[PostageStep, ...]:
    """Read postage by price; the last step has no upper price.

    Raises
    ------
    TermsError
        When a line cannot be read, or the steps do not rise.
    """
    what = POSTAGE_CELLS
    steps = [
        PostageStep(
            row.amount(0, what, None) if row.cell(0) else None,
            row.amount(1, what, None),
            row.amount(2, what, 0.0, 99.9) / 100,
        )
        for row in rows_of(text)
    ]
    tops = [float("inf") if step.up_to is None else step.up_to for step in steps]
    if any(high <= low for low, high in pairwise(tops)):
        message = "The prices of the postage must rise from line to line; the last may be empty."
        raise TermsError(message)
    return tuple(steps)


def read_standards(text: str | Iterable[Row]) -> dict[str, Standard]:
    """Read limits of centering by house: ``10; 55; 75`` is 55/45 in front and 75/25 behind for a 10.

    Raises
    ------
    TermsError
        When a line cannot be read.
    """
    what, found = LIMIT_CELLS, dict[str, list[Limit]]()
    for row in rows_of(text):
        limit = Limit(row.amount(0, what, None, 10), *(row.amount(at, what, None, 100) for at in (1, 2)))
        if min(limit.front, limit.back) < 50:
            message = f"Line {row.number}: the larger border has 50 % or more. Write: {what}."
            raise TermsError(message)
        found.setdefault(row.house, []).append(limit)
    return {
        house: Standard(house or "common limits", tuple(sorted(limits, key=lambda limit: -limit.grade)))
        for house, limits in found.items()
    }


@dataclass(frozen=True, slots=True)
class Rate:
    """One ``base`` is worth ``rate`` of ``quote`` on a day; the text keeps the digits as they were typed."""

    day: date
    base: str
    quote: str
    rate: str


def read_rates(text: str, today: date) -> Sequence[Rate]:
    """Read rates of exchange: ``2026-03-02; USD; EUR; 0.92``, also parted by tabs, commas or blanks.

    Raises
    ------
    TermsError
        When a line cannot be read, lies ahead, or names no currency of ISO 4217 that is known here.
    """
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        cells = [cell for cell in re.split(r"[;\t ,]+", line.strip()) if cell]
        if not cells or cells[0].casefold() == "day":
            continue
        found.append(_rate(number, cells, today))
    return found


def _rate(number: int, cells: Sequence[str], today: date) -> Rate:
    what = f"Line {number} is not understood. Write: {RATE_CELLS}, like 2026-03-02; USD; EUR; 0.92."
    try:
        day, base, quote, rate = cells
        when, value = date.fromisoformat(day), float(rate)
    except ValueError as exc:
        raise TermsError(what) from exc
    if when > today:
        message = f"Line {number}: {day} lies ahead; nobody knows that rate."
        raise TermsError(message)
    if when < EARLIEST:
        message = f"Line {number}: {day} lies before there were cards. Look at the year."
        raise TermsError(message)
    if not 1e-6 < value < 1e6 or base.upper() == quote.upper():
        raise TermsError(what)
    for code in (base, quote):
        known_currency(code)
    return Rate(when, base.upper(), quote.upper(), rate)


def known_currency(code: str) -> str:
    """Return a currency's code in capitals.

    Raises
    ------
    TermsError
        When it is no code of ISO 4217.
    """
    if not re.fullmatch(r"[A-Za-z]{3}", code):
        message = f"“{code}” is no currency. Write its three letters of ISO 4217, like EUR."
        raise TermsError(message)
    return code.upper()
