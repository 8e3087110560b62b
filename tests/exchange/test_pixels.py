"""Pictures in: what a scanner, a phone or someone hostile gives."""

from __future__ import annotations

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image, ImageDraw

from botin.core.errors import UnreadableFileError
from botin.core.looking.measure import measure_picture
from botin.exchange.looking.pixels import read_pixels


def file_of(picture: Image.Image, kind: str = "PNG", **more: object) -> bytes:
    out = io.BytesIO()
    picture.save(out, kind, **more)
    return out.getvalue()


def png_header(width: int, height: int) -> bytes:
    """A PNG of few bytes that says it is as large as this."""
    body = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    chunks = [(b"IHDR", body), (b"IDAT", zlib.compress(b"\0" * 1000)), (b"IEND", b"")]
    packed = (struct.pack(">I", len(d)) + k + d + struct.pack(">I", zlib.crc32(k + d)) for k, d in chunks)
    return b"\x89PNG\r\n\x1a\n" + b"".join(packed)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "is empty"),
        (b"12 Orla Thorsby - Tarn", "no picture Botin reads"),
        (file_of(Image.new("RGB", (1, 1))), "1 × 1 points"),
        (file_of(Image.new("RGB", (900, 900), "red"), "JPEG")[:-400], "damaged"),
        (png_header(20_000, 20_000), "more than 60 million points"),
        (png_header(10_000, 9_000), "10,000 × 9,000 points, more than 60 million"),
        (png_header(60_000, 60_000), "more than 60 million points"),
        (file_of(Image.new("P", (90, 90)), "GIF"), "no picture Botin reads"),
    ],
)
def test_what_is_no_picture_is_refused_in_words(data: bytes, words: str) -> None:
    with pytest.raises(UnreadableFileError, match=words):
        read_pixels(data)


def test_a_picture_twenty_thousand_points_wide_is_read() -> None:
    found = read_pixels(file_of(Image.new("RGB", (20_000, 300), "grey")))
    assert found.rgb.shape == (300, 20_000, 3)
    assert measure_picture(found.rgb) == []


def test_sixteen_bits_become_eight() -> None:
    deep = np.linspace(0, 65535, 100 * 100).reshape(100, 100).astype(np.uint16)
    found = read_pixels(file_of(Image.fromarray(deep)))
    assert found.rgb.dtype == np.uint8
    assert found.rgb[0, 0].tolist() == [0, 0, 0]
    assert found.rgb[-1, -1].tolist() == [255, 255, 255]


def test_of_several_pictures_the_first_is_taken_and_said() -> None:
    frames = [Image.new("RGB", (90, 90), colour) for colour in ("red", "blue")]
    found = read_pixels(file_of(frames[0], "WEBP", save_all=True, append_images=frames[1:], lossless=True))
    assert found.rgb[5, 5].tolist() == [255, 0, 0]
    assert found.notes == ("the file holds several pictures: the first was taken",)


def test_a_phone_s_note_which_side_is_up_is_followed() -> None:
    picture = Image.new("RGB", (120, 80), "white")
    picture.putpixel((0, 0), (255, 0, 0))
    note = Image.Exif()
    note[0x0112] = 6  # Exif 2.32, 4.6.4: to be turned a quarter clockwise
    found = read_pixels(file_of(picture, exif=note))
    assert found.rgb.shape[:2] == (120, 80)
    assert found.rgb[0, -1].tolist() == [255, 0, 0]


@pytest.mark.parametrize(("said", "read"), [((300, 300), 300.0), ((72, 72), None), ((300, 600), None), (None, None)])
def test_only_a_scanner_s_dots_an_inch_are_taken(said: tuple[int, int] | None, read: float | None) -> None:
    more = {"dpi": said} if said else {}
    found = read_pixels(file_of(Image.new("RGB", (90, 90)), "JPEG", **more))
    assert found.dpi == (pytest.approx(read, rel=0.01) if read else None)


def test_what_shows_through_is_white_and_print_colours_are_read() -> None:
    clear = read_pixels(file_of(Image.new("RGBA", (90, 90), (255, 0, 0, 0))))
    assert clear.rgb[5, 5].tolist() == [255, 255, 255]
    print_ready = read_pixels(file_of(Image.new("CMYK", (90, 90), (0, 0, 0, 0)), "JPEG"))
    assert print_ready.rgb[5, 5].min() > 240


def test_a_page_of_text_holds_no_card() -> None:
    page = Image.new("RGB", (1700, 2200), "white")
    pen = ImageDraw.Draw(page)
    for row in range(60):
        pen.text((120, 100 + 32 * row), "12 Orla Thorsby, Tarn. " * 9, fill="black")
    found = measure_picture(read_pixels(file_of(page)).rgb, 200)
    assert all(card.borders is None for card in found)
