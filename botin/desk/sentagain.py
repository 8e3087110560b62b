"""A form that comes again with the key it had: the same once more, or something that must not pass for it."""

from __future__ import annotations

from collections.abc import Mapping

from botin.core.errors import StaleFormError
from botin.store.catalog.history import Corrected, as_text


def same_again(known: object, **sent: object) -> None:
    """See that what is stored under a form's key is what the form says now.

    Raises
    ------
    StaleFormError
        When it differs: answering as if it were stored would lose it.
    """
    same_things([getattr(known, name) for name in sent], list(sent.values()))


def same_things(stored: object, sent: object) -> None:
    """See that what is stored is what was sent; as `same_again` otherwise."""
    if stored != sent:
        message = (
            "This form was sent before with something else in it, and that is what is stored. Reload the page, look "
            "at what is there, then write this down anew."
        )
        raise StaleFormError(message)


def same_correction(noted: Corrected, subject: str, row_id: int, row: object, sent: Mapping[str, object]) -> None:
    """See that what a form corrected under its key is what it says now; as `same_again` otherwise.

    A field it did not change must be as it stands in the row.
    """
    stored = {name: noted.now.get(name, as_text(getattr(row, name))) for name in sent}
    same_things(
        (noted.subject, noted.row_id, stored),
        (subject, row_id, {name: as_text(value) for name, value in sent.items()}),
    )
