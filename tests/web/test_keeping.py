"""What fails is said, what is kept can be put back, what is shown is what is there."""

from __future__ import annotations

import io
import logging
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from sqlalchemy import event
from sqlalchemy.orm import Session

from botin.core.errors import BotinError
from botin.desk.opening.rip import close_box, open_box
from botin.desk.troubles import Troubles
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.backup import FOLDER, numbered, rolling_backup
from botin.store.keeping.logfile import write_log
from botin.store.keeping.onlyone import AlreadyServedError, Serving
from botin.store.keeping.upgrade import migrate
from botin.store.models import BoxRecord, SettingRecord
from botin.web.app import create_app
from tests.web.test_fees import token

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)


@pytest.fixture
def housed(bench: Workbench, home: Path) -> Workbench:
    """A workbench that knows its data directory."""
    bench.home = home
    bench.troubles = Troubles(home)
    return bench


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[FlaskClient]:
    """A Botin on a home of its own that holds nothing."""
    folder = tmp_path / "empty"
    folder.mkdir()
    engine = open_engine(folder / DATABASE)
    migrate(engine)
    made = create_app(Workbench(sessions(engine), lambda: NOW, folder), "another key for tests")
    made.config["ALLOWED_HOSTS"] = {"127.0.0.1", "localhost"}
    yield made.test_client()
    engine.dispose()


def test_a_backup_that_fails_is_said_on_every_screen_until_it_is_dealt_with(
    client: FlaskClient, session: Session, housed: Workbench, home: Path
) -> None:
    (home / FOLDER).write_text("no folder")
    close_box(session, housed, open_box(session, housed, 4), 0)
    job = housed.jobs.get(f"backup-{housed.now():%Y%m%d%H%M%S%f}")
    assert job.wait(60)
    for path in ("/", "/library/", "/settings/", "/recap/"):
        assert "Backing up the data file failed" in client.get(path).text
    assert Troubles(home).all() == housed.troubles.all(), "a restart does not forget it"
    fields = {"csrf_token": token(client), "kind": housed.troubles.all()[0].kind}
    assert "failed" not in client.post("/keeping/settle", data=fields, follow_redirects=True).text
    assert Troubles(home).all() == ()


def test_a_backup_that_goes_well_again_settles_it(client: FlaskClient, housed: Workbench) -> None:
    housed.troubles.note("Backing up the data file", "Backing up the data file failed: the disk is full.", NOW)
    housed.troubles.note("Backing up the data file", "Backing up the data file failed: the disk is full.", NOW)
    assert "2 times" in client.get("/").text
    assert (
        "taken and checked"
        in client.post("/keeping/take", data={"csrf_token": token(client)}, follow_redirects=True).text
    )
    assert housed.troubles.all() == ()


def test_what_a_job_refuses_in_words_is_no_trouble(housed: Workbench) -> None:
    def refuse(_job: object) -> int:
        message = "Not like this."
        raise BotinError(message)

    assert housed.jobs.start("refused", "Reading", refuse).wait(10)
    assert housed.troubles.all() == ()


def test_troubles_that_cannot_be_written_are_kept_in_memory(tmp_path: Path) -> None:
    found = Troubles(tmp_path / "not there")
    found.note("a", "A failed.", NOW)
    assert [row.words for row in found.all()] == ["A failed."]
    (tmp_path / "troubles.json").write_text("[{broken")
    assert Troubles(tmp_path).all() == ()


def test_backups_are_ordered_by_their_number_whatever_the_clock_says(home: Path, tmp_path: Path) -> None:
    """The clock steps back an hour with every backup; each new one is still the newest, and ten are kept."""
    made = [rolling_backup(home / DATABASE, tmp_path / FOLDER, NOW - timedelta(hours=n)) for n in range(13)]
    assert numbered(tmp_path / FOLDER) == made[3:]


def test_backups_named_by_the_clock_alone_are_the_oldest(home: Path, tmp_path: Path) -> None:
    folder = tmp_path / FOLDER
    folder.mkdir()
    old = shutil.copy(home / DATABASE, folder / "botin-20991231-235959.db")
    made = rolling_backup(home / DATABASE, folder, NOW)
    assert numbered(folder) == [Path(old), made]


def test_photos_are_copied_along_once_and_come_back(home: Path, tmp_path: Path) -> None:
    (home / "photos").mkdir()
    (home / "photos" / "a.jpg").write_bytes(b"picture")
    rolling_backup(home / DATABASE, home / FOLDER, NOW)
    kept = home / FOLDER / "photos" / "a.jpg"
    stamp = kept.stat().st_mtime_ns
    rolling_backup(home / DATABASE, home / FOLDER, NOW)
    assert kept.stat().st_mtime_ns == stamp
    assert kept.stat().st_mode & 0o077 == 0


def test_a_backup_is_put_back_while_botin_runs_and_what_was_there_is_kept(
    client: FlaskClient, session: Session, housed: Workbench, home: Path
) -> None:
    page = client.post("/keeping/take", data={"csrf_token": token(client)}, follow_redirects=True).text
    name = numbered(home / FOLDER)[0].name
    assert name in page
    session.get_one(BoxRecord, 1).label = "written later"
    session.commit()
    assert "written later" in client.get("/recap/1").text
    found = client.post("/keeping/put-back", data={"csrf_token": token(client), "name": name}, follow_redirects=True)
    assert "What was there is kept as before-restore" in found.text
    assert "written later" not in client.get("/recap/1").text
    before = next((home / FOLDER).glob("before-restore-*.db"))
    with closing(sqlite3.connect(before)) as data:
        assert data.execute("SELECT label FROM box WHERE id = 1").fetchone() == ("written later",)


@pytest.mark.parametrize("what", ["newer", "foreign", "cut", "lacks a column", "orphans", "no file"])
def test_what_cannot_be_opened_replaces_nothing(
    client: FlaskClient, session: Session, housed: Workbench, home: Path, tmp_path: Path, what: str
) -> None:
    bad = shutil.copy(home / DATABASE, tmp_path / "bad.db")
    with closing(sqlite3.connect(bad)) as data, data:
        if what == "newer":
            data.execute("UPDATE alembic_version SET version_num = '9999'")
        elif what == "foreign":
            data.executescript("DROP TABLE alembic_version")
        elif what == "lacks a column":
            data.execute("ALTER TABLE product RENAME COLUMN maker TO maker2")
        elif what == "orphans":
            data.execute("DELETE FROM product WHERE id = 1")
    content = Path(bad).read_bytes()
    content = content[: len(content) // 2] if what == "cut" else b"" if what == "no file" else content
    session.merge(SettingRecord(key="mark", value='"here"'))
    session.commit()
    fields = {"csrf_token": token(client), "file": (io.BytesIO(content), "bad.db")}
    found = client.post("/keeping/put-back", data=fields, content_type="multipart/form-data", follow_redirects=True)
    assert found.status_code == 200
    assert "othing was replaced" in found.text
    assert "bad.db" in found.text
    assert "/upload-" not in found.text
    session.expire_all()
    assert session.get_one(SettingRecord, "mark").value == '"here"'
    assert sorted(path.name for path in home.glob("*.restore*")) == []
    assert sorted(path.name for path in home.glob("upload-*")) == []


def test_a_backup_that_is_not_on_the_list_is_not_put_back(client: FlaskClient, housed: Workbench) -> None:
    fields = {"csrf_token": token(client), "name": "../botin.db"}
    found = client.post("/keeping/put-back", data=fields, follow_redirects=True)
    assert "not there any more" in found.text
    assert client.get("/keeping/..%2Fbotin.db").status_code == 404


@pytest.mark.parametrize(
    "path",
    ["/openings/1/openings.csv", "/sets/copies.csv", "/prices/1/prices.csv", "/library/1/export.zip", "/recap/1"],
)
def test_what_is_downloaded_is_what_is_there_now(client: FlaskClient, path: str) -> None:
    with client.get(path) as found:
        assert found.status_code == 200, path
        assert found.headers["Cache-Control"] == "no-store"


def test_scripts_and_styles_may_be_kept(client: FlaskClient) -> None:
    with client.get("/static/botin.css") as found:
        assert "max-age" in found.headers["Cache-Control"]


def test_the_cookie_has_the_name_of_the_program(client: FlaskClient) -> None:
    """Cookies know no ports: two programs on this machine that both say “session” take each other's away."""
    assert client.get("/boxes/new").headers["Set-Cookie"].startswith("botin=")


def test_failures_are_written_to_a_file_in_the_data_directory(tmp_path: Path) -> None:
    path = write_log(tmp_path)
    handler = logging.getLogger().handlers[-1]
    try:
        logging.getLogger("botin.test").error("this broke")
    finally:
        logging.getLogger().removeHandler(handler)
        handler.close()
    assert "ERROR botin.test: this broke" in path.read_text("utf-8")


def test_a_second_server_on_the_same_data_is_told_where_the_first_one_is(tmp_path: Path) -> None:
    first, second = Serving(tmp_path), Serving(tmp_path)
    first.hold()
    first.tell("http://127.0.0.1:8321")
    with pytest.raises(AlreadyServedError, match=r"already at http://127.0.0.1:8321"):
        second.hold()
    first.let_go()
    second.hold()
    second.let_go()


@pytest.mark.parametrize("number", [2**63, 10**30])
@pytest.mark.parametrize("path", ["/recap/{}", "/rip/{}", "/library/{}", "/buy/{}", "/prices/card/{}", "/sealed/{}"])
def test_an_address_with_a_huge_number_names_nothing(client: FlaskClient, path: str, number: int) -> None:
    assert client.get(path.format(number)).status_code == 404


@pytest.mark.parametrize("price", ["9" * 19, "9" * 400, "1e300"])
def test_a_price_beyond_what_can_be_stored_is_refused_in_words(
    client: FlaskClient, session: Session, price: str
) -> None:
    before = session.query(BoxRecord).count()
    fields = {
        "csrf_token": token(client), "format_id": "1", "price": price, "bought_on": "2026-11-01", "client_key": "huge",
        "count": "1",
    }  # fmt: skip
    found = client.post("/boxes/new", data=fields)
    assert found.status_code == 422
    assert session.query(BoxRecord).count() == before


def test_a_disk_that_is_full_is_said(client: FlaskClient, bench: Workbench) -> None:
    """SQLite's own limit stands in for the disk: the file may not grow by a page."""
    engine = bench.sessions.kw["bind"]

    def full(connection: sqlite3.Connection, _record: object, _proxy: object) -> None:
        connection.execute(f"PRAGMA max_page_count={connection.execute('PRAGMA page_count').fetchone()[0]}")

    csrf = token(client)
    event.listen(engine, "checkout", full)
    lines = "\n".join(f"{number} {' '.join(['9.50'] * 60)}" for number in range(1, 200))
    found = client.post("/prices/", data={"csrf_token": csrf, "product": "1", "lines": lines})
    assert found.status_code == 507
    assert "Make room on the disk" in found.text


def test_what_was_there_is_kept_each_time_also_within_one_second(
    client: FlaskClient, session: Session, housed: Workbench, home: Path
) -> None:
    made = rolling_backup(home / DATABASE, home / FOLDER, NOW)
    for label in ("first", "second"):
        session.get_one(BoxRecord, 1).label = label
        session.commit()
        client.post("/keeping/put-back", data={"csrf_token": token(client), "name": made.name})
        session.expire_all()
    kept = []
    for path in sorted((home / FOLDER).glob("before-restore-*.db")):
        with closing(sqlite3.connect(path)) as data:
            kept.append(data.execute("SELECT label FROM box WHERE id = 1").fetchone()[0])
    assert kept == ["first", "second"]
    assert housed.home == home


def test_everything_goes_along_and_into_an_empty_home_from_the_browser(
    client: FlaskClient, housed: Workbench, empty: FlaskClient, tmp_path: Path
) -> None:
    with client.get("/keeping/everything") as found:
        whole = found.data
        assert found.headers["Content-Disposition"].endswith("botin-home-2026-11-24.zip")
    assert "goes into an empty home only" in client.get("/keeping/").text
    fields = {"csrf_token": token(client), "file": (io.BytesIO(whole), "home.zip")}
    refused = client.post(
        "/keeping/everything", data=fields, content_type="multipart/form-data", follow_redirects=True
    )
    assert "holds something already" in refused.text
    assert "Take it in" in empty.get("/keeping/").text
    fields = {"csrf_token": token(empty), "file": (io.BytesIO(b"PK"), "torn.zip")}
    torn = empty.post("/keeping/everything", data=fields, content_type="multipart/form-data", follow_redirects=True)
    assert "torn.zip is no zip of a whole home" in torn.text
    fields = {"csrf_token": token(empty), "file": (io.BytesIO(whole), "home.zip")}
    taken = empty.post("/keeping/everything", data=fields, content_type="multipart/form-data", follow_redirects=True)
    assert "Everything is here" in taken.text
    with empty.get("/keeping/everything") as found:
        assert found.data == whole
    assert empty.get("/").text.count("box-tile") == client.get("/").text.count("box-tile") > 3
    left = {path.name for path in (tmp_path / "empty").iterdir()} - {"backups", "home-id", "log"}
    assert {name.removeprefix(DATABASE) for name in left} <= {"", "-wal", "-shm"}
