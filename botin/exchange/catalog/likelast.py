"""A product like another one: its boxes and finishes are taken over where the sources say nothing of them."""

from __future__ import annotations

from botin.core.catalog.product import Product
from botin.exchange.catalog.ratenames import base_of, plain
from botin.exchange.catalog.sorting import Sorting


def copy_from(sorting: Sorting, like: Product) -> list[str]:
    """Take over formats and finishes; return in words what was taken.

    Finishes go to the sections that are called the same, those of the base set to the base set, and only where a
    section has none of its own: a list of this season's is not mixed with last season's.
    """
    said = []
    if not sorting.rows["formats"]:
        for fmt in like.formats:
            price = fmt.list_price
            sorting.add(
                "formats", 0, format=fmt.key, label=fmt.label, packs_per_box=fmt.packs_words,
                cards_per_pack=str(fmt.cards_per_pack), boxes_per_case=str(fmt.boxes_per_case or ""),
                list_price=f"{price.major:.2f}" if price else "", currency=price.currency if price else "",
            )  # fmt: skip
        said.append(f"{', '.join(fmt.label for fmt in like.formats)}: boxed like {like.name}")
    homes = _homes(sorting, like)
    for key, old in homes.items():
        rows = [row for row in like.parallels if row.section == old and row.key]
        for row in rows:
            sorting.parallel(0, key, row.label, row.run_text)
        if rows:
            label = next(row.get("label") for row in sorting.rows["sections"] if row.get("section") == key)
            said.append(f"{len(rows)} finishes of {label}, like {like.name}")
    return said


def _homes(sorting: Sorting, like: Product) -> dict[str, str]:
    """Return the sections without finishes and the section of the other product whose finishes they get."""
    have = {row.get("section") for row in sorting.rows["parallels"] if row.get("parallel")}
    by_name = {plain(section.label): section.key for section in like.sections}
    found = {}
    for row in sorting.rows["sections"]:
        key = row.get("section")
        old = by_name.get(plain(row.get("label")))
        if key == base_of(sorting) and old is None:
            old = next((section.key for section in like.sections if section.kind.value == "base"), None)
        if old is not None and key not in have:
            found[key] = old
    return found
