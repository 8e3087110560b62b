"""How long a card takes to log while the routes of all copies are worked out beside it: over HTTP, as the desk does."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.killing import Client
from tests.server import Server

AIM = 60.0
ROUNDS = 3


def log_one(client: Client, key: str, place: int) -> float:
    start = time.perf_counter()
    fields = {"entry": str(place % 300 + 1), "pack": str(place % 24 + 1), "client_key": key}
    client.post("/rip/4/log", fields)
    return 1000 * (time.perf_counter() - start)


def beside(home: Path, show: Callable[..., None], size: str) -> None:
    """Time lines with nothing beside them, then while routes are worked out again and again."""
    server = Server(home)
    try:
        client = Client(server)
        time.sleep(6)  # what the server loads while nobody waits is loaded by then
        quiet = [log_one(client, f"quiet-{place}", place) for place in range(100)]
        busy: list[float] = []
        for turn in range(ROUNDS):
            client.post("/flags/again", {})
            end = time.monotonic() + 2.0
            while time.monotonic() < end:
                busy.append(log_one(client, f"busy-{turn}-{len(busy)}", len(busy)))
            time.sleep(4)
    finally:
        server.stop()
    show("logging over HTTP, p95", size, float(np.percentile(quiet[10:], 95)))
    show("  while all flags are worked out, p95", size, float(np.percentile(busy, 95)), AIM)
