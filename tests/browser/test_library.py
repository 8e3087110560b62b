"""Getting a product in, by keyboard: paste, look through, mend, store, find its cards."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import axe

pytestmark = pytest.mark.browser

CHECKLIST = """Base Set – 3 cards
1 Orla Thorsby - Harrow Bay RC
2 Bram Dunsparrow – Lindmark Wheelers (RC)
3 Fenn Lune
Parallels: Copper (1:4), Slate /199
what the printer left behind
"""


def test_from_pasted_text_to_the_product_page(page: Page) -> None:
    page.goto("/library/add")
    page.get_by_label("Name").fill("Keirin Nights 2026")
    page.get_by_label("How it is boxed").fill("Hobby box: 20 packs of 6 cards, 10 boxes a case, 96.00")
    page.get_by_label("Checklist").fill(CHECKLIST)
    page.get_by_label("Odds and promises").fill("Slate parallel 1:29\nVelvet 1:12")
    assert axe(page) == []
    page.get_by_role("button", name="Read it").press("Enter")
    expect(page.get_by_role("heading", name="Keirin Nights 2026")).to_be_visible()
    expect(page.locator(".source-lines .is-not")).to_have_count(2)
    assert axe(page) == []

    page.get_by_role("link", name="mend line 6 of checklist").press("Enter")
    expect(page.get_by_label("Line 6")).to_have_value("what the printer left behind")
    page.get_by_label("Line 6").fill("4 Iska Glimhurst")
    page.keyboard.press("Enter")
    expect(page.locator(".source-lines .is-not")).to_have_count(1)
    page.get_by_role("button", name="Leave out what is not understood").press("Enter")
    page.get_by_role("button", name="Store the product").press("Enter")

    expect(page.get_by_role("heading", name="Odds ladder")).to_be_visible()
    expect(page.locator(".found tbody tr")).to_have_count(4)
    page.get_by_label("Number, player, team").fill("glim")
    expect(page.locator(".found tbody tr")).to_have_count(1)
    page.locator(".rung").first.focus()
    expect(page.locator(".rung:focus")).to_have_attribute("aria-label", "Base Set copper: printed 1:4, 1:4, 5 a box; 99.7 % of boxes have one; 4 cards")  # fmt: skip
    assert axe(page) == []


def test_correcting_a_run_by_keyboard(page: Page) -> None:
    page.goto("/library/1")
    page.get_by_text("Correct a run").click()
    page.get_by_role("link", name="correct the run of Slate").first.press("Enter")
    page.get_by_label("Run").fill("nothing")
    page.get_by_label("Why").fill("as stamped")
    page.keyboard.press("Enter")
    expect(page.locator("#value-note")).to_contain_text("is no run")
    expect(page.get_by_label("Why")).to_have_value("as stamped")
    page.get_by_label("Run").fill("249")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("199 → 249")
    expect(page.get_by_role("heading", name="Corrected by hand")).to_be_visible()


def test_switching_the_ladder_to_another_format(looking: Page) -> None:
    looking.goto("/library/1")
    looking.get_by_role("navigation", name="Format of the ladder").get_by_text("Retail blaster").press("Enter")
    expect(looking.get_by_role("heading", name="Odds ladder")).to_contain_text("Retail blaster")
