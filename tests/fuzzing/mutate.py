"""Spoil a good input: bytes, words, numbers, whole rows, and the files inside a zip."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable

import numpy as np

WORDS = (
    "", " ", "0", "-1", "1", "²", "½", "٣", "1e309", "-0", "NaN", "inf", "1.250,50", "1,250.50", "12.-", "€ 19", "99999999999999999999",
    "9223372036854775808", "-9223372036854775809", "0001-01-01", "9999-12-31", "2026-13-45", "31.02.2026", "1:0", "0:1", "1:1e9", "1/0",
    "30/7", "13/25", "#'d to 25", "=1+1", "@x", "+1", "\t", "\r\n", "\n", "\x00", "\x0b", "\u200b", "\u202e", "\ufeff", "\U0001f600", "é\u0301",
    "'", '"', '""', ";", ",", "|", "//", "..", "../../x", "C:\\x", "<b>", "{{7*7}}", "%s", "%00", "' OR 1=1 --", "null", "true", "[]", "{}",
    "[" * 3000, '{"a":' * 1500, "x" * 3000, "9" * 3000, "a " * 1500, "1-" * 1500, ";" * 3000, "(" * 2000, "1 in " * 500, "/25" * 700,
)  # fmt: skip
"""Words that programs trip over; some are long, since what is quadratic shows itself only then."""

Rng = np.random.Generator
Mutation = Callable[[bytes, Rng], bytes]


def _at(data: bytes, rng: Rng) -> int:
    return int(rng.integers(0, len(data) + 1))


def flip(data: bytes, rng: Rng) -> bytes:
    if not data:
        return b"\xff"
    spoiled = bytearray(data)
    for _ in range(int(rng.integers(1, 6))):
        spoiled[int(rng.integers(0, len(spoiled)))] = int(rng.integers(0, 256))
    return bytes(spoiled)


def cut(data: bytes, rng: Rng) -> bytes:
    return data[: _at(data, rng)]


def drop(data: bytes, rng: Rng) -> bytes:
    start = _at(data, rng)
    return data[:start] + data[start + int(rng.integers(1, 200)) :]


def twice(data: bytes, rng: Rng) -> bytes:
    start = _at(data, rng)
    piece = data[start : start + int(rng.integers(1, 400))]
    return data[:start] + piece * int(rng.integers(2, 9)) + data[start:]


def word(data: bytes, rng: Rng) -> bytes:
    start = _at(data, rng)
    return data[:start] + str(rng.choice(WORDS)).encode("utf-8", "surrogatepass") + data[start:]


def cell(data: bytes, rng: Rng) -> bytes:
    """Put a word in place of a cell, whatever parts the cells."""
    for mark in (b",", b";", b"\t", b" ", b'"'):
        parts = data.split(mark)
        if len(parts) > 3:
            parts[int(rng.integers(0, len(parts)))] = str(rng.choice(WORDS)).encode("utf-8", "surrogatepass")
            return mark.join(parts)
    return word(data, rng)


def lines(data: bytes, rng: Rng) -> bytes:
    rows = data.split(b"\n")
    rng.shuffle(rows)
    return b"\n".join(rows)


def recode(data: bytes, rng: Rng) -> bytes:
    text = data.decode("utf-8", "replace")
    return text.encode(str(rng.choice(["utf-16", "cp1252", "utf-8-sig", "cp437", "shift_jis"])), "replace")


PLAIN: tuple[Mutation, ...] = (flip, cut, drop, twice, word, cell, cell, word, lines, recode)


def spoil(data: bytes, rng: Rng) -> bytes:
    """Spoil an input in one to three ways; the files of a zip from within or as they lie."""
    for _ in range(int(rng.integers(1, 4))):
        if data[:4] == b"PK\x03\x04" and rng.random() < 0.7:
            data = _inside_zip(data, rng)
        else:
            data = PLAIN[int(rng.integers(0, len(PLAIN)))](data, rng)
    return data


def _inside_zip(data: bytes, rng: Rng) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            members = {info.filename: archive.read(info) for info in archive.infolist()}
    except (zipfile.BadZipFile, OSError, ValueError, RuntimeError, NotImplementedError, EOFError):
        return flip(data, rng)
    except Exception as exc:
        if type(exc).__name__ != "error":  # zlib.error
            raise
        return flip(data, rng)
    if not members:
        return data
    name = str(rng.choice(sorted(members)))
    if rng.random() < 0.1:
        members[str(rng.choice(("../x.csv", "/x.csv", "a\\b.csv", name.upper(), "datapackage.json")))] = members[name]
    elif rng.random() < 0.1:
        del members[name]
    else:
        members[name] = PLAIN[int(rng.integers(0, len(PLAIN)))](members[name], rng)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for each, content in members.items():
            archive.writestr(each, content)
    return out.getvalue()
