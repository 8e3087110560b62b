"""Backups: take one, put one back."""

from __future__ import annotations

from pathlib import Path

import click

from botin.cli import cli
from botin.cli.library import HOME
from botin.home import DATABASE, home_folder, utc_now
from botin.store.keeping.backup import FOLDER, backup_to, rolling_backup


@cli.command("backup")
@click.option("--to", "target", type=click.Path(path_type=Path), help="A file; else a dated one, ten kept.")
@HOME
def backup_command(target: Path | None, home: Path | None) -> None:
    """Copy the data file while it is in use, and check the copy."""
    folder = home_folder(home)
    source = folder / DATABASE
    if not source.exists():
        message = f"There is no data in {folder} yet."
        raise click.ClickException(message)
    made = backup_to(source, target) if target else rolling_backup(source, folder / FOLDER, utc_now())
    click.echo(f"Backup: {made}", err=True)


@cli.command("restore")
@click.argument("backup", type=click.Path(path_type=Path))
@HOME
def restore_command(backup: Path, home: Path | None) -> None:
    """Put a backup in place of the data file; it is checked first, and what was there is kept."""
    from botin.store.keeping.restoring import restore  # noqa: PLC0415  (brings the tables along)

    folder = home_folder(home)
    before = restore(backup, folder / DATABASE, utc_now())
    click.echo(f"Restored {backup}." + (f" What was there is kept as {before}." if before else ""), err=True)
