"""What a box promises, in words: what it covers, and the rows of what it covers."""

from __future__ import annotations

import re

from botin.core.catalog.product import Kind
from botin.exchange.catalog.columnwords import bare
from botin.exchange.catalog.kinds import is_only_kinds, named_kinds
from botin.exchange.catalog.oddstext import Rated
from botin.exchange.catalog.ratenames import (
    Candidate,
    base_of,
    candidates,
    find_section,
    labels_of,
    new_finish,
    plain,
)
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Status

_PARTS = re.compile(
    r"\s*(?:,|;|\band/or\b|\bor\b|\band\b|&|\+|\bund\b|\boder\b|\bet\b|\bou\b|\ben\b|\by\b)\s*", re.IGNORECASE
)
_FROM = re.compile(
    r"^(?P<what>.*?)\b(?:from(?: the)?|out of|including|of the|aus|parmi|de las|uit)\b\s*(?P<of>.+)$", re.IGNORECASE
)
_FINISH = re.compile(r"\b(?:parallels?|finish(?:es)?|parallelen?|parallèles|paralelas)\b", re.IGNORECASE)
_NUMBERED = re.compile(r"\b(?:serial[- ]?)?(?:numbered|nummeriert\w*|numerad[ao]s|numérotée?s?)\b", re.IGNORECASE)
_INSERT = re.compile(r"^\W*(?:inserts?|insert cards?|einleger|insertions?)\W*$", re.IGNORECASE)
_CARDS = re.compile(r"\b(?:cards?|hits?|karten?|cartes?|total|different|unique|or more)\b", re.IGNORECASE)


def covers_of(sorting: Sorting, place: int, name: str) -> list[str] | None:
    """Return what a promise covers: kinds, finishes, several sections; None when the name is one line's.

    An empty list says that nothing is called so.
    """
    if bare(name) in {bare(label) for label in labels_of(sorting).values()}:
        return None
    named = _FROM.match(name)
    text = named["of"] if named else name
    word = _cover_word(sorting, name)
    if word is not None:
        return word
    parts = [part.strip() for part in _PARTS.split(_FINISH.sub(" ", text)) if part.strip()]
    if len(parts) < 2 and not named:
        return None
    return _parts(sorting, place, parts, finishes=bool(_FINISH.search(name)))


def _cover_word(sorting: Sorting, name: str) -> list[str] | None:
    """Return what a name of kinds covers: numbered cards, finishes, inserts, kinds; None when it is another."""
    if _NUMBERED.search(name) and not _words(_FINISH.sub(" ", _NUMBERED.sub(" ", name))):
        return _numbered(sorting)
    if _FINISH.search(name) and not _words(_FINISH.sub(" ", name)):
        return ["parallels"] if any(row.get("parallel") for row in sorting.rows["parallels"]) else []
    if _INSERT.match(name):
        return ["inserts"] if _has_kind(sorting, Kind.INSERT.value) else []
    if is_only_kinds(name):
        have = {row.get("kind") for row in sorting.rows["sections"]}
        return [f"kind={kind.value}" for kind in named_kinds(name) if kind.value in have]
    return None


def _words(text: str) -> str:
    return re.sub(r"\W+", "", _CARDS.sub(" ", text))


def _has_kind(sorting: Sorting, kind: str) -> bool:
    return any(row.get("kind") == kind for row in sorting.rows["sections"])


def _numbered(sorting: Sorting) -> list[str]:
    """Every numbered finish; where plain cards are numbered, too, the finishes one by one."""
    rows = [row for row in sorting.rows["parallels"] if row.get("run")]
    if all(row.get("parallel") for row in rows):
        return ["numbered"] if rows else []
    return [f"{row.get('section')}:{row.get('parallel')}" for row in rows if row.get("parallel")]


def _parts(sorting: Sorting, place: int, parts: list[str], *, finishes: bool) -> list[str] | None:
    """Find the line of each part; finishes that nobody listed become finishes of the base set."""
    found = [_line(sorting, part) for part in parts]
    known = [one for one in found if one is not None]
    if not known and not finishes:
        return None
    if len(known) < len(parts):
        of_finish = finishes or all(one.parallel for one in known)
        lost = [part for part, one in zip(parts, found, strict=True) if one is None]
        if not of_finish:
            sorting.note(place, Status.NOT, f"no line is called “{lost[0]}”: add its cards above, or mend the name")
            return []
        for part in lost:
            made = new_finish(sorting, place, Rated(part, "", ""), known[0].section if known else base_of(sorting))
            if made is None:
                return []
            sorting.note(place, Status.GUESSED, made.why)
            known.append(made)
    return list(dict.fromkeys(f"{one.section}:{one.parallel}" if one.parallel else one.section for one in known))


def _line(sorting: Sorting, part: str) -> Candidate | None:
    wanted = plain(part)
    section = find_section(sorting, part)
    exact = next((one for one in candidates(sorting) if one.words == wanted), None)
    if exact is not None or section is None:
        return exact
    return Candidate(wanted, section[0], "", labels_of(sorting)[section[0]])


def add_promise(sorting: Sorting, place: int, rated: Rated, fmt: str, covers: list[str]) -> None:
    """Add a promise, and say what it covers."""
    per, promise = rated.column.removeprefix("per_"), rated.promise or "at_least"
    label = sorting.notes[place].text.strip() or rated.name
    cells = {"count": rated.text, "per": per, "promise": promise, "covers": ";".join(covers), "format": fmt}
    sorting.add("promises", place, label=label[:120], **cells)
    how = {"exact": "exactly", "at_least": "at least", "average": "on average"}[promise]
    status = Status.UNDERSTOOD if rated.promise else Status.GUESSED
    why = "" if rated.promise else " (taken as a guarantee)"
    text = sorting.notes[place].text
    others = (
        () if rated.promise else (("on average only", f"{text} on average"), ("guaranteed", f"{text} guaranteed"))
    )
    sorting.note(place, status, f"promise: {how} {rated.text} a {per} over {', '.join(covers)}{why}", others)


def add_covered(sorting: Sorting) -> None:
    """Give every line that a promise covers a row of its own in the format: printed odds are not asked of it."""
    have = {(row.get("format"), row.get("section"), row.get("parallel")) for row in sorting.rows["odds"]}
    for promise in sorting.rows["promises"]:
        for section, parallel in _covered(sorting, promise.get("covers")):
            key = (promise.get("format"), section, parallel)
            if key not in have:
                have.add(key)
                cells = {"format": key[0], "section": section, "parallel": parallel, "group": ""}
                sorting.add("odds", promise.line, **cells, promise="")


def _covered(sorting: Sorting, covers: str) -> list[tuple[str, str]]:
    found: list[tuple[str, str]] = []
    kinds = {row.get("section"): row.get("kind") for row in sorting.rows["sections"]}
    finishes = [(row.get("section"), row.get("parallel"), row.get("run")) for row in sorting.rows["parallels"]]
    for word in covers.split(";"):
        section, colon, parallel = word.partition(":")
        if word.startswith("kind="):
            found += [(key, "") for key, kind in kinds.items() if kind == word.removeprefix("kind=")]
        elif word == "inserts":
            found += [(key, "") for key, kind in kinds.items() if kind == Kind.INSERT.value]
        elif word == "parallels":
            found += [(key, finish) for key, finish, _ in finishes if finish]
        elif word == "numbered":
            found += [(key, finish) for key, finish, run in finishes if finish and run]
        elif section in kinds:
            found.append((section, parallel if colon else ""))
    return found
