"""``botin measure`` and ``botin backs``: what scans and photos of cards say; no store is touched."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from botin.cli import cli
from botin.cli.scripts import JSON, scripted
from botin.core.errors import BotinError, UnreadableFileError
from botin.exchange.catalog.package import load
from botin.exchange.looking.pixels import read_pixels

if TYPE_CHECKING:
    from botin.exchange.looking.readbacks import BackReader

NO_CARD = "no card was found: it needs a bed of one colour about it, and 120 points across"


@cli.command("measure")
@click.argument("files", metavar="IMAGE…", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--dpi", type=click.FloatRange(50, 4800), help="Dots an inch, where the file does not say them.")
@JSON
@scripted
def measure_command(files: tuple[Path, ...], *, dpi: float | None, as_json: bool) -> dict[str, Any]:  # noqa: ARG001
    """Find the cards on scans and photos, measure their centering and their wear."""
    return {"images": [_measured(path, dpi) for path in files]}


def _measured(path: Path, dpi: float | None) -> dict[str, Any]:
    """Measure a picture; one that cannot be read says so, the others are measured."""
    from botin.core.looking.measure import measure_picture  # noqa: PLC0415  (slow to import)

    try:
        pixels = read_pixels(_bytes(path))
    except BotinError as exc:
        return {"file": str(path), "cards": [], "error": exc.message}
    cards = [card.document() for card in measure_picture(pixels.rgb, dpi or pixels.dpi)]
    made: dict[str, Any] = {"file": str(path), "cards": cards}
    if not cards:
        made["why"] = NO_CARD
    if pixels.notes:
        made["notes"] = list(pixels.notes)
    return made


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as exc:
        message = f"{path} cannot be opened. Name a scan or a photo."
        raise UnreadableFileError(message) from exc


@cli.command("backs")
@click.argument("files", metavar="IMAGE…", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--package", "package", required=True, type=click.Path(path_type=Path), help="The product they are of.")
@click.option("--dpi", type=click.FloatRange(50, 4800), help="Dots an inch, where the file does not say them.")
@JSON
@scripted
def backs_command(files: tuple[Path, ...], *, package: Path, dpi: float | None, as_json: bool) -> dict[str, Any]:  # noqa: ARG001
    """Read number and code off the backs of cards; what is not sure has candidates."""
    from botin.exchange.looking.readbacks import BackReader  # noqa: PLC0415  (slow to import)

    reader = BackReader(load(package).product)
    return {"images": [_backs(path, reader, dpi) for path in files]}


def _backs(path: Path, reader: BackReader, dpi: float | None) -> dict[str, Any]:
    try:
        pixels = read_pixels(_bytes(path))
    except BotinError as exc:
        return {"file": str(path), "cards": [], "error": exc.message}
    made: dict[str, Any] = {"file": str(path), "cards": [one.document() for one in reader.read(pixels, dpi)]}
    if not made["cards"]:
        made["why"] = NO_CARD
    return made
