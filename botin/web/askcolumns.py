"""One mapping screen for every table that is given in: which column is what, asked once and remembered."""

from __future__ import annotations

import re

from flask import render_template, request
from werkzeug.datastructures import FileStorage

from botin.exchange.decode import decode
from botin.exchange.loosetable import ColumnsUnclearError
from botin.store.catalog.known import remember_columns
from botin.web.requests import bench, session

_COLUMN = re.compile(r"column-(\d{1,3})")


def given_file(name: str = "file") -> tuple[str, bytes]:
    """Return name and bytes of the file that was chosen, or that came along from the mapping screen."""
    carried = request.form.get("carried", "")
    if carried:
        return request.form.get("carried_name", "")[:200] or "table.csv", carried.encode()
    file: FileStorage | None = request.files.get(name)
    return (file.filename or "", file.read()) if file else ("", b"")


def keep_told() -> None:
    """Remember what the user said on the mapping screen, if he comes from there."""
    shape = request.form.get("shape", "")
    if not shape:
        return
    fields = {}
    for name, value in request.form.items():
        if found := _COLUMN.fullmatch(name):
            fields[int(found[1])] = value[:80]
    remember_columns(session(), shape[:4000], fields, bench().now())


def ask(error: ColumnsUnclearError, action: str, name: str, data: bytes) -> tuple[str, int]:
    """Show the mapping screen; the file comes along, nothing of it is stored."""
    page = render_template(
        "columns.html", error=error, action=action, name=name, carried=decode(data),
        fields=[(column.name, column.about) for column in error.spec.columns],
    )  # fmt: skip
    return page, 422
