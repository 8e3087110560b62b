"""Getting a product in, by keyboard: paste, look through, mend, store, find its cards."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import FilePayload, Page, expect

from tests.browser.conftest import axe
from tests.corpus.tablelayouts import xlsx_bytes

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


ROWERS = [("Orla Thorsby", "Harrow Bay", ""), ("Jorik Munro", "Tarn", "x"), ("Élise Ives", "Tarn", ""),
          ("Dov Quill", "Harrow Bay", ""), ("Pia Fenwick", "Tarn", ""), ("Koa Tamaki", "Eastmere", "x"),
          ("Noor Ferro", "Eastmere", "")]  # fmt: skip
LIST = "Oar League 2026;;;;\nRower;Stall;Rookie?;Which set;Nummer\n" + "".join(
    f"{name};{club};{rookie};Base;{n}\n" for n, (name, club, rookie) in enumerate(ROWERS, 1)
) + "Orla Thorsby;Harrow Bay;;Lock Keepers;LK-1\nDov Quill;Harrow Bay;;Lock Keepers;LK-2\n"  # fmt: skip
FINISHES = [("Parallels", [["Set", "Parallel", "Print run"], ["Base", "Copper", ""], ["Base", "Gold", "25"]]),
            ("Boxes", [["Format", "Packs per box", "Cards per pack", "Price"], ["Hobby", "24", "8", "$118.00"]])]  # fmt: skip
ODDS = "Copper 1:4\nGold 1:96\nLock Keepers 1:12\n"
MOST_CLICKS = 4
"""Choosing the files is one; then: read it, say that the columns are right, store it."""


def test_three_files_to_a_stored_product_in_few_clicks(page: Page) -> None:
    clicks = 0

    def click(name: str) -> None:
        nonlocal clicks
        page.get_by_role("button", name=name).click()
        clicks += 1

    page.goto("/library/add")
    page.get_by_label("Name").fill("Oar League Regatta")
    files: list[FilePayload] = [
        {"name": "rowers.csv", "mimeType": "text/csv", "buffer": LIST.encode()},
        {"name": "finishes.xlsx", "mimeType": "application/octet-stream", "buffer": xlsx_bytes(FINISHES)},
        {"name": "odds.txt", "mimeType": "text/plain", "buffer": ODDS.encode()},
    ]
    page.get_by_label("Product package").set_input_files(files)
    clicks += 1
    click("Read it")
    expect(page.get_by_role("heading", name="Which column is what")).to_be_visible()
    expect(page.get_by_label("Stall of rowers.csv")).to_have_value("team")
    assert axe(page) == []
    click("That is right, read it so")
    expect(page.get_by_role("status")).to_contain_text("they are remembered")
    expect(page.locator(".sections-of tbody tr")).to_have_count(2)
    expect(page.get_by_label("Kind of Lock Keepers")).to_have_value("insert")
    click("Store the product")
    expect(page.get_by_role("heading", name="Odds ladder")).to_be_visible()
    expect(page.locator(".found tbody tr")).to_have_count(9)
    assert clicks <= MOST_CLICKS


def test_a_guess_is_settled_by_keyboard_and_the_way_back_is_one_key(page: Page) -> None:
    page.goto("/library/add")
    page.get_by_label("Name").fill("Two Ways")
    page.get_by_label("How it is boxed").fill("Hobby: 24 packs of 8\nBlaster: 7 packs of 6")
    page.get_by_label("Checklist").fill("Base\n1 Orla Thorsby - Tarn\n2 Dov Quill - Tarn\nParallels: Copper")
    page.get_by_label("Odds and promises").fill("Copper 1:4")
    page.get_by_role("button", name="Read it").press("Enter")
    page.get_by_role("link", name="guessed 1").press("Enter")
    page.wait_for_url(re.compile("show=guessed"))  # loaded: a key that is pressed sooner is sent twice
    page.get_by_role("button", name="it is for Blaster").press("Enter")
    expect(page.locator(".source-lines .is-guessed")).to_have_count(0)
    page.get_by_role("link", name="all 7").press("Enter")
    page.wait_for_url(re.compile("show=all"))
    expect(page.locator(".source-lines")).to_contain_text("Base Copper 1:4 in blaster")
    assert axe(page) == []
