"""A product small enough to reckon by hand."""

from __future__ import annotations

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section

BASE = tuple(
    Card("base", str(n), f"Rider {n}", "Lindmark Wheelers" if n % 2 else "Saltmarsh Velo") for n in range(1, 11)
)
SIGNED = tuple(Card("signed", f"S-{n}", f"Rider {n}") for n in range(1, 5))
WORN = tuple(Card("worn", f"W-{n}", f"Rider {n}") for n in range(1, 3))
CARDS = (*BASE, *SIGNED, *WORN, Card("poster", "P-1", "Rider 1"))


def product(
    *odds: OddsRow,
    promises: tuple[PromiseRow, ...] = (),
    fmt: Format | None = None,
    parallels: tuple[Parallel, ...] = (),
) -> Product:
    """A product of base and of the sections and finishes that its rows speak of: what is listed is in the box."""
    sections = (
        Section("base", "Base", Kind.BASE),
        Section("signed", "Signed", Kind.AUTOGRAPH),
        Section("worn", "Worn", Kind.RELIC),
        Section("poster", "Poster", Kind.BOX_TOPPER),
    )
    spoken = {"base", *(row.section for row in (*odds, *parallels))}
    covers = ";".join(row.covers for row in promises)
    kept = tuple(s for s in sections if s.key in spoken or s.key in covers or f"kind={s.kind.value}" in covers)
    usual = (Parallel("copper", "Copper", "base", run_text="25"), Parallel("slate", "Slate", "base"))
    finishes = parallels or tuple(row for row in usual if row.key in {o.parallel for o in odds} or row.key in covers)
    return Product(
        key="small",
        name="Small",
        formats=(fmt or Format("hobby", "Hobby", 24, 8, 12),),
        sections=kept,
        cards=tuple(card for card in CARDS if card.section in {section.key for section in kept}),
        parallels=finishes,
        odds=odds,
        promises=promises,
    )
