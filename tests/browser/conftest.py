"""A real server as a process of its own, and headless Chromium that may look nothing up."""

from __future__ import annotations

import re
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Playwright, sync_playwright

FLAGS = [
    "--disable-quic",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
]
AXE = Path(__file__).parents[1] / "vendor" / "axe.min.js"


class Server:
    """Botin as its user starts it; it can be stopped, killed and started again on the same port and data."""

    def __init__(self, home: Path, port: int = 0) -> None:
        self.home, self.port = home, port
        self.process: subprocess.Popen[str] | None = None
        self.start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [sys.executable, "-m", "botin", "serve", "--home", str(self.home), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
        assert self.process.stderr
        for line in self.process.stderr:
            found = re.search(r"http://127\.0\.0\.1:(\d+)", line)
            if found:
                self.port = int(found[1])
                break
        self._wait()

    def _wait(self) -> None:
        for _ in range(100):
            try:
                urllib.request.urlopen(f"{self.url}/static/icon.svg", timeout=2).read()  # noqa: S310  (this very server)
            except OSError:
                time.sleep(0.05)
            else:
                return
        message = "the server did not start"
        raise AssertionError(message)

    def stop(self, how: signal.Signals = signal.SIGTERM) -> None:
        if self.process:
            self.process.send_signal(how)
            self.process.wait(20)
            if self.process.stderr:
                self.process.stderr.close()
            self.process = None


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


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
    """A page that may only ask Botin, and must not complain."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800},
        reduced_motion="reduce",
        service_workers="block",
        locale="en-GB",
        timezone_id="UTC",
        base_url=server.url,
    )
    outside: list[str] = []
    errors: list[str] = []

    def route(found: object) -> None:
        url = found.request.url  # type: ignore[attr-defined]
        if url.startswith("http://127.0.0.1"):
            found.continue_()  # type: ignore[attr-defined]
        else:
            outside.append(url)
            found.abort()  # type: ignore[attr-defined]

    context.route("**/*", route)
    made = context.new_page()
    made.on("pageerror", lambda error: errors.append(str(error)))
    made.on("console", lambda message: errors.append(message.text) if "Content Security" in message.text else None)
    yield made
    context.close()
    assert outside == []
    assert errors == []


def axe(page: Page) -> list[str]:
    """Run axe-core on the page; the words of what it finds."""
    page.evaluate(AXE.read_text("utf-8") + ";0")
    found = page.evaluate("axe.run({runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa', 'best-practice']})")
    return [f"{item['id']}: {item['nodes'][0]['html'][:160]}" for item in found["violations"]]
