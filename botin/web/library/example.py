"""A ready example product, taken in with one button."""

from __future__ import annotations

from flask import flash, redirect, url_for

from botin.desk.catalog.library import import_given
from botin.exchange.catalog.package import zip_bytes
from botin.exchange.catalog.sheets import Sources, add_file
from botin.web.library.drafts import Answer, drafts
from botin.web.requests import bench, session


@drafts.post("/example")
def example() -> Answer:
    """Store the example product through the same door as any other."""
    from botin.demo.example import example_product  # noqa: PLC0415  (who has products needs none of it)

    sources = Sources()
    add_file(sources, "example.zip", zip_bytes(example_product()))
    stored = import_given(session(), bench(), sources, guesses=True)
    flash("This is an invented product to try things with. Remove it from its page when you need it no more.")
    return redirect(url_for("library.product", product_id=stored.record.id), 303)
