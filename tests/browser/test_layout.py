"""Every page and state held by measure: found by a crawl, at five widths, in light and dark, before and after actions.

Nothing is wider than its panel and no page scrolls sideways, no text is small or cut, every target can be hit, and
axe-core (its rules for WCAG 2.2 AA and best practice) finds nothing.
"""

from __future__ import annotations

import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import axe
from tests.crawling import crawl, kind_of
from tests.server import Server

MEASURE = (Path(__file__).parent / "layout.js").read_text(encoding="utf-8").split("\n", 2)[2]
WIDTHS = (360, 390, 768, 1280, 1920)
PARTS = 8
"""The pages are shared out over so many tests, so that two processes can look at them."""
STATES = (
    "/buy/1?format=hobby&price=118&chase=SB-1",
    "/buy/2?price=x",
    "/prices/card/380?finish=slate",
    "/recap/compare?box=1&box=5",
    "/recap/1?best=rare",
    "/library/1/cheat-sheet",
    "/library/2/checklist",
    "/boxes/4/check",
    "/put-away/1",
    "/openings/import",
    "/rip/help",
    "/orders/new?rows=12",
    "/sales/offer?box=5",
    "/sets/swap?part=1:base&has=3,12-40,nine&wants=1-60",
    "/lost",
)
"""States of pages that no link alone leads to, or that show something of their own."""
CONTRAST = "{runOnly: ['color-contrast']}"


def answer(url: str) -> tuple[int, str, str]:
    try:
        with urllib.request.urlopen(url, timeout=60) as found:  # noqa: S310  (this very server)
            return found.status, found.headers.get("Content-Type", ""), found.read().decode("utf-8", "replace")
    except urllib.error.HTTPError as wrong:
        return wrong.code, wrong.headers.get("Content-Type", ""), wrong.read().decode("utf-8", "replace")


@pytest.fixture(scope="session")
def every_page(reading: Server) -> list[str]:
    """One address of every kind of page that links lead to, whatever they ask of it; and the states, in order."""
    whole: dict[str, str] = {}

    def get(path: str) -> tuple[int, str, str]:
        status, mime, text = answer(reading.url + path)
        if status == 200 and "<main" in text:
            whole.setdefault(kind_of(path).partition("?")[0], path)
        return status, mime, text

    crawl(get, each=1)
    assert len(whole) >= 25
    return sorted({*whole.values(), *STATES})


def found_on(page: Page, widths: tuple[int, ...] = WIDTHS, *, dark: bool = True) -> list[str]:
    """What a page as it stands does wrong; what is folded is unfolded."""
    page.evaluate("document.querySelectorAll('details').forEach(one => { one.open = true })")
    found: dict[str, list[int]] = {}
    for width in widths:
        page.set_viewport_size({"width": width, "height": 800})
        for words in page.evaluate(MEASURE):
            found.setdefault(words, []).append(width)
    page.set_viewport_size({"width": 390, "height": 800})
    page.emulate_media(color_scheme="light")
    wrong = axe(page)
    if dark:
        page.set_viewport_size({"width": 1280, "height": 800})
        page.emulate_media(color_scheme="dark")
        wrong += [f"dark {words}" for words in axe(page, CONTRAST)]
        page.emulate_media(color_scheme="light")
    return [f"{words} at {widths}" for words, widths in found.items()] + wrong


@pytest.mark.parametrize("part", range(PARTS))
def test_every_page_keeps_its_measure(looking: Page, every_page: list[str], part: int) -> None:
    found = {}
    for at, path in enumerate(every_page[part::PARTS]):
        looking.goto(path)
        expect(looking.locator(".htmx-request, [hx-trigger*=load]:not(:has(*))")).to_have_count(0)
        found[path] = found_on(looking, dark=at % 4 == 0)  # they share their colours: every fourth one in the dark
    assert {path: words for path, words in found.items() if words} == {}


def refused_box(page: Page) -> None:
    page.goto("/boxes/new")
    page.get_by_label("Price", exact=False).first.fill("dear")
    page.get_by_role("button", name="Put it on the shelf").click()


def refused_order(page: Page) -> None:
    page.goto("/orders/new")
    page.get_by_label("price each, row 1").fill("dear")
    page.get_by_role("button", name="Save", exact=False).last.click()


def a_card_nobody_knows(page: Page) -> None:
    page.goto("/rip/19")
    page.locator("#entry").fill("99999 nobody")
    page.keyboard.press("Enter")
    expect(page.locator("#entry")).to_have_attribute("aria-invalid", "true")


def a_wish_that_is_not_there(page: Page) -> None:
    page.goto("/buy/1?format=hobby&price=118&chase=nobody")


def no_card_found(page: Page) -> None:
    page.goto("/library/?q=zzzz")


def a_page_that_is_not_there(page: Page) -> None:
    page.goto("/recap/99999")


@pytest.mark.parametrize(
    "deed",
    [
        refused_box,
        refused_order,
        a_card_nobody_knows,
        a_wish_that_is_not_there,
        no_card_found,
        a_page_that_is_not_there,
    ],
)
def test_a_page_keeps_its_measure_after(looking: Page, deed: Callable[[Page], None]) -> None:
    deed(looking)
    looking.wait_for_load_state("networkidle")
    assert found_on(looking, (360, 1280)) == []


def test_the_measure_finds_what_it_should(looking: Page) -> None:
    """A page made wrong on purpose: each fault is named."""
    looking.goto("/today/")
    looking.evaluate(
        """() => {
          document.querySelector("main").innerHTML =
            '<section class="stock"><p>wide</p><p>small</p><p>words that are cut off here</p><button>x</button></section>';
          const [wide, small, cut, button] = document.querySelector("main section").children;
          wide.style.width = "3000px"; small.style.fontSize = "9px"; button.style.cssText = "height: 12px; padding: 0";
          cut.style.cssText = "width: 40px; overflow: hidden; white-space: nowrap";
        }"""
    )
    found = " ".join(looking.evaluate(MEASURE))
    for fault in ("scrolls sideways", "wider than its panel: p", "text of 9.0 px", "cut: p", "target of"):
        assert fault in found
