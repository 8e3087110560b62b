"""The one place that answers failures: a friendly page, never a stack trace."""

from __future__ import annotations

import logging

from flask import Flask, Response, make_response, render_template, request
from flask_wtf.csrf import CSRFError
from sqlalchemy.exc import OperationalError
from werkzeug.exceptions import HTTPException

from botin.core.errors import BotinError
from botin.web.requests import is_fragment, take_back

log = logging.getLogger(__name__)
WORDS = {
    400: ("That did not come through", "Go back, reload the page and try once more."),
    403: ("Not allowed", "Go back to the shelf."),
    404: ("Nothing lies here", "The box or page is not on the table. Go back to the shelf."),
    405: ("Not this way", "Go back and use the button on the page."),
    413: ("Too large", "A file may have 64 MB. Split it, or save it as CSV."),
    500: (
        "Something broke",
        "What was shown as saved is saved. Reload the page; if it breaks again, see botin.log in the data directory.",
    ),
}


FULL = "Nothing of this was stored. Make room on the disk, then send it again."
READ_ONLY = "Nothing was stored. Give Botin the right to write to its data directory, then send it again."
BUSY = "Nothing of this was stored. Send it again in a moment."
BROKEN = "Nothing of this was stored. Look at the disk, then restore the newest backup if the data is damaged."
STORE = (
    ("full", 507, "The disk is full", FULL),
    ("readonly", 500, "The data may not be written to", READ_ONLY),
    ("locked", 503, "Someone else is writing", BUSY),
    ("disk i/o", 500, "The disk does not answer", BROKEN),
)
"""What the store says, and what that means for the user."""


def install(app: Flask) -> None:
    """Register the handlers."""
    app.register_error_handler(BotinError, _expected)
    app.register_error_handler(CSRFError, _csrf)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(OverflowError, _too_large)
    app.register_error_handler(OperationalError, _store)
    app.register_error_handler(Exception, _unexpected)


def _page(status: int, title: str, message: str) -> tuple[str, int]:
    template = "_error.html" if is_fragment() else "error.html"
    return render_template(template, status=status, title=title, message=message), status


def _expected(error: BotinError) -> tuple[str, int]:
    title = WORDS.get(error.status, ("That did not work", ""))[0]
    return _page(error.status, title, error.message)


def _csrf(_error: CSRFError) -> Response:
    message = "The page was open for too long, or in another browser. Reload it and send the form again."
    page, status = _page(400, "That form is too old", message)
    return make_response(page, status, {"X-Form-Old": "yes"})


def _http(error: HTTPException) -> tuple[str, int]:
    status = error.code or 500
    title, message = WORDS.get(status, WORDS[400])
    own = error.description if status == 400 and error.description else None
    return _page(status, title, own if own and own.startswith("This address") else message)


def _too_large(_error: OverflowError) -> tuple[str, int]:
    """A number beyond what the store holds: an address that names nothing, or a form that cannot be kept."""
    take_back()
    if request.method == "GET":
        return _page(404, *WORDS[404])
    return _page(422, "That number is too large", "Nothing was stored. Go back and write a smaller one.")


def _store(error: OperationalError) -> tuple[str, int]:
    """The data file could not be written: what is wrong, and that nothing of it was stored."""
    take_back()
    text = str(error.orig).casefold()
    log.error("request %s %r failed", request.method, request.path, exc_info=error)
    for sign, status, title, words in STORE:
        if sign in text:
            return _page(status, title, words)
    return _page(500, *WORDS[500])


def _unexpected(error: Exception) -> tuple[str, int]:
    log.error("request %s %r failed", request.method, request.path, exc_info=error)
    take_back()
    return _page(500, *WORDS[500])
