"""What in printed odds and promises cannot be right: totals that do not add up, too many cards, broken promises."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from botin.core.catalog.product import Format, Kind, OddsRow, OverallRow, Product, PromiseRow, split_names
from botin.core.errors import BadOddsError
from botin.core.odds.auditrows import RATED, line_words
from botin.core.odds.findings import Finding, Severity, finding
from botin.core.odds.lines import AT_LEAST
from botin.core.odds.packrates import pack_rate
from botin.core.odds.rates import Span, odds_span, parse_printed

FAR = 0.10
"""How far printed odds may be from a promise before it is said; a choice, no source."""


@dataclass(frozen=True, slots=True)
class _Rated:
    row: OddsRow
    kind: Kind
    span: Span | None


def odds_findings(product: Product) -> Iterator[Finding]:
    """Return every finding about odds and promises."""
    for fmt in product.formats:
        rated = [
            _Rated(row, product.section_by_key[row.section].kind, pack_rate(row, fmt))
            for row in product.odds
            if row.format == fmt.key and row.section in product.section_by_key
        ]
        for total in product.overall:
            if total.format == fmt.key and total.packs_per_hit:
                yield from _total(product, fmt, total, rated)
        yield from _room(product, fmt, rated)
        yield from _overlaps(product, fmt, rated)
        yield from _whole_promises(product, rated)
        yield from _promises(product, fmt, rated)
        yield from _promised_rows(fmt, rated)
        yield from _unprinted(product, rated)


def _is_blank(row: OddsRow) -> bool:
    return not any(getattr(row, name) for name in RATED)


def _sum(spans: list[Span]) -> Span:
    return Span(*(math.fsum(getattr(span, part) for span in spans) for part in ("low", "mid", "high")))


def packs_words(rate: float) -> str:
    """Return a rate per pack as odds: 1:78, 1:7.4."""
    if rate <= 0:
        return "never"
    packs = 1 / rate
    return f"1:{packs:,.1f}" if packs < 20 else f"1:{packs:,.0f}"


def _total(product: Product, fmt: Format, total: OverallRow, rated: list[_Rated]) -> Iterator[Finding]:
    """Hold the groups against a printed overall line."""
    kinds = split_names(total.kinds)
    found = [item for item in rated if item.kind.value in kinds]
    known = [item.span for item in found if item.span]
    missing = [item for item in found if item.span is None]
    if not found:
        return
    printed, added, where = odds_span(total.packs_per_hit), _sum(known), f"overall.csv:{total.line}"
    head = f"{fmt.label}: “{total.label}” is printed 1:{total.packs_per_hit}"
    if len(missing) == 1:
        yield from _must_be(product, missing[0], printed, added, head)
    elif not missing and not added.meets(printed):
        hint = _typo(product, found, printed)
        parts = " + ".join(f"1:{item.row.packs_per_hit}" for item in found[:4] if item.row.packs_per_hit)
        more = "" if len(found) <= 4 else f" + {len(found) - 4} more"
        message = f"{head}, its lines ({parts}{more}) add up to {packs_words(added.mid)}. {hint}"
        yield finding("total-differs", where, message)


def _must_be(product: Product, gap: _Rated, printed: Span, added: Span, head: str) -> Iterator[Finding]:
    """One line of the group is missing or garbled: say what it must be."""
    name = line_words(product, (gap.row.section, gap.row.parallel, gap.row.group))
    left = printed.mid - added.mid
    if left <= 0:
        yield finding(
            "total-differs", f"odds.csv:{gap.row.line}", f"{head}, less than its other lines alone. Look at both."
        )
        return
    low, high = max(printed.low - added.high, 0.0), max(printed.high - added.low, 0.0)
    span = f"between {packs_words(high)} and {packs_words(low)}" if low > 0 else f"{packs_words(high)} or rarer"
    message = f"{head} and only {name} is missing: it must be about {packs_words(left)} ({span})."
    yield finding("odds-follow", f"odds.csv:{gap.row.line}", message, Severity.INFO)


def _typo(product: Product, found: list[_Rated], printed: Span) -> str:
    """Name the line that would mend the total if two of its digits were swapped or one misread."""
    for item, guesses in [(item, near(item.row.packs_per_hit)) for near in (_swapped, _misread) for item in found]:
        others = _sum([other.span for other in found if other is not item and other.span])
        left = Span(printed.low - others.high, printed.mid - others.mid, printed.high - others.low)
        text = item.row.packs_per_hit
        if not text or left.high <= 0:
            continue
        for guess in guesses:
            if odds_span(guess).meets(left) and left.low > 0:
                name = line_words(product, (item.row.section, item.row.parallel, item.row.group))
                return f"With {name} at 1:{guess} instead of 1:{text} it would: look at the wrapper again."
    return "Look at the wrapper again, or correct the line that is wrong."


def _swapped(text: str) -> list[str]:
    """Numbers with two neighbouring digits of a printed one swapped: the commonest slip, tried first."""
    return _readable(text, [f"{text[:i]}{text[i + 1]}{text[i]}{text[i + 2 :]}" for i in range(len(text) - 1)])


def _misread(text: str) -> list[str]:
    """Numbers with one digit of a printed one read wrong."""
    places = [i for i in range(len(text)) if text[i].isdigit()]
    return _readable(text, [f"{text[:i]}{digit}{text[i + 1 :]}" for i in places for digit in "0123456789"])


def _readable(text: str, guesses: list[str]) -> list[str]:
    found = []
    for guess in dict.fromkeys(guesses):
        try:
            parse_printed(guess)
        except BadOddsError:
            continue
        if guess != text and not guess.startswith("0"):
            found.append(guess)
    return found


def _room(product: Product, fmt: Format, rated: list[_Rated]) -> Iterator[Finding]:
    """Hold the expected cards of a box against packs × cards."""
    spans = [item.span.times(fmt.packs_per_box) for item in rated if item.span and item.kind is not Kind.BOX_TOPPER]
    expected, room, where = _sum(spans), fmt.cards_per_box, f"formats.csv:{fmt.line}"
    size = f"{fmt.packs_per_box} packs × {fmt.cards_per_pack} cards = {room}"
    if expected.low > room + 1e-9:
        message = (
            f"{fmt.label}: the odds expect {expected.mid:,.1f} cards a box, the packs hold {size}. One is wrong."
        )
        yield finding("too-many-cards", where, message)
    elif not _has_rest(product, fmt) and expected.high < room - 1e-9 and spans:
        message = (
            f"{fmt.label}: the odds expect {expected.mid:,.1f} cards a box, the packs hold {size}. What fills them?"
        )
        yield finding("too-few-cards", where, message, Severity.WARNING)


def _has_rest(product: Product, fmt: Format) -> bool:
    own = {
        row.section
        for row in product.odds
        if row.format == fmt.key and not row.parallel and not row.group and not _is_blank(row)
    }
    return any(
        section.kind is Kind.BASE and section.key not in own and product.cards_by_section.get(section.key)
        for section in product.sections
    )


def _whole_promises(product: Product, rated: list[_Rated]) -> Iterator[Finding]:
    """A count that is promised exactly must be whole."""
    for item in rated:
        for name in ("per_pack", "per_box", "per_case"):
            text = getattr(item.row, name)
            if text and item.row.promise == "exact" and not _is_whole(text):
                message = f"Exactly {text} cannot be promised: cards are whole. Write average, or the whole number."
                yield finding("fractional-promise", f"odds.csv:{item.row.line}", message)
    for row in product.promises:
        if rated and row.format in ("", rated[0].row.format) and row.promise == "exact" and not _is_whole(row.count):
            message = f"Exactly {row.count} cannot be promised: cards are whole. Write average, or the whole number."
            yield finding("fractional-promise", f"promises.csv:{row.line}", message)


def _is_whole(text: str) -> bool:
    try:
        return parse_printed(text).value.is_integer()
    except BadOddsError:
        return True


def _promises(product: Product, fmt: Format, rated: list[_Rated]) -> Iterator[Finding]:
    taken: dict[tuple[str, str, str], str] = {}
    for row in product.promises:
        if row.format not in ("", fmt.key):
            continue
        covered = [i for i in rated if product.covers(row, i.row.section, i.row.parallel)]
        for item in covered:
            key = (item.row.section, item.row.parallel, item.row.group)
            if key in taken:
                name = line_words(product, key)
                message = (
                    f"{fmt.label}: {name} is promised twice, by “{taken[key]}” and “{row.label}”. Keep it in one."
                )
                yield finding("promise-overlap", f"promises.csv:{row.line}", message)
            taken.setdefault(key, row.label)
        if not covered and row.format == fmt.key:
            message = (
                f"“{row.label}” covers no line of {fmt.label}. Add the lines’ rows to the odds; rates may be empty."
            )
            yield finding("promise-empty", f"promises.csv:{row.line}", message, Severity.WARNING)
        spans = [item.span for item in covered if item.span]
        if spans and len(spans) == len(covered):
            yield from _promise_and_odds(fmt, row, _sum(spans))
        elif spans:
            yield from _promise_full(fmt, row, _sum(spans))


def _promise_full(fmt: Format, row: PromiseRow, per_pack: Span) -> Iterator[Finding]:
    """Printed lines of a promise that expect more than it holds leave nothing for those without printed odds."""
    packs = promised_packs(row, fmt)
    if packs is None:
        return
    count, expected = parse_printed(row.count).value, per_pack.times(packs)
    if expected.low > count:
        message = (
            f"{fmt.label}: “{row.label}” says {row.count} a {row.per}, its printed lines alone expect "
            f"{expected.mid:,.2f}: nothing is left for those without printed odds. One of them is wrong."
        )
        yield finding("promise-over", f"promises.csv:{row.line}", message)


def _overlaps(product: Product, fmt: Format, rated: list[_Rated]) -> Iterator[Finding]:
    """A row for a whole section beside rows for its groups: the groups are taken out of it."""
    whole = {(item.row.section, item.row.parallel): item for item in rated if not item.row.group}
    groups: dict[tuple[str, str], list[_Rated]] = {}
    for item in rated:
        if item.row.group and (item.row.section, item.row.parallel) in whole:
            groups.setdefault((item.row.section, item.row.parallel), []).append(item)
    for key, parts in groups.items():
        one, spans = whole[key], [item.span for item in parts if item.span]
        name = line_words(product, (*key, ""))
        message = (
            f"{fmt.label}: {name} is stated as a whole and by groups: the whole counts, its groups are part of it."
        )
        yield finding("odds-overlap", f"odds.csv:{one.row.line}", message, Severity.WARNING)
        if one.span and spans and _sum(spans).low > one.span.high:
            message = (
                f"{fmt.label}: the groups of {name} are printed more often than all of it. One of them is wrong."
            )
            yield finding("odds-overlap", f"odds.csv:{one.row.line}", message)


def _promised_rows(fmt: Format, rated: list[_Rated]) -> Iterator[Finding]:
    """A row with odds beside its own promise: the two must not lie far apart."""
    for item in rated:
        row = item.row
        text, per = (row.per_box, "box") if row.per_box else (row.per_case, "case")
        if row.packs_per_hit and text and item.span:
            promise = PromiseRow(fmt.key, row.section, text, per, row.promise, "", line=row.line)
            for found in _promise_and_odds(fmt, promise, item.span):
                yield replace(found, where=f"odds.csv:{row.line}")


def promised_packs(row: PromiseRow, fmt: Format) -> int | None:
    """Over how many packs a promise counts; None when the size of a case is unknown."""
    if row.per == "case":
        return fmt.packs_per_box * fmt.boxes_per_case if fmt.boxes_per_case else None
    return fmt.packs_per_box if row.per == "box" else 1


def _promise_and_odds(fmt: Format, row: PromiseRow, per_pack: Span) -> Iterator[Finding]:
    packs = promised_packs(row, fmt)
    if packs is None:
        return
    count, expected, where = parse_printed(row.count).value, per_pack.times(packs), f"promises.csv:{row.line}"
    below = expected.high * (1 + FAR) < count
    above = row.promise not in AT_LEAST and expected.low * (1 - FAR) > count
    if below or above:
        how = {"exact": "exactly", "at_least": "at least"}.get(row.promise, "on average")
        message = (
            f"{fmt.label}: “{row.label}” says {how} {row.count} a {row.per}, the odds of its lines expect "
            f"{expected.mid:,.2f}. One of them is wrong, or printed for another format."
        )
        yield finding("promise-far", where, message, Severity.WARNING)


def _unprinted(product: Product, rated: list[_Rated]) -> Iterator[Finding]:
    promised = [row for row in product.promises if rated and row.format in ("", rated[0].row.format) and row.count]
    for item in rated:
        rest = item.kind is Kind.BASE and not item.row.parallel
        covered = any(product.covers(row, item.row.section, item.row.parallel) for row in promised)
        if _is_blank(item.row) and not rest and not covered:
            name = line_words(product, (item.row.section, item.row.parallel, item.row.group))
            message = f"The odds of {name} are not printed: it counts 0 until they are known or follow from its run."
            yield finding("odds-unprinted", f"odds.csv:{item.row.line}", message, Severity.INFO)
