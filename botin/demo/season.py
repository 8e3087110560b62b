"""The demo's products, by two invented makers."""

from __future__ import annotations

from datetime import date

from botin.core.catalog.product import Kind, PromiseRow
from botin.demo.plans import FinishPlan, FormatPlan, ProductPlan, SectionPlan

BOTH = {"hobby": 0.7, "blaster": 0.3}
HOBBY = {"hobby": 1.0}
JUMBO = {"jumbo": 1.0}

BANKED_2026 = ProductPlan(
    key="banked-2026",
    name="Banked 2026",
    maker="Halvard Card Works",
    season="2026",
    released_on=date(2026, 8, 19),
    formats=(
        FormatPlan(key="hobby", label="Hobby box", packs=24, cards=8, boxes_per_case=12, price="118.00", boxes=9_600),
        FormatPlan(
            key="blaster", label="Retail blaster", packs=7, cards=6, boxes_per_case=40, price="27.99", boxes=52_000
        ),
    ),
    sections=(
        SectionPlan("base", "Base", Kind.BASE, 300, price=0.06, back_code="301"),
        SectionPlan(
            key="night",
            label="Night session",
            kind=Kind.VARIATION,
            size=30,
            prefix="",
            price=4.5,
            back_code="308",
            cue="floodlights, no name on the front",
        ),
        SectionPlan("sprint", "Sprint kings", Kind.INSERT, 25, "SK-", 0.45),
        SectionPlan("madison", "Madison pairs", Kind.INSERT, 20, "MP-", 0.6, pairs=True),
        SectionPlan("signed", "Signed on the boards", Kind.AUTOGRAPH, 60, "SB-", 6.5),
        SectionPlan("jersey", "Race-worn jersey", Kind.RELIC, 40, "RJ-", 3.8),
        SectionPlan("poster", "Box poster", Kind.BOX_TOPPER, 12, "BP-", 2.2),
    ),
    finishes=(
        FinishPlan("base", "copper", "Copper", 7, rates={"hobby": "4", "blaster": "6"}, swatch="#b5713a"),
        FinishPlan("base", "slate", "Slate", 22, "199", share=BOTH, swatch="#6b7683", cue="grey edge"),
        FinishPlan("base", "cinder", "Cinder", 60, "50", share=BOTH, swatch="#b3402f", cue="red edge"),
        FinishPlan("base", "halo", "Halo", 260, "10", share=HOBBY, swatch="#d9b23c", cue="gold ring"),
        FinishPlan("base", "sole", "Sole", 1500, "1", share=HOBBY, swatch="#20242a", cue="black edge"),
        FinishPlan("night", rates={"hobby": "36", "blaster": "60"}),
        FinishPlan("sprint", rates={"hobby": "8", "blaster": "7"}),
        FinishPlan("sprint", "cinder", "Cinder", 14, "50", share=HOBBY, swatch="#b3402f", cue="red edge"),
        FinishPlan("madison", rates={"hobby": "12", "blaster": "14"}),
        FinishPlan("signed", rates={"hobby": "15", "blaster": "84"}),
        FinishPlan("signed", "slate", "Slate", 2, "99", share=HOBBY, swatch="#6b7683", cue="grey edge"),
        FinishPlan("signed", "halo", "Halo", 5, "10", share=HOBBY, swatch="#d9b23c", cue="gold ring"),
        FinishPlan("jersey", rates={"hobby": "25", "blaster": "126"}),
        FinishPlan("jersey", "halo", "Halo", 6, "10", share=HOBBY, swatch="#d9b23c", cue="gold ring"),
        FinishPlan("poster", rates={"hobby": "box:1"}),
    ),
    promises=(
        PromiseRow("hobby", "two signed cards a box", "2", "box", "at_least", "kind=autograph"),
        PromiseRow("hobby", "one race-worn jersey a box", "1", "box", "at_least", "kind=relic"),
    ),
)

VELODROME_2025 = ProductPlan(
    key="pinewood-2025",
    name="Pinewood 2025",
    maker="Pinion & Reed",
    season="2025",
    released_on=date(2025, 10, 8),
    formats=(
        FormatPlan(key="jumbo", label="Jumbo box", packs=10, cards=18, boxes_per_case=8, price="204.00", boxes=6_400),
    ),
    sections=(
        SectionPlan("base", "Base", Kind.BASE, 320, price=0.08, back_code="PW1"),
        SectionPlan("short", "Short prints", Kind.SHORT_PRINT, 30, price=2.4, back_code="PW4", short_from=321),
        SectionPlan("lap", "Last lap", Kind.INSERT, 30, "LL-", 0.5),
        SectionPlan("bell", "Bell ringers", Kind.INSERT, 15, "BR-", 5.5, cue="a brass bell, no number on the front"),
        SectionPlan("ink", "Pine ink", Kind.AUTOGRAPH, 80, "PI-", 5.2),
        SectionPlan("boards", "Boards and ink", Kind.AUTOGRAPH_RELIC, 25, "BI-", 16.0),
    ),
    finishes=(
        FinishPlan("base", "resin", "Resin", 6, rates={"jumbo": "2"}, swatch="#c98b2e"),
        FinishPlan("base", "moss", "Moss", 24, "150", share=JUMBO, swatch="#5f7a3a", cue="green edge"),
        FinishPlan("base", "bark", "Bark", 90, "25", share=JUMBO, swatch="#6a4630", cue="brown edge"),
        FinishPlan("base", "heart", "Heartwood", 1400, "1", share=JUMBO, swatch="#8c1f28", cue="red grain"),
        FinishPlan("short", rates={"jumbo": "3"}),
        FinishPlan("lap", rates={"jumbo": "pack:1"}),
        FinishPlan("bell", rates={"jumbo": "case:1"}),
        FinishPlan("ink", rates={"jumbo": "3.6"}),
        FinishPlan("ink", "moss", "Moss", 1.8, "75", share=JUMBO, swatch="#5f7a3a", cue="green edge"),
        FinishPlan("ink", "bark", "Bark", 3.5, "15", share=JUMBO, swatch="#6a4630", cue="brown edge"),
        FinishPlan("boards", times=1, run="49", share=JUMBO),
    ),
    promises=(
        PromiseRow(
            "jumbo", "three signed cards a box", "3", "box", "at_least", "kind=autograph;kind=autograph_relic"
        ),
    ),
)

SEASON = (BANKED_2026, VELODROME_2025)
