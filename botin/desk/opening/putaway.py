"""Put a box away: a sort list by the storage plan, and where each copy went."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.copies.putaway import Facts, in_order, place_of, read_plan
from botin.desk.opening.state import Copy, rip_state
from botin.desk.workbench import Workbench
from botin.store.copies.copies import put_copies
from botin.store.models import BoxRecord
from botin.store.models_copies import PRESENT
from botin.store.unit import finish


@dataclass(frozen=True, slots=True)
class Pile:
    """A place and the copies that go there, in order."""

    place: str
    copies: tuple[Copy, ...]
    done: int


@dataclass(frozen=True, slots=True)
class SortList:
    """Everything of a box by place; what no rule takes comes last, without one."""

    piles: tuple[Pile, ...]
    wrong: tuple[str, ...]


def sort_list(session: Session, bench: Workbench, box: BoxRecord) -> SortList:
    """Sort a box by the storage plan."""
    state = rip_state(session, bench, box)
    rules, wrong = read_plan(state.settings.storage_plan)
    piles: dict[str, list[tuple[Facts, Copy]]] = defaultdict(list)
    for facts in (state.outside, *state.packs):
        for copy in _mine_here(facts.copies):
            card = state.product.card_by_number.get((copy.row.section, copy.row.number))
            teams = card.teams if card else ()
            kind = copy.kind.value if copy.kind else ""
            asked = Facts(
                section=copy.section,
                kind=kind,
                number=copy.row.number,
                teams=teams,
                price=copy.price,
                hit=copy.hit,
                parallel=copy.finish,
            )
            piles[place_of(rules, asked)].append((asked, copy))
    order = [*dict.fromkeys(rule.place for rule in rules), ""]
    made = []
    for place in order:
        if place in piles:
            copies = [copy for _, copy in sorted(piles[place], key=lambda pair: in_order(pair[0]))]
            made.append(Pile(place, tuple(copies), sum(1 for copy in copies if copy.row.place)))
    return SortList(tuple(made), wrong)


def _mine_here(copies: Sequence[Copy]) -> list[Copy]:
    """Leave out what is another's and what has left: neither is mine to put away."""
    return [copy for copy in copies if copy.row.mine and copy.row.state in PRESENT]


def put_away(session: Session, bench: Workbench, box: BoxRecord, place: str) -> int:
    """Note that a pile is where it belongs; return how many copies that are."""
    pile = next((pile for pile in sort_list(session, bench, box).piles if pile.place == place), None)
    if pile is None or not place:
        return 0
    ids = [copy.row.copy_id for copy in pile.copies]
    put_copies(session, ids, place)
    finish(session)
    return len(ids)
