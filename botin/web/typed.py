"""What is read beside the fields of a form: a limit in the address, one field a line, ticked copies."""

from __future__ import annotations

from flask import request

from botin.desk.grading.moves import Chosen
from botin.web.fields import read_money


def limit_of(name: str) -> float | None:
    """Return the most one would spend, from the address of a page; None when it is left out.

    Raises
    ------
    BadAmountError, TypedError
        When it is no amount, or less than nothing.
    """
    text = request.args.get(name, "").strip()
    if not text:
        return None
    return read_money(text, "EUR").major


def by_line(prefix: str) -> dict[int, str]:
    """Return the fields of a form that stand for a line each, by the id of the line."""
    found = {}
    for name, value in request.form.items():
        rest = name.removeprefix(f"{prefix}-")
        if rest != name and rest.isascii() and rest.isdecimal() and len(rest) < 16:
            found[int(rest)] = value
    return found


def chosen_copies() -> list[Chosen]:
    """Return the copies that are ticked, by their ids."""
    texts = [text.removeprefix("copy:") for text in request.form.getlist("copy")]
    return [int(text) for text in texts if text.isascii() and text.isdecimal() and len(text) < 19]
