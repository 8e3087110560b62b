"""What waits in the browser: of one data directory and one box, lost by no second window, by no cookie that is gone."""

from __future__ import annotations

import time

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.desk.workbench import Workbench
from botin.store.models import CardRecord, PullRecord
from tests.browser.conftest import enter

pytestmark = pytest.mark.browser
TYPE = """async ([numbers]) => {
  const line = document.getElementById('entry');
  const pack = document.querySelector('#entry-form input[name=pack]');
  for (const number of numbers) {
    line.value = String(number);
    pack.value = String(number % Number(pack.dataset.last) + 1);  // no pack holds a thousand cards
    document.getElementById('entry-form').requestSubmit();
    await new Promise((go) => setTimeout(go, 0));
  }
}"""


def logged(session: Session) -> int:
    session.expire_all()
    query = select(func.count()).where(PullRecord.box_id == 4, PullRecord.undone_at.is_(None))
    return session.scalar(query) or 0


@pytest.mark.parametrize("lines", [36, pytest.param(1000, marks=pytest.mark.slow)])
def test_two_windows_type_without_a_server_and_every_line_comes_once_and_in_order(
    desk: Page, session: Session, lines: int
) -> None:
    """Both write into the same storage at the same time; when the server is back all lines are there, once."""
    other = desk.context.new_page()
    other.goto("/rip/4")
    expect(other.locator("#entry-form[data-ready]")).to_be_visible()
    desk.context.route("**/rip/4/log", lambda route: route.abort())
    one, two = [(3 * n) % 300 + 1 for n in range(lines)], [(7 * n) % 300 + 1 for n in range(lines)]
    for start in range(0, lines, 20):  # one window goes on while the other one is still at it
        desk.evaluate("([code, ...rest]) => { window.typing = eval(code)(rest); }", [TYPE, one[start : start + 20]])
        other.evaluate(TYPE, [two[start : start + 20]])
        desk.evaluate("window.typing")
    expect(desk.locator("#waiting")).to_contain_text("lines wait")
    desk.context.unroute("**/rip/4/log")
    until = time.monotonic() + 30 + 0.3 * lines
    while logged(session) < 2 * lines and time.monotonic() < until:
        desk.wait_for_timeout(100)
    desk.wait_for_timeout(300)
    assert logged(session) == 2 * lines
    query = select(CardRecord.number).join(PullRecord, PullRecord.card_id == CardRecord.id)
    found = session.scalars(query.where(PullRecord.box_id == 4).order_by(PullRecord.id)).all()
    assert sorted(found) == sorted(str(number) for number in one + two)
    walk = iter(found)
    assert all(str(number) in walk for number in one), "the lines of a window keep their order"


def test_lines_never_go_to_another_data_directory_at_the_same_address(
    desk: Page, session: Session, bench: Workbench
) -> None:
    """The demo was started where the own data was served: what is typed in the open window waits for its own."""
    own = bench.home_id
    bench.__dict__["home_id"] = "f" * 16
    enter(desk, "12")
    expect(desk.locator("#waiting")).to_contain_text("Another Botin answers")
    expect(desk.locator("#waiting")).to_contain_text("1 line waits")
    assert logged(session) == 0
    desk.reload()
    expect(desk.locator("#entry-form[data-ready]")).to_be_visible()
    assert logged(session) == 0, "the other home's own page does not send it either"
    bench.__dict__["home_id"] = own
    desk.reload()
    expect(desk.locator(".slot:not(.blank)")).to_have_count(1)
    assert logged(session) == 1


def test_a_line_typed_after_the_cookie_is_gone_is_logged(desk: Page, session: Session) -> None:
    enter(desk, "12")
    expect(desk.locator(".slot:not(.blank)")).to_have_count(1)
    desk.context.clear_cookies()
    enter(desk, "13")
    expect(desk.locator(".slot:not(.blank)")).to_have_count(2)
    desk.context.clear_cookies()
    desk.keyboard.press("Control+z")
    expect(desk.locator(".slot:not(.blank)")).to_have_count(1)
    assert logged(session) == 1


def test_lines_that_an_earlier_version_kept_are_shown_and_not_lost(desk: Page, session: Session) -> None:
    """They do not say of which data directory they are: nothing is sent by itself."""
    desk.evaluate("""localStorage.setItem('botin-queue-4', JSON.stringify([
        {key: 'a', url: '/rip/4/log', fields: [['entry', '12'], ['pack', '2'], ['client_key', 'old']], isLine: true},
    ]))""")
    desk.reload()
    expect(desk.locator("#waiting")).to_contain_text("12 (pack 2)")
    assert logged(session) == 0
    desk.get_by_role("button", name="12 (pack 2)").click()
    desk.keyboard.press("Enter")
    expect(desk.locator("#strip")).to_contain_text("1 of 192")
    assert logged(session) == 1
