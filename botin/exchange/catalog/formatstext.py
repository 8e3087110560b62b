"""How a product is boxed, as a line of text: ``Hobby box: 24 packs of 8 cards, 12 boxes a case, 118.00``."""

from __future__ import annotations

import re

from botin.core.catalog.naming import unaccented
from botin.exchange.catalog.rateunits import UNITS, in_digits
from botin.exchange.values import SYMBOLS

_P, _B, _C = (rf"(?:{UNITS[unit]})" for unit in ("pack", "box", "case"))
_CARD = r"(?:cards?|cds?|karten?|cartes?|cartas?|kaarten|kort|kart)"
_PER = (
    r"(?:per|an?|each|/|in a|in each|in every|to a|to the|to each|in the|(?:make|fill|form) (?:up )?an?|pro|je"
    r"|par|por|à|a la|i en|i varje)"
)
_NUM = r"\d{1,6}(?:\s?(?:-|–|to|bis)\s?\d{1,6})?"
_PACKS = re.compile(
    rf"(?<![\d.,:/])(?<!in )(?P<n>{_NUM})\s{{0,9}}-?\s?{_P}\b|\b{_P}\s*{_PER}\s*{_B}\s*[:=]\s*(?P<m>{_NUM})",
    re.IGNORECASE,
)
_CARDS = re.compile(
    rf"(?<![\d.,])(?P<a>\d{{1,6}})\s{{0,9}}{_CARD}\s*{_PER}\s*{_P}\b"
    rf"|{_P}\s*(?:of|x|×|with|,|/|à|mit|met|de|da|di|van|med|con|zu je|zu|@|po|containing|has|holds"
    rf"|contains)?\s*(?P<b>\d{{1,6}})\b"
    rf"(?!\s*-?\s?{_B}\b)\s*{_CARD}?"
    rf"|(?<![\d.,])(?P<c>\d{{1,6}})[\s-]*{_CARD}\s+{_P}\b"
    rf"|\b{_CARD}\s*{_PER}\s*{_P}\s*[:=]\s*(?P<d>\d{{1,6}})",
    re.IGNORECASE,
)
_CARDS_ALONE = re.compile(rf"(?<![\d.,])(?P<n>\d{{1,6}})\s{{0,9}}{_CARD}\b", re.IGNORECASE)
_BOXES_ALONE = re.compile(
    r"(?<![\d.,])(?P<n>\d{1,3})\s{0,9}(?:boxes|boxen|displays|boîtes|cajas|caixas|dozen)\b\s*(?=[,;.|)]|$)",
    re.IGNORECASE,
)
"""Beside packs and cards only a case holds boxes."""
_TIMES = re.compile(r"(?<![\d.,:/])(?P<packs>\d{1,4})\s*(?:x|×|/)\s*(?P<cards>\d{1,4})(?!\d|[/.,]\d)", re.IGNORECASE)
_CASE = re.compile(
    rf"(?<![\d.,])(?P<a>\d{{1,6}})\s{{0,9}}-?\s?{_B}\s*(?:{_PER}|=\s*(?:1|an?|one)?)?\s*-?\s*{_C}\b|\b{_C}\s*(?:of|à|mit|de|:|=|holds|contains|has|is)\s*(?P<b>\d{{1,6}})\b"
    rf"|\b{_B}\s*{_PER}\s*{_C}\s*[:=]\s*(?P<c>\d{{1,6}})|(?<![\d.,:])(?P<d>\d{{1,4}})\s*(?:per|a|/|to a)\s*{_C}\b",
    re.IGNORECASE,
)
_AMOUNT = r"\d{1,3}(?:[,.]\d{3})+(?:[.,]\d{1,2})?|\d+(?:[.,]\d{1,2})?"
_SIGNED = re.compile(
    rf"(?P<sign>[€$£¥]|\b(?:EUR|USD|GBP|CHF|CAD|AUD|JPY|SEK|NOK|DKK|PLN|CZK)\b)\s?(?P<n>{_AMOUNT})"
    rf"|(?P<m>{_AMOUNT})\s?(?P<after>[€$£¥]|\b(?:EUR|USD|GBP|CHF|CAD|AUD|JPY|SEK|NOK|DKK|PLN|CZK|euros?)\b)",
    re.IGNORECASE,
)
_A_PACK = re.compile(rf"\s*(?:per|a|each|/|pro|je|par|por|the)\s*{_P}\b", re.IGNORECASE)
"""Behind a price it is that of a pack."""
_PLAIN_PRICE = re.compile(
    rf"(?:at|for|price|srp|msrp|preis|prix|precio|,|;|–|-|:|\()\s*(?P<n>{_AMOUNT})\s*\)?"
    r"\s*(?:each|a box|per box)?\s*$",
    re.IGNORECASE,
)


def slug(text: str) -> str:
    """Make a key out of a title: plain small letters, words joined by dashes."""
    return re.sub(r"[^a-z0-9]+", "-", unaccented(text)).strip("-")


def format_cells(text: str, *, short: bool = True) -> dict[str, str] | None:
    """Read one line as cells of ``formats.csv``; None when packs or cards are not in it.

    With ``short`` it may be as short as ``hobby 24 x 8``: where formats are told and nothing else.
    """
    label, rest = _label_of(in_digits(text))
    parts = parts_of(rest)
    if short and "packs_per_box" in parts and "cards_per_pack" not in parts and (found := _CARDS_ALONE.search(rest)):
        parts["cards_per_pack"] = found["n"]
    if "boxes_per_case" not in parts and {"packs_per_box", "cards_per_pack"} <= set(parts):
        parts |= {"boxes_per_case": found["n"]} if (found := _BOXES_ALONE.search(rest)) else {}
    times = _TIMES.search(rest) if short and "packs_per_box" not in parts else None
    if times:
        parts |= {"packs_per_box": times["packs"], "cards_per_pack": times["cards"]}
    if not parts.get("packs_per_box", "").strip("0") or not parts.get("cards_per_pack", "").strip("0"):
        return None  # a box of no packs, or packs of no cards, is not one
    return cells_of({"label": label, **_plain_price(rest), **parts})


_THREE = re.compile(r"(?<![\d/.,$€£])(?P<n>\d{1,3}\s*[x×/]\s*\d{1,3}\s*[x×/]\s*\d{1,3})(?![\d/.,])", re.IGNORECASE)


def three_in_a_row(text: str) -> tuple[dict[str, str], str] | None:
    """Read ``Hobby - 20/8/12 - $120`` as packs, cards and boxes of a case, and say so: the order is a habit only."""
    label, rest = _label_of(text)
    found = _THREE.search(rest)
    if not found or not label:
        return None
    packs, cards, boxes = re.split(r"\s*[x×/]\s*", found["n"], flags=re.IGNORECASE)
    if not all(map(int, (packs, cards, boxes))):
        return None
    parts = {"packs_per_box": packs, "cards_per_pack": cards, "boxes_per_case": boxes}
    cells = cells_of({"label": label, **_plain_price(rest[found.end() :]), **_signed_price(rest), **parts})
    return (cells, f"“{found['n']}” is taken for packs, cards and boxes of a case") if cells else None


def parts_of(text: str) -> dict[str, str]:
    """Return what a text says of a box: packs, cards, boxes of a case, a price with its sign."""
    text = in_digits(text)
    found = {
        "packs_per_box": _PACKS.search(text),
        "cards_per_pack": _CARDS.search(text),
        "boxes_per_case": _CASE.search(text),
    }
    parts = {name: _range(_first(match)) for name, match in found.items() if match}
    return {**parts, **_signed_price(text)}


def cells_of(parts: dict[str, str]) -> dict[str, str] | None:
    """Return the cells of a format from its parts; None while packs or cards are not known."""
    if "packs_per_box" not in parts or "cards_per_pack" not in parts:
        return None
    name = parts.get("label", "").strip(" -–—,•*#") or "Box"
    return {
        "format": slug(re.sub(r"[ -]box$", "", name, flags=re.IGNORECASE)) or "box",
        "label": name,
        **{key: parts.get(key, "") for key in ("packs_per_box", "cards_per_pack", "boxes_per_case")},
        **{key: parts.get(key, "") for key in ("list_price", "currency")},
    }


def _first(found: re.Match[str] | None) -> str:
    return next((part for part in found.groups() if part), "") if found else ""


def _range(text: str) -> str:
    return re.sub(r"\s?(?:-|–|to|bis)\s?", "-", text)


def _label_of(text: str) -> tuple[str, str]:
    """Part the name of a format from what it holds: at a colon or a dash, or before the first number."""
    found = re.match(r"^(?P<label>[^:\d]{2,40}?)\s*(?::|\s[–—-]\s|\()\s*(?P<rest>.*\d.*)$", text.strip())
    if found:
        return _label(found["label"]), found["rest"]
    digit = re.search(r"\d", text)
    return (_label(text[: digit.start()]), text[digit.start() :]) if digit else ("", text)


def _label(text: str) -> str:
    """Return the name of a format without article, verb and filler: “A hobby box has” is a hobby box."""
    return _IN.sub("", _ARTICLE.sub("", _BOXES.sub("", _HOLDS.sub("", text))))


_ARTICLE = re.compile(
    r"^\s*(?:an?|the|each|every|one|ein|eine|jede|un|une|chaque|una|cada|een|elke)\s+(?=\w)", re.IGNORECASE
)


_IN = re.compile(r"(?<=\w)\s+(?:in|with|of|med|mit|met|avec|con)\s*$", re.IGNORECASE)
_BOXES = re.compile(
    r"(?<=\w)\s+(?:boxes|configuration|config|product configuration|box configuration|format|details?)\s*$",
    re.IGNORECASE,
)


_HOLDS = re.compile(
    r"\s+(?:is|are|has|have|holds?|contains?|(?:comes?|arrives?|ships?|is packed) (?:in|with)|ist|hat|enthält"
    r"|contient|contiene|bevat)\s*$",
    re.IGNORECASE,
)


def price_of_pack(text: str) -> bool:
    """Whether a text says what a pack costs."""
    found = _SIGNED.search(text)
    return found is not None and _A_PACK.match(text[found.end() :]) is not None


def _signed_price(text: str) -> dict[str, str]:
    """Return a price with the sign or code of its currency."""
    found = _SIGNED.search(text)
    if not found or _A_PACK.match(text[found.end() :]):
        return {}
    sign = (found["sign"] or found["after"]).upper()
    code = "EUR" if sign.startswith("EURO") else SYMBOLS.get(sign, (sign,))[0]
    return {"list_price": _plain_amount(found["n"] or found["m"]), "currency": code}


def _plain_price(text: str) -> dict[str, str]:
    """Return the last number of a line as its price, unless it is the size of a case."""
    plain = _PLAIN_PRICE.search(text)
    if not plain or re.search(rf"{_C}\s*(?:of|:|à|mit)\s*$", text[: plain.start("n")], re.IGNORECASE):
        return {}
    return {"list_price": _plain_amount(plain["n"])}


def _plain_amount(text: str) -> str:
    """Return an amount with a point: ``109,90`` is 109.90, ``1.250,00`` is 1250.00."""
    if re.fullmatch(r"\d+,\d{1,2}|\d{1,3}(?:\.\d{3})+,\d{1,2}", text):
        return text.replace(".", "").replace(",", ".")
    return text.replace(",", "")
