"""What someone hopes to pull, as a short text: a card, a version of it, a player, a team, a kind."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from botin.core.catalog.product import Card, Product
from botin.core.errors import BotinError, NotFoundError

FIELDS = ("name", "team", "kind", "section", "parallel", "rookie", "group")
EVERY = "*"


class BadWantError(BotinError):
    """A want that cannot be read."""

    status = 422
    exit_code = 2

    def __init__(self, text: str) -> None:
        super().__init__(
            f"“{text}” is not understood. Write section:number, section:number:parallel, section:number:* or"
            " name=…, team=…, kind=…; a comma between them means and."
        )


@dataclass(frozen=True, slots=True)
class Condition:
    """One condition on a version of a card; ``field`` is ``card`` for an exact card."""

    field: str
    value: str
    number: str = ""
    parallel: str = EVERY


@dataclass(frozen=True, slots=True)
class Want:
    """All conditions must hold."""

    text: str
    conditions: tuple[Condition, ...]


def parse_want(text: str) -> Want:
    """Read ``section:number[:parallel|:*]`` or ``name=…``, ``team=…``, ``kind=…``; a comma means and.

    Raises
    ------
    BadWantError
        When it is neither.
    """
    parts = [part.strip() for part in text.split(",")]
    if not all(parts):
        raise BadWantError(text)
    return Want(text.strip(), tuple(_condition(part, text) for part in parts))


def _condition(part: str, text: str) -> Condition:
    field, equals, value = part.partition("=")
    if equals and field.strip().lower() in FIELDS and value.strip():
        return Condition(field.strip().lower(), value.strip())
    cells = [cell.strip() for cell in part.split(":")]
    if equals or len(cells) not in (2, 3) or not cells[0] or not cells[1]:
        raise BadWantError(text)
    return Condition("card", cells[0], cells[1], cells[2] if len(cells) == 3 else "")


def versions(product: Product, want: Want) -> frozenset[tuple[str, str, str]]:
    """Return all versions (section, number, parallel) that satisfy a want; the plain card has parallel ``""``.

    Raises
    ------
    NotFoundError
        When the checklist has none.
    """
    found = frozenset(
        (card.section, card.number, parallel)
        for card, parallels in _candidates(product, want)
        for parallel in parallels
        if all(_holds(product, condition, card, parallel) for condition in want.conditions)
    )
    if not found:
        message = f"Nothing on the checklist of {product.name} is “{want.text}”. Look up its section and number."
        raise NotFoundError(message)
    return found


def _candidates(product: Product, want: Want) -> Iterator[tuple[Card, tuple[str, ...]]]:
    """Cards that may satisfy it, each with all its versions."""
    exact = next((found for found in want.conditions if found.field == "card"), None)
    card = product.card_by_number.get((exact.value, exact.number)) if exact else None
    for one in (card,) if card else () if exact else product.cards:
        if any(_fits_card(product, condition, one) is False for condition in want.conditions):
            continue
        finishes = product.finishes(one.section, one.group)
        printed = product.printed_finishes.get((one.section, one.group), ())
        yield one, tuple(dict.fromkeys(("", *finishes, *printed)))


def _fits_card(product: Product, condition: Condition, card: Card) -> bool:
    """Whether a condition holds for a card whatever its finish."""
    wanted = condition.value.casefold()
    if condition.field == "name":
        return wanted in {card.name.casefold(), *(name.casefold() for name in card.people)}
    if condition.field == "team":
        return wanted in _teams(product, card)
    if condition.field == "rookie":
        return bool(card.rookie) and wanted in ("*", "any", card.rookie.casefold())
    own = {
        "kind": product.section_by_key[card.section].kind.value if card.section in product.section_by_key else "",
        "section": card.section.casefold(),
        "group": card.group.casefold(),
    }
    return own.get(condition.field, wanted) == wanted


def _holds(product: Product, condition: Condition, card: Card, parallel: str) -> bool:
    if condition.field == "card":
        return condition.parallel in (EVERY, parallel)
    if condition.field == "parallel":
        return condition.value.casefold() in (EVERY, parallel.casefold() or "plain")
    return _fits_card(product, condition, card)


def _teams(product: Product, card: Card) -> set[str]:
    """Teams on the card and the clubs behind them."""
    clubs = {row.team.casefold(): row.club.casefold() for row in product.teams} if product.teams else {}
    teams = {team.casefold() for team in card.teams}
    return teams | {clubs[team] for team in teams if team in clubs}


def read_wish(product: Product, text: str) -> frozenset[tuple[str, str, str]]:
    """Read a line of a chase list: a want of the grammar, else a name, else a number of any section (plain).

    Raises
    ------
    BotinError
        When nothing on the checklist is meant by it.
    """
    try:
        return versions(product, parse_want(text))
    except BadWantError:
        wanted = text.strip().casefold()
    for found in (
        frozenset((card.section, card.number, "") for card in product.cards if card.number.casefold() == wanted),
        frozenset(
            (card.section, card.number, parallel)
            for card, parallels in _candidates(product, Want(text, (Condition("name", wanted),)))
            for parallel in parallels
        ),
        _of_team(product, wanted),
    ):
        if found:
            return found
    message = f"Nothing on the checklist of {product.name} is “{text}”: write a name, a number, or section:number."
    raise NotFoundError(message)


def _of_team(product: Product, wanted: str) -> frozenset[tuple[str, str, str]]:
    return frozenset(
        (card.section, card.number, parallel)
        for card, parallels in _candidates(product, Want(wanted, (Condition("team", wanted),)))
        for parallel in parallels
    )
