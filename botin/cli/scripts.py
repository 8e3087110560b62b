"""Commands for scripts: one JSON document on standard output, and no store.

The names, shapes and exit codes are a contract: 0 done, 1 an expected failure or an error-level finding, 2 usage or a
file that cannot be read. Money is in major units, unrounded; unknown is null.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Any, ParamSpec

import click

from botin.cli import cli
from botin.core.errors import BotinError, UnreadableFileError
from botin.core.odds.audit import audit
from botin.core.odds.boxlaw import BoxLaw
from botin.core.odds.findings import Finding, Severity
from botin.core.odds.printrun import FormatRun, Interval, PrintRun, print_run
from botin.exchange.catalog.package import load
from botin.exchange.openedboxes import read_log, whole_boxes

P = ParamSpec("P")
PACKAGE = click.argument("package", type=click.Path(path_type=Path))
JSON = click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")


def say(document: dict[str, Any]) -> None:
    """Write the one document; numbers that are not finite are null."""
    click.echo(json.dumps(document, ensure_ascii=False, indent=1, allow_nan=False))


def scripted(command: Callable[P, dict[str, Any]]) -> Callable[P, None]:
    """Print what a command returns; an expected failure is a document with ``error`` and a line on standard error."""

    @wraps(command)
    def run(*args: P.args, **kwargs: P.kwargs) -> None:
        try:
            document = command(*args, **kwargs)
        except BotinError as exc:
            say({"error": exc.message, **getattr(exc, "document", {})})
            click.echo(f"Error: {exc.message}", err=True)
            sys.exit(exc.exit_code)
        say(document)
        if document.get("ok") is False:
            sys.exit(1)

    return run


@cli.command("check")
@PACKAGE
@JSON
def check_command(package: Path, *, as_json: bool) -> None:
    """Say what in a product package cannot be right."""
    code = 0
    try:
        reading = load(package)
        law = BoxLaw(reading.product)
        findings = [*reading.findings, *audit(reading.product, law=law)]
        conflicts = law.conflicts
    except UnreadableFileError as exc:
        conflicts = ()
        findings, code = [Finding("unreadable", Severity.ERROR, str(package), exc.message)], exc.exit_code
    ok = not any(found.severity is Severity.ERROR for found in findings)
    if as_json:
        sets = [[{"where": one.where, "text": one.words} for one in found.statements] for found in conflicts]
        say({"ok": ok, "findings": [_finding(found) for found in findings], "conflict": sets})
    else:
        for found in findings:
            click.echo(f"{found.where}: {found.severity.value}: {found.message} [{found.code}]")
        click.echo(
            "Nothing to say against it."
            if not findings
            else f"{len(findings)} finding{'' if len(findings) == 1 else 's'}.",
            err=True,
        )
    sys.exit(code or int(not ok))


def _finding(found: Finding) -> dict[str, str]:
    return {
        "code": found.code,
        "severity": found.severity.value,
        "where": found.where,
        "message": found.message,
    }


@cli.command("printrun")
@PACKAGE
@click.option(
    "--log", "log_path", type=click.Path(path_type=Path), help="openings.csv: whole boxes that were opened."
)
@JSON
@scripted
def printrun_command(package: Path, log_path: Path | None, *, as_json: bool) -> dict[str, Any]:  # noqa: ARG001
    """Say how many packs, boxes and cases were made, from all that is said of them and from logged boxes."""
    product = load(package).product
    logs = whole_boxes(product, read_log(log_path, product)) if log_path else ()
    return print_run_document(print_run(product, BoxLaw(product, logs=logs)))


def print_run_document(found: PrintRun) -> dict[str, Any]:
    """Shape a print run as the contract has it."""
    return {
        "formats": {key: run and _format_run(run) for key, run in found.formats.items()},
        "slack": found.slack,
        "lines": [{**line_keys(row.key), "copies": row.copies, "agrees": row.agrees} for row in found.lines],
        "populations": [{**line_keys(row.key), "per_card": _interval(row.per_card)} for row in found.populations],
        "missing_odds": [
            {
                "format": row.format,
                "section": row.key[0],
                "parallel": row.key[1],
                "group": row.key[2],
                "packs_per_hit": _interval(row.packs_per_hit),
            }
            for row in found.missing_odds
        ],
    }


def line_keys(key: tuple[str, str, str]) -> dict[str, str]:
    """Name a line by section, parallel and group."""
    return dict(zip(("section", "parallel", "group"), key, strict=True))


def _interval(found: Interval) -> dict[str, float | None]:
    return {"estimate": found.estimate, "low": found.low, "high": found.high}


def _format_run(run: FormatRun) -> dict[str, Any]:
    return {
        "packs": _interval(run.packs),
        "boxes": _interval(run.boxes),
        "cases": _interval(run.cases),
        "separable": run.separable,
    }
