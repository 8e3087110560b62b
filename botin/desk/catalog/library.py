"""Products into the store and out of it, from files."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path

from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError
from botin.desk.catalog.drafts import Stored, look_through, parted, store_view
from botin.desk.workbench import Workbench
from botin.exchange.catalog.interpret import About, Draft, interpret
from botin.exchange.catalog.package import workbook_bytes, write_folder, zip_bytes
from botin.exchange.catalog.sheets import Sources, read_paths
from botin.exchange.notes import Status
from botin.store.catalog.lists import find_product
from botin.store.catalog.products import load_product
from botin.store.models import ProductRecord
from botin.store.unit import finish


def import_files(session: Session, bench: Workbench, paths: Sequence[Path], name: str = "") -> Stored:
    """Read files and store the product in them, all or nothing, with the ``prices.csv`` that lies beside it.

    Raises
    ------
    UnreadableFileError
        When a file cannot be opened.
    ImportRefusedError
        When a line is not understood or a row could not be kept; nothing is stored.
    """
    return import_given(session, bench, read_paths(paths), name, guesses=True)


def import_given(
    session: Session, bench: Workbench, sources: Sources, name: str = "", *, guesses: bool, leave_out: bool = False
) -> Stored:
    """Store what was given, all or nothing.

    Parameters
    ----------
    guesses : bool
        Whether it is stored although lines were guessed.
    leave_out : bool
        Whether lines that nobody could read are left out, and said, instead of standing in the way.

    Raises
    ------
    ImportRefusedError
        When a line is guessed or not understood, or a row could not be kept; nothing is stored.
    """
    checklist, prices = parted(sources)
    if not checklist.sheets:
        message = "There is no table in it. Give a package (folder or .zip), a workbook, CSV files or text."
        raise ImportRefusedError(message)
    about = About(name=name)
    draft = interpret(checklist, about)
    left: tuple[str, ...] = ()
    if leave_out:
        checklist, left = _without_unread(checklist, draft)
        draft = interpret(checklist, about) if left else draft
    if not guesses:
        _refuse_guesses(draft)
    stored = store_view(session, bench, look_through(session, draft, about, bench.today(), prices))
    finish(session)
    return Stored(stored.record, (*left, *stored.notes))


def _refuse_guesses(draft: Draft) -> None:
    guessed = [note for note in draft.notes if note.status is Status.GUESSED]
    if guessed:
        first = f"{guessed[0].sheet}, line {guessed[0].line}: {guessed[0].says}"
        count = "1 line was" if len(guessed) == 1 else f"{len(guessed)} lines were"
        message = (
            f"Nothing was stored. {count} guessed ({first}). Look at them with botin read, mend them, or say "
            "--accept-guesses."
        )
        raise ImportRefusedError(message)


def _without_unread(sources: Sources, draft: Draft) -> tuple[Sources, tuple[str, ...]]:
    """Leave out the lines that were not understood; return what is left, and a word about each."""
    said = []
    for note in draft.notes:
        if note.status is Status.NOT:
            sources = sources.replaced(note.sheet, note.line, [])
            said.append(f"Left out: {note.sheet}, line {note.line}: {note.text[:80]} ({note.says})")
    return sources, tuple(said)


def export_product(session: Session, key: str, target: Path) -> None:
    """Write a product as a folder, or by the target's ending as .zip or .xlsx."""
    product = load_product(session, find_product(session, key))
    suffix = target.suffix.casefold()
    if suffix in (".zip", ".xlsx"):
        data = zip_bytes(product) if suffix == ".zip" else workbook_bytes(product)
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(data)
    else:
        write_folder(product, target)


def export_bytes(session: Session, record: ProductRecord, kind: str) -> io.BytesIO:
    """Return a product as the bytes of a .zip or .xlsx."""
    product = load_product(session, record)
    return io.BytesIO(zip_bytes(product) if kind == "zip" else workbook_bytes(product))
