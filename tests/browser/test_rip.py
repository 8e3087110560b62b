"""The rip desk in a browser: at the speed of opening packs, offline, in two windows, by keyboard."""

from __future__ import annotations

import re
import signal

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.browser.conftest import axe, enter
from tests.server import Server

pytestmark = pytest.mark.browser


def cards(page: Page) -> list[str]:
    return page.locator(".slot:not(.blank) .slot-number").all_inner_texts()


@pytest.mark.slow
def test_a_whole_box_at_the_speed_of_opening_it(desk: Page) -> None:
    """24 packs of 8, every card typed; at most 4.5 keystrokes a base card, Enter and the turn of the pack included."""
    numbers = [(7 * place) % 300 + 1 for place in range(192)]
    strokes = 0
    for pack in range(24):
        for number in numbers[8 * pack : 8 * pack + 8]:
            enter(desk, str(number))
            strokes += len(str(number)) + 1
        expect(desk.locator(".slot:not(.blank)")).to_have_count(8)
        if pack < 23:
            enter(desk, "")
            strokes += 1
            expect(desk.locator("#hand-head")).to_have_text(f"Pack {pack + 2} of 24")
    expect(desk.locator("#strip")).to_contain_text("192 of 192 cards logged")
    assert strokes / 192 <= 4.5
    desk.get_by_role("button", name="Close the box").click()
    expect(desk.locator(".figure", has_text="logged")).to_contain_text("192")


@pytest.mark.slow
def test_thirty_cards_typed_without_a_server_and_the_tab_closed(desk: Page, server: Server) -> None:
    context: BrowserContext = desk.context
    enter(desk, "1")
    expect(desk.locator(".slot:not(.blank)")).to_have_count(1)
    server.stop(signal.SIGKILL)
    for number in range(101, 131):
        enter(desk, str(number))
    expect(desk.locator("#waiting")).to_contain_text("30 lines wait")
    desk.close()
    server.start()
    again = context.new_page()
    again.goto("/rip/4")
    expect(again.locator("#strip")).to_contain_text("31 of 192 cards logged")
    assert cards(again) == ["1", *[str(number) for number in range(101, 131)]]
    expect(again.locator("#waiting")).to_be_hidden()


def test_undo_typed_offline_keeps_its_place_in_the_order(desk: Page, server: Server) -> None:
    for number in ("1", "2"):
        enter(desk, number)
    expect(desk.locator(".slot:not(.blank)")).to_have_count(2)
    server.stop(signal.SIGKILL)
    enter(desk, "3")
    desk.keyboard.press("Control+z")
    enter(desk, "4")
    server.start()
    expect(desk.locator("#waiting")).to_be_hidden()
    expect(desk.locator(".slot:not(.blank) .slot-number")).to_have_text(["1", "2", "4"])


def test_two_windows_see_each_other(desk: Page) -> None:
    """Each looks every 0.8 seconds; how long it takes on a busy machine is not asserted."""
    other = desk.context.new_page()
    other.goto("/rip/4")
    enter(desk, "12 45")
    expect(other.locator(".slot:not(.blank) .slot-number")).to_have_text(["12", "45"], timeout=20_000)
    other.bring_to_front()
    other.get_by_label("Card", exact=True).focus()
    other.keyboard.type("7")
    desk.bring_to_front()
    other.keyboard.press("Enter")
    expect(desk.locator(".slot:not(.blank) .slot-number")).to_have_text(["12", "45", "7"], timeout=20_000)


def test_candidates_by_name_and_number_without_a_server(desk: Page, server: Server) -> None:
    line = desk.get_by_label("Card", exact=True)
    options = desk.locator(".candidate")
    desk.keyboard.type("sk")
    expect(options).to_have_count(8)
    server.stop(signal.SIGKILL)
    line.fill("")
    name = "magnus goss"
    desk.keyboard.type(name)
    expect(options.first).to_contain_text("Magnus Gossamond")
    desk.keyboard.press("ArrowDown")
    assert line.get_attribute("aria-activedescendant") == "candidate-0"
    desk.keyboard.press("Enter")
    expect(line).to_have_value("44 ")
    desk.keyboard.type("cin")
    expect(options.first).to_contain_text("Cinder /50")
    desk.keyboard.press("ArrowDown")
    desk.keyboard.press("Enter")
    expect(line).to_have_value("44 cinder ")
    desk.keyboard.press("Escape")
    server.start()


def test_candidates_of_five_thousand_cards_come_at_once(desk: Page) -> None:
    """The aim of 20 ms a key is far above what is measured; a busy machine must not fail it."""
    took = desk.evaluate(
        """async () => {
          const cards = Array.from({length: 5000}, (_, n) => [String(n + 1), `Rider Name${n % 700} Family`, "Club", 0]);
          const data = {sections: [["Base", "base", ""]], finishes: [[]], cards};
          const real = window.fetch;
          window.fetch = async () => new Response(JSON.stringify(data));
          await window.BotinCandidates.load("");
          window.fetch = real;
          const find = (text) => { const start = performance.now(); const found = window.BotinCandidates.find(text, text.length); return [performance.now() - start, found.options.length]; };
          find("warm");
          return ["ri", "rid", "club", "4", "49", "499", "rider cl"].map(find);
        }"""
    )
    assert all(count > 0 for _, count in took), took
    assert min(milliseconds for milliseconds, _ in took) < 20, took


def test_help_opens_on_a_question_mark_and_closes(desk: Page) -> None:
    desk.keyboard.press("?")
    expect(desk.get_by_role("dialog")).to_contain_text("What the line understands")
    assert axe(desk) == []
    desk.keyboard.press("Escape")
    expect(desk.get_by_role("dialog")).to_be_hidden()


def test_a_pasted_list_is_logged_line_by_line(desk: Page) -> None:
    desk.evaluate(
        """() => { const data = new DataTransfer(); data.setData("text", "12\\n44 cinder 36/50\\n\\n+ odd one\\n");
          document.getElementById("entry").dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, cancelable: true, bubbles: true})); }"""
    )
    expect(desk.locator(".slot:not(.blank)")).to_have_count(3)
    expect(desk.locator("#tray")).to_contain_text("odd one")


def test_correcting_and_settling_by_keyboard(desk: Page) -> None:
    enter(desk, "12")
    enter(desk, "44?")
    expect(desk.locator("#tray")).to_contain_text("which version?")
    desk.locator("#tray a").first.press("Enter")
    expect(desk.locator(".settle")).to_contain_text("red edge")
    assert axe(desk) == []
    desk.get_by_role("button", name="Base 44 Cinder").press("Enter")
    expect(desk.locator("#tray")).to_be_hidden()
    desk.locator(".slot-link").first.press("Enter")
    expect(desk.get_by_label("As typed")).to_be_focused()
    desk.get_by_label("As typed").fill("12 velvet")
    desk.keyboard.press("Enter")
    expect(desk.locator("#edit-note")).to_contain_text("no parallel of card 12")
    desk.get_by_label("As typed").fill("12 copper corner")
    desk.keyboard.press("Enter")
    expect(desk.locator(".slot").first).to_contain_text("soft corner")
    desk.get_by_label("Card", exact=True).focus()
    desk.keyboard.press("Control+z")
    expect(desk.locator(".slot").first).not_to_contain_text("soft corner")


def test_what_was_not_understood_is_kept_also_over_a_reload(desk: Page) -> None:
    enter(desk, "12 velvet")
    expect(desk.locator("#entry-note")).to_contain_text("no parallel of card 12")
    desk.reload()
    expect(desk.get_by_label("Card", exact=True)).to_have_value("12 velvet")


def test_hits_only_and_the_owed_meter(desk: Page) -> None:
    desk.get_by_text("How this box is logged").click()
    desk.get_by_label("hits only, base counted").check()
    desk.locator("#facts").get_by_role("button", name="Note it").last.click()
    expect(desk.locator("#entry-note")).to_contain_text("Noted")
    desk.get_by_label("Card", exact=True).focus()
    enter(desk, "sb3")
    enter(desk, "")
    expect(desk.locator("#hand-head")).to_have_text("Pack 2 of 24")
    expect(desk.locator("#strip")).to_contain_text("8 of 192 cards logged")
    first = desk.locator(".owed-list li").first
    expect(first).to_contain_text("1 owed")
    expect(first).to_contain_text("23 packs left, 1 still owed")


def test_the_desk_upright_on_a_phone(page: Page) -> None:
    page.set_viewport_size({"width": 390, "height": 800})
    page.goto("/")
    page.get_by_role("button", name=re.compile("Open it box 4")).click()
    expect(page.locator("#entry-form[data-ready] #entry")).to_be_focused()
    enter(page, "12")
    expect(page.locator(".slot:not(.blank)")).to_have_count(1)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert axe(page) == []


def test_a_log_from_a_spreadsheet_by_hand(page: Page) -> None:
    page.goto("/openings/import")
    page.get_by_label("Product and format").select_option(label="Banked 2026 · Hobby box")
    page.get_by_label("Price").fill("90")
    page.get_by_label("Or paste it").fill("Pack;Card No;Name;Version;Stamp\n1;12;;;\n1;44;;Cinder;37/50\n2;999;;;")
    page.get_by_role("button", name="Read it").click()
    expect(page.get_by_role("heading", name="1 row not understood")).to_be_visible()
    page.get_by_label("leave out").check()
    page.get_by_role("button", name="Read it again without these").click()
    page.get_by_role("button", name="Store all 2 rows").click()
    expect(page.locator("#strip")).to_contain_text("2 of 192 cards logged")
