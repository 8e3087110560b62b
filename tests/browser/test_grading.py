"""By keyboard alone: choose, order, pack with one mistake caught, send, be reminded of the payment, take in, result."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import axe_both

pytestmark = pytest.mark.browser


def press(page: Page, name: str, role: str = "button") -> None:
    """Reach a control and press Enter on it, as one does without a mouse."""
    page.get_by_role(role, name=name).first.press("Enter")  # type: ignore[arg-type]


def type_in(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.focus()
    page.keyboard.press("Control+A")
    page.keyboard.type(text)


def let_pass(page: Page, until: str) -> None:
    """Let weeks pass in the demo until the simulated house did something."""
    for _ in range(12):
        type_in(page, "Let days pass", "7")
        page.evaluate("document.body.dataset.before = '1'")
        page.keyboard.press("Enter")
        expect(page.locator("body[data-before]")).to_have_count(0)  # what the page of before says is no answer
        expect(page.locator(".said")).to_contain_text("in the demo")
        if until in page.locator(".said").inner_text():
            return
    pytest.fail(f"the house never said “{until}”")


def pack_all(page: Page, wrong: str) -> None:
    """Pack by scanned codes and by key; a card out of order is caught."""
    card = page.get_by_label("Card", exact=True)
    expect(card).to_be_focused()
    page.keyboard.type(wrong)
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Out of order")
    assert axe_both(page) == []
    expect(page.get_by_label("Card", exact=True)).to_be_focused()
    page.keyboard.press("Control+A")
    code = (page.locator(".now-card .soft").inner_text()).rsplit("· ", 1)[1]
    page.keyboard.type(code)
    page.keyboard.press("Enter")
    expect(page.locator(".stack-picture .is-on")).to_have_count(1)
    left = page.locator(".stack-picture li").count() - 1
    for done in range(left):
        expect(page.get_by_label("Card", exact=True)).to_be_focused()
        page.get_by_role("button", name=re.compile("put it on")).press("Enter")
        expect(page.locator(".stack-picture .is-on")).to_have_count(done + 2)
    boxes = page.locator(".pack-checks input")
    for at in range(boxes.count()):
        boxes.nth(at).press("Space")
    expect(boxes.last).to_be_checked()
    page.wait_for_load_state("networkidle")
    page.reload()  # each tick was kept by itself, before any form is sent
    expect(page.locator(".pack-checks input:not(:checked)")).to_have_count(0)


def test_from_the_choice_to_the_result_by_box(page: Page) -> None:
    page.goto("/grading/choose")
    press(page, "Begin this order")
    expect(page.locator(".said")).to_contain_text("is begun")
    order = page.url
    type_in(page, "Telephone", "555 0100")
    page.get_by_label(re.compile("I read the terms")).press("Space")
    press(page, "Close the order …")
    expect(page.get_by_role("heading", name="Before the order is closed")).to_be_visible()
    press(page, "Close")
    expect(page.locator(".way [aria-current]")).to_contain_text("closed")
    page.reload()
    third = page.locator(".form-lines tbody tr").nth(2).locator("a").inner_text().split()[0]
    press(page, "Pack the stack", "link")
    pack_all(page, third)
    press(page, "Simulated scale")
    expect(page.get_by_label("Weight in grams")).to_have_value(re.compile(r"\d{3}"))
    press(page, "The parcel is packed")
    expect(page.locator(".said")).to_contain_text("is packed")
    type_in(page, "Parcel no.", "A-1")
    press(page, "It is sent")
    expect(page.locator(".said")).to_contain_text("on its way")
    let_pass(page, "asks for payment")
    page.goto("/today/")
    number = order.rsplit("/", 1)[1]
    reminder = page.locator("li", has_text=f"Grading order {number},").filter(has_text="to pay by")
    reminder.get_by_role("link").press("Enter")
    expect(page).to_have_url(re.compile(f"/grading/{number}"))
    press(page, "Pay ")
    expect(page.locator(".said")).to_contain_text("Paid: ")
    let_pass(page, "is back")
    expect(page.locator(".way [aria-current]")).to_contain_text("done")
    press(page, "What grading brought", "link")
    expect(page.get_by_role("heading", name="By box: did it pay?")).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile(f"Order {number},"))).to_be_visible()


def test_the_printed_pages_are_six_sheets(page: Page) -> None:
    """Three forms, the label, the packing list, the checklist: a sheet each, and no rail on any."""
    page.goto("/grading/")
    page.get_by_role("link", name=re.compile("House A regular")).first.press("Enter")
    page.get_by_role("link", name="Print").first.press("Enter")
    pdf = page.pdf(prefer_css_page_size=True)
    assert len(re.findall(rb"/Type\s*/Page\b", pdf)) == 6
    page.emulate_media(media="print")
    expect(page.locator(".rail")).to_be_hidden()
    expect(page.get_by_role("heading", name="Print")).to_be_hidden()
