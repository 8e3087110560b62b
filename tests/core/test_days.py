"""Days: what is typed by mistake is said, not stored."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from flask.testing import FlaskClient

from botin.core.days import PLANNED, DayError, typed_day
from tests.web.test_fees import token

TODAY = date(2026, 11, 24)


def test_a_day_is_read_and_an_empty_one_is_today() -> None:
    assert typed_day(" 2026-03-14 ", TODAY) == date(2026, 3, 14)
    assert typed_day("", TODAY) == TODAY
    assert typed_day("2027-03-14", TODAY, PLANNED) == date(2027, 3, 14)


@pytest.mark.parametrize(
    "text", ["0001-01-01", "1859-12-31", "2026-11-25", "9999-12-31", "14.03.2026", "2026-02-30", "²"]
)
def test_what_cannot_be_meant_is_refused(text: str) -> None:
    with pytest.raises(DayError):
        typed_day(text, TODAY)


@pytest.mark.parametrize("text", ["0001-01-01", "9999-12-31"])
def test_ahead_has_an_end_too(text: str) -> None:
    with pytest.raises(DayError):
        typed_day(text, TODAY, timedelta(days=700))


@pytest.mark.parametrize("day", ["0001-01-01", "9999-12-31"])
def test_fees_of_another_age_are_not_kept(client: FlaskClient, day: str) -> None:
    page = client.post("/fees/limits", data={"csrf_token": token(client), "limits": "10; 55; 75", "valid_from": day})
    assert page.status_code == 422
    assert f"{day} lies" in page.text
    assert day not in client.get("/fees/").text
