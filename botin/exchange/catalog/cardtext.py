"""A checklist as people paste it: card lines, headings, parallels and rules among them."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from itertools import pairwise

from botin.core.catalog.naming import unaccented
from botin.exchange.catalog.cardtails import without_tail
from botin.exchange.catalog.runtext import RUN_END, USUAL_RUNS, run_in

_NUMBER = re.compile(
    r"^(?:no\.?(?!-)\s*|card\s+|#\s*|nr\.?(?!-)\s*)?"
    r"(?P<number>[A-Za-z]{0,6}-?\d{1,5}[A-Za-z]{0,2}(?![A-Za-z])|(?-i:[A-Z0-9]{1,6}-[A-Z0-9]{1,6}(?![a-z]))|\d{1,3}[A-Z]{1,4}-\d{1,4})"
    r"(?:\s*\.{2,}\s*|\s*[.):;=]\s*|,\s+|\s+(?:[-–—|]|-{2,})\s+|\s*\|\s*|[-–—](?=[^\W\d_])|\s+|\t)(?P<rest>\S.*)$",
    re.IGNORECASE,
)
_NUMBER_LAST = re.compile(
    r"^(?P<rest>\S.*?)[\s,–—(-]*(?:#|\bno\.\s?)\s?(?P<number>[A-Za-z]{0,6}-?\d{1,5}[A-Za-z]{0,2}|[A-Z0-9]{1,6}-[A-Z0-9]{1,6})\)?$",
    re.IGNORECASE,
)
_NUMBER_BETWEEN = re.compile(
    r"^(?P<name>[^\W\d_][^\d|]{2,48}?)\s+[-–—|]\s+#?(?P<number>[A-Z]{0,6}-?\d{1,5}[a-z]?|[A-Z0-9]{1,6}-[A-Z0-9]{1,6})"
    r"\s+[-–—|]\s+(?P<team>[^\W\d_].*)$"
)
"""``Orla Thorsby - 12 - Harrow Bay``."""
_APART = re.compile(r"(?:\s{3,}|\t+\s*)(?=#?(?:[A-Za-z]{0,6}-?\d{1,4}|[A-Z]{1,6}-[A-Z]{1,6})[.)]?\s+[^\W\d_])")
"""``1 Orla Thorsby    2 Jorik Munro``: side by side, as on the back of a card."""
_BRACKETED = re.compile(
    r"^(?!.*\b(?:packs?|box(?:es)?|cases?)\b)[(\[](#?[A-Za-z]{0,6}-?\d{1,4}[a-z]?|[A-Z]{1,6}-[A-Z]{1,6})[)\]]\s+(?=[^\W\d_])"
)
"""``(12) Orla Thorsby``."""
_OF_HOW_MANY = re.compile(
    r"^(?!.*\b(?:packs?|box(?:es)?|cases?)\b)(#?\d{1,4})\s?(?:of|von|de|/)\s?\d{1,4}\b(?=\W*\s[^\W\d_])"
)
"""``1 of 60 Orla Thorsby``: the number, and how many there are."""
_COUNTER = re.compile(
    r"^\d{1,4}[.):]\s+(?=#\s?(?:[A-Za-z]{0,6}-?\d|[A-Z]{1,6}-[A-Z])|[A-Z]{1,6}-(?:\d|[A-Z]{2,4}\s))"
)
"""``3) #12 Orla Thorsby``: a counter of lines before the number."""
_IN_A_ROW = re.compile(r"(?:[;,]|\s[/|•·])\s+(?=#?(?:[A-Za-z]{0,6}-?\d{1,4}[a-z]?|[A-Z]{1,6}-[A-Z]{1,6})\s+[^\W\d_])")
_CODE = re.compile(r"^[A-Za-z]{1,6}-[A-Za-z]{1,6}$")
_RUN_OF_NUMBERS = re.compile(r"([A-Za-z]+-?)\d+[-–]\1\d+")
"""``NS1-NS5`` is no number of a card but those from one to five."""
_BULLET = re.compile(r"^(?:[•·▪◦‣●○■□–—*+>→►▶»›✦★☆]\s*|-\s+|o\s+(?=[A-Z#\d])|\[[ xX]?\]\s*|☐\s*)+")
_MARKED = re.compile(
    r"^(?:#{1,6}\s+(?=\D)|={2,}\s*|\*{2,}\s*|_{2,}\s*|~{2,}\s*|-{3,}\s*)(?P<text>.*?)"
    r"(?:\s*(?:={2,}|\*{2,}|_{2,}|#{1,6}|~{2,}|-{3,}))?:?$"
)
_NEWCOMER = (
    r"recrue|neuling|debütant(?:in)?|novat[oa]|esordiente|nieuweling|debuut(?:kaart)?|debutante?|nykomling"
    r"|nowicjusz(?:ka)?|nováček"
)
_ROOKIE = re.compile(
    rf"(?<![\s(,–—|-])[\s(,\[–—|-]*\b(?P<word>RC|rookie(?: card)?|debut|first signed|{_NEWCOMER})[)\]]?\s*$",
    re.IGNORECASE,
)
_NEW = rf"RC|rookie(?: card)?|{_NEWCOMER}|debut|first[- ]year(?: card)?|newcomer|new|neu|nouveau|nuevo|nuovo|nieuw"
_BEHIND_BRACKET = re.compile(rf"(?<=[)\]])\s*[,;|–—-]?\s*(?P<word>{_NEW})\s*$", re.IGNORECASE)
"""``Orla Thorsby (Tarn) - debut``: behind a club in brackets a word marks the rookie."""
_ROOKIE_APART = re.compile(
    rf"\s*(?:[(\[]\s*(?P<word>RC|R|rookie(?: card)?|debut|first signed|{_NEWCOMER})\s*[)\]]"
    rf"|(?:\||,|;|\s[–—-]|\s\s|\t|(?<=[)\]])\s)\s*(?P<bar>RC|rookie(?: card)?|{_NEWCOMER}))\s*$",
    re.IGNORECASE,
)
_SHORT = re.compile(r"(?<![\s(,–—|-])[\s(,\[–—|-]*\b(?:S{1,2}P|short print)[)\]]?\s*$")
_ENDINGS = (
    "sp", "rc", "(r", "[r", "rookie", "card", "debut", "signed", "print", "copies", "made", "each", "only", "one",
    "recrue", "neuling", "debuut", "debütant", "debütantin", "novato", "novata", "esordiente", "nieuweling",
    "nykomling", "nowicjusz", "nowicjuszka", "nováček", "debutant", "debutante",
)  # fmt: skip
"""What a text ends with that may hold a mark, beside a digit; most names end otherwise."""
_TEAM_IN = re.compile(r"^(?P<name>[^()\[\]]+?)\s*[(\[](?P<team>[^()\[\]]{2,60})[)\]]\s*(?P<sign>[*^†‡§°]*)\s*$")
_LETTERS_BEHIND = re.compile(
    r"(?P<name>[^()\[\]]+?)\s*[(\[](?P<team>[^()\[\]]{2,60})[)\]]\s+(?P<letters>(?!S?SP\b|RC\b)[A-Z]{1,4})"
)
"""``Orla Thorsby (Tarn) NY``: letters that no legend explains."""
_SPLITS = (
    re.compile(r"\t+"), re.compile(r"\s*\.{3,}\s*"), re.compile(r"\s*;\s*"), re.compile(r"\s+\|\s+|\s*\|\s*"),
    re.compile(r"\s+(?:[-–—@]|-{2,})\s+"), re.compile(r"\s{2,}"), re.compile(r"\s*,\s+"),
)  # fmt: skip
_ROOKIE_BETWEEN = re.compile(
    r"(?P<name>[^\W\d_][\w.’'-]*(?:\s+[\w.’'-]+){1,3}?)\s+[(\[]?(?:RC|rookie)[)\]]?\s+(?P<team>[A-Z][^\d]{1,40})"
)
"""``Orla Thorsby RC Harrow Bay``: the mark alone parts name and club."""
_CLUB_BEFORE = re.compile(r"[\[(](?P<club>[A-Z]{2,4})[\])]\s+(?P<name>[^\W\d_].*)")
"""``[HBY] Orla Thorsby``: a club, or a nation, by its letters."""
_FOOTNOTE = re.compile(r"\[(?:[a-z]|\d{1,2}|note \d{1,2})\]")
_TIED_PEOPLE = re.compile(r"^[^\d/]*[^\W\d_] [^\d/ ]+(?:/[^\d/ ]+ [^\d/]+)+$")
"""Whole names with nothing but a stroke between them."""
_PEOPLE = re.compile(r"(?<!\s)(?:\s+/\s*|/\s+|\s+&\s+|\s*;\s*)")
_SMALL = frozenset(
    [
        "van",
        "der",
        "den",
        "de",
        "la",
        "le",
        "les",
        "von",
        "vom",
        "zu",
        "di",
        "da",
        "del",
        "della",
        "dos",
        "das",
        "do",
        "du",
        "y",
        "e",
        "al",
        "el",
        "bin",
        "ibn",
        "ter",
        "ten",
        "af",
        "av",
        "the",
        "of",
    ]
)
_PROSE = re.compile(
    r"https?:|www\.|©|\bcopyright\b|subject to change|as of \w+ \d|\bupdated\b|all rights|^page \d+|^source\b|"
    r"may (?:change|vary)|not (?:all|final)|^note:|^\*?note\b|änderungen vorbehalten|susceptible|sujeto a",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class CardLine:
    """A card as written.

    ``guesses`` say what was not plain, ``open_rookie`` that RC may be the end of the club, ``people`` that each of
    several people has a column of his own.
    """

    number: str
    name: str
    team: str = ""
    rookie: str = ""
    run: str = ""
    short: bool = False
    guesses: tuple[str, ...] = ()
    open_rookie: bool = False
    people: bool = False


@dataclass(frozen=True, slots=True)
class Marks:
    """A text without the marks at its end."""

    text: str
    rookie: str = ""
    run: str = ""
    short: bool = False


def unbulleted(text: str) -> tuple[str, bool]:
    """Return a line without bullet or markup, and whether it was marked up as a heading."""
    marked = _MARKED.match(text.strip())
    if marked and marked["text"].strip():
        return marked["text"].strip(), True
    return _BULLET.sub("", text.strip()).strip() or text.strip(), False


def _may_be_marked(text: str) -> bool:
    """Whether there can be a mark at the end at all."""
    tail = text.rstrip(" )]\t")[-14:].casefold()
    return tail[-1:].isdigit() or tail.endswith(_ENDINGS)


def take_marks(text: str, *, rookies: bool = True) -> Marks:
    """Take ``RC``, ``(SP)``, ``/99`` and their like off the end of a name, in any order.

    Without ``rookies`` an ``RC`` stays unless it stands apart, in brackets or behind a bar: Harrow Bay RC is a club.
    """
    rookie, run, short = "", "", False
    wanted = _ROOKIE if rookies else _ROOKIE_APART
    while _may_be_marked(text):
        stamp = RUN_END.search(text)
        signed = None if stamp or (rookie and not rookies) else wanted.search(text)
        brief = None if stamp or signed else _SHORT.search(text)
        found = stamp or signed or brief
        if found is None or _cuts_a_bracket(text, found) or not text[: found.start()].strip():
            break
        if stamp:
            run = run_in(stamp)
        if signed:
            rookie = _rookie_word(signed)
        short = short or brief is not None
        text = text[: found.start()]
    return Marks(text.strip(), rookie, run, short)


def _rookie_word(found: re.Match[str]) -> str:
    """Return what a mark says of a rookie: yes, or the word for his kind."""
    word = next(filter(None, found.groups())).casefold()
    plain = word == "r" or word.startswith(("rc", "rookie")) or re.fullmatch(_NEWCOMER, word)
    return "yes" if plain else word


def _cuts_a_bracket(text: str, found: re.Match[str]) -> bool:
    """Whether a mark is the end of a bracket that holds more: (Harrow Bay RC) is a club."""
    closes = found[0].count(")") > found[0].count("(") or found[0].count("]") > found[0].count("[")
    return closes and any(mark in text[: found.start()] for mark in "([")


def is_sentence(text: str) -> bool:
    """Whether a line is a sentence of somebody's, or what stands under pages: no name, no heading."""
    words, small = _words_of(text)
    ends = text.rstrip().endswith((".", "!", "?")) and len(words) > 3
    return bool(_PROSE.search(text)) or (ends and len(small) >= 0.4 * len(words))


def is_prose(text: str) -> bool:
    """Whether a line reads like prose: a sentence, or mostly small words."""
    words, small = _words_of(text)
    return is_sentence(text) or (len(words) >= 5 and len(small) >= 0.6 * len(words))


def begins_small(name: str) -> bool:
    """Whether a name begins with a small letter and no small word of names (van der Meer)."""
    return name[:1].islower() and name.split(maxsplit=1)[0] not in _SMALL


def is_particle(word: str) -> bool:
    """Whether a word is a part of last names that never stands last: van, de la, St., Mc."""
    return word.rstrip(".").casefold() in _SMALL or word.rstrip(".") in ("St", "Ste", "Mc", "Mac", "O", "Van", "Von")


def _words_of(text: str) -> tuple[list[str], list[str]]:
    """Return the words of a text, and those of them that begin small and are no part of names."""
    words = re.findall(r"[^\W\d_][\w’'-]*", text)
    return words, [word for word in words if word[0].islower() and word not in _SMALL]


def card_of(text: str) -> CardLine | None:
    """Read ``12 Orla Thorsby - Harrow Bay RC``; None when it does not begin with a number."""
    bare = unbulleted(text)[0] if not text.startswith("#") else text.strip()
    if bare[:1].isdigit():
        bare = _OF_HOW_MANY.sub(r"\1", _COUNTER.sub("", bare))
    elif bare[:1] in "([#":
        bare = _OF_HOW_MANY.sub(r"\1", _BRACKETED.sub(r"\1 ", bare))
    for pattern in (_NUMBER, _NUMBER_LAST):
        found = pattern.match(bare)
        if found and _is_number(found["number"]) and any(letter.isalpha() for letter in found["rest"]):
            card = card_from(found["number"], found["rest"])
            return card if card.name else None
    initials = _INITIALS.match(bare)
    if initials and _are_initials(initials["number"], initials["rest"]):
        return card_from(initials["number"], initials["rest"])
    between = _NUMBER_BETWEEN.match(bare)
    return card_from(between["number"], f"{between['name']} - {between['team']}") if between else None


_INITIALS = re.compile(r"(?P<number>[A-Z]{2,3})\s*[:.)–-]?\s+(?P<rest>[^\W\d_a-z][^\d=]+)$")


def _are_initials(letters: str, text: str) -> bool:
    """Whether letters are those of a person: “IK” stands for Ivar Kolm on a signed card of his."""
    words = re.findall(r"[^\W\d_][\w’'-]*", re.split(r"\s[–—-]\s|[(,;|\t/]", text)[0])
    if len(words) != len(letters) or not all(word[0].isupper() for word in words):
        return False
    return unaccented("".join(word[0] for word in words)).upper() == letters


def _is_number(text: str) -> bool:
    """Whether a word is a card number: it has a digit, or is a code in capitals like ``SS-OT``."""
    if _RUN_OF_NUMBERS.fullmatch(text):
        return False
    return any(letter.isdigit() for letter in text) or bool(_CODE.match(text) and text.isupper())


def cards_in(text: str, *, named: bool = False) -> list[CardLine]:
    """Read ``1 Orla Thorsby (Tarn), 2 Jorik Munro (Tarn)``: several cards in a line; empty when it is not so.

    Without a name before them (``named``) their numbers must go on, or be several with letters.
    """
    bare = unbulleted(text)[0]
    parts = _APART.split(bare) if _APART.search(bare) else _IN_A_ROW.split(bare)
    cards = [card for part in parts if (card := card_of(re.sub(r"(?<=[)\]])\.$", "", part.strip(" ,;"))))]
    if len(parts) < 2 or len(cards) < len(parts):
        return []
    if named:
        return cards
    ends = [re.search(r"\d+$", card.number) for card in cards]
    starts = {re.split(r"[-\d]", card.number)[0] for card in cards}
    numbers = [int(end[0]) if end else 0 for end in ends]
    goes_on = all(b == a + 1 for a, b in pairwise(numbers))
    return cards if len(starts) == 1 and (goes_on or "" not in starts or len(cards) > 2) else []


def card_from(number: str, text: str, team: str = "", *, has_team: bool = False) -> CardLine:
    """Make a card of its number and what stands beside it; the team may have a cell of its own."""
    text, price = without_tail(text.lstrip(" -–—=|:·•\t"))
    parts = _Parts(text, Marks(team)) if team or has_team else _split(text)
    marks, tail = take_marks(parts.name), parts.tail
    name = marks.text
    before = _CLUB_BEFORE.match(name) if not tail.text else None
    if before:
        name, tail = before["name"], replace(tail, text=before["club"])
    if "[" in text or "[" in team:
        name, tail = _FOOTNOTE.sub("", name), replace(tail, text=_FOOTNOTE.sub("", tail.text))
    return CardLine(
        number=number,
        name=_listed(_PEOPLE, name.replace("/", " / ") if "/" in name and _TIED_PEOPLE.match(name) else name),
        team=_listed(_CLUBS, tail.text),
        rookie=marks.rookie or tail.rookie,
        run=marks.run or tail.run or (parts.third if parts.third in USUAL_RUNS else ""),
        short=marks.short or tail.short,
        guesses=(
            *((_third(parts.third),) if parts.third else ()),
            *((f"“{price}” behind the card is left out",) if price else ()),
            *(("what stands in brackets before the name is taken for the club",) if before else ()),
        ),
        open_rookie=parts.open_rookie,
    )


def _third(text: str) -> str:
    taken = text in USUAL_RUNS
    return f"“{text}” behind the club is " + ("taken for the run" if taken else "left out")


_CLUBS = re.compile(r"\s*[;/]\s*")


def _listed(mark: re.Pattern[str], text: str) -> str:
    """Return several people or clubs with a semicolon between them."""
    if not any(sign in text for sign in "/&;"):
        return text.strip()
    return "; ".join(part.strip() for part in mark.split(text) if part.strip())


@dataclass(frozen=True, slots=True)
class _Parts:
    """Name, club with its marks, whether RC may be the club's own, and what stands behind the club."""

    name: str
    tail: Marks
    open_rookie: bool = False
    third: str = ""


def _split(text: str) -> _Parts:
    """Tell the name from the team by the separator between them.

    A ``RC`` that ends a team may be part of the team's name (Harrow Bay RC is a club) unless it stands apart, in
    brackets or behind a bar: then it is left open until the other cards are seen.
    """
    behind = _BEHIND_BRACKET.search(text) if ")" in text or "]" in text else None
    marks = take_marks(text[: behind.start()] if behind else text, rookies=False)
    marks = replace(marks, rookie="yes") if behind else marks
    lettered = _LETTERS_BEHIND.fullmatch(marks.text)
    if lettered:
        return _Parts(lettered["name"], _both(Marks(lettered["team"]), marks, marks), third=lettered["letters"])
    for pattern in _SPLITS:
        parts = [part.strip() for part in pattern.split(marks.text, maxsplit=2)]
        if len(parts) > 1 and all(parts[:2]):
            return _parted(_without_remark(parts), marks)
    middle = _ROOKIE_BETWEEN.match(marks.text)
    if middle:
        return _Parts(middle["name"], Marks(middle["team"], "yes", marks.run, marks.short))
    inner = _TEAM_IN.match(take_marks(marks.text).text)
    if inner:
        ended = _ROOKIE.search(inner["team"])
        left_open = ended is not None and ended["word"].casefold() == "rc"
        club = Marks(f"{inner['team']}{inner['sign']}")
        return _Parts(inner["name"], _both(club, marks, take_marks(marks.text)), left_open)
    tail = take_marks(marks.text)
    return _Parts(tail.text, _both(Marks(""), marks, tail))


def _without_remark(parts: list[str]) -> list[str]:
    """“Orla Thorsby, Tarn - at dusk”: what begins small behind a dash is no club where one stands before it."""
    name, comma, club = parts[0].rpartition(", ")
    small = parts[1][:1].islower() and not is_particle(parts[1].split()[0])
    return [name, club, " ".join(parts[1:])] if comma and small else parts


def _parted(parts: list[str], marks: Marks) -> _Parts:
    """Read name, club and what may stand behind them."""
    tail = take_marks(parts[1], rookies=False)
    word = _ROOKIE.search(tail.text)
    worded = word is not None and word["word"].casefold() != "rc"
    if worded:
        tail = take_marks(parts[1])
    club = _both(Marks(tail.text.strip(" |;,–—-")), marks, tail)
    left_open = bool(word) and not worded and not marks.rookie
    return _Parts(parts[0], club, left_open, parts[2] if len(parts) > 2 else "")


def _both(club: Marks, one: Marks, other: Marks) -> Marks:
    """Return a club with the marks of the line and of its end."""
    return Marks(club.text, one.rookie or other.rookie, one.run or other.run, one.short or other.short)
