"""What kind of section a heading names."""

from __future__ import annotations

import re
from functools import lru_cache

from botin.core.catalog.product import Kind

_SIGNED = (
    r"auto(?:graph)?s?(?:ed)?|sign(?:ed|ature|atures|ings?)|ink(?:ed|s)?|penned|autographed|autogramm\w*|signiert\w*|"
    r"unterschrift\w*|autographes?|sign[ée]e?s?|dédicac\w*|aut[óo]graf[oa]s?|firmas?|firmad[oa]s?|firmat[aeio]|autograaf|handtekening\w*|"
    r"autograf\w*|autogram\w*|podpis\w*|nimikirjoitus"
)
_WORN = (
    r"relics?|mem|memorabilia|jerseys?|patch(?:es)?|swatch(?:es)?|worn|game[- ]used|race[- ](?:worn|used)|relikt\w*|"
    r"trikot\w*|reliques?|maillots?|reliquias?|camisetas?|relikwie\w*|reliquie|maglie|tröj\w*"
)
_WORDS: tuple[tuple[Kind, str], ...] = (
    (Kind.REDEMPTION, r"redemptions?|einlösekarten?"),
    (Kind.BUYBACK, r"buy[- ]?backs?"),
    (Kind.BOX_TOPPER, r"(?:box )?toppers?|box loaders?|posters?$|(?:mini|fold-?out) posters?"),
    (Kind.DECOY, r"decoys?|points? cards?|^points?$|^contest$|contest cards?"),
    (Kind.SHORT_PRINT, r"short[- ]?prints?|short[- ]?printed|ssps?|sps?|kurzdrucke?"),
    (Kind.VARIATION, r"variations?|variants?|variationen|variaciones|variaties|fotovarianten"),
    (
        Kind.BASE,
        (
            r"base|commons|common cards?|^common$|regular(?: set)?|main set|^main(?: cards| checklist)?$|veterans|"
            r"basis|basiskarten?|basissatz|basisset|grundkarten?|"
            r"stammkarten|"
            r"cartes de base|básic[oa]s?|basic[oa]s?|baskort|basiskaarten?|base set|kolekcja podstawowa|základní"
        ),
    ),
)


_SHORT_BEHIND = re.compile(r"\(\s*short\s*\)", re.IGNORECASE)


def _has(pattern: str, text: str) -> bool:
    return re.search(rf"\b(?:{pattern})\b", text, re.IGNORECASE) is not None


def named_kinds(text: str) -> tuple[Kind, ...]:
    """Return the kinds a text names; ``autographed relics`` is one kind, ``autograph or relic`` are two."""
    signed, worn = _has(_SIGNED, text), _has(_WORN, text)
    found: list[Kind] = []
    if signed and worn and not re.search(r"\b(?:or|and/or)\b|/", text, re.IGNORECASE):
        found.append(Kind.AUTOGRAPH_RELIC)
    else:
        found += [Kind.AUTOGRAPH] * signed + [Kind.RELIC] * worn
    found += [Kind.SHORT_PRINT] if _SHORT_BEHIND.search(text) else []
    found += [kind for kind, words in _WORDS if _has(words, text)]
    if _has(r"inserts?|einleger|insertions?|inserciones|inzetkaarten?", text):
        found.append(Kind.INSERT)
    return tuple(found)


@lru_cache(maxsize=4096)
def guess_kind(heading: str) -> tuple[Kind, bool]:
    """Return the likeliest kind of a section by its heading, and whether the heading names it."""
    found = named_kinds(heading)
    return (found[0], True) if found else (Kind.INSERT, False)


def is_only_kinds(text: str) -> bool:
    """Whether a text is nothing but names of kinds: ``autographs``, ``an autograph or relic card``."""
    rest = text
    for pattern in (_SIGNED, _WORN, r"inserts?|einleger", *(words for _, words in _WORDS)):
        rest = re.sub(rf"\b(?:{pattern})\b", " ", rest, flags=re.IGNORECASE)
    return (
        bool(named_kinds(text))
        and not re.sub(
            r"\b(?:or|and|an?|the|cards?|hits?|total|any|overall|all|oder|und|ou|et|karten?)\b|[^a-z]",
            " ",
            rest.lower(),
        ).strip()
    )


def is_short_word(text: str) -> bool:
    """Whether a text says short prints and nothing else."""
    return is_only_kinds(text) and named_kinds(text) == (Kind.SHORT_PRINT,)


@lru_cache(maxsize=4096)
def is_section_word(text: str) -> bool:
    """Whether a text names a kind and can be no club: “Base Set”, “Autographs”."""
    return is_only_kinds(text) or is_only_kinds(re.sub(r"\bsets?\b", "", text, flags=re.IGNORECASE))
