"""DXF in: files that ezdxf wrote, in all versions and every kind of curve, against closed forms."""

import io
import json
import math
from contextlib import suppress
from dataclasses import asdict

import ezdxf
import numpy as np
import pytest
from ezdxf.math import BSpline as Their
from scipy.special import ellipe

from gondrel.core.errors import GondrelError, LimitExceeded, MalformedFile, UnsupportedContent, UsageError
from gondrel.core.model.outline import Arc, FlatEllipse, FlatLine, Spline
from gondrel.core.sheet.curve_sizes import curve_at, curve_length, ends_of, whole_length
from gondrel.core.sheet.dxf_in import read_dxf

VERSIONS = ("R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018")


def saved(document, path, fmt="asc") -> str:
    document.saveas(path, fmt=fmt)
    return str(path)


def one(sheet):
    (made,) = sheet.curves
    return made.curve


@pytest.mark.parametrize("fmt", ["asc", "bin"])
@pytest.mark.parametrize("version", VERSIONS)
def test_all_versions(tmp_path, version, fmt) -> None:
    document = ezdxf.new(version, setup=True)
    document.layers.add("Rim ä", color=1, linetype="DASHED")
    space = document.modelspace()
    space.add_line((0, 0), (3, 4), dxfattribs={"layer": "Rim ä"})
    space.add_circle((10, 0), 2)
    space.add_arc((0, 0), 5, 350, 20)
    space.add_text("Note", height=3).set_placement((1, 1))
    expected = 5 + 4 * math.pi + 5 * math.radians(30)
    if version != "R12":
        document.units = ezdxf.units.IN
        space.add_ellipse((0, 0), (4, 0), 0.5)
        expected += 16 * ellipe(0.75)
    sheet = read_dxf(saved(document, tmp_path / "a.dxf", fmt))
    factor = 25.4 if version != "R12" else 1.0
    assert sheet.version == version and sheet.is_proposed == (version == "R12") and sheet.factor == factor
    assert whole_length(c.curve for c in sheet.curves) == pytest.approx(factor * expected, rel=1e-12)
    layer = next(each for each in sheet.layers if each.name == "Rim ä")
    assert (layer.entities, layer.colour, layer.line_type) == (1, "#FF0000", "DASHED")
    assert sheet.curves[0].layer == "Rim ä" and sheet.curves[0].colour == "#FF0000"
    assert [(t.text, t.height) for t in sheet.texts] == [("Note", 3 * factor)]


def drawn(tmp_path, draw, version="R2010"):
    document = ezdxf.new(version, units=4)
    draw(document.modelspace(), document)
    return read_dxf(saved(document, tmp_path / "a.dxf"))


def test_bulges_are_arcs(tmp_path) -> None:
    """A slot of 20 by 10: two straight sides, two half circles, clockwise and anticlockwise."""
    rows = [(0, 0, 0), (20, 0, 1), (20, 10, 0), (0, 10, 1)]

    def draw(space, _) -> None:
        space.add_lwpolyline(rows, format="xyb", close=True)
        space.add_polyline2d([(x + 40, y, b) for x, y, b in rows], format="xyb", close=True)

    curves = [c.curve for c in drawn(tmp_path, draw).curves]
    assert [type(c) for c in curves].count(Arc) == 4
    assert whole_length(curves) == pytest.approx(2 * (40 + 10 * math.pi), rel=1e-13)
    assert {round(c.radius, 12) for c in curves if isinstance(c, Arc)} == {5.0}
    assert {c.centre for c in curves if isinstance(c, Arc)} == {(20, 5), (0, 5), (60, 5), (40, 5)}


@pytest.mark.parametrize("bulge", [-2.5, -1, -0.2, 0.2, 1, 2.5])
def test_a_bulge_bends_to_the_right_side(tmp_path, bulge) -> None:
    arc = one(
        drawn(tmp_path, lambda space, _: space.add_lwpolyline([(0, 0, 0, 0, bulge), (2, 0, 0, 0, 0)]))
    )
    middle = curve_at(arc, np.array([(arc.start + arc.end) / 2]))[0]
    assert middle == pytest.approx((1, -bulge), abs=1e-12)  # the height of an arc is half chord times bulge


def spline_cases():
    poles = [(0, 0), (10, 20), (30, -10), (50, 15), (60, 0), (80, 5)]
    yield "clamped", lambda s: s.add_open_spline([(x, y, 0) for x, y in poles])
    yield (
        "rational",
        lambda s: s.add_rational_spline([(x, y, 0) for x, y in poles], weights=[1, 2, 1, 0.5, 1, 3]),
    )
    yield "closed", lambda s: s.add_spline().set_closed([(x, y, 0) for x, y in poles])
    yield (
        "closed rational",
        lambda s: s.add_spline().set_closed_rational(
            [(x, y, 0) for x, y in poles], weights=[1, 2, 1, 0.5, 1, 3]
        ),
    )
    yield "fitted", lambda s: s.add_spline_control_frame([(x, y, 0) for x, y in poles])
    yield "quadratic", lambda s: s.add_open_spline([(x, y, 0) for x, y in poles], degree=2)


@pytest.mark.parametrize("name, add", list(spline_cases()), ids=[name for name, _ in spline_cases()])
def test_splines_are_exact(tmp_path, name, add) -> None:
    """Our points lie on the curve that ezdxf works out by its own rule, all along."""
    sheet = drawn(tmp_path, lambda space, _: add(space))
    curve = one(sheet)
    assert isinstance(curve, Spline)
    (entity,) = ezdxf.readfile(tmp_path / "a.dxf").modelspace()
    theirs: Their = entity.construction_tool()
    low, high = theirs.knots()[theirs.degree], theirs.knots()[theirs.count]
    assert (curve.knots[0], curve.knots[-1]) == pytest.approx((low, high))
    at = np.linspace(low, high, 400)[1:-1]
    off = curve_at(curve, at) - np.array([(p.x, p.y) for p in theirs.points(at)])
    assert np.abs(off).max() < 1e-10
    assert ends_of(curve)[0] == pytest.approx(curve.poles[0])


def test_other_curves(tmp_path) -> None:
    def draw(space, _) -> None:
        space.add_solid([(0, 0), (4, 0), (0, 3), (4, 3)])
        space.add_3dface([(10, 0), (14, 0), (14, 3), (10, 3)])
        space.add_polyline3d([(0, 10), (3, 14)])
        space.add_ellipse((0, 0), (0, 5), 0.2, 0, math.pi)
        space.add_spline([(0, 0), (1, 1), (2, 0)])

    sheet = drawn(tmp_path, draw)
    kinds = [c.kind for c in sheet.curves]
    assert kinds.count("SOLID") == kinds.count("3DFACE") == 4
    assert sum(curve_length(c.curve) for c in sheet.curves if c.kind == "SOLID") == pytest.approx(14)
    assert "pass through" in str(sheet.notes)


def test_what_is_no_curve_is_counted(tmp_path) -> None:
    def draw(space, _) -> None:
        space.add_hatch().paths.add_polyline_path([(0, 0), (1, 0), (1, 1)])
        space.add_point((0, 0))
        space.add_ray((0, 0), (1, 0))
        space.add_line((0, 0), (0, 0))
        space.add_line((0, 0, 5), (1, 0, 5))
        space.add_circle((0, 0), 3, dxfattribs={"extrusion": (1, 0, 1)})
        space.add_linear_dim(base=(0, 5), p1=(0, 0), p2=(12.5, 0)).render()
        space.add_mtext("two\\Plines")

    sheet = drawn(tmp_path, draw)
    said = " / ".join(note.text for note in sheet.notes)
    for word in (
        "1 HATCH",
        "1 POINT",
        "1 RAY",
        "without length",
        "above or below",
        "plane of the sheet",
    ):
        assert word in said
    assert [(t.kind, t.value) for t in sheet.texts] == [("dimension", 12.5), ("text", None)]
    assert sheet.texts[1].text == "two\nlines"


def test_mirrored_coordinate_systems(tmp_path) -> None:
    """Entities whose axis points away from us are seen from behind: x is turned over."""
    back = {"extrusion": (0, 0, -1)}
    sheet = drawn(tmp_path, lambda space, _: (
        space.add_arc((10, 0), 5, 0, 90, dxfattribs=back),
        space.add_lwpolyline([(10, 0, 0, 0, 1), (20, 0, 0, 0, 0)], dxfattribs=back),
    ))  # fmt: skip
    arc, half = (c.curve for c in sheet.curves)
    assert arc.centre == pytest.approx((-10, 0))
    assert sorted(ends_of(arc)) == [pytest.approx((-15, 0)), pytest.approx((-10, 5))]
    assert curve_at(half, np.array([(half.start + half.end) / 2]))[0] == pytest.approx((-15, -5))


def test_blocks_are_placed_exactly(tmp_path) -> None:
    def draw(space, document) -> None:
        inner = document.blocks.new("Bore")
        inner.add_circle((1, 0), 2)
        inner.add_line((0, 0), (1, 0), dxfattribs={"layer": "Own"})
        outer = document.blocks.new("Pair")
        outer.add_blockref("Bore", (0, 0))
        outer.add_blockref("Bore", (10, 0), dxfattribs={"rotation": 90})
        document.layers.add("Placed", color=3)
        space.add_blockref("Pair", (100, 0), dxfattribs={"layer": "Placed", "xscale": 2, "yscale": 2})
        space.add_blockref("Bore", (0, 50), dxfattribs={"xscale": 3, "yscale": 1})
        space.add_blockref("Bore", (0, 90), dxfattribs={"column_count": 3, "column_spacing": 20})
        space.add_blockref("Gone", (0, 0))

    sheet = drawn(tmp_path, draw)
    circles = [c for c in sheet.curves if isinstance(c.curve, Arc)]
    assert [(c.curve.centre, c.curve.radius) for c in circles[:2]] == [
        (pytest.approx((102, 0)), pytest.approx(4)), (pytest.approx((120, 2)), pytest.approx(4)),
    ]  # fmt: skip
    assert circles[0].block == ("Pair", "Bore") and circles[0].layer == "Placed"
    assert circles[0].colour == "#00FF00"
    assert {c.layer for c in sheet.curves if isinstance(c.curve, FlatLine)} == {"Own"}
    (stretched,) = (c.curve for c in sheet.curves if isinstance(c.curve, FlatEllipse))
    assert math.hypot(*stretched.major) == pytest.approx(6) and stretched.ratio == pytest.approx(1 / 3)
    assert [round(c.curve.centre[0], 9) for c in circles[2:]] == [1, 21, 41]
    assert "BLOCK definition" in str(sheet.notes)


def test_units_and_layouts(tmp_path) -> None:
    document = ezdxf.new("R2010", units=0)
    document.header["$MEASUREMENT"] = 0
    document.modelspace().add_line((0, 0), (4, 0))
    document.layout("Layout1").add_line((0, 0), (7, 0))
    path = saved(document, tmp_path / "a.dxf")
    sheet = read_dxf(path)
    assert sheet.is_proposed and sheet.unit == "inch" and "no unit" in str(sheet.notes)
    assert read_dxf(path, unit="cm").factor == 10 and not read_dxf(path, unit="cm").is_proposed
    assert sheet.layouts == ("Model", "Layout1")
    assert curve_length(one(read_dxf(path, layout="Layout1", unit="mm"))) == 7
    with pytest.raises(UsageError, match="Layout1"):
        read_dxf(path, layout="Other")
    with pytest.raises(UsageError, match="ell"):
        read_dxf(path, unit="ell")


def test_what_is_no_drawing_is_refused(tmp_path) -> None:
    for data, kind, word in (
        (b"AC1032\0\0\0", UnsupportedContent, "DWG"), (b"", MalformedFile, "empty"),
        (b"no drawing\n", MalformedFile, "DXF"), (bytes(range(256)) * 40, MalformedFile, "DXF"),
    ):  # fmt: skip
        path = tmp_path / "a.dxf"
        path.write_bytes(data)
        with pytest.raises(kind, match=word):
            read_dxf(str(path))


def test_a_bomb_of_blocks_is_refused(tmp_path) -> None:
    document = ezdxf.new("R2010")
    document.blocks.new("B0").add_line((0, 0), (1, 0))
    for level in range(1, 9):
        block = document.blocks.new(f"B{level}")
        for x in range(10):
            block.add_blockref(f"B{level - 1}", (x, 0))
    document.modelspace().add_blockref("B8", (0, 0))
    with pytest.raises(LimitExceeded):
        read_dxf(saved(document, tmp_path / "a.dxf"))
    loop = ezdxf.new("R2010")
    one_way, back = loop.blocks.new("One"), loop.blocks.new("Other")
    one_way.add_blockref("Other", (0, 0))
    back.add_blockref("One", (0, 0))
    loop.modelspace().add_blockref("One", (0, 0))
    path = saved(loop, tmp_path / "b.dxf")
    with suppress(MalformedFile):
        assert not read_dxf(path).curves  # or the library takes such references out, and it is told


def test_halves_of_characters_do_not_reach_the_sheet() -> None:
    document = ezdxf.new("R2010", units=4)
    document.modelspace().add_text("Bore\\U+D83D and \\U+D83D\\U+DE00", dxfattribs={"layer": "L"})
    stream = io.StringIO()
    document.write(stream)
    data = stream.getvalue().encode().replace(b"\nL\n", b"\nL\xff\n")
    sheet = read_dxf("odd.dxf", pasted=data.decode("utf-8", "surrogateescape"))
    assert [text.text for text in sheet.texts] == ["Bore\ufffd and \U0001f600"]
    assert "L\ufffd" in [layer.name for layer in sheet.layers] + [text.layer for text in sheet.texts]
    json.dumps(asdict(sheet), ensure_ascii=False, default=str).encode("utf-8")


@pytest.mark.parametrize("seed", range(300))
def test_damaged_files_end_in_an_error_or_in_notes(monkeypatch, seed) -> None:
    monkeypatch.setattr(ezdxf.options, "write_fixed_meta_data_for_testing", True)  # one file for one seed
    chance = np.random.default_rng(seed)
    document = ezdxf.new(VERSIONS[seed % len(VERSIONS)], setup=True, units=4)
    space = document.modelspace()
    block = document.blocks.new("Bore")
    block.add_circle((0, 0), 2)
    space.add_blockref("Bore", (5, 5))
    space.add_line((0, 0), (3, 4))
    space.add_polyline2d([(0, 0, 1), (2, 0, 0)], format="xyb", close=True)
    space.add_text("Note")
    if document.acad_release != "R12":
        space.add_open_spline([(0, 0), (1, 2), (3, -1), (4, 0)])
        space.add_lwpolyline([(0, 0, 0, 0, 1), (2, 0, 0, 0, 0)])
    stream = io.StringIO()
    document.write(stream)
    data = bytearray(stream.getvalue().encode("utf-8", "surrogateescape"))
    start = data.index(b"ENTITIES") if seed % 2 else 0
    for _ in range(int(chance.integers(1, 30))):
        kind, at = chance.integers(4), int(chance.integers(start, len(data) - 40))
        if kind == 0:
            data[at] = int(chance.integers(256))
        elif kind == 1:
            del data[at : at + int(chance.integers(1, 40))]
        elif kind == 2:
            data[at:at] = data[at : at + int(chance.integers(1, 200))]
        else:
            data[at:at] = chance.choice([b"1e999", b"nan", b"-1", b"\n", b"0\nEOF\n", b"INSERT"])
    if seed % 5 == 0:
        del data[int(chance.integers(len(data))) :]
    try:
        sheet = read_dxf("damaged.dxf", pasted=data.decode("utf-8", "surrogateescape"))
    except GondrelError as error:
        assert str(error).encode("utf-8")
    else:
        for each in sheet.curves:
            assert math.isfinite(curve_length(each.curve))
        json.dumps(asdict(sheet), ensure_ascii=False, default=str).encode("utf-8")
