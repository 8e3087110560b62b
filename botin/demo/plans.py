"""What the invented makers planned: the shape of a plan; the plans themselves are in `botin.demo.season`."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date

from botin.core.catalog.product import Kind, PromiseRow


@dataclass(frozen=True, slots=True)
class SectionPlan:
    """A section: ``prefix`` numbers it, ``price`` is what a card of a median rider sells for (major units)."""

    key: str
    label: str
    kind: Kind
    size: int
    prefix: str = ""
    price: float = 0.05
    back_code: str = ""
    cue: str = ""
    short_from: int = 0
    pairs: bool = False


@dataclass(frozen=True, slots=True)
class FinishPlan:
    """A finish of a section, or its plain card when ``key`` is empty.

    ``times`` multiplies the section's price. Either ``rates`` state how it falls per format (``4`` is 1:4,
    ``box:1`` one a box, ``pack:1`` one a pack, ``case:1`` one a case), or ``share`` splits its numbered copies
    over the formats and the odds follow from how many packs there are.
    """

    section: str
    key: str = ""
    label: str = ""
    times: float = 1.0
    run: str = ""
    rates: dict[str, str] = field(default_factory=dict)
    share: dict[str, float] = field(default_factory=dict)
    swatch: str = ""
    cue: str = ""
    group: str = ""


@dataclass(frozen=True, slots=True)
class FormatPlan:
    """A format and how many boxes of it were packed."""

    key: str
    label: str
    packs: int
    cards: int
    boxes_per_case: int
    price: str
    boxes: int


@dataclass(frozen=True, slots=True)
class ProductPlan:
    """A product."""

    key: str
    name: str
    maker: str
    season: str
    released_on: date
    formats: tuple[FormatPlan, ...]
    sections: tuple[SectionPlan, ...]
    finishes: tuple[FinishPlan, ...]
    promises: tuple[PromiseRow, ...] = ()
