"""Write the next migration from the difference between the models and the migrated tables."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from alembic import command
from alembic.config import Config

from botin.store.engine import open_engine
from botin.store.keeping.revisions import MIGRATIONS
from botin.store.keeping.upgrade import migrate


def main(rev: str, message: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        engine = open_engine(Path(folder) / "empty.db")
        migrate(engine)
        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with engine.connect() as connection:
            config.attributes["connection"] = connection
            command.revision(config, message, autogenerate=True, rev_id=rev)


if __name__ == "__main__":
    main(*sys.argv[1:])
