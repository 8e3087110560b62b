"""A picture of a recap worth sharing: no price paid, no owner, no date, no place."""

from __future__ import annotations

from flask import render_template

from botin.desk.insight.aftermath import BoxMore
from botin.desk.insight.recap import BoxRecap


def share_svg(recap: BoxRecap, more: BoxMore) -> str:
    """Draw the best cards and the luck of the lines as an SVG of its own."""
    lines = [row for row in more.lines if row.expected is not None and not row.line.is_rest][:8]
    return render_template("recap/share.svg", recap=recap, more=more, lines=lines, best=recap.best[:5])
