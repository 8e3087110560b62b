"""Pack boxes of a product at random: what comes out when the demo opens one."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from botin.core.catalog.product import Card, Product
from botin.core.counts import CountLaw
from botin.core.odds.lines import BoxModel, Line, box_model

SHEET_RUN = 40
"""Base cards lie in runs of so many from one sheet before the packer takes another stack."""


@dataclass(frozen=True, slots=True)
class Packed:
    """A card as it lies in a box; pack 0 is outside the packs."""

    pack: int
    card: Card
    parallel: str
    serial: int | None
    run: int | None


def packed_model(product: Product, format_key: str) -> BoxModel:
    """Return what the maker packs by: the odds. What is so "on average" only describes what they give."""
    kept = tuple(row for row in product.promises if row.promise != "average")
    truth = replace(product, promises=kept)
    return box_model(truth, truth.format_by_key[format_key])


def draw_count(law: CountLaw, rng: np.random.Generator) -> int:
    """Draw one count."""
    return law.fixed + sum(int(rng.binomial(n, p)) for n, p in law.binomials) + int(rng.poisson(law.poisson))


def pack_box(product: Product, model: BoxModel, rng: np.random.Generator) -> list[Packed]:
    """Fill one box: the hits of every line go to random packs, base fills the rest from sheets."""
    fmt = model.format
    packs: list[list[Packed]] = [[] for _ in range(fmt.packs_per_box + 1)]
    for line, count in _counts(model, rng):
        for _ in range(count):
            pack = int(rng.integers(1, fmt.packs_per_box + 1)) if line.in_packs else 0
            packs[pack].append(_copy(product, line, pack, rng))
    sheet = _sheet(model, rng)
    for number in range(1, fmt.packs_per_box + 1):
        hits = packs[number][: fmt.cards_per_pack]
        base = [Packed(number, next(sheet), "", None, None) for _ in range(fmt.cards_per_pack - len(hits))]
        packs[number] = [*base[:-2], *hits, *base[-2:]]
    return [card for pack in packs for card in pack]


def _counts(model: BoxModel, rng: np.random.Generator) -> list[tuple[Line, int]]:
    counts = [(line, draw_count(line.law, rng)) for line in model.lines if line.law is not None]
    by_key = {line.key: line for line in model.lines}
    for joint in model.joint:
        keys = list(joint.weights)
        split = rng.multinomial(draw_count(joint.law, rng), [joint.weights[key] for key in keys])
        counts += [(by_key[key], int(count)) for key, count in zip(keys, split, strict=True)]
    return counts


def _copy(product: Product, line: Line, pack: int, rng: np.random.Generator) -> Packed:
    card = line.cards[int(rng.integers(len(line.cards)))]
    row = product.parallel_of(card, line.parallel)
    run = row.stamped if row else None
    serial = int(rng.integers(1, run + 1)) if run else None
    return Packed(pack, card, line.parallel, serial, run)


def _sheet(model: BoxModel, rng: np.random.Generator) -> Iterator[Card]:
    """Base cards in runs cut from sheets: neighbours stay together, repeats come late."""
    cards = [card for line in model.rest for card in line.cards]
    while True:
        order = rng.permutation(len(cards))
        for start in range(0, max(1, len(order) - SHEET_RUN // 2), SHEET_RUN):  # a small set is one sheet
            if rng.random() < 0.75:
                yield from (cards[place] for place in order[start : start + SHEET_RUN])
