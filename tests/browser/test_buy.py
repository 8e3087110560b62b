"""The buy desk in Chromium: answers while typing, by keyboard, accessible in both schemes."""

from __future__ import annotations

from playwright.sync_api import Page, expect


def test_a_price_typed_is_answered_at_once(looking: Page) -> None:
    looking.goto("/buy/1?format=hobby&price=118")
    expect(looking.locator("#verdict-head + .choice")).to_have_text("leave it")
    looking.get_by_label("Price of a box").fill("9")
    expect(looking.locator("#verdict-head + .choice")).to_have_text("rip it")
    assert "price=9" in looking.url
    expect(looking.get_by_label("Price of a box")).to_be_focused()


def test_the_whole_path_by_keyboard(page: Page) -> None:
    """From the rail to a kept decision without a mouse."""
    page.goto("/buy/")
    page.get_by_role("link", name="Hobby box").first.focus()
    page.keyboard.press("Enter")
    chase = page.get_by_label("Chase list")
    chase.focus()
    page.keyboard.type("SB-1\nSB-2")
    expect(page.get_by_role("rowheader", name="all of these")).to_be_visible()
    page.get_by_label("price", exact=True).select_option("4")
    page.wait_for_url("**s_price=4**")
    expect(page.get_by_label("price", exact=True)).to_have_value("4")
    page.get_by_role("link", name="Open a hundred").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("of 100 pay")).to_be_visible()
    page.get_by_label("Why, in a line").fill("for the two")
    page.keyboard.press("Enter")
    expect(page.get_by_text("for the two")).to_be_visible()


def test_arrow_keys_walk_over_the_set_board(looking: Page) -> None:
    looking.goto("/sets/board?part=4:base")
    expect(looking.get_by_text("missing costs")).to_be_visible()
    looking.locator("svg.board a").first.focus()
    for key in ("ArrowRight", "ArrowDown", "ArrowDown", "ArrowLeft"):
        looking.keyboard.press(key)
    expect(looking.locator("svg.board a").nth(80)).to_be_focused()
    looking.keyboard.press("Enter")
    expect(looking.get_by_role("heading", name="All versions")).to_be_visible()
