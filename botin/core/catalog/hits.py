"""What counts as a hit: a matter of taste, so a rule the user sets."""

from __future__ import annotations

from dataclasses import dataclass

from botin.core.catalog.product import Kind

SIGNED_OR_WORN = frozenset({Kind.AUTOGRAPH, Kind.RELIC, Kind.AUTOGRAPH_RELIC})


@dataclass(frozen=True, slots=True)
class HitRule:
    """A card is a hit by its kind, or when its run is at most ``numbered_to``.

    Attributes
    ----------
    kinds : frozenset of Kind
        Kinds that always count.
    numbered_to : int or None
        Largest run that still counts as scarce; None: no numbered card counts by its run alone.
    """

    kinds: frozenset[Kind] = SIGNED_OR_WORN
    numbered_to: int | None = 50

    def is_hit(self, kind: Kind, run: int | None) -> bool:
        """Whether a card of this kind and run counts."""
        return kind in self.kinds or (run is not None and self.numbered_to is not None and run <= self.numbered_to)

    def words(self) -> str:
        """Return the rule in words."""
        kinds = ", ".join(sorted(kind.value.replace("_", " ") for kind in self.kinds))
        if self.numbered_to is None:
            return kinds or "nothing"
        return f"{kinds} and cards numbered to {self.numbered_to} or less".removeprefix(" and ")
