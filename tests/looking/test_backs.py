"""Backs: read on simulated scans with a known checklist; sure only when number, name and code agree."""

from __future__ import annotations

import random

import numpy as np
import pytest

from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.looking.backs import Checklist, Printed, Said, matched, plain
from botin.exchange.looking.ocr import LineReader, NoReaderError
from botin.exchange.looking.pixels import Pixels
from botin.exchange.looking.readbacks import BackReader
from tests.scans.backs import design_of, product_of, scan_backs

LIST = Checklist.of(
    Product(
        "p", "P",
        sections=(Section("base", "Base", Kind.BASE, "526"), Section("kings", "Kings", Kind.INSERT, "310"), Section("old", "Old", Kind.INSERT), Section("late", "Late", Kind.INSERT)),
        cards=(
            Card("base", "12", "Orla Thorsby"), Card("base", "121", "Dov Quill"), Card("kings", "12", "Orla Thorsby"),
            Card("old", "SK-3", "Pia Fenwick; Koa Tamaki"), Card("late", "7", "Noor Ferro"),
        ),
        parallels=(Parallel("copper", "Copper", "base", back_code="575"), Parallel("slate", "Slate", "base", back_code="576"), Parallel("gold", "Gold", "late", back_code="803")),
    )
)  # fmt: skip


def lines(*said: tuple[str, float]) -> list[Said]:
    return [Said(Printed(text, (sure,) * len(text)), 0.02, 0.1) for text, sure in said]


def test_most_backs_of_a_sheet_fill_their_slot_and_none_is_another() -> None:
    rng = random.Random(11)
    product = product_of(rng)
    scan = scan_backs(rng, product, design_of(rng), count=4)
    rgb = np.ascontiguousarray(scan.picture[:, :, ::-1])
    found = BackReader(product).read(Pixels(rgb, scan.dpi))
    assert len(found) == len(scan.truth)
    sure = [(one.back, true) for one, true in zip(found, scan.truth, strict=True) if one.back.sure]
    assert len(sure) >= 3
    assert all((back.section, back.number, back.parallel) == true for back, true in sure)
    for one, true in zip(found, scan.truth, strict=True):
        assert true in one.back.candidates


@pytest.mark.parametrize(
    ("said", "card"),
    [
        ([("12", 1.0), ("Orla Thorsby", 0.9), ("ML44526", 0.95)], ("base", "12", "")),
        ([("No. 12", 1.0), ("Orla Th0rsby", 0.6), ("ML44310", 0.95)], ("kings", "12", "")),
        ([("12", 0.5), ("Orla Thorsby", 0.9), ("44310", 0.9)], ("kings", "12", "")),
        ([("12", 1.0), ("Orla Thorsby", 0.9), ("44575", 0.95)], ("base", "12", "copper")),
        ([("SK-3", 1.0), ("Koa Tamaki", 0.9)], ("old", "SK-3", "")),
        ([("12", 1.0), ("ORLA", 0.9), ("THORSBY", 0.9), ("44310", 0.9)], ("kings", "12", "")),
        ([("7", 1.0), ("Noor Ferro", 0.9), ("ML44111", 0.95)], ("late", "7", "")),
        ([("7", 1.0), ("Noor Ferro", 0.9), ("ML44803", 0.95)], ("late", "7", "gold")),
    ],
)
def test_number_name_and_code_together_are_sure(said: list[tuple[str, float]], card: tuple[str, str, str]) -> None:
    found = matched(lines(*said), LIST)
    assert found.sure
    assert (found.section, found.number, found.parallel) == card


@pytest.mark.parametrize(
    ("said", "first"),
    [
        ([("12", 1.0), ("Orla Thorsby", 0.9)], ("base", "12", "")),  # two sections have it, and no code was read
        ([("12", 1.0), ("Orla Thorsby", 0.9), ("44575", 0.6)], ("base", "12", "")),  # 576 is one digit away
        ([("121", 1.0), ("Orla Thorsby", 0.9), ("44526", 0.95)], ("base", "12", "")),  # the name is of another number
        ([("12", 0.3), ("Orla Thorsby", 0.9), ("44526", 0.95)], ("base", "12", "")),  # the number is hardly legible
        ([("12", 1.0), ("44526", 0.95)], ("base", "12", "")),  # no name was read
        ([("7", 1.0), ("Noor Ferro", 0.9)], ("late", "7", "")),  # its finish has a code, and none was read
        ([("SK-3", 0.7), ("Pia Fenwick", 0.9)], ("old", "SK-3", "")),  # no code, and not clear
    ],
)
def test_what_does_not_agree_has_candidates_and_no_answer(
    said: list[tuple[str, float]], first: tuple[str, str, str]
) -> None:
    found = matched(lines(*said), LIST)
    assert not found.sure
    assert (found.section, found.number, found.parallel) == (None, None, None)
    assert found.candidates[0] == first


def test_only_the_end_of_a_code_must_be_clear() -> None:
    code = Printed("ML44575", (0.3, 0.4, 0.9, 0.95, 0.95, 0.95, 0.95))
    found = matched([*lines(("12", 1.0), ("Orla Thorsby", 0.9)), Said(code, 0.01, 0.02)], LIST)
    assert (found.section, found.number, found.parallel) == ("base", "12", "copper")


def test_nothing_read_is_nothing() -> None:
    assert matched([], LIST).candidates == ()
    assert plain("No. SK-12") == plain("#sk 12") == "SK12"
    assert plain("N12") == plain("NO.12") == plain("card 12") == "12"
    assert plain("NS-1") == "NS1"


def test_without_the_extra_it_says_what_to_install(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("botin.exchange.looking.ocr.find_spec", lambda _: None)
    with pytest.raises(NoReaderError, match="make backs"):
        LineReader()


def test_a_picture_without_a_card_has_none() -> None:
    assert BackReader(LIST.product).read(Pixels(np.full((400, 300, 3), 200, np.uint8), None)) == []
