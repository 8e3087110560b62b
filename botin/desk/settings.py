"""The user's settings: what counts as a hit, what selling and grading cost, who is collected."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from functools import lru_cache
from typing import Any

from sqlalchemy.orm import Session

from botin.core.buying.alternatives import Holding
from botin.core.buying.gradedbox import GemTerms
from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Card, Kind, split_names
from botin.core.flags.ways import Looking
from botin.core.pricing.damage import USUAL, damage_table
from botin.core.pricing.fade import Fade
from botin.core.selling.costs import SaleCosts
from botin.desk.stored import from_plain
from botin.store.fees import settings_kept
from botin.store.models import SettingRecord
from botin.store.once import once
from botin.store.unit import finish


def _shows(card: Card, names: str) -> bool:
    wanted = {name.casefold() for name in split_names(names)}
    return bool(wanted & {name.casefold() for name in (*card.people, *card.teams)})


@dataclass(frozen=True, slots=True)
class Settings:
    """All settings; money in major units of the product's currency, shares in percent.

    The defaults are invented round figures: every collector has their own.
    """

    hit_kinds: str = "autograph;relic;autograph_relic"
    hit_numbered_to: int = 50
    selling_fee_percent: float = 12.0
    selling_fixed: float = 0.30
    postage: float = 1.20
    bulk_below: float = 0.50
    grading_cost: float = 24.0
    top_grade: str = "10"
    gem_chance_percent: float = 35.0
    collected: str = ""
    chase: str = ""
    storage_plan: str = ""
    sleeve_from: float = 5.0
    school: str = "each pack for itself"
    rookie_kinds: str = ""
    my_name: str = "me"
    sets: str = ""
    cost_rule: str = "by value"
    rip_budget: float = 0.0
    sale_materials: float = 0.40
    sale_minutes: float = 6.0
    hourly: float = 0.0
    single_postage: float = 1.50
    fade_half_life: float = 3.0
    fade_floor_percent: float = 60.0
    hold_years: float = 3.0
    hold_yearly: float = 2.0
    hold_growth_percent: float = 0.0
    look_minutes: float = 8.0
    damage: str = "\n".join(f"{kind}; {100 * left:g}" for kind, left in USUAL.items())
    time_zone: str = ""
    locale: str = ""
    authenticate_above: float = 250.0
    authenticator_address: str = ""
    my_address: str = ""

    def damage_table(self) -> Mapping[str, float]:
        """Return the share of a clean card's raw price that each kind of damage leaves."""
        return damage_table(self.damage)

    def looking(self) -> Looking:
        """Return what a closer look at one copy takes."""
        return Looking(self.look_minutes, self.hourly)

    def hit_rule(self) -> HitRule:
        """Return what counts as a hit."""
        kinds = frozenset(Kind(word) for word in split_names(self.hit_kinds))
        return HitRule(kinds, self.hit_numbered_to or None)

    def rookies(self) -> tuple[str, ...]:
        """Return the rookie words that count; ``*`` when none was chosen, which means all."""
        return split_names(self.rookie_kinds) or ("*",)

    def sale_costs(self) -> SaleCosts:
        """Return everything a sale takes, the time for it included."""
        return SaleCosts(
            fee=self.selling_fee_percent / 100,
            fixed=self.selling_fixed,
            postage=self.postage,
            materials=self.sale_materials,
            minutes=self.sale_minutes,
            hourly=self.hourly,
            bulk_below=self.bulk_below,
        )

    def fade(self) -> Fade:
        """Return the fade of new singles to reckon with while a product has too few prices for its own."""
        return Fade(self.fade_half_life, self.fade_floor_percent / 100)

    def holding(self) -> Holding:
        """Return what keeping a box sealed costs."""
        each = self.selling_fixed + self.postage
        return Holding(self.hold_years, self.hold_yearly, self.selling_fee_percent / 100, each)

    def grading(self) -> GemTerms:
        """Return what grading costs and promises."""
        return GemTerms(self.grading_cost, self.top_grade, self.gem_chance_percent / 100)

    def collects(self, card: Card) -> bool:
        """Whether the card shows someone, or a club, of the personal collection."""
        return _shows(card, self.collected)

    def chases(self, card: Card) -> bool:
        """Whether the card is one the boxes are opened for: by a name on it, or its number."""
        return _shows(card, self.chase) or card.number.casefold() in {
            word.casefold() for word in split_names(self.chase)
        }


def load_settings(session: Session) -> Settings:
    """Read the settings; what was never set has its default."""
    return once(session, "settings", lambda: _load(session))


def _load(session: Session) -> Settings:
    return _read(settings_kept(session))


@lru_cache(maxsize=8)
def _read(rows: tuple[tuple[str, str], ...]) -> Settings:
    """Read stored values; every page needs them, and they seldom change."""
    known = {field.name for field in fields(Settings)}
    stored = {key: json.loads(value) for key, value in rows if key in known}
    found: Settings = from_plain(stored, Settings)
    return found


def save_settings(session: Session, settings: Settings) -> None:
    """Write all settings."""
    values: dict[str, Any] = asdict(settings)
    for key, value in values.items():
        session.merge(SettingRecord(key=key, value=json.dumps(value)))
    finish(session)
