"""Tables beside the checklist: finishes with their runs, runs by section, formats, sections."""

from __future__ import annotations

import re

from botin.core.catalog.product import Kind
from botin.exchange.catalog.blocks import filled, is_sum
from botin.exchange.catalog.columnvalues import NO, is_ticked
from botin.exchange.catalog.columnwords import bare
from botin.exchange.catalog.finishtext import is_plain
from botin.exchange.catalog.formatstext import slug
from botin.exchange.catalog.kinds import guess_kind, is_short_word
from botin.exchange.catalog.ratenames import ALL_SECTIONS, base_of, find_section
from botin.exchange.catalog.runtext import no_run, run_of, take_run
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.catalog.tablecards import Fields, fields_of
from botin.exchange.catalog.tablesheet import Table
from botin.exchange.notes import Status
from botin.exchange.values import SYMBOLS

OF_FINISHES = re.compile(r"\b(?:parallel\w*|finishes|variants?|colou?rs)\s*$", re.IGNORECASE)


def read_finishes(sorting: Sorting, table: Table) -> None:
    """Read a list of finishes: section, finish, run."""
    column = _word_column(table) if not table.columns.has("parallel") else None
    section, of_sheet = "", _section_of_sheet(sorting, table)
    for place, cells in table.segment.rows:
        row = fields_of(table.columns, cells)
        label = cells[column].strip() if column is not None and column < len(cells) else row.get("parallel", "")
        section = row.get("section", "") or section
        alone = find_section(sorting, label) if len(filled(cells)) == 1 else None
        if alone and alone[1] and not table.columns.has("section"):
            section = sorting.sections[alone[0]].label
            sorting.note(place, Status.UNDERSTOOD, f"finishes of {section} follow")
            continue
        if is_sum(label):
            sorting.note(place, Status.PASSED, "a total, no finish")
            continue
        if not label and len(filled(cells)) == 1 and not row.get("section"):
            sorting.note(place, Status.NOT, "a finish without a name")
            continue
        _finish(sorting, place, row, label, section or table.label or of_sheet)


def _section_of_sheet(sorting: Sorting, table: Table) -> str:
    """Return the section that the name of a sheet puts before “Parallels”, empty when none is."""
    before = OF_FINISHES.sub("", table.sheet.name).strip(" -–—:")
    found = find_section(sorting, before) if before and before != table.sheet.name.strip() else None
    return sorting.sections[found[0]].label if found and found[1] else ""


def _word_column(table: Table) -> int | None:
    used = {place for name, place in table.columns.by_field.items() if name in ("section", "run", "odds")}
    return next((c.place for c in table.columns.all if c.place not in used and c.values), None)


def _parted(sorting: Sorting, text: str) -> tuple[str, str]:
    """Part “Night Sprints Gold” into section and finish; a section alone is its plain card."""
    label, run = take_run(text)
    words = bare(label)
    stamp = f" /{run}" if run else ""
    for section in sorted(sorting.sections.values(), key=lambda one: -len(one.label)):
        known = bare(section.label)
        if words == known:
            return section.label, f"plain{stamp}"
        if known and words.startswith(f"{known} "):
            rest = " ".join(label.split()[len(section.label.split()) :]).strip(" -–—:")
            return section.label, f"{rest or label}{stamp}"
    base = base_of(sorting)
    if base and words.startswith("base "):
        return sorting.sections[base].label, f"{' '.join(label.split()[1:])}{stamp}"
    return "", text


def _finish(sorting: Sorting, place: int, row: Fields, text: str, section: str) -> None:
    if not section:
        section, text = _parted(sorting, text)
    parts = [part.strip() for part in re.split(r"[;,](?!\d{3}\b)", text) if part.strip()]
    if len(parts) > 1 and not row.get("run"):
        for part in parts:
            _finish(sorting, place, row, part, section)
        return
    label, stated = take_run(text)
    run = run_of(row.get("run", ""))
    keys, guess = _sections(sorting, section)
    if run is None:
        sorting.note(place, Status.NOT, f"“{row.get('run', '')}” is no print run: write 25, or leave it empty")
    elif not keys:
        sorting.note(place, Status.NOT, f"no section is called “{section}”: add its cards, or mend the name")
    else:
        _keep(sorting, place, label, run or stated, keys, section or "the base set", guess)


def _keep(
    sorting: Sorting, place: int, label: str, run: str, keys: list[str], whose: str, guess: str
) -> None:  # fmt: skip
    """Keep a finish of some sections; the plain card, and short prints, are no finish."""
    if is_plain(label):
        for key in keys * bool(run):
            sorting.add("parallels", place, parallel="", label="plain", section=key, run=run, group="")
        sorting.note(place, Status.UNDERSTOOD, f"the plain card of {whose}")
        return
    short = any(card.short for key in keys for _, card, _ in sorting.sections[key].cards)
    if short and not run and is_short_word(label):
        sorting.note(place, Status.UNDERSTOOD, f"the short prints of {whose}")
        return
    for part in re.split(r"\s*;\s*", label):
        for key in keys:
            sorting.parallel(place, key, part, run)
    guess += f" (“{no_run(label)}” is no run: kept as words of the finish)" if no_run(label) else ""
    words = f"{label} /{run}" if run else label
    sorting.note(place, Status.GUESSED if guess else Status.UNDERSTOOD, f"finish {words} of {whose}{guess}")


def _sections(sorting: Sorting, text: str) -> tuple[list[str], str]:
    """Return the keys of the sections a text names, and what was guessed."""
    if text.casefold().strip() in ALL_SECTIONS:
        return list(sorting.sections), " (every section)"
    if not text:
        base = base_of(sorting)
        return ([base] if base else []), " (no section is named)"
    found = find_section(sorting, text)
    several = _several(sorting, text) if not (found and found[1]) else []
    if several:
        return several, ""
    if found:
        return [found[0]], "" if found[1] else f" (read as {sorting.sections[found[0]].label})"
    if not sorting.sections:
        section = sorting.section(text, 0, says=False)
        return [section.key], " (no cards of it are listed)"
    return [], ""


def _several(sorting: Sorting, text: str) -> list[str]:
    """Return the keys of sections that one cell lists: “Base; Night Sprints”; none unless all of them are known."""
    parts = [part for part in re.split(r"\s*(?:[;,/+&]|\band\b|\bund\b|\bet\b)\s*", text) if part]
    found = [find_section(sorting, part) for part in parts]
    sure = [one[0] for one in found if one and one[1]]
    return sure if len(sure) == len(parts) > 1 else []


def add_listed(sorting: Sorting, place: int, section: str, text: str) -> None:
    """Add the finishes that one cell lists for its section."""
    found = find_section(sorting, section)
    for part in re.split(r"[;,](?!\d{3}\b)", text):
        label, run = take_run(part.strip())
        if label and found and not is_plain(label):
            sorting.parallel(place, found[0], label, run)


def read_grid(sorting: Sorting, table: Table) -> None:
    """Read runs by section: rows are finishes, columns sections, a run or a tick in the cell."""
    label_at = table.columns.by_field.get("parallel", 0)
    for place, cells in table.segment.rows:
        label = cells[label_at].strip() if label_at < len(cells) else ""
        own = run_of(fields_of(table.columns, cells).get("run", "")) or ""
        said = []
        for column, name in table.columns.spread.items():
            text = cells[column].strip() if column < len(cells) else ""
            found = find_section(sorting, name.partition(":")[2])
            if text.casefold() in NO or not found:
                continue
            ticked = is_ticked(text)
            run = own if ticked else run_of(text)
            if run is None or not label:
                sorting.note(place, Status.NOT, f"“{text}” is no print run of a finish")
                continue
            sorting.parallel(place, found[0], label, run)
            said.append(f"{sorting.sections[found[0]].label}{f' /{run}' if run else ''}")
        if said:
            sorting.note(place, Status.UNDERSTOOD, f"finish {label} of {', '.join(said)}")


def read_formats(sorting: Sorting, table: Table) -> None:
    """Read how the product is boxed, a row a format."""
    for place, cells in table.segment.rows:
        row = fields_of(table.columns, cells)
        name = row.get("format") or next((cell for cell in filled(cells) if not re.match(r"\d", cell)), "Box")
        packs, cards = _whole(row.get("packs_per_box", "")), _whole(row.get("cards_per_pack", ""))
        if not packs or not cards:
            sorting.note(place, Status.NOT, "packs in a box and cards in a pack are needed, as numbers")
            continue
        price, currency = _price(row)
        key = slug(re.sub(r"[ -]box$", "", name, flags=re.IGNORECASE)) or "box"
        sorting.add(
            "formats", place, format=key, label=name, packs_per_box=packs, cards_per_pack=cards,
            boxes_per_case=_whole(row.get("boxes_per_case", "")), list_price=price, currency=currency,
        )  # fmt: skip
        sorting.note(place, Status.UNDERSTOOD, f"{name}: {packs} packs of {cards}")


def _whole(text: str) -> str:
    found = re.match(r"\s*(\d{1,6}(?:\s?[-–]\s?\d{1,6})?)(?:\.0)?\b", text)
    return re.sub(r"\s?[-–]\s?", "-", found[1]) if found else ""


def _price(row: Fields) -> tuple[str, str]:
    text, currency = row.get("list_price", ""), row.get("currency", "").upper()
    for sign, codes in SYMBOLS.items():
        if sign in text:
            currency = currency or codes[0]
    named = re.search(r"\b([A-Z]{3})\b", text)
    amount = re.sub(r"[^\d.,]", "", text).strip(".,")
    if re.fullmatch(r"\d+,\d{1,2}|\d{1,3}(?:\.\d{3})+,\d{1,2}", amount):
        amount = amount.replace(".", "").replace(",", ".")
    return amount.replace(",", ""), currency or (named[1] if named else "")


def read_sections(sorting: Sorting, table: Table) -> None:
    """Read a list of sections with kind, code on the back and cue."""
    for place, cells in table.segment.rows:
        row = fields_of(table.columns, cells)
        label = row.get("section", "")
        if not label:
            sorting.note(place, Status.NOT, "a section without a name")
            continue
        found = find_section(sorting, label)
        section = sorting.sections[found[0]] if found else sorting.section(label, place, says=False)
        word = row.get("kind", "").casefold().replace(" ", "_").replace("-", "_")
        if word:
            section.kind = Kind(word) if word in set(Kind) else guess_kind(word.replace("_", " "))[0]
            section.named = True
        section.back_code = row.get("back_code", "") or section.back_code
        section.cue = row.get("cue", "") or section.cue
        code = row.get("prefix", "") or row.get("back_code", "")
        if code:
            sorting.codes[code.strip("- ")] = (place, section.label)
        sorting.note(place, Status.UNDERSTOOD, f"section “{label}”, {section.kind.value.replace('_', ' ')}")


def read_lists(sorting: Sorting, table: Table) -> None:
    """Read finishes that stand in lists below the names of their sections."""
    width = max((len(cells) for _, cells in table.segment.rows), default=0)
    heads = [*table.segment.heads, *[""] * width]
    for place, cells in table.segment.rows:
        said = []
        for column, text in enumerate(cells):
            found = find_section(sorting, heads[column]) if heads[column].strip() else None
            label, run = take_run(text.strip())
            if not label or found is None:
                continue
            beside = cells[column + 1] if column + 1 < len(cells) and not heads[column + 1].strip() else ""
            run = run or run_of(beside) or ""
            sorting.parallel(place, found[0], label, run)
            said.append(f"{label}{f' /{run}' if run else ''} of {sorting.sections[found[0]].label}")
        if said:
            sorting.note(place, Status.UNDERSTOOD, f"finishes: {', '.join(said)}")
