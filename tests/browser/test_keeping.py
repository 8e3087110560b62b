"""Safe keeping by the keyboard: a backup, something written down, the backup put back, everything taken along."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from tests.browser.conftest import axe_both
from tests.conftest import NOW

pytestmark = pytest.mark.browser


@pytest.fixture
def kept(bench: Workbench, home: Path, page: Page) -> Page:
    bench.home = home
    page.goto("/keeping/")
    return page


def test_a_backup_is_put_back_from_the_keyboard(kept: Page) -> None:
    kept.get_by_role("button", name="Take a backup now").press("Enter")
    expect(kept.locator("table.sheet tbody tr")).to_have_count(1)
    assert axe_both(kept) == []
    kept.goto("/")
    sealed = kept.locator(".box-tile").count()
    kept.locator("#box-4 form button").press("Enter")
    expect(kept.locator("#entry-form[data-ready]")).to_be_visible()
    kept.goto("/keeping/")
    kept.locator("summary", has_text="Put this one back").press("Enter")
    kept.get_by_role("button", name="Yes, put it back").press("Enter")
    expect(kept.get_by_text("What was there is kept as before-restore")).to_be_visible()
    expect(kept.locator("table.sheet tbody tr")).to_have_count(2)
    kept.goto("/")
    expect(kept.locator(".box-tile")).to_have_count(sealed)
    expect(kept.locator("#box-4.is-open")).to_have_count(0)


def test_everything_is_taken_along_and_into_an_empty_home(
    kept: Page, bench: Workbench, app: object, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("moved")
    with kept.expect_download() as coming:
        kept.get_by_role("link", name="Take everything along").click()
    coming.value.save_as(folder / "home.zip")
    with zipfile.ZipFile(folder / "home.zip") as archive:
        assert {"datapackage.json", "pull.csv", "product.csv"} <= set(archive.namelist())
    kept.goto("/")
    tiles = kept.locator(".box-tile").count()
    engine = open_engine(folder / DATABASE)
    migrate(engine)
    app.extensions["bench"] = Workbench(sessions(engine), lambda: NOW, folder)  # type: ignore[attr-defined]
    kept.goto("/keeping/")
    assert axe_both(kept) == []
    kept.get_by_label("A whole home (.zip)").set_input_files(folder / "home.zip")
    kept.get_by_role("button", name="Take it in").press("Enter")
    expect(kept.get_by_text("Everything is here")).to_be_visible()
    expect(kept.locator(".box-tile")).to_have_count(tiles)
    engine.dispose()
