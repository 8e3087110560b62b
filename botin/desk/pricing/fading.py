"""How fast a product's prices fall after its release."""

from __future__ import annotations

from datetime import date

from sqlalchemy.orm import Session

from botin.core.pricing.fade import Fade, fit_fade
from botin.desk.settings import Settings
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord


def product_fade(session: Session, bench: Workbench, record: ProductRecord, settings: Settings) -> Fade:
    """Return the product's own fade when its prices show one, else the one of the settings."""
    key = ("fade", record.id, record.revision)
    own = bench.keep(key, lambda: (fit_fade(bench.price_rows(session, record), record.released_on),))[0]
    return own or settings.fade()


def weeks_since(released: date | None, today: date) -> float:
    """Weeks since the release; 0 before it or when it is not known."""
    return max(0.0, (today - released).days / 7) if released else 0.0
