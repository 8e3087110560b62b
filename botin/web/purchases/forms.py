"""An order as it was typed: rows of boxes and singles, and what they share."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, timedelta

from sqlalchemy.orm import Session

from botin.core.books.posting import AmountError
from botin.core.days import PLANNED, typed_day
from botin.core.money import parse_money
from botin.desk.books.purchases import ORDERED, BoxLine, Order
from botin.desk.books.singles import SingleLine, read_single
from botin.desk.workbench import Workbench
from botin.exchange.selling.feestext import known_currency

BOX_ROWS, SINGLE_ROWS, MOST_ROWS = 4, 3, 40


def _whole(text: str) -> int:
    """Read how many; an empty field is one.

    Raises
    ------
    AmountError
        When it is no number from 1 to 60.
    """
    if not text.strip():
        return 1
    if not (text.strip().isascii() and text.strip().isdecimal() and len(text.strip()) < 4):
        message = f"“{text[:20]}” is no number of boxes. Write 1, or 2."
        raise AmountError(message)
    return int(text)


def _box_lines(form: Mapping[str, str], currency: str) -> list[BoxLine]:
    """Read the rows of boxes; a row in which nothing is written is left out.

    Raises
    ------
    AmountError
        When a row has no price or no format though something else is written in it.
    """
    found = []
    for row in range(MOST_ROWS):
        price, chosen, note = (form.get(f"box-{row}-{name}", "").strip() for name in ("price", "format", "label"))
        if not price and not chosen and not note:
            continue
        if not price or not (chosen.isascii() and chosen.isdecimal()):
            lacks = "price" if chosen else "product and format"
            message = f"Nothing was stored: row {row + 1} of the boxes has no {lacks}. Fill it in, or empty the row."
            raise AmountError(message)
        quantity = _whole(form.get(f"box-{row}-quantity", ""))
        label = form.get(f"box-{row}-label", "")
        found.append(BoxLine(int(chosen[:15]), quantity, parse_money(price, currency), label))
    return found


def _single_lines(session: Session, bench: Workbench, form: Mapping[str, str], currency: str) -> list[SingleLine]:
    """Read the rows of singles; a row in which nothing is written is left out.

    Raises
    ------
    AmountError
        When a row has a price and no card.
    """
    found: list[SingleLine] = []
    for row in range(MOST_ROWS):
        text, chosen = form.get(f"single-{row}-card", "").strip(), form.get(f"single-{row}-product", "")
        if not text and form.get(f"single-{row}-price", "").strip():
            message = f"Nothing was stored: row {row + 1} of the singles has no card. Write which, or empty the row."
            raise AmountError(message)
        if not text:
            continue
        product = int(chosen[:15]) if chosen.isdecimal() else 0
        price = parse_money(form.get(f"single-{row}-price", "") or "0", currency)
        found += read_single(session, bench, product, text[:200], price)
    return found


def read_order(session: Session, bench: Workbench, form: Mapping[str, str], today: date) -> Order:
    """Read an order.

    Raises
    ------
    BotinError
        When something of it cannot be read; the message says what.
    """
    currency = known_currency(form.get("currency", "EUR"))
    state = form.get("state", "arrived")
    day = typed_day(form.get("bought_on", ""), today, PLANNED if state == ORDERED else timedelta(0))
    due = form.get("due_on", "").strip()
    rate = form.get("rate", "").strip().replace(",", ".")
    if rate and not _is_rate(rate):
        message = f"“{rate[:20]}” is no rate. Write what one {currency} was worth, like 0.92."
        raise AmountError(message)
    return Order(
        bought_on=day,
        seller=form.get("seller", ""),
        shipping=parse_money(form.get("shipping") or "0", currency),
        tax=parse_money(form.get("tax") or "0", currency),
        state=state,
        boxes=tuple(_box_lines(form, currency)),
        singles=tuple(_single_lines(session, bench, form, currency)),
        rate=rate,
        due_on=typed_day(due, today, PLANNED) if due else None,
        note=form.get("note", ""),
    )


RATES = (1e-6, 1e6)
"""Least and most that one unit of a currency may be worth in another; beyond lies a slip of the hand."""


def _is_rate(text: str) -> bool:
    whole, _, part = text.partition(".")
    return bool(
        whole.isascii()
        and whole.isdecimal()
        and (not part or part.isdecimal())
        and RATES[0] <= float(text) <= RATES[1]
    )
