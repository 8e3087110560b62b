"""Fields of forms: what people write, and what is refused in words."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import pytest
from flask.testing import FlaskClient
from werkzeug.datastructures import MultiDict

from botin.core.errors import BadAmountError, BotinError
from botin.web.books.forms import NoteForm
from botin.web.fields import AHEAD, MoneyField, TypedForm
from botin.web.forms import DaysForm, LotForm
from botin.web.grading.forms import JoinForm, VoucherForm
from botin.web.look.forms import LookForm, PinForm, RulersForm
from botin.web.shelf.forms import PurchaseForm


def filled(client: FlaskClient, form: type[TypedForm], **sent: Any) -> Any:
    """Return a form as it is read in a request that sent it."""
    pairs = [(name, one) for name, value in sent.items() for one in (value if isinstance(value, list) else [value])]
    with client.application.test_request_context("/", method="POST", data=MultiDict(pairs)):
        return form()


@pytest.mark.parametrize(
    ("text", "currency", "minor"),
    [
        ("", "EUR", 0),
        (" 12,50 ", "EUR", 1250),
        ("2,200", "EUR", 220_000),
        ("1.234", "KWD", 1234),
        ("900", "JPY", 900),
        ("1 234.50", "USD", 123_450),
    ],
)
def test_an_amount_is_read_in_its_currency(client: FlaskClient, text: str, currency: str, minor: int) -> None:
    assert filled(client, LotForm, price=text).price.money(currency).minor == minor


@pytest.mark.parametrize(
    ("text", "currency"),
    [("-3", "EUR"), ("12.5", "JPY"), ("1.2345", "KWD"), ("ten", "EUR"), ("1e5", "EUR"), ("9" * 20, "EUR")],
)
def test_what_is_no_amount_of_a_currency_is_refused(client: FlaskClient, text: str, currency: str) -> None:
    with pytest.raises(BotinError, match=r"not an amount|less than nothing|too large"):
        filled(client, LotForm, price=text).price.money(currency)


def test_an_amount_that_must_be_there_is_asked_for(client: FlaskClient) -> None:
    class Some(TypedForm):
        amount = MoneyField()

    with pytest.raises(BadAmountError):
        filled(client, Some, amount="").amount.given("EUR")


def test_a_box_may_cost_fils(client: FlaskClient) -> None:
    """Before its currency is known an amount of three decimals stands as it was typed; three are too many for euros."""
    sent = {"client_key": "k", "format_id": "1", "bought_on": "2026-11-20", "price": "12.345"}
    with client.application.test_request_context("/", method="POST", data=sent):
        form = PurchaseForm(meta={"csrf": False})
        form.offer([(1, "Box", "KWD")])
        assert form.validate(), form.errors
        assert form.purchase([(1, "Box", "KWD")]).price.minor == 12_345
        with pytest.raises(BadAmountError):
            form.purchase([(1, "Box", "EUR")])


def test_days(client: FlaskClient) -> None:
    with client.application.app_context():
        today = client.application.extensions["bench"].today()

    def day(kind: type[TypedForm], **sent: str) -> Any:
        with client.application.test_request_context("/", method="POST", data=sent):
            form: Any = kind()
            return form.day.or_today() if kind is LotForm else form.until_on.day()

    assert day(LotForm) == today
    assert day(LotForm, day="2026-03-14") == date(2026, 3, 14)
    assert day(VoucherForm) is None
    later = today + AHEAD - timedelta(days=1)
    assert day(VoucherForm, until_on=later.isoformat()) == later
    for bad in ("14.3.26.", "2999-01-01", "0001-01-01", "x"):
        with pytest.raises(BotinError):
            day(LotForm, day=bad)


@pytest.mark.parametrize(("text", "count"), [("", 1), ("0", 1), ("7", 7), ("999", 60)])
def test_days_of_the_demo(client: FlaskClient, text: str, count: int) -> None:
    assert filled(client, DaysForm, days=text).count(60) == count


@pytest.mark.parametrize("text", ["-1", "1.5", "²", "1234567890", "ten"])
def test_what_is_no_whole_number_is_refused(client: FlaskClient, text: str) -> None:
    with pytest.raises(BotinError, match="is no whole number"):
        filled(client, DaysForm, days=text).count(60)
    assert filled(client, JoinForm, order="²").order.row_id() == 0


def test_ticks_are_the_numbers_among_them(client: FlaskClient) -> None:
    form = filled(client, LotForm, copy=["3", "x", "²", "12", "9" * 30])
    assert form.copy.ids() == [3, 12]
    assert filled(client, LotForm, copy=["copy:3", "4"]).copy.ids("copy:") == [3, 4]


def test_grades_and_centering(client: FlaskClient) -> None:
    seen = filled(client, LookForm, corners="9,5", edges="10", front="45/55").seen()
    assert (seen.corners, seen.edges, seen.front, seen.surface) == (9.5, 10.0, 55.0, None)
    for name, bad, words in (
        ("corners", "9.7", "for the corners is no grade"), ("edges", "0", "for the edges is no grade"),
        ("surface", "nan", "for the surface is no grade"), ("back", "60/60", "no centering of the back"),
    ):  # fmt: skip
        with pytest.raises(BotinError, match=words):
            filled(client, LookForm, **{name: bad}).seen()
    with pytest.raises(BotinError, match="Nothing is filled in"):
        filled(client, LookForm).seen()


def test_borders_and_pins(client: FlaskClient) -> None:
    measured = {"left": 2.0, "right": 2.5, "top": 3.0}
    assert filled(client, RulersForm, left="1,25", bottom="3").borders(measured).left == 1.25
    with pytest.raises(BotinError, match="bottom border was not measured"):
        filled(client, RulersForm).borders(measured)
    with pytest.raises(BotinError, match="no width of the top border"):
        filled(client, RulersForm, top="-1").borders(measured)
    pin = filled(client, PinForm, side="front", kind="nick", severity="slight", place="top", size="0.5").pin()
    assert (pin.x, pin.y, pin.size_um) == (500, 40, 500)
    with pytest.raises(BotinError, match="is no size"):
        filled(client, PinForm, size="0").pin()


def test_a_note_without_a_currency_is_in_euros_and_one_with_an_empty_one_is_asked(client: FlaskClient) -> None:
    with client.application.test_request_context("/", method="POST", data={"amount": "5"}):
        assert NoteForm().noted().amount.currency == "EUR"
    sent = {"amount": "5", "currency": ""}
    with (
        client.application.test_request_context("/", method="POST", data=sent),
        pytest.raises(BotinError, match="is no currency"),
    ):
        NoteForm().noted()
