"""The pictures of docs/screenshots, from the demo data at a fixed date, so that they only change with a view."""

from __future__ import annotations

import shutil
import sys
import tempfile
import threading
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from waitress import create_server

from botin.demo.build import build_demo
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from botin.web.app import create_app

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)
FLAGS = ["--disable-quic", "--disable-gpu", "--disable-background-networking", "--disable-component-update",
         "--disable-sync", "--no-first-run", "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"]  # fmt: skip


def shelf(page: Page) -> None:
    page.goto("/")


def open_box(page: Page) -> None:
    page.goto("/")
    if page.locator("#box-4 form").count():
        page.locator("#box-4 form button").click()
    else:
        page.goto("/rip/4")
    page.wait_for_selector("#entry-form[data-ready] #entry:focus")


def enter(page: Page, lines: Sequence[str]) -> None:
    for line in lines:
        page.keyboard.type(line)
        page.keyboard.press("Enter")
        while page.evaluate("Object.keys(localStorage).filter((key) => key.startsWith('botin-queue-')).length"):
            page.wait_for_timeout(20)


def buy_dear(page: Page) -> None:
    page.goto("/buy/2?format=jumbo&price=210&ship=8")
    page.wait_for_selector(".curve")


def set_board(page: Page) -> None:
    page.goto("/sets/board?part=4:base&format=cello")


def price(page: Page) -> None:
    page.goto("/prices/card/403?finish=halo")


def flag_board(page: Page) -> None:
    page.goto("/flags/")


def grading(page: Page) -> None:
    page.goto("/grading/choose")


def grading_order(page: Page) -> None:
    page.goto("/grading/2")


def stack(page: Page) -> None:
    page.goto("/grading/3/stack")
    page.get_by_label("Card", exact=True).fill("#6")
    page.keyboard.press("Enter")
    page.wait_for_selector(".stack-wrong")


def sales(page: Page) -> None:
    page.goto("/sales/")


def sale(page: Page) -> None:
    page.goto("/sales/2")


def grading_form(page: Page) -> None:
    page.goto("/grading/3/print?what=form")


def grading_results(page: Page) -> None:
    page.goto("/grading/results")


def rip(page: Page) -> None:
    open_box(page)
    enter(page, RIPPED)
    page.keyboard.type("mag")
    page.wait_for_selector(".candidate")


def recap(page: Page) -> None:
    page.goto("/recap/1")


RIPPED = (
    "bp3", "12 45 101 233", "7 copper", "18 sk4", "88", "", "210 211 212 213 214 sb3 215 216", "",
    "3 4 5 6 7 8 9 mp2", "", "61 62 63 64 44 cinder 36/50 66 67",
)  # fmt: skip


def books(page: Page) -> None:
    page.goto("/books/")


def person(page: Page) -> None:
    page.goto("/people/")
    page.get_by_role("link", name="Mira").click()


def glass(page: Page) -> None:
    page.goto("/look/")
    page.locator(".look-rows a").first.click()
    page.get_by_role("button", name="Scan front and back").click()
    page.wait_for_selector("#glass")
    for field, grade in (("Corners", "9.5"), ("Edges", "9.5"), ("Surface", "10")):
        page.get_by_label(field, exact=True).fill(grade)
    page.get_by_role("button", name="Keep this look").click()
    page.wait_for_selector(".closeups")
    page.wait_for_timeout(300)


def backs(page: Page) -> None:
    page.goto("/rip/19/backs")
    page.get_by_role("button", name="made-up pack").click()
    page.wait_for_selector(".back-slots")


def product(page: Page) -> None:
    page.goto("/library/1")


VIEWS: dict[str, Callable[[Page], None]] = {
    "shelf": shelf,
    "buy-dear": buy_dear,
    "price": price,
    "flag-board": flag_board,
    "grading": grading,
    "grading-order": grading_order,
    "stack": stack,
    "sales": sales,
    "sale": sale,
    "grading-form": grading_form,
    "grading-results": grading_results,
    "rip": rip,
    "recap": recap,
    "set-board": set_board,
    "product": product,
    "books": books,
    "person": person,
    "glass": glass,
    "backs": backs,
}


def serve(folder: Path) -> str:
    engine = open_engine(folder / DATABASE)
    migrate(engine)
    with sessions(engine)() as session:
        build_demo(session, Workbench(sessions(engine), lambda: NOW))
    app = create_app(Workbench(sessions(engine), lambda: NOW, folder), "key of the pictures", demo=True)
    server = create_server(app, host="127.0.0.1", port=0)
    threading.Thread(target=server.run, daemon=True).start()
    return f"http://127.0.0.1:{server.effective_port}"


def main(out: Path, wanted: list[str], scheme: str = "light", width: int = 1280) -> None:
    out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        url = serve(Path(folder))
        chromium = shutil.which("chromium")
        browser = play.chromium.launch(executable_path=chromium, headless=True, chromium_sandbox=False, args=FLAGS)
        page = browser.new_page(
            viewport={"width": width, "height": 800}, reduced_motion="reduce", base_url=url, color_scheme=scheme,
            locale="en-GB", timezone_id="UTC",
        )  # type: ignore[call-overload]  # fmt: skip
        for name in wanted or VIEWS:
            VIEWS[name](page)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=out / f"{name}.png")
        browser.close()


if __name__ == "__main__":
    options = dict(arg.removeprefix("--").split("=") for arg in sys.argv[1:] if arg.startswith("--"))
    names = [arg for arg in sys.argv[1:] if not arg.startswith("--")]
    target = Path(options.get("to", "docs/screenshots"))
    main(target, names, options.get("scheme", "light"), int(options.get("width", "1280")))
