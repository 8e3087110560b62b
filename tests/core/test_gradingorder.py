"""A grading order: what it costs, what it is declared at, how it is packed, and what it brought.

The figures of the trade are common practice, with no published source: 25 a card and 19 back is 44 for one card and
119 for four; 38 cards at 15 and 43.25 back are 613.25, 1.14 of shipping each; seven people share 43.25 as 6.18 each;
a surcharge of 5 % for cards out of order; 99 a year saving 6 a card is repaid by the 17th.
"""

from __future__ import annotations

import re
from datetime import UTC, date, datetime, timedelta

import cv2
import numpy as np
import pytest
import zxingcpp
from hypothesis import given
from hypothesis import strategies as st

from botin.core.grading.ordercosts import (
    BY_CARD,
    BY_PERSON,
    CostLine,
    Whole,
    declare,
    line_costs,
    person_costs,
    repaid_from,
    surcharge_of,
)
from botin.core.grading.outcome import Came, Outcome
from botin.core.grading.stack import CHECKS, Fit, StackCard, missing, next_card, offer
from botin.core.grading.steps import AT_HOME, WAY, Step, after, before
from botin.exchange.barcodes import bars, code128
from botin.exchange.calendarfile import Entry, calendar_file
from botin.standins.carrier import Parcel, SimulatedCarrier
from botin.standins.house import OUT_OF_ORDER, SimulatedHouse, Subject, Submission
from botin.standins.scale import Contents, SimulatedScale

MINE = 1


def cards(count: int, fee: int, owner: int = MINE) -> list[CostLine]:
    return [CostLine(owner, fee)] * count


def test_one_card_is_44_and_four_are_119() -> None:
    assert sum(line_costs(cards(1, 2_500), Whole(back=1_900))) == 4_400
    assert sum(line_costs(cards(4, 2_500), Whole(back=1_900))) == 11_900


def test_38_cards_are_613_25_and_1_14_of_shipping_each() -> None:
    parts = line_costs(cards(38, 1_500), Whole(back=4_325))
    assert sum(parts) == 61_325
    assert {part - 1_500 for part in parts} == {113, 114}
    assert round(4_325 / 38) == 114


def test_seven_people_share_the_return_by_person_or_by_card() -> None:
    lines = [line for owner in range(1, 8) for line in cards(3 if owner == 2 else 1, 1_500, owner)]
    by_person = person_costs(lines, line_costs(lines, Whole(back=4_325), BY_PERSON))
    assert {by_person[owner] - 1_500 for owner in (1, 3, 4, 5, 6, 7)} <= {617, 618}
    assert by_person[2] - 4_500 == 618
    by_card = person_costs(lines, line_costs(lines, Whole(back=4_325), BY_CARD))
    assert by_card[2] - 4_500 == pytest.approx(3 * 4_325 / 9, abs=2)
    assert sum(by_person.values()) == sum(by_card.values()) == 9 * 1_500 + 4_325


def test_the_membership_falls_on_my_own_cards() -> None:
    lines = [*cards(2, 1_900), *cards(1, 1_900, 5)]
    assert line_costs(lines, Whole(membership=9_901)) == [1_900 + 4_951, 1_900 + 4_950, 1_900]
    assert line_costs(cards(3, 0, 5), Whole(membership=9_900)) == [3_300] * 3


def test_a_surcharge_is_five_percent_of_the_fees() -> None:
    assert surcharge_of(38 * 1_500) == 2_850


@pytest.mark.parametrize(
    ("cost", "saving", "least", "from_"), [(99, 6, 1, 17), (99, 6, 20, 20), (96, 6, 1, 16), (99, 0, 1, 0)]
)
def test_from_which_card_on_a_membership_pays(cost: float, saving: float, least: int, from_: int) -> None:
    assert repaid_from(cost, saving, least) == from_


@given(
    st.lists(st.tuples(st.integers(1, 5), st.integers(0, 9_999), st.integers(0, 3_000)), min_size=1, max_size=30),
    st.integers(0, 9_999), st.integers(0, 9_999), st.sampled_from([BY_CARD, BY_PERSON]),
)  # fmt: skip
def test_the_parts_add_up_to_the_order(rows: list[tuple[int, int, int]], shared: int, joined: int, how: str) -> None:
    lines = [CostLine(owner, fee, up, min(fee, 300)) for owner, fee, up in rows]
    parts = line_costs(lines, Whole(shared, 3, 5, 7, joined), how)
    assert sum(parts) == sum(line.own for line in lines) + shared + 15 + joined
    others = [part - line.own for part, line in zip(parts, lines, strict=True) if line.owner != MINE]
    if how == BY_CARD and others and any(line.owner == MINE for line in lines):
        assert max(others) - min(others) <= 1


def test_the_ceiling_is_meant_of_the_value_after_grading() -> None:
    """A card of 40 raw that brings 620 as a ten: declared at what it is worth graded, with the chance of an upcharge."""
    told = declare({10: 0.3, 9: 0.6, 8: 0.1}, {10: 620.0, 9: 140.0, 8: 60.0}, ceiling=499.0, upcharge=40.0)
    assert told is not None
    assert told.value == 276.0
    assert (told.above, told.upcharge) == (pytest.approx(0.3), pytest.approx(12.0))
    assert declare({10: 0.5, 9: 0.5}, {}) is None
    assert declare({10: 1.0}, {10: 499.0}, 499.0, 40.0) == pytest.approx(declare({10: 1.0}, {10: 499.0}))


STACK = [
    StackCard(1, 11, "12", "Orla Thorsby", "", "", packed=True),
    StackCard(2, 12, "12", "Orla Thorsby", "gold", "7/25"),
    StackCard(3, 13, "40", "Ida Renn", certificate="88117"),
    StackCard(4, 14, "S-4", "Orla Renn"),
]


@pytest.mark.parametrize(
    ("typed", "fit", "place"),
    [
        ("C12", Fit.RIGHT, 2), ("c12", Fit.RIGHT, 2), ("12", Fit.RIGHT, 2), ("thors", Fit.RIGHT, 2), ("orla", Fit.RIGHT, 2),
        ("gold 12", Fit.RIGHT, 2), ("#2", Fit.RIGHT, 2), ("C13", Fit.EARLY, 3), ("88117", Fit.EARLY, 3), ("ida", Fit.EARLY, 3),
        ("C11", Fit.TWICE, 1), ("C99", Fit.FOREIGN, 0), ("wystan", Fit.FOREIGN, 0), ("  ", Fit.UNREAD, 0), ("#9", Fit.FOREIGN, 0),
    ],
)  # fmt: skip
def test_a_card_is_held_against_the_stack(typed: str, fit: Fit, place: int) -> None:
    found = offer(STACK, typed)
    assert found.fit is fit
    assert (found.card.place if found.card else 0) == place
    assert fit in (Fit.RIGHT, Fit.UNREAD) or "line 2, 12 Orla Thorsby gold 7/25" in found.words


def test_a_parcel_is_packed_when_every_card_and_step_is_done() -> None:
    assert next_card(STACK) == STACK[1]
    assert len(missing(STACK, [])) == 3 + len(CHECKS)
    full = [StackCard(1, 1, "1", "A", packed=True)]
    assert missing(full, [check.key for check in CHECKS]) == []
    assert offer(full, "1").fit is Fit.FULL


def test_steps_at_home_rest_on_each_other_and_away_one_may_hear_of_a_later_one_first() -> None:
    assert [after(step)[:1] for step in WAY[:-1]] == [(step,) for step in WAY[1:]]
    assert all(len(after(step)) == 1 for step in AT_HOME)
    assert after(Step.SENT) == (Step.THERE, Step.GRADED, Step.RETURNING, Step.BACK)
    assert after(Step.BACK) == (Step.DONE,)
    assert before(Step.DRAFT) is None
    assert [before(step) for step in WAY[1:]] == list(WAY[:-1])


def test_grades_expected_and_grades_that_came() -> None:
    chances = {10.0: 0.5, 9.0: 0.5}
    out = Outcome(
        (Came(10.0, 20, 90, 25, 60, chances), Came(8.0, 20, 22, 25, 60, chances), Came(None, 20, 15, 25, 60, chances))
    )
    assert out.made == 90 + 22 + 15 - 60 - 75
    assert out.hoped == 3 * (60 - 20 - 25)
    assert out.tally() == [(10.0, 1.0, 1), (9.0, 1.0, 0), (8.0, 0.0, 1)]
    assert Outcome((Came(9.0, 1, 2, 3),)).hoped is None


def drawn(text: str, scale: int = 4) -> np.ndarray:
    """Draw a barcode as the label does, white around it."""
    width, found = bars(text)
    picture = np.full((40 * scale, width * scale), 255, np.uint8)
    for x, wide in found:
        picture[6 * scale : 34 * scale, x * scale : (x + wide) * scale] = 0
    return cv2.cvtColor(picture, cv2.COLOR_GRAY2BGR)


@pytest.mark.parametrize("text", ["C1", "C2784", "ORDER3", "C1234567890", "S-4 Orla"])
def test_a_barcode_is_read_by_another_program(text: str) -> None:
    """Code 128 (ISO/IEC 15417) as drawn here is read by the library zxing-cpp, which shares no code with the writer."""
    read = zxingcpp.read_barcodes(drawn(text))
    assert [(one.format, one.text) for one in read] == [(zxingcpp.BarcodeFormat.Code128, text)]


def test_a_barcode_holds_plain_letters_only() -> None:
    with pytest.raises(ValueError, match="cannot be a barcode"):
        code128("Ålesund")


def test_a_calendar_file_is_as_rfc_5545_has_it() -> None:
    """RFC 5545: lines end in CRLF and are folded at 75 octets (3.1), a day is VALUE=DATE (3.3.4), commas are escaped."""
    words = (
        "Grading order 3, 38 cards for House A économy: €613.25 to pay by 10 Dec 2026, upcharges of €40.00 in it; ask"
    )
    text = calendar_file([Entry("order-3-pay", date(2026, 12, 10), words)], datetime(2026, 11, 1, tzinfo=UTC))
    assert text.endswith(b"\r\n")
    assert b"\n" not in text.replace(b"\r\n", b"")
    assert all(len(line) <= 75 for line in text.split(b"\r\n"))
    plain = re.sub(rb"\r\n[ \t]", b"", text).decode().split("\r\n")
    assert "DTSTART;VALUE=DATE:20261210" in plain
    assert "DTEND;VALUE=DATE:20261211" in plain
    assert "UID:order-3-pay@botin.invalid" in plain
    summary = next(line for line in plain if line.startswith("SUMMARY:"))
    assert summary == "SUMMARY:" + words.replace(",", "\\,").replace(";", "\\;")
    assert plain.count("BEGIN:VEVENT") == plain.count("END:VEVENT") == plain.count("BEGIN:VALARM") == 1


def test_the_simulated_scale_and_carrier() -> None:
    scale, carrier = SimulatedScale(), SimulatedCarrier()
    light, heavy = (scale.weigh(Contents(cards=count)) for count in (1, 38))
    assert heavy - light == pytest.approx(37 * 10, abs=4)
    quotes = {quote.service: quote for quote in carrier.quotes(Parcel(heavy, value=4_200))}
    assert quotes["plain letter"].why_not == "too heavy"
    assert quotes["courier"].at_risk == 0
    assert quotes["courier"].must_sign
    assert quotes["parcel"].insurance == 0  # it cannot be insured for so much
    assert quotes["parcel"].at_risk > 0
    fares = [carrier.travel(carrier.number_for(str(key)), "plain letter", date(2026, 1, 1)) for key in range(2_000)]
    lost = sum(one.there_on is None for one in fares)
    assert 2 <= lost <= 26  # 12 expected; five standard deviations below and four above
    assert fares == [
        carrier.travel(carrier.number_for(str(key)), "plain letter", date(2026, 1, 1)) for key in range(2_000)
    ]


def test_the_simulated_house_grades_with_a_bias_finds_disorder_and_waits_for_payment() -> None:
    house, sent = SimulatedHouse(), date(2026, 1, 5)
    subjects = tuple(
        Subject(i, {10.0: 0.4, 9.0: 0.5, 8.0: 0.1}, {10.0: 600.0, 9.0: 100.0, 8.0: 50.0}) for i in range(20)
    )
    reports = [house.report(Submission(f"k{n}", sent, 20, 499.0, 40.0, subjects)) for n in range(300)]
    share = sum(one.out_of_order for one in reports) / len(reports)
    assert share == pytest.approx(OUT_OF_ORDER, abs=4 * (0.05 * 0.95 / 300) ** 0.5)
    grades = [card.grade for one in reports for card in one.cards if card.grade is not None]
    assert np.mean(grades) == pytest.approx(9.3 - 0.15, abs=0.1)
    assert all((card.upcharge == 40.0) == (card.grade == 10.0) for one in reports for card in one.cards if card.grade)
    assert {card.outcome for one in reports for card in one.cards} == {"graded", "refused", "altered", "wrong label"}
    assert all(sent < one.there_on < one.graded_on < one.pay_on and one.back_on is None for one in reports)
    paid = house.report(Submission("k0", sent, 20, 499.0, 40.0, subjects, sent + timedelta(60)))
    assert paid.cards == reports[0].cards
    assert paid.back_on is not None
    assert paid.returning_on is not None
    assert paid.back_on > paid.returning_on > sent + timedelta(60)
