"""Photos as they are taken in: known by their content, without the place, the device or anything else beside them."""

from __future__ import annotations

import hashlib
import io
import struct
import zlib
from collections.abc import Iterator
from dataclasses import dataclass

from botin.core.errors import ImportRefusedError

MAX_PHOTO = 12 * 1024 * 1024
MAX_PIXELS = 60_000_000
"""A picture of few bytes may unpack to gigabytes; no camera a collector holds takes more than this."""
_ORIENTATION = 0x0112
_KINDS = {"JPEG": ("image/jpeg", "jpg"), "PNG": ("image/png", "png"), "WEBP": ("image/webp", "webp")}

_SEVERAL = {"MPO": "JPEG"}
"""A JPEG with more pictures behind the first one, as phones write them; the first is the photo."""


@dataclass(frozen=True, slots=True)
class Photo:
    """A photo as it is kept.

    Attributes
    ----------
    name : str
        File name: the hash of its content, so that what is shown under a name never changes.
    """

    data: bytes
    mime: str
    name: str


def clean_photo(data: bytes) -> Photo:
    """Read a photo and take out everything but the picture, its colours and which side is up.

    What a camera or a phone writes beside a picture (place, time, device, owner, a thumbnail of what was cut off,
    a film, comments) tells strangers where the cards lie. The picture itself stays point for point.

    Raises
    ------
    ImportRefusedError
        When it is no whole JPEG, PNG or WebP, or too large.
    """
    from PIL import Image, UnidentifiedImageError  # noqa: PLC0415  (only who adds photos waits for it)

    if len(data) > MAX_PHOTO:
        raise ImportRefusedError(_words("this one is larger"))
    try:
        with Image.open(io.BytesIO(data), formats=tuple(_KINDS)) as picture:
            if picture.width * picture.height > MAX_PIXELS:
                raise ImportRefusedError(_words(f"this one has {picture.width} × {picture.height} points"))
            kind, up = _SEVERAL.get(str(picture.format), str(picture.format)), picture.getexif().get(_ORIENTATION, 1)
            picture.load()
        cleaned = _CLEAN[kind](data, _exif(up) if up in range(2, 9) else b"")
    except (UnidentifiedImageError, Image.DecompressionBombError) as exc:
        raise ImportRefusedError(_words("this file is something else")) from exc
    except (OSError, ValueError, SyntaxError, EOFError, OverflowError, IndexError, struct.error) as exc:
        raise ImportRefusedError(_words("this one is damaged")) from exc
    mime, suffix = _KINDS[kind]
    return Photo(cleaned, mime, f"{hashlib.sha256(cleaned).hexdigest()[:32]}.{suffix}")


def _words(why: str) -> str:
    most = MAX_PHOTO // 1024 // 1024
    what = f"A photo is a whole JPEG, PNG or WebP of at most {most} MB and 60 million points"
    return f"{what}; {why}. Save it again as one of them."


def _exif(up: int) -> bytes:
    """TIFF header with one entry: which side is up (Exif 2.32, 4.6.4)."""
    return b"MM\0*\0\0\0\x08" + struct.pack(">HHHIHHI", 1, _ORIENTATION, 3, 1, up, 0, 0)


_SOI, _EOI, _SOS, _APP0, _APP1, _APP2, _APP14, _APP15, _COM = 0xD8, 0xD9, 0xDA, 0xE0, 0xE1, 0xE2, 0xEE, 0xEF, 0xFE


def _jpeg(data: bytes, exif: bytes) -> bytes:
    """Keep the segments that the picture needs (ITU T.81, annex B): its tables, its scans, JFIF, colours."""
    kept, put = [b"\xff\xd8"], exif
    for marker, segment in _segments(data):
        if put and marker != _APP0:
            kept.append(struct.pack(">BBH", 0xFF, _APP1, len(put) + 8) + b"Exif\0\0" + put)
            put = b""
        body = segment[4:]
        beside = _APP0 <= marker <= _APP15 or marker == _COM
        colours = marker == _APP14 or (marker == _APP2 and body.startswith(b"ICC_PROFILE\0"))
        if not beside or colours or (marker == _APP0 and body.startswith(b"JFIF\0")):
            kept.append(segment)
    return b"".join(kept)


def _segments(data: bytes) -> Iterator[tuple[int, bytes]]:
    """Yield the segments after the start up to the end of the picture; a scan goes with its header."""
    at = 2
    while True:
        while data[at + 1] == 0xFF:
            at += 1  # markers may be filled up
        marker = data[at + 1]
        if data[at] != 0xFF:
            raise ValueError(at)
        if marker == _EOI:
            yield marker, data[at : at + 2]
            return
        end = at + 2 + struct.unpack_from(">H", data, at + 2)[0]
        if marker == _SOS:
            end = _scan_end(data, end)
        yield marker, data[at:end]
        at = end


def _scan_end(data: bytes, at: int) -> int:
    """Return where the coded picture ends: at a marker that is neither a stuffed byte nor a restart."""
    while True:
        at = data.index(b"\xff", at)
        after = data[at + 1]
        if after == 0xFF:
            at += 1
        elif after == 0 or 0xD0 <= after < _SOI:
            at += 2
        else:
            return at


_PNG_KEPT = (b"IHDR", b"PLTE", b"IDAT", b"IEND", b"tRNS", b"cHRM", b"gAMA", b"iCCP", b"sRGB", b"sBIT", b"pHYs")


def _png(data: bytes, exif: bytes) -> bytes:
    """Keep the chunks that the picture needs (PNG, third edition, 11)."""
    at, kept = 8, [data[:8]]
    while True:
        (size,), kind = struct.unpack_from(">I", data, at), data[at + 4 : at + 8]
        if kind == b"IDAT" and exif:
            kept.append(_chunk(b"eXIf", exif))
            exif = b""
        if kind in _PNG_KEPT:
            kept.append(data[at : at + 12 + size])
        if kind == b"IEND":
            return b"".join(kept)
        at += 12 + size


def _chunk(kind: bytes, data: bytes) -> bytes:

    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


_WEBP_KEPT = (b"VP8 ", b"VP8L", b"VP8X", b"ALPH", b"ICCP", b"ANIM", b"ANMF")
_EXIF_FLAG, _XMP_FLAG = 0x08, 0x04


def _webp(data: bytes, exif: bytes) -> bytes:
    """Keep the chunks that the picture needs (WebP container, RFC 9649)."""
    end, at, kept = min(len(data), 8 + struct.unpack_from("<I", data, 4)[0]), 12, b""
    while at + 8 <= end:
        kind, size = struct.unpack_from("<4sI", data, at)
        chunk = data[at : at + 8 + size + size % 2]
        if kind == b"VP8X":
            flags = chunk[8] & ~(_EXIF_FLAG | _XMP_FLAG) | (_EXIF_FLAG if exif else 0)
            chunk = chunk[:8] + bytes([flags]) + chunk[9:]
        if kind in _WEBP_KEPT:
            kept += chunk
        at += 8 + size + size % 2
    if exif and b"VP8X" in data[12:16]:
        kept += struct.pack("<4sI", b"EXIF", len(exif)) + exif + b"\0" * (len(exif) % 2)
    return struct.pack("<4sI4s", b"RIFF", len(kept) + 4, b"WEBP") + kept


_CLEAN = {"JPEG": _jpeg, "PNG": _png, "WEBP": _webp}
