"""How lucky a box was, line by line and in one figure; and what was promised and did not come."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from botin.core.counts import CountLaw
from botin.core.odds.lines import BoxModel, JointPromise, Line
from botin.core.odds.promised import Version, filled, short

EXACT = ("exact",)
AT_LEAST = ("at_least", "guaranteed")
SURE = ("exact", *AT_LEAST)


@dataclass(frozen=True, slots=True)
class LineLuck:
    """A line as expected and as it came over some boxes.

    Attributes
    ----------
    as_many, as_few : float or None
        P(X ≥ seen) and P(X ≤ seen) under the line's own model; None when it has no odds.
    p : float or None
        min(1, 2·min of them).
    adjusted : float or None
        After Holm's correction for all lines looked at.
    broken : bool
        More or fewer than an exact promise allows, or fewer than a guarantee: a claim, not luck.
    """

    line: Line
    expected: float | None
    seen: int
    as_many: float | None
    as_few: float | None
    p: float | None
    adjusted: float | None
    broken: bool


@dataclass(frozen=True, slots=True)
class Claim:
    """A promise that was not kept: what was promised and what came."""

    words: str
    promised: int
    seen: int


def line_laws(model: BoxModel) -> dict[tuple[str, str, str], CountLaw]:
    """Law of each line's count in a box; a line tied by a promise has its share of the joint count, thinned."""
    laws = {line.key: line.law for line in model.lines if line.law is not None and not line.is_rest}
    for joint in model.joint:
        laws |= {key: joint.law.thinned(weight) for key, weight in joint.weights.items()}
    return laws


def two_sided(law: CountLaw, seen: int) -> tuple[float, float, float]:
    """P(X ≥ x), P(X ≤ x), and min(1, 2·min of both)."""
    many, few = law.at_least(seen), law.at_most(seen)
    return many, few, min(1.0, 2 * min(many, few))


def holm(chances: Sequence[float]) -> list[float]:
    """Adjust p values for looking at many lines.

    Holm (1979), A simple sequentially rejective multiple test procedure, Scandinavian Journal of Statistics 6: the
    i-th smallest of m is multiplied by m − i + 1, never falling below the one before.
    """
    order = sorted(range(len(chances)), key=lambda at: chances[at])
    found, floor = [0.0] * len(chances), 0.0
    for rank, at in enumerate(order):
        floor = max(floor, min(1.0, (len(chances) - rank) * chances[at]))
        found[at] = floor
    return found


def line_luck(
    model: BoxModel, seen: dict[tuple[str, str, str], int], boxes: int = 1, opened: int | None = None
) -> tuple[LineLuck, ...]:
    """Work out the luck of every line over some boxes of one format.

    Parameters
    ----------
    model : BoxModel
        The lines of the format.
    seen : dict
        Copies by line.
    boxes : int
        Boxes they came from.
    opened : int, optional
        Packs opened of one box, where not all were: only they count.
    """
    laws, rows = line_laws(model), []
    for line in model.lines:
        law, count = laws.get(line.key), seen.get(line.key, 0)
        whole = _in_opened(model, law, boxes, opened)
        rows.append((line, count, law, whole, _chances(line, whole, count)))
    tested = [at for at, row in enumerate(rows) if row[4][2] is not None and not _sure(rows[at][0])]
    adjusted = dict(zip(tested, holm([rows[at][4][2] or 0.0 for at in tested]), strict=True))
    share = boxes if opened is None else opened / model.format.packs_per_box
    return tuple(
        LineLuck(
            line=line,
            expected=whole.mean if whole is not None else None if line.expected is None else line.expected * share,
            seen=count,
            as_many=many,
            as_few=few,
            p=both if at in adjusted else None,
            adjusted=adjusted.get(at),
            broken=_broken(model, line, law, count, opened),
        )
        for at, (line, count, law, whole, (many, few, both)) in enumerate(rows)
    )


def _in_opened(model: BoxModel, law: CountLaw | None, boxes: int, opened: int | None) -> CountLaw | None:
    """Law of a line in what was opened; None when it never comes."""
    if law is None or law.mean <= 0:
        return None
    return law.times(boxes) if opened is None else law.opened(opened, model.format.packs_per_box)


def _chances(line: Line, law: CountLaw | None, seen: int) -> tuple[float | None, float | None, float | None]:
    """Tail chances; none for more than is guaranteed where no odds say how often that happens."""
    if law is None:
        return None, None, None
    if line.promise in AT_LEAST and not law.poisson and seen > law.mean:
        return None, None, None
    return two_sided(law, seen)


def _sure(line: Line) -> bool:
    return line.promise in EXACT


def _broken(model: BoxModel, line: Line, law: CountLaw | None, seen: int, opened: int | None) -> bool:
    """Whether a promise is broken: by what came, or because what is left cannot hold what is owed."""
    if law is None or line.promise not in SURE or line.case_law is not None:
        return False
    room = 0 if opened is None else (model.format.packs_per_box - opened) * model.format.cards_per_pack
    return seen + room < law.fixed or (
        line.promise == "exact" and (seen > law.fixed or (not room and seen < law.fixed))
    )


def claims(
    model: BoxModel,
    seen: dict[tuple[str, str, str], int],
    boxes: int = 1,
    opened: int | None = None,
    *,
    cards: Sequence[Version] = (),
    unlisted: int = 0,
) -> tuple[Claim, ...]:
    """List guarantees per box or pack that came short, those of single lines and those that span lines.

    With packs unopened there is a claim only where they cannot hold what is owed.
    """
    found = []
    for row in line_luck(model, seen, boxes, opened):
        law = line_laws(model).get(row.line.key)
        if row.broken and law is not None and row.seen < law.fixed * boxes:
            name = " ".join(filter(None, (row.line.section.label, row.line.parallel, row.line.group)))
            found.append(Claim(f"{name}: {row.line.printed}", law.fixed * boxes, row.seen))
    room = 0 if opened is None else (model.format.packs_per_box - opened) * model.format.cards_per_pack
    if boxes == 1 and model.box_law is not None:
        known = cards or [(key[0], "", key[1]) for key, count in seen.items() for _ in range(count)]
        found += _short(model, known, room + unlisted)
        return tuple(found)
    for joint in model.joint:
        count = sum(seen.get(key, 0) for key in joint.weights)
        if _guaranteed(joint) and count + room < joint.law.fixed * boxes:
            found.append(
                Claim(joint.row.label or f"{joint.row.count} per {joint.row.per}", joint.law.fixed * boxes, count)
            )
    return tuple(found)


def _short(model: BoxModel, cards: Sequence[Version], room: int) -> list[Claim]:
    """Promises of a box that nothing can fill any more, whichever card is counted for which."""
    if model.box_law is None:
        return []
    product = model.box_law.product
    lacking = short(product, model.format, cards, room=room)
    promised: Counter[str] = Counter()
    for one in filled(product, model.format, cards):
        promised[one.row.label or f"{one.row.count} per {one.row.per}"] += one.sure
    return [Claim(label, promised[label], promised[label] - missing) for label, missing in lacking.items()]


def _guaranteed(joint: JointPromise) -> bool:
    return joint.row.promise in SURE and joint.row.per != "case"
