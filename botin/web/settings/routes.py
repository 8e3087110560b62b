"""The settings of the user."""

from __future__ import annotations

from dataclasses import asdict, replace

from flask import Blueprint, flash, redirect, render_template, url_for
from werkzeug.wrappers import Response

from botin.desk.settings import load_settings, save_settings
from botin.store.catalog.search import rookie_words
from botin.web.requests import bench, session
from botin.web.settings.forms import SettingsForm

settings = Blueprint("settings", __name__, template_folder="templates", url_prefix="/settings")


@settings.route("/", methods=["GET", "POST"])
def index() -> str | Response | tuple[str, int]:
    """Show and change the settings."""
    form = SettingsForm(data=SettingsForm.from_settings(asdict(load_settings(session()))))
    form.offer(rookie_words(session()))
    if not form.is_submitted():
        return render_template("settings/index.html", form=form)
    if not form.validate():
        return render_template("settings/index.html", form=form), 422
    save_settings(session(), replace(load_settings(session()), **form.to_settings()))
    bench().live_in(form.time_zone.data or "")
    flash("Saved. Every verdict follows from now on.")
    return redirect(url_for("settings.index"), 303)
