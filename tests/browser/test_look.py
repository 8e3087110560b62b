"""A card under the glass, by keyboard: scan, rulers, subgrades, flag, and on to the order."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import FilePayload, Page, expect

from botin.desk.workbench import Workbench
from botin.standins.scanner import SimulatedScanner, Subject, hidden_truth
from tests.browser.conftest import axe_both

pytestmark = pytest.mark.browser
SUBJECT = Subject(5, "Banked 2026", "SB-28", "Osric Eskeland")

SCAN = FilePayload(name="front.jpg", mimeType="image/jpeg", buffer=SimulatedScanner().scan(SUBJECT, "front"))


@pytest.fixture(autouse=True)
def with_a_place_for_photos(bench: Workbench, home: Path) -> None:
    bench.home = home


def first_card(page: Page) -> str:
    page.goto("/look/")
    link = page.locator(".look-rows a").first
    name = link.inner_text()
    link.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text(name)
    return name


def test_from_a_scan_to_the_order(page: Page) -> None:
    page.goto("/look/")
    assert axe_both(page) == []
    name = first_card(page)
    page.get_by_label("Scan or photo of the front").set_input_files(SCAN)
    page.get_by_role("button", name="Measure it").press("Enter")
    expect(page.locator(".said")).to_contain_text("The front is measured")
    truth = hidden_truth(SUBJECT, "front")
    expect(page.get_by_role("slider")).to_have_count(4)
    left = page.get_by_role("slider", name="left border")
    assert float(left.get_attribute("aria-valuenow") or 0) == pytest.approx(truth.left, abs=0.1)
    assert axe_both(page) == []

    left.focus()
    before = float(left.get_attribute("aria-valuenow") or 0)
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    assert float(left.get_attribute("aria-valuenow") or 0) == pytest.approx(before + 0.55, abs=0.011)
    page.keyboard.press("ArrowDown")  # a line that stands upright is not moved by it
    page.get_by_role("button", name="Keep the rulers").press("Enter")
    expect(page.locator(".said")).to_contain_text("stay where you put them")
    expect(page.get_by_label("left", exact=True)).to_have_value(f"{before + 0.55:.2f}")
    page.get_by_role("button", name="As measured").press("Enter")
    expect(page.get_by_label("left", exact=True)).to_have_value(f"{before:.2f}")

    page.get_by_label("Centering, front").fill("51/49")
    for field in ("Corners", "Edges", "Surface"):
        page.get_by_label(field, exact=True).fill("10")
    page.get_by_role("button", name="Keep this look").press("Enter")
    expect(page.locator(".said")).to_contain_text("Its flag was look closer")
    expect(page.locator(".glass-flag b")).to_have_text("grade")
    assert axe_both(page) == []

    page.get_by_role("link", name="Look").first.press("Enter")
    page.get_by_role("link", name="Which ones to grade").press("Enter")
    number = name.split(" ", 1)[0]
    order = page.locator("form").filter(has=page.get_by_role("checkbox", name=re.compile(f"^{number} ")))
    order.first.get_by_role("button", name="Begin this order").press("Enter")
    expect(page.locator(".said")).to_contain_text("is begun")
    expect(page.locator(".form-lines")).to_contain_text(number)


def test_a_clean_card_takes_twelve_keys_at_most(page: Page) -> None:
    first_card(page)
    expect(page.get_by_label("Centering, front")).to_be_focused()
    keys = ["5", "0", "Tab", "5", "0", "Tab", "0", "0", "0", "Enter"]
    for key in keys:
        page.keyboard.press(key)
    assert len(keys) <= 12
    expect(page.locator(".said")).to_contain_text("Kept.")
    for field in ("Corners", "Edges", "Surface"):
        expect(page.get_by_label(field, exact=True)).to_have_value("10")


def test_what_is_typed_wrong_stays_and_is_said(page: Page) -> None:
    first_card(page)
    page.get_by_label("Centering, front").fill("60/60")
    page.get_by_label("Corners", exact=True).fill("9.5")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("“60/60” is no centering of the front")
    expect(page.get_by_label("Corners", exact=True)).to_have_value("9.5")
    page.get_by_label("Centering, front").fill("60/40")
    page.get_by_label("Corners", exact=True).fill("9.7")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Write 1 to 10, in halves")


def test_a_mark_is_pinned_by_a_click_or_by_its_place(page: Page) -> None:
    first_card(page)
    page.get_by_label("Scan or photo of the front").set_input_files(SCAN)
    page.get_by_role("button", name="Measure it").press("Enter")
    expect(page.locator(".said")).to_contain_text("The front is measured")
    page.locator("#glass[data-ready]").click(position={"x": 120, "y": 160})
    expect(page.get_by_label("Mark", exact=True)).to_be_focused()
    page.get_by_label("Mark", exact=True).select_option("print line")
    page.get_by_role("button", name="Pin it on the front").press("Enter")
    expect(page.locator(".said")).to_contain_text(re.compile("Pinned. Its flag"))
    expect(page.locator("svg .pin")).to_have_count(1)
    page.get_by_label("Mark", exact=True).select_option("nick")
    page.get_by_label("How bad").select_option("slight")
    page.get_by_label("Where").select_option("upper left")
    page.get_by_role("button", name="Pin it on the front").press("Enter")
    expect(page.locator(".pin-list li")).to_have_count(2)
    assert axe_both(page) == []
    page.get_by_role("button", name="Remove the nick").press("Enter")
    expect(page.locator(".pin-list li")).to_have_count(1)
