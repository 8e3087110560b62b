"""What the user says of a draft: which column is what, which kind a section is, that a guess is right."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

from sqlalchemy.orm import Session

from botin.core.catalog.nearnames import NearWord, near_words
from botin.core.catalog.product import Kind, Product
from botin.core.errors import ColumnTwiceError, NotFoundError
from botin.desk.catalog.drafts import gather, parted
from botin.desk.workbench import Workbench
from botin.exchange.catalog.columns import FIELD_WORDS
from botin.exchange.catalog.sheets import Sources
from botin.store.catalog.known import known_words, remember_columns, words_stamp
from botin.store.models import DraftRecord
from botin.store.unit import finish


def _keep(session: Session, record: DraftRecord, sources: Sources) -> None:
    record.sources = sources.to_json()
    finish(session)


def tell_columns(
    session: Session, bench: Workbench, record: DraftRecord, told: Mapping[str, Mapping[int, str]]
) -> None:
    """Say what the columns of tables are, by the shape of the table; it is remembered for the next such file.

    Raises
    ------
    NotFoundError
        When a field is none that a column can be.
    ColumnTwiceError
        When two columns are said to be the same.
    """
    sources = Sources.from_json(record.sources)
    for shape, fields in told.items():
        unknown = next((name for name in fields.values() if name not in FIELD_WORDS and ":" not in name), None)
        if unknown is not None:
            message = f"A column cannot be “{unknown[:40]}”. Choose one of the list."
            raise NotFoundError(message)
        sources.columns[shape] = _each_once(fields)
    for shape in told:
        remember_columns(session, shape, sources.columns[shape], bench.now())
    _keep(session, record, sources)


def _each_once(fields: Mapping[int, str]) -> dict[int, str]:
    """Return the columns with each field once; a second column of names or clubs is more of them."""
    made: dict[int, str] = {}
    for place, name in sorted(fields.items()):
        if name in made.values() and name in ("name", "team"):
            made[place] = f"more:{name}"
        elif name in made.values() and name != "own" and ":" not in name:
            message = f"Two columns cannot both be “{FIELD_WORDS[name]}”. Choose another for one of them."
            raise ColumnTwiceError(message)
        else:
            made[place] = name
    return made


def tell_kind(session: Session, record: DraftRecord, section: str, kind: str) -> None:
    """Say which kind a section is.

    Raises
    ------
    NotFoundError
        When there is no such kind.
    """
    if kind not in set(Kind):
        message = f"There is no kind “{kind[:40]}”. Choose one of the list."
        raise NotFoundError(message)
    sources = Sources.from_json(record.sources)
    sources.kinds[section[:200]] = kind
    _keep(session, record, sources)


def confirm(session: Session, record: DraftRecord, lines: Sequence[tuple[str, int]]) -> None:
    """Say that the guesses of lines are right."""
    sources = Sources.from_json(record.sources)
    sources.sure |= set(lines)
    _keep(session, record, sources)


def add_given(
    session: Session, record: DraftRecord, files: Sequence[tuple[str, bytes]], texts: dict[str, str]
) -> None:
    """Add files or texts to a draft; what was mended in it before stays mended.

    Raises
    ------
    UnreadableFileError
        When a file cannot be opened or is not safe to; the draft stays as it was.
    """
    sources = Sources.from_json(record.sources)
    gather(sources, files, texts)
    _keep(session, record, sources)


def take_word(session: Session, record: DraftRecord, word: str, known: str) -> int:
    """Write a word as it is known, wherever it stands whole; return how many lines were changed."""
    if not word.strip() or not known.strip():
        return 0
    whole = re.compile(rf"(?<!\w){re.escape(word)}(?!\w)")
    sources = Sources.from_json(record.sources)
    changed = 0
    sheets = []
    for sheet in sources.sheets:
        rows = []
        for line, cells in sheet.rows:
            written = tuple(whole.sub(lambda _: known, cell) for cell in cells) if word else cells
            changed += written != cells
            rows.append((line, written))
        sheets.append(replace(sheet, rows=tuple(rows)))
    _keep(session, record, replace(sources, sheets=sheets))
    return changed


def nearly_known(session: Session, bench: Workbench, record: DraftRecord, product: Product) -> tuple[NearWord, ...]:
    """Return names, clubs, sections and finishes of a draft that are nearly those of the library."""
    key = ("near", record.id, hash(record.sources), record.about, words_stamp(session))

    def look() -> tuple[NearWord, ...]:
        known = known_words(session, product.key)
        people = (person for card in product.cards for person in card.people)
        clubs = (club for card in product.cards for club in card.teams)
        sections = (section.label for section in product.sections)
        finishes = (row.label for row in product.parallels if row.key)
        return (
            *near_words(people, known.people), *near_words(clubs, known.clubs),
            *near_words(sections, known.sections), *near_words(finishes, known.finishes),
        )  # fmt: skip

    return bench.keep(key, look)


class SourceSheet(NamedTuple):
    """A sheet that a draft is made of, with the number of its lines; ``read`` is false for a picture."""

    place: str
    lines: int
    read: bool


def source_sheets(record: DraftRecord) -> list[SourceSheet]:
    """Return the sheets a draft is made of: nothing in one that is not read can be mended by typing."""
    checklist, prices = parted(Sources.from_json(record.sources))
    return [SourceSheet(one.place, len(one.rows), not one.unread) for one in (*checklist.sheets, *prices)]
