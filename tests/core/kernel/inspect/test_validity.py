"""Faces shown to be sound without the kernel are sound to the kernel too, and as large.

The kernel's own check and integration are the referee; every example of every check, the outside
files and the demo are looked at.
"""

from __future__ import annotations

from collections.abc import Iterator
from math import pi
from pathlib import Path

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps

from gondrel.core.checks.base import Scope
from gondrel.core.checks.catalogue import checks_in
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.examples.broken import shifted_plane
from gondrel.core.kernel.inspect.inspection import Inspection, inspect_shape
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive

SHAPES = {
    "block": (block(10, 20, 30), [200, 200, 300, 300, 600, 600]),
    "cylinder": (cylinder(5, 20), [25 * pi, 25 * pi, 200 * pi]),
    "bored": (cut(block(40, 30, 10), cylinder(6, 30, at=(20, 15, -5))), None),
    "crossed bores": (cut(cylinder(10, 40), cylinder(3, 60, at=(0, 0, -10))), None),
    "cone": (BRepPrimAPI_MakeCone(6, 0, 8).Shape(), [36 * pi, 60 * pi]),
    "part of a cone": (BRepPrimAPI_MakeCone(6, 2, 8, 2.0).Shape(), None),
    "sphere": (BRepPrimAPI_MakeSphere(5).Shape(), [100 * pi]),
    "part of a sphere": (BRepPrimAPI_MakeSphere(5, -0.4, 1.1, 2.5).Shape(), None),
    "torus": (BRepPrimAPI_MakeTorus(9, 2).Shape(), [72 * pi * pi]),
    "part of a torus": (BRepPrimAPI_MakeTorus(9, 2, 4.0).Shape(), None),
}


def _agrees(body: Inspection) -> float:
    """Compare with the kernel; the share of faces that are shown to be sound."""
    areas = body.validity.areas
    analyzer = BRepCheck_Analyzer(body.shape, True)
    for face in np.flatnonzero(~np.isnan(areas)):
        assert analyzer.IsValid(body.face_shapes[face]), face
        exact = GProp_GProps()
        BRepGProp.SurfaceProperties_s(body.face_shapes[face], exact, 1e-8)
        assert areas[face] == pytest.approx(exact.Mass(), rel=1e-4)
    return float(np.mean(~np.isnan(areas))) if len(areas) else 0.0


@pytest.mark.parametrize("name", SHAPES)
def test_plain_shapes_are_sound_and_as_large_as_their_formulas_say(name) -> None:
    shape, areas = SHAPES[name]
    body = inspect_shape(shape)
    assert _agrees(body) == 1.0
    if areas is not None:
        assert sorted(body.validity.areas) == pytest.approx(areas, rel=1e-4)


def _examples() -> Iterator[tuple[str, object]]:
    for check in checks_in(Scope.BODY):
        yield f"{check.name}-bad", check.bad
        yield f"{check.name}-good", check.good


@pytest.mark.parametrize("make", [e[1] for e in _examples()], ids=[e[0] for e in _examples()])
def test_nothing_that_the_kernel_finds_wrong_is_called_sound(make) -> None:
    _agrees(inspect_shape(make()))


@pytest.mark.slow
def test_outside_files_and_the_demo(as1, demo_file, occt_files, store_folder) -> None:
    """Of the demo, which is of planes and round faces, nearly all is seen without the kernel."""
    store, shares = BlobStore(Path(store_folder)), {}
    for path in (as1, demo_file, *occt_files):
        model = receive(path, store_folder)
        found = [_agrees(inspect_shape(shape_from_blob(store.get(key)))) for key in model.blobs()]
        shares[path] = sum(found) / len(found)
    assert shares[demo_file] > 0.8


def _polygon(points: np.ndarray):
    maker = BRepBuilderAPI_MakePolygon()
    for x, y in points.tolist():
        maker.Add(gp_Pnt(x, y, 0.0))
    maker.Close()
    return maker.Wire()


def _plane_face(outer: np.ndarray, *holes: np.ndarray) -> Inspection:
    maker = BRepBuilderAPI_MakeFace(gp_Pln(), _polygon(outer))
    for hole in holes:
        maker.Add(_polygon(hole))
    return inspect_shape(maker.Face())


def _star(chance: np.random.Generator, count: int, radius: float, at=(0.0, 0.0)) -> np.ndarray:
    """Corners round a point by rising angle: no two sides of it cross."""
    angles = np.sort(chance.uniform(0, 2 * pi, count)) + 1e-3 * np.arange(count)
    radii = radius * chance.uniform(0.4, 1.0, count)
    return np.stack([at[0] + radii * np.cos(angles), at[1] + radii * np.sin(angles)], axis=1)


def _shoelace(points: np.ndarray) -> float:
    x, y = points.T
    return float(abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2)


@pytest.mark.parametrize("seed", range(12))
def test_random_outlines_are_judged_as_the_kernel_does(seed) -> None:
    """Stars are sound with the area of the shoelace formula; shuffled corners make sides cross."""
    chance = np.random.default_rng(seed)
    star = _star(chance, int(chance.integers(7, 20)), 10.0)
    body = _plane_face(star)
    _agrees(body)
    widest = np.diff(np.sort(np.arctan2(star[:, 1], star[:, 0]))).max()
    if widest < pi:
        assert body.validity.areas == pytest.approx([_shoelace(star)], rel=1e-9)
    shuffled = _plane_face(chance.permutation(star))
    _agrees(shuffled)


@pytest.mark.parametrize(
    ("at", "is_sound"), [((0.0, 0.0), True), ((11.0, 0.0), False), ((30.0, 0.0), False), ((6.0, 6.0), True)]
)
def test_holes_must_lie_within(at, is_sound) -> None:
    """A square of 20 mm with a square hole of 4 mm: within, across its side, and beside it."""
    square = np.array([[-10, -10], [10, -10], [10, 10], [-10, 10]], float)
    hole = (square * 0.2 + at)[::-1]
    body = _plane_face(square, hole)
    assert (not np.isnan(body.validity.areas[0])) == is_sound
    if is_sound:
        assert body.validity.areas[0] == pytest.approx(400.0 - 16.0)
    same_way = _plane_face(square, hole[::-1])
    assert np.isnan(same_way.validity.areas[0]), "a hole runs the other way round"


@pytest.mark.parametrize("by", [1e-3, 0.01, 0.5])
def test_faces_with_edges_off_their_surface_need_the_kernel(by) -> None:
    body = inspect_shape(shifted_plane(by))
    assert np.isnan(body.validity.areas[5]) and not np.isnan(body.validity.areas[:5]).any()
    off = body.validity.off[body.coedges.face == 5]
    assert off.max() == pytest.approx(by, rel=1e-6)


def test_a_slit_thinner_than_the_polygon_is_true_is_left_to_the_kernel() -> None:
    """Two round holes of 5 mm a thousandth apart: their polygons are not true enough to tell."""
    plate = block(40, 20, 2)
    apart = cut(plate, cylinder(5, 9, at=(14.9995, 10, -2)), cylinder(5, 9, at=(25.0005, 10, -2)))
    body = inspect_shape(apart)
    told = np.isnan(body.validity.areas)
    assert told.sum() == 2 and all(face.is_valid for face in body.faces)
    _agrees(body)


def test_the_middle_and_area_of_a_face_are_the_kernels() -> None:
    body = inspect_shape(block(10, 20, 30))
    middles = {tuple(round(v, 9) for v in body.middle_of(n)) for n in range(6)}
    assert middles == {(0, 10, 15), (10, 10, 15), (5, 0, 15), (5, 20, 15), (5, 10, 0), (5, 10, 30)}
    assert sum(body.area_of(n) for n in range(6)) == pytest.approx(2200.0)
