"""The set board: every number of some sections with what is there, spare, missing, sold; needs and spares lists."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Kind, Section
from botin.core.errors import NotFoundError
from botin.core.pricing.compline import WHOLE
from botin.core.pricing.comps import CompEstimate, comp_estimate
from botin.core.pricing.prices import Basis, PriceBook
from botin.desk.settings import Settings
from botin.desk.workbench import Workbench
from botin.store.catalog.lists import cards_of_section, keys_of_products, section_id
from botin.store.copies.copies import first_days, plain_counts
from botin.store.flags.board import flags_of_section
from botin.store.grading.orders import out_counts
from botin.store.models import ProductRecord

MOST_CELLS = 4_000


@dataclass(frozen=True, slots=True)
class Cell:
    """One number of the set.

    Attributes
    ----------
    have : int
        Plain copies that are there.
    sold : int
        Copies that left.
    other : int
        Copies in another finish.
    grading : int
        Plain copies that are out for grading; they count as there.
    """

    card_id: int
    section: str
    number: str
    name: str
    short: bool
    have: int
    sold: int
    other: int
    price: float | None
    route: str = ""
    grading: int = 0

    @property
    def state(self) -> str:
        """have, spare, missing or sold."""
        if self.have > 1:
            return "spare"
        return "have" if self.have else "sold" if self.sold else "missing"


@dataclass(frozen=True)
class Part:
    """A section of a product on the board; ``whole`` is what a complete set of it sells for."""

    record: ProductRecord
    section: Section
    cells: tuple[Cell, ...]
    whole: CompEstimate | None = None


@dataclass(frozen=True)
class Board:
    """The whole set with its sums; money in major units of ``currency``."""

    name: str
    parts: tuple[Part, ...]
    currency: str

    @property
    def cells(self) -> tuple[Cell, ...]:
        """All cells."""
        return tuple(cell for part in self.parts for cell in part.cells)

    @property
    def have(self) -> int:
        """Numbers that are there."""
        return sum(1 for cell in self.cells if cell.have)

    @property
    def spares(self) -> int:
        """Copies beyond the first."""
        return sum(cell.have - 1 for cell in self.cells if cell.have > 1)

    @property
    def missing(self) -> tuple[Cell, ...]:
        """Numbers that are not there."""
        return tuple(cell for cell in self.cells if not cell.have)

    @property
    def whole_value(self) -> float | None:
        """What complete sets of all its sections sell for; None while one has no price."""
        known = [part.whole.amount for part in self.parts if part.whole is not None]
        return sum(known) if known and len(known) == len(self.parts) else None

    @property
    def singles_value(self) -> float:
        """Sum of the raw prices of all numbers, one copy each."""
        return sum(cell.price or 0.0 for cell in self.cells)

    @property
    def parts_value(self) -> float:
        """Sum of the raw prices of the numbers that are there, one copy each."""
        return sum(cell.price or 0.0 for cell in self.cells if cell.have)

    @property
    def missing_value(self) -> float:
        """Sum of the raw prices of what is missing."""
        return sum(cell.price or 0.0 for cell in self.missing)


def part_of(session: Session, bench: Workbench, product_id: int, section_key: str) -> Part:
    """Read one section of a product as a part of a set.

    Raises
    ------
    NotFoundError
        When the product has no such section.
    """
    record = bench.record(session, product_id)
    product = bench.product(session, record)
    section = product.section_by_key.get(section_key)
    found = section_id(session, product_id, section_key)
    if section is None or found is None:
        message = f"{record.name} has no section “{section_key}”. Pick one of its sections."
        raise NotFoundError(message)
    counts, book = plain_counts(session, [found]), bench.prices(session, record)
    out = out_counts(session, still_out=True)
    routes, card_of = flags_of_section(session, found), cards_of_section(session, found)
    cells = []
    for card in product.cards_by_section.get(section_key, ()):
        have, sold, other = counts.get(card_of[card.number], (0, 0, 0))
        short = section.kind is Kind.SHORT_PRINT or card.group.casefold() in ("sp", "short", "short prints")
        price = _price(book, card)
        key = card_of[card.number]
        route = routes.get(key, "") if have else ""
        cells.append(
            Cell(
                card_id=key,
                section=section_key,
                number=card.number,
                name=card.name,
                short=short,
                have=have,
                sold=sold,
                other=other,
                price=price,
                route=route,
                grading=out.get((key, ""), 0),
            )
        )
    whole = comp_estimate(
        [row for row in bench.price_rows(session, record) if row.section == f"{WHOLE}{section_key}"], bench.today()
    )
    return Part(record, section, tuple(cells[:MOST_CELLS]), whole)


def _price(book: PriceBook, card: Card) -> float | None:
    estimate = book.estimate(card)
    return None if estimate.basis is Basis.NONE else estimate.amount


def board(session: Session, bench: Workbench, parts: Sequence[tuple[int, str]], name: str = "") -> Board:
    """Put some sections, also of several products, on one board."""
    found = tuple(part_of(session, bench, product_id, section) for product_id, section in parts)
    title = name or " + ".join(f"{part.record.name} {part.section.label}" for part in found)
    return Board(title, found, found[0].record.currency if found else "EUR")


def named_sets(session: Session, settings: Settings) -> list[tuple[str, list[tuple[int, str]]]]:
    """Read the user's sets: ``Name = product-key:section + product-key:section``, one a line."""
    keys = {key: number for number, key in keys_of_products(session).items()}
    found = []
    for line in settings.sets.splitlines():
        name, equals, rest = line.partition("=")
        pairs = [part.strip().partition(":") for part in rest.split("+")]
        parts = [(keys[key.strip()], section.strip()) for key, _, section in pairs if key.strip() in keys]
        if equals and parts and len(parts) == len(pairs):
            found.append((name.strip(), parts))
    return found


def history(session: Session, parts: Sequence[tuple[int, str]]) -> list[tuple[date, int]]:
    """How many different numbers were there over time: the day each number first came."""
    first: dict[int, date] = {}
    for product_id, section in parts:
        first.update(first_days(session, product_id, section))
    days = Counter(first.values())
    total, found = 0, []
    for got, count in sorted(days.items()):
        total += count
        found.append((got, total))
    return found
