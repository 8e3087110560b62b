"""Runs the inputs: each one is known by its seed and number, so that what failed can be run again alone."""

from __future__ import annotations

import resource
import time
import traceback
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from botin.core.errors import BotinError
from tests.fuzzing.mutate import spoil
from tests.fuzzing.readers import Reader

MOST_SECONDS = 2.0
"""Processor time an input may take: other work on the machine fails nothing."""
MOST_MEGABYTES = 500.0


@dataclass
class Found:
    """How many inputs went how, and what went wrong."""

    answers: Counter[str] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)
    slowest: tuple[float, str] = (0.0, "")

    @property
    def inputs(self) -> int:
        return sum(self.answers.values())

    @property
    def megabytes(self) -> float:
        return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def inputs(known: Mapping[str, Reader], numbers: Iterable[int], seed: int) -> Iterator[tuple[int, str, bytes]]:
    """Yield number, reader and spoiled input, one reader after the other."""
    names = sorted(known)
    for number in numbers:
        name = names[number % len(names)]
        yield number, name, spoil(known[name].good, np.random.default_rng([seed, number]))


def run_readers(known: Mapping[str, Reader], numbers: Iterable[int], seed: int, keep: Path | None = None) -> Found:
    """Give each reader spoiled inputs; what is wrong is kept in a folder to be looked at."""
    found = Found()
    for number, name, data in inputs(known, numbers, seed):
        start, wrong = time.process_time(), ""
        try:
            known[name].read(data)
            found.answers["read"] += 1
        except BotinError as exc:
            found.answers["refused in words"] += 1
            wrong = "" if exc.message.strip() else "refused without words"
        except Exception as exc:  # noqa: BLE001  (whatever it is, it is a defect)
            found.answers["crashed"] += 1
            place = traceback.extract_tb(exc.__traceback__)[-1]
            wrong = f"{type(exc).__name__}: {str(exc)[:80]!r} at {Path(place.filename).name}:{place.lineno}"
        took = time.process_time() - start
        found.slowest = max(found.slowest, (took, f"{name} #{number}"))
        if took > MOST_SECONDS:
            wrong = wrong or f"took {took:.1f} s"
        if wrong:
            found.wrong.append(f"{name} #{number}: {wrong}")
            if keep is not None:
                keep.mkdir(parents=True, exist_ok=True)
                (keep / f"{name.replace(' ', '-').replace(':', '')}-{seed}-{number}").write_bytes(data)
    return found
