"""Lines of a checklist that say which finishes a section has: announced, in a row, above its cards or below them."""

from __future__ import annotations

import re
from dataclasses import replace

from botin.core.catalog.product import Kind
from botin.exchange.catalog.cardtext import is_prose, unbulleted
from botin.exchange.catalog.finishtext import parallels_in
from botin.exchange.catalog.headingtext import has_count
from botin.exchange.catalog.kinds import guess_kind, is_only_kinds
from botin.exchange.catalog.oddstext import RATED_TAIL, Rated, rates_in
from botin.exchange.catalog.ratenames import find_section
from botin.exchange.catalog.runtext import USUAL_RUNS, no_run, take_run
from botin.exchange.catalog.sorting import OpenSection, Pending, Sorting
from botin.exchange.catalog.tablesheet import hint_of
from botin.exchange.catalog.textreader import (
    MOST_WORDS,
    Line,
    Reader,
    finish_name,
    finishes_in_row,
    is_finish_like,
    leads,
    one_card,
)
from botin.exchange.notes import Status
from botin.exchange.tables import RawRow


def finish_list(reader: Reader, line: Line) -> bool:
    """“Parallels: Copper, Slate /199”, or the announcement that they follow."""
    found = parallels_in(line.text)
    if found is None:
        return False
    of, entries = found
    sorting = reader.sorting
    named = find_section(sorting, of) if of else None
    if of and not named and (len(of.split()) > MOST_WORDS or not sorting.sections):
        return False
    key = named[0] if named else sorting.current or sorting.section("Base", line.place, says=False).key
    if not entries:
        reader.finishes, reader.bulleted = key, False
        sorting.note(line.place, Status.UNDERSTOOD, f"finishes of {sorting.sections[key].label} follow")
        return True
    stamped = _stamped(entries)
    names = [name for entry in stamped if (name := add_finish(reader, line.place, key, entry))]
    if names:
        status = Status.GUESSED if (of and not named) or stamped != entries else Status.UNDERSTOOD
        if not named and sorting.sections[key].cards:
            reader.unnamed.append((line.place, key, line.apart and not line.following))
        sorting.note(line.place, status, f"finishes of {sorting.sections[key].label}: {', '.join(names)}")
    return True


def doubt_unnamed(reader: Reader) -> None:
    """Ask about a list of finishes below the cards of an insert where the base set has none: it may be that one's."""
    sections = reader.sorting.sections
    rows = reader.sorting.rows["parallels"]
    base = [key for key, section in sections.items() if section.kind is Kind.BASE and section.cards]
    if not base or any(row.get("section") in base for row in rows):
        return
    alone = len(reader.unnamed) == 1 and len(base) == 1
    for place, key, last in reader.unnamed:
        says = f"is it {sections[key].label} that has these, or the base set?"
        if alone and last:
            _move_list(reader.sorting, place, key, base[0])
            says = f"taken for those of {sections[base[0]].label}: no other list is. Or is it {sections[key].label}?"
        reader.sorting.note(place, Status.GUESSED, says)


def _move_list(sorting: Sorting, place: int, section: str, home: str) -> None:
    """Give the finishes that one line lists to another section, with their odds."""
    rows = sorting.rows["parallels"]
    for (owner, key, group), at in list(sorting.finishes.items()):
        if owner == section and rows[at].line == place:
            rows[at] = RawRow(place, {**rows[at].values, "section": home})
            del sorting.finishes[(owner, key, group)]
            sorting.finishes[(home, key, group)] = at
    for at, pending in enumerate(sorting.pending):
        if pending.place == place and pending.section == section:
            sorting.pending[at] = replace(pending, section=home)


def finishes_of(reader: Reader, line: Line) -> bool:
    """“Night Sprints: Copper /99, Slate”: a known section and its finishes, in a text of finishes or with runs."""
    head, colon, rest = line.bare.partition(":")
    entries = [part.strip() for part in re.split(r"[;,](?!\d{3}\b)", rest) if part.strip()]
    stamped = sum(bool(take_run(entry)[1]) for entry in entries)
    told = hint_of(reader.sheet.name) == "finishes" or 2 * stamped >= len(entries) > 1
    if not colon or not entries or not told or any(one_card(entry) is not None for entry in entries):
        return False
    found = find_section(reader.sorting, head)
    if found is None or not found[1]:
        return False
    names = [name for entry in entries if (name := add_finish(reader, line.place, found[0], entry))]
    says = f"finishes of {reader.sorting.sections[found[0]].label}: {', '.join(names)}"
    reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    return bool(names)


_BARE_RUN = re.compile(r"(?P<label>[^\W\d_][^\d/#]*?)\s+(?P<open>\()?(?P<run>\d{1,5})(?(open)\))")


def _stamped(entries: list[str]) -> list[str]:
    """Return finishes with a stroke before their runs, where half of them and more end in a bare number."""
    found = [None if take_run(entry)[1] else _BARE_RUN.fullmatch(entry) for entry in entries]
    usual = sum(match is not None and match["run"] in USUAL_RUNS for match in found)
    if 2 * usual < len(entries):
        return entries
    return [f"{m['label']} /{m['run']}" if m else entry for m, entry in zip(found, entries, strict=True)]


def add_finish(reader: Reader, place: int, section: str, entry: str) -> str:
    """Add a finish with its run, and its rates for later; return its words."""
    sorting = reader.sorting
    rates = rates_in(re.sub(r"[()]", " ", entry), reader.words())
    entry = _INSIDE.sub(lambda found: "" if _says_no_name(reader, found["inside"]) else found[0], entry)
    cut = r"\s*[([]?\s*(?:1\s*:|1 in |one in |\d+ per |[\d.]+\s?%).*$"
    whole = re.sub(r"\s*[(\[][^()\[\]]*\b(?:1\s*:|1 in |one in )\s*\d[^()\[\]]*[)\]]", "", entry, flags=re.IGNORECASE)
    bare = re.sub(cut, "", whole, flags=re.IGNORECASE) if rates else entry
    label, run = take_run(bare.strip(" -–—:,"))
    if label.count("(") > label.count(")"):
        sorting.note(place, Status.GUESSED, f"what stands in brackets behind {label.partition('(')[0]}is left out")
        label = label.partition("(")[0]
    label = finish_name(" ".join(unbulleted(label)[0].strip(" -–—:,").split()))
    alone = EXCLUSIVE.search(label)
    label = EXCLUSIVE.sub("", label).strip() or label
    if alone and not rates:
        sorting.note(place, Status.GUESSED, f"“{alone[0].strip(' ()[]')}” is not kept: {label} has no odds beside it")
    if not any(letter.isalpha() for letter in label):
        sorting.note(place, Status.NOT, f"a finish without a name in “{entry}”")
        return ""
    sorting.parallel(place, section, label, run)
    if no_run(label):
        sorting.note(place, Status.GUESSED, f"“{no_run(label)}” is no run: it is kept as words of the finish")
    for rated in rates:
        stated = Rated(label, rated.column, rated.text, rated.format, rated.promise, guesses=rated.guesses)
        sorting.pending.append(Pending(place, stated, sorting.current_format, section, label))
    return f"{label} /{run}" if run else label


_INSIDE = re.compile(r"\s*[(\[](?P<inside>[^()\[\]]+)[)\]]")
_UNNUMBERED = re.compile(r"(?:un|not |un-)numbered|unnummeriert|non num[ée]rot[ée]e?s?", re.IGNORECASE)


def _says_no_name(reader: Reader, inside: str) -> bool:
    """Whether what stands in brackets behind a finish is its odds, or that it is not numbered."""
    parts = [part.strip() for part in re.split(r"[;,](?!\d{3}\b)", inside)]
    return all(_UNNUMBERED.fullmatch(part) or rates_in(f"x {part}", reader.words()) for part in parts)


EXCLUSIVE = re.compile(
    r"\s*[(\[](?:[\w ]{2,20}\s(?:exclusive|excl\.?|only)|(?:exclusive to|only in)\s[\w ]{2,20})[)\]]\s*$",
    re.IGNORECASE,
)
"""In which boxes alone a finish is: its odds say that, too."""


_LEADERS = re.compile(r"\s*(?:\.{3,}|…+|_{3,})\s*(?P<to>\S.*)?$")
"""Dots that lead to a run: ``Matte ..... 299``."""


def _led(found: re.Match[str]) -> str:
    to = found["to"] or ""
    return f" /{to}" if to.isdecimal() else f" {to}".rstrip()


def in_finishes(reader: Reader, line: Line) -> bool:
    """A line below “Parallels:” is a finish, until a heading or a card comes."""
    if not reader.finishes:
        return False
    stamped = take_run(line.bare)
    above = leads(line.following) and not stamped[1]
    bulleted = reader.bulleted and not line.nested
    heads = line.marked or has_count(line.bare) or (line.bare.isupper() and is_only_kinds(line.bare))
    heads = heads or (above and (line.apart or bulleted or guess_kind(line.bare)[1]))
    if heads or one_card(line.text) is not None or len(line.bare) > 80 or is_prose(stamped[0]):
        reader.finishes = ""
        return False
    words = add_finish(reader, line.place, reader.finishes, _LEADERS.sub(_led, line.bare))
    reader.bulleted = line.nested
    if words:
        section = reader.sorting.sections[reader.finishes].label
        reader.sorting.note(line.place, Status.UNDERSTOOD, f"finish {words} of {section}")
    return True


def _under_heading(reader: Reader) -> OpenSection | None:
    """Return the section whose heading was read and whose cards have not begun; a kind alone stands over others."""
    section = reader.sorting.sections.get(reader.sorting.current)
    return section if section is not None and section.line and not section.cards else None


def _stands_over(reader: Reader, section: OpenSection, label: str, line: Line) -> bool:
    """Whether a heading of a kind alone may stand over a section of this name, and the name is no finish.

    It is one where the next line is a finish as well, or the one before was, or where another section has it.
    """
    if section.key != reader.over or section.kind is Kind.BASE or line.nested:
        return False
    rows = reader.sorting.rows["parallels"]
    known = any(row.get("label").casefold() == label.casefold() or row.get("section") == section.key for row in rows)
    return not known and not is_finish_like(line.following)


def finish_row(reader: Reader, line: Line) -> bool:
    """Finishes with their runs in a row, without a word before them: those of the section in hand."""
    section = reader.sorting.sections.get(reader.sorting.current)
    entries = finishes_in_row(line.bare) if section is not None else []
    if section is None or not entries or any(find_section(reader.sorting, take_run(one)[0]) for one in entries):
        return False
    names = [name for entry in entries if (name := add_finish(reader, line.place, section.key, entry))]
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"finishes of {section.label}: {', '.join(names)}")
    return True


def finish_above_cards(reader: Reader, line: Line) -> bool:
    """Between a heading and its cards a short name with a run or odds, or called a parallel, is a finish."""
    section = _under_heading(reader)
    if section is None or line.marked or has_count(line.bare) or one_card(line.text) is not None:
        return False
    if not is_finish_like(line.bare) or not leads(line.beyond):
        return False
    label = finish_name(take_run(RATED_TAIL.sub("", line.bare).rstrip(" (-–—:,\t"))[0]).strip(" -–—:,(\t")
    named = guess_kind(label)[1] or find_section(reader.sorting, label) is not None
    if not label or named or is_prose(label) or _stands_over(reader, section, label, line):
        return False
    words = add_finish(reader, line.place, section.key, line.bare)
    if words:
        says = f"finish {words} of {section.label}, between whose heading and cards it stands"
        reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    return bool(words)


_MAY_STAMP = re.compile(r"[/#]|\b(?:unnumbered|numbered|limited|copies|made)\b", re.IGNORECASE)


def stamped_finish(reader: Reader, line: Line) -> bool:
    """Below the cards of a section a name with a run is one of its finishes; where cards follow it is a heading.

    With odds behind it only where it is indented or has a bullet: lists of sections with their odds look like that.
    """
    current = reader.sorting.sections.get(reader.sorting.current)
    if current is None or not current.cards or not _MAY_STAMP.search(line.bare) or one_card(line.text) is not None:
        return False
    rates = rates_in(re.sub(r"[()]", " ", line.bare), reader.words())
    bare = RATED_TAIL.sub("", line.bare) if rates else line.bare
    label, run = take_run(bare.rstrip(" (-–—:,"))
    label = label.strip(" -–—:,(")
    heads = line.marked or has_count(line.bare) or guess_kind(label)[1] or (leads(line.following) and not line.nested)
    plain = not run and line.nested and _UNNUMBERED.search(line.bare) is not None
    label = _UNNUMBERED.sub("", label).strip(" -–—:,(") if plain else label
    if (
        not (run or plain)
        or heads
        or (rates and not line.nested)
        or len(label.split()) > MOST_WORDS
        or is_prose(label)
    ):
        return False
    if find_section(reader.sorting, label) or not any(letter.isalpha() for letter in label):
        return False
    words = add_finish(reader, line.place, current.key, line.bare)
    if words:
        status = Status.UNDERSTOOD if line.nested else Status.GUESSED
        reader.sorting.note(line.place, status, f"finish {words} of {current.label}, below whose cards it stands")
    return bool(words)
