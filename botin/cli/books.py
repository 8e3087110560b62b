"""The books of a home, out as text."""

from __future__ import annotations

import json
import sys
from datetime import datetime
from pathlib import Path

import click

from botin.cli import cli
from botin.cli.library import HOME, opened


@cli.command("journal")
@click.option("--to", "target", type=click.Path(path_type=Path, dir_okay=False), help="A file; else standard output.")
@HOME
def journal_command(target: Path | None, home: Path | None) -> None:
    """Write the books as a plain-text double-entry journal, in the syntax that the library beancount reads."""
    from botin.desk.books.journal import journal_lines  # noqa: PLC0415  (scripts need no store)
    from botin.store.engine import sessions  # noqa: PLC0415

    with sessions(opened(home))() as session:
        if target is None:
            sys.stdout.writelines(journal_lines(session))
        else:
            with target.open("w", encoding="utf-8") as file:
                file.writelines(journal_lines(session))


@cli.command("fees")
@click.option("--on", "day", type=click.DateTime(["%Y-%m-%d"]), help="In force on this day; today if none is given.")
@HOME
def fees_command(day: datetime | None, home: Path | None) -> None:
    """Write the fees of a home as fees.json, which the commands read."""
    from botin.desk.fees import fees_document  # noqa: PLC0415
    from botin.store.engine import sessions  # noqa: PLC0415

    with sessions(opened(home))() as session:
        found = fees_document(session, day.date() if day else datetime.now().astimezone().date())
    click.echo(json.dumps(found, indent=1, ensure_ascii=False))
