"""Products in and out: all or nothing, corrections that stay, copies to look at again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.catalog.changes import changes
from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.errors import EntryError, ImportRefusedError, NotFoundError, StaleFormError
from botin.desk.catalog import corrections as fix
from botin.desk.catalog import lookagain
from botin.desk.catalog.drafts import (
    get_draft,
    keep_read,
    leave_out_unread,
    line_cells,
    make_draft,
    mend_line,
    read_given,
    store_draft,
    view_draft,
)
from botin.desk.catalog.library import export_product, import_files
from botin.desk.catalog.productpage import product_page
from botin.desk.workbench import Workbench
from botin.exchange.catalog.interpret import About
from botin.exchange.catalog.package import write_folder
from botin.exchange.catalog.sheets import Sources, text_sheet
from botin.store.catalog.lists import find_product
from botin.store.catalog.products import load_product
from botin.store.models import CardRecord, CorrectionRecord, DraftRecord, ProductRecord, PullRecord, SectionRecord

TEXT = "Base Set\n1 Orla Thorsby - Harrow Bay RC\n2 Fenn Lune\nwhat is this???\nParallels: Copper, Slate /199\n"
ODDS = "Copper 1:4\nVelvet 1:12\n"
ABOUT = About(name="Keirin 2027", formats="Hobby box: 24 packs of 8 cards")


@pytest.fixture
def draft(session: Session, bench: Workbench) -> DraftRecord:
    sources = Sources([text_sheet("checklist", TEXT), text_sheet("odds", ODDS)])
    return make_draft(session, bench, "key-1", sources, ABOUT)


def products(session: Session) -> int:
    return session.scalar(select(func.count()).select_from(ProductRecord)) or 0


def banked(session: Session) -> ProductRecord:
    return find_product(session, "banked-2026")


def test_a_draft_with_unread_lines_is_not_stored(session: Session, bench: Workbench, draft: DraftRecord) -> None:
    before = products(session)
    with pytest.raises(ImportRefusedError, match="2 lines are not understood"):
        store_draft(session, bench, draft)
    session.rollback()
    assert products(session) == before


def test_mending_lines_one_by_one_until_it_can_be_stored(
    session: Session, bench: Workbench, draft: DraftRecord
) -> None:
    cells, words = line_cells(draft, "checklist", 4)
    assert (cells, words) == (["what is this???"], ["column 1"])
    mend_line(session, draft, "checklist", 4, ["3 Radek Prendrake"])
    mend_line(session, draft, "odds", 2, ["Slate 1:12"])
    view = view_draft(session, bench, draft)
    assert view.blockers == ()
    stored = store_draft(session, bench, draft)
    made = load_product(session, stored.record)
    assert [card.number for card in made.cards] == ["1", "2", "3"]
    assert {(o.parallel, o.packs_per_hit) for o in made.odds} == {("copper", "4"), ("slate", "12")}
    assert draft.stored_at is not None


def test_leaving_out_what_is_not_understood(session: Session, bench: Workbench, draft: DraftRecord) -> None:
    assert leave_out_unread(session, bench, draft) == 2
    assert view_draft(session, bench, draft).blockers == ()


def test_the_same_form_twice_is_one_draft(session: Session, bench: Workbench) -> None:
    first, second = (
        keep_read(
            bench,
            "twice",
            ABOUT,
            *read_given(session, [], {"checklist": TEXT, "odds": ""}, ABOUT, lambda _a, _b: None),
        )
        for _ in range(2)
    )
    assert first == second


def test_a_draft_that_is_gone(session: Session) -> None:
    with pytest.raises(NotFoundError, match="Add the product again"):
        get_draft(session, 999)


def change_and_import(
    session: Session, bench: Workbench, tmp_path: Path, how: Callable[[Product], Product]
) -> tuple[str, ...]:
    product = load_product(session, banked(session))
    write_folder(how(product), tmp_path / "again")
    return import_files(session, bench, [tmp_path / "again"]).notes


def test_a_second_import_keeps_logged_cards_whatever_is_gone(
    session: Session, bench: Workbench, tmp_path: Path
) -> None:
    pulled = set(session.scalars(select(PullRecord.card_id)))
    change_and_import(session, bench, tmp_path, lambda p: replace(p, cards=p.cards[:20], odds=()))
    assert pulled <= set(session.scalars(select(CardRecord.id)))


def test_changes_are_named() -> None:
    old = Product(
        "p",
        "P",
        cards=(Card("b", "1", "A"), Card("b", "2", "B")),
        parallels=(Parallel("c", "C", "b", run_text="99"),),
    )
    new = replace(
        old,
        name="Q",
        cards=(Card("b", "1", "A", "T"), Card("b", "3", "C")),
        parallels=(replace(old.parallels[0], run_text="199"),),
    )
    found = {(c.table, c.what, c.key): c.cells for c in changes(old, new)}
    assert found == {
        ("product", "changed", ("p",)): (("name", "P", "Q"),),
        ("cards", "changed", ("b", "1")): (("team", "", "T"),),
        ("cards", "new", ("b", "3")): (),
        ("cards", "gone", ("b", "2")): (),
        ("parallels", "changed", ("b", "c", "")): (("run_text", "99", "199"),),
    }
    assert changes(old, old) == ()


SLATE = ("base", "slate", "")


def correct(session: Session, bench: Workbench, value: str, seen: str = "199", key: str = "c1") -> CorrectionRecord:
    change = fix.Correction("parallels", SLATE, "run_text", seen, value, "stamped so")
    return fix.correct(session, bench, banked(session), change, who="me", client_key=key)


def test_a_correction_is_kept_and_everything_follows(session: Session, bench: Workbench) -> None:
    """common practice, no source: announced at one run, out of the packs at another; all that is computed follows."""
    before = product_page(session, bench, banked(session)).run
    made = correct(session, bench, "299")
    assert (made.who, made.was, made.now, made.why) == ("me", "199", "299", "stamped so")
    page = product_page(session, bench, banked(session))
    assert page.run != before
    assert "199 → 299" in page.corrections[0].words
    line = next(row for row in page.run.lines if row.key == SLATE)
    assert line.copies == 300 * 299


def test_a_correction_sent_twice_is_one(session: Session, bench: Workbench) -> None:
    assert correct(session, bench, "299").id == correct(session, bench, "299").id


def test_a_stale_correction_is_refused(session: Session, bench: Workbench) -> None:
    with pytest.raises(StaleFormError, match="changed meanwhile to “199”"):
        correct(session, bench, "299", seen="50")


@pytest.mark.parametrize("value", ["many", "0", "-3", "10+", "1.5"])
def test_a_correction_that_cannot_be(session: Session, bench: Workbench, value: str) -> None:
    with pytest.raises(EntryError, match="is no run"):
        correct(session, bench, value)
    session.rollback()
    assert session.scalar(select(func.count()).select_from(CorrectionRecord)) == 0


def test_a_correction_survives_the_next_import(session: Session, bench: Workbench, tmp_path: Path) -> None:
    product = load_product(session, banked(session))
    write_folder(product, tmp_path / "old")
    correct(session, bench, "299")
    notes = import_files(session, bench, [tmp_path / "old"]).notes
    assert any("199 → 299" in note for note in notes)
    now = load_product(session, banked(session))
    assert next(row for row in now.parallels if row.key == "slate" and row.section == "base").run_text == "299"


def test_cards_in_hand_propose_the_correction(session: Session, bench: Workbench) -> None:
    slates = session.scalars(
        select(PullRecord).join(CardRecord).join(SectionRecord)
        .where(PullRecord.parallel == "slate", SectionRecord.key == "base")
    ).all()  # fmt: skip
    assert slates
    slates[0].serial, slates[0].run = 301, 499
    session.commit()
    page = product_page(session, bench, banked(session))
    assert [(s.parallel, s.stated, s.seen) for s in page.stamps] == [("slate", "199", 499)]
    assert "serial-differs" in [found.code for found in page.findings]


def late_variation(product: Product) -> Product:
    section = Section("dusk", "Dusk photo", Kind.VARIATION, cue="sunset behind the rider")
    numbers = [card.number for card in product.cards_by_section["base"]][:40]
    return replace(
        product,
        sections=(*product.sections, section),
        cards=(*product.cards, *(Card("dusk", n, f"Late {n}") for n in numbers)),
    )


def test_a_variation_known_later_lists_the_copies_to_look_at(
    session: Session, bench: Workbench, tmp_path: Path
) -> None:
    notes = change_and_import(session, bench, tmp_path, late_variation)
    waiting = lookagain.waiting(session, banked(session).id)
    numbers = {str(n) for n in range(1, 41)}
    logged = session.execute(
        select(PullRecord.id, CardRecord.number).join(CardRecord).join(SectionRecord)
        .where(SectionRecord.key == "base", SectionRecord.product_id == banked(session).id, PullRecord.parallel == "")
    ).all()  # fmt: skip
    assert len(waiting) == sum(number in numbers for _, number in logged) > 0
    assert any(f"{len(waiting)} logged copies" in note for note in notes)
    assert waiting[0].cue == "sunset behind the rider"
    pull = session.scalars(
        select(PullRecord).where(PullRecord.id.in_([row for row, n in logged if n in numbers]))
    ).first()
    assert pull is not None
    lookagain.settle(session, bench, waiting[0].id, it_is=True)
    lookagain.settle(session, bench, waiting[1].id, it_is=False)
    assert len(lookagain.waiting(session, banked(session).id)) == len(waiting) - 2
    late = session.scalars(
        select(PullRecord).join(CardRecord).join(SectionRecord).where(SectionRecord.key == "dusk")
    ).all()
    assert len(late) == 1


def test_short_prints_known_later_keep_their_copies(session: Session, bench: Workbench, tmp_path: Path) -> None:
    logged = dict(session.execute(select(PullRecord.id, PullRecord.card_id)).all())

    def shorts(product: Product) -> Product:
        section = Section("base-sp", "Short prints", Kind.SHORT_PRINT)
        cards = tuple(
            replace(c, section="base-sp") if c.section == "base" and int(c.number) <= 60 else c for c in product.cards
        )
        return replace(product, sections=(*product.sections, section), cards=cards)

    change_and_import(session, bench, tmp_path, shorts)
    assert dict(session.execute(select(PullRecord.id, PullRecord.card_id)).all()) == logged
    waiting = lookagain.waiting(session, banked(session).id)
    assert waiting
    assert all(item.same for item in waiting)


@pytest.mark.parametrize("name", ["out", "out.zip", "out.xlsx"])
def test_export_then_import_is_the_same_product(
    session: Session, bench: Workbench, tmp_path: Path, name: str
) -> None:
    before = load_product(session, banked(session))
    export_product(session, "banked-2026", tmp_path / name)
    import_files(session, bench, [tmp_path / name])
    assert load_product(session, banked(session)) == before


def test_an_import_that_cannot_be_kept_whole_stores_nothing(
    session: Session, bench: Workbench, tmp_path: Path
) -> None:
    folder = tmp_path / "bad"
    write_folder(replace(load_product(session, banked(session)), key="other", name="Other"), folder)
    with (folder / "cards.csv").open("a", encoding="utf-8") as file:
        file.write("nowhere,1,Somebody,,,,\r\n")
    before = products(session)
    with pytest.raises(ImportRefusedError, match="nowhere"):
        import_files(session, bench, [folder])
    session.rollback()
    assert products(session) == before


def test_a_product_that_is_not_there_names_those_that_are(session: Session) -> None:
    with pytest.raises(NotFoundError, match="banked-2026"):
        find_product(session, "lost")
