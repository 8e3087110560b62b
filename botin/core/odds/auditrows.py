"""What in the rows of a product cannot be right: references that lead nowhere, things stated twice, gaps."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from botin.core.catalog.product import COVER_WORDS, Kind, Parallel, Product, split_names
from botin.core.odds.findings import Finding, Severity, finding
from botin.core.odds.rowrates import RATES, line_words

SHOWN = 5


def listed(words: Sequence[str]) -> str:
    """Return the first few of many in one phrase."""
    more = len(words) - SHOWN
    return ", ".join(words[:SHOWN]) + (f" and {more} more" if more > 0 else "")


def rows_findings(product: Product) -> Iterator[Finding]:
    """Return every finding that the rows give by themselves."""
    yield from _unknown_references(product)
    yield from _stated_twice(product)
    yield from _gaps(product)
    yield from _unknown_teams(product)


def _unknown(table: str, line: int, name: str, value: str, known: Iterable[str]) -> Finding:
    have = listed(sorted(set(known))) or "none"
    return finding(
        f"unknown-{name}", f"{table}.csv:{line}", f"{name} “{value}” is not in the package. It has: {have}."
    )


def _unknown_references(product: Product) -> Iterator[Finding]:
    sections = product.section_by_key
    for card in product.cards:
        if card.section not in sections:
            yield _unknown("cards", card.line, "section", card.section, sections)
    groups = {key: {card.group for card in cards} for key, cards in product.cards_by_section.items()}
    yield from _unknown_in_parallels(product, groups)
    yield from _unknown_in_odds(product, groups)
    yield from _unknown_in_promises(product)
    yield from _unknown_in_totals(product)


def _unknown_in_parallels(product: Product, groups: dict[str, set[str]]) -> Iterator[Finding]:
    for row in product.parallels:
        have = groups.get(row.section, set())
        if row.section not in product.section_by_key:
            yield _unknown("parallels", row.line, "section", row.section, product.section_by_key)
        elif row.group and row.group not in have:
            yield _unknown("parallels", row.line, "group", row.group, have)


def _unknown_in_odds(product: Product, groups: dict[str, set[str]]) -> Iterator[Finding]:
    for row in product.odds:
        own = {parallel.key for parallel in product.parallels_by_section.get(row.section, ())}
        have = groups.get(row.section, set())
        if row.format not in product.format_by_key:
            yield _unknown("odds", row.line, "format", row.format, product.format_by_key)
        if row.section not in product.section_by_key:
            yield _unknown("odds", row.line, "section", row.section, product.section_by_key)
        elif row.parallel and row.parallel not in own:
            yield _unknown("odds", row.line, "parallel", row.parallel, own)
        elif row.group and row.group not in have:
            yield _unknown("odds", row.line, "group", row.group, have)


def _unknown_in_promises(product: Product) -> Iterator[Finding]:
    for row in product.promises:
        if row.format and row.format not in product.format_by_key:
            yield _unknown("promises", row.line, "format", row.format, product.format_by_key)
        for part in split_names(row.covers):
            if not _covered(product, part):
                message = f"“{part}” covers nothing. Write a section, section:parallel, or kind= with a kind of its."
                yield finding("unknown-cover", f"promises.csv:{row.line}", message)
        if not split_names(row.covers):
            yield finding(
                "unknown-cover", f"promises.csv:{row.line}", "covers is empty: name the lines it holds for."
            )


def _covered(product: Product, part: str) -> bool:
    if part in COVER_WORDS:
        return True
    if part.startswith("kind="):
        return any(section.kind.value == part.removeprefix("kind=") for section in product.sections)
    section, _, parallel = part.partition(":")
    own = {row.key for row in product.parallels_by_section.get(section, ())}
    return section in product.section_by_key and (not parallel or parallel in own)


def _unknown_in_totals(product: Product) -> Iterator[Finding]:
    kinds = [kind.value for kind in Kind]
    for row in product.overall:
        if row.format not in product.format_by_key:
            yield _unknown("overall", row.line, "format", row.format, product.format_by_key)
        for kind in split_names(row.kinds):
            if kind not in kinds:
                yield _unknown("overall", row.line, "kind", kind, kinds)


def _stated_twice(product: Product) -> Iterator[Finding]:
    yield from _twice("key-twice", "formats", [(fmt.line, fmt.key) for fmt in product.formats], "format")
    yield from _twice(
        "key-twice", "sections", [(section.line, section.key) for section in product.sections], "section"
    )
    numbers = [(card.line, f"{card.section} {card.number}") for card in product.cards]
    yield from _twice("number-twice", "cards", numbers, "number")
    lines = [(r.line, f"{r.format} {r.section} {r.parallel} {r.group}".strip()) for r in product.odds]
    yield from _twice("line-twice", "odds", lines, "line")
    runs: dict[tuple[str, str, str], list[Parallel]] = defaultdict(list)
    for row in product.parallels:
        runs[(row.section, row.key, row.group)].append(row)
    for rows in runs.values():
        yield from _run_twice(rows)


def _run_twice(rows: list[Parallel]) -> Iterator[Finding]:
    if len(rows) < 2:
        return
    first, where = rows[0], f"parallels.csv:{rows[-1].line}"
    name = f"{first.section} {first.key}".strip()
    texts = list(dict.fromkeys(row.run_text or "unnumbered" for row in rows))
    if len(texts) > 1:
        message = (
            f"The run of {name} is stated as {' and as '.join(texts)}. Keep the row that the card in hand bears out."
        )
        yield finding("run-twice", where, message)
    else:
        yield finding("parallel-twice", where, f"{name} is listed twice. Delete one row.", Severity.WARNING)


def _twice(code: str, table: str, rows: list[tuple[int, str]], what: str) -> Iterator[Finding]:
    first: dict[str, int] = {}
    for line, key in rows:
        if key in first:
            message = f"{what} “{key}” is on line {first[key]} already. Change or delete one; the first one counts."
            yield replace(finding(code, f"{table}.csv:{line}", message), first=f"{table}.csv:{first[key]}")
        else:
            first[key] = line


def _gaps(product: Product) -> Iterator[Finding]:
    for section in product.sections:
        if not product.cards_by_section.get(section.key):
            message = f"Section “{section.label}” has no cards. Add its checklist."
            yield finding("empty-section", f"sections.csv:{section.line}", message, Severity.WARNING)
    for card in product.cards:
        if not card.number or not card.name:
            what = "number" if not card.number else "name"
            yield finding("empty-cell", f"cards.csv:{card.line}", f"The card has no {what}.", Severity.WARNING)
    yield from _rare_unknown(product)
    for fmt in product.formats:
        for row in product.odds:
            if row.format == fmt.key and row.per_case and not fmt.boxes_per_case:
                message = f"{row.per_case} a case, but nobody says how many boxes a case of {fmt.label} has."
                yield finding("case-size-unknown", f"odds.csv:{row.line}", message, Severity.WARNING)


def _rare_unknown(product: Product) -> Iterator[Finding]:
    rated = {(row.section, row.parallel) for row in product.odds if any(getattr(row, name) for name in RATES)}
    listed_anywhere = {(row.section, row.parallel) for row in product.odds}
    for row in product.parallels:
        place, where = (row.section, row.key), f"parallels.csv:{row.line}"
        name = line_words(product, (row.section, row.key, row.group))
        if not row.key or place in rated or _promised(product, row):
            continue
        if not row.run_text:
            message = f"{name} has neither odds nor a run: nothing says how rare it is. Add one of them."
            yield finding("parallel-unknown", where, message, Severity.WARNING)
        elif place not in listed_anywhere:
            message = (
                f"{name} is numbered to {row.run_text} but in no format’s odds. Add a row; its rate may be empty."
            )
            yield finding("parallel-without-odds", where, message, Severity.WARNING)


def _promised(product: Product, row: Parallel) -> bool:
    return any(product.covers(promise, row.section, row.key) for promise in product.promises)


def _unknown_teams(product: Product) -> Iterator[Finding]:
    """Only where the package lists teams at all: a name that is neither a team nor a club there."""
    if not product.teams:
        return
    known = {name.casefold() for row in product.teams for name in (row.team, row.club)}
    first: dict[str, int] = {}
    for card in product.cards:
        for team in card.teams:
            if team.casefold() not in known:
                first.setdefault(team, card.line)
    for team, line in first.items():
        message = f"Nobody says which club holds the rights of “{team}”. Add it to teams.csv, or mend its spelling."
        yield finding("unknown-club", f"cards.csv:{line}", message, Severity.WARNING)
