"""The command line: the same services as the web."""

from __future__ import annotations

import click

from botin import __version__
from botin.core.errors import BotinError


class FailureException(click.ClickException):
    """An expected failure, with the exit code of its class."""

    def __init__(self, error: BotinError) -> None:
        super().__init__(error.message)
        self.exit_code = error.exit_code  # type: ignore[misc]  # each failure has its own


class Guarded(click.Group):
    """Answers an expected failure in one line on standard error: exit 1, or 2 when a file cannot be read."""

    def invoke(self, ctx: click.Context) -> object:
        """Run the command."""
        try:
            return super().invoke(ctx)
        except BotinError as exc:
            raise FailureException(exc) from exc


@click.group(cls=Guarded)
@click.version_option(__version__, prog_name="botin")
def cli() -> None:
    """Botin: log box openings of trading cards, and know what they cost and are worth."""
