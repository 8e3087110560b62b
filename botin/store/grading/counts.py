"""Counts of grades, and whose stand in for whose, in the store."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy import Row, delete, func, select
from sqlalchemy.orm import Session

from botin.store.models import ProductRecord, SettingRecord
from botin.store.models_copies import GradeCountRecord, ReturnedRecord

BORROWED = "grades borrowed by {}"
"""Key of the setting that says whose counts stand in for those of a product."""


def counts_of(session: Session, product_id: int) -> Sequence[tuple[str, int, int]]:
    """Return section, grade in halves and count of a product's counts."""
    g = GradeCountRecord
    rows = session.execute(select(g.section, g.grade_halves, g.count).where(g.product_id == product_id))
    return [(section, halves, count) for section, halves, count in rows]


def borrowed_from(session: Session, product_id: int) -> tuple[int, str] | None:
    """Return the sister product whose counts stand in for those of a product that has none; None without one."""
    kept = session.get(SettingRecord, BORROWED.format(product_id))
    if kept is None:
        return None
    name = session.scalar(select(ProductRecord.name).where(ProductRecord.id == int(kept.value)))
    return None if name is None else (int(kept.value), name)


def borrowers(session: Session, product_id: int) -> Sequence[ProductRecord]:
    """Return the products that rest on the counts of another one."""
    rows = session.scalars(select(ProductRecord))
    return [row for row in rows if (lender := borrowed_from(session, row.id)) and lender[0] == product_id]


def borrowings(session: Session) -> dict[int, str]:
    """Return by product from which one it borrows its counts, while it has none of its own."""
    found = {key: borrowed_from(session, key) for key in session.scalars(select(ProductRecord.id))}
    return {key: lender[1] for key, lender in found.items() if lender and not counts_of(session, key)}


def taught(session: Session) -> tuple[int, int]:
    """Count the grades of mine that came back, and the counts of houses that are written down."""
    kinds = (ReturnedRecord, GradeCountRecord)
    found = session.execute(select(*(select(func.count(kind.id)).scalar_subquery() for kind in kinds))).one()
    return (int(found[0]), int(found[1]))


def counts_stamp(session: Session) -> tuple[int, int]:
    """Return what changes when a count of grades or a returned grade does: all copies counted, and my own returns."""
    counted = session.scalar(select(func.sum(GradeCountRecord.count))) or 0
    return (int(counted), taught(session)[0])


def replace_counts(session: Session, product_id: int, counts: Mapping[tuple[str, int], int]) -> None:
    """Put counts in place of those of a product, by section and grade in halves."""
    g = GradeCountRecord
    session.execute(delete(g).where(g.product_id == product_id))
    session.add_all(
        g(product_id=product_id, section=section, grade_halves=halves, count=count)
        for (section, halves), count in counts.items()
    )


def counts_by_name(session: Session) -> Sequence[Row[int, str, str, int, int]]:
    """Return product, its name, section, grade in halves and count of everything that was counted, by name."""
    g, p = GradeCountRecord, ProductRecord
    return session.execute(
        select(p.id, p.name, g.section, g.grade_halves, g.count)
        .join(g, g.product_id == p.id)
        .order_by(p.name, g.section, g.grade_halves.desc())
    ).all()


def returned(session: Session, house: str = "", *, scored: bool = False) -> Sequence[ReturnedRecord]:
    """Return grades of mine that came back (from one house; only of copies I had scored), in the order they came."""
    r = ReturnedRecord
    wanted = select(r).order_by(r.returned_on)
    if house:
        wanted = wanted.where(r.house == house)
    return session.scalars(wanted.where(r.score_halves.is_not(None)) if scored else wanted).all()


def forget_return(session: Session, client_key: str) -> None:
    """Take a returned grade out: it teaches nothing any more."""
    session.execute(delete(ReturnedRecord).where(ReturnedRecord.client_key == client_key))
