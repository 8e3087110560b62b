"""Lines of cards: a card a line, with the signs behind its name that a legend explains."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import replace

from botin.exchange.catalog.cardtext import CardLine, card_of
from botin.exchange.catalog.codes import codes_in, explained, ranged
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.oddstext import RATED_TAIL, rates_in
from botin.exchange.catalog.sorting import Pending
from botin.exchange.catalog.textreader import CLUB_LINE, Line, Reader, one_card
from botin.exchange.notes import Status

_YEAR = re.compile(r"^(?:19|20)\d\d(?:[-/–]\d{2,4})?$")
_PLAIN = re.compile(r"#?[A-Z]{0,6}-?\d{1,5}[a-z]?(?:[.)]\s*|\s+[-–—]?\s*)[^\W\d_][^\d:%/;|]*$")
_SPECIAL = re.compile(
    r"\b(?:S?SP|short|cards?|packs?|box(?:es)?|per|each|every|parallels?|finishes|versions|except|odds)\b|"
    r"\S\s{3,}#?[A-Za-z]{0,6}-?\d{1,4}[.)]?\s+[^\W\d_]|\S\s{3,}[A-Z]{1,6}-[A-Z]{1,6}\s+[^\W\d_]",
    re.IGNORECASE,
)


def add_card(reader: Reader, line: Line, card: CardLine) -> None:
    """Add a card to the section in hand, without the signs behind its name."""
    if reader.club and not card.team:
        card = replace(card, team=reader.club)
    reader.sorting.card(line.place, _without_signs(reader, card))
    reader.cards += 1
    reader.last = card.number


def club_line(reader: Reader, line: Line) -> bool:
    """“Club: Harrow Bay”: the cards below it that name none are of that club, until the next heading."""
    found = CLUB_LINE.fullmatch(line.bare)
    if not found:
        return False
    reader.club = found["club"].strip()
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"cards of {reader.club} follow")
    return True


_BY_CLUB = re.compile(
    r"(?P<label>[^\d:]{2,50}?)\s*[,(–—-]?\s*\b(?:by|nach|par|per|por)\s+(?:club|team|crew|country|nation|verein|mannschaft|"
    r"équipe|equipo|squadra|ploeg)s?\)?\s*:?",
    re.IGNORECASE,
)


def by_club(reader: Reader, line: Line) -> bool:
    """“Base set by team”: the headings below it are clubs as long as the numbers go on."""
    found = _BY_CLUB.fullmatch(line.bare)
    if not found:
        return False
    reader.sorting.section(found["label"].strip(), line.place)
    reader.by_club, reader.club, reader.last = True, "", ""
    return True


def club_above(reader: Reader, line: Line) -> bool:
    """A club alone above its cards, below “by team”: the numbers go on, and no word names a set."""
    below = one_card(line.following) if reader.by_club else None
    if below is None or not below.number.isdecimal() or one_card(line.text) is not None or guess_kind(line.bare)[1]:
        return False
    if reader.last and (not reader.last.isdecimal() or int(below.number) <= int(reader.last)):
        return False
    name = line.bare.strip(" :=*#")
    reader.club = name.title() if name.isupper() else name
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"cards of {reader.club} follow")
    return True


_SIGN = "*^†‡§°"
_SIGNS = re.compile(r"\s*([*^†‡§°]+)$")
_LEGEND = re.compile(
    r"([*^†‡§°])\s*(?:=|:|-|–|means|denotes|indicates)?\s*(?P<what>rookies?(?: cards?)?|RC"
    r"|first[- ]years?(?: cards?)?|debuts?(?: cards?)?|newcomers?|short[- ]?prints?"
    r"|S?SP)\b",
    re.IGNORECASE,
)


_KEY = re.compile(r"^(?:key|legend|signs?|symbols?)\s*:\s*", re.IGNORECASE)


def learn_signs(reader: Reader, lines: Iterable[Line]) -> None:
    """Learn what signs mean before the cards are read: often a line below all of them says it."""
    for line in lines:
        text = _KEY.sub("", line.text)
        if text[:1] in _SIGN:
            reader.symbols |= {match[1]: _meant(match) for match in _LEGEND.finditer(text)}


_LETTER_LEGEND = re.compile(
    r"\(?(?P<letters>[A-Z]{1,3})\)?\s*(?:=|:|–|—|-|means|denotes|indicates|stands for)\s*"
    r"(?P<what>rookies?(?: cards?)?|first[- ]years?(?: cards?)?|debuts?|newcomers?|short[- ]?prints?)\W*",
    re.IGNORECASE,
)


def letters_meant(lines: Iterable[str]) -> dict[str, str]:
    """Return the letters that a line of their own says mark cards, “N = newcomer”, and the usual mark for each."""
    found = [said for text in lines if (said := _LETTER_LEGEND.fullmatch(_KEY.sub("", text.strip())))]
    return {said["letters"]: "SP" if _meant(said) == "short" else "RC" for said in found}


def usual_marks(text: str, meant: Mapping[str, str]) -> str:
    """Return a line with the usual mark at its end in place of the letters that a legend explains."""
    for letters, mark in meant.items():
        text = re.sub(rf"[\s,;–—-]+[(\[]?{re.escape(letters)}[)\]]?\s*$", f" ({mark})", text)
    return text


def letter_legend(reader: Reader, line: Line) -> bool:
    """A line that says what letters behind names mean: “N = newcomer”."""
    found = _LETTER_LEGEND.fullmatch(_KEY.sub("", line.text))
    if not found:
        return False
    says = f"{found['letters']} behind a name is {_meant(found)}"
    reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    return True


def _meant(found: re.Match[str]) -> str:
    return "short" if found["what"].casefold().startswith("s") else "rookie"


def legend(reader: Reader, line: Line) -> bool:
    """A line that says what signs behind names mean: “* = rookie, ^ = short print”."""
    text = _KEY.sub("", line.text)
    found = list(_LEGEND.finditer(text)) if text[:1] in _SIGN else []
    rest = _LEGEND.sub("", text)
    if not found or re.search(r"[^\W\d_]{3,}", RATED_TAIL.sub("", rest)):
        return False
    twice = any(reader.symbols.get(match[1], _meant(match)) != _meant(match) for match in found)
    reader.symbols |= {match[1]: _meant(match) for match in found}
    said = ", ".join(f"{sign} is {what}" for sign, what in reader.symbols.items())
    rates = rates_in(rest, reader.words())
    status, other = (Status.GUESSED, ", though another line says otherwise") if twice else (Status.UNDERSTOOD, "")
    reader.sorting.note(line.place, status, f"{said}{other}")
    for rated in rates:
        stated = replace(rated, name="short prints" if _meant(found[0]) == "short" else "rookies")
        reader.sorting.pending.append(Pending(line.place, stated, reader.sorting.current_format))
    return True


def code_legend(reader: Reader, line: Line) -> bool:
    """A line that says what a code before numbers stands for, “QS = Quick Starts”: the section of such cards."""
    said = explained(line.bare)
    found = [said] if said else ranged(line.bare)
    if not found:
        return False
    if reader.coded is None:
        reader.coded = codes_in(cells[0] for _, cells in reader.sheet.rows if cells)
    if any(code not in reader.coded for code, _ in found):
        return False
    for code, label in found:
        reader.sorting.codes[code] = (line.place, label)
        reader.sorting.note(line.place, Status.UNDERSTOOD, f"numbers that begin with {code} are of “{label}”")
    return True


def _without_signs(reader: Reader, card: CardLine) -> CardLine:
    """Take signs off the end of a name or club; what no legend says is a guess."""
    signs = "".join(match[1] for text in (card.name, card.team) if (match := _SIGNS.search(text)))
    if not signs:
        return card
    meant = {reader.symbols.get(sign, "") for sign in signs}
    unsaid = sorted({sign for sign in signs if sign not in reader.symbols})
    guess = (f"“{''.join(unsaid)}” behind it is left out: no line says what it means",) if unsaid else ()
    return replace(
        card, name=_SIGNS.sub("", card.name), team=_SIGNS.sub("", card.team), guesses=(*card.guesses, *guess),
        rookie=card.rookie or ("yes" if "rookie" in meant else ""), short=card.short or "short" in meant,
    )  # fmt: skip


def plain_card(reader: Reader, line: Line) -> bool:
    """A number and words with nothing in them that another reading could take: most lines are such."""
    if reader.per or not _PLAIN.match(line.bare) or line.bare.endswith((".", "!", "?")) or _SPECIAL.search(line.bare):
        return False
    card = card_of(line.text)
    if card is None or _YEAR.match(card.number):
        return False
    reader.finishes = ""
    add_card(reader, line, card)
    return True


def card_line(reader: Reader, line: Line) -> bool:
    """One card in a line."""
    card = one_card(line.text)
    if card is None or (_YEAR.match(card.number) and not _goes_on(reader, card)):
        return False
    add_card(reader, line, card)
    return True


def _goes_on(reader: Reader, card: CardLine) -> bool:
    """Whether a number that may be a year goes on from the card before."""
    return reader.last.isdecimal() and 0 < int(card.number[:4]) - int(reader.last) < 50
