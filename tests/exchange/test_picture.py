"""Photos: what they are by content, nothing beside the picture, whole or refused.

The pictures are made with Pillow; that nothing is left beside them is looked for in the bytes themselves.
"""

from __future__ import annotations

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image, PngImagePlugin

from botin.core.errors import ImportRefusedError
from botin.exchange.keeping.picture import MAX_PHOTO, clean_photo

SECRETS = (
    b"Harbour Lane",
    b"SerialOfTheCamera",
    b"\x00\x02\x00\x05\x00\x00\x00\x03",
    b"GPS",
    b"xmpmeta",
    b"http://ns",
)


def card() -> Image.Image:
    """A picture with edges and a soft change, 90 × 60."""
    across, down = np.meshgrid(np.arange(90), np.arange(60))
    plain = np.stack([across * 2, down * 4, (across + down) % 32 * 6], axis=2).astype(np.uint8)
    plain[20:40, 30:60] = (250, 250, 245)
    return Image.fromarray(plain)


def with_place(kind: str, turned: int = 6) -> bytes:
    exif = Image.Exif()
    exif[0x0112] = turned
    exif[0x010F] = "SerialOfTheCamera"
    exif.get_ifd(0x8825).update({1: "N", 2: (51.0, 30.0, 26.0), 3: "W", 4: (0.0, 7.0, 39.0), 29: "2026:11:24"})
    xmp = b"<x:xmpmeta xmlns:x='adobe:ns:meta/'><place>Harbour Lane 4</place></x:xmpmeta>"
    out = io.BytesIO()
    if kind == "PNG":
        beside = PngImagePlugin.PngInfo()
        beside.add_text("Comment", "Harbour Lane 4")
        beside.add_itxt("XML:com.adobe.xmp", xmp.decode())
        card().save(out, kind, exif=exif, pnginfo=beside)
    elif kind == "JPEG":
        card().save(out, kind, exif=exif, quality=88, comment=b"Harbour Lane 4", xmp=xmp)
    else:
        card().save(out, kind, exif=exif, xmp=xmp, quality=90)
    return out.getvalue() + b"a film of Harbour Lane follows the picture"


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_nothing_but_the_picture_is_kept(kind: str) -> None:
    dirty = with_place(kind)
    assert sum(secret in dirty for secret in SECRETS) >= 3, "the test would find them"
    kept = clean_photo(dirty)
    assert [secret for secret in SECRETS if secret in kept.data] == []
    again = Image.open(io.BytesIO(kept.data))
    assert (again.format, kept.mime) == (kind, f"image/{kind.lower()}")
    assert dict(again.getexif()) == {0x0112: 6}, "which side is up stays"
    assert set(again.info) <= {
        "exif",
        "jfif",
        "jfif_version",
        "jfif_unit",
        "jfif_density",
        "loop",
        "background",
        "dpi",
    }
    before = np.asarray(Image.open(io.BytesIO(dirty)).convert("RGB"), float)
    assert np.array_equal(np.asarray(again.convert("RGB"), float), before), "point for point"
    assert clean_photo(dirty).name == kept.name
    assert clean_photo(kept.data) == kept


@pytest.mark.parametrize(
    "how", [{"progressive": True}, {"optimize": True, "subsampling": 0}, {"restart_marker_rows": 1}]
)
def test_other_ways_to_code_a_jpeg_stay_point_for_point(how: dict[str, int]) -> None:
    out = io.BytesIO()
    card().save(out, "JPEG", comment=b"Harbour Lane", icc_profile=b"colours" * 9, **how)
    kept = Image.open(io.BytesIO(clean_photo(out.getvalue()).data))
    assert np.array_equal(np.asarray(kept), np.asarray(Image.open(out)))
    assert kept.info["icc_profile"] == b"colours" * 9


def test_a_phone_s_picture_of_several_is_a_jpeg_with_the_first_of_them() -> None:
    """Many phones write a second picture (depth, a preview) behind the first one and call the whole a JPEG."""
    out = io.BytesIO()
    second = Image.new("RGB", (90, 60), (200, 0, 0))
    card().save(out, "MPO", save_all=True, append_images=[second])
    kept = clean_photo(out.getvalue())
    again = Image.open(io.BytesIO(kept.data))
    assert (kept.mime, again.format, getattr(again, "n_frames", 1)) == ("image/jpeg", "JPEG", 1)
    assert np.array_equal(np.asarray(again), np.asarray(Image.open(out)))


def test_a_photo_that_stands_upright_gets_no_notes_at_all() -> None:
    assert b"Exif" not in clean_photo(with_place("JPEG", turned=1)).data


def bomb() -> bytes:
    """A PNG of a few hundred bytes that says it has 900 million points."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", 30_000, 30_000, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(b"\0" * 30_001))
        + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("what", "words"),
    [
        (b"", "something else"),
        (b"<svg onload=alert(1)>", "something else"),
        (b"\xff\xd8\xff" + b"x" * 200, "something else"),
        (b"RIFF\x24\0\0\0WAVEfmt " + b"\0" * 100, "something else"),
        (b"GIF89a" + b"\0" * 100, "something else"),
        (with_place("JPEG")[:1500], "damaged"),
        (with_place("PNG")[:400], "damaged"),
        (bomb(), "points"),
        (b"\xff\xd8\xff" + b"\0" * MAX_PHOTO, "larger"),
    ],
)
def test_what_is_no_whole_photo_is_refused_in_words(what: bytes, words: str) -> None:
    with pytest.raises(ImportRefusedError, match=words):
        clean_photo(what)
