"""Products, formats and cards as they are listed and looked up."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Integer, bindparam, func, or_, select
from sqlalchemy.orm import Session, selectinload

from botin.core.errors import NotFoundError
from botin.store.models import BoxRecord, CardRecord, FormatRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord


def products_with_formats(session: Session, limit: int, *, aside: bool = False) -> Sequence[ProductRecord]:
    """Return products with their formats, the newest first; those set ``aside`` too when they are asked for."""
    return session.scalars(_ALL if aside else _IN_USE, {"most": limit}).all()


_ALL = (
    select(ProductRecord)
    .order_by(ProductRecord.set_aside, ProductRecord.released_on.desc(), ProductRecord.name)
    .limit(bindparam("most", type_=Integer))
    .options(selectinload(ProductRecord.formats))
)
_IN_USE = _ALL.where(~ProductRecord.set_aside)


def all_products(session: Session) -> Sequence[ProductRecord]:
    """Return all products in the order they were stored."""
    return session.scalars(select(ProductRecord).order_by(ProductRecord.id)).all()


def product_keyed(session: Session, key: str) -> ProductRecord | None:
    """Return the product of a key; None when there is none."""
    return session.scalar(select(ProductRecord).where(ProductRecord.key == key))


def keys_of_products(session: Session) -> dict[int, str]:
    """Return the key of every product by its id."""
    return {key: word for key, word in session.execute(select(ProductRecord.id, ProductRecord.key))}  # noqa: C416


def products_with_cards(session: Session, limit: int) -> list[tuple[int, str]]:
    """Return id and name of the products that have a checklist, by name."""
    p = ProductRecord
    there = select(SectionRecord.id).where(SectionRecord.product_id == p.id).exists()
    rows = session.execute(select(p.id, p.name).where(there).order_by(p.name).limit(limit))
    return [(key, name) for key, name in rows]


def products_with_number(session: Session, number: str, besides: int, limit: int) -> Sequence[str]:
    """Name the products but one that have a card of a number, the newest first."""
    query = (
        select(ProductRecord.name)
        .join(SectionRecord, SectionRecord.product_id == ProductRecord.id)
        .join(CardRecord, CardRecord.section_id == SectionRecord.id)
        .where(func.lower(CardRecord.number) == number.lower(), ProductRecord.id != besides)
        .order_by(ProductRecord.released_on.desc())
        .distinct()
        .limit(limit)
    )
    return session.scalars(query).all()


def revision_sum(session: Session) -> int:
    """Return what changes whenever anything of any product does."""
    return session.scalar(select(func.sum(ProductRecord.revision))) or 0


def section_id(session: Session, product_id: int, key: str) -> int | None:
    """Return the id of a section of a product; None when it has none of this key."""
    wanted = select(SectionRecord.id).where(SectionRecord.product_id == product_id, SectionRecord.key == key)
    return session.scalar(wanted)


def cards_of_section(session: Session, section: int) -> dict[str, int]:
    """Return the ids of a section's cards by their numbers."""
    rows = session.execute(select(CardRecord.number, CardRecord.id).where(CardRecord.section_id == section))
    return {number: key for number, key in rows}  # noqa: C416


def card_and_product(session: Session, card_id: int) -> tuple[CardRecord, ProductRecord] | None:
    """Return a card of a checklist and its product; None when there is none."""
    found = session.execute(
        select(CardRecord, ProductRecord)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .join(ProductRecord, ProductRecord.id == SectionRecord.product_id)
        .where(CardRecord.id == card_id)
    ).one_or_none()
    return (found[0], found[1]) if found is not None else None


def hangs_on(session: Session, record: ProductRecord) -> tuple[str, ...]:
    """Return what keeps a product from being removed, in words: boxes and copies."""
    boxes = select(func.count()).select_from(BoxRecord).join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
    copies = (
        select(func.count())
        .select_from(CopyRecord)
        .join(CardRecord, CardRecord.id == CopyRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
    )
    asked = (
        ("box", "boxes", boxes.where(FormatRecord.product_id == record.id)),
        ("copy", "copies", copies.where(SectionRecord.product_id == record.id)),
    )
    counts = ((one, many, session.scalar(query) or 0) for one, many, query in asked)
    return tuple(f"{count:,} {one if count == 1 else many}" for one, many, count in counts if count)


def format_choices(session: Session) -> list[tuple[int, str, str]]:
    """Id, words and currency of every format one can buy."""
    rows = session.execute(
        select(FormatRecord, ProductRecord)
        .join(ProductRecord, ProductRecord.id == FormatRecord.product_id)
        .where(~ProductRecord.set_aside)
        .order_by(ProductRecord.name, FormatRecord.id)
    )
    return [(fmt.id, f"{product.name} · {fmt.label}", product.currency) for fmt, product in rows]


def find_product(session: Session, key: str) -> ProductRecord:
    """Return a product by its key, name or number.

    Raises
    ------
    NotFoundError
        When there is none, naming those there are.
    """
    p = ProductRecord
    wanted = or_(p.key == key, p.name == key, p.id == (int(key) if key.isdecimal() and len(key) < 10 else -1))
    found = session.scalar(select(p).where(wanted))
    if found is None:
        have = ", ".join(session.scalars(select(p.key).order_by(p.key).limit(8))) or "none"
        message = f"There is no product “{key}”. The library has: {have}."
        raise NotFoundError(message)
    return found
