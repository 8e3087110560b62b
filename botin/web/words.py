"""How numbers and verdicts read on screen: filters for the templates."""

from __future__ import annotations

import math
import re
from datetime import date, datetime

from flask import Flask

from botin.core.figure import Figure, Unit
from botin.core.money import Money
from botin.core.odds.printrun import Interval
from botin.core.pricing.prices import Basis, Estimate
from botin.desk.insight.recap import BestCard, BoxRecap
from botin.desk.insight.today import Line
from botin.exchange.catalog.package import amount_text
from botin.web.locales import day_text, how_written, money_text, number_text

MINUS = "−"


def amount(value: float | None, currency: str = "", *, signed: bool = False) -> str:
    """Return an amount in major units as the user writes it: ``€1,234.50``; with its sign when ``signed``."""
    if value is None:
        return "–"
    text = money_text(abs(value), currency, how_written())
    zero = not any(digit in "123456789" for digit in text)
    sign = MINUS if value < 0 and not zero else "+" if signed and not zero else ""
    return f"{sign}{text}"


def money(value: Money | None) -> str:
    """Return stored money as text."""
    return "–" if value is None else amount(value.major, value.currency)


def minor(value: int | None, currency: str) -> str:
    """Return stored minor units as text."""
    return "–" if value is None else money(Money(value, currency))


def plain_amount(value: int | None, currency: str) -> str:
    """Return stored minor units as one types them: ``12.50``; empty for nothing."""
    return amount_text(Money(value, currency)) if value else ""


def typed_amount(value: float, currency: str) -> str:
    """Return an amount in major units as one types it, with the decimals of its currency."""
    return amount_text(Money.from_major(value, currency))


def minor_signed(value: int | None, currency: str) -> str:
    """Return stored minor units as text, with a sign of its own."""
    return "–" if value is None else amount(Money(value, currency).major, currency, signed=True)


def number(value: float | None, digits: int = 1) -> str:
    """Return a count or ratio: whole when it is whole, else with so many decimals; small ones keep two figures."""
    if value is None:
        return "–"
    if float(value).is_integer():
        return _written(f"{value:.0f}")
    if 0 < abs(value) < 0.0005:
        return "about 0"
    if 0 < abs(value) < 0.1:
        return _written(f"{value:.2g}")
    return _written(f"{value:.{digits}f}")


def _written(plain: str) -> str:
    """Return a plain number with the marks of the user, and a minus that is one."""
    return number_text(plain, how_written()).replace("-", MINUS)


def percent(share: float | None) -> str:
    """Return a share in percent: never 0 % or 100 % unless it is exactly that."""
    if share is None:
        return "–"
    if share < 0:
        return MINUS + percent(-share)
    if 0 < share < 0.001:
        return "under 0.1 %"
    if 0.999 < share < 1:
        return "over 99.9 %"
    digits = 0 if share in (0, 1) else 1
    return f"{_written(f'{100 * share:.{digits}f}')} %"


def day(value: date | datetime | None) -> str:
    """Return a date as the user writes it: ``3 Oct 2026``."""
    return "–" if value is None else day_text(value, how_written())


def said(line: Line) -> str:
    """Return what a line of Today says, its days and amounts as the user writes them."""
    words = line.words
    for name, value in line.told:
        words = words.replace(f"{{{name}}}", day(value) if isinstance(value, date) else money(value))
    return words


def by_unit(value: float | None, unit: Unit, currency: str) -> str:
    """Return a figure's value or input in its unit."""
    if unit == "money":
        return amount(value, currency)
    return percent(value) if unit == "share" else number(value, 2)


def figure_text(figure: Figure, currency: str) -> str:
    """Return the value of a figure."""
    return by_unit(figure.value, figure.unit, currency)


def interval(found: Interval | None) -> str:
    """Return an estimate with its bounds: ``9,600 (9,594 to 9,606)``; what is not known says so."""
    if found is None or (found.estimate is None and found.low is None and found.high is None):
        return "not known"
    if found.estimate is None:
        low, high = (rough(x) if x is not None else None for x in (found.low, found.high))
        return f"at least {low}" if high is None else f"{low or 0} to {high}"
    if found.low is None or found.high is None:
        return f"{rough(found.estimate)}" + (f" (at least {rough(found.low)})" if found.low else "")
    return f"{rough(found.estimate)} ({rough(found.low)} to {rough(found.high)})"


def unbroken(text: str) -> str:
    """Return an estimate with its bounds so that a narrow column breaks it only before the bracket."""
    return text.replace(" ", "\u00a0").replace("\u00a0(", " (")


def bounds(found: Interval | None) -> str:
    """Return the bounds alone, where the middle means nothing: ``between 40 and 9,600``, or ``cannot be told``."""
    if found is None or (found.low is None and found.high is None):
        return "not known"
    low = found.low if found.low is not None and found.low >= 1 else None
    if found.high is None:
        return f"at least {rough(low)}" if low else "cannot be told"
    return f"between {rough(low)} and {rough(found.high)}" if low else f"cannot be told; at most {rough(found.high)}"


def rough(value: float | None) -> str:
    """Return a number to four figures: ``9,600``, ``51,330``, ``412.9``, ``0.0123``."""
    if value is None:
        return "–"
    if value == 0:
        return "0"
    digits = max(0, 3 - math.floor(math.log10(abs(value))))
    return _written(f"{round(value, 3 - math.floor(math.log10(abs(value)))):.{min(digits, 6)}f}")


def plural(count: float, one: str, many: str | None = None) -> str:
    """Return ``1 card``, ``2 cards``."""
    return f"{number(count)} {one if count == 1 else many or one + 's'}"


_SAID = re.compile(r"(?<![\w.])(?P<number>-?\d+(?:\.\d+)?) (?P<code>[A-Z]{3})\b")
"""An amount as the core writes it into a sentence: ``48.50 EUR``."""


def with_amounts(sentence: str, currency: str) -> str:
    """Return a sentence of the core with its amounts as the user writes them: ``it nets €48.50 on average``.

    Only those of its currency: a tier may be called “Slow 30 DAY”.
    """

    def written(found: re.Match[str]) -> str:
        return amount(float(found["number"]), currency) if found["code"] == currency else found[0]

    return _SAID.sub(written, sentence)


def basis(estimate: Estimate) -> str:
    """Say what a price rests on."""
    if estimate.basis is Basis.COMPS:
        newest = f", newest {day(estimate.newest)}" if estimate.newest else ""
        return f"{plural(estimate.count, 'sold price')}{newest}"
    return "usual price of its kind" if estimate.basis is Basis.TIER else "no price known"


def reason(best: BestCard, recap: BoxRecap) -> str:
    """Say in a few words, with their numbers, what a card sells for and why it gets its route."""
    price = best.valued.estimate
    raw = f"Raw {amount(price.amount, recap.currency)} ({basis(price)}); " if price.basis is not Basis.NONE else ""
    sure = " Not sure: it flips inside the price’s own interval." if best.verdict.flips else ""
    words = f"{raw}{with_amounts(best.verdict.reason, recap.currency)}.{sure}"
    return words[:1].upper() + words[1:]


def luck(expected: float | None, seen: int) -> str:
    """Return over, short or as expected, in one word beside the sign."""
    if expected is None:
        return ""
    if seen > expected + 0.5:
        return "over"
    return "short" if seen < expected - 0.5 else "as expected"


def install(app: Flask) -> None:
    """Register the filters."""
    for function in (
        amount,
        money,
        minor,
        minor_signed,
        plain_amount,
        typed_amount,
        number,
        percent,
        day,
        said,
        with_amounts,
        by_unit,
        figure_text,
        plural,
        basis,
        reason,
        luck,
        interval,
        unbroken,
        bounds,
        rough,
    ):
        app.jinja_env.filters[function.__name__] = function
