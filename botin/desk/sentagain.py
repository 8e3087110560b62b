"""A form that comes again with the key it had: the same once more, or something that must not pass for it."""

from __future__ import annotations

from botin.core.errors import StaleFormError


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
