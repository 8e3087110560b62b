"""Photos and scans in the data directory: laid down under their content's name, read again."""

from __future__ import annotations

from botin.core.errors import ImportRefusedError, NotFoundError
from botin.desk.workbench import Workbench

FOLDER = "photos"


def lay_photo(bench: Workbench, name: str, data: bytes) -> None:
    """Lay a picture into the data directory; the same one again is there already.

    Raises
    ------
    ImportRefusedError
        When this Botin has no data directory.
    """
    if bench.home is None:
        message = "This Botin has no data directory for photos. Start it with: botin serve"
        raise ImportRefusedError(message)
    folder = bench.home / FOLDER
    folder.mkdir(exist_ok=True, mode=0o700)
    part = folder / f"{name}.part"
    part.write_bytes(data)
    part.chmod(0o600)
    part.replace(folder / name)


def laid_photo(bench: Workbench, name: str) -> bytes:
    """Return a picture that was laid down.

    Raises
    ------
    NotFoundError
        When it is not there.
    """
    path = bench.home / FOLDER / name if name and bench.home else None
    if path is None or not path.is_file():
        message = "That photo is not there."
        raise NotFoundError(message)
    return path.read_bytes()
