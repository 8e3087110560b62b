"""Steps that are ticked one by one, kept as their keys in one text."""

from __future__ import annotations

from collections.abc import Collection, Iterable


def kept_as(order: Iterable[str], ticked: Collection[str]) -> str:
    """Return the keys that are ticked, in their order, as they are kept."""
    return ";".join(key for key in order if key in ticked)


def with_tick(order: Iterable[str], kept: str, key: str, *, done: bool) -> str:
    """Return what is kept with one key ticked or not, and all others as they were."""
    return kept_as(order, set(kept.split(";")) - {key} | ({key} if done else set()))
