"""A line of text among its neighbours, and where in a text one is."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from botin.exchange.catalog.blocks import is_head
from botin.exchange.catalog.cardtext import CardLine, card_of, is_sentence, unbulleted
from botin.exchange.catalog.finishtext import parallels_in
from botin.exchange.catalog.headingtext import is_about_section
from botin.exchange.catalog.oddstext import FORMAT_WORDS, RATED_TAIL
from botin.exchange.catalog.runtext import RUN_ALONE, take_run
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Sheet, Status

BOXED = "how it is boxed"
ODDS, FORMATS = frozenset(("odds",)), frozenset(("formats", BOXED))
_NAMELESS_RATE = re.compile(
    r"^\W*(?:odds|ratio|inserted|seeded|found|pull rate)?\W*(?:1\s*:|1 in |one in )\s*\d", re.IGNORECASE
)
_COUNTED = re.compile(r"\(?\d{1,5}[- ](?:cards?|karten|cartes|cartas)\b", re.IGNORECASE)


@dataclass
class Reader:
    """Where one is in a text.

    Attributes
    ----------
    finishes : str
        Section whose finishes stand one a line below their heading; empty elsewhere.
    per : str
        What the breakdown in hand is of, pack, box or case; empty where there is none.
    group : str
        Section under whose name odds stand; with ``nests`` only lines with a bullet or an indent are of it.
    name : str
        A line of the product that was named alone: rates without a name are its.
    over : str
        A heading of a kind alone, “Autographs”, over the headings of sections of that kind.
    order : list of str
        Formats that were named side by side: odds behind a name are theirs, in that order.
    symbols : dict
        What a sign behind a name means, by a legend: rookie, short.
    box : dict
        A format whose parts stand one a line.
    before : str
        The line before the one in hand.
    rows_of : str
        Section whose cards stand in rows, each behind its club.
    behind : frozenset of str or None
        Sections or clubs that stand in brackets behind the cards; None until they are looked for.
    coded : frozenset of str or None
        Codes that begin lines of cards; None until they are looked for.
    letters : dict
        Letters behind rates and the format each stands for, by a legend.
    promise : str
        What the heading of a breakdown says of all its counts: guaranteed, on average.
    by_club : bool
        Whether a heading said that its cards stand below their clubs: “Base set by team”.
    heads : tuple of str
        Fields of the columns whose headings were read last.
    unnamed : list of (place, section, last)
        Lists of finishes that name no section, the one they were taken for, and whether they end the text, apart.
    """

    sorting: Sorting
    sheet: Sheet
    finishes: str = ""
    club: str = ""
    bulleted: bool = False
    per: str = ""
    group: str = ""
    nests: bool = False
    name: str = ""
    over: str = ""
    order: list[str] = field(default_factory=list)
    box: dict[str, str] = field(default_factory=dict)
    symbols: dict[str, str] = field(default_factory=dict)
    cards: int = 0
    last: str = ""
    before: str = ""
    promise: str = ""
    heads: tuple[str, ...] = ()
    by_club: bool = False
    unnamed: list[tuple[int, str, bool]] = field(default_factory=list)
    coded: frozenset[str] | None = None
    rows_of: str = ""
    behind: frozenset[str] | None = None
    letters: dict[str, str] = field(default_factory=dict)

    @property
    def of_odds(self) -> bool:
        """Whether the text was given as odds."""
        return self.sheet.name.casefold() in ODDS

    @property
    def of_formats(self) -> bool:
        """Whether the text was given as formats."""
        return self.sheet.name.casefold() in FORMATS

    def words(self) -> dict[str, str]:
        """Return the words that name a format; the usual ones where none is stated yet."""
        known = self.sorting.format_words()
        keys = {row.get("format") for row in self.sorting.rows["formats"]}
        only = next(iter(keys)) if len(keys) == 1 else ""
        if only and not any(word in FORMAT_WORDS for word in known):
            return {**dict.fromkeys(FORMAT_WORDS, only), **known}  # one box without a name is whatever it is called
        return known or {word: word for word in FORMAT_WORDS}


@dataclass(frozen=True)
class Line:
    """A line with what follows it.

    Attributes
    ----------
    after, below : callable
        Find the line that follows, and the first below it that is neither a finish nor column headings.
    bare : str
        Without bullet or markup; ``marked`` says that the markup was that of a heading.
    apart : bool
        Whether blank lines stand before it.
    nested : bool
        Whether it is indented or has a bullet.
    """

    place: int
    text: str
    bare: str
    marked: bool
    after: Callable[[], str]
    below: Callable[[], str]
    apart: bool
    nested: bool

    @property
    def following(self) -> str:
        """Return the next line that is no sentence; looked for only where it is asked."""
        return self.after()

    @property
    def beyond(self) -> str:
        """Return the first line below that is no sentence, no finish and no column headings."""
        return self.below()


Attempt = Callable[[Reader, Line], bool]


def is_nested(text: str) -> bool:
    """Whether a line is indented or has a bullet."""
    return bool(re.match(r"\s{2,}\S|\t\S|\s*[•·▪◦‣●○■*–—-]\s", text))


def one_card(text: str) -> CardLine | None:
    """Read a card, unless the line is a sentence."""
    card = card_of(text)
    if card is None or is_sentence(re.sub(r"^\W*\w+[.):]?\s*", "", text)):
        return None
    return card


CLUB_LINE = re.compile(
    r"(?:club|team|crew|squad|verein|mannschaft|équipe|equipo|squadra|ploeg)\s*[:=–-]\s*(?P<club>[^\W\d_][^:|\t]{1,60})",
    re.IGNORECASE,
)
"""A line that names the club of the cards below it."""


def leads(text: str) -> bool:
    """Whether a line may stand right below the heading of a section."""
    if CLUB_LINE.fullmatch(text.strip()):
        return True
    stated = _COUNTED.match(text.strip()) or _NAMELESS_RATE.match(text.strip()) or RUN_ALONE.fullmatch(text.strip())
    return bool(stated) or is_about_section(text) or one_card(text) is not None or parallels_in(text) is not None


MOST_WORDS = 4
"""Words that the name of a finish has at most."""
_RUN_WORDS = re.compile(r"(?:limited|numbered|serial|only|print run|out of)\b", re.IGNORECASE)
_SAYS_FINISH = re.compile(r"\bparallels?\b|\b(?:un|not )numbered\b", re.IGNORECASE)


def is_column_heads(text: str) -> bool:
    """Whether a line of a text is the headings of columns: “Number  Name  Team”, parted by tabs or bars."""
    if not ("\t" in text or "|" in text) or any(map(str.isdigit, text)):
        return False
    cells = [cell.strip() for cell in re.split(r"\t+|\s*\|\s*", text.strip(" |\t")) if cell.strip()]
    return len(cells) > 1 and is_head(cells, [])


def finishes_in_row(text: str) -> list[str]:
    """Return finishes that are listed with their runs: “Copper /99; Slate /25, Sole 1/1”; none in any other line.

    At least half of them have a run, and none is a card or more than some words.
    """
    parts = [part.strip() for part in re.split(r"[;,|•·](?!\d{3}\b)", text) if part.strip()]
    if any(map(_RUN_WORDS.match, parts)) or len(parts) < 2 or not all(map(_may_be_finish, parts)):
        return []
    return parts if 2 * sum(bool(take_run(part)[1]) for part in parts) >= len(parts) else []


def finish_name(text: str) -> str:
    """Return the name of a finish without the words for what it is: “Copper parallel (not numbered)”."""
    bare = re.sub(r"\s*[(\[,–-]*\s*(?:un|not )numbered\s*[)\]]*\s*$", "", text, flags=re.IGNORECASE)
    return re.sub(r"\s+(?:parallels?|finish|version)\s*,?\s*$", "", bare, flags=re.IGNORECASE) or bare


def _may_be_finish(text: str) -> bool:
    label = finish_name(take_run(text)[0].strip(" -–—:,("))
    return bool(re.match(r"[^\W\d_]", label)) and len(label.split()) <= MOST_WORDS and not re.search(r"\d", label)


def is_finish_like(text: str) -> bool:
    """Whether a line is a short name with a run or odds behind it, or a row of them."""
    bare = unbulleted(text)[0]
    rated = RATED_TAIL.sub("", bare).rstrip(" (-–—:,")
    said = rated != bare or bool(take_run(rated)[1]) or _SAYS_FINISH.search(rated) is not None
    stamped = said and _may_be_finish(finish_name(rated))
    return stamped or bool(finishes_in_row(bare))


def remark(reader: Reader, line: Line) -> bool:
    """Leave a sentence out, and say so."""
    if not is_sentence(line.bare):
        return False
    reader.sorting.note(line.place, Status.PASSED, "reads like a sentence: left out")
    return True
