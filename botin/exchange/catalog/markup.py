"""Lines of pages and wikis: their tags, row marks and emphasis taken off, their cells parted by tabs."""

from __future__ import annotations

import html
import re

_BETWEEN = re.compile(r"</t[dh]>\s*<t[dh]\b[^>]*>", re.IGNORECASE)
"""The end of one cell and the beginning of the next."""
_MARKUP = re.compile(
    r"\[/?(?:b|i|u|s|h\d|size|color|list|quote)(?:=[^\]]*)?\]|</?[a-z]\w*(?:\s[^<>]*)?>"
    r"|(?<!\S)\*(?=\w+\*(?!\S))|(?<=\w)\*(?!\S)"
)
"""Tags of pages and forums, and stars around a word."""
_EMPHASIS = re.compile(r"(?<!\S)(\*\*|__|_|`)(?=\S)([^*_`]+?)(?<=\S)\1(?![\w*_`])")
"""A part of a line in Markdown's bold, slanted or code letters; a line that is bold as a whole is a heading."""
_ROW = re.compile(r"\|.*\|")
"""A row of a table in Markdown; ``_PARTED`` is the line between its headings and its rows."""
_PARTED = re.compile(r"\|?\s*:?-{2,}:?\s*(?:\|\s*:?-{2,}:?\s*)+\|?")
_STROKES = re.compile(r"[-=_~–—]{3,}")
"""A line of strokes may make a heading of the one above it."""
_WIKI = re.compile(r"\{\|.*|\|\}|\|-+.*|\|\+.*|</?(?:table|tbody|thead|tr|ul|ol|div)\b[^>]*>", re.IGNORECASE)
"""Lines that hold a table together and say nothing."""
_WIKI_ROW = re.compile(r"[|!]\s*(?P<cells>[^|!\s].*(?:\|\||!!).*)")


def says_nothing(text: str) -> bool:
    """Whether a line only holds others together: the rule below headings, the beginning of a row, signs alone."""
    bare = text.strip()
    if not any(map(str.isalnum, bare)) and not _STROKES.fullmatch(bare):
        return True
    return _PARTED.fullmatch(bare) is not None or _WIKI.fullmatch(bare) is not None


def plainly(text: str) -> str:
    """Return a line without markup inside it."""
    if "<" in text or "&" in text:
        text = html.unescape(_BETWEEN.sub("\t", text))
    bare = _MARKUP.sub("", text)
    row = _WIKI_ROW.fullmatch(bare.strip()) if bare.lstrip()[:1] in ("|", "!") else None
    if row:
        return re.sub(r"\s*(?:\|\||!!)\s*", "\t", row["cells"])
    if _ROW.fullmatch(bare.strip()):
        bare = bare.strip().strip("|").strip()
    whole = _EMPHASIS.fullmatch(bare.strip().rstrip(":"))
    return bare if whole else _EMPHASIS.sub(r"\2", bare)
