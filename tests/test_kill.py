"""The server dies again and again while cards are logged; nothing that was acknowledged is lost, nothing is twice."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.killdeeds import deeds
from tests.killing import run, verify
from tests.server import Server


@pytest.mark.parametrize("kills", [1, pytest.param(20, marks=pytest.mark.slow)])
def test_kills_lose_nothing(home: Path, kills: int) -> None:
    server = Server(home)
    try:
        found = run(server, kills, np.random.default_rng(20))
    finally:
        server.stop()
    assert found.kills >= kills
    assert len(found.acknowledged) >= kills
    verify(home, found)


SHORT = ("backing up", "importing", "restoring")
"""The others are killed by `make test-all` and by `tools/kill.py`."""


@pytest.mark.parametrize(
    ("name", "kills"),
    [
        *((name, 1) for name in SHORT),
        *(
            pytest.param(name, 4, marks=pytest.mark.slow)
            for name in ("backing up", "importing", "restoring", "pricing", "flagging", "moving", "upgrading")
        ),
    ],
)
def test_work_that_is_killed_is_done_or_not_and_can_be_done_again(
    home: Path, tmp_path_factory: pytest.TempPathFactory, name: str, kills: int
) -> None:
    deed = next(deed for deed in deeds(home, tmp_path_factory.mktemp("deeds")) if deed.name == name)
    deed.run(0)
    rng = np.random.default_rng(11)
    for number in range(1, kills + 1):
        deed.kill(number, rng)
    deed.run(kills + 1)
    assert deed.done + deed.undone == kills
