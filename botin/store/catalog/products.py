"""Products in and out of the store."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy import delete, func, insert, select, update
from sqlalchemy.orm import Session

from botin.core.catalog.product import (
    Card,
    Format,
    Kind,
    OddsRow,
    OverallRow,
    Parallel,
    Product,
    PromiseRow,
    Section,
    TeamClub,
)
from botin.core.errors import NotFoundError
from botin.core.money import Money
from botin.store.catalog.index import forget_cards, index_cards
from botin.store.models import (
    Base,
    BoxRecord,
    CardRecord,
    CorrectionRecord,
    DraftRecord,
    FormatRecord,
    OddsRecord,
    OverallRecord,
    ParallelRecord,
    ProductRecord,
    PromiseRecord,
    SectionRecord,
    TeamClubRecord,
)
from botin.store.models_copies import CopyRecord


def save_product(session: Session, product: Product) -> ProductRecord:
    """Store a product, new or again.

    Formats, sections and cards are matched by their keys and keep their identity, so that logged copies stay on
    their checklist entry; what is gone from the package is taken out unless a box or a copy hangs on it. The other
    tables are replaced. Nothing is committed here.
    """
    record = session.scalar(select(ProductRecord).where(ProductRecord.key == product.key))
    if record is None:
        record = ProductRecord(key=product.key, name=product.name, revision=0)
        session.add(record)
    for name in ("name", "maker", "season", "sport", "released_on", "currency"):
        setattr(record, name, getattr(product, name))
    record.revision += 1
    session.flush()
    forget_cards(session, record.id)
    formats = _sync_formats(session, record, product.formats)
    sections = _sync_sections(session, record, product.sections)
    _sync_cards(session, sections, product.cards)
    _replace_lines(session, product, formats, sections)
    _replace_page(session, record.id, product)
    session.flush()
    index_cards(session, record.id)
    mine = select(SectionRecord.id).where(SectionRecord.product_id == record.id)
    record.cards = session.scalar(select(func.count()).where(CardRecord.section_id.in_(mine))) or 0
    session.expire(record, ["formats"])
    return record


def _sync_formats(session: Session, record: ProductRecord, wanted: Iterable[Format]) -> dict[str, int]:
    known = {row.key: row for row in record.formats}
    keep = set()
    for fmt in wanted:
        row = known.get(fmt.key) or FormatRecord(key=fmt.key)
        row.label, row.packs_per_box, row.cards_per_pack = fmt.label, fmt.packs_per_box, fmt.cards_per_pack
        row.packs_range = fmt.packs_words if fmt.packs_range else ""
        row.boxes_per_case = fmt.boxes_per_case
        row.list_price_minor = fmt.list_price.minor if fmt.list_price else None
        row.list_price_currency = fmt.list_price.currency if fmt.list_price else ""
        if fmt.key not in known:
            record.formats.append(row)
        known[fmt.key] = row
        keep.add(fmt.key)
    session.flush()
    used = set(
        session.scalars(select(BoxRecord.format_id).where(BoxRecord.format_id.in_([r.id for r in known.values()])))
    )
    for key, row in list(known.items()):
        if key not in keep and row.id not in used:
            record.formats.remove(row)
            del known[key]
    session.flush()
    return {key: row.id for key, row in known.items()}


def _sync_sections(session: Session, record: ProductRecord, wanted: Iterable[Section]) -> dict[str, int]:
    rows = session.scalars(select(SectionRecord).where(SectionRecord.product_id == record.id))
    known = {row.key: row for row in rows}
    keep = set()
    for section in wanted:
        row = known.get(section.key) or SectionRecord(key=section.key, product_id=record.id)
        row.label, row.kind = section.label, section.kind.value
        row.back_code, row.cue = section.back_code, section.cue
        session.add(row)
        known[section.key] = row
        keep.add(section.key)
    session.flush()
    pulled = select(CardRecord.section_id).join(CopyRecord, CopyRecord.card_id == CardRecord.id)
    gone = [row.id for key, row in known.items() if key not in keep]
    used = set(session.scalars(pulled.where(CardRecord.section_id.in_(gone)))) if gone else set()
    session.execute(delete(SectionRecord).where(SectionRecord.id.in_([i for i in gone if i not in used])))
    return {key: row.id for key, row in known.items() if key in keep or row.id in used}


def _sync_cards(session: Session, sections: dict[str, int], wanted: Iterable[Card]) -> None:
    columns = (CardRecord.id, CardRecord.section_id, CardRecord.number, CardRecord.name)
    found = session.execute(select(*columns).where(CardRecord.section_id.in_(sections.values()))).all()
    known = {(section, number): card for card, section, number, _ in found}
    fresh: list[dict[str, Any]] = []
    changed: list[dict[str, Any]] = []
    for card in wanted:
        if card.section not in sections:
            continue
        cells = _card_cells(card, sections[card.section])
        found_id = known.pop((cells["section_id"], card.number), None)
        if found_id is None:
            fresh.append(cells)
        elif found_id:
            changed.append({"id": found_id, **cells})
        known[(cells["section_id"], card.number)] = 0
    gone = {(number, name): card for card, section, number, name in found if known[(section, number)]}
    fresh = [row for row in _first_of_each(fresh) if not _moved(row, gone, changed, known)]
    if fresh:
        session.execute(insert(CardRecord), fresh)
    if changed:
        session.execute(update(CardRecord), changed)
    _drop_unlogged(session, [card for card in known.values() if card])


def _moved(
    row: dict[str, Any],
    gone: dict[tuple[str, str], int],
    changed: list[dict[str, Any]],
    known: dict[tuple[int, str], int],
) -> bool:
    """A card that left one section for another (a short print known later) keeps its identity and its copies."""
    card = gone.pop((row["number"], row["name"]), None)
    if card is None:
        return False
    changed.append({"id": card, **row})
    known |= {place: 0 for place, found in known.items() if found == card}
    return True


def _card_cells(card: Card, section_id: int) -> dict[str, Any]:
    return {
        "section_id": section_id,
        "number": card.number,
        "name": card.name,
        "team": card.team,
        "rookie": card.rookie,
        "grp": card.group,
        "note": card.note,
    }


def _first_of_each(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """A number twice in a section is stored once: the first row (the audit says so)."""
    seen: dict[tuple[int, str], dict[str, Any]] = {}
    for row in rows:
        seen.setdefault((row["section_id"], row["number"]), row)
    return list(seen.values())


def _drop_unlogged(session: Session, gone: list[int]) -> None:
    """Delete checklist entries that no copy hangs on."""
    for start in range(0, len(gone), 500):
        part = gone[start : start + 500]
        used = set(session.scalars(select(CopyRecord.card_id).where(CopyRecord.card_id.in_(part))))
        session.execute(delete(CardRecord).where(CardRecord.id.in_([i for i in part if i not in used])))


def _replace_lines(session: Session, product: Product, formats: dict[str, int], sections: dict[str, int]) -> None:
    session.execute(delete(ParallelRecord).where(ParallelRecord.section_id.in_(sections.values())))
    session.execute(delete(OddsRecord).where(OddsRecord.format_id.in_(formats.values())))
    names = ("key", "label", "run_text", "back_code", "cue", "swatch")
    parallels = [
        {"section_id": sections[row.section], "grp": row.group, **{name: getattr(row, name) for name in names}}
        for row in product.parallels
        if row.section in sections
    ]
    rates = ("parallel", "packs_per_hit", "per_box", "per_case", "per_pack", "promise")
    odds = [
        {
            "format_id": formats[row.format],
            "section_id": sections[row.section],
            "grp": row.group,
            **{name: getattr(row, name) for name in rates},
        }
        for row in product.odds
        if row.format in formats and row.section in sections
    ]
    _insert(session, ParallelRecord, parallels)
    _insert(session, OddsRecord, odds)


def _replace_page(session: Session, product_id: int, product: Product) -> None:
    """Promises, printed totals and affiliates."""
    tables: tuple[tuple[type[Base], tuple[Any, ...], tuple[str, ...]], ...] = (
        (PromiseRecord, product.promises, ("format", "label", "count", "per", "promise", "covers")),
        (OverallRecord, product.overall, ("format", "label", "kinds", "packs_per_hit")),
        (TeamClubRecord, product.teams, ("team", "club")),
    )
    for record, rows, names in tables:
        session.execute(delete(record).where(record.product_id == product_id))  # type: ignore[attr-defined]
        cells = [{"product_id": product_id, **{name: getattr(row, name) for name in names}} for row in rows]
        _insert(session, record, cells)


def _insert(session: Session, record: type[Base], rows: list[dict[str, Any]]) -> None:
    if rows:
        session.execute(insert(record), rows)


def load_product(session: Session, record: ProductRecord) -> Product:
    """Read a whole product for the core."""
    sections = list(
        session.scalars(select(SectionRecord).where(SectionRecord.product_id == record.id).order_by(SectionRecord.id))
    )
    key_of = {row.id: row.key for row in sections}
    return Product(
        key=record.key,
        name=record.name,
        maker=record.maker,
        season=record.season,
        sport=record.sport,
        released_on=record.released_on,
        currency=record.currency,
        formats=tuple(_format(row) for row in record.formats),
        sections=tuple(Section(r.key, r.label, Kind(r.kind), r.back_code, r.cue) for r in sections),
        cards=_cards(session, key_of),
        parallels=_parallels(session, key_of),
        odds=_odds(session, record, key_of),
        **_page(session, record.id),
    )


def _format(row: FormatRecord) -> Format:
    price = None if row.list_price_minor is None else Money(row.list_price_minor, row.list_price_currency)
    few, _, most = row.packs_range.partition("-")
    both = (int(few), int(most)) if most else None
    return Format(
        row.key, row.label, row.packs_per_box, row.cards_per_pack, row.boxes_per_case, price, packs_range=both
    )


def _cards(session: Session, key_of: dict[int, str]) -> tuple[Card, ...]:
    c = CardRecord
    columns = (c.section_id, c.number, c.name, c.team, c.rookie, c.grp, c.note)
    found = session.execute(select(*columns).where(c.section_id.in_(key_of)).order_by(c.id))
    return tuple(Card(key_of[row[0]], *row[1:]) for row in found)


def _parallels(session: Session, key_of: dict[int, str]) -> tuple[Parallel, ...]:
    p = ParallelRecord
    found = session.scalars(select(p).where(p.section_id.in_(key_of)).order_by(p.id))
    return tuple(
        Parallel(
            key=r.key,
            label=r.label,
            section=key_of[r.section_id],
            group=r.grp,
            run_text=r.run_text,
            back_code=r.back_code,
            cue=r.cue,
            swatch=r.swatch,
        )
        for r in found
    )


def _odds(session: Session, record: ProductRecord, key_of: dict[int, str]) -> tuple[OddsRow, ...]:
    o = OddsRecord
    formats = {row.id: row.key for row in record.formats}
    found = session.scalars(select(o).where(o.format_id.in_(formats)).order_by(o.id))
    return tuple(
        OddsRow(
            format=formats[r.format_id],
            section=key_of[r.section_id],
            parallel=r.parallel,
            group=r.grp,
            packs_per_hit=r.packs_per_hit,
            per_box=r.per_box,
            per_case=r.per_case,
            per_pack=r.per_pack,
            promise=r.promise,
        )
        for r in found
    )


def _page(session: Session, product_id: int) -> dict[str, Any]:
    def rows(record: Any) -> Any:
        return session.scalars(select(record).where(record.product_id == product_id).order_by(record.id))

    return {
        "promises": tuple(
            PromiseRow(r.format, r.label, r.count, r.per, r.promise, r.covers) for r in rows(PromiseRecord)
        ),
        "overall": tuple(OverallRow(r.format, r.label, r.kinds, r.packs_per_hit) for r in rows(OverallRecord)),
        "teams": tuple(TeamClub(r.team, r.club) for r in rows(TeamClubRecord)),
    }


def product_of_card(session: Session, card_id: int) -> int:
    """Return the product whose checklist a card is on.

    Raises
    ------
    NotFoundError
        When it is on none.
    """
    wanted = select(SectionRecord.product_id).join(CardRecord, CardRecord.section_id == SectionRecord.id)
    found = session.scalar(wanted.where(CardRecord.id == card_id))
    if found is None:
        message = "That card is not on any checklist here. Look it up in the library."
        raise NotFoundError(message)
    return found


def product_names(session: Session) -> list[tuple[int, str]]:
    """Return id and name of every product, by name."""
    rows = session.execute(select(ProductRecord.id, ProductRecord.name).order_by(ProductRecord.name))
    return [(key, name) for key, name in rows]


def product_count(session: Session) -> int:
    """Count the products."""
    return session.scalar(_COUNT) or 0


_COUNT = select(func.count()).select_from(ProductRecord)


def forget_product(session: Session, record: ProductRecord) -> None:
    """Remove a product with its cards and corrections; the drafts it was made of can be stored again."""
    forget_cards(session, record.id)
    for draft in session.scalars(select(DraftRecord).where(DraftRecord.product_id == record.id)):
        draft.product_id = draft.stored_at = None
    session.execute(delete(CorrectionRecord).where(CorrectionRecord.product_id == record.id))
    session.delete(record)
