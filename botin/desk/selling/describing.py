"""A description made ready to copy: what the card is, its marks stated honestly, its measured centering."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from botin.core.grading.grades import Inspection
from botin.desk.grading.inspections import looks_at
from botin.desk.selling.sealedgoods import SealedGoods
from botin.store.selling.sales import SoldCopy

NOTHING_SEEN = "Nobody looked at it closely: see the photos."
MOST_NAMED = 40


def description_for(session: Session, copies: Sequence[SoldCopy]) -> str:
    """Return the description of a single card, or of a lot line by line."""
    looks = looks_at(session, [one.copy.id for one in copies])
    if len(copies) == 1:
        return "\n".join(_of_one(copies[0], looks.get(copies[0].copy.id)))
    named = [f"- {one.product.name} {one.words}" for one in copies[:MOST_NAMED]]
    more = [f"- and {len(copies) - MOST_NAMED} more"] if len(copies) > MOST_NAMED else []
    marked = [one for one in copies if (look := looks.get(one.copy.id)) is not None and look.marks]
    said = [f"{len(marked)} of them have marks; they are in the photos."] if marked else []
    return "\n".join([f"{len(copies)} cards:", *named, *more, *said])


def _of_one(one: SoldCopy, look: Inspection | None) -> list[str]:
    found = [f"{one.product.name}, {one.label}", f"No. {one.card.number} {one.card.name}"]
    found += [f"Finish: {one.copy.parallel}"] if one.copy.parallel else []
    found += [f"Numbered {one.serial}"] if one.serial else []
    if one.copy.grade:
        found.append(
            f"Graded {one.copy.grade} by {one.copy.house or 'a house'}, certificate {one.copy.certificate or '–'}"
        )
        return found
    if look is None:
        return [*found, NOTHING_SEEN]
    sides = [f"{name} {_pair(value)}" for name, value in (("front", look.front), ("back", look.back)) if value]
    found += [f"Centering: {', '.join(sides)}"] if sides else []
    found.append(f"Marks: {', '.join(look.marks)}" if look.marks else "No marks seen.")
    return found


def description_of_goods(goods: SealedGoods, seal: str = "") -> str:
    """Return the description of a sealed box, or of packs out of one: what it is, and what the sealed check said."""
    fmt, found = goods.box.format, [goods.words]
    packs = goods.packs or fmt.packs_per_box
    found.append(f"{packs} pack{'' if packs == 1 else 's'}, {fmt.cards_per_pack} cards each")
    if goods.packs:
        found.append(f"From a box of {fmt.packs_per_box} that was opened.")
    found.append(f"The seal, looked over before: {seal}." if seal else "Nobody looked at the seal: see the photos.")
    return "\n".join(found)


def _pair(larger: float) -> str:
    return f"{larger:g}/{100 - larger:g}"
