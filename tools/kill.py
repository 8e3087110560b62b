"""The long run of the kill tests: 500 kills over everything that writes.  python tools/kill.py [KILLS]

A piece takes under ten minutes; run it again until it says that all were done. What was done is kept in .kill/.
"""

from __future__ import annotations

import json
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from botin.demo.build import build_demo
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from tests.killdeeds import deeds
from tests.killing import run, verify
from tests.server import Server

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)
KEPT = Path(".kill") / "done.json"
PIECE = 480.0
"""Seconds after which nothing new is begun."""
LOGGING, AT_ONCE = "logging", 5


def demo_in(home: Path) -> Path:
    home.mkdir()
    engine = open_engine(home / DATABASE)
    migrate(engine)
    with sessions(engine)() as session:
        build_demo(session, Workbench(sessions(engine), lambda: NOW))
    engine.dispose()
    return home


def kill_logging(home: Path, done: dict[str, int], rng: np.random.Generator) -> None:
    """Kill the server while a client logs; each time in a home of its own, since a box has an end."""
    server = Server(home)
    try:
        found = run(server, AT_ONCE, rng)
    finally:
        server.stop()
    verify(home, found)
    done[LOGGING] = done.get(LOGGING, 0) + found.kills
    done["cards acknowledged"] = done.get("cards acknowledged", 0) + len(found.acknowledged)


def total(done: dict[str, int]) -> int:
    return sum(count for name, count in done.items() if name != "cards acknowledged" and ":" not in name)


def main(kills: int) -> None:
    done: dict[str, int] = json.loads(KEPT.read_text("utf-8")) if KEPT.is_file() else {}
    KEPT.parent.mkdir(exist_ok=True)
    start = time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        work = Path(folder) / "work"
        work.mkdir()
        known = deeds(demo_in(Path(folder) / "home"), work)
        for deed in known:
            deed.run(0)
        turn = total(done)
        while total(done) < kills and time.monotonic() - start < PIECE:
            rng = np.random.default_rng([500, turn])
            kill_logging(demo_in(Path(folder) / f"logging-{turn}"), done, rng)
            for deed in known:
                for number in range(1, AT_ONCE + 1):
                    deed.kill(turn * 10 + number, rng)
                done[deed.name] = done.get(deed.name, 0) + AT_ONCE
                done[f"{deed.name}: done all the same"] = done.get(f"{deed.name}: done all the same", 0) + deed.done
                deed.done = deed.undone = 0
            turn += 1
            KEPT.write_text(json.dumps(done, indent=1), "utf-8")
            print(f"{total(done)} of {kills} kills, {time.monotonic() - start:,.0f} s", flush=True)
        for deed in known:
            deed.run(turn * 10 + 9)
    KEPT.write_text(json.dumps(done, indent=1), "utf-8")
    print(done, "all done" if total(done) >= kills else "not all done yet: run it again")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 500)
