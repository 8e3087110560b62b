"""The speeds Botin promises, as a table: milliseconds at the server, and how they grow with the store."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

import bench_beside
import bench_buy
import bench_prices
import numpy as np
from bench_library import fill_library, import_large, search_times
from crowd import fill
from flask.testing import FlaskClient

from botin.demo.build import build_demo
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.main import settle_memory, warm
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from botin.web.app import create_app

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)
AIM_START, AIM_LOG, AIM_PAGE, AIM_IMPORT = 2_000.0, 30.0, 150.0, 3_000.0
SIZES = (10_000, 100_000, 1_000_000)


def p95(times: list[float]) -> float:
    return float(np.percentile(times, 95))


def timed(action: Callable[[], object]) -> float:
    start = time.perf_counter()
    action()
    return 1000 * (time.perf_counter() - start)


def show(what: str, size: str, value: float, aim: float | None = None, unit: str = "ms") -> None:
    mark = "" if aim is None else f"{aim:8,.0f}   {'ok' if value <= aim else 'MISSED'}"
    print(f"{what:<44}{size:>12}{value:10,.1f} {unit:<3}{mark}", flush=True)


def start_up(home: Path) -> float:
    """From the command to the first whole page."""
    start = time.perf_counter()
    command = [sys.executable, "-m", "botin", "serve", "--home", str(home), "--port", "0"]
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True) as server:
        assert server.stderr
        for line in server.stderr:
            if found := re.search(r"http://127\.0\.0\.1:\d+", line):
                urllib.request.urlopen(found[0]).read()  # noqa: S310
                break
        took = 1000 * (time.perf_counter() - start)
        server.terminate()
    return took


def client_of(home: Path) -> FlaskClient:
    engine = open_engine(home / DATABASE)
    settle_memory()
    return create_app(Workbench(sessions(engine), lambda: NOW), "key of the bench").test_client()


def log_times(client: FlaskClient, lines: int = 300) -> list[float]:
    """One line of one base card after the other, as the desk sends them."""
    page = client.get("/boxes/new").text
    token = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', page)[1]  # type: ignore[index]
    client.post("/boxes/4/open", data={"csrf_token": token})
    times = []
    for place in range(lines):
        fields = {
            "csrf_token": token,
            "entry": str(1 + place % 300),
            "pack": 1 + place // 13,
            "client_key": f"b{place}",
        }
        times.append(timed(partial(client.post, "/rip/4/log", data=fields, headers={"HX-Request": "true"})))
    return times


def measure(home: Path, size: str) -> dict[str, float]:
    """Median of three start-ups, then p95 of logging and of the pages."""
    found = {"start-up to first page": float(np.median([start_up(home) for _ in range(3)]))}
    client = client_of(home)
    found["logging a card, p95"] = p95(log_times(client)[5:])
    for name, path in (("shelf, p95", "/"), ("rip desk, p95", "/rip/4"), ("recap, p95", "/recap/1")):
        found[name] = p95([timed(partial(client.get, path)) for _ in range(40)][2:])
    for name, value in found.items():
        aim = AIM_START if "start" in name else AIM_LOG if "logging" in name else AIM_PAGE
        show(name, size, value, aim)
    return found


def main() -> None:
    print(f"{'what':<44}{'cards':>12}{'measured':>10}        aim")
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder) / "demo"
        engine = open_engine(home / DATABASE)
        migrate(engine)
        with sessions(engine)() as session:
            build_demo(session, Workbench(sessions(engine), lambda: NOW))
        engine.dispose()
        settle_memory()
        with_copies = shutil.copytree(home, Path(folder) / "beside")
        engine = open_engine(with_copies / DATABASE)
        with sessions(engine)() as session:
            fill(session, SIZES[0])
        engine.dispose()
        bench_beside.beside(with_copies, show, f"{SIZES[0]:,}")
        if "beside" in sys.argv:
            return
        bench_prices.prices(show)
        if "prices" in sys.argv:
            return
        bench_buy.curves(show)
        warmed = client_of(Path(shutil.copytree(home, Path(folder) / "buying")))
        warm(warmed.application)
        bench_buy.desk(warmed, show, "demo")
        with warmed.application.extensions["bench"].sessions() as session:
            bench_buy.sets(warmed, session, show)
        bench_buy.routes(warmed, warmed.application.extensions["bench"], show)
        if "buy" in sys.argv:
            return
        measure(Path(shutil.copytree(home, Path(folder) / "small")), "demo")
        found = {}
        for size in SIZES:
            engine = open_engine(home / DATABASE)
            with sessions(engine)() as session:
                fill(session, size)
            engine.dispose()
            found[size] = measure(Path(shutil.copytree(home, Path(folder) / str(size))), f"{size:,}")
        for name, value in found[SIZES[-1]].items():
            show(f"{name}: growth", f"×{SIZES[-1] // SIZES[0]}", value / found[SIZES[0]][name], unit="×")
        library(Path(folder), home)


def library(folder: Path, home: Path) -> None:
    """A large import, search over every checklist, a product's page."""
    took, whole, megabytes = import_large(folder)
    show("import with 40 finishes", "20,000", took, AIM_IMPORT)
    show("  the whole program", "20,000", whole)
    show("  its memory", "20,000", megabytes, 200.0, "MB")
    engine = open_engine(home / DATABASE)
    with sessions(engine)() as session:
        fill_library(session)
        show("search, p95", "200,000", p95(search_times(session)), 50.0)
    engine.dispose()
    client = client_of(home)
    show("product page, first", "200,000", timed(partial(client.get, "/library/1")))
    show("product page, p95", "200,000", p95([timed(partial(client.get, "/library/1")) for _ in range(20)]), AIM_PAGE)
    show("library, p95", "200,000", p95([timed(partial(client.get, "/library/")) for _ in range(20)]), AIM_PAGE)


if __name__ == "__main__":
    main()
