"""Text out of bytes, whatever wrote them."""

from __future__ import annotations

import codecs

_MARKS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))


def decode(data: bytes) -> str:
    """Decode as UTF-8 when it is that, else by its byte order mark, else by the likeliest code page."""
    for mark, name in _MARKS:
        if data.startswith(mark):
            return data.decode(name, errors="replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return _guess(data)


def _guess(data: bytes) -> str:
    """Windows-1252 first, the code page of office files, unless another one is clearly likelier."""
    from charset_normalizer import from_bytes  # noqa: PLC0415  (only needed for old files)

    best = from_bytes(data[:200_000], cp_isolation=["cp1252", "cp1250", "mac_roman", "utf_16"]).best()
    name = best.encoding if best is not None and best.encoding == "utf_16" else "cp1252"
    return data.decode(name, errors="replace")
