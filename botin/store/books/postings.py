"""The books in the store: written once, taken back by mirrors, added up."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import ColumnElement, func, insert, select, text
from sqlalchemy.orm import Session

from botin.core.books.posting import About, Account, Basis, Posting, Postings, balanced, mirror
from botin.core.books.results import Key, Result
from botin.core.errors import BoxStateError, NotFoundError
from botin.core.money import Money
from botin.store.models import BoxRecord, CardRecord, FormatRecord, ProductRecord, SectionRecord
from botin.store.models_books import MonthSumRecord, PostingRecord, TransactionRecord
from botin.store.models_copies import ME, CopyRecord, PartyRecord
from botin.store.once import once

AT_ONCE = 400


@dataclass(frozen=True, slots=True)
class Event:
    """What happened: the kind, the day, a key that makes it happen once, with whom, and in words."""

    kind: str
    day: date
    key: str
    words: str = ""
    party: int | None = None
    estimated: bool = False


def known_event(session: Session, key: str) -> TransactionRecord | None:
    """Return the transaction stored under a key."""
    return session.scalar(select(TransactionRecord).where(TransactionRecord.client_key == key))


def moved(session: Session, transaction_id: int) -> tuple[int, str]:
    """Return how much an entry moved from one account to another (minor units), and its currency."""
    p = PostingRecord
    wanted = select(func.sum(p.minor), func.max(p.currency)).where(p.transaction_id == transaction_id, p.minor > 0)
    minor, currency = session.execute(wanted).one()
    return minor or 0, currency or ""


def net_cash(session: Session, transaction_id: int) -> int:
    """Return what an entry brought in cash (minor units); below nothing when it cost."""
    p = PostingRecord
    mine = (p.transaction_id == transaction_id, p.account == Account.CASH.value)
    return session.scalar(select(func.sum(p.minor)).where(*mine)) or 0


def post(
    session: Session, now: datetime, event: Event, postings: Iterable[Posting], *, voids: int | None = None
) -> TransactionRecord | None:
    """Write an event with its postings; None when nothing moves. The same key again gives the same one.

    Nothing is committed here.
    """
    known = known_event(session, event.key)
    rows = balanced(postings)
    if known is not None or not rows:
        return known
    made = TransactionRecord(
        client_key=event.key, day=event.day, kind=event.kind, party_id=event.party, words=event.words[:300],
        estimated=event.estimated, voids_id=voids, made_at=now,
    )  # fmt: skip
    session.add(made)
    session.flush()
    session.execute(insert(PostingRecord), [_row(made.id, posting) for posting in rows])
    _add_to_month(session, event, rows)
    return made


def _row(transaction: int, posting: Posting) -> dict[str, object]:
    about = posting.about
    return {
        "transaction_id": transaction, "account": posting.account.value, "minor": posting.minor,
        "currency": posting.currency, "box_id": about.box, "copy_id": about.copy, "order_id": about.order,
        "party_id": about.party, "product_id": about.product, "purchase_id": about.purchase,
    }  # fmt: skip


def _add_to_month(session: Session, event: Event, rows: Postings) -> None:
    sums: dict[tuple[int, str, str], int] = defaultdict(int)
    for row in rows:
        sums[(row.about.product or 0, row.account.value, row.currency)] += row.minor
    month = f"{event.day:%Y-%m}"
    session.execute(
        _MONTH,
        [
            {"month": month, "kind": event.kind, "product": product, "account": account, "currency": code, "minor": n}
            for (product, account, code), n in sums.items()
        ],
    )


_MONTH = text(
    "INSERT INTO month_sum (month, kind, product_id, account, currency, minor) "
    "VALUES (:month, :kind, :product, :account, :currency, :minor) "
    "ON CONFLICT (month, kind, product_id, account, currency) DO UPDATE SET minor = month_sum.minor + excluded.minor"
)


def postings_of(session: Session, transaction_id: int) -> Postings:
    """Return the postings of a transaction."""
    rows = session.scalars(select(PostingRecord).where(PostingRecord.transaction_id == transaction_id))
    return tuple(_posting(row) for row in rows.all())


def _posting(row: PostingRecord) -> Posting:
    about = About(row.box_id, row.copy_id, row.order_id, row.party_id, row.product_id, row.purchase_id)
    return Posting(Account(row.account), row.minor, row.currency, about)


def is_voided(session: Session, transaction_id: int) -> bool:
    """Whether a transaction was taken back."""
    wanted = select(TransactionRecord.id).where(TransactionRecord.voids_id == transaction_id)
    return session.scalar(wanted) is not None


def void(session: Session, now: datetime, transaction_id: int, day: date, words: str = "") -> TransactionRecord:
    """Take a transaction back by its mirror; one that was taken back already gives that mirror again.

    Raises
    ------
    NotFoundError
        When there is none.
    BoxStateError
        When it is itself a mirror.
    """
    found = session.get(TransactionRecord, transaction_id)
    if found is None:
        message = "That entry is not in the books. Reload the page."
        raise NotFoundError(message)
    if found.voids_id is not None:
        message = "That entry takes another one back already. Write the event down anew instead."
        raise BoxStateError(message)
    known = session.scalar(select(TransactionRecord).where(TransactionRecord.voids_id == transaction_id))
    if known is not None:
        return known
    event = Event(
        found.kind, day, f"void-{found.client_key}", words or f"takes back: {found.words}", found.party_id,
        found.estimated,
    )  # fmt: skip
    made = post(session, now, event, mirror(postings_of(session, transaction_id)), voids=transaction_id)
    assert made is not None  # noqa: S101  (what was posted moves something, and so does its mirror)
    return made


def _named(key: str) -> ColumnElement[bool]:
    """The key itself, or the same event again: the key, a tilde and a number."""
    t = TransactionRecord
    return (t.client_key == key) | t.client_key.between(f"{key}~", f"{key}~~")


def free_key(session: Session, key: str) -> str:
    """Return a key of its own for an event that was taken back and happens anew: the first, or with a number."""
    t = TransactionRecord
    taken = session.scalar(select(func.count()).where(_named(key), t.voids_id.is_(None)))
    return key if not taken else f"{key}~{taken}"


def latest(session: Session, key: str) -> TransactionRecord | None:
    """Return the last transaction of a key, whether it was taken back or not."""
    t = TransactionRecord
    return session.scalars(select(t).where(_named(key), t.voids_id.is_(None)).order_by(t.id.desc()).limit(1)).first()


def live(session: Session, key: str) -> TransactionRecord | None:
    """Return the transaction of a key, or of a later one of it, that was not taken back."""
    t = TransactionRecord
    gone = select(t.voids_id).where(t.voids_id.is_not(None))
    wanted = select(t).where(_named(key), t.voids_id.is_(None), t.id.not_in(gone))
    return session.scalars(wanted.order_by(t.id.desc()).limit(1)).first()


def live_of_box(session: Session, kind: str, box_id: int) -> list[TransactionRecord]:
    """Return the transactions of a kind for a box that were not taken back, the latest first."""
    t, p = TransactionRecord, PostingRecord
    gone = select(t.voids_id).where(t.voids_id.is_not(None))
    of = select(p.transaction_id).where(p.box_id == box_id)
    wanted = select(t).where(t.id.in_(of), t.kind == kind, t.voids_id.is_(None), t.id.not_in(gone))
    return list(session.scalars(wanted.order_by(t.id.desc())))


def bases(session: Session, copies: Sequence[int]) -> dict[int, Basis]:
    """Return what copies cost so far, where that lies, and whose they are."""
    found: dict[int, Basis] = {}
    for start in range(0, len(copies), AT_ONCE):
        some = list(copies[start : start + AT_ONCE])
        held = _held(session, some)
        for copy, box, owner, product, code in _abouts(session, some):
            about = About(box=box, copy=copy, product=product)
            currency, sums = held.get(copy, (code or "EUR", {}))
            found[copy] = Basis(about, currency, sums, owner == ME, owner)
    return found


def paid_for(session: Session, copies: Sequence[int]) -> dict[int, Money]:
    """Return what copies from elsewhere were bought for, as the books have it."""
    p, t, found = PostingRecord, TransactionRecord, dict[int, Money]()
    for start in range(0, len(copies), AT_ONCE):
        rows = session.execute(
            select(p.copy_id, p.currency, func.sum(p.minor))
            .join(t, t.id == p.transaction_id)
            .where(p.copy_id.in_(list(copies[start : start + AT_ONCE])), p.account == Account.CARDS.value)
            .where(t.kind == "purchase")
            .group_by(p.copy_id, p.currency)
        )
        found.update((copy or 0, Money(minor, currency)) for copy, currency, minor in rows)
    return found


def _held(session: Session, copies: Sequence[int]) -> dict[int, tuple[str, dict[Account, int]]]:
    p, found = PostingRecord, dict[int, tuple[str, dict[Account, int]]]()
    rows = session.execute(
        select(p.copy_id, p.account, p.currency, func.sum(p.minor))
        .where(p.copy_id.in_(copies), p.account.in_([Account.CARDS.value, Account.GRADED.value]))
        .group_by(p.copy_id, p.account, p.currency)
    )
    for copy, account, currency, minor in rows:
        _, sums = found.setdefault(copy or 0, (currency, {}))
        sums[Account(account)] = sums.get(Account(account), 0) + minor
    return found


def _abouts(
    session: Session, copies: Sequence[int]
) -> Iterable[tuple[int, int | None, int | None, int | None, str | None]]:
    c, product = CopyRecord, func.coalesce(FormatRecord.product_id, SectionRecord.product_id)
    rows = session.execute(
        select(c.id, c.box_id, c.owner_id, ProductRecord.id, ProductRecord.currency)
        .outerjoin(BoxRecord, BoxRecord.id == c.box_id)
        .outerjoin(FormatRecord, FormatRecord.id == BoxRecord.format_id)
        .outerjoin(CardRecord, CardRecord.id == c.card_id)
        .outerjoin(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .outerjoin(ProductRecord, ProductRecord.id == product)
        .where(c.id.in_(copies))
    )
    return [(copy, box, owner, product, code) for copy, box, owner, product, code in rows]


@dataclass(frozen=True, slots=True)
class Sums:
    """Sums of postings by account, in one currency (minor units)."""

    currency: str
    by_account: dict[Account, int]

    def __getitem__(self, account: Account) -> int:
        return self.by_account.get(account, 0)

    def of(self, *accounts: Account) -> int:
        """Add up some accounts."""
        return sum(self[account] for account in accounts)


def sums_by_box(session: Session, boxes: Sequence[int]) -> dict[int, list[Sums]]:
    """Add up the postings of boxes and of the copies that came out of them, by currency."""
    found: dict[int, dict[str, Sums]] = defaultdict(dict)
    p = PostingRecord
    for start in range(0, len(boxes), AT_ONCE):
        some = list(boxes[start : start + AT_ONCE])
        rows = session.execute(
            select(p.box_id, p.account, p.currency, func.sum(p.minor))
            .where(p.box_id.in_(some))
            .group_by(p.box_id, p.account, p.currency)
        )
        for box, account, currency, minor in rows:
            sums = found[box or 0].setdefault(currency, Sums(currency, {}))
            sums.by_account[Account(account)] = minor
    return {box: list(sums.values()) for box, sums in found.items()}


def sums_where(session: Session, *where: ColumnElement[bool]) -> list[Sums]:
    """Add up the postings that some conditions choose, by currency."""
    p, found = PostingRecord, dict[str, Sums]()
    rows = session.execute(
        select(p.account, p.currency, func.sum(p.minor)).where(*where).group_by(p.account, p.currency)
    )
    for account, currency, minor in rows:
        found.setdefault(currency, Sums(currency, {})).by_account[Account(account)] = minor
    return list(found.values())


def month_rows(session: Session, first: str = "", last: str = "9999") -> list[MonthSumRecord]:
    """Return the sums of some months (``2026-11``)."""
    m = MonthSumRecord
    return list(session.scalars(select(m).where(m.month >= first, m.month <= last).order_by(m.month)))


def totals(session: Session) -> list[Sums]:
    """Add up everything, by currency."""
    m, found = MonthSumRecord, dict[str, Sums]()
    for account, currency, minor in session.execute(
        select(m.account, m.currency, func.sum(m.minor)).group_by(m.account, m.currency)
    ):
        found.setdefault(currency, Sums(currency, {})).by_account[Account(account)] = minor
    return list(found.values())


def add_up_anew(session: Session) -> None:
    """Make the sums of the months anew from the postings."""
    session.execute(text("DELETE FROM month_sum"))
    session.execute(text(MONTHS_ANEW))


MONTHS_ANEW = (
    "INSERT INTO month_sum (month, kind, product_id, account, currency, minor) "
    "SELECT substr(t.day, 1, 7), t.kind, coalesce(p.product_id, 0), p.account, p.currency, sum(p.minor) "
    'FROM posting p JOIN "transaction" t ON t.id = p.transaction_id GROUP BY 1, 2, 3, 4, 5'
)


def entries_of(session: Session) -> Iterator[tuple[TransactionRecord, list[PostingRecord]]]:
    """Yield every transaction with its postings, by day."""
    t = TransactionRecord
    made = session.scalars(select(t).order_by(t.day, t.id)).all()
    for start in range(0, len(made), AT_ONCE):
        some = made[start : start + AT_ONCE]
        rows: dict[int, list[PostingRecord]] = defaultdict(list)
        wanted = select(PostingRecord).where(PostingRecord.transaction_id.in_([one.id for one in some]))
        for row in session.scalars(wanted.order_by(PostingRecord.id)):
            rows[row.transaction_id].append(row)
        for one in some:
            yield one, rows[one.id]


def names_of_parties(session: Session) -> dict[int, str]:
    """Return the names of all people."""
    return dict(session.execute(select(PartyRecord.id, PartyRecord.name)).all())


def names_of_products(session: Session) -> dict[int, str]:
    """Return the keys of all products."""
    return dict(session.execute(select(ProductRecord.id, ProductRecord.key)).all())


def results_where(session: Session, *where: ColumnElement[bool]) -> list[Result]:
    """Return what came of the postings that some conditions choose, by currency."""
    p, t, found = PostingRecord, TransactionRecord, dict[str, dict[Key, int]]()
    rows = session.execute(
        select(t.kind, p.account, p.currency, func.sum(p.minor))
        .join(t, t.id == p.transaction_id)
        .where(*where)
        .group_by(t.kind, p.account, p.currency)
    )
    for kind, account, currency, minor in rows:
        found.setdefault(currency, {})[(kind, Account(account))] = minor
    return [Result(code, sums) for code, sums in found.items()]


def results_of_purchase(session: Session, purchase_id: int) -> list[Result]:
    """Return what came of an order so far: of its boxes, the cards out of them, and its singles."""
    p = PostingRecord
    boxes = select(BoxRecord.id).where(BoxRecord.purchase_id == purchase_id)
    singles = select(CopyRecord.id).where(CopyRecord.purchase_id == purchase_id)
    return results_where(session, p.box_id.in_(boxes) | p.copy_id.in_(singles))


def results_with(session: Session, party_id: int) -> list[Result]:
    """Return what passed between me and a person: all postings of the entries that name him, by currency."""
    return results_where(session, TransactionRecord.party_id == party_id)


def results_by_box(session: Session, boxes: Sequence[int]) -> dict[int, list[Result]]:
    """Return what came of boxes and of the copies out of them, by currency."""
    return once(session, ("results", tuple(boxes)), lambda: _results_by_box(session, boxes))


def _results_by_box(session: Session, boxes: Sequence[int]) -> dict[int, list[Result]]:
    p, t, found = PostingRecord, TransactionRecord, dict[int, dict[str, dict[Key, int]]]()
    for start in range(0, len(boxes), AT_ONCE):
        rows = session.execute(
            select(p.box_id, t.kind, p.account, p.currency, func.sum(p.minor))
            .join(t, t.id == p.transaction_id)
            .where(p.box_id.in_(list(boxes[start : start + AT_ONCE])))
            .group_by(p.box_id, t.kind, p.account, p.currency)
        )
        for box, kind, account, currency, minor in rows:
            found.setdefault(box or 0, {}).setdefault(currency, {})[(kind, Account(account))] = minor
    return {box: [Result(code, sums) for code, sums in by.items()] for box, by in found.items()}
