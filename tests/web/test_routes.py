"""Prices and routes over HTTP and at the desk: typed lines, the feed, looks, the board, the mix of tiers."""

from __future__ import annotations

import re
import time
from datetime import date

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.flags.ways import Go
from botin.core.pricing.compline import CompLineError, read_comp_line
from botin.core.pricing.prices import PriceKind
from botin.desk.fees import grading_fees
from botin.desk.flags.everything import is_stale, judge_all
from botin.desk.flags.pricepage import price_page
from botin.desk.flags.submission import best_mix
from botin.desk.grading.counts import qualities, returned_grades
from botin.desk.grading.returns import calibration
from botin.desk.pricing.prices import moved_since
from botin.desk.workbench import Workbench
from botin.standins.soldfeed import SimulatedFeed, usable
from botin.store.flags.board import BoardFilter, flag_board
from botin.store.flags.owned import owned_versions, single_copies
from botin.store.models import PriceRecord
from botin.store.models_copies import CopyRecord, FlagRecord, InspectionRecord, LookRecord

TODAY = date(2026, 11, 24)


def token(client: FlaskClient, path: str) -> str:
    found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', client.get(path).text)
    assert found
    return found[1]


def test_a_line_of_sales(session: Session, bench: Workbench) -> None:
    product = bench.product(session, bench.record(session, 1))
    found = read_comp_line(product, "12 copper 14.50 14.00 17.25 @2026-03-02", TODAY)
    assert [row.amount for row in found.rows] == [14.5, 14.0, 17.25]
    assert {(row.section, row.number, row.parallel, row.sold_on) for row in found.rows} == {
        ("base", "12", "copper", date(2026, 3, 2))
    }
    graded = read_comp_line(product, "SB-1 g10 1,250.00 asking", TODAY).rows[0]
    assert (graded.grade, graded.amount, graded.kind) == ("10", 1250.0, PriceKind.ASKING)
    foreign = read_comp_line(product, "12 10.00 20.00 USD*0.92", TODAY).rows
    assert [row.amount for row in foreign] == [pytest.approx(9.2), pytest.approx(18.4)]
    assert foreign[0].source == "typed, USD at 0.92"
    sealed = read_comp_line(product, "sealed hobby pack 5,50", TODAY).rows[0]
    assert (sealed.section, sealed.parallel, sealed.amount) == ("sealed:hobby", "pack", 5.5)


def test_a_line_may_begin_with_the_label_of_a_section(session: Session, bench: Workbench) -> None:
    product = bench.product(session, bench.record(session, 1))
    section = next(row for row in product.sections if row.label.casefold() != row.key)
    number = product.cards_by_section[section.key][0].number
    for first in (section.label, section.label.upper(), section.key):
        row = read_comp_line(product, f"{first} {number} 7.50", TODAY).rows[0]
        assert (row.section, row.number, row.amount) == (section.key, number, 7.5)


def test_a_price_that_can_be_read_in_two_ways_is_asked_about(session: Session, bench: Workbench) -> None:
    with pytest.raises(CompLineError, match=r"Write 1250 or 1.25"):
        read_comp_line(bench.product(session, bench.record(session, 1)), "12 1.250", TODAY)


@pytest.mark.parametrize(
    "line", ["", "12", "9999 4", "12 velvet 4", "12 copper 4 @soon", "12 4 @2030-01-01", "sealed tin 4", "12 copper"]
)
def test_lines_that_are_not_understood(session: Session, bench: Workbench, line: str) -> None:
    with pytest.raises(CompLineError):
        read_comp_line(bench.product(session, bench.record(session, 1)), line, TODAY)


def test_typed_lines_are_stored_and_the_bad_ones_handed_back(client: FlaskClient, session: Session) -> None:
    before = session.scalar(select(func.count()).select_from(PriceRecord)) or 0
    fields = {
        "csrf_token": token(client, "/prices/"),
        "product": "1",
        "lines": "12 copper 14.50 14.00\n12 velvet 3\nsealed hobby 118 121",
    }
    found = client.post("/prices/", data=fields)
    assert found.status_code == 422
    assert "Stored: base 12 copper: 2; sealed:hobby: 2" in found.text
    assert ">12 velvet 3</textarea>" in found.text
    assert session.scalar(select(func.count()).select_from(PriceRecord)) == before + 4
    assert "hobby box" in client.get("/prices/?product=1").text


def test_the_feed_is_seeded_and_labelled_and_its_traps_are_left_out(client: FlaskClient, session: Session) -> None:
    feed = SimulatedFeed()
    some = [feed.sales(f"card {n}", 10.0, date(2026, 8, 1), TODAY, date(2026, 8, 19)) for n in range(40)]
    assert some[0] == feed.sales("card 0", 10.0, date(2026, 8, 1), TODAY, date(2026, 8, 19))
    everything = [row for rows in some for row in rows]
    assert any(row.price is None for row in everything)
    assert any(row.lot > 1 for row in everything)
    assert any(row.other_card for row in everything)
    assert all(row.price and row.lot == 1 and not row.other_card for row in usable(everything))
    early = [row.price or 0 for row in usable(everything) if row.sold_on < date(2026, 9, 1)]
    late = [row.price or 0 for row in usable(everything) if row.sold_on > date(2026, 10, 15)]
    assert sorted(early)[len(early) // 2] > sorted(late)[len(late) // 2]
    page = client.get("/prices/card/5").text
    assert "a simulated stand-in" in page
    fields = {"csrf_token": token(client, "/prices/card/5"), "finish": ""}
    client.post("/prices/card/5/fetch", data=fields)
    stored = session.scalar(select(func.count()).where(PriceRecord.source == "simulated feed"))
    assert stored
    client.post("/prices/card/5/fetch", data=fields)
    assert session.scalar(select(func.count()).where(PriceRecord.source == "simulated feed")) == stored


def test_a_look_at_a_copy_moves_its_routes(client: FlaskClient, session: Session, bench: Workbench) -> None:
    row = session.scalars(
        select(FlagRecord).where(FlagRecord.go.in_(["grade", "look closer"])).order_by(FlagRecord.net.desc())
    ).first()
    assert row is not None
    pull = session.scalars(
        select(CopyRecord).where(CopyRecord.card_id == row.card_id, CopyRecord.parallel == row.parallel)
    ).first()
    assert pull is not None
    path = f"/prices/card/{row.card_id}?finish={row.parallel}"
    fields = {
        "csrf_token": token(client, path),
        "finish": row.parallel,
        "copy": pull.id,
        "corners": "4",
        "edges": "5",
        "surface": "4.5",
    }
    assert (
        client.post(
            f"/prices/card/{row.card_id}/look", data={**fields, "front": "20"}, follow_redirects=True
        ).text.count("is not between")
        == 1
    )
    assert session.scalar(select(func.count()).where(InspectionRecord.card_id == row.card_id)) == 0
    client.post(f"/prices/card/{row.card_id}/look", data=fields)
    found = price_page(session, bench, row.card_id, row.parallel)
    graded = {route.tier: route.mean for route in found.version.verdict.routes if route.go is Go.GRADE}
    looked = {route.tier: route.mean for route in found.copies[0].verdict.routes if route.go is Go.GRADE}
    assert all(looked[tier] < graded[tier] for tier in looked)
    assert found.copies[0].verdict.go is not Go.GRADE


def test_the_board_covers_every_version_that_is_here(session: Session, bench: Workbench) -> None:
    count = judge_all(session, bench)
    products = range(1, 7)
    owned = sum(len(owned_versions(session, one)) + len(single_copies(session, one)) for one in products)
    assert count == owned == session.scalar(select(func.count()).select_from(FlagRecord))
    board = flag_board(session, BoardFilter())
    assert board.versions == count
    assert [row.net for row, *_ in board.rows] == sorted((row.net for row, *_ in board.rows), reverse=True)
    sell = flag_board(session, BoardFilter(go="sell now", least=2.0, sort="price"))
    assert all(row.go == "sell now" and row.net >= 200 for row, *_ in sell.rows)
    assert BoardFilter(go="grade", unsure=True).describe() == "grade, whose verdict is not sure, by what it nets"


def test_my_own_route_stays_when_all_are_worked_out_anew(client: FlaskClient, session: Session) -> None:
    row = session.scalars(select(FlagRecord).limit(1)).one()
    key = (row.card_id, row.parallel)
    fields = {"csrf_token": token(client, "/flags/"), "row": str(row.id), "go": "keep"}
    assert client.post("/flags/choose?sort=net", data=fields).status_code == 303
    assert "Tick some rows" in client.post("/flags/choose", data={**fields, "row": "x"}, follow_redirects=True).text
    assert "is no flag" in client.post("/flags/choose", data={**fields, "go": "burn"}, follow_redirects=True).text
    client.post("/flags/again", data=fields)
    session.expire_all()
    again = session.scalars(
        select(FlagRecord).where(FlagRecord.card_id == key[0], FlagRecord.parallel == key[1])
    ).one()
    assert again.chosen == "keep"


def test_what_moved_beyond_its_interval_is_pointed_out(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    row = session.scalars(select(FlagRecord).where(FlagRecord.price > 500).limit(1)).one()
    assert client.get(f"/prices/card/{row.card_id}?finish={row.parallel}").status_code == 200
    assert session.scalar(select(LookRecord.amount).where(LookRecord.card_id == row.card_id)) == row.price
    assert not moved_since(session)
    row.price *= 4
    session.commit()
    assert [moved.card_id for moved in moved_since(session)] == [row.card_id]
    assert "Moved since you looked" in client.get("/prices/").text


def test_a_hit_at_the_rip_desk_says_where_it_should_go(client: FlaskClient) -> None:
    fields = {"csrf_token": token(client, "/boxes/new")}
    client.post("/boxes/4/open", data=fields)
    client.post("/rip/4/log", data={**fields, "entry": "SB-1", "pack": "1", "client_key": "flag"})
    assert re.search(r'slot-flag">(sell now|look closer|grade|keep|bulk)<', client.get("/rip/4?pack=1").text)


def test_the_best_mix_is_never_worse_than_by_hand(session: Session, bench: Workbench) -> None:
    mix = best_mix(session, bench, grading_fees(session, TODAY), None)
    assert mix.best.gain >= mix.by_hand.gain - 1e-6
    poor = best_mix(session, bench, grading_fees(session, TODAY), 60.0)
    assert poor.best.spent <= 60.0 + 1e-6
    assert len(returned_grades(session)) == 10
    assert returned_grades(session, "House B") == []


@pytest.mark.parametrize(
    "path",
    [
        "/flags/",
        "/flags/?go=bulk&page=2&q=a",
        "/flags/?go=nonsense&sort=none",
        "/grading/choose?cash=50",
        "/prices/",
        "/prices/card/380?finish=slate",
    ],
)
def test_pages(client: FlaskClient, path: str) -> None:
    assert client.get(path).status_code == 200


def test_returned_grades_teach_and_are_held_against_the_forecast(client: FlaskClient, session: Session) -> None:
    before = calibration(session)
    assert before.count == 10  # the demo's order that came back
    pull = session.scalars(select(CopyRecord).where(CopyRecord.card_id.is_not(None)).limit(1)).one()
    path = f"/prices/card/{pull.card_id}?finish={pull.parallel}"
    fields = {"csrf_token": token(client, path), "finish": pull.parallel, "copy": pull.id}
    client.post(f"/prices/card/{pull.card_id}/look", data={**fields, "corners": "9.5", "edges": "9.5"})
    for key in ("r1", "r1", "r2"):
        client.post(f"/prices/card/{pull.card_id}/returned", data={**fields, "grade": "8", "client_key": key})
    bad = client.post(
        f"/prices/card/{pull.card_id}/returned",
        data={**fields, "grade": "eleven", "client_key": "r3"},
        follow_redirects=True,
    )
    assert "is no grade" in bad.text
    found = calibration(session)
    assert found.count == 12
    assert found.grader.bias < before.grader.bias
    assert found.brier is not None
    assert "Brier score" in client.get("/grading/").text


def test_sealed_prices_and_flags_are_shown_where_they_help(client: FlaskClient) -> None:
    fields = {"csrf_token": token(client, "/prices/"), "product": "1", "lines": "sealed hobby 150 152"}
    client.post("/prices/", data=fields)
    assert "selling it unopened nets" in client.get("/buy/1?format=hobby&price=100").text
    assert 'class="verdict v-' in client.get("/recap/1").text
    board = client.get("/flags/").text
    assert "Still sealed" in board
    assert re.search(r"<td>(sell sealed|rip)</td>", board)
    assert "no sealed price" in board
    sealed = re.findall(r"sells sealed for <b>€(\d+\.\d\d)</b>", client.get("/").text)
    assert any(118 <= float(amount) <= 152 for amount in sealed)
    assert "Prices, checklists or copies changed" in client.get("/flags/").text
    answer = client.post("/flags/again", data=fields)
    for _ in range(200):
        if answer.location.endswith("/flags/"):
            break
        time.sleep(0.1)
        seen = client.get(answer.location)
        answer = answer if seen.status_code == 200 else seen
    assert "Prices, checklists or copies changed" not in client.get("/flags/").text
    assert "cell-route" in client.get("/sets/board?part=1:signed").text


def test_a_mark_noted_while_opening_moves_the_routes_of_that_copy(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    row = session.scalars(
        select(FlagRecord).where(FlagRecord.go.in_(["grade", "look closer"])).order_by(FlagRecord.net.desc())
    ).first()
    assert row is not None
    pull = session.scalars(
        select(CopyRecord).where(CopyRecord.card_id == row.card_id, CopyRecord.parallel == row.parallel)
    ).first()
    assert pull is not None
    pull.marks = "soft corner;gum stain"
    session.commit()
    found = price_page(session, bench, row.card_id, row.parallel)
    graded = {route.tier: route.mean for route in found.version.verdict.routes if route.go is Go.GRADE}
    noted = {route.tier: route.mean for route in found.copies[0].verdict.routes if route.go is Go.GRADE}
    assert found.copies[0].copy_id == pull.id
    assert all(noted[tier] < graded[tier] for tier in noted)
    assert "noted while opening" in client.get(f"/prices/card/{row.card_id}?finish={row.parallel}").text


def test_counts_of_a_house_are_pasted_and_move_the_forecast(
    client: FlaskClient, session: Session, bench: Workbench
) -> None:
    fields = {"csrf_token": token(client, "/flags/"), "product": "1"}
    for text, words in (
        ("10; many", "is no count"), ("11; 4", "is no grade"), ("10; 4\n10; 5", "counted above"),
        (" ", "No line is written"), ("nowhere; 10; 4", "no section “nowhere”"), ("10", "is not understood"), ("9.3; 4", "no grade"),
    ):  # fmt: skip
        answer = client.post("/grading/counts", data={**fields, "counts": text}, follow_redirects=True).text
        assert words in answer
        assert text.replace("\n", " ") in answer.replace("\n", " "), "what was typed is kept"
    before = qualities(session, 1)
    text = "Grade; Count\n10; 1,500\n9.5; 300\n9; 200\nsigned; 10; 5\nsigned; 9; 45"
    answer = client.post("/grading/counts", data={**fields, "counts": text}, follow_redirects=True).text
    assert "2,050 graded copies" in answer
    session.expire_all()
    after = qualities(session, 1)
    assert after[""].counted == 2_000
    assert after["signed"].counted == 50
    assert after[""].mean > before[""].mean
    assert is_stale(session)
