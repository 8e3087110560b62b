"""The long run of the kill test: 500 kills, or as many as said.  python tools/kill.py [KILLS]"""

from __future__ import annotations

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
from botin.store.upgrade import migrate
from tests.killing import run, verify
from tests.server import Server

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)


def main(kills: int) -> None:
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        engine = open_engine(home / DATABASE)
        migrate(engine)
        with sessions(engine)() as session:
            build_demo(session, Workbench(sessions(engine), lambda: NOW))
        engine.dispose()
        server, start = Server(home), time.monotonic()
        found = run(server, kills, np.random.default_rng(500))
        server.stop()
        verify(home, found)
        seconds = time.monotonic() - start
        print(
            f"{found.kills} kills, {len(found.acknowledged):,} cards acknowledged, all there once, in {seconds:,.0f} s"
        )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 500)
