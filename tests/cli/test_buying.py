"""``botin odds`` and ``botin worth``: shapes of the contract, values by hand, exit codes."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from botin.cli import building as building  # noqa: PLC0414  (registers its commands)
from botin.cli import buying as buying  # noqa: PLC0414
from botin.cli import cli

FILES = {
    "formats.csv": "format,label,packs_per_box,cards_per_pack,boxes_per_case\nhobby,Hobby,24,8,12\nretail,Retail,7,6,\n",
    "sections.csv": "section,label,kind\nbase,Base,base\nsigned,Signed,autograph\nworn,Worn,relic\n",
    "cards.csv": "section,number,name,team\n"
    + "".join(f"base,{n},Rider {n},Wheelers\n" for n in range(1, 101))
    + "".join(f"signed,S{n},Rider {n},Wheelers\n" for n in range(1, 5))
    + "worn,W1,Rider 1,Wheelers\n",
    "parallels.csv": "parallel,label,section,run\ncopper,Copper,base,25\n",
    "odds.csv": "format,section,parallel,packs_per_hit,per_box,promise\n"
    "hobby,signed,,12,,\nhobby,base,copper,29,,\nhobby,worn,,,1,exact\nretail,signed,,96,,\n",
    "prices.csv": "section,number,parallel,price,sold_on\nbase,,,0.10,\nsigned,S1,,30,2026-11-01\nsigned,S1,,50,2026-11-01\n"
    "signed,S1,,34,2026-11-01\nsigned,,,6,2026-11-01\nbase,,copper,5,2026-11-01\n",
    "fees.json": '{"selling": {"fee": 0.1, "fixed": 0.3, "postage": 1.0, "bulk_below": 0.5, "bulk_each": 0.01}}',
}


@pytest.fixture
def small(tmp_path: Path) -> Path:
    folder = tmp_path / "small"
    folder.mkdir()
    meta = {"name": "small", "title": "Small", "botin": {"currency": "EUR"}, "resources": []}
    tables = [name for name in FILES if name.endswith(".csv") and name != "prices.csv"]
    meta["resources"] = [{"name": name[:-4], "path": name} for name in tables]
    (folder / "datapackage.json").write_text(json.dumps(meta), "utf-8")
    for name, text in FILES.items():
        (folder if name in tables else tmp_path).joinpath(name).write_text(text, "utf-8")
    return tmp_path


def run(*args: object) -> Result:
    return CliRunner().invoke(cli, [str(arg) for arg in args])


def test_odds_by_hand(small: Path) -> None:
    found = run("odds", small / "small", "--format", "hobby", "--want", "kind=autograph", "--boxes", 3, "--json")
    assert found.exit_code == 0, found.stderr
    document = json.loads(found.stdout)
    assert set(document) == {
        "expected_per_box", "chance", "bounds", "expected_bounds", "unprinted", "boxes_for_even_chance", "boxes_for_95",
        "assumptions",
    }  # fmt: skip
    assert document["expected_per_box"] == pytest.approx(2.0)
    miss = (11 / 12) ** 24
    assert document["chance"] == pytest.approx(
        {"pack": 1 / 12, "box": 1 - miss, "case": 1 - miss**12, "boxes": 1 - miss**3}
    )
    assert (document["boxes_for_even_chance"], document["boxes_for_95"]) == (1, 2)


def test_any_all_and_and(small: Path) -> None:
    base = ("odds", small / "small", "--format", "hobby", "--json")
    any_of = json.loads(run(*base, "--want", "signed:S1", "--want", "worn:W1").stdout)
    all_of = json.loads(run(*base, "--want", "signed:S1", "--want", "worn:W1", "--all").stdout)
    both = json.loads(run(*base, "--want", "name=Rider 1,kind=autograph").stdout)
    assert any_of["chance"]["box"] == pytest.approx(1.0)
    assert all_of["chance"]["box"] == pytest.approx(both["chance"]["box"])
    assert both["chance"]["box"] == pytest.approx(1 - (1 - 1 / 48) ** 24)


def test_repeats_and_null(small: Path) -> None:
    base = ("odds", small / "small", "--format", "retail", "--want", "base:7", "--json")
    independent = json.loads(run(*base).stdout)
    none = json.loads(run(*base, "--repeats", "none").stdout)
    half = json.loads(run(*base, "--repeats", "0.5").stdout)
    assert independent["chance"]["box"] < half["chance"]["box"] < none["chance"]["box"]
    assert independent["chance"]["case"] is None
    never = json.loads(run("odds", small / "small", "--format", "retail", "--want", "base:7:copper", "--json").stdout)
    assert never["boxes_for_even_chance"] is None


@pytest.mark.parametrize(
    ("args", "code"),
    [
        (("--format", "hobby", "--want", "nonsense"), 2),
        (("--format", "hobby", "--want", "signed:S99"), 1),
        (("--format", "jumbo", "--want", "signed:S1"), 1),
        (("--format", "hobby"), 2),
        (("--format", "hobby", "--want", "signed:S1", "--repeats", "often"), 2),
    ],
)
def test_exit_codes_of_odds(small: Path, args: tuple[str, ...], code: int) -> None:
    assert run("odds", small / "small", *args, "--json").exit_code == code
    assert run("odds", small / "nowhere", "--format", "hobby", "--want", "signed:S1").exit_code == 2


def test_worth_by_hand(small: Path) -> None:
    """Two signed at (34 + 3·6)/4, 24/29 coppers at 5, one worn without a price, the rest at 0.10."""
    args = ("worth", small / "small", "--format", "hobby", "--prices", small / "prices.csv", "--cost", 40, "--json")
    found = run(*args)
    assert found.exit_code == 0, found.stderr
    document = json.loads(found.stdout)
    rest = 192 - 2 - 24 / 29 - 1
    assert document["mean"] == pytest.approx(2 * (34 + 18) / 4 + 24 / 29 * 5 + 0.1 * rest)
    assert document["unpriced"] == [{"section": "worn", "parallel": "", "group": "", "cards": 1, "of": 1}]
    assert document["lines"][0] == pytest.approx(
        {
            "section": "signed",
            "parallel": "",
            "group": "",
            "expected_count": 2.0,
            "mean": 26.0,
            "share": 26 / document["mean"],
        }
    )
    assert document["grid_step"] == 0.01
    assert document["error_bound"] < 1e-9
    assert document["p10"] <= document["median"] <= document["p90"]
    assert (document["currency"], document["boxes"], document["cost"]) == ("EUR", 1, 40)
    three = json.loads(run(*args, "--boxes", 3, "--seeding", "random", "--repeats", "none").stdout)
    assert three["mean"] == pytest.approx(3 * document["mean"])
    assert three["cost"] == 120


def test_worth_net_of_selling(small: Path) -> None:
    """A card at 34 nets 29.30, at 6 nets 4.10, at 5 nets 3.20; base goes to bulk at 0.01."""
    args = ("worth", small / "small", "--format", "hobby", "--prices", small / "prices.csv", "--cost", "40", "--net")
    document = json.loads(run(*args, "--fees", small / "fees.json").stdout)
    rest = 192 - 2 - 24 / 29 - 1
    assert document["mean"] == pytest.approx(2 * (29.3 + 3 * 4.1) / 4 + 24 / 29 * 3.2 + 0.01 * rest)
    assert run(*args).exit_code == 2
    (small / "fees.json").write_text('{"selling": {"fee": 12}}', "utf-8")
    assert run(*args, "--fees", small / "fees.json").exit_code == 2


def test_a_price_that_cannot_be_read_is_no_answer(small: Path) -> None:
    (small / "prices.csv").write_text("section,price\nsigned,about ten\n", "utf-8")
    args = ("worth", small / "small", "--format", "hobby", "--prices", small / "prices.csv", "--cost", "40", "--json")
    found = run(*args)
    assert found.exit_code == 1
    assert "prices.csv:2" in json.loads(found.stdout)["error"]
    assert run(*args[:-4], small / "none.csv", "--cost", "40").exit_code == 2


def test_repeats_of_the_trade() -> None:
    found = run("repeats", "--set-size", 792, "--box", "744:548", "--box", "744:640", "--union", 767, "--json")
    assert found.exit_code == 0
    document = json.loads(found.stdout)
    assert set(document) == {
        "repeat_factor", "low", "high", "per_box", "between", "fit_p", "expected_distinct", "assumptions",
    }  # fmt: skip
    assert document["per_box"][0]["repeat_factor"] == pytest.approx(0.563, abs=0.001)
    assert document["expected_distinct"]["independent"] == pytest.approx([483, 483], abs=0.7)
    assert document["expected_distinct"]["no_repeats"] == [744, 744]
    assert json.loads(run("repeats", "--set-size", 792, "--box", "744:548").stdout)["between"] is None


@pytest.mark.parametrize("box", ["744", "a:b", "744:800", "10:9:9:9"])
def test_repeats_of_counts_that_cannot_be(box: str) -> None:
    assert run("repeats", "--set-size", 792, "--box", box).exit_code == 2


def test_finish_by_hand(small: Path) -> None:
    """Two of four signed missing at 34 and 6: nothing opened costs 40; a box brings the rest of its lines."""
    (small / "have.csv").write_text("section,number,count\nsigned,S2,1\nsigned,S3,\nbase,1,4\n", "utf-8")
    args = ("finish", small / "small", "--format", "hobby", "--section", "signed", "--have", small / "have.csv")
    more = ("--prices", small / "prices.csv", "--box-price", 40, "--max-boxes", 3, "--json")
    found = run(*args, *more)
    assert found.exit_code == 0, found.stderr
    document = json.loads(found.stdout)
    assert (document["missing"], len(document["curve"]), document["unpriced"]) == (2, 4, [])
    assert document["curve"][0]["expected_cost"] == pytest.approx(40.0)
    assert document["curve"][0]["chance_complete"] == 0
    left = [(1 - 1 / 48) ** (24 * k) for k in range(4)]
    assert [step["expected_missing"] for step in document["curve"]] == pytest.approx([2 * x for x in left], rel=1e-6)
    (small / "have.csv").write_text("section,number,count\nsigned,S2,many\n", "utf-8")
    assert run(*args, *more).exit_code == 1
    assert run(*args[:-1], small / "nothing.csv", *more).exit_code == 2
