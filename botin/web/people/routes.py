"""People: everybody whose cards lie here or with whom money changed hands."""

from __future__ import annotations

from flask import Blueprint, render_template

from botin.desk.copies.people import people, person
from botin.web.requests import bench, new_key, session

people_desk = Blueprint("people", __name__, template_folder="templates", url_prefix="/people")


@people_desk.get("/")
def index() -> str:
    """List everybody."""
    return render_template("people/index.html", people=people(session()))


@people_desk.get("/<int:party_id>")
def one(party_id: int) -> str:
    """Show a person: his cards, what they are worth, what he owes or is owed."""
    return render_template("people/person.html", person=person(session(), bench(), party_id), client_key=new_key())
