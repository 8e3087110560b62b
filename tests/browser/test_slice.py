"""The whole slice in a browser: from the shelf to the verdict, and again after a restart."""

from __future__ import annotations

import re
import signal

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import axe
from tests.server import Server

pytestmark = pytest.mark.browser


def log(page: Page, line: str) -> None:
    page.keyboard.type(line)
    page.keyboard.press("Enter")


@pytest.mark.slow
def test_from_the_sealed_box_to_the_verdict_and_after_a_restart(page: Page, server: Server) -> None:
    page.goto("/")
    expect(page.get_by_role("heading", name="Sealed")).to_contain_text("4")
    page.get_by_role("button", name=re.compile("Open it box 5")).click()
    expect(page.locator("#hand-head")).to_have_text("Pack 1 of 7")
    expect(page.locator("#entry-form[data-ready] #entry")).to_be_focused()

    for line in ("12 45 101", "7 copper", "sk3", "88"):
        log(page, line)
    expect(page.locator(".slot:not(.blank)")).to_have_count(6)
    expect(page.locator("#entry-note")).to_contain_text("The pack is full")
    log(page, "")
    expect(page.locator("#hand-head")).to_have_text("Pack 2 of 7")
    log(page, "44 cinder 36/50 sb-3")
    expect(page.locator(".slot.hit")).to_have_count(2)
    expect(page.locator(".pack-card.now .pack-hit")).to_have_text("★2")

    log(page, "44 cinder 36/99")
    expect(page.locator("#entry-note")).to_contain_text("numbered to 50, the serial says /99")
    expect(page.get_by_label("Card", exact=True)).to_have_value("44 cinder 36/99")
    page.get_by_role("button", name="36/99!").click()
    expect(page.get_by_label("Card", exact=True)).to_have_value("44 cinder 36/99!")
    page.keyboard.press("Enter")
    expect(page.locator(".slot:not(.blank)")).to_have_count(3)
    page.keyboard.press("Control+z")
    expect(page.locator(".slot:not(.blank)")).to_have_count(2)
    page.keyboard.press("PageUp")
    expect(page.locator("#hand-head")).to_have_text("Pack 1 of 7")
    assert axe(page) == []

    server.stop(signal.SIGKILL)
    server.start()
    page.goto("/rip/")
    page.get_by_role("link", name="Retail blaster").click()
    expect(page.locator("#strip")).to_contain_text("8 of 42 cards logged")
    page.get_by_role("button", name="Close the box").click()

    expect(page.get_by_role("heading", name="Recap of Banked 2026")).to_be_visible()
    check_recap(page)
    server.stop()
    server.start()
    page.reload()
    check_recap(page)
    page.goto("/")
    expect(page.locator("tr#box-5")).to_contain_text("8")


def check_recap(page: Page) -> None:
    names, values = (page.locator(place).all_inner_texts() for place in (".figure h2", ".figure-value"))
    figures = dict(zip(names, values, strict=True))
    assert figures["cost of the box"] == "€24.99"
    assert figures["cost per card"] == "€3.12"
    assert figures["cost per pack"] == "€3.57"
    assert figures["cost per hit"] in ("€12.49", "€12.50")  # 12.495, rounded half-even from a float
    assert figures["logged"] == "8"
    assert page.locator(".best li").count() == 8
    for reason in page.locator(".reason").all_inner_texts():
        assert reason.count(".") >= 1
        assert re.search(r"\d", reason) or "No price" in reason
    seen = page.locator("table.sheet tr", has_text="Base cinder").locator("td").all_inner_texts()
    # two of seven packs were opened, so 0.086 of a whole box is 0.025 here
    assert seen[:4] == ["Base cinder", "1:81", "0.025", "1"]
    page.get_by_text("How come?").first.click()
    expect(page.locator(".how[open] .how-sum")).to_contain_text("value of what came out")


def test_lines_typed_while_the_server_is_away_are_sent_in_order(page: Page, server: Server) -> None:
    page.goto("/")
    page.get_by_role("button", name=re.compile("Open it box 5")).click()
    expect(page.locator("#entry-form[data-ready] #entry")).to_be_focused()
    log(page, "1")
    expect(page.locator(".slot:not(.blank)")).to_have_count(1)
    server.stop(signal.SIGKILL)
    for line in ("2", "3 copper", "", "4"):
        log(page, line)
    expect(page.locator("#waiting")).to_contain_text("4 lines wait")
    server.start()
    expect(page.locator("#hand-head")).to_have_text("Pack 2 of 7")
    expect(page.locator(".slot:not(.blank) .slot-number")).to_have_text(["4"])
    expect(page.locator("#waiting")).to_be_hidden()
    page.keyboard.press("PageUp")
    expect(page.locator(".slot:not(.blank) .slot-number")).to_have_text(["1", "2", "3"])


def test_buying_a_box_by_keyboard(page: Page) -> None:
    page.goto("/boxes/new")
    page.get_by_label("Product and format").select_option("Banked 2026 · Retail blaster")
    page.get_by_label("Price").fill("-3")
    page.keyboard.press("Enter")
    expect(page.locator("#price-note")).to_contain_text("not negative")
    expect(page.get_by_label("Price")).to_have_value("-3")
    page.get_by_label("Price").fill("19,99")
    page.get_by_label("Note").fill("second try")
    page.keyboard.press("Enter")
    expect(page.locator(".box-tile", has_text="second try")).to_contain_text("€19.99")
