"""At the rip desk: corrections, trays, owners, counting, back codes, what is owed, what lies where."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from sqlalchemy import update
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.errors import EntryError, ImportRefusedError, NotFoundError
from botin.core.money import Money
from botin.core.opening.sealed import LOOKS, Wrap, opinion
from botin.desk.opening import editing as ripedit
from botin.desk.opening import files as openings
from botin.desk.opening import putaway, sealed, steps
from botin.desk.opening.owners import owner_of, spots_of
from botin.desk.opening.rip import close_box, go_to_pack, log_entry, open_box, read_entry, set_base_count
from botin.desk.opening.shelf import Purchase
from botin.desk.opening.state import RipState, rip_state
from botin.desk.settings import load_settings, save_settings
from botin.desk.workbench import Workbench
from botin.exchange.catalog.sheets import csv_sheet
from botin.exchange.keeping.picture import Photo
from botin.exchange.opening import OpeningRow, guess_columns, mapped_rows
from botin.store.catalog.search import where_kept
from botin.store.models import BoxRecord, PullRecord
from botin.store.models_copies import CopyRecord
from botin.store.opening.boxes import get_box, pulls_of
from botin.store.opening.packs import photos_of


@pytest.fixture
def box(session: Session, bench: Workbench) -> BoxRecord:
    return open_box(session, bench, 4)


def log(session: Session, bench: Workbench, box: BoxRecord, text: str, pack: int = 1) -> list[PullRecord]:
    key = f"{pack}-{text}"
    entry = read_entry(session, bench, box, text, pack, key)
    assert entry.problems == ()
    logged = log_entry(session, bench, box, items=entry.items, pack=pack, client_key=key)
    return [session.get_one(PullRecord, row) for row in logged.ids]


def state(session: Session, bench: Workbench, box: BoxRecord) -> RipState:
    session.expire_all()
    return rip_state(session, bench, box)


def test_a_card_is_corrected_in_place_and_back(session: Session, bench: Workbench, box: BoxRecord) -> None:
    (pull,) = log(session, bench, box, "12")
    assert ripedit.edit_pull(session, bench, box, pull, "44 cinder 36/50 corner", pack=2, client_key="e1") == ()
    row = pulls_of(session, box.id)[0]
    assert (row.number, row.parallel, row.serial, row.pack) == ("44", "cinder", 36, 2)
    assert json.loads(row.details) == {"marks": "soft corner"}
    assert ripedit.as_typed(session, pull) == "44 cinder 36/50! softcorner"
    steps.undo(session, bench, box)
    assert pulls_of(session, box.id)[0].number == "12"
    assert ripedit.edit_pull(session, bench, box, pull, "999", pack=1, client_key="e2")[0].message.startswith(
        "There is no"
    )


def test_a_card_taken_out_comes_back(session: Session, bench: Workbench, box: BoxRecord) -> None:
    first, _ = log(session, bench, box, "12 13")
    ripedit.remove_pull(session, bench, box, first.id, "r1")
    assert [row.number for row in pulls_of(session, box.id)] == ["13"]
    with pytest.raises(NotFoundError):
        ripedit.get_pull(session, box, first.id)
    steps.undo(session, bench, box)
    assert [row.number for row in pulls_of(session, box.id)] == ["12", "13"]


def test_a_serial_logged_before_is_asked_about(session: Session, bench: Workbench, box: BoxRecord) -> None:
    log(session, bench, box, "44 cinder 36/50")
    entry = read_entry(session, bench, box, "44 cinder 36/50", 2, "other")
    assert "there is only one" in entry.problems[0].message
    assert entry.problems[0].suggestions == ("36/50!",)
    assert read_entry(session, bench, box, "44 cinder 36/50!", 2, "other").problems == ()


def test_not_sure_waits_in_the_tray_with_cues(session: Session, bench: Workbench, box: BoxRecord) -> None:
    (pull,) = log(session, bench, box, "44 ?")
    found = state(session, bench, box)
    assert [copy.row.number for copy in found.unsure] == ["44"]
    versions = ripedit.versions_of(found.product, pull.candidates)
    assert {v.parallel for v in versions} >= {"", "copper", "slate", "cinder"}
    assert next(v.cue for v in versions if v.parallel == "cinder") == "red edge"
    ripedit.settle(session, bench, box, pull, ("base", "44", "cinder"), "s1")
    assert state(session, bench, box).unsure == ()
    assert pulls_of(session, box.id)[0].parallel == "cinder"


def test_unlisted_is_logged_at_once_and_matched_later(session: Session, bench: Workbench, box: BoxRecord) -> None:
    name = bench.product(session, box.format.product).card_by_number[("sprint", "SK-3")].name
    (pull,) = log(session, bench, box, f"+ shiny {name} sprint 3/9")
    found = state(session, bench, box)
    assert (found.logged, len(found.unlisted)) == (1, 1)
    assert (pull.serial, pull.run, pull.card_id) == (3, 9, None)
    near = ripedit.proposals(found.product, pull.typed)
    assert any(v.number == "SK-3" for v in near)
    ripedit.settle(session, bench, box, pull, ("sprint", "SK-3", ""), "s1")
    assert state(session, bench, box).unlisted == ()


def test_unlisted_can_be_added_to_the_checklist(session: Session, bench: Workbench, box: BoxRecord) -> None:
    (pull,) = log(session, bench, box, "+ a surprise")
    with pytest.raises(EntryError, match="already"):
        ripedit.add_to_checklist(session, bench, box, pull, Card("sprint", "SK-3", "X"), "a1")
    ripedit.add_to_checklist(session, bench, box, pull, Card("sprint", "SK-99", "Surprise Rider"), "a1")
    assert pulls_of(session, box.id)[0].name == "Surprise Rider"


def test_the_back_code_decides_the_variation(session: Session, bench: Workbench, box: BoxRecord) -> None:
    product = bench.product(session, box.format.product)
    night = product.cards_by_section["night"][0]
    base = next(card for card in product.cards_by_section["base"] if card.name == night.name)
    log(session, bench, box, f"{base.number} …308")
    (copy,) = state(session, bench, box).packs[0].copies
    assert (copy.row.section, copy.row.number, copy.rare) == ("night", night.number, True)
    assert "variation" in copy.alerts
    assert (
        read_entry(session, bench, box, "12 …999", 1, "k")
        .problems[0]
        .message.startswith("No section has the back code")
    )


def test_hits_only_counts_the_rest_of_each_pack(session: Session, bench: Workbench, box: BoxRecord) -> None:
    ripedit.set_box(session, bench, box, after={"mode": "hits"}, client_key="m1")
    log(session, bench, box, "sb3")
    go_to_pack(session, bench, box, 2)
    go_to_pack(session, bench, box, 3)
    set_base_count(session, bench, box, pack=3, count=6, client_key="c3")
    session.commit()
    found = state(session, bench, box)
    assert [pack.base_count for pack in found.packs[:4]] == [7, 8, 6, None]
    assert (found.logged, found.left) == (22, 21)
    steps.undo(session, bench, box)
    assert state(session, bench, box).packs[2].base_count is None


def test_a_stack_without_packs_is_counted_by_its_cards(session: Session, bench: Workbench, box: BoxRecord) -> None:
    ripedit.set_box(session, bench, box, after={"stacked": True}, client_key="s1")
    log(session, bench, box, " ".join(str(n) for n in range(1, 18)))
    found = state(session, bench, box)
    assert found.left == 24 - 3, "17 cards are two packs and a begun one"
    assert found.owed[0].left == 21


def test_where_a_card_lies_is_found_again(session: Session, bench: Workbench, box: BoxRecord) -> None:
    first, _, other = log(session, bench, box, "sb7 sb7 sb8")
    session.execute(update(CopyRecord).where(CopyRecord.pull_id == first.id).values(place="Top box"))
    session.commit()
    kept = where_kept(session, [first.card_id or 0, other.card_id or 0])
    assert "1 in Top box" in kept[first.card_id or 0]
    assert kept[first.card_id or 0].count("1") >= 2


def test_facts_of_a_pack(session: Session, bench: Workbench, box: BoxRecord) -> None:
    after: dict[str, object] = {"flags": "short;flipped", "owner": "Mira", "note": "seven cards"}
    ripedit.set_pack(session, bench, box, 2, after=after, client_key="p1")
    pack = state(session, bench, box).packs[1]
    assert (pack.flags, pack.owner, pack.note) == (("short", "flipped"), "Mira", "seven cards")
    steps.undo(session, bench, box)
    assert state(session, bench, box).packs[1].flags == ()


def test_a_mixed_box_logs_each_pack_against_its_own_checklist(
    session: Session, bench: Workbench, box: BoxRecord
) -> None:
    ripedit.set_pack(session, bench, box, 2, after={"product_id": 2}, client_key="p1")
    log(session, bench, box, "LL-3", pack=2)
    log(session, bench, box, "sk3", pack=1)
    assert read_entry(session, bench, box, "sk3", 2, "x").problems
    found = state(session, bench, box)
    assert [pack.copies[0].section for pack in found.packs[:2]] == ["Sprint kings", "Last lap"]
    assert found.packs[1].copies[0].price > 0


SPOTS = "packs 1-2, 5: Mira\nHarrow Bay: Tobin\nOrla Thorsby: Iska\nLindmark Wheelers: Radek\nnonsense"


@pytest.mark.parametrize(
    ("name", "team", "pack", "owner"),
    [
        ("Orla Thorsby", "Saltmarsh Velo", 3, "Iska"),
        ("Orla Thorsby", "Saltmarsh Velo", 5, "Mira"),
        ("A", "Harrow Bay Juniors", 3, "Tobin"),
        ("A; B", "Harrow Bay Juniors; Lindmark Wheelers", 3, "?"),
        ("A", "Saltmarsh Velo", 3, ""),
        ("A", "Lindmark Wheelers", 12, "Radek"),
    ],
)
def test_whose_a_card_is(
    session: Session, bench: Workbench, box: BoxRecord, name: str, team: str, pack: int, owner: str
) -> None:
    box.owners = SPOTS
    product = bench.product(session, box.format.product)
    assert owner_of(box, product, Card("base", "1", name, team), pack) == owner
    assert len(spots_of(SPOTS)) == 4


def test_an_owner_can_be_corrected(session: Session, bench: Workbench, box: BoxRecord) -> None:
    ripedit.set_box(session, bench, box, after={"owners": "packs 1: Mira"}, client_key="o1")
    (pull,) = log(session, bench, box, "12")
    assert pulls_of(session, box.id)[0].owner == "Mira"
    ripedit.edit_pull(session, bench, box, pull, "12 @tobin", pack=1, client_key="o2")
    assert pulls_of(session, box.id)[0].owner == "tobin"


def test_a_redemption_counts_for_the_promise(session: Session, bench: Workbench, box: BoxRecord) -> None:
    before = next(row for row in state(session, bench, box).owed if "signed" in row.label)
    log(session, bench, box, "sb3 code:AB-77 by:2027-05-31")
    after = next(row for row in state(session, bench, box).owed if "signed" in row.label)
    assert (before.owed, after.owed) == (2, 1)
    assert state(session, bench, box).packs[0].copies[0].details.words() == "claim AB-77 by 2027-05-31"


def test_a_case_owes_over_its_boxes(session: Session, bench: Workbench) -> None:
    box = open_box(session, bench, 6)
    ripedit.set_box(session, bench, box, after={"case_label": "A"}, client_key="c1")
    log(session, bench, box, "br3")
    rows = {row.label: row for row in state(session, bench, box).owed_case}
    assert rows["Bell ringers"].promised == 1
    assert rows["Bell ringers"].owed == 0
    signed = next(row for label, row in rows.items() if "signed" in label)
    assert (signed.promised, signed.left) == (3 * 8, 10 * 8 - 1)


def test_the_desk_calls_out_what_matters(session: Session, bench: Workbench, box: BoxRecord) -> None:
    product = bench.product(session, box.format.product)
    card = product.card_by_number[("base", "12")]
    save_settings(session, replace(load_settings(session), chase=card.name, collected=card.team))
    log(session, bench, box, "12")
    log(session, bench, box, "rj3")
    plain, worn = state(session, bench, box).packs[0].copies
    assert {"chase", "yours to keep"} <= set(plain.alerts)
    assert worn.alerts[-1] == "sleeve it, holder 130 pt (3.3 mm)"


def test_closing_keeps_what_happens_to_the_rest(session: Session, bench: Workbench, box: BoxRecord) -> None:
    log(session, bench, box, "12")
    close_box(session, bench, box, 1, "sold")
    assert get_box(session, box.id).rest == "sold"


def test_put_away_sorts_by_the_plan(session: Session, bench: Workbench, box: BoxRecord) -> None:
    plan = "Box A: hits\nBinder, row 1: section Base\nnot a rule\nTin: everything"
    save_settings(session, replace(load_settings(session), storage_plan=plan))
    log(session, bench, box, "100 12 sb3 sk3 2")
    found = putaway.sort_list(session, bench, box)
    assert [(pile.place, [copy.row.number for copy in pile.copies]) for pile in found.piles] == [
        ("Box A", ["SB-3"]), ("Binder, row 1", ["2", "12", "100"]), ("Tin", ["SK-3"]),
    ]  # fmt: skip
    assert found.wrong == ("not a rule",)
    assert putaway.put_away(session, bench, box, "Binder, row 1") == 3
    assert {row.place for row in pulls_of(session, box.id)} == {"", "Binder, row 1"}


@pytest.mark.parametrize(
    ("found", "verdict"),
    [({}, "not looked at"), ({"film": "normal"}, "as it should be"), ({"corners": "warning"}, "look again"),
     ({"film": "warning"}, "stop"), ({"seal": "warning", "gum": "warning"}, "stop")],
)  # fmt: skip
def test_the_sealed_check_comes_to_an_opinion(found: dict[str, str], verdict: str) -> None:
    assert opinion(Wrap.WRAPPED, found).verdict == verdict


def test_facts_of_the_trade_in_the_sealed_check() -> None:
    """common practice, no source."""
    seal = next(look for look in LOOKS[Wrap.WRAPPED] if look.key == "seal")
    assert "normal on old lidless boxes" in seal.normal
    stripes = next(look for look in LOOKS[Wrap.VENDING] if look.key == "stripes")
    assert "light and dark stripes alternate" in stripes.normal


def test_the_check_and_its_photos_stay_with_the_box(
    session: Session, bench: Workbench, box: BoxRecord, tmp_path_factory: pytest.TempPathFactory
) -> None:
    bench.home = tmp_path_factory.mktemp("home")
    made = sealed.made_check(Wrap.VENDING.value, {"stripes": "warning", "film": "warning"}, "code 77")
    shot = Photo(b"picture", "image/png", "0123.png")
    sealed.save_check(session, bench, box, made, [shot, shot])
    found = sealed.read_check(box)
    assert (found.opinion.verdict, found.found, found.note) == ("stop", {"stripes": "warning"}, "code 77")
    (kept,) = photos_of(session, box.id)
    assert sealed.photo_bytes(session, bench, kept.id) == (b"picture", kept)
    assert (bench.home / "photos" / "0123.png").stat().st_mode & 0o077 == 0


PAID = Purchase(1, __import__("datetime").date(2026, 11, 1), Money(100, "EUR"), Money(0, "EUR"), Money(0, "EUR"))


def test_openings_csv_round_trip(session: Session, bench: Workbench, box: BoxRecord) -> None:
    log(session, bench, box, "12 45 copper", pack=1)
    log(session, bench, box, '44 cinder 36/50 corner …308 cert:A7 @mira "look at it"', pack=2)
    log(session, bench, box, "+ surprise rider 3/9", pack=3)
    log(session, bench, box, "bp3")
    set_base_count(session, bench, box, pack=4, count=8, client_key="c4")
    session.commit()
    first = openings.export_opening(session, box)
    sheet = csv_sheet("openings.csv", first)
    header, columns = guess_columns(sheet)
    product = bench.product(session, box.format.product)
    own = openings.read_rows(product, mapped_rows(sheet, header, columns))
    assert openings.known_log(session, own) is box
    assert openings.import_opening(session, bench, PAID, own, "import-0") is box, "its own log doubles nothing"
    other = first.replace(box.client_key.encode(), b"box of another home")
    read = openings.read_rows(product, mapped_rows(csv_sheet("openings.csv", other), header, columns))
    assert [row.wrong for row in read if row.wrong] == []
    assert openings.known_log(session, read) is None
    again = openings.import_opening(session, bench, PAID, read, "import-1")
    assert openings.import_opening(session, bench, PAID, read, "import-1").id == again.id
    second = openings.export_opening(session, again)

    def bare(data: bytes) -> list[list[str]]:
        return [row[1:-2] for row in (line.split(",") for line in data.decode().splitlines())]

    assert bare(second) == bare(first)


def test_a_log_from_a_spreadsheet_is_all_or_nothing(session: Session, bench: Workbench) -> None:
    text = b"My box;;;\nPack;No.;Player;Parallel;#/\n1;12;;;\n1;44;;Cinder;37/50\n2;;nobody at all;;\n"
    sheet = csv_sheet("log.csv", text)
    header, columns = guess_columns(sheet)
    assert (header, columns) == (1, {0: "pack", 1: "number", 2: "name", 3: "parallel", 4: "serial"})
    product = bench.product(session, get_box(session, 4).format.product)
    read = openings.read_rows(product, mapped_rows(sheet, header, columns))
    assert [bool(row.wrong) for row in read] == [False, False, True]
    with pytest.raises(ImportRefusedError, match="Row 5"):
        openings.import_opening(session, bench, PAID, read, "import-2")
    made = openings.import_opening(session, bench, PAID, read[:2], "import-2")
    assert [(row.number, row.parallel, row.serial) for row in pulls_of(session, made.id)] == [
        ("12", "", None),
        ("44", "cinder", 37),
    ]


def test_a_log_that_is_too_long_is_refused_and_not_cut(session: Session, bench: Workbench) -> None:
    product = bench.product(session, get_box(session, 4).format.product)
    rows = [OpeningRow(line, {"number": "12"}) for line in range(openings.MOST + 1)]
    with pytest.raises(ImportRefusedError, match="Split it"):
        openings.read_rows(product, rows)
