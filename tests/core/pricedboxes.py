"""Boxes with prices for the value curve: a plain one, one with promised hits, one with a heavy tail."""

from __future__ import annotations

from datetime import date

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section
from botin.core.odds.lines import box_model
from botin.core.pricing.priced import PricedBox, priced_box
from botin.core.pricing.prices import PriceBook, PriceRow

DAY = date(2026, 11, 24)
HOBBY = Format("hobby", "Hobby", 24, 8, 12)


def checklist(
    *odds: OddsRow,
    promises: tuple[PromiseRow, ...] = (),
    fmt: Format = HOBBY,
    base: int = 200,
    parallels: tuple[Parallel, ...] = (),
) -> Product:
    names = [f"Rider {n}" for n in range(1, base + 1)]
    cards = [
        *(Card("base", str(n + 1), name) for n, name in enumerate(names)),
        *(Card("signed", f"S{n + 1}", name) for n, name in enumerate(names[:40])),
        *(Card("worn", f"W{n + 1}", name) for n, name in enumerate(names[:20])),
        *(Card("insert", f"I{n + 1}", name) for n, name in enumerate(names[:30])),
    ]
    sections = (
        Section("base", "Base", Kind.BASE),
        Section("signed", "Signed", Kind.AUTOGRAPH),
        Section("worn", "Worn", Kind.RELIC),
        Section("insert", "Insert", Kind.INSERT),
    )
    spoken = {"base", *(o.section for o in odds)}  # what is listed is in the box: only what the odds speak of
    return Product(
        "p",
        "P",
        formats=(fmt,),
        sections=tuple(section for section in sections if section.key in spoken),
        cards=tuple(card for card in cards if card.section in spoken),
        parallels=parallels,
        odds=odds,
        promises=promises,
    )


def row(section: str, amount: float, number: str = "", parallel: str = "") -> PriceRow:
    return PriceRow(section, number, parallel, "", amount, DAY)


PRICES = [
    row("base", 0.05),
    *(row("base", 0.4 + 0.31 * n, str(n)) for n in range(1, 13)),
    row("signed", 4.0),
    *(row("signed", 6.0 + 9.37 * n, f"S{n}") for n in range(1, 16)),
    row("worn", 3.0),
    *(row("worn", 5.0 + 2.5 * n, f"W{n}") for n in range(1, 8)),
    row("insert", 0.5),
    row("insert", 6.0, "I1"),
    row("base", 8.0, "", "copper"),
    *(row("base", 30.0 + 11.1 * n, str(n), "copper") for n in range(1, 8)),
    row("base", 25_000.0, "1", "lone"),
    row("base", 900.0, "", "lone"),
]


def priced(product: Product, seeding: str = "learned", **kwargs: object) -> PricedBox:
    return priced_box(box_model(product, product.formats[0], seeding), PriceBook(PRICES, DAY), **kwargs)  # type: ignore[arg-type]


PLAIN = checklist(
    OddsRow("hobby", "signed", packs_per_hit="24"),
    OddsRow("hobby", "worn", packs_per_hit="36"),
    OddsRow("hobby", "insert", packs_per_hit="4"),
)
PROMISED = checklist(
    OddsRow("hobby", "signed", packs_per_hit="10"),
    OddsRow("hobby", "worn", packs_per_hit="16"),
    OddsRow("hobby", "insert", per_pack="0.5"),
    OddsRow("hobby", "base", "copper", per_case="9", promise="exact"),
    promises=(PromiseRow("hobby", "four hits", "4", "box", "exact", "signed;worn"),),
)
HEAVY = checklist(
    OddsRow("hobby", "signed", per_box="2", promise="at_least"),
    OddsRow("hobby", "insert", per_box="3.4", promise="average"),
    OddsRow("hobby", "base", "copper", packs_per_hit="29"),
    OddsRow("hobby", "base", "lone", packs_per_hit="17280"),
)
BOXES = {"plain": PLAIN, "promised": PROMISED, "heavy": HEAVY}
