"""What a whole case still owes: its own hits, and the promises of its boxes together."""

from __future__ import annotations

from botin.core.catalog.product import Product
from botin.core.counts import CountLaw, promised_law
from botin.core.errors import BadOddsError
from botin.core.insight.luck import Claim
from botin.core.odds.lines import LEARNED, BoxModel, JointPromise
from botin.core.odds.rates import parse_printed
from botin.core.odds.rowrates import LineKey
from botin.core.opening.owed import EACH, Opened, Owed, by_school, over_case, owed


def case_claims(product: Product, model: BoxModel, seen: dict[LineKey, int], opened: int) -> tuple[Claim, ...]:
    """List what a whole case promised and did not hold; only once all of its packs are open."""
    rows = (row for row in owed_case(product, model, seen, opened) if row.left == 0 and row.owed)
    return tuple(Claim(f"{row.label} (whole case)", row.promised, row.seen) for row in rows)


def owed_case(product: Product, model: BoxModel, seen: dict[LineKey, int], opened: int) -> tuple[Owed, ...]:
    """What a case of the model's format owes after ``opened`` of its packs.

    Parameters
    ----------
    product : Product
        For the rates per case, which a single box only shares in.
    seen : dict
        Cards seen by line over the boxes of the case.
    opened : int
        Packs opened over the boxes of the case.

    Returns
    -------
    tuple of Owed
        Empty when nobody says how many boxes a case has.
    """
    fmt = model.format
    if not fmt.boxes_per_case:
        return ()
    packs = fmt.packs_per_box * fmt.boxes_per_case
    whole = Opened(packs, max(0, packs - opened))
    found = [_promise(joint, seen, whole, fmt.boxes_per_case) for joint in model.joint]
    for row in product.odds:
        law = _per_case(row.per_case, row.promise) if row.format == fmt.key and row.per_case else None
        if law is not None and row.section in product.section_by_key:
            label = " ".join(filter(None, (product.section_by_key[row.section].label, row.parallel, row.group)))
            found.append(owed(label, law, seen.get((row.section, row.parallel, row.group), 0), whole))
    return tuple(found)


def _per_case(text: str, promise: str) -> CountLaw | None:
    try:
        count = parse_printed(text).value
    except BadOddsError:
        return None
    return promised_law(count, promise, None, LEARNED)


def _promise(joint: JointPromise, seen: dict[LineKey, int], whole: Opened, boxes: int) -> Owed:
    count = sum(seen.get(key, 0) for key in joint.weights)
    own = _per_case(joint.row.count, joint.row.promise) if joint.row.per == "case" else None
    law = over_case(joint.law, boxes, own)
    return owed(joint.row.label, by_school(law, EACH, 1), count, whole)
