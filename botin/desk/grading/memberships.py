"""Memberships of grading houses and their vouchers: bought, held until a day, used."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books import posting as rules
from botin.core.errors import NotFoundError
from botin.core.money import Money
from botin.desk.books.booking import take_back
from botin.desk.grading.billing import NAMELESS, true_up
from botin.desk.grading.drafts import OrderError
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event, free_key, post
from botin.store.copies.people import party_named
from botin.store.grading.orders import get_order, memberships_of, vouchers, vouchers_used
from botin.store.keys import stored_under
from botin.store.models_grading import MembershipRecord, VoucherRecord
from botin.store.unit import finish


@dataclass(frozen=True, slots=True)
class Joining:
    """A membership that was bought; with ``order`` its cards carry what it cost."""

    house: str
    from_on: date
    until_on: date
    cost: Money
    order: int = 0


def join(session: Session, bench: Workbench, client_key: str, joining: Joining) -> MembershipRecord:
    """Note that a membership was bought; the same key again gives the same one.

    Raises
    ------
    OrderError
        When it ends before it begins, begins ahead, or costs less than nothing.
    """
    m = MembershipRecord
    known = stored_under(session, MembershipRecord, client_key)
    if known is not None:
        same_again(known, house=joining.house, from_on=joining.from_on, until_on=joining.until_on)
        return known
    if joining.until_on < joining.from_on or joining.from_on > bench.today() or joining.cost.minor < 0:
        message = "A membership begins today or before, ends after that, and costs nothing or more."
        raise OrderError(message)
    order = get_order(session, joining.order) if joining.order else None
    made = m(
        client_key=client_key, house=joining.house, from_on=joining.from_on, until_on=joining.until_on,
        cost_minor=joining.cost.minor, currency=joining.cost.currency, order_id=order.id if order else None,
        made_at=bench.now(),
    )  # fmt: skip
    session.add(made)
    session.flush()
    _book(session, bench, made)
    if order is not None:
        order.membership_minor += joining.cost.minor
        session.flush()
        true_up(session, bench, order, bench.today())
    finish(session)
    return made


def _book(session: Session, bench: Workbench, made: MembershipRecord) -> None:
    party = party_named(session, made.house or NAMELESS, bench.now()).id
    key = free_key(session, f"membership-{made.id}")
    event = Event("grading", made.from_on, key, f"membership of {made.house or NAMELESS}", party)
    post(session, bench.now(), event, rules.joined(Money(made.cost_minor, made.currency), made.order_id))


def release(session: Session, bench: Workbench, order_id: int) -> None:
    """Let memberships that were bought with an order stand by themselves: it is taken back, they stay bought.

    Nothing is committed here.
    """
    for made in memberships_of(session, order_id):
        take_back(session, bench, f"membership-{made.id}")
        made.order_id = None
        session.flush()
        _book(session, bench, made)


def leave(session: Session, bench: Workbench, membership_id: int) -> None:
    """Take back that a membership was bought.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = session.get(MembershipRecord, membership_id)
    if found is None:
        message = "That membership is not in the records. Reload the page."
        raise NotFoundError(message)
    if found.undone_at is not None:
        return
    found.undone_at = bench.now()
    take_back(session, bench, f"membership-{found.id}")
    if found.order_id is not None:
        order = get_order(session, found.order_id)
        order.membership_minor -= found.cost_minor
        session.flush()
        true_up(session, bench, order, bench.today())
    finish(session)


@dataclass(frozen=True, slots=True)
class Given:
    """A voucher: what it takes off the fee of how many cards, where, until when."""

    house: str
    off: Money
    cards: int = 1
    tier: str = ""
    until_on: date | None = None


def take_voucher(session: Session, bench: Workbench, client_key: str, given: Given) -> VoucherRecord:
    """Note a voucher that was got; the same key again gives the same one.

    Raises
    ------
    OrderError
        When it takes nothing off, or is for no card.
    """
    v = VoucherRecord
    known = stored_under(session, VoucherRecord, client_key)
    if known is not None:
        same_again(known, house=given.house, off_minor=given.off.minor)
        return known
    if given.off.minor <= 0 or not 1 <= given.cards <= 1000:
        message = "A voucher takes something off, for 1 to 1000 cards."
        raise OrderError(message)
    made = v(
        client_key=client_key, house=given.house, tier=given.tier, off_minor=given.off.minor,
        currency=given.off.currency, cards=given.cards, until_on=given.until_on, made_at=bench.now(),
    )  # fmt: skip
    session.add(made)
    finish(session)
    return made


def drop_voucher(session: Session, bench: Workbench, voucher_id: int) -> None:
    """Take a voucher out of the records.

    Raises
    ------
    OrderError
        When it was used already.
    """
    found = session.get(VoucherRecord, voucher_id)
    if found is None or found.undone_at is not None:
        return
    if vouchers_used(session)[found.id]:
        message = "That voucher is used in an order. Take it out of the order first."
        raise OrderError(message)
    found.undone_at = bench.now()
    finish(session)


@dataclass(frozen=True, slots=True)
class VoucherLeft:
    """A voucher and for how many cards it is still good."""

    voucher: VoucherRecord
    left: int


def vouchers_left(session: Session, day: date, house: str = "") -> list[VoucherLeft]:
    """Return the vouchers that can still be used on a day, of all houses or one."""
    used = vouchers_used(session)
    return [
        VoucherLeft(one, one.cards - used[one.id])
        for one in vouchers(session)
        if one.cards > used[one.id] and (one.until_on is None or one.until_on >= day) and house in ("", one.house)
    ]
