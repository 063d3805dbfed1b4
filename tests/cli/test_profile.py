"""``gondrel profile``: regions, new sizes, parts; the bodies against closed forms."""

import json
import math
from pathlib import Path

import ezdxf
import pytest

from gondrel.cli.app import run
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.model.outline import PartOutline
from gondrel.core.sheet.dxf import to_dxf
from tests.core.sheet.test_solving import bracket, bracket_area

AREA = bracket_area(80, 50, 10, 6, 16, 4)


@pytest.fixture
def drawing(tmp_path) -> Path:
    curves = bracket()
    path = tmp_path / "bracket.dxf"
    rim, bores = (
        PartOutline("Rim", "#FF0000", tuple(curves[:8])),
        PartOutline("Bores", "#00FF00", tuple(curves[8:])),
    )
    path.write_bytes(to_dxf([rim, bores], unit="mm"))
    return path


def told(capsys, *arguments, status=0) -> dict:
    assert run(["profile", *map(str, arguments), "--json"]) == status
    return json.loads(capsys.readouterr().out)


def test_looked_at(drawing, capsys) -> None:
    result = told(capsys, drawing)
    (region,) = result["regions"]
    assert region["area"] == pytest.approx(AREA, rel=1e-9) and region["holes"] == 2
    assert {layer["name"] for layer in result["layers"] if layer["taken"]} == {"Rim", "Bores"}
    assert result["relations"]["tangent"] == 8 and result["unit"] == "mm" and result["sent"] == []
    assert not result["open_ends"] and not result["crossings"]
    rim = told(capsys, drawing, "--layers", "rim")["regions"]
    assert rim[0]["holes"] == 0 and rim[0]["area"] == pytest.approx(AREA + 8 * math.pi, rel=1e-9)
    assert told(capsys, drawing, "--set", "unit=inch")["regions"][0]["area"] == pytest.approx(
        AREA * 25.4**2
    )


@pytest.mark.parametrize("kind, suffix", [("step-ap242", "stp"), ("xt-text", "x_t"), ("iges-solid", "igs")])
def test_extruded_and_proved(drawing, tmp_path, capsys, kind, suffix) -> None:
    out = tmp_path / f"bracket.{suffix}"
    result = told(capsys, drawing, "--out", out, "--as", kind, "--extrude", 8)
    assert result["proof"]["volume"] == pytest.approx(8 * AREA, rel=1e-7)
    assert result["proof"]["unannounced_losses"] == 0 and out.is_file()


def test_a_length_is_changed_and_all_that_holds_is_kept(drawing, tmp_path, capsys) -> None:
    out = tmp_path / "longer.dxf"
    before = told(capsys, drawing)
    result = told(capsys, drawing, "--change", "L1=94", "--out", out)
    assert result["solved"]["worst"] < 1e-9
    assert result["regions"][0]["area"] == pytest.approx(bracket_area(110, 50, 10, 6, 16, 4), rel=1e-9)
    assert result["relations"] == before["relations"]
    arcs = ezdxf.readfile(out).modelspace().query("CIRCLE")
    assert sorted(c.dxf.center.x for c in arcs) == pytest.approx([5, 110], abs=1e-9)
    assert {e.dxf.layer for e in ezdxf.readfile(out).modelspace()} == {"Rim", "Bores"}


def test_turned_and_flat(drawing, tmp_path, capsys) -> None:
    away = told(capsys, drawing, "--layers", "Bores", "--out", tmp_path / "a.stp", "--as", "step-ap242",
                "--revolve", 90, "--set", "axis=-20,0,0,1")  # fmt: skip
    expected = math.pi / 2 * 4 * math.pi * (100 + 25)  # an angle times the way of the middle times the area
    assert away["proof"]["volume"] == pytest.approx(expected, rel=1e-8)
    told(capsys, drawing, "--out", tmp_path / "flat.stp", "--as", "step-ap242", "--sheet")
    with pytest.raises(UsageError, match="runs through"):
        run(["profile", str(drawing), "--out", str(tmp_path / "b.stp"), "--as", "step-ap242",
             "--revolve", "90", "--set", "axis=30,0,0,1"])  # fmt: skip
    assert not (tmp_path / "b.stp").exists()


def test_blocks_dissolved_placed_or_left(tmp_path, capsys) -> None:
    document = ezdxf.new("R2010", units=4)
    block = document.blocks.new("Ring")
    block.add_circle((0, 0), 5)
    space = document.modelspace()
    space.add_circle((0, 0), 20)
    space.add_blockref("Ring", (0, 0))
    path = tmp_path / "a.dxf"
    document.saveas(path)
    assert [r["holes"] for r in told(capsys, path)["regions"]] == [1]
    assert [r["holes"] for r in told(capsys, path, "--set", "blocks=placed")["regions"]] == [0, 0]
    left = told(capsys, path, "--set", "blocks=none")["regions"]
    assert [r["area"] for r in left] == pytest.approx([400 * math.pi])


@pytest.mark.parametrize(
    "arguments",
    [
        ("--out", "a.stp", "--as", "step-ap242"), ("--out", "a.stp", "--extrude", "0"),
        ("--layers", "Nowhere"), ("--change", "L99=5"), ("--change", "L1=x"), ("--drop", "love"),
        ("--change", "L1=-4"), ("--set", "regions=9", "--out", "a.stp", "--as", "step-ap242", "--sheet"),
        ("--extrude", "3", "--sheet"), ("--set", "kinds=HATCH"), ("--revolve", "400"),
    ],
)  # fmt: skip
def test_what_is_none_is_refused(drawing, tmp_path, monkeypatch, arguments) -> None:
    monkeypatch.chdir(tmp_path)
    with pytest.raises(GondrelError):
        run(["profile", str(drawing), *arguments])
    assert not list(tmp_path.glob("a.*"))


def test_a_drawing_given_as_a_model_is_told_apart(drawing) -> None:
    with pytest.raises(GondrelError, match="a drawing, not a model") as error:
        run(["inspect", str(drawing)])
    assert "gondrel profile" in (error.value.hint or "")
