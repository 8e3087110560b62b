"""A real server as a process of its own, and headless Chromium that may look nothing up."""

from __future__ import annotations

import contextlib
import re
import shutil
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask import Flask
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright
from waitress import create_server

from botin.home import DATABASE
from tests.server import Server

FLAGS = [
    "--disable-quic",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
]
expect.set_options(timeout=20_000)  # a machine that is busy must not fail what holds
RULES = "{runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa', 'best-practice']}"
AXE = Path(__file__).parents[1] / "vendor" / "axe.min.js"


@pytest.fixture
def server(home: Path) -> Iterator[Server]:
    made = Server(home)
    yield made
    made.stop()


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as found:
        yield found


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    found = playwright.chromium.launch(
        executable_path="/usr/bin/chromium", headless=True, chromium_sandbox=False, args=FLAGS
    )
    yield found
    found.close()


@pytest.fixture(scope="session")
def reading(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One server for all tests that only look."""
    home = tmp_path_factory.mktemp("reading")
    for file in demo_file.parent.glob(f"{DATABASE}*"):
        shutil.copy(file, home / file.name)
    made = Server(home)
    yield made
    made.stop()


@pytest.fixture
def here(request: pytest.FixtureRequest, app: Flask) -> Iterator[str]:
    """Botin in a thread of the tests: it starts at once, for tests that do not stop or kill it."""
    made = create_server(app, host="127.0.0.1", port=0, threads=4)

    def serve() -> None:
        with contextlib.suppress(OSError):  # the sockets are closed under it when the test ends
            made.run()

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{made.effective_port}"
    made.close()


@pytest.fixture
def page(request: pytest.FixtureRequest, browser: Browser) -> Iterator[Page]:
    """A page that may only ask Botin, and must not complain; on a process of its own when the test asks for one."""
    own = "server" in request.fixturenames
    url = request.getfixturevalue("server").url if own else request.getfixturevalue("here")
    yield from watched(browser, url)


@pytest.fixture
def looking(browser: Browser, reading: Server) -> Iterator[Page]:
    """A page on the shared server, for tests that change nothing."""
    yield from watched(browser, reading.url)


def watched(browser: Browser, url: str) -> Iterator[Page]:
    """Open a page; what it asks of others, and what it complains about, fails the test."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800},
        reduced_motion="reduce",
        service_workers="block",
        locale="en-GB",
        timezone_id="UTC",
        base_url=url,
    )
    outside: list[str] = []
    errors: list[str] = []

    def route(found: object) -> None:
        asked = found.request.url  # type: ignore[attr-defined]
        if asked.startswith("http://127.0.0.1"):
            found.continue_()  # type: ignore[attr-defined]
        else:
            outside.append(asked)
            found.abort()  # type: ignore[attr-defined]

    context.route("**/*", route)
    made = context.new_page()
    made.on("pageerror", lambda error: errors.append(str(error)))
    made.on("console", lambda message: errors.append(message.text) if "Content Security" in message.text else None)
    yield made
    context.close()
    assert outside == []
    assert errors == []


def axe(page: Page, options: str = RULES) -> list[str]:
    """Run axe-core on the page; the words of what it finds."""
    if not page.evaluate("Boolean(window.axe)"):
        page.evaluate(AXE.read_text("utf-8") + ";0")
    quickly = f"{options.removesuffix('}')}, resultTypes: ['violations']}}"  # what passes is not written down
    found = page.evaluate(f"axe.run({quickly})")
    return [f"{item['id']}: {item['nodes'][0]['html'][:160]}" for item in found["violations"]]


def axe_both(page: Page) -> list[str]:
    """All rules in the light scheme; in the dark one only what the scheme can change: contrast."""
    page.emulate_media(color_scheme="light")
    light = axe(page)
    page.emulate_media(color_scheme="dark")
    return light + [f"dark {words}" for words in axe(page, "{runOnly: ['color-contrast']}")]


@pytest.fixture
def desk(page: Page) -> Page:
    """The rip desk with box 4 just opened, the entry line in hand."""
    page.goto("/")
    page.get_by_role("button", name=re.compile("Open it box 4")).click()
    expect(page.locator("#entry-form[data-ready] #entry")).to_be_focused()
    return page


def enter(page: Page, text: str) -> None:
    """Type a line and send it."""
    page.keyboard.type(text)
    page.keyboard.press("Enter")
