"""The log of a data directory: what failed, with the time, in a file that does not grow without end."""

from __future__ import annotations

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

NAME = "botin.log"
SIZE, KEPT = 1_000_000, 3


def write_log(home: Path) -> Path:
    """Write warnings and errors of the whole program into the data directory; return where."""
    path = home / NAME
    handler = RotatingFileHandler(path, maxBytes=SIZE, backupCount=KEPT, encoding="utf-8", delay=True)
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    handler.setLevel(logging.WARNING)
    logging.getLogger().addHandler(handler)
    return path
