"""How a sale is packed: by price, kind and thickness; and where it goes: to the authenticator or to the buyer."""

from __future__ import annotations

from dataclasses import dataclass

BOX_FROM = 100.0
"""From this price (major units) a card goes in a box and not in a mailer (a choice)."""
THICK_PT = 55
"""Points of thickness from which a card needs a wider holder (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Packed:
    """What is packed: price of it all (major units), copies, slabs, thick cards, and whether it is a lot.

    Attributes
    ----------
    commons : int
        Cards of a lot that go together in one block.
    sealed : bool
        A sealed box or pack.
    """

    price: float
    copies: int = 1
    slabs: int = 0
    thick: int = 0
    commons: int = 0
    sealed: bool = False


@dataclass(frozen=True, slots=True)
class PackStep:
    """A step of packing: its key, what to do, and why."""

    key: str
    words: str
    why: str = ""


def goes_by_authenticator(*, graded: bool, price: float, threshold: float) -> bool:
    """Whether a card goes to the market's authenticator first: a raw one above a price.

    People are not sure whether that is 200 or 250: a setting.
    """
    return not graded and price > threshold


def steps_for(what: Packed) -> tuple[PackStep, ...]:
    """Return the steps of packing a sale, in their order (common practice, no source)."""
    found: list[PackStep] = []
    raw = what.copies - what.slabs - what.commons
    if what.sealed:
        found.append(
            PackStep("film", "Photos of the seal on all sides", "A buyer may say it was broken inside the film.")
        )
    if raw > 0:
        found += [
            PackStep("sleeve", "Each card in a soft sleeve"),
            PackStep("holder", "In a rigid holder" + (f", {what.thick} in a wider one" if what.thick else "")),
            PackStep("bag", "Team bag around it, sealed"),
            PackStep(
                "board", "Taped to a board of card size, light tape on all four sides", "Easy to take off again."
            ),
        ]
    if what.commons:
        found.append(PackStep("block", "The commons squared up in a card box, filled so that they do not slide"))
    if what.slabs:
        found.append(PackStep("slab", "Each slab in a bag, and a box of its own size"))
    found.append(PackStep("invoice", "The invoice inside", "A parcel that is lost is opened, and finds its way."))
    if what.price >= BOX_FROM or what.slabs or what.commons or what.sealed:
        found.append(PackStep("box", "In a box, filled so that nothing moves"))
    else:
        found.append(PackStep("mailer", "In a bubble mailer"))
    return (*found, PackStep("address", "The address is the one on the label, and on nothing else"))


def thick_of(kind: str, points: int | None) -> bool:
    """Whether a card needs a wider holder: by its thickness where that is known, else by its kind."""
    return points >= THICK_PT if points is not None else "relic" in kind
