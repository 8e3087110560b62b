"""Values that are kept as JSON in one column, to and from their classes; what a class does not know is left out."""

from __future__ import annotations

import json
from dataclasses import is_dataclass
from typing import Any, TypeVar

from cattrs.errors import BaseValidationError
from cattrs.preconf.json import make_converter

from botin.core.errors import StoredValueError

Kept = TypeVar("Kept")
_CONVERTER = make_converter()


def as_json(value: object) -> str:
    """Return a value as the text of its column."""
    return _CONVERTER.dumps(value, ensure_ascii=False)


def from_json(text: str | bytes, kind: type[Kept]) -> Kept:
    """Read a value out of the text of its column.

    Raises
    ------
    StoredValueError
        When the text is not what this class is kept as.
    """
    try:
        plain = json.loads(text)
    except ValueError as exc:
        raise StoredValueError(kind.__name__) from exc
    found: Kept = from_plain(plain, kind)
    return found


def from_plain(value: Any, kind: Any) -> Any:
    """Read a value that is plain already; as `from_json` otherwise."""
    name = getattr(kind, "__name__", str(kind))
    if is_dataclass(kind) and not isinstance(value, dict):
        raise StoredValueError(name)
    try:
        return _CONVERTER.structure(value, kind)
    except (BaseValidationError, ValueError, TypeError, KeyError) as exc:
        raise StoredValueError(name) from exc
