"""The server dies again and again while cards are logged; nothing that was acknowledged is lost, nothing is twice."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.killing import run, verify
from tests.server import Server


@pytest.mark.parametrize("kills", [2, pytest.param(20, marks=pytest.mark.slow)])
def test_kills_lose_nothing(home: Path, kills: int) -> None:
    server = Server(home)
    try:
        found = run(server, kills, np.random.default_rng(20))
    finally:
        server.stop()
    assert found.kills >= kills
    assert len(found.acknowledged) >= kills
    verify(home, found)
