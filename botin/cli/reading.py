"""``botin read``: what the page that adds a product would make of files and texts; no store is touched."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click

from botin.cli import cli
from botin.cli.scripts import JSON, scripted
from botin.core.errors import UnreadableFileError
from botin.exchange.catalog.interpret import About, interpret
from botin.exchange.catalog.readout import read_document
from botin.exchange.catalog.sheets import Sources, read_paths, read_texts

Command = TypeVar("Command", bound=Callable[..., Any])
TEXTS = {
    "checklist": "A text with the cards, as pasted into the page.",
    "odds": "A text with the odds and promises.",
    "formats": "A text that says how the product is boxed, a format a line.",
}


def text_options(command: Command) -> Command:
    """Give a command the three files of pasted text."""
    for name, about in reversed(TEXTS.items()):
        command = click.option(f"--{name}", type=click.Path(path_type=Path, dir_okay=False), help=about)(command)
    return command


def gather(files: tuple[Path, ...], texts: dict[str, Path | None]) -> Sources:
    """Open files and texts.

    Raises
    ------
    UnreadableFileError
        When there is none, or one cannot be opened.
    """
    if not files and not any(texts.values()):
        message = "There is nothing to read. Name a file, or a text with --checklist, --odds or --formats."
        raise UnreadableFileError(message)
    sources = read_paths(files)
    read_texts(sources, texts)
    return sources


@cli.command("read")
@click.argument("files", metavar="SOURCE…", nargs=-1, type=click.Path(path_type=Path))
@text_options
@click.option("--name", default="", help="Name of the product, where the sources do not say it.")
@JSON
@scripted
def read_command(
    files: tuple[Path, ...],
    name: str,
    *,
    checklist: Path | None,
    odds: Path | None,
    formats: Path | None,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Read a product from whatever it comes in, line by line, and store nothing."""
    sources = gather(files, {"checklist": checklist, "odds": odds, "formats": formats})
    return read_document(interpret(sources, About(name=name)))
