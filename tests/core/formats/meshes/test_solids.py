"""Meshes as STL files become solids with the volume of their facets, or are refused with the place."""

from __future__ import annotations

import struct
from math import pi
from pathlib import Path

import numpy as np
import pytest
from OCP.BRepCheck import BRepCheck_Analyzer

from gondrel.core.errors import CannotExpress, MalformedFile
from gondrel.core.formats.meshes import Piece
from gondrel.core.formats.settings import ReceiveSettings, SendSettings
from gondrel.core.formats.stl.write import write
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.mesh.solidify import make_solids
from gondrel.core.kernel.modelling.build import block, cut, cylinder, moved, sphere
from gondrel.core.mends.mesh import mend_mesh
from gondrel.core.model.body import BodyKind
from gondrel.core.model.facets import Facets, distances_to, welded
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.core.formats.meshes.shapes import cube, globe, helical_gear


def stl(*meshes: Facets) -> bytes:
    return write([Piece(str(i), m) for i, m in enumerate(meshes)], SendSettings(), "x")["x"]


def text_stl(mesh: Facets, name: str) -> bytes:
    lines = [f"solid {name}"]
    for normal, corners in zip(mesh.normals, mesh.corners, strict=True):
        lines += ["facet normal {} {} {}".format(*normal.tolist()), "outer loop"]
        lines += ["vertex {!r} {!r} {!r}".format(*corner.tolist()) for corner in corners]
        lines += ["endloop", "endfacet"]
    return "\n".join([*lines, f"endsolid {name}", ""]).encode()


def read(data: bytes, tmp_path: Path, store: str, name: str = "in.stl", **settings):
    path = tmp_path / name
    path.write_bytes(data)
    model = receive(str(path), store, ReceiveSettings(**settings))
    return model, measure_all(model.blobs(), store)


GEAR = helical_gear(18, 22.0, 17.0, 6.0, 20.0, 0.4)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("mesh", "volume"),
    [
        (cube(20.0), 8000.0),
        # Closed form: the cone between a facet of the sphere and its middle, summed by the program of
        # another shape: the volume of a polyhedron with its corners on two poles and circles.
        (globe(10.0, 12, 24), None),
        (GEAR, None),
    ],
    ids=["cube", "sphere", "helical-gear"],
)
def test_solids_hold_what_the_facets_hold(mesh, volume, tmp_path, store_folder) -> None:
    """Source: divergence theorem, V = 1/6 sum of a . (b x c) over the facets (any calculus text)."""
    model, _ = read(text_stl(mesh, "part"), tmp_path, store_folder)
    ((_, body),) = model.bodies()
    back = Facets.from_bytes(BlobStore(Path(store_folder)).get(body.blob))
    a, b, c = (back.corners[:, k] for k in range(3))
    by_facets = float(np.einsum("ij,ij->", a, np.cross(b, c))) / 6
    sent = send(model, str(tmp_path / "out.stp"), "step-ap214", settings_from({}), store_folder)
    assert not sent.proof.unannounced and not sent.proof.false_alarms
    ((_, solid),) = sent.returned.bodies()
    assert solid.kind is BodyKind.SOLID
    assert sent.facts[solid.blob].volume == pytest.approx(volume or by_facets, rel=1e-9)
    shape = shape_from_blob(BlobStore(Path(store_folder)).get(solid.blob))
    assert BRepCheck_Analyzer(shape).IsValid()


def test_coplanar_facets_become_one_face() -> None:
    made = make_solids(
        tessellated(cut(block(60, 40, 10), cylinder(6, 30, at=(20, 20, -5))), chord=0.05, angle=0.3)
    )
    assert made.faces < 60 and made.cylinders == 0
    assert abs(made.volume_change) < 1e-12


def test_cylinders_are_recognised_when_asked_for() -> None:
    part = cut(block(60, 40, 10), cylinder(6, 30, at=(20, 20, -5)))
    made = make_solids(tessellated(part, chord=0.05, angle=0.3), shaped=True)
    assert (made.faces, made.cylinders) == (7, 1)
    assert measure(made.shapes[0]).volume == pytest.approx(60 * 40 * 10 - pi * 36 * 10, rel=1e-12)
    assert 0.001 < made.deviation < 0.05


def test_a_cavity_stays_a_cavity(tmp_path, store_folder) -> None:
    hollow = cut(block(20, 20, 20), moved(sphere(5), by=(10, 10, 10)))
    model, facts = read(stl(tessellated(hollow, chord=0.3, angle=0.5)), tmp_path, store_folder)
    ((_, body),) = model.bodies()
    assert 8000 - 4 / 3 * pi * 125 < facts[body.blob].volume < 8000 - 4 / 3 * pi * 110


def test_bodies_that_touch_are_told_apart(tmp_path, store_folder) -> None:
    model, facts = read(stl(cube(10.0), cube(10.0, (10, 0, 0))), tmp_path, store_folder)
    assert [facts[b.blob].volume for _, b in model.bodies()] == pytest.approx([1000.0, 1000.0])


def test_a_hole_is_refused_with_its_place_and_can_be_mended(tmp_path, store_folder) -> None:
    data = bytearray(stl(cube(20.0)))
    data[80:84] = struct.pack("<I", 11)
    model, _ = read(bytes(data[:-50]), tmp_path, store_folder)
    (note,) = [n for n in model.notes if n.code == "mesh-not-closed"]
    assert "3 open edges" in note.text and "20.000" in note.text
    with pytest.raises(CannotExpress, match="open edges"):
        send(model, str(tmp_path / "out.stp"), "step-ap214", settings_from({}), store_folder)
    ((_, body),) = model.bodies()
    mended = mend_mesh(Facets.from_bytes(BlobStore(Path(store_folder)).get(body.blob)))
    assert not mended.left and mended.facets.volume == pytest.approx(8000.0)


def test_flipped_facets_are_refused_and_can_be_mended() -> None:
    mesh = globe(10.0, 8, 12)
    triangles = mesh.triangles.copy()
    triangles[[5, 9, 40]] = triangles[[5, 9, 40]][:, ::-1]
    broken = Facets(mesh.points, triangles, mesh.groups)
    assert "turned against each other" in broken.flaws()[0].what
    mended = mend_mesh(broken)
    assert not mended.left and mended.facets.volume == pytest.approx(mesh.volume, rel=1e-12)
    assert mended.done == ("3 facets were turned round",)


def test_a_mesh_inside_out_is_told_and_turned() -> None:
    mesh = cube(3.0)
    inverted = Facets(mesh.points, mesh.triangles[:, ::-1].copy(), mesh.groups)
    assert "inside out" in inverted.flaws()[0].what
    assert mend_mesh(inverted).facets.volume == pytest.approx(27.0)


def test_text_stl_with_several_solids(tmp_path, store_folder) -> None:
    data = text_stl(cube(10.0), "one") + text_stl(cube(5.0, (20, 0, 0)), "other one")
    model, facts = read(data, tmp_path, store_folder)
    assert [b.name for _, b in model.bodies()] == ["one", "other one"]
    assert [facts[b.blob].volume for _, b in model.bodies()] == pytest.approx([1000.0, 125.0])


def test_the_unit_asked_for_scales(tmp_path, store_folder) -> None:
    model, facts = read(stl(cube(2.0)), tmp_path, store_folder, unit="inch")
    ((_, body),) = model.bodies()
    assert facts[body.blob].volume == pytest.approx(8 * 25.4**3, rel=1e-6)
    assert not [n for n in model.notes if n.code == "unit-missing"]


@pytest.mark.parametrize(("largest", "unit"), [(0.12, "metre"), (2.0, "inch"), (120.0, "millimetre")])
def test_a_unit_is_proposed_from_the_size(largest, unit, tmp_path, store_folder) -> None:
    model, _ = read(stl(cube(largest)), tmp_path, store_folder)
    (note,) = [n for n in model.notes if n.code == "unit-missing"]
    assert f"speaks for {unit}" in note.text


def test_broken_stl_is_refused_with_the_place(tmp_path, store_folder) -> None:
    whole = text_stl(cube(10.0), "one")
    for data, place in (
        (stl(cube(1.0))[:-7], "byte"),
        (whole.replace(b"vertex 10.0", b"vertex 1x.0", 1), "line"),
        (whole[: len(whole) // 2], "line"),
        (whole.replace(b"vertex 10.0 0.0 0.0\n", b"", 1), "line"),
    ):
        with pytest.raises(MalformedFile) as caught:
            read(data, tmp_path, store_folder)
        assert caught.value.where.startswith(place)


def test_distances_to_facets_are_exact() -> None:
    mesh = cube(10.0)
    points = np.array([[5, 5, 15], [-3, -4, 5], [5, 5, 5], [13, 14, 22.0]])
    assert distances_to(mesh, points) == pytest.approx([5, 5, 5, 13], abs=1e-12)


def test_corners_within_a_tolerance_are_welded() -> None:
    mesh = cube(10.0)
    corners = mesh.corners + np.random.default_rng(1).uniform(-1e-6, 1e-6, mesh.corners.shape)
    assert len(welded(corners, 0.0).points) == 36
    assert len(welded(corners, 1e-5).points) == 8


def test_moments_of_a_block() -> None:
    """Closed form: a block a x b x c of volume V has V (b^2 + c^2) / 12 about its first axis."""
    mesh = tessellated(block(2, 3, 4), chord=0.1, angle=0.3)
    facts = mesh.facts()
    assert facts.volume == pytest.approx(24) and facts.centroid == pytest.approx((1, 1.5, 2))
    assert sorted(facts.inertia) == pytest.approx([26.0, 40.0, 50.0])
