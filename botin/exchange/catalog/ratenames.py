"""Which line of a product the name beside a rate means."""

from __future__ import annotations

import re
from dataclasses import dataclass

from botin.core.catalog.product import Kind
from botin.exchange.catalog.kinds import is_only_kinds, named_kinds
from botin.exchange.catalog.oddstext import Rated
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Status

SURE, LIKELY, NEAR = 96.0, 82.0, 55.0
"""Scores of rapidfuzz (0 to 100) from which a name is taken as read, as a guess, or shown; choices, no source."""
_FILLER = re.compile(r"\b(?:parallels?|cards?|inserts?|packs?|odds|the|of|set|checklist|plain|all)\b|[^\w\s]")


@dataclass(frozen=True, slots=True)
class Candidate:
    """A line by a name it goes by."""

    words: str
    section: str
    parallel: str
    label: str


def plain(text: str) -> str:
    """Return a name without filler, plural and punctuation."""
    words = _FILLER.sub(" ", text.casefold()).split()
    return " ".join(
        word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word for word in words
    )


def candidates(sorting: Sorting) -> list[Candidate]:
    """Return every name a line goes by: its section's, its finish's, both together."""
    found: list[Candidate] = []
    labels = {row.get("section"): row.get("label") for row in sorting.rows["sections"]}
    base = _base(sorting)
    for key, label in labels.items():
        found.append(Candidate(plain(label) or label.casefold(), key, "", label))
    for row in sorting.rows["parallels"]:
        section, key, label = row.get("section"), row.get("parallel"), row.get("label")
        if not key:
            continue
        whole = f"{labels.get(section, section)} {label}"
        found.append(Candidate(plain(whole), section, key, whole))
        found.append(Candidate(plain(f"{label} {labels.get(section, section)}"), section, key, whole))
        if section == base:
            found.insert(0, Candidate(plain(label), section, key, whole))
        else:
            found.append(Candidate(plain(label), section, key, whole))
    return [candidate for candidate in found if candidate.words]


def _base(sorting: Sorting) -> str:
    return next((row.get("section") for row in sorting.rows["sections"] if row.get("kind") == Kind.BASE.value), "")


def settle(sorting: Sorting, place: int, rated: Rated, fmt: str) -> None:
    """Turn a rate into a row of odds or promises, or say why not."""
    where = _format(sorting, place, rated, fmt)
    if where is None:
        return
    if rated.column != "packs_per_hit" and _promise(sorting, place, rated, where):
        return
    found = _line(sorting, place, rated)
    if found is None:
        return
    cells = {"format": where, "section": found.section, "parallel": found.parallel, rated.column: rated.text}
    if sorting.has_row("odds", format=where, section=found.section, parallel=found.parallel, group=""):
        sorting.note(
            place, Status.GUESSED, f"{found.label} has odds already in {where}; both are kept for you to look at"
        )
    sorting.add("odds", place, **cells, promise=rated.promise, group="")
    rate = f"1:{rated.text}" if rated.column == "packs_per_hit" else f"{rated.text} {rated.column.replace('_', ' ')}"
    status = Status.GUESSED if rated.guesses else Status.UNDERSTOOD
    why = f" ({', '.join(rated.guesses)})" if rated.guesses else ""
    sorting.note(place, status, f"{found.label} {rate} in {where}{why}")


def _format(sorting: Sorting, place: int, rated: Rated, fmt: str) -> str | None:
    known = [row.get("format") for row in sorting.rows["formats"]]
    if not known:
        sorting.note(place, Status.NOT, "a rate, but no format is stated yet: say above how the product is boxed")
        return None
    named = rated.format or fmt
    if not named and len(known) > 1:
        sorting.note(place, Status.GUESSED, f"no format is named; taken for {known[0]}")
    return named or known[0]


def _promise(sorting: Sorting, place: int, rated: Rated, fmt: str) -> bool:
    """Counts over kinds or over all finishes are promises that span lines."""
    covers = _covers(sorting, rated.name)
    if covers is None:
        return False
    if not covers:
        sorting.note(
            place, Status.NOT, f"no section is {rated.name}: add its checklist, or name the section it means"
        )
        return True
    per, promise = rated.column.removeprefix("per_"), rated.promise or "at_least"
    label = sorting.notes[place].text.strip() or rated.name
    cells = {"count": rated.text, "per": per, "promise": promise, "covers": ";".join(covers), "format": fmt}
    sorting.add("promises", place, label=label[:120], **cells)
    how = {"exact": "exactly", "at_least": "at least", "average": "on average"}[promise]
    status = Status.UNDERSTOOD if rated.promise else Status.GUESSED
    why = "" if rated.promise else " (taken as a guarantee)"
    sorting.note(place, status, f"promise: {how} {rated.text} a {per} over {', '.join(covers)}{why}")
    return True


def _covers(sorting: Sorting, name: str) -> list[str] | None:
    """Return what a promise covers: kinds, or finishes; None when the name is one line's."""
    if re.search(r"\bparallels?\b|\bfinish(?:es)?\b", name, re.IGNORECASE):
        rows = [row for row in sorting.rows["parallels"] if row.get("parallel")]
        named = [row for row in rows if row.get("label").casefold() in name.casefold()]
        if len(named) == 1:
            return None
        return [f"{row.get('section')}:{row.get('parallel')}" for row in named or rows]
    if not is_only_kinds(name):
        return None
    wanted = [kind.value for kind in named_kinds(name)]
    have = {row.get("kind") for row in sorting.rows["sections"]}
    return [f"kind={kind}" for kind in wanted if kind in have]


def _line(sorting: Sorting, place: int, rated: Rated) -> Candidate | None:
    """Find the line a name means, by its words or by being close to them."""
    from rapidfuzz import fuzz, process  # noqa: PLC0415

    known = candidates(sorting)
    if not rated.name:
        sorting.note(place, Status.NOT, "a rate without a name: write what it is for, like “Copper 1:24”")
        return None
    wanted = plain(rated.name) or rated.name.casefold()
    near = process.extract(wanted, [c.words for c in known], scorer=fuzz.token_sort_ratio, limit=3)
    best = known[near[0][2]] if near else None
    if best and near[0][1] >= SURE:
        return _with_run(sorting, best, rated)
    if rated.run or re.search(r"\bparallel\b", rated.name, re.IGNORECASE):
        return _new_parallel(sorting, place, rated)
    within = [c for c in known if not c.parallel and fuzz.token_set_ratio(wanted, c.words) >= SURE]
    guess = best if best and near[0][1] >= LIKELY else within[0] if len(within) == 1 else None
    if guess is not None:
        sorting.note(place, Status.GUESSED, f"“{rated.name}” read as {guess.label}")
        return _with_run(sorting, guess, rated)
    hint = ", ".join(dict.fromkeys(known[item[2]].label for item in near if item[1] >= NEAR))
    says = f"no line is called “{rated.name}”" + (f"; the nearest are {hint}" if hint else "")
    sorting.note(place, Status.NOT, f"{says}. Mend the name, or add its cards above")
    return None


def _with_run(sorting: Sorting, found: Candidate, rated: Rated) -> Candidate:
    if rated.run and found.parallel:
        sorting.parallel(0, found.section, found.parallel, rated.run)
    return found


def _new_parallel(sorting: Sorting, place: int, rated: Rated) -> Candidate | None:
    base = _base(sorting)
    if not base:
        sorting.note(place, Status.NOT, "a finish, but there is no base section it could belong to")
        return None
    label = re.sub(r"\s*\bparallels?\b\s*", " ", rated.name, flags=re.IGNORECASE).strip() or rated.name
    key = sorting.parallel(place, base, label, rated.run)
    sorting.note(place, Status.GUESSED, f"“{label}” is a new finish of the base cards")
    return Candidate(plain(label), base, key, f"Base {label}")
