"""A list of card numbers as people type it: ``1-20, 25, 30x2, SP-4 x3``."""

from __future__ import annotations

import re
from collections import Counter

from botin.core.errors import BotinError

MOST = 5_000


class NumberListError(BotinError):
    """A list of numbers that cannot be read."""

    status = 422


def read_numbers(text: str) -> Counter[str]:
    """Read a list of numbers; a range counts each number between its ends, ``x2`` counts twice.

    Raises
    ------
    NumberListError
        When an item cannot be read.
    """
    found: Counter[str] = Counter()
    for part in re.split(r"[,;\n]+", text):
        item = part.strip()
        if not item:
            continue
        count, bare = 1, item
        times = re.fullmatch(r"(.+?)\s*[x×]\s*(\d{1,3})", item, re.IGNORECASE)
        if times:
            bare, count = times[1].strip(), int(times[2])
        for number in _range(bare, item):
            found[number] += count
        if found.total() > MOST:
            message = f"That is more than {MOST:,} copies at once. Type them in parts."
            raise NumberListError(message)
    return found


def _range(bare: str, item: str) -> list[str]:
    ends = re.fullmatch(r"([A-Za-z]*-?)(\d+)\s*[-–]\s*(?:\1)?(\d+)", bare)
    if ends:
        first, last = int(ends[2]), int(ends[3])
        if not first <= last <= first + MOST:
            message = f"“{item}” is no range from a smaller to a larger number."
            raise NumberListError(message)
        return [f"{ends[1]}{number}" for number in range(first, last + 1)]
    if not bare or " " in bare:
        message = f"“{item}” is not understood. Write numbers like 1-20, 25, 30x2."
        raise NumberListError(message)
    return [bare]
