"""What is printed for an order: its form three times, the label, the packing list, the checklist; and a sheet."""

from __future__ import annotations

from flask import render_template, request

from botin.core.grading.stack import AFTER, BEFORE, code_of
from botin.desk.grading.orders import order_page
from botin.exchange.barcodes import bars
from botin.web.grading.routes import grading
from botin.web.requests import bench, session

PAPERS = {"form": "The form, three times", "label": "The label", "list": "Packing list", "checks": "Checklist"}
COPIES = ("in the parcel, 1 of 2", "in the parcel, 2 of 2", "to keep")
grading.add_app_template_global(bars, "bars")
grading.add_app_template_global(code_of, "code_of")


@grading.get("/<int:order_id>/print")
def paper(order_id: int) -> str:
    """Show the pages to print, all of them or one kind."""
    wanted = request.args.get("what", "")
    found = order_page(session(), order_id)
    return render_template(
        "grading/print.html", order=found, what=wanted if wanted in PAPERS else "", papers=PAPERS, copies=COPIES,
        before=BEFORE, after=AFTER, today=bench().today(), code=f"ORDER{order_id}",
    )  # fmt: skip
