"""Chance of each grade: how the product usually grades, moved by my own look at the copy, capped by limits.

True quality q ~ N(μ, τ²) on the scale of grades; my inspection y = q + N(0, s²), seen in halves and at the ends of
the scale only as “at least” and “below”; a house gives the grade whose band holds q + b + N(0, g²), with its bias b,
and none above what the centering allows. Counts of a house are what came of all that: quality is fitted with bias,
noise and limits in it, and the cuts between its grades are set so that without a look the forecast is what the counts
say.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from botin.core.marks import centering_of, severity_of

BIAS_PRIOR = 0.5
"""Standard deviation of a house's bias, in grades."""
GRADES = (10.0, 9.0, 8.0, 7.0, 6.0, 5.0, 4.0, 3.0, 2.0, 1.0)
NOISE, OWN_NOISE = 0.45, 0.7
"""Grader noise g and inspection noise s until returns teach better; a choice."""
DEFAULT_PRIOR = (9.0, 0.9)
"""Mean and spread of quality of a fresh modern card without any counts; a choice."""
PARTS = ("centering", "corners", "edges", "surface")


@dataclass(frozen=True, slots=True)
class Quality:
    """How copies of a product, section or era grade.

    Attributes
    ----------
    mean, spread : float
        Of the true quality before any look, when there are no counts.
    noise : float
        Grader noise that mean and spread were fitted with.
    counted : int
        Graded copies behind it.
    shares : tuple of (grade, share)
        What a house gave, the top grade first; empty without counts.
    """

    mean: float = DEFAULT_PRIOR[0]
    spread: float = DEFAULT_PRIOR[1]
    noise: float = NOISE
    counted: int = 0
    shares: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Grader:
    """What is known of a house and of my own eye: bias, its interval, grader noise, inspection noise."""

    bias: float = 0.0
    low: float = -2 * BIAS_PRIOR
    high: float = 2 * BIAS_PRIOR
    noise: float = NOISE
    own_noise: float = OWN_NOISE
    returns: int = 0


@dataclass(frozen=True, slots=True)
class Inspection:
    """My look at a copy: 1 to 10 in halves for each part, centering in percent of the larger border, marks seen.

    The signature has a grade of its own and says nothing of the card's.
    """

    centering: float | None = None
    corners: float | None = None
    edges: float | None = None
    surface: float | None = None
    front: float | None = None
    back: float | None = None
    signature: float | None = None
    marks: tuple[str, ...] = ()

    @property
    def measured(self) -> bool:
        """Whether it says anything of the grade."""
        return self.score is not None or self.front is not None or self.back is not None

    @property
    def score(self) -> float | None:
        """One number: half the worst part, half the mean of the parts seen; None when nothing was looked at."""
        seen = [value for value in (self.centering, self.corners, self.edges, self.surface) if value is not None]
        return 0.5 * min(seen) + 0.5 * sum(seen) / len(seen) if seen else None


def inspection_of(values: Mapping[str, float | None]) -> Inspection:
    """Make a look of its parts by name."""
    parts = {name: values.get(name) for name in (*PARTS, "front", "back")}
    return Inspection(**parts)  # type: ignore[arg-type]  # (marks are noted elsewhere)


NOTED = {
    "off-centre": ("centering", 7.5),
    "miscut": ("centering", 4.0),
    "soft corner": ("corners", 7.5),
    "edge chip": ("edges", 7.5),
    "print line": ("surface", 8.0),
    "dimple": ("surface", 8.0),
    "fingerprint": ("surface", 8.5),
    "signature bubble": ("surface", 7.0),
    "gum stain": ("surface", 6.0),
}
"""What a mark noted while opening says of a part, until someone looks closely; a choice, no source."""


PINNED = {
    **NOTED,
    "stain": ("surface", 6.0),
    "crease": ("surface", 4.0),
    "scratch": ("surface", 7.5),
    "bubble": ("surface", 7.0),
    "fading": ("surface", 6.0),
    "nick": ("edges", 7.5),
}
"""Also what is pinned on a card under the glass."""
PIN_KINDS = ("print line", "dimple", "stain", "nick", "crease", "fading", "scratch", "bubble", "fingerprint")


def noted_look(marks: Iterable[str]) -> Inspection | None:
    """Return the look that marks stand for: the worst of each part; None without any.

    A mark may say how bad it is, ``heavy crease``: what it takes off grows as its damage does.
    """
    given = tuple(marks)
    parts: dict[str, float] = {}
    fronts = [float(max(centred)) for mark in given if (centred := centering_of(mark))]
    seen = tuple(mark for mark in given if severity_of(mark)[0] in PINNED)
    for mark in seen:
        kind, strength = severity_of(mark)
        part, score = PINNED[kind]
        score = max(GRADES[-1], 10 - strength * (10 - score))
        parts[part] = min(score, parts.get(part, score))
    if not parts and not fronts:
        return None
    return Inspection(**parts, front=fronts[-1] if fronts else None, marks=seen)


@dataclass(frozen=True, slots=True)
class Limit:
    """Centering a grade allows at most, in percent of the larger border: 55 means 55/45."""

    grade: float
    front: float
    back: float


@dataclass(frozen=True)
class Standard:
    """A table of limits, the top grade first (generic; houses differ and change them).

    Attributes
    ----------
    assumed : bool
        Nobody said that this house has them: they cap a copy whose centering was measured, but how often copies of
        the counts failed on them is not guessed.
    """

    name: str
    limits: tuple[Limit, ...] = field(
        default=(Limit(10, 55, 75), Limit(9, 60, 90), Limit(8, 65, 90), Limit(7, 70, 90), Limit(6, 80, 90))
    )
    assumed: bool = False

    def __post_init__(self) -> None:
        """Sort by what the rows say: nobody has to write the top grade first."""
        object.__setattr__(self, "limits", tuple(sorted(self.limits, key=lambda limit: -limit.grade)))

    def cap(self, inspection: Inspection) -> float:
        """Return the highest grade that the centering allows; the scale's top when it was not measured."""
        for limit in self.limits:
            if (inspection.front or 50) <= limit.front and (inspection.back or 50) <= limit.back:
                return GRADES[0] if limit is self.limits[0] else limit.grade
        return self.limits[-1].grade - 1 if self.limits else GRADES[0]


COMMON = Standard("common limits, from memory")
NO_LIMITS = Standard("no limits", ())


def _below(x: float) -> float:
    return 0.5 * (1 + math.erf(x / math.sqrt(2)))


def grade_chances(mean: float, spread: float, cap: float = GRADES[0]) -> dict[float, float]:
    """Chance of each grade when what the house sees is N(mean, spread²); what lies above the cap gets the cap."""
    found: dict[float, float] = {}
    above = 0.0
    for grade in GRADES:
        low = -math.inf if grade == GRADES[-1] else (grade - 0.5 - mean) / spread
        chance = (1.0 if low == -math.inf else 1 - _below(low)) - above
        above += chance
        target = min(grade, cap)
        found[target] = found.get(target, 0.0) + max(0.0, chance)
    return {grade: found.get(grade, 0.0) for grade in GRADES}
