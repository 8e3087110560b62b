"""Every layout by its name; the same seed gives the same case."""

from __future__ import annotations

import random
from collections.abc import Callable

from tests.corpus.clublayouts import CLUB
from tests.corpus.commonlayouts import COMMON
from tests.corpus.deskslayouts import DESKS
from tests.corpus.furtherhands import HANDS
from tests.corpus.furtherlayouts import FURTHER
from tests.corpus.lasthands import LAST
from tests.corpus.mixedlayouts import MIXED
from tests.corpus.morelayouts import MORE
from tests.corpus.oddlayouts import ODD
from tests.corpus.officelayouts import OFFICE
from tests.corpus.otherlayouts import OTHER
from tests.corpus.plainlayouts import PLAIN
from tests.corpus.rarelayouts import RARE
from tests.corpus.shoplayouts import SHOP
from tests.corpus.tablelayouts import TABLES
from tests.corpus.textlayouts import TEXTS
from tests.corpus.truth import Case

Layout = Callable[[random.Random], Case]
LAYOUTS: dict[str, Layout] = {
    layout.__name__: layout
    for layout in (
        *TABLES,
        *TEXTS,
        *ODD,
        *MORE,
        *FURTHER,
        *OTHER,
        *PLAIN,
        *RARE,
        *COMMON,
        *OFFICE,
        *HANDS,
        *LAST,
        *DESKS,
        *CLUB,
        *SHOP,
        *MIXED,
    )
}


def make(name: str, seed: int) -> Case:
    """Make a case of a layout."""
    return LAYOUTS[name](random.Random(f"{name} {seed}"))
