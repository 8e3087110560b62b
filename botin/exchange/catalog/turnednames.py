"""Names written last name first: all of a column are, or none is."""

from __future__ import annotations

import re
from collections.abc import Sequence

_TURNED = re.compile(r"(?P<last>[^,;/()]{2,40}),\s+(?P<first>[^,;/()]{1,40})")
MOST = 0.8
"""Share of the names that must be so (a choice)."""


def are_turned(names: Sequence[str]) -> bool:
    """Whether the names of a column stand last name first, a comma between."""
    given = [name for name in names if name.strip()]
    return len(given) > 2 and sum(_TURNED.fullmatch(name.strip()) is not None for name in given) >= MOST * len(given)


def turn(name: str) -> str:
    """Return ``Orla Thorsby`` for ``Thorsby, Orla``; a name without a comma as it is."""
    found = _TURNED.fullmatch(name.strip())
    return f"{found['first']} {found['last']}" if found else name
