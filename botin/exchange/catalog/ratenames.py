"""Which line of a product the name beside a rate means."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from botin.core.catalog.product import Kind
from botin.exchange.catalog.columnwords import bare
from botin.exchange.catalog.finishtext import is_plain
from botin.exchange.catalog.kinds import guess_kind, is_only_kinds, named_kinds
from botin.exchange.catalog.oddstext import Rated
from botin.exchange.catalog.runtext import USUAL_RUNS
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Status
from botin.exchange.tables import RawRow

SURE, LIKELY, NEAR = 96.0, 82.0, 55.0
"""Scores of rapidfuzz (0 to 100) from which a name is taken as read, as a guess, or shown; choices, no source."""
ALL_SECTIONS = frozenset(("all", "all sets", "all sections", "any", "alle", "toutes", "todas", "every set", "alles"))
"""Words for every section at once."""
_FILLER = re.compile(
    r"\b(?:parallels?|cards?|inserts?|packs?|odds|the|of|set|checklist|plain|all|parallelen?|karten?|version)\b|[^\w\s]"
)


_OWN = re.compile(r"(?<=\w)\s+(?:base|regular|plain|standard|basic)\s+(?:versions?|cards?)\W*$", re.IGNORECASE)
"""“Night Sprints base version” is the section’s own card, without a finish; so is “Base version” below its name."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A line by a name it goes by; ``why`` says what was guessed on the way to it."""

    words: str
    section: str
    parallel: str
    label: str
    why: str = ""


def plain(text: str) -> str:
    """Return a name without filler, plural and punctuation."""
    words = _FILLER.sub(" ", text.casefold().replace("_", " ")).split()
    return " ".join(
        word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word for word in words
    )


def base_of(sorting: Sorting) -> str:
    """Return the key of the base set, empty when there is none."""
    rows = [(row.get("section"), row.get("kind")) for row in sorting.rows["sections"]]
    rows = rows or [(section.key, section.kind.value) for section in sorting.sections.values()]
    return next((key for key, kind in rows if kind == Kind.BASE.value), "")


def labels_of(sorting: Sorting) -> dict[str, str]:
    """Return the label of every section by its key."""
    rows = {row.get("section"): row.get("label") for row in sorting.rows["sections"]}
    return rows or {section.key: section.label for section in sorting.sections.values()}


_RANGED = re.compile(r"(?<=\w)\s+[(\[]?#?[A-Z]{0,5}-?\d{1,4}\s?[-–]\s?#?[A-Z]{0,5}-?\d{1,4}[)\]]?\s*$")
"""``Base 1-300``: the numbers that are meant."""


def find_section(sorting: Sorting, text: str) -> tuple[str, bool] | None:
    """Return the key of the section a text names, and whether it is written the same; None when none is meant."""
    found = _section_called(sorting, text)
    ranged = _RANGED.sub("", text)
    return found if (found and found[1]) or ranged in ("", text) else _section_called(sorting, ranged) or found


def _section_called(sorting: Sorting, text: str) -> tuple[str, bool] | None:
    labels = labels_of(sorting)
    wanted, words = plain(text), bare(text)
    for key, label in labels.items():
        if words in (bare(label), bare(key)):
            return key, True
    for key, label in labels.items():
        if wanted and wanted in (plain(label), plain(key)):
            return key, True
    if words in ("base", "base set", "base cards", "basis") and base_of(sorting):
        return base_of(sorting), True
    near = [
        key
        for key, label in labels.items()
        if wanted and (plain(label).startswith(wanted) or wanted.startswith(plain(label) or "?"))
    ]
    return (near[0], False) if len(near) == 1 else None


def candidates(sorting: Sorting) -> list[Candidate]:
    """Return every name a line goes by: its section's, its finish's, both together."""
    found: list[Candidate] = []
    labels = labels_of(sorting)
    base = base_of(sorting)
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
            found.append(Candidate(plain(f"base {label}"), section, key, whole))
        alone = Candidate(plain(label), section, key, whole)
        found.insert(0, alone) if section == base else found.append(alone)
    return [candidate for candidate in found if candidate.words]


def line_of(sorting: Sorting, place: int, rated: Rated) -> Candidate | None:
    """Find the line a name means, by its words or by being close to them; say so when none is."""
    if not rated.name:
        sorting.note(place, Status.NOT, "a rate without a name: write what it is for, like “Copper 1:24”")
        return None
    if rated.group and rated.name and is_plain(rated.name):
        rated = replace(rated, name=rated.group, group="")
    known = candidates(sorting)
    wanted = plain(_OWN.sub("", rated.name)) or plain(rated.name) or rated.name.casefold()
    exact = _exact(sorting, known, wanted, rated)
    if exact is not None:
        return _with_run(sorting, place, exact, rated)
    made = (
        _with_its_kind(sorting, rated.name)
        or _of_kind(sorting, rated.name)
        or _section_and_finish(sorting, place, rated)
    )
    if made is not None:
        return made
    if rated.run or _PARALLEL.search(rated.name):
        return new_finish(sorting, place, rated, base_of(sorting))
    return _near(sorting, place, rated, wanted)


def _near(sorting: Sorting, place: int, rated: Rated, wanted: str) -> Candidate | None:
    """Return the line whose name is close to what is wanted, as a guess; say so when none is."""
    from rapidfuzz import fuzz, process  # noqa: PLC0415

    known = candidates(sorting)
    near = process.extract(wanted, [c.words for c in known], scorer=fuzz.token_sort_ratio, limit=3)
    best = known[near[0][2]] if near else None
    within = [c for c in known if not c.parallel and fuzz.token_set_ratio(wanted, c.words) >= SURE]
    guess = best if best and near[0][1] >= LIKELY else within[0] if len(within) == 1 else None
    if guess is not None:
        sorting.note(place, Status.GUESSED, f"“{rated.name}” read as {guess.label}")
        return _with_run(sorting, place, guess, rated)
    hint = ", ".join(dict.fromkeys(known[item[2]].label for item in near if item[1] >= NEAR))
    says = f"no line is called “{rated.name}”" + (f"; the nearest are {hint}" if hint else "")
    sorting.note(place, Status.NOT, f"{says}. Mend the name, or add its cards above")
    return None


def _exact(sorting: Sorting, known: list[Candidate], wanted: str, rated: Rated) -> Candidate | None:
    """Return the line whose name it is; a finish of several sections is the group's, or else the base set's."""
    same = [c for c in known if c.words == wanted] or [
        c for c in known if sorted(c.words.split()) == sorted(wanted.split())
    ]
    if rated.group:
        found = find_section(sorting, rated.group)
        if found:
            same = [c for c in same if c.section == found[0]] or [c for c in same if plain(c.label) == wanted]
    lines = {(c.section, c.parallel): c for c in same}
    if not lines:
        return None
    sections = [c for c in lines.values() if not c.parallel]
    base = [c for c in lines.values() if c.section == base_of(sorting)]
    first = (sections or base or list(lines.values()))[0]
    if len(lines) == 1 or sections or base:
        return first
    others = ", ".join(c.label for c in list(lines.values())[1:4])
    return Candidate(first.words, first.section, first.parallel, first.label, f"it may be {others}, too")


_IN_BRACKETS = re.compile(r"(?P<name>[^()\[\]]+?)\s*[(\[](?P<kind>[^()\[\]]+)[)\]]")


def _with_its_kind(sorting: Sorting, name: str) -> Candidate | None:
    """Return the section of “Night Ink (autographs)”, and keep the kind that stands in brackets."""
    stated = _IN_BRACKETS.fullmatch(name)
    found = find_section(sorting, stated["name"]) if stated and is_only_kinds(stated["kind"]) else None
    if stated is None or found is None or not found[1]:
        return None
    rows = sorting.rows["sections"]
    for at, row in enumerate(rows):
        if row.get("section") == found[0] and not guess_kind(row.get("label"))[1]:
            rows[at] = RawRow(row.line, {**row.values, "kind": named_kinds(stated["kind"])[0].value})
    return Candidate(plain(name), found[0], "", labels_of(sorting)[found[0]])


def _of_kind(sorting: Sorting, name: str) -> Candidate | None:
    """Return the one section of a kind: Autographs 1:24 where one section is signed."""
    if not is_only_kinds(name) or re.search(r"\b(?:or|and|overall|total|any|all)\b", name, re.IGNORECASE):
        return None
    kinds = {kind.value for kind in named_kinds(name)}
    found = [(row.get("section"), row.get("label")) for row in sorting.rows["sections"] if row.get("kind") in kinds]
    if len(kinds) != 1 or len(found) != 1:
        return None
    return Candidate(plain(name), found[0][0], "", found[0][1])


_SAYS_NOTHING = re.compile(r"\s+(?:set|cards?|checklist|karten|cartes|cartas)$", re.IGNORECASE)
"""Words behind the name of a section that odds leave out: “Base Gold” of the “Base Set”."""


def _section_and_finish(sorting: Sorting, place: int, rated: Rated) -> Candidate | None:
    """Part a name into a section and a finish it did not have so far: “Night Sprints Gold” makes Gold of it."""
    words = bare(rated.name)
    named = [
        (key, text)
        for key, label in labels_of(sorting).items()
        for text in dict.fromkeys((label, _SAYS_NOTHING.sub("", label)))
    ]
    named += [(key, "Base") for key in [base_of(sorting)] if key]  # whatever its heading calls it
    for key, label in sorted(named, key=lambda item: -len(item[1])):
        known = bare(label)
        if not known or known == words:
            continue
        if words.startswith(f"{known} ") or words.endswith(f" {known}"):
            count = len(label.split())
            parts = rated.name.split()
            rest = " ".join(parts[count:] if words.startswith(f"{known} ") else parts[: len(parts) - count])
            kinds = named_kinds(rest) if is_only_kinds(rest) else ()
            if kinds and kinds == named_kinds(label):
                return Candidate(known, key, "", label)  # “Night Ink autographs” are the Night Ink
            if rest.strip(" -–:()"):
                return new_finish(sorting, place, rated, key, rest.strip(" -–:()"))
    group = find_section(sorting, rated.group) if rated.group else None
    return new_finish(sorting, place, rated, group[0]) if group else None


_PARALLEL = re.compile(r"[\s-]*\b(?:parallels?|parallelen?|parallèles?|paralel[oa]s?)\b\s*", re.IGNORECASE)


_NAMED_FINISH = re.compile(r"^\s*(?:finish|colou?r|version|variant)\s*[:=–—-]\s*(?=\S)", re.IGNORECASE)
"""``Finish: Lime``."""


def new_finish(sorting: Sorting, place: int, rated: Rated, section: str, text: str = "") -> Candidate | None:
    """Add a finish that only the odds name."""
    labels = labels_of(sorting)
    if not section:
        sorting.note(place, Status.NOT, "a finish, but no base cards: add their checklist above")
        return None
    label = _PARALLEL.sub(" ", _NAMED_FINISH.sub("", text or rated.name)).strip(" (-–") or rated.name
    stamped = re.fullmatch(r"(.*\w)\s*\((\d{1,5})\)?", label)
    run = rated.run
    if stamped and not run and stamped[2] in USUAL_RUNS:
        label, run = stamped[1], stamped[2]
    known = (section, slug_of(label), "") in sorting.finishes
    key = sorting.parallel(place, section, label, run)
    why = "" if known else f"“{label}” is a new finish of {labels.get(section, section)}"
    return Candidate(plain(label), section, key, f"{labels.get(section, section)} {label}", why)


def slug_of(label: str) -> str:
    """Return the key a finish of that label has."""
    from botin.exchange.catalog.formatstext import slug  # noqa: PLC0415

    return slug(label) or "finish"


def _with_run(sorting: Sorting, place: int, found: Candidate, rated: Rated) -> Candidate:
    if rated.run and found.parallel:
        sorting.parallel(place, found.section, found.parallel, rated.run)
    return found
