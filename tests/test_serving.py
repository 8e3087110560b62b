"""The server as a process: many idle connections, and a second one on the same data."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.server import Server


@pytest.fixture
def empty(tmp_path: Path) -> Iterator[Server]:
    made = Server(tmp_path)
    yield made
    made.stop()


def test_connections_on_which_nothing_comes_do_not_keep_anyone_waiting(empty: Server) -> None:
    idle = [socket.create_connection(("127.0.0.1", empty.port)) for _ in range(200)]
    try:
        start = time.monotonic()
        assert urllib.request.urlopen(f"{empty.url}/", timeout=10).status == 200  # noqa: S310
        assert time.monotonic() - start < 10
    finally:
        for one in idle:
            one.close()


def test_a_second_server_on_the_same_data_says_where_the_first_one_is(empty: Server) -> None:
    command = [sys.executable, "-m", "botin", "serve", "--home", str(empty.home), "--port", "0"]
    found = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert found.returncode == 1
    assert f"already at {empty.url}" in found.stderr
    assert "Traceback" not in found.stderr


def test_what_stands_in_the_data_directory_is_its_owner_s_alone(empty: Server) -> None:
    for path in empty.home.rglob("*"):
        if path.is_file():
            assert path.stat().st_mode & 0o077 == 0, path.name


def test_what_work_that_was_cut_off_left_is_cleared_at_the_next_start(empty: Server) -> None:
    empty.stop()
    (empty.home / "working-x").mkdir()
    (empty.home / "working-x" / "asked").write_bytes(b"a large file")
    empty.start()
    assert list(empty.home.glob("working-*")) == []
