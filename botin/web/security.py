"""Headers, and who may call: pages are for this machine's browser only."""

from __future__ import annotations

from flask import Flask, Response, abort, current_app, request

HEADERS = {
    "Content-Security-Policy": (
        "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; "
        "form-action 'self'; frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}
LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}


def install(app: Flask) -> None:
    """Check the Host header before each request and set the headers after it."""
    app.config.setdefault("ALLOWED_HOSTS", LOOPBACK)
    app.jinja_env.globals.update(home_id=home_id)
    app.before_request(_check_host)
    app.before_request(_check_home)
    app.after_request(_headers)


def _check_host() -> None:
    """A page elsewhere that points a name at this machine does not get in (DNS rebinding)."""
    host = request.headers.get("Host", "")
    name = host.rsplit(":", 1)[0] if not host.endswith("]") else host
    if name not in current_app.config["ALLOWED_HOSTS"]:
        abort(400, "This address is not one Botin answers to. Open it as http://127.0.0.1.")


def _check_home() -> Response | None:
    """Do nothing for a page of another data directory that stayed open while this one took its address."""
    asked = request.form.get("home") if request.method == "POST" else None
    if asked is None or asked == home_id():
        return None
    return Response("This form belongs to another data directory. Nothing was stored.", 409, mimetype="text/plain")


def home_id() -> str:
    """Return the id of the data directory that is served here."""
    found: str = current_app.extensions["bench"].home_id
    return found


def _headers(response: Response) -> Response:
    for name, value in HEADERS.items():
        response.headers.setdefault(name, value)
    if request.endpoint != "static" and not response.cache_control.private:
        # A page or a download is what is there now; Flask would let send_file's answers be kept for weeks.
        response.headers["Cache-Control"] = "no-store"
    if request.endpoint != "static":
        response.headers["X-Botin-Home"] = home_id()
    return response
