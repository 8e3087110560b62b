"""The house rules, watched: layers, sizes, docstrings."""

from __future__ import annotations

import ast
import re
import statistics
import subprocess
import sys
from pathlib import Path

import pytest

SOURCES = sorted(p for p in Path("botin").rglob("*.py") if "migrations/versions" not in str(p))
FUNCTIONS = [
    (path, node)
    for path in SOURCES
    for node in ast.walk(ast.parse(path.read_text("utf-8")))
    if isinstance(node, ast.FunctionDef)
]


def body_lines(node: ast.FunctionDef) -> int:
    first = node.body[0]
    documented = isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant)
    start = first.end_lineno if documented and len(node.body) > 1 else node.lineno
    return (node.end_lineno or 0) - (start or 0)


def test_the_core_imports_no_framework_and_no_database() -> None:
    code = (
        "import pkgutil, sys, botin.core, importlib\n"
        "for m in pkgutil.walk_packages(botin.core.__path__, 'botin.core.'): importlib.import_module(m.name)\n"
        "print([m for m in ('flask', 'sqlalchemy', 'werkzeug', 'click', 'scipy.stats') if m in sys.modules])"
    )
    found = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert found.stdout.strip() == "[]"


def test_files_answer_one_question() -> None:
    long = {str(path): len(path.read_text("utf-8").splitlines()) for path in SOURCES}
    assert {path: lines for path, lines in long.items() if lines > 400} == {}


def test_functions_do_one_thing() -> None:
    sizes = sorted(body_lines(node) for _, node in FUNCTIONS)
    assert statistics.median(sizes) <= 7
    assert sizes[int(0.9 * len(sizes))] <= 25


@pytest.mark.parametrize("path", SOURCES, ids=str)
def test_public_names_have_docstrings(path: Path) -> None:
    tree = ast.parse(path.read_text("utf-8"))
    assert ast.get_docstring(tree)
    public = [n for n in tree.body if isinstance(n, ast.FunctionDef | ast.ClassDef) and not n.name.startswith("_")]
    assert [node.name for node in public if not ast.get_docstring(node)] == []


def test_the_documents_name_files_that_are_there() -> None:
    named = re.findall(r"`((?:core|desk|store|exchange|web)/[\w/]+\.py)", Path("README.md").read_text("utf-8"))
    assert len(named) >= 12
    assert [path for path in named if not (Path("botin") / path).is_file()] == []


@pytest.mark.parametrize("floor", ["core", "desk", "exchange", "store"])
def test_a_floor_is_divided_by_the_subjects_of_the_readme(floor: str) -> None:
    subjects = set(re.findall(r"^\| `(\w+)` \|", Path("README.md").read_text("utf-8"), re.MULTILINE))
    folders = {path.name for path in (Path("botin") / floor).iterdir() if (path / "__init__.py").is_file()}
    assert folders - {"migrations"} <= subjects


def test_lines_of_templates_can_be_read() -> None:
    long = [
        f"{path}:{number}"
        for path in Path("botin/web").rglob("*.html")
        for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
        if len(line) > 140
    ]
    assert long == []


def test_where_many_values_stand_they_are_named() -> None:
    """A row of seven positions says nothing: which of them is the fee?"""
    classes = {
        node.name
        for path in SOURCES
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.ClassDef) and any("dataclass" in ast.unparse(one) for one in node.decorator_list)
    }
    found = [
        f"{path}:{node.lineno}"
        for path in SOURCES
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in classes
        if len([one for one in node.args if not isinstance(one, ast.Starred)]) >= 7
    ]
    assert found == []


EDGE = {"botin/web/errors.py", "botin/web/requests.py"}
"""Where a request begins, is answered when the file cannot be written, and ends: they know the library's failures."""


def test_all_sql_stands_in_the_store() -> None:
    """Other floors know a session and nothing more of the library; the demo makes its rows by hand."""
    found = [
        f"{path}:{node.lineno}"
        for path in SOURCES
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("sqlalchemy")
        if not {name.name for name in node.names} <= {"Session", "sessionmaker", "Engine"}
        if not any(f"botin/{floor}/" in path.as_posix() for floor in ("store", "demo"))
        if not any(path.as_posix().endswith(one) for one in EDGE)
    ]
    assert found == []


def test_a_session_is_asked_by_the_store() -> None:
    """Beyond the store a session gives a row by its id, takes a new one, lets one go: no question is put to it."""
    asking = {"scalar", "scalars", "execute", "query"}
    found = [
        f"{path}:{node.lineno}"
        for path in SOURCES
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in asking
        if isinstance(node.func.value, ast.Name) and node.func.value.id == "session"
        if not any(f"botin/{floor}/" in path.as_posix() for floor in ("store", "demo"))
    ]
    assert found == []


READERS = {"fields.py", "forms.py", "typed.py", "requests.py", "security.py", "askcolumns.py"}
"""Where a form is read: its fields, its forms, tables with a field a cell, its key, the token and the home."""


def test_forms_are_read_by_their_fields() -> None:
    """A route hands what was typed back as it was; what it means is read by a field, and each kind of field once."""
    given_back = ("request.form.to_dict()", "{**request.form, **typed}", "typed=request.form if")
    found = [
        f"{path}:{number}"
        for path in SOURCES
        if "botin/web/" in path.as_posix() and path.name not in READERS
        for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
        if "request.form" in line and not any(words in line for words in given_back)
    ]
    assert found == []


@pytest.mark.parametrize("floor", ["desk", "web"])
def test_nobody_commits_but_the_edge(floor: str) -> None:
    """A use case says that it is done (`botin.store.unit`); a request is one transaction."""
    found = [
        str(path) for path in SOURCES if f"botin/{floor}/" in str(path) and ".commit()" in path.read_text("utf-8")
    ]
    assert found == []
