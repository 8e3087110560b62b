"""The flag board: where all copies should go, and which mix of grading tiers is best."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from flask.sansio.blueprints import BlueprintSetupState
from werkzeug.wrappers import Response

from botin.core.errors import BotinError
from botin.core.flags.ways import Go
from botin.desk.buying.stillsealed import sealed_ways
from botin.desk.flags.board import choose
from botin.desk.flags.everything import is_stale
from botin.desk.keeping import apart
from botin.desk.keeping.apart import StoppedError
from botin.store.catalog.products import product_names
from botin.store.copies.copies import copies_at_most
from botin.store.flags.board import SORTS, BoardFilter, flag_board
from botin.web.flags.forms import ChooseForm
from botin.web.requests import bench, is_fragment, let_write, session

flags = Blueprint("flags", __name__, template_folder="templates", url_prefix="/flags")
MOMENT = 1.0


def _filter() -> BoardFilter:
    args = request.args
    return BoardFilter(
        go=args.get("go", "") if args.get("go") in set(Go) else "",
        product_id=args.get("product", 0, int),
        words=args.get("q", "").strip()[:80],
        least=args.get("least", 0.0, float),
        unsure=args.get("unsure") == "1",
        sort=args.get("sort", "net") if args.get("sort") in SORTS else "net",
        page=max(1, args.get("page", 1, int)),
    )


@flags.get("/")
def index() -> str:
    """Show the board."""
    wanted = _filter()
    products = product_names(session())
    asked = {key: value for key, value in request.args.items() if key != "page"}
    return render_template(
        "flags/index.html", board=flag_board(session(), wanted), wanted=wanted, products=products, sorts=SORTS,
        gos=list(Go), asked=asked, stale=is_stale(session()),
        sealed=sealed_ways(session(), bench()),
    )  # fmt: skip


@flags.post("/again")
def again() -> Response:
    """Work all verdicts out anew, beside the request."""
    return judge_anew()


def judge_anew() -> Response:
    """Start to work all verdicts out anew and go where its progress is shown; also after prices came in."""
    workbench = bench()
    key = f"routes-{workbench.now():%Y%m%d%H%M%S%f}"
    let_write()
    large = copies_at_most(session(), apart.MANY + 1) > apart.MANY
    job = workbench.jobs.start(
        key, "Working out the flags", lambda job: apart.run(workbench, job, "judge", {}, large=large), long=True
    )
    if job.wait(MOMENT):
        flash(f"{job.future.result()} versions worked out anew.")
        return redirect(url_for("flags.index"), 303)
    return redirect(url_for("flags.progress", key=key), 303)


@flags.get("/again/<key>")
def progress(key: str) -> str | Response:
    """Show how far it is."""
    job = bench().jobs.get(key)
    if not job.wait(0.01):
        template = "flags/_progress.html" if is_fragment() else "flags/progress.html"
        return render_template(template, job=job)
    error = job.future.exception()
    flash(error.message if isinstance(error, StoppedError) else f"{job.future.result()} versions worked out anew.")
    target = url_for("flags.index")
    if is_fragment():
        return Response("", headers={"HX-Redirect": target})
    return redirect(target, 303)


@flags.post("/again/<key>/stop")
def stop(key: str) -> Response:
    """Stop working them out; what was known stays."""
    bench().jobs.get(key).stop()
    return redirect(url_for("flags.progress", key=key), 303)


@flags.post("/choose")
def chosen() -> Response:
    """Set my own route for the ticked versions."""
    form = ChooseForm()
    try:
        count = choose(session(), form.row.ids(), form.go.text, bench().today())
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(f"Set for {count} version{'' if count == 1 else 's'}." if count else "Tick some rows first.")
    return redirect(url_for("flags.index", **_asked()), 303)


def _asked() -> dict[str, Any]:
    names = ("go", "product", "q", "least", "unsure", "sort", "page")
    return {name: request.args[name] for name in names if name in request.args}


@flags.get("/grading")
def grading_before() -> Response:
    """Bookmarks of the grading page's earlier address lead to it."""
    return redirect(url_for("grading.choose"), 301)


@flags.record_once
def _old_address(state: BlueprintSetupState) -> None:
    """Bookmarks of the board's earlier address lead to it."""
    state.app.add_url_rule("/routes/", "flags_before", lambda: redirect(url_for("flags.index"), 301))
