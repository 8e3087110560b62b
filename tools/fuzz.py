"""Spoiled inputs over every reader and every form: 100,000, or as many as said.  python tools/fuzz.py [INPUTS] [SEED]

It goes on where it was stopped: what was done is kept in .fuzz/, and every input is known by seed and number.
"""

from __future__ import annotations

import json
import sys
import tempfile
import time
import warnings
from datetime import UTC, datetime
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from botin.demo.build import build_demo
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from botin.web.app import create_app
from tests.fuzzing.forms import House, forms_of, run_forms
from tests.fuzzing.readers import readers
from tests.fuzzing.run import MOST_MEGABYTES, Found, run_readers
from tests.fuzzing.sources import run_sources

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)
KEPT = Path(".fuzz")
AT_ONCE = 500
FORMS = 0.4
"""Share of the inputs that are forms; a form takes ten times as long as a file."""


def house_in(folder: Path) -> House:
    """Build the demo once, behind one app."""
    path = folder / "pristine" / DATABASE
    path.parent.mkdir()
    engine = open_engine(path)
    migrate(engine)
    with sessions(engine)() as session:
        build_demo(session, Workbench(sessions(engine), lambda: NOW))
    engine.dispose()
    app = create_app(Workbench(sessions(open_engine(Path(":memory:"))), lambda: NOW), "a key", demo=True)
    app.config["ALLOWED_HOSTS"] = {"127.0.0.1", "localhost"}
    return House(app, path, folder, NOW)


def load(path: Path) -> dict[str, dict[str, int]]:
    return json.loads(path.read_text("utf-8")) if path.is_file() else {"done": {}, "answers": {}}


def main(wanted: int, seed: int) -> int:
    warnings.simplefilter("ignore")
    KEPT.mkdir(exist_ok=True)
    path = KEPT / f"seed-{seed}.json"
    kept, start = load(path), time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        known, house = readers(Path(folder)), house_in(Path(folder))
        forms = forms_of(house)
        for what, most in (("readers", round(wanted * (1 - FORMS))), ("forms", round(wanted * FORMS))):
            while (done := kept["done"].get(what, 0)) < most:
                numbers = range(done, min(done + AT_ONCE, most))
                if what == "readers":
                    found = run_readers(known, numbers, seed, KEPT)
                else:
                    found = run_forms(house, forms, numbers, seed)
                note(kept, what, numbers.stop, found)
                path.write_text(json.dumps(kept, indent=1), "utf-8")
                print(f"{what} {numbers.stop:,} of {most:,}, slowest {found.slowest[0]:.2f} s", flush=True)
        sources = run_sources(Path(folder), wanted // 5, seed)
    print(f"sources {dict(sources.counts)}, slowest {sources.slowest:.2f} s", flush=True)
    kept["answers"] |= {f"wrong: {words[:400]}": 1 for words in sources.wrong}
    wrong = sum(count for answer, count in kept["answers"].items() if answer.startswith("wrong"))
    print(kept["answers"], f"{kept['most']['megabytes']:.0f} MB at most, {time.monotonic() - start:,.0f} s")
    return int(wrong > 0 or kept["most"]["megabytes"] > MOST_MEGABYTES)


def note(kept: dict[str, dict[str, int]], what: str, done: int, found: Found) -> None:
    kept["done"][what] = done
    for answer, count in found.answers.items():
        kept["answers"][answer] = kept["answers"].get(answer, 0) + count
    for words in found.wrong:
        print("WRONG", words[:400], flush=True)
        kept["answers"][f"wrong: {words[:400]}"] = 1
    most = kept.setdefault("most", {})
    most["megabytes"] = max(most.get("megabytes", 0), round(found.megabytes))
    most["milliseconds"] = max(most.get("milliseconds", 0), round(1000 * found.slowest[0]))


if __name__ == "__main__":
    given = [int(word) for word in sys.argv[1:]]
    sys.exit(main(*(given + [100_000, 1][len(given) :])))
