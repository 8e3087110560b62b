"""The page of swaps by its forms: lists held against mine, a swap noted, and what cannot be is said."""

from __future__ import annotations

import re

from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from botin.desk.copies.setboard import board
from botin.desk.copies.swapping import spares_of
from botin.desk.workbench import Workbench
from tests.web.test_routes import token

HERE = "/sets/swap?part=1:base"


def test_lists_are_held_against_mine_and_a_swap_is_noted(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    mine = board(session, bench, [(1, "base")])
    spare, need = spares_of(session, mine)[0], mine.missing[0]
    assert HERE.replace("/sets/", "/sets/") in client.get("/sets/board?part=1:base").text.replace("%3A", ":")
    page = client.get(f"{HERE}&has={need.number},zzz9&wants={spare.cell.number}").text
    assert "Not on the checklist, and not used: zzz9" in page
    assert f"1:base:{need.number}" in page
    assert len(re.findall(r'name="get"', page)) == 1
    form = {
        "csrf_token": token(client, HERE), "client_key": "k", "copy": str(spare.copy_id),
        "get": f"1:base:{need.number}", "to": "Ada", "cash": "0",
    }  # fmt: skip
    assert "Swapped: 1 came in" in client.post(HERE, data=form, follow_redirects=True).text
    session.expire_all()
    after = board(session, bench, [(1, "base")])
    assert next(cell for cell in after.cells if cell.number == need.number).have == 1


def test_what_cannot_be_is_said_and_what_was_typed_is_kept(client: FlaskClient, session: Session) -> None:
    form = {"csrf_token": token(client, HERE), "client_key": "k", "to": "Ada", "cash": "dear", "get": "1:base:nobody"}
    answer = client.post(HERE, data=form, follow_redirects=True).text
    assert "Nothing was stored" in answer
    assert 'value="dear"' in answer
    answer = client.post(HERE, data={**form, "cash": "0"}, follow_redirects=True).text
    assert "“base nobody” is on no checklist" in answer
    answer = client.post(HERE, data={**form, "cash": "0", "get": ""}, follow_redirects=True).text
    assert "A swap has two sides" in answer
    assert client.get("/sets/swap").status_code == 404
