"""What is kept as JSON in a column comes back as it was, and what is no such thing is said in words."""

from __future__ import annotations

import pytest

from botin.core.errors import StoredValueError
from botin.core.grading.grades import Inspection
from botin.desk.settings import Settings
from botin.desk.stored import as_json, from_json, from_plain
from botin.exchange.catalog.interpret import About


@pytest.mark.parametrize(
    "value", [About("Örn 2026", formats="Hobby: 24 × 8\nBlaster"), Inspection(9.5, marks=("corner",)), Settings()]
)
def test_a_value_comes_back_as_it_was(value: object) -> None:
    assert from_json(as_json(value), type(value)) == value


def test_what_a_class_does_not_know_is_left_out_and_what_is_missing_has_its_default() -> None:
    assert from_json('{"centering": 9, "later": 1}', Inspection) == Inspection(9.0)
    assert from_plain({"look_minutes": 3}, Settings) == Settings(look_minutes=3.0)


@pytest.mark.parametrize("text", ["", "[", "[1]", '{"centering": "good"}', '{"marks": 3}', "null"])
def test_what_it_cannot_be_is_said(text: str) -> None:
    with pytest.raises(StoredValueError, match="Inspection in the data file"):
        from_json(text, Inspection)
