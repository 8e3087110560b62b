"""From a plan to a product: checklist, finishes, and odds that follow from runs and packs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from botin.core.catalog.product import Card, Format, Kind, OddsRow, OverallRow, Parallel, Product, Section
from botin.core.money import Money
from botin.demo.league import Rider, clubs
from botin.demo.plans import FinishPlan, ProductPlan, SectionPlan

_RATE_COLUMNS = {"": "packs_per_hit", "box": "per_box", "pack": "per_pack", "case": "per_case"}


@dataclass(frozen=True)
class Made:
    """A product of the demo, with the fame behind each card for its prices."""

    plan: ProductPlan
    product: Product
    fame: dict[tuple[str, str], float]


def make_product(plan: ProductPlan, riders: tuple[Rider, ...], rng: np.random.Generator) -> Made:
    """Make one product of a plan."""
    cards: list[Card] = []
    fame: dict[tuple[str, str], float] = {}
    for section in plan.sections:
        made = _variations(section, cards, fame) if section.kind is Kind.VARIATION else _cards(section, riders, rng)
        for card, weight in made:
            cards.append(card)
            fame[(card.section, card.number)] = weight
    product = Product(
        key=plan.key,
        name=plan.name,
        maker=plan.maker,
        season=plan.season,
        sport="track cycling",
        released_on=plan.released_on,
        currency="EUR",
        formats=tuple(
            Format(f.key, f.label, f.packs, f.cards, f.boxes_per_case, Money.from_major(f.price, "EUR"))
            for f in plan.formats
        ),
        sections=tuple(Section(s.key, s.label, s.kind, s.back_code, s.cue) for s in plan.sections),
        cards=tuple(cards),
        parallels=tuple(_parallel(finish) for finish in plan.finishes if finish.key or finish.run),
        odds=tuple(_odds(plan)),
        promises=plan.promises,
        overall=tuple(_overall(plan)),
        teams=clubs(),
    )
    return Made(plan, product, fame)


def _cards(section: SectionPlan, riders: tuple[Rider, ...], rng: np.random.Generator) -> list[tuple[Card, float]]:
    """Base shows everyone in a shuffled order; the smaller a section, the more famous its riders."""
    order = rng.permutation(len(riders))
    if section.size < len(riders) // 2:
        odds = np.array([rider.fame for rider in riders]) ** 0.5
        order = rng.choice(len(riders), min(len(riders), 2 * section.size), replace=False, p=odds / odds.sum())
    made = []
    start = section.short_from or 1
    for place in range(section.size):
        shown = [riders[order[place]]] + ([riders[order[place + section.size]]] if section.pairs else [])
        card = Card(
            section.key,
            f"{section.prefix}{start + place}",
            "; ".join(rider.name for rider in shown),
            "; ".join(dict.fromkeys(rider.team for rider in shown)),
            shown[0].rookie if section.kind in (Kind.BASE, Kind.AUTOGRAPH) else "",
        )
        made.append((card, max(rider.fame for rider in shown)))
    return made


def _variations(
    section: SectionPlan, cards: list[Card], fame: dict[tuple[str, str], float]
) -> list[tuple[Card, float]]:
    """Variations are base cards with another picture: the same numbers, the most sought riders first."""
    base = [card for card in cards if card.section == "base"]
    base.sort(key=lambda card: -fame[(card.section, card.number)])
    chosen = sorted(base[: section.size], key=lambda card: int(card.number))
    return [
        (Card(section.key, card.number, card.name, card.team, card.rookie), fame[(card.section, card.number)])
        for card in chosen
    ]


def _parallel(finish: FinishPlan) -> Parallel:
    label = finish.label or "plain"
    return Parallel(
        key=finish.key,
        label=label,
        section=finish.section,
        group=finish.group,
        run_text=finish.run,
        back_code="",
        cue=finish.cue,
        swatch=finish.swatch,
    )


def _odds(plan: ProductPlan) -> list[OddsRow]:
    rows = []
    size = {section.key: section.size for section in plan.sections}
    for fmt in plan.formats:
        packs = fmt.boxes * fmt.packs
        for finish in plan.finishes:
            if fmt.key in finish.rates:
                rows.append(_stated(fmt.key, finish))
            elif finish.share.get(fmt.key):
                copies = size[finish.section] * int(finish.run) * finish.share[fmt.key]
                rows.append(OddsRow(fmt.key, finish.section, finish.key, finish.group, _print(packs / copies)))
    return rows


def _stated(fmt: str, finish: FinishPlan) -> OddsRow:
    unit, _, count = finish.rates[fmt].rpartition(":")
    cells = {column: count if unit == name else "" for name, column in _RATE_COLUMNS.items()}
    promise = "exact" if unit else ""
    return OddsRow(fmt, finish.section, finish.key, finish.group, **cells, promise=promise, line=0)


def _print(packs_per_hit: float) -> str:
    """Odds as a wrapper prints them: a decimal below 10, whole numbers above."""
    return f"{packs_per_hit:.1f}" if packs_per_hit < 10 else f"{packs_per_hit:.0f}"


def _overall(plan: ProductPlan) -> list[OverallRow]:
    """Printed totals of the signed cards, added up from the rates behind the lines."""
    rows = []
    signed = {s.key for s in plan.sections if s.kind in (Kind.AUTOGRAPH, Kind.AUTOGRAPH_RELIC)}
    kinds = dict.fromkeys(s.kind.value for s in plan.sections if s.key in signed)
    for fmt in plan.formats:
        lines = [row for row in _odds(plan) if row.format == fmt.key and row.section in signed and row.packs_per_hit]
        rate = sum(1 / float(row.packs_per_hit) for row in lines)
        if rate:
            rows.append(OverallRow(fmt.key, "signed cards overall", ";".join(kinds), _print(1 / rate)))
    return rows
