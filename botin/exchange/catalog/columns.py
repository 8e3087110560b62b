"""Which field each column of a table is: by the words above it and the values in it, the best of all together."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise

import numpy as np

from botin.exchange.catalog.columnvalues import Profile, profile, value_fits
from botin.exchange.catalog.columnwords import SURE, bare, field_of, fits
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.rateunits import unit_of
from botin.exchange.catalog.runtext import take_run

RESTART = 0.3
"""Share of different numbers from which they are those of cards that begin anew in every set, and no amounts."""
LIKELY, PLAIN = 0.55, 0.45
"""A heading helps from ``LIKELY`` on; values alone say it from ``PLAIN`` on (choices)."""
BY_VALUES = ("number", "name", "card", "marks", "team", "section", "rookie", "run", "odds")
"""Fields that values alone can tell."""
SAMPLE = 400
FIELD_WORDS = {
    "number": "number of the card", "prefix": "code before the number", "unit": "what the odds are of",
    "name": "who is on it", "first_name": "first name",
    "last_name": "last name", "card": "number and name together", "short": "short print",
    "marks": "marks like RC and SP", "team": "club", "team_place": "where the club is",
    "section": "section", "rookie": "rookie",
    "run": "print run", "parallel": "finish", "odds": "odds", "note": "note", "group": "odds group",
    "back_code": "code on the back", "cue": "how to tell it", "kind": "kind of section",
    "count": "how many cards", "format": "format", "packs_per_box": "packs per box",
    "cards_per_pack": "cards per pack", "boxes_per_case": "boxes per case", "list_price": "box price",
    "currency": "currency", "per_box": "cards per box", "per_case": "cards per case",
    "own": "nothing of the checklist",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Column:
    """A column and what it was taken for.

    Attributes
    ----------
    field : str
        A field; ``rate:WORD`` for the odds in a format, ``run:LABEL`` for the runs of a section; empty when unused.
    sure : bool
        Whether its heading says so, or the user did.
    values : tuple of str
        Its first values.
    """

    place: int
    heading: str
    field: str
    sure: bool
    why: str = ""
    values: tuple[str, ...] = ()


@dataclass(frozen=True)
class Columns:
    """All columns of a table."""

    all: tuple[Column, ...]
    by_field: dict[str, int] = field(default_factory=dict)

    def has(self, *fields: str) -> bool:
        """Whether the table has all of these fields."""
        return all(name in self.by_field for name in fields)

    @property
    def spread(self) -> dict[int, str]:
        """Return the columns that stand for a format or a section, and which."""
        return {c.place: c.field for c in self.all if ":" in c.field}

    @cached_property
    def nameless(self) -> tuple[int, ...]:
        """Return the columns without a heading that were taken for nothing."""
        return tuple(c.place for c in self.all if not c.field and not c.heading.strip())

    @property
    def unsure(self) -> tuple[Column, ...]:
        """Return the columns whose meaning was guessed."""
        return tuple(c for c in self.all if c.field and not c.sure)

    @property
    def unused(self) -> tuple[Column, ...]:
        """Return the columns that mean nothing here."""
        return tuple(c for c in self.all if c.field in ("", "own") and c.heading.strip())


def make_columns(columns: Iterable[Column]) -> Columns:
    """Gather columns."""
    found = tuple(columns)
    by_field = {c.field: c.place for c in reversed(found) if c.field and ":" not in c.field}
    if "first_name" in by_field and ("last_name" in by_field or "name" in by_field):
        by_field = {**by_field, "last_name": by_field.get("last_name", by_field.get("name", 0))}
        by_field["name"] = by_field.pop("first_name")
    return Columns(found, by_field)


def recognise(
    heads: Sequence[str],
    rows: Sequence[Sequence[str]],
    formats: Iterable[str] = (),
    sections: Iterable[str] = (),
    told: Mapping[int, str] | None = None,
) -> Columns:
    """Say what each column is.

    Parameters
    ----------
    heads : sequence of str
        What stands above each column; empty strings when nothing does.
    rows : sequence of rows
        The cells below, some hundred are enough.
    formats, sections : iterables of str
        Words that name a format, labels of sections that are known.
    told : mapping, optional
        What the user said of columns: place and field.
    """
    width = max([len(heads), *map(len, rows[:SAMPLE])], default=0)
    heads = [*heads, *[""] * (width - len(heads))]
    values = [[row[place] if place < len(row) else "" for row in rows[:SAMPLE]] for place in range(width)]
    profiles = [profile(cells) for cells in values]
    spread = _spread(heads, profiles, tuple(formats), tuple(sections))
    scores = [_scores(heads[place], profiles[place]) for place in range(width)]
    open_places = [place for place in range(width) if place not in spread and place not in (told or {})]
    taken = set((told or {}).values())
    chosen = _assign(scores, open_places, taken)
    _leftover_club(
        chosen, taken, {p: f for p, f in enumerate(profiles) if f is not None and p in open_places}, scores
    )
    _more_of_a_kind(heads, chosen, profiles, open_places)
    _printed_number(chosen, profiles, scores)
    made = []
    for place in range(width):
        first = tuple(cell.strip() for cell in values[place] if cell.strip())[:5]
        name, sure, why = _decided(place, heads[place], spread, chosen, scores[place], told or {})
        made.append(Column(place, heads[place].strip(), name, sure, why, first))
    return make_columns(made)


def _decided(
    place: int,
    head: str,
    spread: Mapping[int, str],
    chosen: Mapping[int, str],
    scores: Mapping[str, tuple[float, float]],
    told: Mapping[int, str],
) -> tuple[str, bool, str]:
    if place in told:
        return told[place], True, "as you said"
    if place in spread:
        sure = not spread[place].startswith("finish:") or bool(take_run(head)[1])
        return spread[place], sure, "" if sure else "what stands in it, card by card"
    name = chosen.get(place, "")
    if not name or name.startswith("more:"):
        return name, True, ""
    word, value = scores.get(name, (0.0, 0.0))
    rival = max((w for other, (w, v) in scores.items() if other != name and v >= 0), default=0.0)
    plain = word >= SURE and (rival < SURE or value > 0.5)
    both = bool(head) and word >= LIKELY and value >= 0.5
    worded = bool(head) and word >= LIKELY
    why = "" if plain or both else f"“{head.strip()}” sounds like it" if worded else "by what stands in it"
    return name, plain or both, why


def _scores(head: str, found: Profile | None) -> dict[str, tuple[float, float]]:
    """Return for each field how well heading and values fit it."""
    words = fits(head)
    values = value_fits(found) if found is not None else {}
    return {name: (words.get(name, 0.0), values.get(name, 0.0)) for name in {*words, *values}}


def _assign(
    scores: Sequence[Mapping[str, tuple[float, float]]], places: Sequence[int], taken: set[str]
) -> dict[int, str]:
    """Give each field to the column that fits it best, so that all together fit best."""
    from scipy.optimize import linear_sum_assignment  # noqa: PLC0415  (slow to import)

    names = sorted({name for place in places for name in scores[place]} - taken - {"own"})
    if not places or not names:
        return {}
    grid = np.zeros((len(places), len(names) + len(places)))
    for row, place in enumerate(places):
        for column, name in enumerate(names):
            grid[row, column] = _worth(name, *scores[place].get(name, (0.0, 0.0)))
        grid[row, len(names) :] = 1.2 if scores[place].get("own", (0.0, 0.0))[0] >= 1.0 else 0.0
    rows, columns = linear_sum_assignment(grid, maximize=True)
    return {
        places[row]: names[column]
        for row, column in zip(rows, columns, strict=True)
        if column < len(names) and grid[row, column] > 0
    }


_COUNTED_PER = re.compile(
    r"\b(?:per|a|each|/|je|pro|par|por)\s?(?P<unit>box|case|display|karton|boîte|caisse|caja)\b", re.IGNORECASE
)
"""``Hobby (per box)`` above plain numbers."""
_COUNTED = re.compile(r"^(?P<what>.*?)[\s_#(]*(?P<n>[1-9])\)?$")


def _more_of_a_kind(
    heads: Sequence[str], chosen: dict[int, str], profiles: Sequence[Profile | None], places: Sequence[int]
) -> None:
    """“Player 1” and “Player 2”, or “Player” twice, are both names: the first is the field, the others more of it."""
    counted: dict[str, list[int]] = {}
    for place in places:
        found = _COUNTED.match(heads[place].strip())
        alike = sum(bare(head) == bare(heads[place]) for head in heads) > 1
        best = field_of(found["what"] if found else heads[place]) if found or alike else ""
        if best in ("name", "team") and profiles[place] is not None:
            counted.setdefault(best, []).append(place)
    for name, found_at in counted.items():
        if len(found_at) < 2:
            continue
        for place in [at for at, given in chosen.items() if given == name or at in found_at]:
            del chosen[place]
        chosen[found_at[0]] = name
        chosen.update((place, f"more:{name}") for place in found_at[1:])


def _leftover_club(
    chosen: dict[int, str],
    taken: set[str],
    profiles: Mapping[int, Profile],
    scores: Sequence[Mapping[str, tuple[float, float]]],
) -> None:
    """Take the one column of words that nobody wants beside the names for their clubs."""
    fields = {*chosen.values(), *taken}
    if "team" in fields or not {"number", "name"} <= fields:
        return
    name = next((place for place, field in chosen.items() if field == "name"), None)
    free = [
        place for place, found in profiles.items()
        if place not in chosen and found.words > 0.6 and found.filled > 0.5
        and not any(word >= LIKELY for word, _ in scores[place].values())
    ]  # fmt: skip
    beside = [place for place in free if name is not None and abs(place - name) == 1]
    if len(free) == 1 or len(beside) == 1:
        chosen[(beside or free)[0]] = "team"


def _printed_number(
    chosen: dict[int, str], profiles: Sequence[Profile | None], scores: Sequence[Mapping[str, tuple[float, float]]]
) -> None:
    """Take the numbers with letters for those on the cards where the other column only counts the rows."""
    counter = next((place for place, name in chosen.items() if name == "number"), None)
    found = profiles[counter] if counter is not None else None
    if counter is None or found is None or found.counts < 1.0 or found.distinct < 1.0:
        return
    for place, given in enumerate(profiles):
        word = scores[place].get("number", (0.0, 0.0))[0]
        if place in chosen or given is None or given.numbers < 1.0:
            continue
        printed = word >= LIKELY and not given.counts and given.distinct == found.steps == 1.0
        unnamed = scores[counter].get("number", (0.0, 0.0))[0] < LIKELY
        if printed or (unnamed and (given.counts < 1.0 or RESTART < given.distinct < 1.0)):
            chosen[place] = chosen.pop(counter)
            return


def _worth(name: str, word: float, value: float) -> float:
    if value < 0:
        return -1.0
    if word >= LIKELY:
        return word * word + 0.6 * value
    return 0.6 * value if name in BY_VALUES and value >= PLAIN else -1.0


def _spread(
    heads: Sequence[str], profiles: Sequence[Profile | None], formats: Sequence[str], sections: Sequence[str]
) -> dict[int, str]:
    """Return the columns headed by a format above rates, or by a section above runs."""
    found = {place: f"finish:{heads[place].strip()}" for place in _empty_finishes(heads, profiles)}
    labels = {bare(label): label for label in sections}
    run_columns = _runs_side_by_side(heads, profiles)
    for place, head in enumerate(heads):
        kind = profiles[place]
        if kind is None or not head.strip() or len(head) > 40:
            continue
        said = _of_format(head, kind, formats) or _of_section(bare(head), head, kind, labels)
        if said or place in run_columns:
            found[place] = said or f"finish:{head.strip()}"
    found |= _like_the_others(heads, profiles, labels, found)
    return found


def _of_format(head: str, kind: Profile, formats: Sequence[str]) -> str:
    """Return the format that the heading of a column of rates names, with the unit of plain counts."""
    words = bare(head)
    named = next(
        (w for w in sorted(formats, key=len, reverse=True) if re.search(rf"\b{re.escape(bare(w))}\b", words)), ""
    )
    if not named:
        return ""
    counted = _COUNTED_PER.search(head) if kind.counts > 0.4 else None
    if counted:
        return f"rate:{named} per {unit_of(counted['unit'])}"
    rated = kind.rates > 0.4 or kind.ones > 0.4 or (kind.words < 0.4 and not fits(head))
    return f"rate:{named}" if rated else ""


def _of_section(words: str, head: str, kind: Profile, labels: Mapping[str, str]) -> str:
    """Return what a column of ticks, rates or runs stands for, by the section or finish that its heading names."""
    named, says_kind = guess_kind(head)
    ticked = kind.ticks > 0.9 and kind.kinds <= 2
    if (ticked or (says_kind and kind.kinds == 1)) and not fits(head):
        return f"kind:{named.value}" if says_kind else f"finish:{head.strip()}"
    if words in labels and kind.rates > 0.6:
        return f"line:{labels[words]}"
    if words in labels and (kind.runs + kind.ticks + kind.usual + kind.unnumbered) > 0.8:
        return f"run:{labels[words]}"
    return ""


def _like_the_others(
    heads: Sequence[str], profiles: Sequence[Profile | None], labels: Mapping[str, str], found: Mapping[int, str]
) -> dict[int, str]:
    """Return the columns that their like explain: rates side by side are of boxes, little beside runs is one."""
    made = {}
    rated = [at for at, kind in enumerate(profiles) if kind is not None and kind.rates > 0.6 and heads[at].strip()]
    for place in rated if len(rated) > 1 else ():
        if place not in found and not fits(heads[place]):
            made[place] = f"rate:{heads[place].strip().casefold()}"
    by_run = sum(word.startswith("run:") for word in found.values())
    for place, head in enumerate(heads):
        kind = profiles[place]
        if by_run > 1 and place not in found and bare(head) in labels and (kind is None or not kind.rates):
            made[place] = f"run:{labels[bare(head)]}"
    return made


def _empty_finishes(heads: Sequence[str], profiles: Sequence[Profile | None]) -> list[int]:
    """Return the columns that are empty yet and headed by finishes: by their runs, and those beside such."""
    empty = [at for at, head in enumerate(heads) if head.strip() and at < len(profiles) and profiles[at] is None]
    stamped = [at for at in empty if take_run(heads[at].strip())[1]]
    beside = range(min(stamped) - 1, max(stamped) + 2) if len(stamped) > 1 else ()
    return [at for at in empty if at in stamped or (at in beside and not fits(heads[at]))]


def _runs_side_by_side(heads: Sequence[str], profiles: Sequence[Profile | None]) -> frozenset[int]:
    """Return the columns of runs by finish: two and more side by side, usual runs in them, hardly two alike.

    Their headings are no fields, and one of them holds more than ticks: a column of ones alone may be either.
    """
    found = [
        place for place, kind in enumerate(profiles)
        if kind is not None and heads[place].strip() and not fits(heads[place]) and kind.usual == 1.0
        and (kind.kinds <= 3 or kind.distinct <= 0.2)
    ]  # fmt: skip
    ticks = [place for place in found if (kind := profiles[place]) is not None and kind.ticks == 1.0]
    beside = all(b - a == 1 for a, b in pairwise(found))
    return frozenset(found) if len(found) > 1 and len(ticks) < len(found) and beside else frozenset()
