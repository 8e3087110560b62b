"""``botin odds`` and ``botin worth`` against boxes packed the plain way by an independent reading of the package."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner

from botin.cli import buying as buying  # noqa: PLC0414  (registers its commands)
from botin.cli import cli
from botin.cli.buying import price_book
from botin.cli.pricing import load_prices_for
from botin.core.catalog.naming import Names
from botin.core.catalog.wants import parse_want, versions
from botin.core.errors import NotFoundError
from botin.core.odds.lines import box_model
from botin.core.opening.owed import owed_lines
from botin.core.pricing.priced import priced_box
from botin.core.pricing.valuecurve import mid_percentile
from botin.core.pricing.worth import worth
from botin.exchange.catalog.package import load
from tests import naive

BOXES = 200_000
CARDS = (
    "section,number,name,team,group\n"
    + "".join(f"base,{n},Rider {n},{'Wheelers' if n % 4 else 'Spokes'},\n" for n in range(1, 81))
    + "".join(f"signed,S{n},Rider {n},Wheelers,{'rare' if n > 6 else ''}\n" for n in range(1, 10))
    + "".join(f"worn,W{n},Rider {n},Spokes,\n" for n in range(1, 7))
    + "".join(f"topper,T{n},Rider {n},Wheelers,\n" for n in range(1, 4))
)
LABELS = {"base": "Base", "signed": "Signed", "worn": "Worn"}
SECTIONS = "section,label,kind\nbase,Base,base\nsigned,Signed,autograph\nworn,Worn,relic\ntopper,Topper,box_topper\n"
FORMATS = "format,label,packs_per_box,cards_per_pack,boxes_per_case\nhobby,Hobby,{0},{1},12\n"
PARALLELS = "parallel,label,section,run\ncopper,Copper,base,\nslate,Slate,base,99\nsole,Sole,signed,1\n"
HEAD = "format,section,parallel,group,packs_per_hit,per_box,per_case,per_pack,promise\n"
PRICES = (
    "section,number,parallel,price\nbase,,,0.11\nbase,7,,4.20\nbase,8,,0.95\nbase,,copper,1.35\nbase,,slate,6.40\n"
    "base,7,slate,88\nsigned,,,7.15\nsigned,S1,,64\nsigned,S9,,180\nsigned,,sole,950\nworn,,,3.30\nworn,W2,,21\ntopper,,,2.25\n"
)
PACKAGES = {
    "odds alone": {
        "formats.csv": FORMATS.format(24, 8),
        "odds.csv": HEAD
        + "hobby,signed,,,12,,,,\nhobby,base,copper,,3,,,,\nhobby,base,slate,,29,,,,\nhobby,signed,sole,,480,,,,\nhobby,worn,,,15,,,,\n",
    },
    "groups, slots and a topper": {
        "formats.csv": FORMATS.format(10, 12),
        "odds.csv": HEAD
        + "hobby,signed,,rare,60,,,,\nhobby,base,copper,,,,,1,\nhobby,base,slate,,0.8,,,,\nhobby,topper,,,,1,,,exact\nhobby,worn,,,,2.4,,,average\n",
    },
    "promises over lines": {
        "formats.csv": FORMATS.format(24, 8),
        "odds.csv": HEAD
        + "hobby,signed,,,10,,,,\nhobby,signed,sole,,300,,,,\nhobby,worn,,,16,,,,\nhobby,base,slate,,,,3,,exact\nhobby,base,copper,,6,3,,,at_least\n",
        "promises.csv": "format,label,count,per,promise,covers\nhobby,four signed or worn,4,box,exact,kind=autograph;worn\n",
    },
    "a promise over unprinted lines": {
        "formats.csv": FORMATS.format(24, 8),
        "odds.csv": HEAD
        + "hobby,signed,,,40,,,,\nhobby,worn,,,,,,,\nhobby,base,copper,,,,,,\nhobby,base,slate,,9,2,,,at_least\n",
        "promises.csv": "format,label,count,per,promise,covers\nhobby,five,5,box,exact,signed;worn;base:copper\n",
    },
    "averages over lines": {
        "formats.csv": FORMATS.format(12, 8),
        "odds.csv": HEAD + "hobby,signed,,,8,,,,\nhobby,worn,,,24,,,,\nhobby,base,copper,,,1.5,,,average\n",
        "promises.csv": "format,label,count,per,promise,covers\nhobby,two,2,box,average,signed;worn\n",
    },
    "hits of a case": {
        "formats.csv": FORMATS.format(12, 10),
        "odds.csv": HEAD
        + "hobby,signed,,,,,4,,exact\nhobby,signed,sole,,,,1,,exact\nhobby,base,copper,,2.5,,,,\nhobby,worn,,,,1,,,guaranteed\n",
    },
}
WANTS: dict[str, Callable[[naive.Version], bool]] = {
    "base:7": lambda v: v == ("base", "7", ""),
    "base:7:*": lambda v: v[:2] == ("base", "7"),
    "base:9:slate": lambda v: v == ("base", "9", "slate"),
    "signed:S1": lambda v: v == ("signed", "S1", ""),
    "kind=autograph": lambda v: v[0] == "signed",
    "kind=relic": lambda v: v[0] == "worn",
    "name=Rider 2": lambda v: v[1].lstrip("SWT") == "2",
    "team=Spokes,kind=base": lambda v: v[0] == "base" and int(v[1]) % 4 == 0,
}


@pytest.fixture(scope="module", params=PACKAGES, ids=lambda name: name)
def packed(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, naive.Boxes]:
    """A package and boxes of it; they are packed once for all that is asked of them."""
    where = tmp_path_factory.mktemp("naive")
    files = write_package(where, request.param)
    return where / "package", naive.pack(files, BOXES, seed=len(request.param))


def worth_of(folder: Path, boxes: naive.Boxes) -> np.ndarray:
    """What each of the boxes is worth at the prices beside the package."""
    rows = {(r["section"], r["number"], r["parallel"]): float(r["price"]) for r in naive.read(PRICES)}
    return np.round(boxes.values(lambda v: rows.get(v, rows.get((v[0], "", v[2]), 0.0))), 6)


def write_package(where: Path, package: str) -> dict[str, str]:
    spoken = spoken_of(PACKAGES[package]["odds.csv"])
    (where / "prices.csv").write_text(spoken.pop("prices.csv"), "utf-8")
    files = {**spoken, **PACKAGES[package]}
    folder = where / "package"
    folder.mkdir()
    for name, text in files.items():
        (folder / name).write_text(text, "utf-8")
    meta = {
        "name": "naive",
        "title": "Naive",
        "botin": {"currency": "EUR"},
        "resources": [{"name": name[:-4], "path": name} for name in files],
    }
    (folder / "datapackage.json").write_text(json.dumps(meta), "utf-8")
    return files


def spoken_of(odds: str) -> dict[str, str]:
    """The sections and finishes of a package: base and what its odds have rows for; all that is listed is in a box."""
    rows = naive.read(odds)
    sections = {"base", *(row["section"] for row in rows)}
    finishes = {(row["section"], row["parallel"]) for row in rows}

    plain = {(row["section"], row["group"]) for row in rows if not row["parallel"]}
    lost = {"signed"} if ("signed", "") not in plain else set()  # then only the rare ones have odds

    def kept(text: str, test: Callable[[dict[str, str]], bool]) -> str:
        head, *lines = text.splitlines(keepends=True)
        return head + "".join(line for line, row in zip(lines, naive.read(text), strict=True) if test(row))

    return {
        "sections.csv": kept(SECTIONS, lambda row: row["section"] in sections),
        "cards.csv": kept(
            CARDS, lambda row: row["section"] in sections and row["section"] + row["group"] not in lost
        ),
        "prices.csv": kept(
            PRICES,
            lambda row: (
                row["section"] in sections
                and (not row["parallel"] or (row["section"], row["parallel"]) in finishes)
                and not ("signed" in lost and row["section"] == "signed" and row["number"] == "S1")
            ),
        ),
        "parallels.csv": kept(PARALLELS, lambda row: (row["section"], row["parallel"]) in finishes),
    }


def has_any(folder: Path, want: str) -> bool:
    """Whether a package lists what is wanted at all."""
    try:
        return bool(versions(load(folder).product, parse_want(want)))
    except NotFoundError:
        return False


def answer(*args: object) -> dict[str, object]:
    found = CliRunner().invoke(cli, [str(arg) for arg in (*args, "--json")])
    assert found.exit_code == 0, found.stderr
    document: dict[str, object] = json.loads(found.stdout)
    return document


def test_chances_and_counts(packed: tuple[Path, naive.Boxes]) -> None:
    """Every chance within four and a half standard errors of its share in 200,000 boxes, every count as well."""
    folder, boxes = packed
    for want, test in WANTS.items():
        if not has_any(folder, want):
            continue
        exact = answer("odds", folder, "--format", "hobby", "--want", want)
        share, count = boxes.share_with(test)
        chance = exact["chance"]["box"]  # type: ignore[index]
        assert share == pytest.approx(chance, abs=4.5 * math.sqrt(max(chance * (1 - chance), 1e-6) / BOXES) + 1e-9), (
            want
        )
        expected = float(exact["expected_per_box"])  # type: ignore[arg-type]
        assert count == pytest.approx(expected, abs=4.5 * math.sqrt(max(expected, 0.01) / BOXES)), want


def test_worth(packed: tuple[Path, naive.Boxes]) -> None:
    """Mean within four standard errors; every quantile x at p has F(x−) − 0.003 ≤ p ≤ F(x) + 0.003."""
    folder, boxes = packed
    values, prices = worth_of(folder, boxes), folder.parent / "prices.csv"
    cost = float(np.quantile(values, 0.7)) + 0.004
    exact = answer("worth", folder, "--format", "hobby", "--prices", prices, "--cost", cost)
    assert exact["mean"] == pytest.approx(values.mean(), abs=4 * values.std() / math.sqrt(BOXES))
    for name, share in (("p10", 0.1), ("median", 0.5), ("p90", 0.9)):
        x, bound = float(exact[name]), float(exact["grid_step"])  # type: ignore[arg-type]
        assert (values < x - bound).mean() - 0.003 <= share <= (values <= x + bound).mean() + 0.003, name
    assert exact["chance_break_even"] == pytest.approx((values >= cost).mean(), abs=0.005)
    assert exact["unpriced"] == []


def test_how_lucky_a_box_was(packed: tuple[Path, naive.Boxes]) -> None:
    """The place of a box among boxes packed plainly: those worth less, and half of those worth the same."""
    folder, boxes = packed
    values, prices = worth_of(folder, boxes), folder.parent / "prices.csv"
    product = load(folder).product
    book = price_book(load_prices_for(prices, product.currency, Names(product)), product, model=False)
    curve = worth(priced_box(box_model(product, product.formats[0], "learned"), book), 10.0).curve
    for seen in np.quantile(values, (0.02, 0.1, 0.35, 0.5, 0.8, 0.97, 0.999)).tolist():
        step = curve.grid.step
        low = (values < seen - step).mean() + (np.abs(values - seen + step) < 1e-6).mean() / 2
        high = (values < seen + step).mean() + (np.abs(values - seen - step) < 1e-6).mean() / 2
        assert low - 0.004 <= mid_percentile([curve], seen) <= high + 0.004, seen


HALF = 40_000
FEW = 1_500


def half_opened(files: dict[str, str]) -> dict[str, np.ndarray]:
    """What lies in each pack of so many boxes: every row of the odds by its words, every promise by its label."""
    rng, fmt = np.random.default_rng(7), naive.read(files["formats.csv"])[0]
    packs, case = int(fmt["packs_per_box"]), int(fmt["boxes_per_case"])
    joint = naive.read(files.get("promises.csv", "label\n"))
    covers = ";".join(promise["covers"] for promise in joint)
    found = {}
    for row in naive.read(files["odds.csv"]):
        tied = row["section"] in covers or (row["section"] == "signed" and "kind=autograph" in covers)
        if row["section"] != "topper" and not tied and f"{row['section']}:{row['parallel']}" not in covers:
            words = (LABELS[row["section"]], row["parallel"], row["group"])
            found[" ".join(filter(None, words))] = naive.laid(row, packs, case, HALF, rng)
    for promise in joint:
        counts = naive.promised(float(promise["count"]), promise["promise"], None, HALF, rng)
        found[promise["label"]] = naive.apart(counts, packs, rng)
    return found


@pytest.mark.parametrize("name", PACKAGES)
def test_what_a_half_opened_box_still_holds(name: str, tmp_path: Path) -> None:
    """Given what came so far: chance of another, of one in the next pack, and how many, in boxes packed plainly."""
    files = write_package(tmp_path, name)
    product = load(tmp_path / "package").product
    model = box_model(product, product.formats[0])
    key_of = {" ".join(filter(None, (x.section.label, x.parallel, x.group))): x.key for x in model.lines}
    tested = 0
    for label, inside in half_opened(files).items():
        packs = inside.shape[1]
        for done in (packs // 4, packs - 2):
            before, after = inside[:, :done].sum(axis=1), inside[:, done:].sum(axis=1)
            for seen in range(int(before.max()) + 1):
                same = before == seen
                if (boxes := int(same.sum())) < FEW:
                    continue
                told = {key_of[label]: seen} if label in key_of else {next(iter(model.joint[0].weights)): seen}
                rows = owed_lines(model, told, packs - done)
                owed = next(row for row in rows if row.label == label)
                next_one = float((inside[same, done] > 0).mean())
                sure = 4.5 / (2 * math.sqrt(boxes))
                assert owed.chance_any == pytest.approx(float((after[same] > 0).mean()), abs=sure), (
                    label,
                    done,
                    seen,
                )
                assert owed.chance_next == pytest.approx(next_one, abs=sure), (label, done, seen)
                spread = 4.5 * float(after[same].std()) / math.sqrt(boxes)
                assert owed.expected == pytest.approx(float(after[same].mean()), abs=spread + 1e-3), (
                    label,
                    done,
                    seen,
                )
                tested += 1
    assert tested >= 6


def test_several_boxes_and_all_of_a_list(packed: tuple[Path, naive.Boxes]) -> None:
    """Boxes together are of one habit; all of a list needs each of it in the same boxes."""
    folder, boxes = packed
    exact = answer("odds", folder, "--format", "hobby", "--want", "base:7", "--want", "kind=relic", "--all")
    base, relics = (boxes.with_any(WANTS[want]) > 0 for want in ("base:7", "kind=relic"))
    share = float((base & relics).mean())
    assert exact["chance"]["box"] == pytest.approx(share, abs=4.5 * math.sqrt(share * (1 - share) / BOXES))  # type: ignore[index]
    few = answer("odds", folder, "--format", "hobby", "--want", "kind=relic", "--boxes", naive.TOGETHER)["chance"]
    relic = relics.reshape(-1, naive.TOGETHER).any(axis=1)
    error = 4.5 * math.sqrt(max(relic.mean() * (1 - relic.mean()), 1e-5) / len(relic))
    assert few["boxes"] == pytest.approx(float(relic.mean()), abs=error)  # type: ignore[index]


def test_a_case_holds_what_is_promised_of_it(tmp_path: Path) -> None:
    """Four signed in a case of twelve: a box has one with chance 4/12, the case for certain; a sole in one of twelve."""
    files = {"sections.csv": SECTIONS, "cards.csv": CARDS, "parallels.csv": PARALLELS, **PACKAGES["hits of a case"]}
    for name, text in files.items():
        (tmp_path / name).write_text(text, "utf-8")
    meta = {"name": "case", "title": "Case", "resources": [{"name": name[:-4], "path": name} for name in files]}
    (tmp_path / "datapackage.json").write_text(json.dumps(meta), "utf-8")
    plain = answer("odds", tmp_path, "--format", "hobby", "--want", "kind=autograph")["chance"]
    sole = answer("odds", tmp_path, "--format", "hobby", "--want", "signed:S1:sole", "--boxes", 2)["chance"]
    assert plain["case"] == pytest.approx(1.0)  # type: ignore[index]
    assert sole["box"] == pytest.approx(1 / 12 / 9)  # type: ignore[index]
    assert sole["case"] == pytest.approx(1 / 9)  # type: ignore[index]
    assert sole["boxes"] == pytest.approx(1 - (1 - 1 / 108) ** 2)  # type: ignore[index]
