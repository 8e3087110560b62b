"""The lines of a box: which cards a row of the odds stands for, and what law its count follows.

A box is P packs × C cards. How often each line comes is read off the law of the box; how its count is spread over
boxes follows from the way it is stated (odds, a slot a pack, exactly, at least, on average, for a case). What is left
is *the rest*, plain base cards.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section
from botin.core.counts import CountLaw
from botin.core.errors import BadOddsError
from botin.core.odds.boxlaw import BoxLaw, Interval
from botin.core.odds.countlaws import case_law_of, count_law, joint_law, own_case_law
from botin.core.odds.rates import parse_printed
from botin.core.odds.rowrates import LineKey, has_rate, line_words, rate_words
from botin.core.odds.statements import covered_lines

PULLABLE_REST = (Kind.BASE,)
LEARNED = "learned"
UNPRINTED = "odds not printed"


@dataclass(frozen=True)
class Line:
    """Cards that come at one rate.

    Attributes
    ----------
    law : CountLaw or None
        Count in one box; None when nothing bounds it or a promise over several lines rules the count.
    expected : float or None
        Expected count in one box, also when a promise rules it; None when nothing bounds it.
    printed : str
        The rate in words, as printed.
    case_law : CountLaw or None
        Count in a whole case, where the case is what is promised; None when its boxes are independent.
    place : int
        Its place in the law of the box.
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
    place: int = -1

    @cached_property
    def numbers(self) -> frozenset[str]:
        """Numbers of the line's cards."""
        return frozenset(card.number for card in self.cards)

    @cached_property
    def place_of(self) -> dict[str, int]:
        """Place of each number among the line's cards."""
        return {card.number: place for place, card in enumerate(self.cards)}

    @property
    def key(self) -> LineKey:
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
    weights: dict[LineKey, float]
    case_law: CountLaw | None = None


@dataclass(frozen=True)
class BoxModel:
    """All lines of one format, the promises over them, and what had to be assumed.

    Attributes
    ----------
    box_law : BoxLaw or None
        Where the rates come from, and how far each could be from them.
    sizes : tuple of (chance, BoxModel)
        Where boxes differ in their packs: the box of each size. Empty when all are alike.
    """

    format: Format
    lines: tuple[Line, ...]
    joint: tuple[JointPromise, ...] = ()
    assumptions: tuple[str, ...] = field(default=())
    box_law: BoxLaw | None = field(default=None, compare=False)
    sizes: tuple[tuple[float, BoxModel], ...] = ()

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

    def bounds(self, line: Line) -> Interval:
        """Return the expected count of a line in a box: least, point, most."""
        if self.box_law is None or line.place < 0:
            return Interval(line.expected, line.expected, line.expected)
        found = self.box_law.rate(self.format, line.place).times(self.format.mean_packs)
        return Interval(line.expected, found.low, found.high)


Logged = Mapping[LineKey, Sequence[int]]
"""Counts of complete boxes by line."""


def box_model(
    product: Product, fmt: Format, seeding: str = LEARNED, logged: Logged | None = None, law: BoxLaw | None = None
) -> BoxModel:
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
    law : BoxLaw, optional
        The law of the product's boxes, where it is at hand.
    """
    law = law or BoxLaw(product)
    rates = {place: law.point_rate(fmt, place) for place in law.system.places(fmt.key)}
    return model_at(law, fmt, rates, seeding, logged or {})


def model_at(
    law: BoxLaw, fmt: Format, rates: Mapping[int, float | None], seeding: str = LEARNED, logged: Logged | None = None
) -> BoxModel:
    """Build the lines of a format at given rates (cards a pack by line): the point, or an end of what is possible."""
    sizes = range(fmt.fewest_packs, fmt.most_packs + 1) if fmt.most_packs > fmt.fewest_packs else ()
    parts = [
        (
            1 / len(sizes),
            _of_size(law, replace(fmt, packs_per_box=packs, packs_range=None), rates, seeding, logged or {}),
        )
        for packs in sizes
    ]
    whole = _of_size(law, fmt, rates, seeding, logged or {})
    if not parts:
        return whole
    note = f"a box holds {fmt.packs_words} packs: each number is taken as likely as the others"
    return replace(_averaged(whole, parts), sizes=tuple(parts), assumptions=(*whole.assumptions, note))


def _averaged(whole: BoxModel, parts: Sequence[tuple[float, BoxModel]]) -> BoxModel:
    """Return the model with the expected counts of boxes of all sizes, each as often as it comes."""
    lines = [
        line
        if line.expected is None
        else replace(line, expected=math.fsum(share * (one.lines[at].expected or 0.0) for share, one in parts))
        for at, line in enumerate(whole.lines)
    ]
    return replace(whole, lines=tuple(lines))


def _of_size(law: BoxLaw, fmt: Format, rates: Mapping[int, float | None], seeding: str, logged: Logged) -> BoxModel:
    """Build the lines of boxes that all hold so many packs."""
    product, rows = law.product, _rows_of(law.product, fmt)
    mean = law.product.format_by_key[fmt.key].mean_packs
    lines = [
        _line(law, fmt, place, rows, (rates.get(place), mean), seeding, logged)
        for place in law.system.places(fmt.key)
    ]
    lines, joint = _tied(law, fmt, lines, seeding, logged)
    lines, notes = _filled(fmt, lines)
    notes += _unprinted_notes(law, fmt, lines)
    notes += _school_notes(product, fmt, lines, joint, seeding, logged)
    return BoxModel(fmt, tuple(lines), tuple(joint), tuple(notes), law)


def _rows_of(product: Product, fmt: Format) -> dict[LineKey, OddsRow]:
    """Rows of a format's odds by the line they name; of a line stated twice the first counts."""
    found: dict[LineKey, OddsRow] = {}
    for row in odds_rows(product, fmt):
        found.setdefault((row.section, row.parallel, row.group), row)
    return found


def odds_rows(product: Product, fmt: Format) -> list[OddsRow]:
    """Return the rows of a format's odds, each line once: of a line stated twice the first counts."""
    found: dict[LineKey, OddsRow] = {}
    for row in product.odds:
        if row.format == fmt.key and row.section in product.section_by_key:
            found.setdefault((row.section, row.parallel, row.group), row)
    return list(found.values())


def _line(
    law: BoxLaw,
    fmt: Format,
    place: int,
    rows: Mapping[LineKey, OddsRow],
    rate: tuple[float | None, float],
    seeding: str,
    logged: Logged,
) -> Line:
    """Return one line with its law: its own row says how its count is spread, the law of the box how much comes."""
    box_line = law.system.lines[place]
    key, product = box_line.key, law.product
    own = rows.get(key) or (rows.get((key[0], key[1], "")) if key[2] else None)
    alone = own is not None and place in law.own_rows(fmt)
    each, mean_packs = rate
    row = own if own is not None and alone and has_rate(own) else None
    is_rest = box_line.is_base and not (own is not None and has_rate(own))
    counted = row is not None and not row.packs_per_hit and not row.per_pack
    expected = None if each is None else each * (mean_packs if counted else fmt.packs_per_box)
    count = None if is_rest or expected is None else count_law(row, fmt, expected, seeding, logged.get(key, ()))
    stated: Parallel | None = product.parallel_of(box_line.cards[0], key[1])
    return Line(
        section=box_line.section,
        parallel=key[1],
        group=key[2],
        cards=box_line.cards,
        law=count,
        expected=count.mean if count is not None else expected,
        printed="the rest" if is_rest else rate_line(own),
        run=product.run_of(stated) if stated else None,
        is_rest=is_rest,
        promise=row.promise if row is not None else "",
        case_law=own_case_law(row, fmt, seeding) if row is not None else None,
        place=place,
    )


def rate_line(row: OddsRow | None) -> str:
    """Return the rate of a row in words; a promised count with its odds behind it."""
    if row is None or not has_rate(row):
        return UNPRINTED
    if row.packs_per_hit and (row.per_box or row.per_case):
        return f"{rate_words(replace(row, packs_per_hit=''))}, {rate_words(row)}"
    return rate_words(row)


def _tied(
    law: BoxLaw, fmt: Format, lines: list[Line], seeding: str, logged: Logged
) -> tuple[list[Line], list[JointPromise]]:
    """Tie the counts of lines that a promise covers together; plain base is left to fill the box."""
    by_place = {line.place: line for line in lines}
    taken: set[int] = set()
    joint = []
    for row, places in _promises(law, fmt):
        covered = [by_place[place] for place in places if place not in taken]
        if not covered or any(line.is_rest for line in covered):
            continue
        one = _joint(fmt, row, covered, seeding, logged)
        if one is not None:
            joint.append(one)
            taken |= {line.place for line in covered}
    return [replace(line, law=None, case_law=None) if line.place in taken else line for line in lines], joint


def _promises(law: BoxLaw, fmt: Format) -> Iterator[tuple[PromiseRow, Iterable[int]]]:
    """Promises over lines, and the counts of rows that stand for several of them."""
    for row in law.product.promises:
        if row.format in ("", fmt.key):
            yield row, covered_lines(law.system.said, row, fmt.key)
    for odds in odds_rows(law.product, fmt):
        places = [
            place
            for place in law.system.places(fmt.key)
            if law.system.lines[place].key[:2] == (odds.section, odds.parallel)
        ]
        counted = odds.per_box or odds.per_case
        if counted and not odds.group and len(places) > 1:
            per = "box" if odds.per_box else "case"
            label = line_words(law.product, (odds.section, odds.parallel, ""))
            yield PromiseRow(fmt.key, label, counted, per, odds.promise, odds.section, line=odds.line), places


def _joint(
    fmt: Format, row: PromiseRow, covered: Sequence[Line], seeding: str, logged: Logged
) -> JointPromise | None:
    """Joint law of one promise; its lines share it as they are expected to come."""
    total = math.fsum(line.expected or 0.0 for line in covered)
    try:
        count = parse_printed(row.count).value
        law = joint_law(row, fmt, count, total, seeding, logged.get(("promise", row.label, ""), ()))
        of_case = case_law_of(row.count, row.promise, fmt.boxes_per_case, seeding) if row.per == "case" else None
    except BadOddsError:
        return None
    if law is None:
        return None
    weights = {line.key: (line.expected or 0.0) / total if total else 1 / len(covered) for line in covered}
    return JointPromise(row, law, weights, of_case)


def _filled(fmt: Format, lines: list[Line]) -> tuple[list[Line], list[str]]:
    """Plain base cards without odds of their own fill what the other lines leave of P × C."""
    size = sum(len(line.cards) for line in lines if line.is_rest)
    hits = math.fsum(line.expected or 0.0 for line in lines if line.in_packs and not line.is_rest)
    room = max(0.0, fmt.cards_per_box - hits)
    notes = [f"base fills what is left of {fmt.cards_per_box} cards: {room:.1f} on average"] if size else []
    shares = [replace(line, expected=room * len(line.cards) / size) if line.is_rest else line for line in lines]
    return [*(line for line in shares if not line.is_rest), *(line for line in shares if line.is_rest)], notes


def _unprinted_notes(law: BoxLaw, fmt: Format, lines: Sequence[Line]) -> list[str]:
    """Say of each line without a printed rate what it was taken to be and why; and what nothing bounds."""
    own = law.own_rows(fmt)
    notes = [
        f"{law.words(line.place)}: odds not printed, taken as {line.expected:.3g} a box ({law.told(fmt, line.place)})"
        for line in lines
        if line.place not in own and not line.is_rest and line.expected is not None
    ]
    unknown = [law.words(line.place) for line in lines if line.expected is None]
    if unknown:
        notes.append(f"nothing bounds how often these come, so they count 0: {', '.join(unknown)}")
    notes += [f"{statement.words}: given up, other statements rule it out" for statement in law.system.given_up]
    return notes


def _school_notes(
    product: Product, fmt: Format, lines: Sequence[Line], joint: Sequence[JointPromise], seeding: str, logged: Logged
) -> list[str]:
    if any(line.law is not None and line.law.schools for line in lines) or any(one.law.schools for one in joint):
        return [_of_schools(max((len(counts) for counts in logged.values()), default=0))]
    if any(row.promise in ("", "average") and (row.per_box or row.per_case) for row in odds_rows(product, fmt)):
        return [f"counts that are only averages {'spread evenly' if seeding == 'even' else 'fall at random'}"]
    return []


def _of_schools(boxes: int) -> str:
    if not boxes:
        return "counts that are only averages are even or random, half and half until boxes are logged"
    return f"counts that are only averages are even or random, as {boxes} logged boxes weigh them"
