"""What in printed odds, totals, promises and runs cannot be right: sets of statements that cannot hold together."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from botin.core.catalog.product import Format, Kind, OddsRow, Product
from botin.core.errors import BadOddsError
from botin.core.odds.boxlaw import BoxLaw, Interval
from botin.core.odds.findings import Finding, Severity, finding
from botin.core.odds.rates import odds_span, parse_printed
from botin.core.odds.rowrates import RATES, has_rate, line_words
from botin.core.odds.statements import Said, Statement, covered_lines
from botin.core.odds.system import Conflict, System


def odds_findings(law: BoxLaw, *, deep: bool = True) -> Iterator[Finding]:
    """Return every finding about odds, totals, promises and runs.

    Parameters
    ----------
    law : BoxLaw
        The law of the product's boxes.
    deep : bool
        Also say what unprinted odds must be, which takes two programs a line.
    """
    product = law.product
    for conflict in law.conflicts:
        yield _conflict(law.system, conflict)
    for fmt in product.formats:
        rows = [row for row in product.odds if row.format == fmt.key and row.section in product.section_by_key]
        yield from _overlaps(product, fmt, rows)
        yield from _too_few(law, fmt)
        yield from _empty_promises(law, fmt)
        if deep:
            yield from _unprinted(law, fmt)
    yield from _whole_promises(product)


def packs_words(rate: float) -> str:
    """Return a rate per pack as odds: 1:78, 1:7.4."""
    if rate <= 0:
        return "never"
    packs = 1 / rate
    return f"1:{packs:,.1f}" if packs < 20 else f"1:{packs:,.0f}"


def _conflict(system: System, conflict: Conflict) -> Finding:
    """One set, each statement with its source, and what would mend it."""
    said = "; ".join(f"{one.words} ({one.where})" for one in conflict.statements)
    message = f"These cannot hold together: {said}. {_mend(system, conflict)}"
    return finding("conflict", _blamed(system, conflict).where, message)


def _blamed(system: System, conflict: Conflict) -> Statement:
    """Return where a finding stands: at a total or promise before the rows under it, of rows at the one that errs."""
    order = (Said.TOTAL, Said.PROMISE, Said.ODDS, Said.RUN, Said.BOX, Said.HAND, Said.USUAL)
    first = min(order.index(one.said) for one in conflict.statements)
    among = [one for one in conflict.statements if one.said is order[first]]
    return next((one for one in among if system.holds_without([one])), among[0])


def _mend(system: System, conflict: Conflict) -> str:
    """Say which misread digit would explain it, else what each must give."""
    printed = [
        (one, one.words.rpartition("1:")[2].split()[0])
        for one in conflict.statements
        if one.said in (Said.ODDS, Said.TOTAL) and "1:" in one.words
    ]
    slips = [(one, text, guess) for near in (_swapped, _misread) for one, text in printed for guess in near(text)]
    for one, text, guess in slips:
        if _holds_with(system, conflict, one, guess):
            return f"With 1:{guess} instead of 1:{text} in {one.where} they would: look at the wrapper again."
    share = 100 * conflict.slack
    return f"They would if each were off by {share:.2g} %. One of them is wrong: look at the wrapper, or correct it."


def _holds_with(system: System, conflict: Conflict, statement: Statement, guess: str) -> bool:
    """Whether the statements of a set hold with another number in one of them."""
    mended = replace(statement, span=odds_span(guess))
    others = tuple(one for one in conflict.statements if one is not statement)
    return not System(replace(system.said, said=(*others, mended))).conflicts


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


def _too_few(law: BoxLaw, fmt: Format) -> Iterator[Finding]:
    """Without plain base on the checklist nothing is known to fill the packs."""
    system = law.system
    places = [place for place in system.places(fmt.key) if system.lines[place].in_packs]
    if not places or any(system.lines[place].is_base for place in places):
        return
    most = system.rate_ends(fmt.key, dict.fromkeys(places, 1.0)).high
    if most is not None and most < fmt.cards_per_pack * (1 - 1e-6):
        message = (
            f"{fmt.label}: what is listed fills at most {most * fmt.packs_per_box:,.1f} cards of a box, its packs "
            f"hold {fmt.packs_per_box} packs × {fmt.cards_per_pack} cards = {fmt.cards_per_box}. What fills them?"
        )
        yield finding("too-few-cards", f"formats.csv:{fmt.line}", message, Severity.WARNING)


def _whole_promises(product: Product) -> Iterator[Finding]:
    """A count that is promised exactly must be whole."""
    stated = [
        (getattr(row, name), f"odds.csv:{row.line}")
        for row in product.odds
        for name in ("per_pack", "per_box", "per_case")
        if row.promise == "exact" and row.section in product.section_by_key and row.format in product.format_by_key
    ]
    stated += [(row.count, f"promises.csv:{row.line}") for row in product.promises if row.promise == "exact"]
    for text, where in stated:
        if text and not _is_whole(text):
            message = f"Exactly {text} cannot be promised: cards are whole. Write average, or the whole number."
            yield finding("fractional-promise", where, message)


def _is_whole(text: str) -> bool:
    try:
        return parse_printed(text).value.is_integer()
    except BadOddsError:
        return True


def _empty_promises(law: BoxLaw, fmt: Format) -> Iterator[Finding]:
    for row in law.product.promises:
        if row.format == fmt.key and not covered_lines(law.system.said, row, fmt.key):
            message = (
                f"“{row.label}” covers no line of {fmt.label}. Add the lines’ rows to the odds; rates may be empty."
            )
            yield finding("promise-empty", f"promises.csv:{row.line}", message, Severity.WARNING)


def _overlaps(product: Product, fmt: Format, rows: list[OddsRow]) -> Iterator[Finding]:
    """A row for a whole section beside rows for its groups: the groups are taken out of it."""
    groups = {(row.section, row.parallel) for row in rows if row.group and has_rate(row)}
    for row in rows:
        if not row.group and (row.section, row.parallel) in groups and has_rate(row):
            name = line_words(product, (row.section, row.parallel, ""))
            message = f"{fmt.label}: {name} is stated as a whole and by groups: the groups are part of the whole."
            yield finding("odds-overlap", f"odds.csv:{row.line}", message, Severity.WARNING)


def _unprinted(law: BoxLaw, fmt: Format) -> Iterator[Finding]:
    """Say of each row without a rate what follows for it."""
    own = {(row.section, row.parallel, row.group): row for row in law.product.odds if row.format == fmt.key}
    for place in law.system.places(fmt.key):
        line = law.system.lines[place]
        row = own.get(line.key)
        if (
            row is None
            or any(getattr(row, name) for name in RATES)
            or (line.section.kind is Kind.BASE and line.is_base)
        ):
            continue
        rate = law.rate(fmt, place)
        where = f"odds.csv:{row.line}"
        message = f"{fmt.label}: the odds of {law.words(place)} are not printed: {odds_interval(rate)}."
        if rate.is_open:
            yield finding("odds-unprinted", where, message, Severity.INFO)
        else:
            yield finding("odds-follow", where, message, Severity.INFO)


def odds_interval(rate: Interval) -> str:
    """Return what is known of an unprinted rate in words: about 1:131, between 1:130 and 1:133."""
    if rate.high is None:
        return "nothing bounds them"
    if rate.high <= 0:
        return "nothing is left for it"
    about = "" if rate.estimate is None else f", taken as {packs_words(rate.estimate)}"
    if not rate.low:
        return f"{packs_words(rate.high)} or rarer{about}"
    if rate.is_open:
        return f"between {packs_words(rate.high)} and {packs_words(rate.low)}{about}"
    middle = rate.estimate or (rate.low + rate.high) / 2
    return f"it must be about {packs_words(middle)} (between {packs_words(rate.high)} and {packs_words(rate.low)})"
