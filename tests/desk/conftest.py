"""A home made for the test, for every test of a desk."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.builders import Home, make_home


@pytest.fixture
def built(tmp_path: Path) -> Iterator[Home]:
    home = make_home(tmp_path)
    yield home
    home.session.close()
