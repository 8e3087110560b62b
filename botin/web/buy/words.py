"""The verdict of the buy desk in sentences."""

from __future__ import annotations

from collections.abc import Callable

from flask import Flask

from botin.core.buying.breakeven import Way
from botin.core.buying.verdict import Choice, Reason
from botin.desk.buying.answer import BuyPage
from botin.web.words import amount, percent, plural

SAYS = {
    Choice.RIP: "Rip it: more often than not such a box pays.",
    Choice.SINGLES: "Buy the singles: what you want is cheaper outright than by opening for it.",
    Choice.HOLD: "Hold it sealed: it needs less growth than you reckon with.",
    Choice.LEAVE: "Leave it, or count the difference as the price of the fun.",
}


def verdict_words(page: BuyPage) -> str:
    """Say the verdict."""
    return SAYS[page.verdict.choice]


def reason_words(reason: Reason, page: BuyPage) -> str:
    """Say one reason with its numbers."""
    return REASONS[reason.name](page)


def _pays(page: BuyPage) -> str:
    e = page.evidence
    return f"{percent(e.pays)} of boxes are worth {amount(e.cost, page.currency)} or more."


def _typical(page: BuyPage) -> str:
    e, code = page.evidence, page.currency
    side = "more" if e.median >= e.cost else "less"
    return f"The typical box gives {amount(e.median, code)}: {side} than the {amount(e.cost, code)} it costs."


def _rare(page: BuyPage) -> str:
    since = f", from {amount(page.rare[1], page.currency)} up" if page.rare[1] is not None else ""
    return f"{percent(page.evidence.rare)} of the mean sits in cards that come in one box of twenty{since}."


def _mean(page: BuyPage) -> str:
    e, code = page.evidence, page.currency
    side = "above" if e.mean >= e.cost else "below"
    return f"On average {amount(e.mean, code)} comes out, {amount(abs(e.mean - e.cost), code)} {side} the cost."


def _singles(page: BuyPage) -> str:
    e, code = page.evidence, page.currency
    boxes = e.even_boxes or 0
    many = plural(boxes, "box", "boxes")
    return (
        f"Outright the list costs {amount(e.singles, code)}; an even chance of any of it takes {many}, "
        f"{amount(e.cost * boxes, code)}."
    )


def _wanted(page: BuyPage) -> str:
    return f"{percent(page.evidence.wanted)} of boxes hold something you want."


def _hold(page: BuyPage) -> str:
    years = plural(page.settings.hold_years, "year")
    return f"Held {years} it needs {percent(page.evidence.growth_needed)} a year to beat ripping."


REASONS: dict[str, Callable[[BuyPage], str]] = {
    "pays": _pays,
    "typical": _typical,
    "rare": _rare,
    "mean": _mean,
    "singles": _singles,
    "wanted": _wanted,
    "hold": _hold,
}


def way_words(way: Way, code: str) -> str:
    """Say one way to break even."""
    if not way.cards:
        return "nothing special: the cheap cards alone reach it"
    cards = " and ".join(f"{count} × {name}" for name, count in way.cards)
    many = sum(count for _, count in way.cards)
    return f"{cards}{', each' if many > 1 else ''} worth {amount(way.least, code)} or more"


def install(app: Flask) -> None:
    """Register the filters."""
    for function in (verdict_words, reason_words, way_words):
        app.jinja_env.filters[function.__name__] = function
