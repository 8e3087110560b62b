"""Sales of more than one card: a lot, a box as it is, an empty box; and swaps with both sides linked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books import posting as rules
from botin.core.books.posting import About, Account, AmountError, Basis
from botin.core.errors import BoxStateError
from botin.core.money import Money
from botin.core.opening.entryitems import EntryItem
from botin.desk.books.booking import about_box, basis_of, cost_of
from botin.desk.books.singles import known_of
from botin.desk.selling.disposals import Disposal, check_disposal
from botin.desk.selling.sealedgoods import require_not_sold_by
from botin.desk.sentagain import same_things
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event, bases, free_key, known_event, live, net_cash, post, void
from botin.store.copies.copies import copy_words, get_copy, require_here
from botin.store.copies.people import party_named
from botin.store.keys import stored_together
from botin.store.models import BoxRecord
from botin.store.models_books import TransactionRecord
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.opening.boxes import card_ids, get_box
from botin.store.selling.sales import end_box, end_copies
from botin.store.unit import finish

MOST = 2_000


@dataclass(frozen=True, slots=True)
class Deal:
    """What a sale brought, when, at what cost, and to whom."""

    day: date
    price: Money
    costs: Money
    to: str = ""


def _party(session: Session, bench: Workbench, name: str) -> int | None:
    return party_named(session, name, bench.now()).id if name.strip() else None


def sell_lot(
    session: Session, bench: Workbench, client_key: str, deal: Deal, copies: Sequence[int]
) -> list[DisposalRecord]:
    """Sell several copies for one price: it and its costs are shared over them by what they had cost, to the cent.

    Copies that cost nothing share equally. The same key again gives the same sale.

    Raises
    ------
    AmountError
        When no copy is named, or too many are.
    BoxStateError
        When one of them is not here; then none is sold.
    StaleFormError
        When the key was used for another lot.
    """
    chosen = list(dict.fromkeys(copies))
    known = _lot(session, client_key)
    if known:
        same_things(sorted(row.copy_id for row in known), sorted(chosen))
        was = (known[0].left_on, sum(row.price_minor for row in known), sum(row.costs_minor for row in known))
        same_things(was, (deal.day, deal.price.minor, deal.costs.minor))
        return known
    if not 1 <= len(chosen) <= MOST:
        message = f"A lot takes 1 to {MOST} cards. Tick those that went."
        raise AmountError(message)
    found = [get_copy(session, one) for one in chosen]
    for copy in found:
        require_here(copy)
        check_disposal(session, bench, copy, Disposal("sold", deal.day, deal.price, deal.costs))
    return _sell(session, bench, client_key, deal, found)


def _lot(session: Session, client_key: str) -> list[DisposalRecord]:
    return stored_together(session, DisposalRecord, client_key)


def _sell(
    session: Session, bench: Workbench, client_key: str, deal: Deal, copies: Sequence[CopyRecord]
) -> list[DisposalRecord]:
    held = [basis_of(session, copy) for copy in copies]
    weights = [float(max(0, basis.minor)) for basis in held]
    if not any(weights):
        weights = [1.0] * len(copies)
    shares = zip(rules.split(deal.price.minor, weights), rules.split(deal.costs.minor, weights), strict=True)
    party, code, rows = _party(session, bench, deal.to), deal.price.currency, list[DisposalRecord]()
    for place, (copy, basis, (price, costs)) in enumerate(zip(copies, held, shares, strict=True)):
        row = DisposalRecord(
            client_key=f"{client_key}:{place}", copy_id=copy.id, went="sold", left_on=deal.day, price_minor=price,
            costs_minor=costs, currency=code, came_in="", to=deal.to.strip()[:120], made_at=bench.now(),
        )  # fmt: skip
        session.add(row)
        session.flush()
        words = f"{copy_words(session, copy)} sold in a lot of {len(copies)}"
        event = Event("sale", deal.day, free_key(session, f"leave-{row.id}"), words, party)
        post(session, bench.now(), event, rules.sale(Money(price, code), Money(costs, code), basis))
        copy.state = "sold"
        rows.append(row)
    end_copies(session, [copy.id for copy in copies], deal.day)
    finish(session)
    return rows


def _check(deal: Deal, today: date) -> None:
    if deal.price.minor <= 0 or deal.costs.minor < 0:
        message = "A sale needs its price, above 0. Write what it brought."
        raise AmountError(message)
    if deal.day > today:
        message = f"{deal.day.isoformat()} lies ahead. Write the day it left."
        raise AmountError(message)


def _same_deal(session: Session, known: TransactionRecord, deal: Deal) -> None:
    same_things((known.day, net_cash(session, known.id)), (deal.day, (deal.price - deal.costs).minor))


def sell_sealed(session: Session, bench: Workbench, client_key: str, deal: Deal, box_id: int) -> BoxRecord:
    """Sell a box as it is, unopened; the same key again changes nothing.

    Raises
    ------
    BoxStateError
        When it is not sealed any more.
    AmountError
        When the price is nothing, or the day lies ahead.
    """
    box = get_box(session, box_id)
    key = f"sealed-{box.id}~{client_key}"
    known = known_event(session, key)
    if known is not None:
        _same_deal(session, known, deal)
        return box
    if box.state != "sealed":
        message = "Only a sealed box is sold as it is. Sell the cards of an opened one, or the empty box."
        raise BoxStateError(message)
    _check(deal, bench.today())
    cost = cost_of(box)
    basis = Basis(about_box(box), box.currency, {Account.BOXES: cost.minor})
    words = f"{box.label or f'box {box.id}'} sold sealed"
    event = Event("sale", deal.day, key, words, _party(session, bench, deal.to))
    post(session, bench.now(), event, rules.sale(deal.price, deal.costs, basis))
    box.state = "sold"
    end_box(session, box.id, deal.day)
    finish(session)
    return box


def undo_sealed_sale(session: Session, bench: Workbench, box_id: int) -> BoxRecord:
    """Take the sale of a sealed box back: it is on the shelf again."""
    box = get_box(session, box_id)
    if box.state != "sold":
        return box
    require_not_sold_by(session, box.id)
    made = live(session, f"sealed-{box.id}")
    if made is not None:
        void(session, bench.now(), made.id, made.day)
    box.state = "sealed"
    finish(session)
    return box


def sell_empty(session: Session, bench: Workbench, client_key: str, deal: Deal, box_id: int) -> None:
    """Sell the empty box of one that was opened: it cost nothing beside its cards. The same key again sells no more.

    Raises
    ------
    BoxStateError
        When it was not opened, or is sold already.
    AmountError
        When the price is nothing, or the day lies ahead.
    """
    box = get_box(session, box_id)
    key = f"empty-{box.id}"
    known = known_event(session, f"{key}~{client_key}")
    if known is not None:
        _same_deal(session, known, deal)
        return
    if box.state != "closed":
        message = "The empty box is sold once the opening is closed."
        raise BoxStateError(message)
    if live(session, key) is not None:
        message = "Its empty box is sold already. Take that back first."
        raise BoxStateError(message)
    _check(deal, bench.today())
    words = f"empty box of {box.label or f'box {box.id}'}"
    event = Event("sale", deal.day, f"{key}~{client_key}", words, _party(session, bench, deal.to))
    post(session, bench.now(), event, rules.sale(deal.price, deal.costs, Basis(about_box(box), box.currency, {})))
    finish(session)


def empty_sold(session: Session, box_id: int) -> bool:
    """Whether the empty box is sold."""
    return live(session, f"empty-{box_id}") is not None


def undo_empty_sale(session: Session, bench: Workbench, box_id: int) -> None:
    """Take the sale of an empty box back."""
    made = live(session, f"empty-{box_id}")
    if made is not None:
        void(session, bench.now(), made.id, made.day)
        finish(session)


@dataclass(frozen=True, slots=True)
class ComesIn:
    """A card that comes in by a swap, and the weight by which it takes over what the others had cost."""

    product_id: int
    item: EntryItem
    weight: float = 1.0


@dataclass(frozen=True, slots=True)
class Swap:
    """Both sides of a swap; ``cash`` was added to the given side, negative when it came back."""

    given: tuple[int, ...]
    got: tuple[ComesIn, ...]
    cash: Money
    day: date
    to: str = ""


def swap(session: Session, bench: Workbench, client_key: str, deal: Swap) -> list[CopyRecord]:
    """Swap copies: what comes in takes over what the given ones had cost, and the cash that was added.

    Both sides are linked by one entry in the books. The same key again gives the same copies.

    Raises
    ------
    AmountError
        When a side is empty, or more cash came back than the given ones cost.
    BoxStateError
        When one of the given is not here or is not mine.
    StaleFormError
        When the key was used for another swap.
    """
    known = stored_together(session, CopyRecord, client_key)
    if known:
        _same_swap(session, client_key, known, deal)
        return known
    if not deal.given or not deal.got:
        message = "A swap has two sides. Say which cards went and which came."
        raise AmountError(message)
    went = [get_copy(session, one) for one in dict.fromkeys(deal.given)]
    nothing = Money(0, deal.cash.currency)
    for copy in went:
        require_here(copy)
        check_disposal(session, bench, copy, Disposal("swapped", deal.day, nothing, nothing))
    held = [basis_of(session, copy) for copy in went]
    if any(not basis.mine for basis in held):
        message = "One of these cards is somebody else’s. Say first whose it is now, then swap it."
        raise BoxStateError(message)
    came = _come(session, bench, client_key, deal)
    _leave(session, bench, client_key, went, came, deal)
    weights = [(_about(session, copy), one.weight) for copy, one in zip(came, deal.got, strict=True)]
    sides = [", ".join(copy_words(session, copy) for copy in side) for side in (went, came)]
    event = Event("swap", deal.day, client_key, " for ".join(sides), _party(session, bench, deal.to))
    post(session, bench.now(), event, rules.swap(held, weights, deal.cash))
    finish(session)
    return came


def _same_swap(session: Session, client_key: str, came: Sequence[CopyRecord], deal: Swap) -> None:
    made, given = known_event(session, client_key), _lot(session, client_key)
    cash = net_cash(session, made.id) if made is not None else 0
    stored = (sorted(row.copy_id for row in given), [(copy.parallel, copy.serial) for copy in came], -cash)
    same_things((*stored, came[0].got_on), (*_sides(deal), deal.cash.minor, deal.day))
    ids = [card_ids(session, one.product_id, [(one.item.known.section, one.item.known.number)]) for one in deal.got]
    same_things([{copy.card_id} for copy in came], [set(found.values()) for found in ids])
    same_things(came[0].source, deal.to.strip()[:120])


def _sides(deal: Swap) -> tuple[list[int], list[tuple[str, int | None]]]:
    return sorted(set(deal.given)), [(one.item.parallel, one.item.serial) for one in deal.got]


def _about(session: Session, copy: CopyRecord) -> About:
    return bases(session, [copy.id])[copy.id].about


def _come(session: Session, bench: Workbench, client_key: str, deal: Swap) -> list[CopyRecord]:
    found = []
    for place, one in enumerate(deal.got):
        known = one.item.known
        ids = card_ids(session, one.product_id, [(known.section, known.number)])
        found.append(
            CopyRecord(
                client_key=f"{client_key}:{place}", card_id=ids[(known.section, known.number)],
                parallel=one.item.parallel, serial=one.item.serial, run=one.item.run, came="trade",
                **known_of(one.item),
                source=deal.to.strip()[:120], got_on=deal.day, made_at=bench.now(),
            )
        )  # fmt: skip
    session.add_all(found)
    session.flush()
    return found


def _leave(
    session: Session, bench: Workbench, client_key: str, went: Sequence[CopyRecord], came: Sequence[CopyRecord],
    deal: Swap,
) -> None:  # fmt: skip
    words = ", ".join(copy_words(session, copy) for copy in came)[:200]
    for place, copy in enumerate(went):
        session.add(
            DisposalRecord(
                client_key=f"{client_key}:{place}", copy_id=copy.id, went="swapped", left_on=deal.day, price_minor=0,
                costs_minor=0, currency=deal.cash.currency, came_in=words, to=deal.to.strip()[:120],
                made_at=bench.now(),
            )
        )  # fmt: skip
        copy.state = "gone"
    session.flush()
    end_copies(session, [copy.id for copy in went], deal.day)


def undo_swap(session: Session, bench: Workbench, client_key: str) -> None:
    """Take a whole swap back: what went is here again, what came never did.

    Raises
    ------
    BoxStateError
        When a card that came in has left since.
    """
    made = known_event(session, client_key)
    came = stored_together(session, CopyRecord, client_key)
    if any(copy.state not in ("here", "void") for copy in came):
        message = "A card that came in by this swap has left. Take that back first."
        raise BoxStateError(message)
    for copy in came:
        copy.state, copy.void_at = "void", bench.now()
    for row in _lot(session, client_key):
        if row.undone_at is None:
            row.undone_at = bench.now()
            session.get_one(CopyRecord, row.copy_id, populate_existing=True).state = "here"
    if made is not None:
        void(session, bench.now(), made.id, made.day)
    finish(session)
