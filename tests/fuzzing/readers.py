"""Every reader with a good input to spoil; it may answer with a `BotinError` and with nothing else."""

from __future__ import annotations

import io
import json
import shutil
import tempfile
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime
from pathlib import Path

import numpy as np
from openpyxl import Workbook
from PIL import Image
from sqlalchemy.orm import Session

from botin.core.catalog.naming import Names
from botin.core.catalog.product import OddsRow, Product, PromiseRow, TeamClub
from botin.core.looking.measure import measure_picture
from botin.core.opening.entry import EntryReader
from botin.desk.keeping.wholehome import take_in_everything, write_everything
from botin.desk.opening.files import read_rows
from botin.desk.workbench import Workbench
from botin.exchange.catalog.interpret import About, interpret
from botin.exchange.catalog.package import load, workbook_bytes, zip_bytes
from botin.exchange.catalog.sheets import Sources, add_file
from botin.exchange.copies.copieslist import read_copies
from botin.exchange.copies.have import read_have
from botin.exchange.grading import read_grades
from botin.exchange.keeping.picture import clean_photo
from botin.exchange.looking.pixels import read_pixels
from botin.exchange.opening import guess_columns, mapped_rows
from botin.exchange.pricing import parse_prices
from botin.exchange.selling.fees import read_fees
from botin.exchange.selling.feestext import read_channels, read_postage, read_rates, read_standards, read_tiers
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.backup import verify
from botin.store.keeping.restoring import ready_copy
from botin.store.keeping.upgrade import migrate
from tests.core.small import product as small
from tests.exchange.test_picture import with_place

TODAY = date(2026, 11, 24)
NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)
CHECKLIST = """Meridian Track 2026 Hobby, 24 packs of 8 cards
Base Set
1 Orla Thorsby - Harbor RC
2 Ivo Castellan, Low Bridge
3-7 riders to come
Copper parallel 1:29; Ash 1:124 packs, #'d to 25
Signatures (two per box)
S-OT Orla Thorsby /99
"""
PRICES = "section,number,parallel,grade,price,currency,sold_on,kind\nbase,1,,,1.20,EUR,2026-11-01,sold\nbase,2,copper,9.5,€ 19,,10.11.2026,\n;;\n"
COPIES = "id,section,number,parallel,wanted,centering,corners,edges,surface,front,back,marks\na,base,1,,yes,60/40,9,9.5,8,,60/40,gum stain\nb,base,2,copper,,,,,,,,\n"
FEES = json.dumps(
    {
        "selling": {"fee": 0.12, "channels": [{"name": "table", "fee": 0.1, "most": 20}], "postage_steps": [{"up_to": 20, "postage": 1.1}]},
        "grading": {"tiers": [{"name": "value", "fee": 20, "days": 45, "house": "Ash"}], "shipping": 20, "together": 10},
        "looking": {"minutes": 5},
    }
)  # fmt: skip
GRADES = json.dumps(
    {
        "counts": {"10": 350, "9": 450, "8": 200},
        "sections": {"base": {"10": 0.2, "9": 0.5}},
        "houses": {"Ash": {"counts": {"10": 5, "9": 20}}},
    }
)
LOG = "pack,section,number,name,parallel,serial,run,count,marks,typed\n1,base,1,Rider 1,,,,1,corner,\n2,,2,,copper,,,1,,\n3,,,,,,,7,,\n4,base,3,,ash,3,25,1,,x\n"
TERMS = (
    "Ash:\nvalue; 20; 500; 10; 45; 1; no; ; 1980-1999\nclub; 15; ; ; 60; 20; yes; review; ; 2026-01-01; 2026-03-01\n"
)


def made() -> Product:
    """A small product with every table of a package filled."""
    odds = (
        OddsRow("hobby", "signed", packs_per_hit="12", promise=""),
        OddsRow("hobby", "base", "copper", packs_per_hit="1:29"),
        OddsRow("hobby", "base", "slate", per_box="2", promise="at_least"),
        OddsRow("hobby", "worn", per_case="1", promise="average"),
    )
    promise = PromiseRow("hobby", "Two hits a box", "2", "box", "exact", "signed;worn")
    return replace(small(*odds, promises=(promise,)), teams=(TeamClub("Lindmark Wheelers", "Lindmark"),))


@dataclass(frozen=True)
class Reader:
    """A good input, and what reads it."""

    good: bytes
    read: Callable[[bytes], object]


def readers(folder: Path) -> dict[str, Reader]:
    """Return every reader; ``folder`` is theirs to write in."""
    product = made()
    names = Names(product)

    def from_path(name: str, read: Callable[[Path], object]) -> Callable[[bytes], object]:
        def run(data: bytes) -> object:
            path = folder / name
            path.write_bytes(data)
            return read(path)

        return run

    def sheets(name: str) -> Callable[[bytes], object]:
        def run(data: bytes) -> object:
            sources = Sources()
            add_file(sources, name, data)
            return interpret(Sources.from_json(sources.to_json()), About(name="A product", formats="hobby 24 x 8"))

        return run

    def words(data: bytes) -> str:
        return data.decode("utf-8", "replace")

    fitting = (
        (TERMS, read_tiers),
        ("table; 10 %; 0; 20\n", read_channels),
        ("20; 1.10\n80; 4.50; 1 %\n", read_postage),
        ("Ash:\n10; 55; 75\n9; 60; 90\n", read_standards),
    )
    found = {
        "product package": Reader(zip_bytes(product), from_path("p.zip", load)),
        "product workbook": Reader(workbook_bytes(product), from_path("p.xlsx", load)),
        "loose table": Reader(PRICES.replace("price", "player").encode(), sheets("list.csv")),
        "loose workbook": Reader(_workbook(), sheets("list.xlsx")),
        "loose zip": Reader(zip_bytes(product), sheets("list.zip")),
        "pasted text": Reader(CHECKLIST.encode(), sheets("pasted.txt")),
        "prices.csv": Reader(PRICES.encode(), lambda data: parse_prices(data, "prices.csv", "EUR", names, TODAY, lambda _code, _day: 0.9)),
        "copies.csv of the command": Reader(COPIES.encode(), from_path("c.csv", lambda path: read_copies(path, names))),
        "have.csv": Reader(b"section,number,count\nbase,1,2\nbase,2,1\n", from_path("h.csv", lambda path: read_have(path, "base", names))),
        "fees.json": Reader(FEES.encode(), from_path("f.json", read_fees)),
        "grades.json": Reader(GRADES.encode(), from_path("g.json", read_grades)),
        "openings.csv": Reader(LOG.encode(), lambda data: _log(product, data)),
        "entry line": Reader(b'12 45 copper 13/25 corner +surprise rider 3/9 note:"x" x3 1-4', lambda data: EntryReader(product).read(words(data))),
        "scan, measured": Reader(_scan(), lambda data: measure_picture(read_pixels(data).rgb)),
        "photo, JPEG": Reader(with_place("JPEG"), clean_photo),
        "photo, PNG": Reader(with_place("PNG"), clean_photo),
        "photo, WebP": Reader(with_place("WEBP"), clean_photo),
        "rates": Reader(b"2026-03-02; USD; EUR; 0.92\n2026-11-01;GBP;EUR;1.17\n", lambda data: read_rates(words(data), TODAY)),
        **{f"terms: {read.__name__}": Reader(good.encode(), lambda data, read=read: read(words(data))) for good, read in fitting},
    }  # fmt: skip
    return {**found, **_homes(folder)}


def _scan() -> bytes:
    """A small scan of one card, as PNG."""
    picture = np.full((560, 420, 3), 205, np.uint8)
    picture[40:460, 60:360] = (40, 60, 120)
    picture[60:440, 75:345] = np.random.default_rng(1).integers(0, 255, (380, 270, 3))
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG")
    return out.getvalue()


def _workbook() -> bytes:
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "Base Set"
    for row in (
        ["No.", "Player", "Team", "Run"],
        [1, "Orla Thorsby", "Harbor RC", "/25"],
        [2, "Ivo Castellan", "", None],
    ):
        sheet.append(row)
    book.create_sheet("Odds").append(["Copper", "1:29"])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _log(product: Product, data: bytes) -> object:
    sources = Sources()
    add_file(sources, "log.csv", data)
    header, columns = guess_columns(sources.sheets[0]) if sources.sheets else (0, {})
    return read_rows(product, mapped_rows(sources.sheets[0], header, columns)) if sources.sheets else None


def _homes(folder: Path) -> dict[str, Reader]:
    """A whole home and a backup of it; taken in where nothing is, and looked for afterwards."""
    home = folder / "home"
    home.mkdir()
    engine = open_engine(home / DATABASE)
    migrate(engine)
    with Session(engine) as session:
        from botin.store.catalog.products import save_product

        save_product(session, made())
        session.commit()
    engine.dispose()
    whole = io.BytesIO()
    write_everything(home, whole, NOW)

    def take_in(data: bytes) -> object:
        empty = Path(tempfile.mkdtemp(dir=folder))
        try:
            return take_in_everything(empty, io.BytesIO(data), "home.zip", NOW, live=False)
        except BaseException:
            assert list(empty.iterdir()) == [], "half stored"
            raise
        finally:
            shutil.rmtree(empty)

    def backup(data: bytes) -> object:
        path, part = folder / "backup.db", folder / "part.db"
        path.write_bytes(data)
        try:
            verify(path)
            ready_copy(path, part)
            opened = open_engine(part)
            with suppress(LookupError), sessions(opened)() as session:
                Workbench(sessions(opened), lambda: NOW).record(session, 1)
            opened.dispose()
        finally:
            for left in folder.glob("part.db*"):
                left.unlink()
        return None

    bare = folder / "bare.db"
    shutil.copy(home / DATABASE, bare)
    return {"whole home": Reader(whole.getvalue(), take_in), "backup": Reader(bare.read_bytes(), backup)}
