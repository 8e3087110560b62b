"""Is a sealed box as it left the maker? What to look at, by how it is closed; what is normal and what is a warning.

The observations are the trade's (common practice, no source); they are signs, never proof.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Wrap(StrEnum):
    """How a box is closed."""

    WRAPPED = "shrink wrap"
    LIDLESS = "lidless, with a paper seal"
    AUTHENTICATED = "authenticator’s wrap"
    VENDING = "vending box"
    NONE = "no wrap"


@dataclass(frozen=True, slots=True)
class Look:
    """One thing to look at; ``normal`` is how it should be, ``warning`` what speaks against the box."""

    key: str
    what: str
    normal: str
    warning: str
    weight: int = 1


_COMMON = (
    Look("gum", "Gum and stains from pack to pack", "alike in all packs", "fresh packs beside stained ones", 2),
    Look("packs", "Packs in the box", "all of one printing, none short", "mixed packs, or packs missing", 2),
    Look("order", "Cards in the first pack", "all one way up, in the usual order", "flipped or out of sequence", 1),
)
LOOKS: dict[Wrap, tuple[Look, ...]] = {
    Wrap.WRAPPED: (
        Look(
            "film",
            "The film",
            "tight, whole, with the maker’s seams",
            "loose, wrinkled, melted or cut and closed again",
            3,
        ),
        Look(
            "seal",
            "A paper seal under the film",
            "broken under good film: normal on old lidless boxes",
            "broken, and the film is not the maker’s",
            1,
        ),
        Look("corners", "Corners of the box", "pressed evenly by the film", "worn corners under new film", 2),
        *_COMMON,
    ),
    Wrap.LIDLESS: (
        Look("seal", "The paper seal", "whole, or torn where the lid bends", "glued anew, or of another year", 3),
        Look("lid", "The lid", "creased once", "creased many times", 1),
        *_COMMON,
    ),
    Wrap.AUTHENTICATED: (
        Look(
            "label",
            "The authenticator’s label",
            "whole, its number is in their register",
            "missing, lifted, or unknown to them",
            3,
        ),
        Look("film", "Their film", "whole", "opened or replaced", 3),
        *_COMMON,
    ),
    Wrap.VENDING: (
        Look(
            "stripes", "Edges of the stack", "light and dark stripes alternate", "no stripes: the stack was sorted", 3
        ),
        Look("dust", "Cutting dust", "some on the edges and in the box", "none at all", 2),
        Look("runs", "Runs of numbers", "the same sequence comes again", "stars missing from the runs", 2),
    ),
    Wrap.NONE: _COMMON,
}
CAUTIONS = (
    "Blades cut cards and fingers: cut the film at a seam, away from the packs and from you.",
    "Old gum and mould are not food. Wear gloves, air the room, keep both away from children and pets.",
)


@dataclass(frozen=True, slots=True)
class Opinion:
    """What the looks come to."""

    verdict: str
    words: str


def opinion(wrap: Wrap, found: dict[str, str]) -> Opinion:
    """Weigh what was found.

    Parameters
    ----------
    wrap : Wrap
        How the box is closed.
    found : dict
        ``normal`` or ``warning`` by the key of a look; what is missing was not looked at.
    """
    looks = LOOKS[wrap]
    warned = [look for look in looks if found.get(look.key) == "warning"]
    seen = [look for look in looks if found.get(look.key)]
    if not seen:
        return Opinion("not looked at", "Nothing was looked at yet.")
    against = sum(look.weight for look in warned)
    named = ", ".join(look.what[0].lower() + look.what[1:] for look in warned)
    if against >= 3:
        return Opinion(
            "stop", f"Signs that someone has been in it: {named}. Take photos and ask the seller before you open it."
        )
    if warned:
        return Opinion("look again", f"One sign against it: {named}. It may be nothing; keep photos.")
    left = len(looks) - len(seen)
    more = f" {left} not looked at." if left else ""
    return Opinion("as it should be", f"{len(seen)} looked at, nothing speaks against it.{more}")
