"""Which revisions of the tables this program knows."""

from __future__ import annotations

from pathlib import Path

MIGRATIONS = Path(__file__).parents[1] / "migrations"
REVISIONS = tuple(sorted(path.name.partition("_")[0] for path in (MIGRATIONS / "versions").glob("[0-9]*.py")))
NEWEST = REVISIONS[-1]
