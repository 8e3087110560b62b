"""What the rip desk shows, shaped for its templates."""

from __future__ import annotations

from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from botin.core.catalog.product import Product
from botin.core.opening.entryitems import Problem
from botin.core.opening.owed import Owed
from botin.desk.opening.editing import Version, as_typed, get_pull, proposals, versions_of
from botin.desk.opening.state import Copy, PackFacts, RipState, already_owned, rip_state
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord
from botin.store.opening.steps import turning
from botin.web.rip.packmap import PackPicture, pack_picture

LIKELY = 0.02
"""Lines less likely than this in what is left are folded away."""


@dataclass(frozen=True, slots=True)
class Editing:
    """A card being corrected in place: how it would be typed, what it could be."""

    copy: Copy
    typed: str
    pack: int
    versions: tuple[Version, ...]
    proposals: tuple[Version, ...]
    problems: tuple[Problem, ...] = ()


@dataclass(frozen=True)
class DeskView:
    """The whole rip desk."""

    state: RipState
    box: BoxRecord
    pack: int
    hand: PackFacts
    empty: int
    pictures: tuple[PackPicture, ...]
    owned: dict[int, int]
    owed: tuple[Owed, ...]
    rare: tuple[Owed, ...]
    can_undo: bool
    can_redo: bool
    version: str
    revision: int
    form_key: str
    typed: str = ""
    problems: tuple[Problem, ...] = field(default=())
    said: str = ""
    editing: Editing | None = None

    @property
    def last(self) -> Copy | None:
        """The card logged last in the pack in hand."""
        return max(self.hand.copies, key=lambda copy: copy.row.id, default=None)

    @property
    def trays(self) -> int:
        """How many copies wait to be settled."""
        return len(self.state.unsure) + len(self.state.unlisted)


def desk_view(session: Session, bench: Workbench, box: BoxRecord, pack: int, form_key: str) -> DeskView:
    """Read everything the desk shows for the pack in hand."""
    state = rip_state(session, bench, box)
    hand = state.outside if pack == 0 else state.packs[pack - 1]
    turn = turning(session, box.id)
    size = box.format.cards_per_pack
    rare = tuple(row for row in state.owed if not row.promised and not row.seen and row.chance_any < LIKELY)
    record = box.format.product
    return DeskView(
        state=state,
        box=box,
        pack=pack,
        hand=hand,
        empty=max(0, min(size, 24) - hand.cards) if pack and not box.stacked else 0,
        pictures=tuple(pack_picture(facts, size, current=facts.number == pack) for facts in state.packs),
        owned=already_owned(session, hand.copies),
        owed=tuple(row for row in state.owed if row not in rare),
        rare=rare,
        can_undo=turn.back,
        can_redo=turn.forth,
        version=turn.version,
        revision=record.revision,
        form_key=form_key,
    )


def editing(session: Session, view: DeskView, pull_id: int, problems: tuple[Problem, ...] = ()) -> Editing:
    """Read what is needed to correct one card."""
    pull = get_pull(session, view.box, pull_id)
    packs = (view.state.outside, *view.state.packs)
    copy = next(copy for facts in packs for copy in facts.copies if copy.row.id == pull_id)
    product = view.state.others.get(copy.row.product_id or 0, view.state.product)
    near = tuple(proposals(product, copy.row.typed)) if copy.row.unlisted else ()
    could = tuple(versions_of(product, copy.row.candidates))
    return Editing(copy, as_typed(session, pull), pull.pack, could, near, problems)


SHOWN_CARDS = 4
"""Cards that the meter names; of more it says how many."""


def counted_words(row: Owed, product: Product) -> str:
    """Name the cards that were counted for a promise: number and finish, as one reads them off the card."""
    names = [
        f"{number or product.section_by_key[section].label} {finish_words(product, section, parallel)}".strip()
        for section, number, parallel in row.counted
    ]
    more = len(names) - SHOWN_CARDS
    return ", ".join(names[:SHOWN_CARDS]) + (f" and {more} more" if more > 0 else "")


def finish_words(product: Product, section: str, parallel: str) -> str:
    """Return the label of a finish, or what was typed for one that nobody listed."""
    rows = product.parallels_by_section.get(section, ())
    return next((row.label for row in rows if row.key == parallel and parallel), parallel)
