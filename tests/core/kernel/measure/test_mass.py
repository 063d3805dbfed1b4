"""Measures against closed formulas (any handbook of solid geometry; from memory)."""

from __future__ import annotations

import math

import numpy as np
import pytest
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.shape import faces_of, shape_from_blob, shape_to_blob
from gondrel.core.kernel.measure import deviation, mass
from gondrel.core.kernel.measure.deviation import away_from, measure_deviation
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.mesh.triangulation import make_mesh
from gondrel.core.kernel.modelling import build
from gondrel.core.work import halves

pytestmark = pytest.mark.slow

FORMULAS = {
    "sphere": (build.sphere(7), 4 / 3 * math.pi * 343, 4 * math.pi * 49),
    "cylinder": (build.cylinder(5, 12), 300 * math.pi, 170 * math.pi),
    "cone frustum": (
        build.cone(6, 2, 9),
        math.pi * 9 / 3 * (36 + 12 + 4),
        math.pi * (36 + 4 + 8 * math.hypot(4, 9)),
    ),
    "torus": (build.torus(20, 3), 2 * math.pi**2 * 20 * 9, 4 * math.pi**2 * 60),
    "block with hole": (
        build.cut(build.block(30, 20, 10), build.cylinder(4, 30, at=(15, 10, -5))),
        6000 - 160 * math.pi,
        2 * (600 + 300 + 200) - 32 * math.pi + 80 * math.pi,
    ),
}


@pytest.mark.parametrize("name", FORMULAS)
def test_two_processes_measure_what_one_does(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    shape, _, _ = FORMULAS[name]
    alone, asides = measure(shape), []
    begin = halves.begin_aside
    monkeypatch.setattr(mass, "_MANY_FACES", 1)
    monkeypatch.setattr(halves, "begin_aside", lambda act: asides.append(begin(act)) or asides[-1])
    assert measure(shape) == alone
    assert len(asides) == 1
    sheet = faces_of(shape)[0]
    assert measure(sheet).area > 0
    assert len(asides) == 1


@pytest.mark.parametrize("name", FORMULAS)
def test_volume_and_area_by_formula(name: str) -> None:
    shape, volume, area = FORMULAS[name]
    facts = measure(shape)
    assert facts.volume == pytest.approx(volume, rel=1e-9)
    assert facts.area == pytest.approx(area, rel=1e-9)


@pytest.mark.parametrize("factor", [1.0, 1.0 + 1e-8, 2.0, 0.0])
@pytest.mark.parametrize("name", FORMULAS)
def test_what_records_say_spares_work_and_is_never_the_measure(name: str, factor: float) -> None:
    shape, volume, area = FORMULAS[name]
    facts = measure(shape, (area * factor, volume * factor))
    assert facts.volume == pytest.approx(volume, rel=1e-9)
    assert facts.area == pytest.approx(area, rel=1e-9)


def test_centroid_inertia_and_box_of_a_block() -> None:
    facts = measure(build.block(2, 4, 6, at=(10, 0, 0)))
    assert facts.centroid == pytest.approx((11, 2, 3))
    assert facts.inertia == pytest.approx(
        sorted((48 * (4 + 16) / 12, 48 * (4 + 36) / 12, 48 * (16 + 36) / 12))
    )
    assert facts.bbox == pytest.approx((10, 0, 0, 12, 4, 6), abs=1e-9)
    assert (facts.faces, facts.edges, facts.vertices) == (6, 12, 8)
    assert facts.surfaces == (("plane", 6),)


def test_a_body_survives_the_store_bit_for_bit() -> None:
    shape, _, _ = FORMULAS["block with hole"]
    blob = shape_to_blob(shape)
    assert shape_to_blob(shape_from_blob(blob)) == blob


def test_mesh_lies_on_the_body_and_faces_outward() -> None:
    mesh = make_mesh(build.sphere(10), chord=0.05)
    radii = (mesh.points.astype(float) ** 2).sum(axis=1) ** 0.5
    assert radii == pytest.approx(10, abs=1e-4)
    assert (mesh.points * mesh.normals).sum(axis=1).min() > 0
    corners = mesh.points[mesh.triangles].astype(float)
    import numpy as np

    volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
    assert volume == pytest.approx(4 / 3 * math.pi * 1000, rel=0.02)
    assert mesh.face_starts[-1] == len(mesh.triangles)


@pytest.mark.parametrize("shift", [0.0, 0.02, 1.5])
def test_deviation_finds_a_shift(shift: float) -> None:
    one = build.block(40, 30, 20)
    other = build.block(40, 30, 20, at=(0, 0, shift))
    assert measure_deviation(one, other).value == pytest.approx(shift, abs=1e-6)


def test_deviation_finds_what_is_missing_on_one_side_only() -> None:
    plain = build.block(40, 30, 20)
    holed = build.cut(plain, build.cylinder(4, 12, at=(20, 15, 8)))
    assert measure_deviation(plain, holed).value > 5
    assert measure_deviation(holed, plain).value > 5


def holed(x: float) -> TopoDS_Shape:
    return build.cut(build.block(40, 30, 20), build.cylinder(4, 30, at=(x, 15, -5)))


def test_bodies_with_the_same_faces_are_compared_face_by_face(monkeypatch: pytest.MonkeyPatch) -> None:
    def refused(*_: object) -> None:
        raise AssertionError("it is looked for among all faces")

    one, other = holed(20.0), holed(20.0 + 3e-8)
    with monkeypatch.context() as patch:
        patch.setattr(deviation._Sampled, "__init__", refused)
        found = measure_deviation(one, other)
        assert found.value == pytest.approx(3e-8, rel=0.1) and found.samples > 100
        with pytest.raises(AssertionError):
            measure_deviation(one, holed(20.5))


@pytest.mark.parametrize("shift", [1e-6, 0.01, 0.5])
def test_deviation_finds_a_moved_hole_though_all_faces_are_there(shift: float) -> None:
    assert measure_deviation(holed(20.0), holed(20.0 + shift)).value == pytest.approx(shift, rel=0.02)


def test_a_deviation_field_shows_where_a_wall_was_moved() -> None:
    points = np.array([[30.0, 20.0, 10.0], [30.0, 0.0, 5.0], [30.0, 20.0, 10.25]])
    field = away_from(build.block(60, 40, 10))(points)
    assert field == pytest.approx([0.0, 0.0, 0.25], abs=1e-6)


@pytest.mark.parametrize(("radius", "off"), [(30.0, 0.0), (30.2, 0.2)])
def test_thin_walls_are_measured_to_their_own_side(radius, off) -> None:
    """Points of a ball against a hollow one with a wall of 3 mm: the samples nearest to a point may all
    be those of the inner side, 3 mm away, which once was taken for the deviation."""
    hollow = build.cut(build.sphere(radius), build.sphere(27.0))
    chance = np.random.default_rng(3).normal(size=(3000, 3))
    points = 30.0 * chance / np.linalg.norm(chance, axis=1)[:, None]
    field = away_from(hollow)(points)
    assert field.max() == pytest.approx(off, abs=1e-6) and field.min() == pytest.approx(off, abs=1e-6)
    same = build.cut(build.sphere(30.0), build.sphere(27.0))
    assert measure_deviation(hollow, same).value == pytest.approx(off, abs=1e-6)
