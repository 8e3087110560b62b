"""By keyboard: from the flag to the feedback by way of the authenticator; three singles and a lot to one buyer, one refund."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import axe_both
from tests.browser.test_grading import press, type_in

pytestmark = pytest.mark.browser


def pack(page: Page) -> None:
    press(page, "Begin the parcel")
    expect(page.locator(".said")).to_contain_text("The parcel is begun")
    boxes = page.locator(".pack-checks input")
    for at in range(boxes.count()):
        boxes.nth(at).press("Space")
    expect(boxes.last).to_be_checked()
    page.wait_for_load_state("networkidle")
    page.reload()  # each tick was kept by itself, before any form is sent
    expect(page.locator(".pack-checks input:not(:checked)")).to_have_count(0)
    press(page, "Simulated scale")
    press(page, "It is packed")
    expect(page.locator(".said")).to_contain_text("Packed. Send it.")


def note(page: Page, cards: list[int], price: str, buyer: str) -> str:
    """Note a sale of some of the cards on the list, and return its address."""
    page.goto("/sales/")
    for card in cards:
        page.get_by_role("checkbox").nth(card).press("Space")
    press(page, "They are sold already")
    type_in(page, "Price", price)
    page.get_by_label("Channel", exact=True).select_option("open listing")
    type_in(page, "Buyer", buyer)
    page.get_by_label("His address").fill("Lamp Street 4\n1234 Harrow Bay")
    press(page, "Note the sale")
    expect(page.locator(".said")).to_contain_text("is noted")
    return page.url


def test_from_the_flag_to_the_feedback_by_way_of_the_authenticator(page: Page) -> None:
    page.goto("/sales/")
    assert axe_both(page) == []
    raw = page.locator("tr", has_not_text="House").get_by_role("checkbox").first
    at = page.get_by_role("checkbox").evaluate_all("(all, one) => all.indexOf(one)", raw.element_handle())
    sale = note(page, [int(at)], "320", "Pia Holm")
    expect(page.locator(".waiting")).to_contain_text("authenticator")
    press(page, "It is paid")
    pack(page)
    type_in(page, "Parcel no.", "A-9")
    press(page, "It is sent")
    for name, where in (
        ("The authenticator has it", "at the authenticator"),
        ("It passed", "passed"),
        ("The buyer has it", "with the buyer"),
    ):
        press(page, name)
        expect(page.locator(".way [aria-current]")).to_contain_text(where)
    page.get_by_label("Feedback given").press("Space")
    type_in(page, "got", "All as described")
    press(page, "Keep")
    press(page, "It is done")
    expect(page.locator(".way [aria-current]")).to_contain_text("done")
    page.goto("/sales/results")
    expect(page.get_by_role("link", name=re.compile(f"^{sale.rsplit('/', 1)[1].split('?')[0]} ·"))).to_be_visible()


def test_three_singles_and_a_lot_to_one_buyer_and_one_refund(page: Page) -> None:
    singles = [note(page, [0], price, "Eva Birk") for price in ("9", "8", "7")]
    lot = note(page, [0, 1], "5", "Eva Birk")
    for sale in (*singles, lot):
        page.goto(sale)
        press(page, "It is paid")
        expect(page.locator(".way [aria-current]")).to_contain_text("paid")
    along = page.get_by_role("checkbox", name=re.compile("goes along"))
    expect(along).to_have_count(3)
    for at in range(3):
        along.nth(at).press("Space")
    pack(page)
    press(page, "It is sent")
    for sale in singles:
        page.goto(sale)
        expect(page.locator(".way [aria-current]")).to_contain_text("on its way")
    page.get_by_text("Something went wrong").press("Enter")
    type_in(page, "Money back", "2")
    press(page, "Note it")
    expect(page.locator(".said")).to_contain_text("Noted: refund")
    expect(page.locator(".buy-facts")).to_contain_text("given back")


def test_a_sealed_box_is_offered_and_a_swap_is_made_against_the_needs_of_a_set(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Sell box 5 sealed").press("Enter")
    expect(page.get_by_label("Title, ready to copy")).to_have_value(re.compile("sealed"))
    assert axe_both(page) == []
    press(page, "It is offered")
    expect(page.locator(".said")).to_contain_text("It is offered")
    expect(page.locator("#offered-head + details, details.order")).not_to_have_count(0)

    page.goto("/sets/board?part=1:base")
    page.get_by_role("link", name="Swaps").press("Enter")
    needed = page.locator("input[name=get]")
    expect(needed).not_to_have_count(0)
    number = (needed.first.get_attribute("value") or "").rpartition(":")[2]
    type_in(page, "He has", f"{number}, nine")
    type_in(page, "He looks for", "1-300")
    press(page, "Hold them against mine")
    expect(page.get_by_role("alert")).to_contain_text("not used: nine")
    expect(page.locator("input[name=get]:checked")).to_have_count(1)
    assert axe_both(page) == []
    if not page.locator("input[name=copy]:checked").count():
        page.locator("input[name=copy]").first.press("Space")
    type_in(page, "With", "Ada")
    press(page, "It is swapped")
    expect(page.locator(".said")).to_contain_text("Swapped: 1 came in")
