"""A product small enough to reckon by hand."""

from __future__ import annotations

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, PromiseRow, Section

BASE = tuple(
    Card("base", str(n), f"Rider {n}", "Lindmark Wheelers" if n % 2 else "Saltmarsh Velo") for n in range(1, 11)
)
SIGNED = tuple(Card("signed", f"S-{n}", f"Rider {n}") for n in range(1, 5))
WORN = tuple(Card("worn", f"W-{n}", f"Rider {n}") for n in range(1, 3))


def product(
    *odds: OddsRow,
    promises: tuple[PromiseRow, ...] = (),
    fmt: Format | None = None,
    parallels: tuple[Parallel, ...] = (),
) -> Product:
    return Product(
        key="small",
        name="Small",
        formats=(fmt or Format("hobby", "Hobby", 24, 8, 12),),
        sections=(
            Section("base", "Base", Kind.BASE),
            Section("signed", "Signed", Kind.AUTOGRAPH),
            Section("worn", "Worn", Kind.RELIC),
            Section("poster", "Poster", Kind.BOX_TOPPER),
        ),
        cards=(*BASE, *SIGNED, *WORN, Card("poster", "P-1", "Rider 1")),
        parallels=parallels
        or (Parallel("copper", "Copper", "base", run_text="25"), Parallel("slate", "Slate", "base")),
        odds=odds,
        promises=promises,
    )
