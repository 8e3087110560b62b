"""Something is done for a form and what came of it is said; refused, nothing is stored, what was typed is kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import flash, redirect, url_for
from werkzeug.wrappers import Response

from botin.core.errors import BotinError, NotFoundError
from botin.web.requests import keep_typed, session


def ticked(deed: Callable[[], None]) -> Response:
    """Keep a tick that was sent by itself; refused, the page is asked for anew, with the reason."""
    try:
        deed()
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(f"That tick is not kept. {exc.message}")
        return Response(status=204, headers={"HX-Refresh": "true"})
    return Response(status=204)


def tried(
    deed: Callable[[], str], to: str, *, anchor: str = "", refused: str = "Nothing was changed.", **where: Any
) -> Response:
    """Do it, say what it says, and go to a page.

    Parameters
    ----------
    to, anchor, where
        Endpoint to go to, a place on its page, and what its address names.
    refused : str
        Stands before the reason when it was refused.
    """
    try:
        said = deed()
    except NotFoundError:
        raise
    except BotinError as exc:
        session().rollback()
        flash(f"{refused} {exc.message}")
        return redirect(url_for(to, typed=keep_typed(), _anchor=anchor or None, **where), 303)
    flash(said)
    return redirect(url_for(to, _anchor=anchor or None, **where), 303)
