"""Outlines of sections: read back by ezdxf, areas and lengths in closed form."""

from __future__ import annotations

import io
import math
import re
import xml.etree.ElementTree as ET
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder

from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.measuring.outlines import outlines_of
from gondrel.core.measuring.sections import cut_model
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.cutting import Cut, CutPlane
from gondrel.core.model.outline import Arc, FlatEllipse, FlatLine, Spline, sampled
from gondrel.core.model.store import BlobStore
from gondrel.core.sheet.dxf import to_dxf
from gondrel.core.sheet.svg import to_svg
from tests.builders import shifted

LEVEL = Cut((CutPlane((0, 0, 11.0), (0, 0, 1)),))
ASLANT = Cut((CutPlane((0, 0, 20.0), (0.0, math.sin(0.4), math.cos(0.4))),))
ALONG = Cut((CutPlane((0, 0, 0), (0, 1, 0)),))


@pytest.fixture
def made(store_folder: str):
    """A tube of 20 and 12 mm, 40 mm high, twice beside one another; the second turned about its axis."""
    store = BlobStore(Path(store_folder))

    def make(*, is_spline: bool = False) -> tuple[Model, BlobStore]:
        whole = BRepPrimAPI_MakeCylinder(10.0, 40.0).Shape()
        tube = BRepAlgoAPI_Cut(whole, BRepPrimAPI_MakeCylinder(6.0, 40.0).Shape()).Shape()
        if is_spline:
            tube = BRepBuilderAPI_NurbsConvert(tube).Shape()
        body = Body("b", BodyKind.SOLID, "", store.put(shape_to_blob(tube)))
        uses = (Occurrence("one", "tube", "", shifted(0)), Occurrence("two", "tube", "", shifted(20.0)))
        parts = (Product("top", "", "Top", occurrences=uses), Product("tube", "", "Tube:1", bodies=(body,)))
        return Model(parts, ("top",)), store

    return make


def drawn(made, cut, *, is_spline=False):
    model, store = made(is_spline=is_spline)
    sections, refused = cut_model(model, cut, store, {})
    assert refused == () and len(sections) == 2
    return outlines_of(model, cut, sections, store)


def test_circles_stay_circles_and_touching_parts_differ(made) -> None:
    outlines = drawn(made, LEVEL)
    arcs = [curve for outline in outlines for curve in outline.curves]
    assert all(isinstance(arc, Arc) for arc in arcs)
    assert sorted(round(arc.radius, 9) for arc in arcs) == [6.0, 6.0, 10.0, 10.0]
    centres = {tuple(np.round(arc.centre, 9) + 0.0) for arc in arcs}
    assert len(centres) == 2 and math.dist(*centres) == pytest.approx(20.0, rel=1e-12)
    ways = {
        round(math.degrees(math.atan2(b[1] - a[1], b[0] - a[0])) % 180)
        for outline in outlines
        for a, b in outline.hatching[:1]
    }
    assert len(ways) == 2, "they touch, so that they are hatched two ways"


def test_ellipses_and_lines(made) -> None:
    ellipses = [curve for outline in drawn(made, ASLANT) for curve in outline.curves]
    assert all(isinstance(e, FlatEllipse) for e in ellipses)
    wide = sorted(math.hypot(*e.major) for e in ellipses if isinstance(e, FlatEllipse))
    assert wide == pytest.approx([6 / math.cos(0.4)] * 2 + [10 / math.cos(0.4)] * 2, rel=1e-9)
    assert all(e.ratio == pytest.approx(math.cos(0.4), rel=1e-9) for e in ellipses)
    lines = [curve for outline in drawn(made, ALONG) for curve in outline.curves]
    assert len(lines) == 16 and all(isinstance(line, FlatLine) for line in lines)
    total = sum(math.dist(line.start, line.end) for line in lines)
    assert total == pytest.approx(4 * 2 * (40 + 4), rel=1e-12)


@pytest.mark.parametrize("version", ["R2010", "R12"])
def test_dxf_is_read_back(made, version) -> None:
    outlines = drawn(made, ASLANT)
    data = to_dxf(outlines, version=version, unit="inch")
    drawing = ezdxf.read(io.StringIO(data.decode("utf-8" if version != "R12" else "cp1252")))
    assert drawing.header.get("$INSUNITS", 1) == 1
    if version == "R12":
        assert all(
            re.fullmatch(r"[A-Z0-9$_-]{1,31}", layer.dxf.name)
            for layer in drawing.layers
            if "tube" in layer.dxf.name.lower()
        )
    kinds = {entity.dxftype() for entity in drawing.modelspace() if entity.dxf.layer.lower() == "tube_1"}
    assert kinds == ({"ELLIPSE"} if version != "R12" else {"POLYLINE"})
    if version == "R2010":
        wide = max(abs(e.dxf.major_axis.magnitude) for e in drawing.modelspace().query("ELLIPSE"))
        assert wide == pytest.approx(10 / math.cos(0.4) / 25.4, rel=1e-9)
        assert len(drawing.audit().errors) == 0
    with pytest.raises(UsageError, match="R99"):
        to_dxf(outlines, version="R99")


def test_splines_keep_their_shape(made) -> None:
    """A tube of splines cut aslant: its outline lies on the ellipses that the closed form says."""
    for outline in drawn(made, ASLANT, is_spline=True):
        for curve in outline.curves:
            points = sampled(curve, 1e-3)
            middle = (points.min(axis=0) + points.max(axis=0)) / 2
            flat = (points - middle) * np.array([1.0, math.cos(0.4)])
            radii = np.linalg.norm(flat, axis=1)
            assert np.ptp(radii) < 2e-3 and min(abs(radii.mean() - r) for r in (6, 10)) < 1e-3
    data = to_dxf(drawn(made, ASLANT, is_spline=True))
    assert len(ezdxf.read(io.StringIO(data.decode())).audit().errors) == 0


def test_a_spline_is_sampled_within_the_chord() -> None:
    half = Spline(2, (0, 0, 0, 1, 1, 1), ((1, 0), (1, 1), (0, 1)), (1, math.sqrt(0.5), 1))
    points = sampled(half, 1e-5)
    assert np.abs(np.linalg.norm(points, axis=1) - 1).max() < 1e-12
    chords = np.linalg.norm((points[1:] + points[:-1]) / 2, axis=1)
    assert 1 - chords.min() < 1e-5


def test_svg_is_whole_and_in_true_size(made) -> None:
    tree = ET.fromstring(to_svg(drawn(made, LEVEL), title="Tubes <two>"))
    assert tree.attrib["width"] == "50.0000mm" and tree.attrib["height"] == "30.0000mm"
    assert len(tree.findall(".//{*}path")) == 4
