"""The lines of a box: which cards a row of the odds stands for, and what law its count follows.

A box is P packs × C cards. Its lines are the rows of ``odds.csv`` for the format; promises that span lines tie
their counts together; what is left is *the rest*, plain base cards.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section
from botin.core.counts import CountLaw, average_law, per_pack_law, promised_law
from botin.core.errors import BadOddsError
from botin.core.odds.promises import tie
from botin.core.odds.rates import parse_printed

PULLABLE_REST = (Kind.BASE,)
AT_LEAST = ("at_least", "guaranteed")
PROMISED = ("exact", *AT_LEAST)
LEARNED = "learned"


@dataclass(frozen=True)
class Line:
    """A row of the odds with its cards.

    Attributes
    ----------
    law : CountLaw or None
        Count in one box; None when the odds are unprinted or a promise over several lines rules the count.
    expected : float or None
        Expected count in one box, also when a promise rules it; None when unknown.
    printed : str
        The rate in words, as printed.
    case_law : CountLaw or None
        Count in a whole case, where the case is what is promised; None when its boxes are independent.
    """

    section: Section
    parallel: str
    group: str
    cards: tuple[Card, ...]
    law: CountLaw | None
    expected: float | None
    printed: str
    run: int | None = None
    is_rest: bool = False
    promise: str = ""
    case_law: CountLaw | None = None

    @cached_property
    def numbers(self) -> frozenset[str]:
        """Numbers of the line's cards."""
        return frozenset(card.number for card in self.cards)

    @cached_property
    def place_of(self) -> dict[str, int]:
        """Place of each number among the line's cards."""
        return {card.number: place for place, card in enumerate(self.cards)}

    @property
    def key(self) -> tuple[str, str, str]:
        """Section, parallel and group: what tells one line from another."""
        return (self.section.key, self.parallel, self.group)

    @property
    def in_packs(self) -> bool:
        """Box toppers lie outside the packs."""
        return self.section.kind is not Kind.BOX_TOPPER


@dataclass(frozen=True)
class JointPromise:
    """A promise that spans lines: one joint count, split by the weights."""

    row: PromiseRow
    law: CountLaw
    weights: dict[tuple[str, str, str], float]
    case_law: CountLaw | None = None


@dataclass(frozen=True)
class BoxModel:
    """All lines of one format, the promises over them, and what had to be assumed."""

    format: Format
    lines: tuple[Line, ...]
    joint: tuple[JointPromise, ...] = ()
    assumptions: tuple[str, ...] = field(default=())

    @cached_property
    def _by_version(self) -> dict[tuple[str, str], list[Line]]:
        found: dict[tuple[str, str], list[Line]] = defaultdict(list)
        for line in self.lines:
            found[(line.section.key, line.parallel)].append(line)
        return found

    def line_of(self, card: Card, parallel: str) -> Line | None:
        """Return the line a copy belongs to; None when this format does not have it."""
        lines = self._by_version.get((card.section, parallel), [])
        return next((line for line in lines if card.number in line.numbers), None)

    @property
    def rest(self) -> tuple[Line, ...]:
        """The plain base lines that fill what is left."""
        return tuple(line for line in self.lines if line.is_rest)


def cards_of_line(product: Product, section: str, parallel: str, group: str) -> tuple[Card, ...]:
    """Return the cards a row of the odds stands for, by its group and by the groups that have the parallel."""
    cards = product.cards_by_group.get((section, group), ()) if group else product.cards_by_section.get(section, ())
    groups = product.groups_of_finish.get((section, parallel), frozenset()) if parallel else frozenset()
    if groups and "" not in groups:
        cards = tuple(card for card in cards if card.group in groups)
    return cards


def rate_law(row: OddsRow, fmt: Format, seeding: str = LEARNED, counts: Sequence[int] = ()) -> CountLaw | None:
    """Count of one printed row in one box; None when the rates are empty or the case size is unknown.

    Parameters
    ----------
    row : OddsRow
        One rate filled, or printed odds beside a count that is promised.
    fmt : Format
        Packs per box, boxes per case.
    seeding : {"even", "random", "learned"}
        The school for counts that are only averages.
    counts : sequence of int
        What complete boxes held, for the learned school.
    """
    odds = 1.0 / parse_printed(row.packs_per_hit).value if row.packs_per_hit else None
    if row.per_box and (odds is None or row.promise in PROMISED):
        expect = None if odds is None else odds * fmt.packs_per_box
        return promised_law(parse_printed(row.per_box).value, row.promise, expect, seeding, counts)
    if row.per_case and fmt.boxes_per_case and (odds is None or row.promise in PROMISED):
        count, boxes = parse_printed(row.per_case).value, fmt.boxes_per_case
        over = max(0.0, (odds or 0.0) * fmt.packs_per_box - count / boxes) if row.promise in AT_LEAST else 0.0
        share = case_share_law(count, row.promise, boxes, seeding)
        return replace(share, poisson=share.poisson + over)
    if odds is not None:
        return per_pack_law(odds, fmt.packs_per_box)
    return per_pack_law(parse_printed(row.per_pack).value, fmt.packs_per_box) if row.per_pack else None


def _case_odds(row: OddsRow, fmt: Format) -> float | None:
    """Return what the printed odds of a row expect in a whole case; None without printed odds."""
    if not row.packs_per_hit or not fmt.boxes_per_case:
        return None
    return fmt.packs_per_box * fmt.boxes_per_case / parse_printed(row.packs_per_hit).value


def case_law_of(
    text: str, promise: str, boxes: int | None, seeding: str, odds_expect: float | None = None
) -> CountLaw | None:
    """Count in a whole case, where one is stated and the boxes of the case are tied to each other by it."""
    if not text or not boxes or (seeding == "random" and promise not in PROMISED):
        return None
    return promised_law(parse_printed(text).value, promise, odds_expect, seeding)


def case_share_law(count: float, promise: str, boxes: int, seeding: str) -> CountLaw:
    """Count in one box of a case that holds ``count``: spread over the boxes, no box twice while it can be helped."""
    even = average_law(count / boxes, "even")
    if promise in PROMISED or seeding == "even":
        return even
    random = CountLaw(poisson=count / boxes)
    return random if seeding == "random" else CountLaw(schools=((0.5, even), (0.5, random)))


def describe_rate(row: OddsRow) -> str:
    """Return the rate in words, as printed."""
    printed = f"1:{row.packs_per_hit.removeprefix('1:')}" if row.packs_per_hit else ""
    if printed and not (row.per_box or row.per_case):
        return printed
    for text, unit in ((row.per_pack, "a pack"), (row.per_box, "a box"), (row.per_case, "a case")):
        if text:
            how = {"at_least": "at least ", "guaranteed": "at least ", "exact": "exactly "}.get(row.promise, "")
            return f"{how}{text} {unit}{', ' if printed else ''}{printed}"
    return "odds not printed"


Logged = Mapping[tuple[str, str, str], Sequence[int]]
"""Counts of complete boxes by line."""


def box_model(product: Product, fmt: Format, seeding: str = LEARNED, logged: Logged | None = None) -> BoxModel:
    """Build the lines of one format.

    Parameters
    ----------
    product : Product
        As read from its package.
    fmt : Format
        One of its formats.
    seeding : {"even", "random", "learned"}
        The school for counts that are only averages.
    logged : mapping, optional
        Counts of complete boxes by line, for the learned school; those of a promise under ``("promise", label, "")``.
    """
    logged = logged or {}
    rows = odds_rows(product, fmt)
    lines = [_line(product, fmt, row, seeding, logged) for row in rows if not _is_rest_row(product, row)]
    lines = _without_twice(lines)
    lines, joint, shared = tie(product, fmt, lines, seeding, logged)
    rest, notes = _rest_lines(product, fmt, lines)
    unknown = [_words(line) for line in lines if line.expected is None]
    if unknown:
        notes.append(f"without printed odds and counted as 0: {', '.join(unknown)}")
    notes += shared
    if fmt.most_packs > fmt.packs_per_box:
        notes.append(f"a box holds {fmt.packs_words} packs; reckoned with {fmt.packs_per_box}")
    if any(line.law is not None and line.law.schools for line in lines) or any(one.law.schools for one in joint):
        notes.append(_of_schools(max((len(counts) for counts in logged.values()), default=0)))
    elif any(row.promise in ("", "average") and (row.per_box or row.per_case) for row in rows):
        school = "spread evenly" if seeding == "even" else "fall at random"
        notes.append(f"counts that are only averages {school}")
    return BoxModel(fmt, (*lines, *rest), tuple(joint), tuple(notes))


def _of_schools(boxes: int) -> str:
    if not boxes:
        return "counts that are only averages are even or random, half and half until boxes are logged"
    return f"counts that are only averages are even or random, as {boxes} logged boxes weigh them"


def odds_rows(product: Product, fmt: Format) -> list[OddsRow]:
    """Return the rows of a format's odds, each line once: of a line stated twice the first counts."""
    found: dict[tuple[str, str, str], OddsRow] = {}
    for row in product.odds:
        if row.format == fmt.key and row.section in product.section_by_key:
            found.setdefault((row.section, row.parallel, row.group), row)
    return list(found.values())


def _words(line: Line) -> str:
    return f"{line.section.label} {line.parallel} {line.group}".strip()


def _without_twice(lines: list[Line]) -> list[Line]:
    """Take what groups print of their own out of a row for the whole section: no card is counted twice."""
    found = []
    for line in lines:
        own = [
            x for x in lines if x is not line and x.group and (x.section, x.parallel) == (line.section, line.parallel)
        ]
        found.append(_less(line, own) if own and not line.group else line)
    return found


def _less(line: Line, own: list[Line]) -> Line:
    """Leave a whole section's row what its groups do not print; a promised count keeps its law, thinned."""
    taken = {number for group in own for number in group.numbers}
    cards = tuple(card for card in line.cards if card.number not in taken)
    parts = [group.expected for group in own]
    if line.law is None or line.expected is None or any(part is None for part in parts):
        return replace(line, cards=cards)
    left = max(0.0, line.expected - math.fsum(part or 0.0 for part in parts))
    share = left / line.expected if line.expected else 0.0
    if not cards or share <= 0:
        return replace(line, cards=cards, law=CountLaw(), expected=0.0)
    return replace(line, cards=cards, law=line.law.thinned(share), expected=left)


def _is_rest_row(product: Product, row: OddsRow) -> bool:
    """A plain base row without a rate is the rest, as if it were not there."""
    blank = not (row.packs_per_hit or row.per_box or row.per_case or row.per_pack)
    return blank and not row.parallel and product.section_by_key[row.section].kind in PULLABLE_REST


def _line(product: Product, fmt: Format, row: OddsRow, seeding: str, logged: Logged) -> Line:
    try:
        law = rate_law(row, fmt, seeding, logged.get((row.section, row.parallel, row.group), ()))
        per_case = case_law_of(row.per_case, row.promise, fmt.boxes_per_case, seeding, _case_odds(row, fmt))
    except BadOddsError:
        law = per_case = None
    cards = cards_of_line(product, row.section, row.parallel, row.group)
    stated: Parallel | None = product.parallel_of(cards[0], row.parallel) if cards else None
    return Line(
        section=product.section_by_key[row.section],
        parallel=row.parallel,
        group=row.group,
        cards=cards,
        law=law,
        expected=None if law is None else law.mean,
        printed=describe_rate(row),
        run=product.run_of(stated) if stated else None,
        promise=row.promise,
        case_law=per_case,
    )


def _rest_lines(product: Product, fmt: Format, lines: list[Line]) -> tuple[list[Line], list[str]]:
    """Plain base cards without odds of their own fill what the other lines leave of P × C."""
    own = {(line.section.key, card.number) for line in lines if not line.parallel for card in line.cards}
    left = {
        section: tuple(
            card for card in product.cards_by_section.get(section.key, ()) if (section.key, card.number) not in own
        )
        for section in product.sections
        if section.kind in PULLABLE_REST
    }
    left = {section: cards for section, cards in left.items() if cards}
    total = sum(len(cards) for cards in left.values())
    hits = math.fsum(line.expected or 0.0 for line in lines if line.in_packs)
    room = fmt.cards_per_box - hits
    notes = [f"base fills what is left of {fmt.cards_per_box} cards: {room:.1f} on average"] if left else []
    if room < 0:
        notes.append("the odds promise more cards than the packs can hold")
    shares = [max(0.0, room) * len(cards) / total for cards in left.values()]
    return [
        Line(section, "", "", cards, law=None, expected=share, printed="the rest", is_rest=True)
        for (section, cards), share in zip(left.items(), shares, strict=True)
    ], notes
