"""Read the backs at the rip desk: sure ones fill their slot, nothing is stored before the lines are logged."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.desk.opening.packbacks import line_for
from botin.desk.workbench import Workbench
from botin.standins.scanner import SimulatedScanner, Subject
from botin.store.models import BoxRecord, PullRecord
from tests.web.test_pages import token


@pytest.fixture
def box(session: Session) -> BoxRecord:
    return session.scalars(select(BoxRecord).where(BoxRecord.state == "open")).one()


def sheet(session: Session, bench: Workbench, box: BoxRecord, wanted: Sequence[tuple[str, str]]) -> bytes:
    product = bench.product(session, box.format.product)
    subjects = [
        Subject(at, product.name, number, product.card_by_number[section, number].name,
                code=f"VR{41 + at}{product.section_by_key[section].back_code}")
        for at, (section, number) in enumerate(wanted)
    ]  # fmt: skip
    return SimulatedScanner().sheet(subjects)


def logged(session: Session, box: BoxRecord, pack: int) -> int:
    wanted = (PullRecord.box_id == box.id, PullRecord.pack == pack, PullRecord.undone_at.is_(None))
    return session.scalar(select(func.count()).where(*wanted)) or 0


def lines_of(page: str) -> list[str]:
    return re.findall(r'name="line" value="([^"]*)"', page)


def test_a_scan_fills_the_slots_and_is_logged_as_one_step(
    client: FlaskClient, session: Session, bench: Workbench, box: BoxRecord
) -> None:
    data = sheet(session, bench, box, [("base", "48"), ("night", "163"), ("base", "111")])
    form = {"csrf_token": token(client), "scan": (io.BytesIO(data), "pack.jpg")}
    where = f"/rip/{box.id}/backs"
    page = client.post(f"{where}?pack=20", data=form, content_type="multipart/form-data").text
    found = lines_of(page)
    assert set(found) <= {"48", "night 163", "111"}
    assert len(found) >= 2
    assert logged(session, box, 20) == 0

    key = re.search(r'name="client_key" value="([^"]*)"', page)
    assert key
    sent = {"csrf_token": token(client), "pack": "20", "client_key": key[1], "line": ["48", "night 163", "111", ""]}
    page = client.post(f"{where}/log", data=sent, follow_redirects=True).text
    assert "3 cards logged from their backs" in page
    client.post(f"{where}/log", data=sent)
    session.expire_all()
    assert logged(session, box, 20) == 3
    client.post(f"/rip/{box.id}/undo", data={"csrf_token": token(client), "seen": ""})
    session.expire_all()
    assert logged(session, box, 20) == 0  # one step


@pytest.mark.parametrize(
    ("lines", "words"), [(["48", "9999"], "9999"), ([""], "No card is chosen"), ([], "No card is chosen")]
)
def test_a_line_that_cannot_be_logged_stores_none_and_keeps_them(
    client: FlaskClient, session: Session, box: BoxRecord, lines: list[str], words: str
) -> None:
    sent = {"csrf_token": token(client), "pack": "20", "client_key": "k", "line": lines}
    answer = client.post(f"/rip/{box.id}/backs/log", data=sent)
    assert answer.status_code == 422
    assert words in answer.text
    assert lines_of(answer.text) == [line for line in lines if line]
    session.expire_all()
    assert logged(session, box, 20) == 0


@pytest.mark.parametrize("data", [b"", b"no picture"])
def test_what_is_no_scan_is_said(client: FlaskClient, box: BoxRecord, data: bytes) -> None:
    form = {"csrf_token": token(client), "scan": (io.BytesIO(data), "pack.jpg")}
    answer = client.post(f"/rip/{box.id}/backs?pack=20", data=form, content_type="multipart/form-data")
    assert answer.status_code == 422
    assert 'role="alert"' in answer.text


def test_a_card_of_this_pack_is_asked_about(
    client: FlaskClient, session: Session, bench: Workbench, box: BoxRecord
) -> None:
    sent = {"csrf_token": token(client), "pack": "20", "client_key": "k", "line": ["48"]}
    client.post(f"/rip/{box.id}/backs/log", data=sent)
    data = sheet(session, bench, box, [("base", "48")])
    form = {"csrf_token": token(client), "scan": (io.BytesIO(data), "pack.jpg")}
    page = client.post(f"/rip/{box.id}/backs?pack=20", data=form, content_type="multipart/form-data").text
    assert lines_of(page) == []
    assert "is in this pack already: again?" in page


def test_the_line_for_a_version_is_read_as_that_version(session: Session, bench: Workbench, box: BoxRecord) -> None:
    record = box.format.product
    product, reader = bench.product(session, record), bench.reader(session, record)
    for card in product.cards[::17]:
        for row in ("", *(one.key for one in product.parallels_of(card))):
            line = line_for(reader, product, (card.section, card.number, row))
            read = reader.read(line).items[0]
            assert (read.known.section, read.known.number, read.parallel) == (card.section, card.number, row)
