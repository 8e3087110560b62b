"""Pages held by measure: no sideways scroll, nothing wider than its panel, no small text or target, axe, at five widths."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page

from tests.browser.conftest import axe_both

MEASURE = (Path(__file__).parent / "layout.js").read_text(encoding="utf-8")
WIDTHS = (360, 390, 768, 1280, 1920)


@pytest.mark.parametrize(
    "path",
    [
        "/today/",
        "/books/",
        "/people/",
        "/people/2",
        "/orders/1",
        "/orders/new",
        "/boxes/2/correct",
        "/boxes/4/correct",
    ],
)
def test_a_page_keeps_its_measure(looking: Page, path: str) -> None:
    found = {}
    looking.goto(path)
    for width in WIDTHS:
        looking.set_viewport_size({"width": width, "height": 800})
        found[width] = looking.evaluate(MEASURE.split("\n", 2)[2])
    assert {width: words for width, words in found.items() if words} == {}
    looking.set_viewport_size({"width": 390, "height": 800})
    assert axe_both(looking) == []
