"""The app factory: named set-up steps, in order."""

from __future__ import annotations

import json
from datetime import timedelta

from flask import Flask
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFProtect

from botin import __version__
from botin.desk.workbench import Workbench
from botin.web import errors, requests, security, words
from botin.web.buy import words as buy_words
from botin.web.library import words as library_words

MAX_UPLOAD = 64 * 1024 * 1024
HTMX = {
    "allowEval": False,
    "includeIndicatorStyles": False,
    "historyCacheSize": 0,
    "responseHandling": [
        {"code": "204", "swap": False},
        {"code": "[23]..", "swap": True},
        {"code": "4(09|22)", "swap": True},
        {"code": "...", "swap": False, "error": True},
    ],
}


class App(Flask):
    """Flask, with one transaction a request: what was done is committed before the answer goes out."""

    def dispatch_request(self) -> ResponseReturnValue:
        """Answer a request; a commit that fails is answered like any other failure."""
        answer = super().dispatch_request()
        requests.keep_what_is_done()
        return answer


def create_app(bench: Workbench, secret_key: str, *, demo: bool = False) -> Flask:
    """Make the web app on an open store.

    Parameters
    ----------
    bench : Workbench
        Sessions, clock and what is kept ready.
    secret_key : str
        Signs the session cookie; there is no default.
    demo : bool
        Say on every page that this is demo data.
    """
    app = App("botin.web")
    app.config.update(
        SECRET_KEY=secret_key,
        MAX_CONTENT_LENGTH=MAX_UPLOAD,
        MAX_FORM_MEMORY_SIZE=4 * 1024 * 1024,
        SESSION_COOKIE_NAME="botin",  # cookies know no ports: another program here may have a "session"
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        SEND_FILE_MAX_AGE_DEFAULT=timedelta(days=30),
        WTF_CSRF_TIME_LIMIT=None,
        DEMO=demo,
    )
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.globals.update(botin_version=__version__, demo=demo, htmx_config=json.dumps(HTMX))
    requests.install(app, bench)
    security.install(app)
    CSRFProtect(app)
    errors.install(app)
    words.install(app)
    library_words.install(app)
    buy_words.install(app)
    _register(app)
    return app


def _register(app: Flask) -> None:
    from botin.web.books.routes import books_desk  # noqa: PLC0415
    from botin.web.buy.routes import buy  # noqa: PLC0415
    from botin.web.cards.routes import cards  # noqa: PLC0415
    from botin.web.fees.routes import fees  # noqa: PLC0415
    from botin.web.flags.routes import flags  # noqa: PLC0415
    from botin.web.grading import order as order  # noqa: PLC0414, PLC0415  (adds its pages to the grading desk)
    from botin.web.grading import packing as packing  # noqa: PLC0414, PLC0415
    from botin.web.grading import paper as paper  # noqa: PLC0414, PLC0415
    from botin.web.grading.routes import grading  # noqa: PLC0415
    from botin.web.keeping.routes import keeping  # noqa: PLC0415
    from botin.web.library import drafting as drafting  # noqa: PLC0414, PLC0415  (adds its pages to the drafts)
    from botin.web.library import example as example  # noqa: PLC0414, PLC0415  (adds its page to the drafts)
    from botin.web.library.drafts import drafts  # noqa: PLC0415
    from botin.web.library.routes import library  # noqa: PLC0415
    from botin.web.look.routes import look  # noqa: PLC0415
    from botin.web.people.routes import people_desk  # noqa: PLC0415
    from botin.web.prices.routes import prices  # noqa: PLC0415
    from botin.web.purchases.routes import purchases  # noqa: PLC0415
    from botin.web.recap.routes import recap  # noqa: PLC0415  (the blueprints import this package)
    from botin.web.rip import backs as backs  # noqa: PLC0414, PLC0415  (adds its pages to the rip desk)
    from botin.web.rip.beside import openings, putaway, sealed  # noqa: PLC0415
    from botin.web.rip.editing import edit  # noqa: PLC0415
    from botin.web.rip.routes import rip  # noqa: PLC0415
    from botin.web.sales import sale as sale  # noqa: PLC0414, PLC0415  (adds its pages to the selling desk)
    from botin.web.sales.routes import sales_desk  # noqa: PLC0415
    from botin.web.sets import swaps as swaps  # noqa: PLC0414, PLC0415  (adds its pages to the sets)
    from botin.web.sets.routes import sets  # noqa: PLC0415
    from botin.web.settings.routes import settings  # noqa: PLC0415
    from botin.web.shelf.routes import shelf  # noqa: PLC0415
    from botin.web.today.routes import today_desk  # noqa: PLC0415

    work = (
        shelf,
        buy,
        rip,
        edit,
        sealed,
        openings,
        putaway,
        recap,
        sets,
        cards,
        look,
        prices,
        flags,
        grading,
        sales_desk,
    )
    for blueprint in (
        *work,
        today_desk,
        books_desk,
        people_desk,
        purchases,
        library,
        drafts,
        settings,
        fees,
        keeping,
    ):
        app.register_blueprint(blueprint)
