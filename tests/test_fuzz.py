"""A few hundred spoiled inputs over every reader and every form; `make fuzz` sends a hundred thousand."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from flask import Flask

from tests.conftest import NOW
from tests.fuzzing.forms import House, forms_of, run_forms
from tests.fuzzing.mutate import spoil
from tests.fuzzing.readers import readers
from tests.fuzzing.run import MOST_MEGABYTES, run_readers
from tests.fuzzing.sources import run_sources

pytestmark = pytest.mark.filterwarnings("ignore::UserWarning")


def test_spoiled_files_are_read_or_refused_in_words(tmp_path: Path) -> None:
    known = readers(tmp_path)
    for reader in known.values():
        reader.read(reader.good)
    found = run_readers(known, range(350), seed=7)
    assert found.wrong == []
    assert found.answers["read"] > 100
    assert found.answers["refused in words"] > 100


def test_spoiled_forms_are_answered_and_store_all_or_nothing(
    made_app: Flask, demo_file: Path, tmp_path: Path
) -> None:
    before = dict(made_app.config)
    made_app.config["ALLOWED_HOSTS"] = {"127.0.0.1", "localhost"}
    try:
        house = House(made_app, demo_file, tmp_path, NOW)
        forms = forms_of(house, each=1)
        assert len({form.kind for form in forms}) > 50
        found = run_forms(house, forms, range(45), seed=7)
    finally:
        made_app.config.clear()
        made_app.config.update(before)
    assert found.wrong == []
    assert found.answers["read"] > 15
    assert found.answers["refused in words"] > 10
    assert found.megabytes < 2 * MOST_MEGABYTES, "the limit is for the long run: this process ran other tests too"


def test_an_input_is_known_by_its_seed_and_number() -> None:
    one, two = (spoil(b"section,number\nbase,1\n", np.random.default_rng([7, 3])) for _ in range(2))
    assert one == two


def test_spoiled_sources_are_stored_whole_or_refused_in_words(tmp_path: Path) -> None:
    found = run_sources(tmp_path, count=80, seed=7)
    assert found.wrong == []
    assert set(found.counts) == {"stored", "refused"}
