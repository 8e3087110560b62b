"""The one place that answers failures: a friendly page, never a stack trace."""

from __future__ import annotations

import logging

from flask import Flask, render_template, request
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from botin.core.errors import BotinError
from botin.web.requests import is_fragment

log = logging.getLogger(__name__)
WORDS = {
    400: ("That did not come through", "Go back, reload the page and try once more."),
    403: ("Not allowed", "Go back to the shelf."),
    404: ("Nothing lies here", "The box or page is not on the table. Go back to the shelf."),
    405: ("Not this way", "Go back and use the button on the page."),
    413: ("Too large", "A file may have 64 MB. Split it, or save it as CSV."),
    500: (
        "Something broke",
        "What was shown as saved is saved. Reload the page; if it breaks again, look at the log.",
    ),
}


def install(app: Flask) -> None:
    """Register the handlers."""
    app.register_error_handler(BotinError, _expected)
    app.register_error_handler(CSRFError, _csrf)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(Exception, _unexpected)


def _page(status: int, title: str, message: str) -> tuple[str, int]:
    template = "_error.html" if is_fragment() else "error.html"
    return render_template(template, status=status, title=title, message=message), status


def _expected(error: BotinError) -> tuple[str, int]:
    title = WORDS.get(error.status, ("That did not work", ""))[0]
    return _page(error.status, title, error.message)


def _csrf(_error: CSRFError) -> tuple[str, int]:
    message = "The page was open for too long, or in another browser. Reload it and send the form again."
    return _page(400, "That form is too old", message)


def _http(error: HTTPException) -> tuple[str, int]:
    status = error.code or 500
    title, message = WORDS.get(status, WORDS[400])
    own = error.description if status == 400 and error.description else None
    return _page(status, title, own if own and own.startswith("This address") else message)


def _unexpected(error: Exception) -> tuple[str, int]:
    log.error("request %s %s failed", request.method, request.path, exc_info=error)
    return _page(500, *WORDS[500])
