"""What is built runs where the clone is not: a wheel and an sdist, installed into an environment of their own."""

from __future__ import annotations

import http.cookiejar
import os
import re
import shutil
import subprocess
import sys
import sysconfig
import tarfile
import urllib.error
import urllib.parse
import urllib.request
import venv
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.crawling import Crawl, Form, crawl

CLONE = Path(__file__).parents[1]
BUILD = "import sys, setuptools.build_meta as b; print(getattr(b, sys.argv[1])(sys.argv[2]))"
NEEDED = ("pyproject.toml", "README.md", "LICENSE", "botin")


def built(source: Path, what: str, target: Path) -> Path:
    """Build a wheel or an sdist of a source tree with the hook that pip calls."""
    target.mkdir(exist_ok=True)
    made = subprocess.run(
        [sys.executable, "-c", BUILD, what, str(target)], check=False, cwd=source, capture_output=True, text=True
    )
    assert made.returncode == 0, made.stderr
    return target / made.stdout.split()[-1]


@pytest.fixture(scope="session")
def source(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The clone as git knows it, somewhere else: building leaves things behind."""
    folder = tmp_path_factory.mktemp("source")
    for name in NEEDED:
        if (CLONE / name).is_dir():
            shutil.copytree(CLONE / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
        else:
            shutil.copy(CLONE / name, folder / name)
    return folder


@pytest.fixture(scope="session")
def wheel(source: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return built(source, "build_wheel", tmp_path_factory.mktemp("wheel"))


@pytest.fixture(scope="session")
def elsewhere(wheel: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An environment with the wheel and what it needs, and nothing of the clone; returns its folder of commands."""
    folder = tmp_path_factory.mktemp("elsewhere")
    venv.create(folder, with_pip=True)
    where = next((folder / "lib").glob("python*")) / "site-packages"
    # What Botin needs is there already: its folder is looked into without the hooks that lead back to the clone.
    (where / "needed.pth").write_text(sysconfig.get_path("purelib") + "\n")
    pip = [str(folder / "bin" / "python"), "-m", "pip", "install", "--quiet", "--no-index", "--no-deps", str(wheel)]
    subprocess.run(pip, check=True, cwd=folder)
    return folder / "bin"


def run(elsewhere: Path, *words: str) -> str:
    bare = {"PATH": "/usr/bin:/bin", "HOME": str(elsewhere.parent)}
    done = subprocess.run(
        [str(elsewhere / words[0]), *words[1:]],
        check=False,
        cwd=elsewhere.parent,
        env=bare,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_the_wheel_holds_every_file_of_the_package(wheel: Path, source: Path) -> None:
    with zipfile.ZipFile(wheel) as archive:
        packed = {name for name in archive.namelist() if name.startswith("botin/")}
    lying = {str(path.relative_to(source)) for path in (source / "botin").rglob("*") if path.is_file()}
    assert packed == lying


def test_what_was_installed_is_not_the_clone_and_answers(elsewhere: Path, tmp_path: Path) -> None:
    where = run(elsewhere, "python", "-c", "import botin; print(botin.__file__)").strip()
    assert Path(where).is_relative_to(elsewhere.parent)
    assert re.match(r"botin, version \d", run(elsewhere, "botin", "--version"))
    run(elsewhere, "botin", "export", "--all", "--to", str(tmp_path / "home.zip"), "--home", str(tmp_path / "home"))
    assert (tmp_path / "home.zip").stat().st_size > 1_000


@pytest.mark.slow
def test_the_sdist_gives_the_same_wheel(source: Path, wheel: Path, tmp_path: Path) -> None:
    made = built(source, "build_sdist", tmp_path / "sdist")
    with tarfile.open(made) as archive:
        archive.extractall(tmp_path / "unpacked", filter="data")
    again = built(next((tmp_path / "unpacked").iterdir()), "build_wheel", tmp_path / "again")
    with zipfile.ZipFile(wheel) as one, zipfile.ZipFile(again) as two:
        assert sorted(one.namelist()) == sorted(two.namelist())


class Browser:
    """Asks a served Botin as a browser would, with its cookie."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))

    def get(self, path: str) -> tuple[int, str, str]:
        return self._open(urllib.request.Request(self.url + path))  # noqa: S310

    def send(self, form: Form) -> tuple[int, str, str]:
        data = urllib.parse.urlencode(form.fields)
        path = form.action.partition("?")[0] if form.method == "get" else form.action
        if form.method == "get":
            return self.get(f"{path}?{data}")
        return self._open(urllib.request.Request(self.url + path, data.encode()))  # noqa: S310

    def _open(self, request: urllib.request.Request) -> tuple[int, str, str]:
        try:
            with self.opener.open(request, timeout=60) as found:
                mime = found.headers.get_content_type()
                return found.status, mime, found.read().decode() if "html" in mime else ""
        except urllib.error.HTTPError as exc:
            return exc.code, exc.headers.get_content_type(), exc.read().decode()


@pytest.fixture
def served(elsewhere: Path, tmp_path: Path) -> Iterator[Browser]:
    command = [str(elsewhere / "botin"), "demo", "--home", str(tmp_path / "demo"), "--port", "0"]
    bare = {**os.environ, "PYTHONPATH": ""}
    with subprocess.Popen(command, cwd=tmp_path, env=bare, stderr=subprocess.PIPE, text=True) as server:
        assert server.stderr
        for line in server.stderr:
            if found := re.search(r"http://127\.0\.0\.1:\d+", line):
                yield Browser(found[0])
                break
        server.terminate()


@pytest.mark.slow
def test_no_link_and_no_form_of_the_demo_breaks(served: Browser) -> None:
    """Every kind of link leads somewhere; every kind of form, sent as it stands, is answered."""
    found: Crawl = crawl(served.get)
    assert found.failed() == {}
    assert len(found.answers) > 80
    broken = {}
    for form in found.forms:
        if form.method in ("get", "post"):
            status, _, _ = served.send(form)
            if status >= 500:
                broken[form.kind] = status
    assert broken == {}
    assert len({form.kind for form in found.forms}) > 50
