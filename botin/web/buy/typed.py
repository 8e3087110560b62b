"""What was typed at the buy desk: read field by field, kept as typed, with a word on what cannot be read."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TypeVar

from werkzeug.datastructures import MultiDict

from botin.core.buying.boxcosts import WEIGHED, Price
from botin.core.buying.scorecard import CRITERIA, PRICE_SCHOOLS
from botin.core.catalog.product import Product, split_names
from botin.core.errors import BotinError
from botin.core.insight.measured import ENOUGH_BOXES
from botin.core.money import parse_money
from botin.core.odds.collation import Repeats
from botin.core.odds.lines import LEARNED
from botin.desk.buying.question import Question
from botin.desk.settings import Settings

Read = TypeVar("Read")
MOST_WISHES = 30
MOST_BOXES = 500
COST_FIELDS = {"price", "ship", "tax", "rate"}
MOST_NOTE = 120


@dataclass
class Typed:
    """The fields as typed, and what is wrong with them."""

    values: dict[str, str]
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def no_cost(self) -> bool:
        """Whether nobody can say what the box costs: the price is missing, or a part of the cost cannot be read."""
        return not self.values.get("price", "").strip() or bool(COST_FIELDS & self.errors.keys())

    def read(self, name: str, make: Callable[[str], Read], otherwise: Read) -> Read:
        """Read one field; what cannot be read is noted and the other value used."""
        text = self.values.get(name, "").strip()
        if not text:
            return otherwise
        try:
            return make(text)
        except BotinError as exc:
            self.errors[name] = exc.message
        except ValueError as exc:
            self.errors[name] = str(exc)
        return otherwise


def number_between(low: float, high: float) -> Callable[[str], float]:
    """Return a reader of numbers in a range."""

    def read(text: str) -> float:
        message = f"Write a number from {low:g} to {high:g}."
        try:
            value = float(text.replace(",", "."))
        except ValueError as exc:
            raise ValueError(message) from exc
        if not low <= value <= high:
            raise ValueError(message)
        return value

    return read


def defaults(product: Product, format_key: str, settings: Settings) -> dict[str, str]:
    """What the fields hold before anything is typed."""
    fmt = product.format_by_key.get(format_key) or (product.formats[0] if product.formats else None)
    price = f"{fmt.list_price.major:.2f}" if fmt and fmt.list_price else ""
    chase = "\n".join(split_names(settings.chase)[:MOST_WISHES])
    return {
        "format": fmt.key if fmt else "",
        "price": price,
        "ship": "",
        "tax": "",
        "rate": "",
        "chase": chase,
        "net": "",
        "repeats": "measured",
        "seeding": LEARNED,
        "boxes": "3",
        "at": "",
        "wait": "2",
        "numbered": "",
        "other": "",
        "w_value": "1",
    }


def typed_question(
    args: MultiDict[str, str],
    product: Product,
    settings: Settings,
    measured: Repeats | None = None,
    rates: Callable[[str], float] | None = None,
    boxes: int = 0,
) -> tuple[Typed, Question]:
    """Read the question of a request.

    Parameters
    ----------
    measured : Repeats, optional
        What the logs say about repeats.
    rates : callable, optional
        Today's rate of a currency into the product's, so that ``USD`` may stand in the field of the rate.
    boxes : int
        Closed boxes of the format: with enough of them their averages are the default.
    """
    given: Mapping[str, str] = args.to_dict()
    typed = Typed({**defaults(product, given.get("format", ""), settings), **given})
    known = typed.values["format"] in product.format_by_key
    if not known:
        typed.values["format"] = product.formats[0].key if product.formats else ""
    amount = number_between(0, 1e9)

    def money(text: str) -> float:
        value = parse_money(text, product.currency).major
        if value < 0:
            message = "A price is not negative."
            raise ValueError(message)
        return value

    price = Price(
        typed.read("price", money, 0.0),
        typed.read("ship", money, 0.0),
        typed.read("tax", number_between(0, 100), 0.0) / 100,
        typed.read("rate", _rate_reader(rates), 1.0),
    )
    chase = tuple(line.strip() for line in typed.values["chase"].splitlines() if line.strip())
    if len(chase) > MOST_WISHES:
        typed.errors["chase"] = f"The first {MOST_WISHES} lines count; shorten the list."
    return typed, Question(
        format=typed.values["format"],
        price=price,
        chase=chase[:MOST_WISHES],
        net=bool(typed.values["net"]),
        repeats=_repeats(typed.values["repeats"], measured),
        seeding=typed.values["seeding"] if typed.values["seeding"] in ("even", "random") else LEARNED,
        boxes=int(typed.read("boxes", number_between(1, MOST_BOXES), 3.0)),
        at_least=typed.read("at", money, 0.0),
        wait=typed.read("wait", number_between(0, 260), 2.0),
        numbered_to=int(typed.read("numbered", number_between(0, 100_000), 0.0)),
        weights=_weights(typed, amount),
        other=int(typed.read("other", number_between(0, 2**31), 0.0)),
        scores=_scores(typed),
        notes=_notes(typed),
        price_by=typed.values.get("price_by", "") if typed.values.get("price_by") in PRICE_SCHOOLS else "",
        measured=typed.values.get("odds", "measured" if boxes >= ENOUGH_BOXES else "") == "measured",
    )


def _rate_reader(rates: Callable[[str], float] | None) -> Callable[[str], float]:
    """A rate as a number, or the letters of a currency whose rate is written down."""
    plain = number_between(0.000001, 1e6)
    return lambda text: rates(text) if rates is not None and text.strip().isalpha() else plain(text)


def _repeats(chosen: str, measured: Repeats | None) -> str:
    """What the logs support is the default; the schools stand beside it."""
    if chosen in ("independent", "none"):
        return chosen
    return f"{measured.factor:.4f}" if measured is not None else "independent"


def _weights(typed: Typed, amount: Callable[[str], float]) -> dict[str, float]:
    names = dict(zip(("w_autos", "w_numbered", "w_base", "w_value"), WEIGHED, strict=True))
    return {name: typed.read(key, amount, 0.0) for key, name in names.items()}


def score_field(criterion: str) -> str:
    """Name of a criterion's field."""
    return "s_" + criterion.replace(" ", "_")


def note_field(criterion: str) -> str:
    """Name of the field of a note to a criterion."""
    return "n_" + criterion.replace(" ", "_")


def _notes(typed: Typed) -> dict[str, str]:
    names = (criterion for names in CRITERIA.values() for criterion in names)
    found = {name: typed.values.get(note_field(name), "").strip()[:MOST_NOTE] for name in names}
    return {name: note for name, note in found.items() if note}


def _scores(typed: Typed) -> dict[str, int]:
    found = {}
    for name in (criterion for names in CRITERIA.values() for criterion in names):
        score = typed.read(score_field(name), number_between(0, 5), -1.0)
        if score >= 0:
            found[name] = int(score)
    return found
