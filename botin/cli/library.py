"""Products in and out of the store."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from botin.cli import cli
from botin.cli.reading import gather, text_options
from botin.home import DATABASE, home_folder, utc_now

if TYPE_CHECKING:
    from sqlalchemy import Engine

HOME = click.option(
    "--home", type=click.Path(path_type=Path, file_okay=False), help="Data directory instead of BOTIN_HOME."
)


def opened(home: Path | None) -> Engine:
    """Open the store of a data directory, brought up to date."""
    from botin.store.engine import open_engine  # noqa: PLC0415  (scripts need no store)
    from botin.store.keeping.upgrade import migrate  # noqa: PLC0415

    engine = open_engine(home_folder(home) / DATABASE)
    migrate(engine)
    return engine


@cli.command("import")
@click.argument("files", nargs=-1, type=click.Path(path_type=Path))
@text_options
@click.option("--name", default="", help="Name of the product, where the files do not say it.")
@click.option(
    "--accept-guesses", is_flag=True, help="Store it also where lines were guessed, and leave out what is unread."
)
@HOME
def import_command(
    files: tuple[Path, ...],
    name: str,
    home: Path | None,
    *,
    checklist: Path | None,
    odds: Path | None,
    formats: Path | None,
    accept_guesses: bool,
) -> None:
    """Store a product, all or nothing: a package (folder or .zip), a workbook, CSV files, texts.

    What is guessed or not understood is not stored unless you say --accept-guesses. The export of a whole home
    (botin export --all) goes into an empty home.
    """
    from botin.desk.catalog.library import import_given  # noqa: PLC0415
    from botin.desk.keeping.wholehome import is_whole, take_in_everything  # noqa: PLC0415
    from botin.desk.workbench import Workbench  # noqa: PLC0415
    from botin.store.engine import sessions  # noqa: PLC0415

    if len(files) == 1 and is_whole(files[0]):
        rows = take_in_everything(home_folder(home), files[0], files[0].name, utc_now(), live=False)
        click.echo(f"Took in a whole home: {rows:,} rows.", err=True)
        return
    engine = opened(home)
    with sessions(engine)() as session:
        given = gather(files, {"checklist": checklist, "odds": odds, "formats": formats})
        bench = Workbench(sessions(engine), utc_now)
        stored = import_given(session, bench, given, name, guesses=accept_guesses, leave_out=accept_guesses)
    for note in stored.notes:
        click.echo(note, err=True)
    click.echo(f"Stored {stored.record.name}.", err=True)


@cli.command("export")
@click.argument("product", required=False)
@click.option("--all", "everything", is_flag=True, help="Everything this home holds, photos too, as one .zip.")
@click.option("--to", "target", required=True, type=click.Path(path_type=Path), help="A folder, a .zip or an .xlsx.")
@HOME
def export_command(product: str | None, everything: bool, target: Path, home: Path | None) -> None:
    """Write a product as a package that Botin can import again; or, with --all, everything there is."""
    if everything == (product is not None):
        message = "Name a product, or say --all for everything."
        raise click.UsageError(message)
    if product is None:
        _export_everything(target, home)
        return
    from botin.desk.catalog.library import export_product  # noqa: PLC0415
    from botin.store.engine import sessions  # noqa: PLC0415

    with sessions(opened(home))() as session:
        export_product(session, product, target)
    click.echo(f"Wrote {target}.", err=True)


def _export_everything(target: Path, home: Path | None) -> None:
    """Write the whole home beside the target first: what stands there is replaced by a whole file or not at all."""
    from botin.desk.keeping.wholehome import write_everything  # noqa: PLC0415

    opened(home).dispose()
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_name(target.name + ".part")
    try:
        with part.open("wb") as file:
            written = write_everything(home_folder(home), file, utc_now())
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
    click.echo(f"Wrote {target}: {written.words()}", err=True)
