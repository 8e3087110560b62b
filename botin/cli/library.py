"""Products in and out of the store."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from botin.cli import cli
from botin.home import DATABASE, home_folder, utc_now

if TYPE_CHECKING:
    from sqlalchemy import Engine

HOME = click.option(
    "--home", type=click.Path(path_type=Path, file_okay=False), help="Data directory instead of BOTIN_HOME."
)


def opened(home: Path | None) -> Engine:
    """Open the store of a data directory, brought up to date."""
    from botin.store.engine import open_engine  # noqa: PLC0415  (scripts need no store)
    from botin.store.upgrade import migrate  # noqa: PLC0415

    engine = open_engine(home_folder(home) / DATABASE)
    migrate(engine)
    return engine


@cli.command("import")
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--name", default="", help="Name of the product, where the files do not say it.")
@HOME
def import_command(files: tuple[Path, ...], name: str, home: Path | None) -> None:
    """Store a product, all or nothing: a package (folder or .zip), a workbook, or CSV files."""
    from botin.desk.library import import_files  # noqa: PLC0415
    from botin.desk.workbench import Workbench  # noqa: PLC0415
    from botin.store.engine import sessions  # noqa: PLC0415

    engine = opened(home)
    with sessions(engine)() as session:
        stored = import_files(session, Workbench(sessions(engine), utc_now), files, name)
    for note in stored.notes:
        click.echo(note, err=True)
    click.echo(f"Stored {stored.record.name}.", err=True)


@cli.command("export")
@click.argument("product")
@click.option("--to", "target", required=True, type=click.Path(path_type=Path), help="A folder, a .zip or an .xlsx.")
@HOME
def export_command(product: str, target: Path, home: Path | None) -> None:
    """Write a product as a package that Botin can import again."""
    from botin.desk.library import export_product  # noqa: PLC0415
    from botin.store.engine import sessions  # noqa: PLC0415

    with sessions(opened(home))() as session:
        export_product(session, product, target)
    click.echo(f"Wrote {target}.", err=True)
