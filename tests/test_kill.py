"""The server dies twenty times while cards are logged; nothing that was acknowledged is lost, nothing is twice."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from tests.killing import run, verify
from tests.server import Server


def test_twenty_kills_lose_nothing(home: Path) -> None:
    server = Server(home)
    try:
        found = run(server, 20, np.random.default_rng(20))
    finally:
        server.stop()
    assert found.kills >= 20
    assert len(found.acknowledged) >= 20
    verify(home, found)
