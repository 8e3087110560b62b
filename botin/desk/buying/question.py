"""What is asked at the buy desk."""

from __future__ import annotations

from dataclasses import dataclass, field

from botin.core.buying.boxcosts import Price
from botin.core.odds.lines import LEARNED
from botin.desk.buying.prepared import Valuation


@dataclass(frozen=True)
class Question:
    """What was typed at the buy desk.

    Attributes
    ----------
    price : Price
        What is asked for a box.
    chase : tuple of str
        One wish a line: a want as commands have it, a name, or a number.
    at_least : float
        “How likely is a box worth at least this much?”
    numbered_to : int
        Largest run that counts as numbered; 0 for any.
    weights : dict
        What formats are ranked by.
    other : int
        Product compared with (last season's); 0 for the likeliest one.
    scores : dict
        The user's own scores by criterion.
    measured : bool
        Printed odds mended by my boxes.
    notes : dict
        Notes to the scores by criterion.
    price_by : str
        What the scorecards hold the price against; empty for what is known.
    """

    format: str
    price: Price
    chase: tuple[str, ...] = ()
    net: bool = False
    repeats: str = "independent"
    seeding: str = LEARNED
    boxes: int = 3
    at_least: float = 0.0
    wait: float = 2.0
    numbered_to: int = 0
    weights: dict[str, float] = field(default_factory=lambda: {"value": 1.0})
    other: int = 0
    scores: dict[str, int] = field(default_factory=dict)
    measured: bool = False
    notes: dict[str, str] = field(default_factory=dict)
    price_by: str = ""

    def how(self, format_key: str = "", *, graded: bool = False, net: bool = False) -> Valuation:
        """Return the choices that change what a format is worth."""
        sold = self.net or graded or net
        return Valuation(format_key or self.format, sold, graded, self.repeats, self.seeding, self.measured)
