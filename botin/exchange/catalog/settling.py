"""Rates and promises whose names are known: rows of odds, promises and printed totals."""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction

from botin.exchange.catalog.columnwords import bare
from botin.exchange.catalog.formatstext import slug
from botin.exchange.catalog.kinds import is_only_kinds, is_short_word, named_kinds
from botin.exchange.catalog.oddstext import Rated, fraction_text
from botin.exchange.catalog.promisetext import add_promise, covers_of
from botin.exchange.catalog.ratenames import (
    ALL_SECTIONS,
    Candidate,
    base_of,
    find_section,
    labels_of,
    line_of,
    new_finish,
)
from botin.exchange.catalog.sorting import Pending, Sorting
from botin.exchange.notes import Status

_OVERALL = re.compile(r"\b(?:overall|total|any|all|or|and)\b", re.IGNORECASE)


def settle(sorting: Sorting, pending: Pending) -> None:
    """Turn a rate into a row of odds, promises or totals, or say why not."""
    place, rated = pending.place, pending.rated
    where = _format(sorting, place, rated.format or pending.format)
    if where is None:
        _finish_anyway(sorting, pending)
        return
    if pending.parallel is None and rated.column != "packs_per_hit" and _promise(sorting, place, rated, where):
        return
    if pending.parallel is None and rated.column == "packs_per_hit" and _overall(sorting, place, rated, where):
        return
    found = line_of(sorting, place, rated) if pending.parallel is None else _stated(sorting, pending)
    if found is not None:
        _add(sorting, place, rated, where, found)


def _finish_anyway(sorting: Sorting, pending: Pending) -> None:
    """Keep the finish that a rate names, though no box is known yet that the rate could be of."""
    if pending.parallel is not None:
        _stated(sorting, pending)
    elif pending.rated.column == "packs_per_hit" and not is_only_kinds(pending.rated.name):
        line_of(sorting, pending.place, pending.rated)


def _add(sorting: Sorting, place: int, rated: Rated, where: str, found: Candidate) -> None:
    column, text, why = _settled_rate(sorting, rated, where)
    guesses = [*rated.guesses, *filter(None, (found.why, why))]
    if rated.run and not found.parallel and not sorting.has_row("parallels", section=found.section, parallel=""):
        sorting.add("parallels", place, parallel="", label="plain", section=found.section, run=rated.run, group="")
    cells = {"format": where, "section": found.section, "parallel": found.parallel, "group": ""}
    if sorting.has_row("odds", **cells):
        known = next(r for r in sorting.rows["odds"] if all(r.get(k) == v for k, v in cells.items()))
        if known.get(column) == text:
            sorting.note(place, Status.UNDERSTOOD, f"{found.label} once more")
            return
        guesses.append(f"{found.label} has odds already in {where}; both are kept for you to look at")
    sorting.add("odds", place, **cells, **{column: text}, promise=rated.promise)
    rate = f"1:{text}" if column == "packs_per_hit" else f"{text} {column.replace('_', ' ')}"
    status = Status.GUESSED if guesses else Status.UNDERSTOOD
    sorting.note(place, status, f"{found.label} {rate} in {where}" + (f" ({', '.join(guesses)})" if guesses else ""))


def _settled_rate(sorting: Sorting, rated: Rated, where: str) -> tuple[str, str, str]:
    """Return column, text and what was assumed: one in twelve boxes are so many packs, where the box is known."""
    if rated.column == "packs_per_hit" or not re.search(r"/|^0\.", rated.text):
        return rated.column, rated.text, ""
    share = Fraction(rated.text)
    row = next((row for row in sorting.rows["formats"] if row.get("format") == where), None)
    packs = row.get("packs_per_box") if row is not None else ""
    boxes = row.get("boxes_per_case") if row is not None else ""
    if packs.isdecimal() and (rated.column == "per_box" or boxes.isdecimal()) and share:
        size = int(packs) * (int(boxes) if rated.column == "per_case" else 1)
        return "packs_per_hit", fraction_text(size / share), ""
    return rated.column, f"{float(share):.6g}", "the box is not known yet" if share.denominator > 1 else ""


def _format(sorting: Sorting, place: int, word: str) -> str | None:
    """Return the key of the format a rate is for; one that is not boxed yet keeps its name."""
    known = [row.get("format") for row in sorting.rows["formats"]]
    if word:
        key = word if word in known else sorting.format_words().get(word.casefold())
        found = key or _like(sorting, word)
        if found:
            return found
        sorting.note(place, Status.GUESSED, f"how “{word}” is boxed is not said yet")
        return slug(word)
    if not known:
        sorting.note(place, Status.NOT, "a rate, but no format is stated yet: say above how the product is boxed")
        return None
    if len(known) > 1:
        text = sorting.notes[place].text
        labels = [row.get("label") for row in sorting.rows["formats"]]
        others = tuple((f"it is for {label}", f"{label}: {text}") for label in labels[1:])
        sorting.note(place, Status.GUESSED, f"no format is named; taken for {known[0]}", others)
    return known[0]


def _like(sorting: Sorting, word: str) -> str:
    words = {bare(text): key for text, key in sorting.format_words().items()}
    wanted = re.sub(r"\b(?:box|boxes|packs?)\b", "", bare(word)).strip()
    return words.get(bare(word), "") or words.get(wanted, "")


def _promise(sorting: Sorting, place: int, rated: Rated, fmt: str) -> bool:
    """Counts over kinds, finishes or several sections are promises that span lines."""
    covers = covers_of(sorting, place, rated.name)
    if covers is None:
        return False
    if not covers:
        says = f"no section is {rated.name}: add its checklist, or name the section it means"
        sorting.note(place, Status.NOT, says)
        return True
    add_promise(sorting, place, rated, fmt, covers)
    return True


def _overall(sorting: Sorting, place: int, rated: Rated, fmt: str) -> bool:
    """Odds over kinds with several lines are a printed total."""
    if not is_only_kinds(rated.name):
        return False
    kinds = [kind.value for kind in named_kinds(rated.name)]
    have = [row.get("section") for row in sorting.rows["sections"] if row.get("kind") in kinds]
    said = _OVERALL.search(rated.name) is not None
    if len(have) < 2 and not said:
        return False
    sorting.add("overall", place, format=fmt, label=rated.name, kinds=";".join(kinds), packs_per_hit=rated.text)
    status = Status.UNDERSTOOD if said and not rated.guesses else Status.GUESSED
    sorting.note(place, status, f"the printed total of {', '.join(kinds)}: 1:{rated.text} in {fmt}")
    return True


def _of_all(sorting: Sorting, pending: Pending) -> Candidate | None:
    """Give a finish of all sections to each; its odds are taken for those of the base set, and asked about."""
    keys = [row.get("section") for row in sorting.rows["sections"]]
    made = {key: new_finish(sorting, pending.place, pending.rated, key, pending.parallel or "") for key in keys}
    home = made.get(base_of(sorting))
    return (
        replace(home, why="a finish of every section; its odds are taken for those of the base set") if home else None
    )


def _stated(sorting: Sorting, pending: Pending) -> Candidate | None:
    """Return the line whose section and finish a table states apart."""
    found = find_section(sorting, pending.section)
    if found is None and bare(pending.section) in ALL_SECTIONS and pending.parallel:
        return _of_all(sorting, pending)
    if found is None:
        says = f"no section is called “{pending.section}”: add its cards, or mend the name"
        sorting.note(pending.place, Status.NOT, says)
        return None
    key, same = found
    label = labels_of(sorting)[key]
    why = "" if same else f"“{pending.section}” read as {label}"
    if not pending.parallel:
        return Candidate("", key, "", label, why)
    short = f"{key}-sp"
    if is_short_word(pending.parallel) and sorting.has_row("sections", section=short):
        return Candidate("", short, "", labels_of(sorting)[short], why)
    made = new_finish(sorting, pending.place, pending.rated, key, pending.parallel)
    return Candidate("", key, made.parallel, made.label, why) if made else None
