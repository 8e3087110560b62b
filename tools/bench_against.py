"""Pages and entries of this version beside those of an earlier one, in one run: ``bench_against.py REVISION [COPIES [TURNS]]``.

Each version fills a home of its own with as many copies and answers the same requests from a process of its own; the
two take turns, and of each request the best of all turns counts: another program beside it only makes it slower.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tarfile
import tempfile
from io import BytesIO
from pathlib import Path

ROOT = Path(__file__).parents[1]
TURNS, REPEATS = 4, 12
PAGES = (
    "/", "/recap/", "/recap/1", "/recap/1/cards", "/flags/", "/rip/19", "/buy/1?format=hobby&price=118", "/library/",
    "/library/1", "/sets/board?part=1:base", "/prices/", "/prices/card/1", "/settings/", "/fees/", "/flags/grading",
)  # fmt: skip
MAKE = """
import sys
from datetime import UTC, datetime
from pathlib import Path
sys.path.insert(0, "tools")
import crowd
from botin.demo.build import build_demo
from botin.desk.workbench import Workbench
from botin.store.engine import open_engine, sessions
try:
    from botin.store.keeping.upgrade import migrate
except ImportError:  # where it stood before
    from botin.store.upgrade import migrate
home = Path(sys.argv[1])
engine = open_engine(home / "botin.db")
migrate(engine)
with sessions(engine)() as session:
    build_demo(session, Workbench(sessions(engine), lambda: datetime(2026, 11, 24, 9, 0, tzinfo=UTC)))
    crowd.fill(session, int(sys.argv[2]))
"""
TIME = """
import json, re, statistics, sys, time
from datetime import UTC, datetime
from pathlib import Path
from botin.desk.workbench import Workbench
from botin.store.engine import open_engine, sessions
from botin.web.app import create_app
home, repeats, turn, pages = Path(sys.argv[1]), int(sys.argv[2]), sys.argv[3], json.loads(sys.argv[4])
engine = open_engine(home / "botin.db")
bench = Workbench(sessions(engine), lambda: datetime(2026, 11, 24, 9, 0, tzinfo=UTC))
app = create_app(bench, "k" * 64, demo=True)
app.config["ALLOWED_HOSTS"] = {"localhost", "127.0.0.1"}
client, found = app.test_client(), {}
for page in pages:
    named = page
    if client.get(page).status_code != 200:
        page = page.replace("/flags/", "/routes/")
    if client.get(page).status_code != 200:
        continue
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        client.get(page)
        times.append(1000 * (time.perf_counter() - start))
    found[named] = min(times)
token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/rip/19").text)[1]
times = []
for place in range(3 * repeats):
    fields = {"csrf_token": token, "entry": str(place % 200 + 1), "pack": "12", "client_key": f"{turn}-{place}"}
    start = time.perf_counter()
    answer = client.post("/rip/19/log", data=fields, headers={"HX-Request": "true"})
    times.append(1000 * (time.perf_counter() - start))
    assert answer.status_code == 200, answer.status_code
    client.post("/rip/19/undo", data={"csrf_token": token, "turn_key": f"u{turn}-{place}"}, headers={"HX-Request": "true"})
found["logging a card"] = statistics.quantiles(times, n=10)[0]
print(json.dumps(found))
"""


def tree_of(revision: str, folder: Path) -> Path:
    """Unpack a revision into a folder."""
    packed = subprocess.run(["git", "archive", revision], cwd=ROOT, check=True, capture_output=True).stdout
    with tarfile.open(fileobj=BytesIO(packed)) as archive:
        archive.extractall(folder, filter="data")
    return folder


def run(tree: Path, script: str, *words: str) -> str:
    """Run a script with the code of a tree."""
    own = {**os.environ, "PYTHONPATH": str(tree)}
    done = subprocess.run(
        [sys.executable, "-c", script, *words], cwd=tree, env=own, check=True, capture_output=True, text=True
    )
    return done.stdout


def main() -> None:
    revision = sys.argv[1]
    copies = sys.argv[2] if len(sys.argv) > 2 else "10000"
    turns = int(sys.argv[3]) if len(sys.argv) > 3 else TURNS
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        trees = {"before": tree_of(revision, folder / "before-tree"), "now": ROOT}
        for side, tree in trees.items():
            (folder / side).mkdir()
            run(tree, MAKE, str(folder / side), copies)
        best: dict[str, dict[str, float]] = {side: {} for side in trees}
        for turn in range(turns):
            for side, tree in trees.items():
                words = (str(folder / side), str(REPEATS), f"t{turn}", json.dumps(PAGES))
                for page, took in json.loads(run(tree, TIME, *words)).items():
                    best[side][page] = min(took, best[side].get(page, took))
    print(f"{int(copies):,} copies, {revision} and this version: milliseconds, and how many times as long")
    for page, now in best["now"].items():
        before = best["before"].get(page)
        ratio = f"{now / before:5.2f}" if before else "  new"
        print(f"{page:45} {before or 0:8.1f} {now:8.1f} {ratio}")


if __name__ == "__main__":
    main()
