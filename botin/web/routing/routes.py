"""The route board: where all copies should go, and which mix of grading tiers is best."""

from __future__ import annotations

from datetime import date
from typing import Any

from flask import Blueprint, flash, redirect, render_template, request, url_for
from sqlalchemy import select
from werkzeug.wrappers import Response

from botin.core.errors import BotinError
from botin.core.routing import Go
from botin.desk.jobs import Job
from botin.desk.returns import calibration
from botin.desk.routing import SORTS, BoardFilter, choose, is_stale, judge_all, route_board
from botin.desk.submission import best_mix
from botin.desk.terms import grading_terms, save_grading_terms
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord
from botin.web.requests import bench, is_fragment, session

routing = Blueprint("routing", __name__, template_folder="templates", url_prefix="/routes")
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


@routing.get("/")
def index() -> str:
    """Show the board."""
    wanted = _filter()
    products = session().execute(select(ProductRecord.id, ProductRecord.name).order_by(ProductRecord.name)).all()
    asked = {key: value for key, value in request.args.items() if key != "page"}
    return render_template(
        "routing/index.html", board=route_board(session(), wanted), wanted=wanted, products=products, sorts=SORTS,
        gos=list(Go), asked=asked, stale=is_stale(session()),
    )  # fmt: skip


def _judge(workbench: Workbench, job: Job) -> int:
    with workbench.sessions() as own:
        return judge_all(own, workbench, job.progress)


@routing.post("/again")
def again() -> Response:
    """Work all verdicts out anew, beside the request."""
    workbench = bench()
    key = f"routes-{workbench.now():%Y%m%d%H%M%S%f}"
    job = workbench.jobs.start(key, "Working out the routes", lambda job: _judge(workbench, job))
    if job.wait(MOMENT):
        flash(f"{job.future.result()} versions worked out anew.")
        return redirect(url_for("routing.index"), 303)
    return redirect(url_for("routing.progress", key=key), 303)


@routing.get("/again/<key>")
def progress(key: str) -> str | Response:
    """Show how far it is."""
    job = bench().jobs.get(key)
    if not job.wait(0.01):
        template = "routing/_progress.html" if is_fragment() else "routing/progress.html"
        return render_template(template, job=job)
    flash(f"{job.future.result()} versions worked out anew.")
    target = url_for("routing.index")
    if is_fragment():
        return Response("", headers={"HX-Redirect": target})
    return redirect(target, 303)


@routing.post("/choose")
def chosen() -> Response:
    """Set my own route for the ticked versions."""
    ids = [int(text) for text in request.form.getlist("row") if text.isdigit()]
    try:
        count = choose(session(), ids, request.form.get("go", ""))
    except BotinError as exc:
        flash(exc.message)
    else:
        flash(f"Set for {count} version{'' if count == 1 else 's'}." if count else "Tick some rows first.")
    return redirect(url_for("routing.index", **_asked()), 303)


def _asked() -> dict[str, Any]:
    names = ("go", "product", "q", "least", "unsure", "sort", "page")
    return {name: request.args[name] for name in names if name in request.args}


@routing.route("/grading", methods=["GET", "POST"])
def grading() -> str | Response | tuple[str, int]:
    """Choose the best mix of tiers over all candidates; edit the tiers and fees."""
    error = ""
    if request.method == "POST":
        error = _save()
        if not error:
            flash("Kept from that day on; older terms stay as they were.")
            return redirect(url_for("routing.grading"), 303)
    cash = request.args.get("cash", type=float)
    terms = grading_terms(session(), bench().today())
    mix = best_mix(session(), bench(), terms, cash)
    shown = {
        "learned": calibration(session()),
        "terms": terms,
        "mix": mix,
        "cash": cash,
        "today": bench().today(),
        "error": error,
    }
    page = render_template("routing/grading.html", typed=request.form, **shown)
    return (page, 422) if error else page


def _save() -> str:
    form = request.form
    try:
        body: dict[str, object] = {"tiers": form.get("tiers", "")}
        for name in ("shipping", "membership", "insured", "monthly", "together"):
            body[name] = float(form.get(name) or 0)
        day = date.fromisoformat(form.get("valid_from") or bench().today().isoformat())
        save_grading_terms(session(), day, body)
    except BotinError as exc:
        return exc.message
    except ValueError:
        return "Write plain numbers, and the day like 2026-03-14."
    return ""
