"""From the text of a package to a product: good rows and findings, never an exception for a bad row."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from typing import Any, TypeVar

from botin.core.catalog.product import (
    Card,
    Format,
    Kind,
    OddsRow,
    OverallRow,
    Parallel,
    Product,
    PromiseRow,
    Section,
    TeamClub,
    parse_run,
)
from botin.core.errors import BadAmountError, BadOddsError
from botin.core.money import Money, parse_money
from botin.core.odds.countlaws import PROMISED
from botin.core.odds.findings import Finding, Severity
from botin.core.odds.rates import parse_printed
from botin.exchange import tables as t
from botin.exchange.catalog.formatstext import slug
from botin.exchange.catalog.mendkeys import mend_keys

Row = TypeVar("Row")
RATES = ("packs_per_hit", "per_box", "per_case", "per_pack")
PROMISES = {"": "", "exact": "exact", "at_least": "at_least", "guaranteed": "at_least", "average": "average"}
_CURRENCY = re.compile(r"[A-Z]{3}")


@dataclass
class Reading:
    """What came out of a package: the product and what is wrong in the file's rows."""

    product: Product
    findings: list[Finding] = field(default_factory=list)


class _Builder:
    """Turns rows into the product's dataclasses and collects what is wrong with them."""

    def __init__(self, raw: t.RawPackage) -> None:
        self.raw = raw
        self.findings: list[Finding] = []
        self.currency = "EUR"

    def note(
        self, code: str, spec: t.TableSpec, line: int, message: str, severity: Severity = Severity.ERROR
    ) -> None:
        self.findings.append(Finding(code, severity, self.raw.where(spec, line), message))

    def each(self, spec: t.TableSpec, make: Callable[[t.RawRow], Row | None]) -> tuple[Row, ...]:
        made = (make(row) for row in self.raw.rows(spec))
        return tuple(row for row in made if row is not None)

    def whole(self, spec: t.TableSpec, row: t.RawRow, name: str, *, optional: bool = False) -> int | None:
        """Return a positive whole number, or None with a finding."""
        text = row.get(name)
        if optional and not text:
            return None
        digits = text.removesuffix(".0")
        if digits.isdecimal() and digits.isascii() and 0 < int(digits) < 1_000_000:
            return int(digits)
        shown = text or "nothing"
        self.note("bad-number", spec, row.line, f"{name} is {shown}: write a whole number from 1 on.")
        return None

    def rate(self, spec: t.TableSpec, row: t.RawRow, name: str) -> str:
        """Return the text of a rate; empty with a finding when it cannot be read."""
        text = row.get(name)
        if not text:
            return ""
        read = as_printed(text, name)
        try:
            parse_printed(read)
        except BadOddsError:
            self.note("bad-rate", spec, row.line, f"{name} is “{text}”: write a number like 24, 7.0 or 1,473.")
            return ""
        if read != text:
            message = f"{name} is “{text}”, read as {read}. Write it so, if that is what it means."
            self.note("rate-read", spec, row.line, message, Severity.WARNING)
        return read

    def promise(self, spec: t.TableSpec, row: t.RawRow) -> str:
        word = row.get("promise").casefold().replace(" ", "_").replace("-", "_")
        if word not in PROMISES:
            self.note("bad-promise", spec, row.line, f"promise is “{word}”: write exact, at_least or average.")
        return PROMISES.get(word, "")

    def format(self, row: t.RawRow) -> Format | None:
        both = packs_range(row.get("packs_per_box"))
        packs = self.whole(t.FORMATS, row, "packs_per_box") if both is None else -(-sum(both) // 2)
        cards = self.whole(t.FORMATS, row, "cards_per_pack")
        boxes = self.whole(t.FORMATS, row, "boxes_per_case", optional=True)
        price = self.price(row)
        if packs is None or cards is None:
            return None
        key = row.get("format")
        return Format(
            key=key,
            label=row.get("label") or key,
            packs_per_box=packs,
            cards_per_pack=cards,
            boxes_per_case=boxes,
            list_price=price,
            line=row.line,
            packs_range=both,
        )

    def price(self, row: t.RawRow) -> Money | None:
        text, currency = row.get("list_price"), row.get("currency").upper() or self.currency
        if not text:
            return None
        try:
            price = parse_money(text, currency)
        except BadAmountError as exc:
            self.note("bad-price", t.FORMATS, row.line, exc.message, Severity.WARNING)
            return None
        if price.minor < 0:
            self.note("bad-price", t.FORMATS, row.line, f"list_price is {text}: a price is not negative.")
            return None
        return price

    def section(self, row: t.RawRow) -> Section | None:
        word = row.get("kind").casefold()
        key = row.get("section")
        if word not in set(Kind):
            self.note("bad-kind", t.SECTIONS, row.line, f"kind is “{word}”: write one of {', '.join(Kind)}.")
            word = Kind.INSERT.value
        return Section(key, row.get("label") or key, Kind(word), row.get("back_code"), row.get("cue"), row.line)

    @staticmethod
    def card(row: t.RawRow) -> Card:
        return Card(**{name: row.get(name) for name in t.CARDS.names}, line=row.line)

    def parallel(self, row: t.RawRow) -> Parallel:
        run = row.get("run").removesuffix(".0")
        try:
            parse_run(run)
        except ValueError:
            self.note("bad-run", t.PARALLELS, row.line, f"run is “{run}”: write 25, or pooled runs like 100+80+4.")
            run = ""
        key = row.get("parallel")
        cells = {name: row.get(name) for name in ("back_code", "cue", "swatch")}
        return Parallel(
            key,
            row.get("label") or key,
            row.get("section"),
            row.get("group"),
            run.lstrip("/"),
            **cells,
            line=row.line,
        )

    def odds(self, row: t.RawRow) -> OddsRow:
        """Read a row of the odds: one rate, or printed odds beside the count that is promised."""
        rates = {name: self.rate(t.ODDS, row, name) for name in RATES}
        filled = [name for name in RATES if rates[name]]
        promise = self.promise(t.ODDS, row)
        beside = len(filled) == 2 and filled[0] == "packs_per_hit" and filled[1] in ("per_box", "per_case")
        if len(filled) > 1 and not (beside and promise in PROMISED):
            self.note(
                "two-rates",
                t.ODDS,
                row.line,
                f"{' and '.join(filled)} are both filled: keep one, {filled[0]} is used.",
            )
            rates |= dict.fromkeys(filled[1:], "")
        key = (row.get("format"), row.get("section"), row.get("parallel"), row.get("group"))
        return OddsRow(*key, **rates, promise=promise, line=row.line)

    def promise_row(self, row: t.RawRow) -> PromiseRow | None:
        count, per = self.rate(t.PROMISES, row, "count"), row.get("per").casefold()
        if per not in ("pack", "box", "case"):
            self.note("bad-per", t.PROMISES, row.line, f"per is “{per}”: write pack, box or case.")
            return None
        if not count:
            if not row.get("count"):
                self.note("bad-rate", t.PROMISES, row.line, "count is empty: write how many are promised.")
            return None
        promise = self.promise(t.PROMISES, row)
        return PromiseRow(row.get("format"), row.get("label"), count, per, promise, row.get("covers"), line=row.line)

    def overall(self, row: t.RawRow) -> OverallRow:
        rate = self.rate(t.OVERALL, row, "packs_per_hit")
        return OverallRow(row.get("format"), row.get("label"), row.get("kinds"), rate, line=row.line)

    @staticmethod
    def team(row: t.RawRow) -> TeamClub:
        return TeamClub(row.get("team"), row.get("club"), line=row.line)

    def date(self, text: str) -> date | None:
        if not text:
            return None
        try:
            return date.fromisoformat(text)
        except ValueError:
            message = f"released_on is “{text}”: write a date like 2026-03-14."
            self.findings.append(Finding("bad-date", Severity.WARNING, "datapackage.json", message))
            return None

    def code(self, text: str) -> str:
        if _CURRENCY.fullmatch(text or "EUR"):
            return text or "EUR"
        message = f"currency is “{text}”: write an ISO 4217 code like EUR. EUR is assumed."
        self.findings.append(Finding("bad-currency", Severity.ERROR, "datapackage.json", message))
        return "EUR"


_RANGE = re.compile(r"(\d{1,3})\s*(?:-|–|to)\s*(\d{1,3})")
_ODDS = re.compile(r"1\s*(?::|/|in|per)\s*(\d+(?:\.\d+)?)(?:\s*(?:box|boxes|cases?|packs?))?", re.IGNORECASE)


def packs_range(text: str) -> tuple[int, int] | None:
    """Return fewest and most packs of ``7-10``; None when it is one number."""
    found = _RANGE.fullmatch(text.strip())
    if not found or not 0 < int(found[1]) < int(found[2]):
        return None
    return int(found[1]), int(found[2])


def as_printed(text: str, column: str) -> str:
    """Return a rate as a plain number: one in two boxes is half a card a box, and 1.473 packs are 1,473.

    Nobody prints odds to a thousandth of a pack; a point before three digits parts thousands.
    """
    if column == "packs_per_hit":
        return re.sub(r"^((?:1\s*:\s*)?)(\d{1,3})\.(\d{3})$", r"\1\2,\3", text) if re.search(r"\d", text) else text
    odds = _ODDS.fullmatch(text)
    if odds and float(odds[1]) > 0:
        return f"{1 / float(odds[1]):.6g}"
    return text


def build(raw: t.RawPackage) -> Reading:
    """Build the product of a package.

    Parameters
    ----------
    raw : RawPackage
        All tables as text.

    Returns
    -------
    Reading
        The product from the rows that can be read, and a finding for each that cannot.
    """
    meta = raw.descriptor.get("botin")
    about: dict[str, Any] = meta if isinstance(meta, dict) else {}
    fields = {name: str(about.get(name) or "").strip() for name in ("maker", "season", "sport")}
    title = str(raw.descriptor.get("title") or raw.descriptor.get("name") or "Product without a name")
    make = _Builder(raw)
    make.currency = make.code(str(about.get("currency") or "").upper())
    product = Product(
        key=slug(str(raw.descriptor.get("name") or title)) or "product",
        name=title,
        **fields,
        released_on=make.date(str(about.get("released_on") or "")),
        currency=make.currency,
        formats=make.each(t.FORMATS, make.format),
        sections=make.each(t.SECTIONS, make.section),
        cards=make.each(t.CARDS, make.card),
        parallels=make.each(t.PARALLELS, make.parallel),
        odds=make.each(t.ODDS, make.odds),
        promises=make.each(t.PROMISES, make.promise_row),
        overall=make.each(t.OVERALL, make.overall),
        teams=make.each(t.TEAMS, make.team),
    )
    return Reading(mend_keys(product, make.note), make.findings)
