"""Put the parts together: the command line, and the server on the web app."""

from __future__ import annotations

import gc
import os
import shutil
from importlib import import_module
from pathlib import Path
from threading import Timer
from typing import TYPE_CHECKING

import click

from botin.cli import books as books  # noqa: PLC0414  (registers its commands)
from botin.cli import building as building  # noqa: PLC0414  (registers its commands)
from botin.cli import buying as buying  # noqa: PLC0414  (registers its commands)
from botin.cli import cli
from botin.cli import keep as keep  # noqa: PLC0414  (registers its commands)
from botin.cli import measuring as measuring  # noqa: PLC0414  (registers its commands)
from botin.cli import opening as opening  # noqa: PLC0414  (registers its commands)
from botin.cli import reading as reading  # noqa: PLC0414  (registers its commands)
from botin.cli import routing as routing  # noqa: PLC0414
from botin.cli import scripts as scripts  # noqa: PLC0414
from botin.cli.library import HOME
from botin.home import DATABASE, home_folder, secret_key, utc_now
from botin.store.keeping.logfile import write_log
from botin.store.keeping.onlyone import Serving

if TYPE_CHECKING:
    from flask import Flask

PORT = click.option("--port", default=8321, show_default=True, help="Port on 127.0.0.1; 0 takes a free one.")


def heavy_imports() -> None:
    """Load what the first print run would wait for, while nobody waits."""
    for name in ("scipy.optimize", "scipy.special", "scipy.fft", "openpyxl", "rapidfuzz"):
        import_module(name)


def warm(app: Flask) -> None:
    """Load what is heavy and compile every template, while nobody waits."""
    heavy_imports()
    for name in app.jinja_env.list_templates(extensions=["html"]):
        app.jinja_env.get_template(name)
    client = app.test_client()
    for path in ("/", *(f"/buy/{number}" for number in newest_products(app))):
        client.get(path)
    settle_memory()


def newest_products(app: Flask) -> list[int]:
    """Return the products someone is likeliest to ask about first."""
    from botin.store.buying import products_to_buy  # noqa: PLC0415

    with app.extensions["bench"].sessions() as session:
        return [record.id for record in products_to_buy(session)[:3] if record.formats]


def settle_memory() -> None:
    """Spare the garbage collector what stays: modules and checklists by the ten thousand cards are not garbage.

    Without it every few hundred requests one waits tens of milliseconds for a full collection.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)


ROOM: dict[str, int] = {"threads": 12, "connection_limit": 1_000, "channel_timeout": 20, "cleanup_interval": 5}
"""More threads than one window asks for at once; a connection on which nothing comes is dropped after 20 seconds."""


def run_server(home: Path, port: int, *, demo: bool) -> None:
    """Serve the app on the loopback address until it is stopped."""
    gc.disable()  # what is loaded now stays: looking for garbage in it costs a tenth of the start

    from waitress import create_server  # noqa: PLC0415  (the command line starts faster without the web)

    from botin.desk.settings import load_settings  # noqa: PLC0415
    from botin.desk.workbench import Workbench  # noqa: PLC0415
    from botin.store.engine import open_engine, sessions  # noqa: PLC0415
    from botin.store.keeping.upgrade import migrate  # noqa: PLC0415
    from botin.web.app import create_app  # noqa: PLC0415

    os.umask(0o077)  # the log, backups and photos are the owner's alone
    serving = Serving(home)
    serving.hold()
    for left in (path for start in ("working-", "coming-") for path in home.glob(f"{start}*")):
        shutil.rmtree(
            left, ignore_errors=True
        )  # of work that was cut off; nobody else is at it while this home is held
    write_log(home)
    engine = open_engine(home / DATABASE)
    migrate(engine)
    bench = Workbench(sessions(engine), utc_now, home)
    bench.apart = True
    with sessions(engine)() as session:
        bench.live_in(load_settings(session).time_zone)
    app = create_app(bench, secret_key(home), demo=demo)
    gc.enable()
    try:
        server = create_server(app, host="127.0.0.1", port=port, ident=None, **ROOM)
    except OSError as exc:
        message = f"Port {port} is taken, perhaps by another Botin. Stop it, or name another one with --port."
        raise click.ClickException(message) from exc
    warm_up = Timer(3.0, warm, (app,))
    warm_up.daemon = True
    warm_up.start()
    serving.tell(f"http://127.0.0.1:{server.effective_port}")
    click.echo(f"Botin is at http://127.0.0.1:{server.effective_port}  (Ctrl+C stops it)", err=True)
    server.run()


@cli.command()
@HOME
@PORT
def serve(home: Path | None, port: int) -> None:
    """Serve your own data on 127.0.0.1."""
    run_server(home_folder(home), port, demo=False)


@cli.command()
@click.option("--home", type=click.Path(path_type=Path, file_okay=False), default=Path(".demo"), show_default=True)
@PORT
@click.option("--keep", is_flag=True, help="Go on with the demo as it was left.")
def demo(home: Path, port: int, *, keep: bool) -> None:
    """Serve the demo on a fresh working copy of its data."""
    from botin.demo.build import build_demo  # noqa: PLC0415
    from botin.desk.workbench import Workbench  # noqa: PLC0415
    from botin.store.engine import open_engine, sessions  # noqa: PLC0415
    from botin.store.keeping.upgrade import migrate  # noqa: PLC0415

    marker = home / "demo"
    if home.exists() and not keep:
        if any(home.iterdir()) and not marker.exists():
            message = f"{home} holds something that is not the demo. Name another folder with --home."
            raise click.ClickException(message)
        shutil.rmtree(home)
    folder = home_folder(home)
    if not marker.exists():
        engine = open_engine(folder / DATABASE)
        migrate(engine)
        with sessions(engine)() as session:
            build_demo(session, Workbench(sessions(engine), utc_now))
        engine.dispose()
        marker.touch()
    run_server(folder, port, demo=True)


def main() -> None:
    """Run the command line."""
    cli()
