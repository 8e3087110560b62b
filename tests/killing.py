"""A client that logs at full speed while the server is killed: what was acknowledged must be there, once.

This proves the order of commit and answer. It does not prove the disk: a killed process leaves the operating system
running, and what the system has taken it will write.
"""

from __future__ import annotations

import http.cookiejar
import json
import re
import signal
import sqlite3
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass, field
from pathlib import Path
from threading import Timer

import numpy as np

from tests.server import Server

BOX = 4


@dataclass
class Outcome:
    """What the client was told, and how often the server died."""

    acknowledged: dict[str, str] = field(default_factory=dict)
    kills: int = 0
    retries: int = 0


class Client:
    """Logs one base card after the other, as the desk does: a key a line, sent again until it is answered."""

    def __init__(self, server: Server) -> None:
        self.server = server
        jar = urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar())
        self.opener = urllib.request.build_opener(jar)
        page = self.opener.open(f"{server.url}/boxes/new", timeout=60).read().decode()
        self.token = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', page)[1]  # type: ignore[index]
        self.post(f"/boxes/{BOX}/open", {})

    def post(self, path: str, fields: dict[str, str]) -> int:
        data = urllib.parse.urlencode({"csrf_token": self.token, **fields}).encode()
        request = urllib.request.Request(f"{self.server.url}{path}", data, {"HX-Request": "true"})  # noqa: S310
        return int(self.opener.open(request, timeout=60).status)


def run(server: Server, kills: int, rng: np.random.Generator) -> Outcome:
    """Log until the server was killed so many times, and a little longer."""
    client, found, place = Client(server), Outcome(), 0
    while found.kills < kills:
        timer = Timer(
            float(rng.uniform(0.05, 0.7)), lambda: server.process and server.process.send_signal(signal.SIGKILL)
        )
        timer.start()
        alive = True
        while alive:
            place += 1
            number, key = str(place % 300 + 1), f"kill-{place}"
            while True:
                try:
                    client.post(f"/rip/{BOX}/log", {"entry": number, "pack": str(place % 24 + 1), "client_key": key})
                except (urllib.error.URLError, OSError, http.client.HTTPException):
                    timer.join()
                    server.stop(signal.SIGKILL)
                    server.start()
                    found.kills += 1
                    found.retries += 1
                    alive = False
                    continue
                found.acknowledged[key] = number
                break
    return found


def verify(home: Path, found: Outcome) -> None:
    """Every acknowledged card is there once, no card twice, and the file is sound."""
    with sqlite3.connect(home / "botin.db") as data:
        rows = data.execute(
            "SELECT p.client_key, c.number FROM pull p JOIN card c ON c.id = p.card_id "
            "WHERE p.box_id = ? AND p.undone_at IS NULL", (BOX,)
        ).fetchall()  # fmt: skip
        stored = {key.rpartition(":")[0]: number for key, number in rows}
        assert len(stored) == len(rows), "a card is there twice"
        missing = {key: number for key, number in found.acknowledged.items() if stored.get(key) != number}
        assert missing == {}, f"acknowledged and lost: {missing}"
        assert set(stored) == set(found.acknowledged)
        assert data.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        steps = data.execute("SELECT changes FROM step WHERE box_id = ?", (BOX,)).fetchall()
        assert sum(len([c for c in json.loads(row[0]) if c[0] == "pull"]) for row in steps) == len(rows)
