"""Which logged card fills which promise, what is still owed, and whether that is a claim.

Promises of one format with one label are one sentence (“two autographs and two relics”): a card fills one of them,
unless the label ends in “(may be one card)”. Which one is a matching: as many are filled as can be, first ones first.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from botin.core.catalog.product import Format, Product, PromiseRow
from botin.core.counts import CountLaw
from botin.core.errors import BadOddsError
from botin.core.odds.countlaws import AT_LEAST, PROMISED, joint_law
from botin.core.odds.lines import LEARNED, BoxModel
from botin.core.odds.rates import parse_printed

Version = tuple[str, str, str]
"""Section, number and parallel of a card in hand; the finish may be one that nobody listed."""
SHARED = "(may be one card)"


@dataclass(frozen=True, slots=True)
class Filled:
    """A promise and the cards that fill it.

    Attributes
    ----------
    sure : int
        How many are certain: the whole number of a guarantee, 0 of an average.
    counted : tuple of Version
        The cards it was given.
    """

    row: PromiseRow
    sure: int
    counted: tuple[Version, ...]

    @property
    def owed(self) -> int:
        """How many are certain and not there yet."""
        return max(0, self.sure - len(self.counted))


def promises_of(product: Product, fmt: Format) -> tuple[PromiseRow, ...]:
    """Return the promises of a format."""
    return tuple(row for row in product.promises if row.format in ("", fmt.key) and _count(row) is not None)


def sentences(rows: Sequence[PromiseRow]) -> Iterator[list[PromiseRow]]:
    """Group promises that do not share a card."""
    groups: dict[tuple[str, str, int], list[PromiseRow]] = {}
    for at, row in enumerate(rows):
        alone = not row.label or row.label.rstrip().endswith(SHARED)
        groups.setdefault((row.format, row.label, at if alone else -1), []).append(row)
    yield from groups.values()


def filled(
    product: Product, fmt: Format, cards: Sequence[Version], *, per: Sequence[str] = ("box", "pack")
) -> tuple[Filled, ...]:
    """Give the cards of a box (or of a whole case) to its promises.

    Parameters
    ----------
    cards : sequence of Version
        What was logged.
    per : sequence of str
        Which promises are meant: those a box and a pack, or those a case.
    """
    found: dict[int, Filled] = {}
    rows = [row for row in promises_of(product, fmt) if row.per in per]
    for sentence in sentences(rows):
        for row, counted in zip(sentence, _given(product, fmt, sentence, cards), strict=True):
            found[id(row)] = Filled(row, sure_count(row, fmt), counted)
    return tuple(found[id(row)] for row in rows)


def sure_count(row: PromiseRow, fmt: Format) -> int:
    """Cards that are certain in a box, or in a case where the case is what is promised."""
    if row.promise not in PROMISED:
        return 0
    times = fmt.fewest_packs if row.per == "pack" else 1
    return int((_count(row) or 0.0) * times + 1e-9)


def _count(row: PromiseRow) -> float | None:
    try:
        return parse_printed(row.count).value
    except BadOddsError:
        return None


def _given(
    product: Product, fmt: Format, rows: Sequence[PromiseRow], cards: Sequence[Version]
) -> list[tuple[Version, ...]]:
    """Match cards to the places of a sentence, its first promises first; what is over goes where it is covered."""
    fits = [[covers(product, row, card) for row in rows] for card in cards]
    useful = [at for at, own in enumerate(fits) if any(own)]
    places = [row for row, one in enumerate(rows) for _ in range(sure_count(one, fmt))]
    holder: dict[int, int] = {}
    for place in range(len(places)):
        _seat(place, useful, lambda at, seat: fits[at][places[seat]], holder, set())
    given = {card: places[place] for card, place in holder.items()}
    for at in useful:
        given.setdefault(at, fits[at].index(True))
    return [tuple(cards[at] for at in useful if given[at] == row) for row in range(len(rows))]


def covers(product: Product, row: PromiseRow, card: Version) -> bool:
    """Whether a promise covers a card, whatever its finish, listed or not."""
    return product.covers(row, card[0], card[2])


def _seat(
    place: int, cards: Sequence[int], fits: Callable[[int, int], bool], holder: dict[int, int], tried: set[int]
) -> bool:
    """Find a card for a place, moving others on where that makes room (Kuhn, Naval Research Logistics Q. 2, 1955)."""
    for at in cards:
        if at in tried or not fits(at, place):
            continue
        tried.add(at)
        if at not in holder or _seat(holder[at], cards, fits, holder, tried):
            holder[at] = place
            return True
    return False


def short(
    product: Product, fmt: Format, cards: Sequence[Version], *, room: int, per: Sequence[str] = ("box", "pack")
) -> dict[str, int]:
    """Return by label what each sentence is short of, where nothing that is left can fill it.

    Parameters
    ----------
    room : int
        Cards that are not known yet: those of unopened packs, and cards on no checklist.
    """
    done = {id(one.row): one for one in filled(product, fmt, cards, per=per)}
    found: dict[str, int] = {}
    for sentence in sentences([one.row for one in done.values()]):
        lacking = sum(done[id(row)].owed for row in sentence)
        if lacking > room:
            label = sentence[0].label or f"{sentence[0].count} per {sentence[0].per}"
            found[label] = found.get(label, 0) + lacking
    return found


def promise_law(model: BoxModel, row: PromiseRow) -> CountLaw:
    """Law of a promise's count in one box."""
    joint = next((one for one in model.joint if one.row is row or one.row == row), None)
    if joint is not None:
        return joint.law
    product = model.box_law.product if model.box_law else None
    covered = [
        line.expected or 0.0
        for line in model.lines
        if product and product.covers(row, line.section.key, line.parallel)
    ]
    law = joint_law(row, model.format, _count(row) or 0.0, sum(covered), LEARNED)
    return law or CountLaw()


def is_open_ended(row: PromiseRow, law: CountLaw) -> bool:
    """Whether so many are guaranteed and nobody says how often more come."""
    return row.promise in AT_LEAST and not law.poisson
