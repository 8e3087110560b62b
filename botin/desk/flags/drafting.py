"""An order begun from the mix: each card with what it is declared at and expected to bring; what was forgotten."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.flags.ways import Tier
from botin.core.grading.grades import Inspection
from botin.core.grading.ordercosts import declare
from botin.core.money import Money
from botin.desk.fees import GradingFees, grading_fees
from botin.desk.flags.judging import FlagInputs, facts_of, kept_inputs
from botin.desk.flags.submission import Candidate, best_mix
from botin.desk.grading.drafts import SIGNED, OrderError, Wanted, add_copies, change_tier, new_draft, require_draft
from botin.desk.grading.inspections import looks_at
from botin.desk.grading.moves import Chosen, pick
from botin.desk.workbench import Workbench
from botin.store.grading.orders import Found, found_copies, lines_of
from botin.store.models_grading import GradingOrderRecord


def tier_named(terms: GradingFees, label: str) -> Tier:
    """Return a tier by its house and name, also one of another service.

    Raises
    ------
    OrderError
        When there is none.
    """
    found = next((tier for tier in terms.all_tiers if tier.label == label), None)
    if found is None:
        message = f"“{label[:60]}” is not among your tiers any more. Choose another one, or write it down under Fees."
        raise OrderError(message)
    return found


def begin_order(
    session: Session, bench: Workbench, client_key: str, tier: Tier, chosen: Sequence[Chosen], currency: str = ""
) -> GradingOrderRecord:
    """Begin an order in a tier with some copies, which may be none.

    Raises
    ------
    OrderError, BoxStateError
        When the tier is not offered today, or a copy cannot go.
    """
    if not tier.offered(bench.today()):
        message = f"{tier.label} is not offered today. Choose another tier."
        raise OrderError(message)
    copies = [copy.id for copy in pick(session, chosen)] if chosen else []
    found = found_copies(session, copies)
    code = found[0].product.currency if found else (currency or "EUR")
    terms = grading_fees(session, bench.today())
    order = new_draft(session, bench, client_key, tier, code, _shipping(terms, tier, len(copies), code))
    add_to_order(session, bench, order.id, copies)
    return order


def _shipping(terms: GradingFees, tier: Tier, cards: int, code: str) -> Money:
    return Money.from_major(terms.costs.shipping_for(tier.house, cards), code)


def add_to_order(session: Session, bench: Workbench, order_id: int, copies: Sequence[int]) -> int:
    """Put copies into a draft, each declared at what it is expected to be worth graded.

    Raises
    ------
    OrderError, BoxStateError
        When one cannot go: then none does.
    """
    order = require_draft(session, order_id)
    wanted = proposals(session, bench, order, found_copies(session, list(copies)))
    count = add_copies(session, order_id, wanted)
    reckon_shipping(session, bench, order)
    return count


def reckon_shipping(session: Session, bench: Workbench, order: GradingOrderRecord) -> None:
    """Let the return shipping of a draft follow its number of cards."""
    terms = grading_fees(session, bench.today())
    tier = next((one for one in terms.all_tiers if (one.house, one.name) == (order.house, order.tier)), None)
    if tier is not None:
        change_tier(session, order.id, tier, _shipping(terms, tier, len(lines_of(session, order.id)), order.currency))


def move_to_tier(session: Session, bench: Workbench, order_id: int, label: str) -> None:
    """Let a draft go in another tier.

    Raises
    ------
    OrderError
        When there is no such tier, or it is not offered today.
    """
    order = require_draft(session, order_id)
    terms = grading_fees(session, bench.today())
    tier = tier_named(terms, label)
    if not tier.offered(bench.today()):
        message = f"{tier.label} is not offered today. Choose another tier."
        raise OrderError(message)
    cards = len(lines_of(session, order_id))
    change_tier(session, order_id, tier, _shipping(terms, tier, cards, order.currency))


def proposals(session: Session, bench: Workbench, order: GradingOrderRecord, found: Sequence[Found]) -> list[Wanted]:
    """Say of copies what they are declared at and expected to bring."""
    looks = looks_at(session, [one.copy.id for one in found])
    each = []
    for one in found:
        j = kept_inputs(session, bench, bench.record(session, one.product.id))
        each.append(_proposal(j, order, one, looks.get(one.copy.id)))
    return each


def _proposal(j: FlagInputs, order: GradingOrderRecord, one: Found, look: Inspection | None) -> Wanted:
    card = j.product.card_by_number.get((one.section, one.card.number))
    if card is None:
        return Wanted(one.copy.id)
    facts, _ = facts_of(j, card, one.copy.parallel, look)
    chances = dict(facts.by_house.get(order.house, facts.chances))
    values = {grade: price.sale for grade, price in facts.graded.items()}
    ceiling, up = (None if m is None else Money(m, order.currency).major
                   for m in (order.ceiling_minor, order.upcharge_minor))  # fmt: skip
    told = declare(chances, values, ceiling, up or 0.0)
    forecast = {
        "chances": {f"{grade:g}": share for grade, share in chances.items() if share > 0},
        "values": {f"{grade:g}": value for grade, value in values.items()},
        "raw": facts.raw.sale,
        "looked": look is not None,
        "above": told.above if told else 0.0,
        "upcharge": Money.from_major(told.upcharge, order.currency).minor if told else 0,
        "slab": [one.copy.grade, one.copy.house] if one.copy.grade else None,
    }
    return Wanted(one.copy.id, Money.from_major(told.value, order.currency) if told else None, forecast)


@dataclass(frozen=True)
class Closing:
    """What to think of before an order is closed.

    Attributes
    ----------
    forgotten : tuple of Candidate
        Copies that would gain in this tier and are in no order: a second order pays its own return shipping.
    unlooked : int
        Cards of the order nobody looked at: a glance before they go saves a fee.
    """

    forgotten: tuple[Candidate, ...]
    unlooked: int
    again: Money


def closing_of(session: Session, bench: Workbench, order: GradingOrderRecord) -> Closing:
    """Look for what was forgotten before an order is closed."""
    terms = grading_fees(session, bench.today())
    mix = best_mix(session, bench, terms, None)
    at = [t for t, tier in enumerate(terms.costs.tiers) if (tier.house, tier.name) == (order.house, order.tier)]
    lines = lines_of(session, order.id)
    looks = looks_at(session, [line.copy_id for line in lines])
    signed = _signed(session, [line.copy_id for line in lines])
    gain = [one for one in mix.candidates if at and one.gains[at[0]] > 0 and one.currency == order.currency]
    forgotten = [one for one in gain if signed is None or one.signed == signed]
    again = Money.from_major(terms.costs.shipping_for(order.house, 1), order.currency)
    return Closing(
        tuple(sorted(forgotten, key=lambda one: -one.gains[at[0]])) if not order.service else (),
        sum(1 for line in lines if line.copy_id not in looks),
        again,
    )


def _signed(session: Session, copies: Sequence[int]) -> bool | None:
    found = found_copies(session, copies)
    return found[0].kind in SIGNED if found else None
