"""A box that was sold as it is, or was never bought, has no desk: the shelf says what happened to it."""

from __future__ import annotations

from flask import flash, redirect, url_for
from werkzeug.wrappers import Response

from botin.store.models import BoxRecord

WORDS = {
    "sold": "This box was sold as it is, unopened. Take the sale back here if that is wrong.",
    "removed": "This box was taken off the shelf: it was never bought. Bring it back here if that is wrong.",
}


def off_shelf(box: BoxRecord) -> Response | None:
    """Send the user to the shelf when the box is not there; None when it is."""
    if box.state not in WORDS:
        return None
    flash(WORDS[box.state])
    return redirect(url_for("shelf.index"))
