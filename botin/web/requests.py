"""What a route gets for its request: the workbench, a session, and how the answer is wanted."""

from __future__ import annotations

from collections.abc import Hashable
from pathlib import Path
from typing import Any
from urllib.parse import quote
from uuid import uuid4

from flask import Flask, current_app, g, request, url_for
from flask import session as flask_session
from sqlalchemy import Connection, event
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from botin.desk.flags.judging import flag_of, inputs_key
from botin.desk.odds.learning import usual_slots
from botin.desk.opening.editing import other_products
from botin.desk.troubles import Trouble
from botin.desk.workbench import Workbench
from botin.store.catalog.products import product_count
from botin.store.flags.to_look import wait_on_the_rail
from botin.store.models import BoxRecord, ProductRecord
from botin.store.once import read_once
from botin.store.opening.boxes import PullRow, state_counts
from botin.store.unit import commit_what_is_done, set_edge

WRITES = "writes"


@event.listens_for(Session, "after_begin")
def _lock_first(session: Session, _transaction: Any, connection: Connection) -> None:
    """A form takes the right to write before it looks at anything: what it checked still holds when it writes.

    An upload is read first, which may take a while; it takes the right when it begins to write.
    """
    if session.info.get(WRITES):
        connection.exec_driver_sql("BEGIN IMMEDIATE")


def install(app: Flask, bench: Workbench) -> None:
    """Hang the workbench on the app, close sessions after each request, count what waits for the rail."""
    app.extensions["bench"] = bench
    app.teardown_appcontext(_close)
    app.jinja_env.globals.update(asset=asset, box_products=box_products, typed_again=typed_again)
    app.jinja_env.globals.update(card_at=card_at)
    app.jinja_env.globals.update(slot_words=slot_words, slot_flag=slot_flag)
    app.jinja_env.globals.update(rail_counts=rail_counts, troubles=_troubles, first_steps=first_steps)


def _troubles() -> tuple[Trouble, ...]:
    """What failed in the background and was not dealt with yet."""
    return bench().troubles.all()


def rail_counts() -> dict[str, int]:
    """What waits along the bench: boxes by state, and cards that should be graded or looked at closely."""
    return {**state_counts(session()), **wait_on_the_rail(session())}


def first_steps() -> int | None:
    """How many products there are while no box was ever bought; None once one was."""
    return None if any(state_counts(session()).values()) else product_count(session())


def box_products(box: BoxRecord) -> list[tuple[int, str]]:
    """Products a pack of a box can be of, for the templates."""
    count = product_count(session())
    return bench().keep(("products", count, box.format.product_id), lambda: other_products(session(), box))


def slot_words(box: BoxRecord) -> tuple[str, ...]:
    """What each slot of a pack usually holds, learned once when the desk of a box is first shown."""

    def learn() -> tuple[str, ...]:
        return usual_slots(session(), bench(), box.format.product, box.format.key)

    return bench().keep(("slot words", box.id), learn)


def slot_flag(row: PullRow) -> str:
    """Where a hit should go, in a word; empty for what is not on the checklist."""
    if row.unlisted or row.product_id is None:
        return ""
    known: dict[int, tuple[ProductRecord, Hashable]] = g.setdefault("flag_keys", {})
    if row.product_id not in known:
        record = bench().record(session(), row.product_id)
        known[row.product_id] = (record, inputs_key(session(), bench(), record))
    record, key = known[row.product_id]
    return flag_of(session(), bench(), record, (row.section, row.number, row.parallel), key)


def bench() -> Workbench:
    """Return the workbench of the app."""
    found: Workbench = current_app.extensions["bench"]
    return found


def session() -> Session:
    """Return the session of this request, opened when it is first asked for."""
    if "session" not in g:
        g.session = bench().sessions()
        set_edge(g.session)
        if request.method == "GET":
            read_once(g.session)
        g.session.info[WRITES] = request.method == "POST" and request.mimetype != "multipart/form-data"
    found: Session = g.session
    return found


def _close(_error: BaseException | None) -> None:
    opened: Session | None = g.pop("session", None)
    if opened is not None:
        opened.close()


def keep_what_is_done() -> None:
    """Commit what the use cases of this request wrote: the one place where the web does."""
    opened: Session | None = g.get("session")
    if opened is None:
        return
    try:
        commit_what_is_done(opened)
    except SQLAlchemyError:
        flask_session.pop("_flashes", None)  # what they say was not stored after all
        raise


def take_back() -> None:
    """Take back what a request wrote and did not commit, so that its answer can be made."""
    opened: Session | None = g.get("session")
    if opened is not None:
        opened.rollback()


def let_write() -> None:
    """Give the right to write away, to a job that this request starts and then watches."""
    commit_what_is_done(session())
    session().rollback()
    session().info[WRITES] = False


def is_fragment() -> bool:
    """Whether htmx asks for a fragment of the page; going back in the history it asks for the whole page."""
    return request.headers.get("HX-Request") == "true" and "HX-History-Restore-Request" not in request.headers


def new_key() -> str:
    """Make a key for a form, so that sending it twice stores once."""
    return uuid4().hex


def keep_typed() -> str:
    """Keep the form of this request for the page that is shown next; return the word its address names it by."""
    word = new_key()
    form = request.form.to_dict()
    bench().keep_small(("typed", word), lambda: form)
    return word


def typed_again(name: str, otherwise: str = "") -> str:
    """Return what was typed into a field, when the address says that the form could not be stored."""
    word = request.args.get("typed", "")
    form: dict[str, str] = bench().keep_small(("typed", word), dict) if word else {}
    return form.get(name, otherwise)


def card_at(card_id: int, finish: str = "") -> str:
    """Address of a card's page at a finish; in lists of hundreds its beginning is made once a request."""
    if "card_at" not in g:
        g.card_at = url_for("prices.card", card_id=0).removesuffix("0")
    return f"{g.card_at}{card_id}?finish={quote(finish)}"


def asset(name: str) -> str:
    """Address of a static file, with a stamp so that a new version is fetched."""
    file = Path(current_app.static_folder or "") / name
    values: dict[str, Any] = {"v": f"{file.stat().st_mtime_ns // 10**6:x}"[-8:]} if file.exists() else {}
    return url_for("static", filename=name, **values)
