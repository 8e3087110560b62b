"""The demo's other products: last season's, an old one in wax and vending boxes, a second series, a mail box."""

from __future__ import annotations

from datetime import date

from botin.core.catalog.product import Kind, PromiseRow
from botin.demo.plans import FinishPlan, FormatPlan, ProductPlan, SectionPlan

BOTH = {"hobby": 0.75, "blaster": 0.25}
HOBBY = {"hobby": 1.0}

BANKED_2025 = ProductPlan(
    key="banked-2025",
    name="Banked 2025",
    maker="Halvard Card Works",
    season="2025",
    released_on=date(2025, 8, 20),
    formats=(
        FormatPlan(key="hobby", label="Hobby box", packs=24, cards=7, boxes_per_case=12, price="104.00", boxes=8_200),
        FormatPlan(
            key="blaster", label="Retail blaster", packs=7, cards=6, boxes_per_case=40, price="24.99", boxes=41_000
        ),
    ),
    sections=(
        SectionPlan("base", "Base", Kind.BASE, 250, price=0.05, back_code="201"),
        SectionPlan("sprint", "Sprint kings", Kind.INSERT, 20, "SK-", 0.4),
        SectionPlan("signed", "Signed on the boards", Kind.AUTOGRAPH, 50, "SB-", 5.8),
        SectionPlan("jersey", "Race-worn jersey", Kind.RELIC, 40, "RJ-", 3.2),
    ),
    finishes=(
        FinishPlan("base", "copper", "Copper", 7, rates={"hobby": "3", "blaster": "5"}, swatch="#b5713a"),
        FinishPlan("base", "slate", "Slate", 20, "249", share=BOTH, swatch="#6b7683", cue="grey edge"),
        FinishPlan("base", "cinder", "Cinder", 55, "75", share=BOTH, swatch="#b3402f", cue="red edge"),
        FinishPlan("base", "halo", "Halo", 240, "10", share=HOBBY, swatch="#d9b23c", cue="gold ring"),
        FinishPlan("sprint", rates={"hobby": "8", "blaster": "7"}),
        FinishPlan("signed", rates={"hobby": "12", "blaster": "96"}),
        FinishPlan("jersey", rates={"hobby": "24", "blaster": "130"}),
    ),
    promises=(
        PromiseRow("hobby", "two signed cards a box", "2", "box", "exact", "kind=autograph"),
        PromiseRow("hobby", "one race-worn jersey a box on average", "1", "box", "average", "kind=relic"),
    ),
)

TRACKSIDE_1988 = ProductPlan(
    key="trackside-1988",
    name="Trackside 1988",
    maker="Pinion & Reed",
    season="1988",
    released_on=date(1988, 5, 2),
    formats=(
        FormatPlan(key="wax", label="Wax box", packs=36, cards=15, boxes_per_case=20, price="64.00", boxes=30_000),
        FormatPlan(
            key="cello", label="Cello box", packs=24, cards=31, boxes_per_case=16, price="79.00", boxes=12_000
        ),
        FormatPlan(
            key="vending", label="Vending box", packs=1, cards=500, boxes_per_case=24, price="38.00", boxes=20_000
        ),
    ),
    sections=(SectionPlan("base", "Base", Kind.BASE, 792, price=0.12),),
    finishes=(),
)

SERIES_TWO = ProductPlan(
    key="banked-two-2026",
    name="Banked 2026 Series Two",
    maker="Halvard Card Works",
    season="2026",
    released_on=date(2026, 11, 4),
    formats=(
        FormatPlan(
            key="hanger", label="Hanger box", packs=1, cards=60, boxes_per_case=32, price="19.99", boxes=60_000
        ),
    ),
    sections=(
        SectionPlan("base", "Base", Kind.BASE, 150, price=0.07, back_code="302", short_from=301),
        SectionPlan("signed", "Signed on the boards", Kind.AUTOGRAPH, 30, "SB2-", 7.5),
    ),
    finishes=(
        FinishPlan("base", "copper", "Copper", 7, rates={"hanger": "pack:4"}, swatch="#b5713a"),
        FinishPlan("base", "slate", "Slate", 24, "199", share={"hanger": 1.0}, swatch="#6b7683", cue="grey edge"),
        FinishPlan("signed", rates={"hanger": "18"}),
    ),
)

MAIL_BOX = ProductPlan(
    key="mail-box-2026",
    name="Corner House Mail Box",
    maker="Corner House (packs of several makers)",
    season="2026",
    released_on=date(2026, 9, 1),
    formats=(
        FormatPlan(key="mail", label="Monthly box", packs=5, cards=7, boxes_per_case=1, price="44.00", boxes=2_000),
    ),
    sections=(
        SectionPlan("points", "Points card", Kind.DECOY, 4, "PC-", 0.0),
        SectionPlan("base", "Club cards", Kind.BASE, 20, "CC-", 0.05),
    ),
    finishes=(FinishPlan("points", rates={"mail": "box:1"}),),
)

OTHERS = (BANKED_2025, TRACKSIDE_1988, SERIES_TWO, MAIL_BOX)
