"""The sealed check from the browser: photos by their content, and a refused one stores nothing of the form."""

from __future__ import annotations

import io
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord, PhotoRecord
from tests.exchange.test_picture import with_place
from tests.web.test_fees import token


@pytest.fixture
def sealed(session: Session, bench: Workbench, home: Path) -> int:
    bench.home = home
    found = session.scalar(select(BoxRecord.id).where(BoxRecord.state == "sealed").limit(1))
    assert found is not None
    return found


def send(client: FlaskClient, box: int, *files: tuple[bytes, str]) -> str:
    fields = {
        "csrf_token": token(client), "wrap": "shrink-wrapped", "seal": "warning", "note": "torn at one corner",
        "photos": [(io.BytesIO(data), name) for data, name in files],
    }  # fmt: skip
    return client.post(
        f"/boxes/{box}/check", data=fields, content_type="multipart/form-data", follow_redirects=True
    ).text


def test_a_refused_photo_stores_nothing_and_keeps_what_was_typed(
    client: FlaskClient, session: Session, sealed: int, home: Path
) -> None:
    page = send(client, sealed, (with_place("PNG"), "good.png"), (b"<svg>", "bad.png"))
    assert "Nothing was noted. bad.png: A photo is a whole JPEG" in page
    assert "torn at one corner" in page
    session.expire_all()
    assert session.get_one(BoxRecord, sealed).sealed_check == ""
    assert session.scalars(select(PhotoRecord)).all() == []
    assert not (home / "photos").exists()


def test_photos_are_private_and_asked_for_by_their_content(
    client: FlaskClient, session: Session, sealed: int
) -> None:
    page = send(client, sealed, (with_place("JPEG"), "one.jpg"), (with_place("JPEG"), "same.jpg"))
    assert "Noted:" in page
    (photo,) = session.scalars(select(PhotoRecord)).all()
    first = client.get(f"/boxes/photos/{photo.id}")
    assert first.headers["Cache-Control"] == "private, no-cache"
    assert b"Harbour" not in first.data
    again = client.get(f"/boxes/photos/{photo.id}", headers={"If-None-Match": first.headers["ETag"]})
    assert (again.status_code, again.data) == (304, b"")
