"""Work beside logging that is killed on the way: taken in, priced, flagged, backed up, put back, upgraded.

Each deed is a process of its own that is sent SIGKILL after a random part of the time it takes. Afterwards everything
is there or nothing of it is, the data file is sound, and the deed can be done again.
"""

from __future__ import annotations

import io
import shutil
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from botin.desk.keeping.wholehome import write_everything
from botin.exchange.catalog.package import load, zip_bytes
from botin.home import DATABASE
from botin.store.keeping.backup import FOLDER, KEPT, backup_to, numbered, verify
from tests.core.small import product

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)
PRICES = 2_000
IN_PROCESS = """
import sys; from pathlib import Path
from botin.cli.library import opened; from botin.home import utc_now
from botin.desk.workbench import Workbench; from botin.store.engine import sessions
engine = opened(Path(sys.argv[1])); bench = Workbench(sessions(engine), utc_now, Path(sys.argv[1]))
with bench.sessions() as session:
"""
PRICING = """
    from botin.desk.pricing.files import import_prices
    import_prices(session, bench, bench.record(session, 1), Path(sys.argv[2]).read_bytes(), "p.csv")
"""
FLAGGING = """
    from botin.desk.flags.everything import judge_all
    judge_all(session, bench)
"""


def asked(home: Path, question: str) -> int:
    with closing(sqlite3.connect(home / DATABASE)) as data:
        return int(data.execute(question).fetchone()[0])


def sound(home: Path) -> None:
    """The data file is sound, and nothing points nowhere."""
    verify(home / DATABASE)


@dataclass
class Deed:
    """What is done, and what must hold however far it came.

    Attributes
    ----------
    command : callable
        Words of the process, by the number of the kill.
    holds : callable
        Raises when something is half done; says whether the deed was done.
    """

    name: str
    command: Callable[[int], list[str]]
    holds: Callable[[int], bool]
    before: Callable[[int], object] = lambda _number: None
    seconds: float = 0.0
    done: int = 0
    undone: int = 0
    wrong: list[str] = field(default_factory=list)

    def run(self, number: int) -> None:
        """Do it to the end; it must hold and be done."""
        self.before(number)
        start = time.monotonic()
        made = subprocess.run(self.command(number), capture_output=True, text=True, check=False)
        assert made.returncode == 0, f"{self.name}: {made.stderr[-600:]}"
        self.seconds = time.monotonic() - start
        assert self.holds(number), f"{self.name} was not done"

    def kill(self, number: int, rng: np.random.Generator) -> None:
        """Do it and kill it after a random part of the time it takes; then see what holds."""
        self.before(number)
        with subprocess.Popen(self.command(number), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as process:
            try:
                process.wait(self.seconds * float(rng.uniform(0.3, 1.05)))
            except subprocess.TimeoutExpired:
                process.kill()
        if self.holds(number):
            self.done += 1
        else:
            self.undone += 1


def botin(*words: object) -> list[str]:
    return [sys.executable, "-m", "botin", *map(str, words)]


def deeds(home: Path, folder: Path) -> list[Deed]:
    """Return every deed on a copy of a home; ``folder`` is theirs to write in."""
    found = [_importing(home, folder), _pricing(home, folder), _flagging(home), _backing_up(home)]
    return [*found, _restoring(home, folder), _moving(home, folder), _upgrading(folder)]


def _importing(home: Path, folder: Path) -> Deed:
    def write(number: int) -> None:
        data = zip_bytes(product()).replace(b"", b"")
        (folder / "package.zip").write_bytes(data)
        made = load(folder / "package.zip").product
        cards = tuple(type(card)(card.section, card.number, f"Rider of {number}", card.team) for card in made.cards)
        from dataclasses import replace

        (folder / "package.zip").write_bytes(zip_bytes(replace(made, cards=cards)))

    def holds(number: int) -> bool:
        sound(home)
        cards = (
            "card c JOIN section s ON s.id = c.section_id JOIN product p ON p.id = s.product_id WHERE p.key = 'small'"
        )
        whole = asked(home, f"SELECT count(*) FROM {cards}")  # noqa: S608
        fresh = asked(home, f"SELECT count(*) FROM {cards} AND c.name = 'Rider of {number}'")  # noqa: S608
        assert fresh in (0, whole), f"{fresh} of {whole} cards came"
        return 0 < whole == fresh

    return Deed("importing", lambda _number: botin("import", folder / "package.zip", "--home", home), holds, write)


def _pricing(home: Path, folder: Path) -> Deed:
    def write(number: int) -> None:
        rows = "".join(f"base,{n % 200 + 1},,{n / 100 + 1:.2f},EUR,2026-11-01,kill {number}\n" for n in range(PRICES))
        (folder / "prices.csv").write_text(f"section,number,parallel,price,currency,sold_on,source\n{rows}")

    def holds(number: int) -> bool:
        sound(home)
        came = asked(home, f"SELECT count(*) FROM price WHERE source = 'kill {number}'")  # noqa: S608
        assert came in (0, PRICES), f"{came} of {PRICES} prices came"
        return came == PRICES

    words = [sys.executable, "-c", IN_PROCESS + PRICING, str(home), str(folder / "prices.csv")]
    return Deed("pricing", lambda _number: words, holds, write)


def _flagging(home: Path) -> Deed:
    last = {"made": ""}

    def holds(_number: int) -> bool:
        sound(home)
        with closing(sqlite3.connect(home / DATABASE)) as data:
            count, made = data.execute("SELECT count(*), max(made_at) FROM flag").fetchone()
            owned = data.execute(
                "SELECT count(*) FROM (SELECT DISTINCT card_id, parallel FROM copy WHERE owner_id = 1 AND card_id IS NOT "
                "NULL AND state IN ('coming', 'here', 'out', 'listed'))"
            ).fetchone()[0]
        assert count >= owned > 0 or not last["made"], f"{count} routes of {owned} versions"
        fresh = made != last["made"]
        last["made"] = made
        return fresh

    return Deed("flagging", lambda _number: [sys.executable, "-c", IN_PROCESS + FLAGGING, str(home)], holds)


def _backing_up(home: Path) -> Deed:
    seen: set[str] = set()

    def holds(_number: int) -> bool:
        sound(home)
        names = {path.name for path in numbered(home / FOLDER)}
        for name in names - seen:
            verify(home / FOLDER / name)
        fresh = bool(names - seen)
        seen.update(names)
        assert len(names) <= KEPT + 1
        return fresh

    return Deed("backing up", lambda _number: botin("backup", "--home", home), holds)


def _restoring(home: Path, folder: Path) -> Deed:
    for mark in ("0", "1"):
        made = backup_to(home / DATABASE, folder / f"marked-{mark}.db")
        with closing(sqlite3.connect(made)) as data, data:
            data.execute("INSERT OR REPLACE INTO setting (key, value) VALUES ('mark', ?)", (mark,))

    def holds(number: int) -> bool:
        sound(home)
        marks = asked(home, "SELECT count(*) FROM setting WHERE key = 'mark'")
        if not marks:
            return False
        return asked(home, "SELECT CAST(value AS INTEGER) FROM setting WHERE key = 'mark'") == number % 2

    return Deed(
        "restoring", lambda number: botin("restore", folder / f"marked-{number % 2}.db", "--home", home), holds
    )


def _moving(home: Path, folder: Path) -> Deed:
    whole = io.BytesIO()
    write_everything(home, whole, NOW)
    (folder / "home.zip").write_bytes(whole.getvalue())
    pulls, empty = asked(home, "SELECT count(*) FROM pull"), folder / "moved"

    def holds(_number: int) -> bool:
        if not (empty / DATABASE).is_file():
            return False
        sound(empty)
        came = asked(empty, "SELECT count(*) FROM pull")
        assert came in (0, pulls), f"{came} of {pulls} cards came"
        return came == pulls

    def clear(_number: int) -> None:
        shutil.rmtree(empty, ignore_errors=True)

    return Deed("moving", lambda _number: botin("import", folder / "home.zip", "--home", empty), holds, clear)


def _upgrading(folder: Path) -> Deed:
    from tests.store.test_upgrades import store_at

    old = folder / "old" / DATABASE
    old.parent.mkdir()
    store_at(old, "0002")
    home = folder / "upgraded"

    def anew(_number: int) -> None:
        shutil.rmtree(home, ignore_errors=True)
        home.mkdir()
        shutil.copy(old, home / DATABASE)

    def holds(_number: int) -> bool:
        sound(home)
        assert asked(home, "SELECT count(*) FROM pull") == 1
        return asked(home, "SELECT CAST(version_num AS INTEGER) FROM alembic_version") > 2

    words = botin("export", "--all", "--to", folder / "upgraded.zip", "--home", home)
    return Deed("upgrading", lambda _number: words, holds, anew)
