"""The command line: the same services as the web."""

from __future__ import annotations

import click

from botin import __version__
from botin.core.errors import BotinError, UnreadableFileError


class UnreadableException(click.ClickException):
    """A file that cannot be read."""

    exit_code = UnreadableFileError.exit_code


def _failure(error: BotinError) -> click.ClickException:
    kind = UnreadableException if isinstance(error, UnreadableFileError) else click.ClickException
    return kind(error.message)


class Guarded(click.Group):
    """Answers an expected failure in one line on standard error: exit 1, or 2 when a file cannot be read."""

    def invoke(self, ctx: click.Context) -> object:
        """Run the command."""
        try:
            return super().invoke(ctx)
        except BotinError as exc:
            raise _failure(exc) from exc


@click.group(cls=Guarded)
@click.version_option(__version__, prog_name="botin")
def cli() -> None:
    """Botin: log box openings of trading cards, and know what they cost and are worth."""
