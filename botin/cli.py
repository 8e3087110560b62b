"""The command line: the same services as the web."""

from __future__ import annotations

from pathlib import Path

import click

from botin import __version__
from botin.core.errors import BotinError
from botin.desk.library import import_package
from botin.home import DATABASE, home_folder
from botin.store.engine import migrate, open_engine, sessions


class Guarded(click.Group):
    """Answers an expected failure in one line on standard error, exit 1."""

    def invoke(self, ctx: click.Context) -> object:
        """Run the command."""
        try:
            return super().invoke(ctx)
        except BotinError as exc:
            raise click.ClickException(exc.message) from exc


@click.group(cls=Guarded)
@click.version_option(__version__, prog_name="botin")
def cli() -> None:
    """Botin: log box openings of trading cards, and know what they cost and are worth."""


HOME = click.option(
    "--home", type=click.Path(path_type=Path, file_okay=False), help="Data directory instead of BOTIN_HOME."
)


@cli.command("import")
@click.argument("package", type=click.Path(path_type=Path, exists=True))
@HOME
def import_command(package: Path, home: Path | None) -> None:
    """Store a product package (folder, .zip or .xlsx), all or nothing."""
    engine = open_engine(home_folder(home) / DATABASE)
    migrate(engine)
    with sessions(engine)() as session:
        record = import_package(session, package)
        click.echo(f"Stored {record.name}.", err=True)
