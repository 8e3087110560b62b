"""What the boxes of a home say of counts that are only averages; what of a box was opened, and what follows."""

from __future__ import annotations

from datetime import UTC, date, datetime

import pytest
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from botin.core.catalog.product import OddsRow
from botin.core.counts import learned_law
from botin.desk.buying.prepared import Valuation, prepared
from botin.desk.odds.learnedmodel import learned_model, whole_counts
from botin.desk.odds.learning import learned, measured_lines
from botin.desk.opened import opened_packs
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.catalog.products import save_product
from botin.store.copies.copies import follow_box
from botin.store.models import BoxPackRecord, BoxRecord, CardRecord, FormatRecord, ProductRecord, PullRecord
from tests.core.small import product

WHEN = datetime(2026, 11, 20, 9, 0, tzinfo=UTC)


@pytest.fixture
def record(session: Session) -> ProductRecord:
    """Two signed cards a box on average; nothing is opened yet."""
    made = product(OddsRow("hobby", "signed", per_box="2", promise="average"))
    found = save_product(session, made)
    session.commit()
    return found


def add_box(session: Session, record: ProductRecord, signed: int, opened: int = 24) -> BoxRecord:
    """A closed box with so many signed cards in its first packs, base counted in the packs that were opened."""
    fmt = session.scalars(select(FormatRecord).where(FormatRecord.product_id == record.id)).one()
    card = session.scalars(
        select(CardRecord).where(CardRecord.number == "S-1").order_by(CardRecord.id.desc())
    ).first()
    number = session.query(BoxRecord).count()
    assert card is not None
    box = BoxRecord(
        client_key=f"avg{number}", format_id=fmt.id, bought_on=date(2026, 11, 1), price_minor=10_000, currency="EUR",
        state="closed", opened_at=WHEN, closed_at=WHEN, mode="hits", rest="" if opened == 24 else "kept",
    )  # fmt: skip
    session.add(box)
    session.flush()
    session.add_all(BoxPackRecord(box_id=box.id, number=n + 1, base_count=8) for n in range(opened))
    session.add_all(
        PullRecord(box_id=box.id, card_id=card.id, client_key=f"a{number}-{n}", pack=n + 1, logged_at=WHEN)
        for n in range(signed)
    )
    follow_box(session, box.id)
    session.commit()
    return box


def none_of_it(session: Session, bench: Workbench, record: ProductRecord) -> float:
    """Chance that a box holds no signed card."""
    model = learned_model(session, bench, record, "hobby")
    return next(float(line.law.pmf()[0]) for line in model.lines if line.section.key == "signed" and line.law)


def test_before_anything_is_logged_an_average_is_half_even_and_half_random(
    session: Session, bench: Workbench, record: ProductRecord
) -> None:
    """e^-2 ÷ 2: none in 6.8 % of boxes."""
    assert none_of_it(session, bench, record) == pytest.approx(0.0677, abs=1e-4)


def test_the_boxes_of_this_home_decide_between_the_schools(
    session: Session, bench: Workbench, record: ProductRecord
) -> None:
    for _ in range(6):
        add_box(session, record, 2)
    assert none_of_it(session, bench, record) < 0.001
    said = " ".join(learned_model(session, bench, record, "hobby").assumptions)
    assert "as 6 logged boxes weigh them" in said
    for seen in (0, 4, 0, 5, 0, 1):
        add_box(session, record, seen)
    counts = (2,) * 6 + (0, 4, 0, 5, 0, 1)
    assert none_of_it(session, bench, record) == pytest.approx(learned_law(2.0, counts).pmf()[0])
    assert none_of_it(session, bench, record) > 0.1


@pytest.mark.parametrize("measured", [True, False])
def test_the_buy_desk_weighs_the_same_mixture_unless_the_print_alone_is_asked_for(
    session: Session, bench: Workbench, record: ProductRecord, *, measured: bool
) -> None:
    for _ in range(6):
        add_box(session, record, 2)
    ready = prepared(session, bench, record, Valuation("hobby", measured=measured), load_settings(session))
    law = next(line.line.law for line in ready.box.lines if line.line.section.key == "signed")
    assert law is not None
    assert law.pmf()[0] == pytest.approx(0.0 if measured else 0.0677, abs=1e-3)


def test_a_box_of_which_packs_stayed_sealed_says_nothing_of_whole_boxes(
    session: Session, bench: Workbench, record: ProductRecord
) -> None:
    add_box(session, record, 0, opened=6)
    assert whole_counts(session, bench, record, "hobby")[("signed", "", "")] == ()
    assert none_of_it(session, bench, record) == pytest.approx(0.0677, abs=1e-4)
    assert measured_lines(session, bench, record, "hobby") == {}


def test_averages_count_only_what_was_opened(session: Session, bench: Workbench, record: ProductRecord) -> None:
    """Two in a whole box and one in six packs of another: three in a box and a quarter, printed two worth four."""
    add_box(session, record, 2)
    add_box(session, record, 1, opened=6)
    (found,) = learned(session, bench, record)
    (line,) = (row for row in found.lines if row.line.section.key == "signed")
    assert found.opened == pytest.approx(1.25)
    assert line.average.mean == pytest.approx((3 + 8) / (1.25 + 4))


def test_a_closed_box_of_which_nothing_is_known_teaches_nothing(
    session: Session, bench: Workbench, record: ProductRecord
) -> None:
    add_box(session, record, 2)
    before = learned(session, bench, record)[0].lines
    add_box(session, record, 0, opened=0)
    assert [row.average.mean for row in learned(session, bench, record)[0].lines] == [r.average.mean for r in before]


def test_a_box_of_which_only_hits_were_logged_was_opened_whole(
    session: Session, bench: Workbench, record: ProductRecord
) -> None:
    """Packs without a hit leave no trace: two hits in a box of 24 packs are two a box, not two in two packs."""
    box = add_box(session, record, 2)
    session.execute(delete(BoxPackRecord).where(BoxPackRecord.box_id == box.id))
    session.commit()
    (found,) = learned(session, bench, record)
    assert found.opened == pytest.approx(1.0)
    assert whole_counts(session, bench, record, "hobby")[("signed", "", "")] == (2,)
    box.rest = "kept"
    session.commit()
    assert opened_packs(session, box) == 2
