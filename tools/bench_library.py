"""Speeds of the library: a large import as a whole process, and search over 200,000 cards."""

from __future__ import annotations

import csv
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Kind, Product, Section, TeamClub
from botin.demo.league import clubs, riders
from botin.desk.catalog.library import import_files
from botin.desk.workbench import Workbench
from botin.home import utc_now
from botin.store.catalog.products import save_product
from botin.store.catalog.search import CardFilter, find_cards
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate

QUERIES = (
    "orla",
    "12",
    "th",
    "mirefield",
    "orla thorsby",
    "harrow bay",
    "a",
    "sil",
    "1",
    "insert 3",
    "quar",
    "nobody",
)


def write_large(folder: Path, cards: int = 20_000, finishes: int = 40) -> None:
    """A checklist as a spreadsheet makes it (semicolons, a title, other names), with its finishes and odds."""
    folder.mkdir()
    names = riders(2_500, np.random.default_rng(3))
    with (folder / "checklist.csv").open("w", encoding="utf-8") as file:
        out = csv.writer(file, delimiter=";")
        out.writerows([["Large Product 2027", "", "", ""], ["No.", "Rider", "Club", "RC"]])
        out.writerows(
            [n, names[n % 2_500].name, names[n % 2_500].team, "RC" if n % 7 == 0 else ""] for n in range(1, cards + 1)
        )
    tables = {
        "formats.csv": "format,packs_per_box,cards_per_pack\nhobby,24,8\n",
        "parallels.csv": "parallel,label,section,run\n" + "".join(f"p{i},F {i},base,{i * 10 + 5}\n" for i in range(finishes)),
        "odds.csv": "format,section,parallel,packs_per_hit\n" + "".join(f"hobby,base,p{i},{10 + i}\n" for i in range(finishes)),
    }  # fmt: skip
    for name, text in tables.items():
        (folder / name).write_text(text, "utf-8")


PEAK = """import atexit, re
from botin.main import main
atexit.register(lambda: print(re.search(r"VmHWM:\\s+(\\d+)", open("/proc/self/status").read())[1]))
main()"""
"""The program, telling at its end the most memory it had; what a parent process had does not count."""


def import_large(folder: Path) -> tuple[float, float, float]:
    """Milliseconds of one import, of the whole program that does one, and its memory in megabytes."""
    write_large(folder / "large")
    command = [sys.executable, "-c", PEAK, "import", str(folder / "large"), "--name", "Large"]
    start = time.perf_counter()
    ran = subprocess.run([*command, "--home", str(folder / "whole")], check=True, capture_output=True, text=True)
    whole = 1000 * (time.perf_counter() - start)
    megabytes = float(ran.stdout.splitlines()[-1]) / 1024
    engine = open_engine(folder / "part" / "botin.db")
    migrate(engine)
    with sessions(engine)() as session:
        bench = Workbench(sessions(engine), utc_now)
        start = time.perf_counter()
        import_files(session, bench, [folder / "large"], "Large")
        took = 1000 * (time.perf_counter() - start)
    engine.dispose()
    return took, whole, megabytes


def fill_library(session: Session, cards: int = 200_000, products: int = 500) -> None:
    """Add many checklists of invented riders."""
    rng = np.random.default_rng(4)
    names = riders(2_500, rng)
    each = cards // products
    for place in range(products):
        sections = (Section("base", "Base", Kind.BASE), Section("insert", f"Insert {place}", Kind.INSERT))
        chosen = rng.integers(0, len(names), each)
        made = tuple(
            Card("base" if n < 300 else "insert", str(n + 1), names[who].name, names[who].team, names[who].rookie)
            for n, who in enumerate(chosen)
        )
        teams: tuple[TeamClub, ...] = clubs()
        save_product(session, Product(f"many-{place}", f"Many {place}", sections=sections, cards=made, teams=teams))
    session.commit()


def search_times(session: Session) -> list[float]:
    """Milliseconds of every query, alone, among rookies, and of one product."""
    times = []
    for words in QUERIES:
        for wanted in (CardFilter(words), CardFilter(words, rookie_kinds=("*",)), CardFilter(words, product_id=9)):
            for _ in range(4):
                start = time.perf_counter()
                find_cards(session, wanted)
                times.append(1000 * (time.perf_counter() - start))
    return times
