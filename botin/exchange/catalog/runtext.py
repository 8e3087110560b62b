"""How many copies there are, in the words people use: ``/25``, ``#'d to 25``, ``limited to 25``, ``25 copies``."""

from __future__ import annotations

import re

_TO = (
    r"#\s?'?\s?d\.?(?:\s*(?:to|at|/))?|(?:serial(?:ly)?[- ])?number(?:ed)?\s*(?:to|at|/|out of|of)"
    r"|limited\s*(?:to|edition of)"
    r"|print(?:ed)?[- ]?run(?:\s*(?:of|is|:))?|run\s*(?:of|:)|edition\s*of|numbered|limitiert\s*(?:auf)?|auflage:?"
    r"|nummeriert\s*(?:auf)?|tirage(?:\s*(?:de|à|:))?|num[ée]rot[ée]e?s?\s*(?:à|/|sur)|tirada(?:\s*(?:de|:))?"
    r"|numera[dt][aoei]s?\s*a|numrera(?:d|de|t)\s*till|oplage:?|genummerd\s*(?:tot|op)?|x\s?(?=\d)"
)
_SOLE = r"pi[èe]ce unique|einzelst[üu]ck|unikat|pieza [úu]nica|pezzo unico|uniek exemplaar|uniek|exemplar [úu]nico"
_COUNT = r"\d{1,3}(?:,\d{3})+|\d{1,6}"
RUN_END = re.compile(
    rf"(?<![\s(,\[–—-])[\s(,\[–—-]*(?:(?:{_TO})\s*#?\s?/?\s?(?P<to>{_COUNT})|#?\s?(?:\d{{1,6}}\s?)?/\s*(?P<run>{_COUNT})"
    rf"|(?:(?:limited|numbered)\s*(?:to|at|edition of|,)\s*)?(?P<copies>{_COUNT})"
    r"\s*(?:cop(?:y|ies)|made|produced|ex\.?|exemplare|stück|exemplaires|ejemplares|stuks)(?:\s+(?:each|only))?"
    rf"|(?P<one>one[- ]of[- ]one|1[- ]of[- ]1|1 of 1|{_SOLE}))[)\].]*\s*$",
    re.IGNORECASE,
)
"""A run at the end of a text that has something before it."""
_WHOLE = re.compile(
    rf"(?:{_TO})?\s*#?\s*(?:(?:\d{{1,6}}\s?)?/\s?)?(?P<run>{_COUNT})(?:\.0)?\s*(?:copies|made|pcs)?", re.IGNORECASE
)
RUN_ALONE = re.compile(
    rf"(?:(?:all|each|every)\s+(?:cards?|copies)\s+(?:are\s+|is\s+)?)?(?:(?:{_TO})\s*#?/?\s*(?P<to>{_COUNT})"
    rf"|#?\s?(?:\d{{1,6}}\s?)?/\s*(?P<run>{_COUNT})"
    rf"|(?P<copies>{_COUNT})\s*(?:copies|made)(?:\s+(?:each|of each))?"
    rf"|(?P<one>one[- ]of[- ]one|{_SOLE}))[.:]?",
    re.IGNORECASE,
)
"""A line that states nothing but a run."""
_FROM_ONE = re.compile(r"0{0,4}1\s?(?:-|–|to)\s?0{0,3}([1-9]\d{0,4})")
"""The serials of a run, from the first to the last: ``1-99``."""
_ONE_OF_RUN = re.compile(r"#?\d{1,5}\s+(?:of|von|de|sur|di|van|af|av|z|ze)\s+([1-9]\d{0,5})")
"""A copy and its run: ``1 von 250``."""
_POOLED = re.compile(r"/?\s?\d+(?:\s?\+\s?\d+)+")
UNNUMBERED = frozenset((
    "", "-", "–", "—", "unnumbered", "n/a", "na", "none", "no", "∞", "x", "✓", "yes", "unlimited",
    "not numbered", "unnummeriert", "onbeperkt", "unbegrenzt", "unlimitiert", "illimité", "illimitée",
    "ilimitada", "ilimitado", "illimitata", "obegränsad", "non numérotée", "open", "?", "tbd", "unlim.",
))  # fmt: skip


USUAL_RUNS = frozenset(
    (
     "1", "2", "3", "4", "5", "7", "8", "9", "10", "12", "15", "18", "20", "22", "24", "25", "29", "30", "35",
     "40", "49", "50", "60", "65", "70", "75", "79", "80", "85", "88", "89", "90", "99", "100", "110", "115",
     "120", "125", "129", "130", "135", "140", "145", "149", "150", "160", "165", "170", "175", "180", "185",
     "189", "190", "195", "199", "200", "210", "220", "225", "230", "240", "249", "250", "275", "280", "299",
     "300", "325", "350", "375", "399", "400", "450", "499", "500", "550", "599", "600", "650", "699", "700",
     "750", "775", "799", "800", "850", "899", "900", "950", "999", "1000", "1250", "1499", "1500", "1999",
     "2000", "2500",
    )
)  # fmt: skip
"""Runs as makers choose them; common practice, no source."""
_NO_RUN = re.compile(r"(?:\s/(?!\s)\S*|/\s*-?\d\S*)\s*$")


def take_run(text: str) -> tuple[str, str]:
    """Return a text without the run at its end, and the run; it stays whole when nothing else is in it."""
    found = RUN_END.search(text)
    if not found or not text[: found.start()].strip():
        return text, ""
    return text[: found.start()].strip(), run_in(found)


def no_run(label: str) -> str:
    """Return what stands like a run at the end of a finish and is none, empty when nothing does."""
    found = _NO_RUN.search(label)
    return found[0].strip() if found else ""


def run_in(found: re.Match[str]) -> str:
    """Return the run that `RUN_END` found."""
    stated = found["to"] or found["run"] or found["copies"]
    return stated.replace(",", "") if stated else "1"


def run_of(text: str) -> str | None:
    """Return the run a cell states, empty for unnumbered; None when it is neither."""
    bare = text.strip().casefold()
    if bare in UNNUMBERED:
        return ""
    if bare in ("one of one", "one-of-one", "1 of 1", "1-of-1", "ssp 1/1"):
        return "1"
    serial = _ONE_OF_RUN.fullmatch(bare)
    if serial:
        return serial[1]
    from_one = _FROM_ONE.fullmatch(bare)
    if from_one:
        return from_one[1]
    if _POOLED.fullmatch(bare):
        return bare.lstrip("/ ").replace(" ", "")
    found = _WHOLE.fullmatch(bare)
    return found["run"].replace(",", "") if found and int(found["run"].replace(",", "")) > 0 else None
