"""How many statements a page asks the store: what it shows must not grow with the boxes it shows."""

from __future__ import annotations

from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import event

from botin.desk.workbench import Workbench

MOST = 15


@pytest.mark.parametrize("path", ["/", "/recap/", "/recap/1", "/recap/1/cards", "/flags/", "/books/", "/people/"])
def test_a_page_asks_little(path: str, client: FlaskClient, bench: Workbench) -> None:
    """Counted once what is kept ready is there, as for everyone but the first who looks."""
    assert client.get(path).status_code == 200
    seen: list[str] = []

    def count(_connection: Any, _cursor: Any, statement: str, *_rest: object) -> None:
        seen.append(statement)

    with bench.sessions() as session:
        engine = session.get_bind()
    event.listen(engine, "before_cursor_execute", count)
    try:
        client.get(path)
    finally:
        event.remove(engine, "before_cursor_execute", count)
    assert 0 < len(seen) <= MOST, "\n".join(seen)
