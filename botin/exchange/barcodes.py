"""Barcodes (Code 128, ISO/IEC 15417) as drawings for labels and packing lists."""

from __future__ import annotations

import re
from functools import lru_cache

from barcode.codex import Code128

QUIET = 10
"""Modules of white before and behind: less than ten, and a reader may miss it (ISO/IEC 15417)."""
KEPT = 512


@lru_cache(maxsize=KEPT)
def code128(text: str) -> str:
    """Return the modules of a text as ``1`` (bar) and ``0``.

    Raises
    ------
    ValueError
        When it holds what Code 128 cannot.
    """
    if not re.fullmatch(r"[ -~]{1,40}", text):
        message = f"“{text}” cannot be a barcode: it takes 1 to 40 plain letters, digits and signs."
        raise ValueError(message)
    return str(Code128(text).build()[0])


def bars(text: str) -> tuple[int, list[tuple[int, int]]]:
    """Return the width of a barcode in modules, quiet zones included, and its bars as place and width."""
    modules = code128(text)
    found = [(match.start() + QUIET, match.end() - match.start()) for match in re.finditer("1+", modules)]
    return len(modules) + 2 * QUIET, found
