"""A scan or photo as points: turned by its own note, in 8 bits, with its dots an inch; or refused in words."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from botin.core.errors import UnreadableFileError

MAX_BYTES = 60 * 1024 * 1024
MAX_PIXELS = 60_000_000
"""A letter page at 600 dots an inch has 34 million; a file of few bytes may unpack to gigabytes."""
SMALLEST = 40
FORMATS = ("JPEG", "PNG", "WEBP", "TIFF", "BMP")
LEAST_DPI, MOST_DPI = 100, 2400
"""Dots an inch that a scanner says; 72 and 96 are what programs write that do not know."""


@dataclass(frozen=True, slots=True)
class Pixels:
    """A picture.

    Attributes
    ----------
    rgb : height × width × 3
        8 bits, upright.
    dpi : float or None
        Dots an inch, where the file says them like a scanner.
    notes : tuple of str
        What was passed over.
    """

    rgb: NDArray[np.uint8]
    dpi: float | None
    notes: tuple[str, ...] = ()


def read_pixels(data: bytes) -> Pixels:
    """Read a picture.

    Raises
    ------
    UnreadableFileError
        When it is no picture, damaged, too small or too large.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError  # noqa: PLC0415  (slow to import)

    if not data:
        message = "The file is empty. Choose a scan or a photo."
        raise UnreadableFileError(message)
    if len(data) > MAX_BYTES:
        message = f"The picture has more than {MAX_BYTES // 1024 // 1024} MB. Save it smaller."
        raise UnreadableFileError(message)
    formats = (*FORMATS, *_heic())
    warnings.simplefilter("ignore", Image.DecompressionBombWarning)  # such sizes are refused below, in words
    try:
        with Image.open(io.BytesIO(data), formats=formats) as picture:
            _refuse_size(picture.width, picture.height)
            several = getattr(picture, "n_frames", 1) > 1
            dpi = _dpi(picture.info.get("dpi"))
            if picture.format == "JPEG":
                picture.draft(None, None)
            picture.load()
            ImageOps.exif_transpose(picture, in_place=True)
            rgb = _eight_bits(picture)
    except Image.DecompressionBombError as exc:
        raise UnreadableFileError(_too_large("far")) from exc
    except UnidentifiedImageError as exc:
        message = "This is no picture Botin reads. Give a JPEG, PNG, WebP or TIFF."
        raise UnreadableFileError(message) from exc
    except (OSError, ValueError, SyntaxError, EOFError, OverflowError, IndexError, MemoryError) as exc:
        message = "The picture is damaged: its end is missing, or a part of it is wrong. Save or scan it again."
        raise UnreadableFileError(message) from exc
    return Pixels(rgb, dpi, ("the file holds several pictures: the first was taken",) if several else ())


def _heic() -> tuple[str, ...]:
    """Photos as newer phones write them, where a library for them is installed."""
    try:
        import pillow_heif  # type: ignore[import-not-found]  # noqa: PLC0415  (optional)
    except ImportError:
        return ()
    pillow_heif.register_heif_opener()
    return ("HEIF",)


def _refuse_size(width: int, height: int) -> None:
    if width * height > MAX_PIXELS:
        raise UnreadableFileError(_too_large(f"{width:,} × {height:,} points,"))
    if min(width, height) < SMALLEST:
        message = f"The picture has {width} × {height} points: too few for a card. Scan at 300 dots an inch."
        raise UnreadableFileError(message)


def _too_large(how: str) -> str:
    return f"The picture has {how} more than {MAX_PIXELS // 1_000_000} million points. Scan at 300 dots an inch."


def _dpi(said: object) -> float | None:
    """Return the dots an inch of a scanner; both ways must agree."""
    if not isinstance(said, tuple) or len(said) != 2:
        return None
    try:
        across, down = float(said[0]), float(said[1])
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    alike = LEAST_DPI <= across <= MOST_DPI and abs(across - down) < 0.02 * across
    return across if alike else None


def _eight_bits(picture: object) -> NDArray[np.uint8]:
    """Return the points in RGB of 8 bits; what shows through is white."""
    from PIL import Image  # noqa: PLC0415  (slow to import)

    assert isinstance(picture, Image.Image)  # noqa: S101  (for the type alone)
    if picture.mode.startswith("I") or picture.mode == "F":
        deep = np.asarray(picture, np.float64)
        top = 65535.0 if deep.max() > 255 else 255.0
        grey = np.clip(deep / top * 255, 0, 255).astype(np.uint8)
        return np.repeat(grey[:, :, None], 3, axis=2)
    if "A" in picture.getbands() or "transparency" in picture.info:
        clear = picture.convert("RGBA")
        white = Image.new("RGBA", clear.size, (255, 255, 255, 255))
        white.alpha_composite(clear)
        picture = white
    return np.array(picture if picture.mode == "RGB" else picture.convert("RGB"), np.uint8)
