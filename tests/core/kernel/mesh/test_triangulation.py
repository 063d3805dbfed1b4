"""Meshes of bodies, and the quick copy of the kernel's arrays."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.StdPrs import StdPrs_ToolTriangulatedShape
from OCP.TopLoc import TopLoc_Location

from gondrel.core.kernel.base import arrays
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.mesh.triangulation import make_mesh
from gondrel.core.kernel.modelling.build import block, cut, cylinder, moved, sphere


def enclosed(mesh) -> float:
    """Volume inside a closed mesh, by the divergence theorem."""
    corners = mesh.points[mesh.triangles].astype(float)
    return float(np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6)


def test_a_block_is_meshed_exactly_with_faces_edges_and_normals_outward() -> None:
    mesh = make_mesh(block(60, 40, 10), chord=0.1)
    assert enclosed(mesh) == pytest.approx(60 * 40 * 10)
    assert list(mesh.face_starts) == [0, 2, 4, 6, 8, 10, 12]
    assert len(mesh.edge_starts) == 13
    assert (np.diff(mesh.edge_starts) == 2).all()
    corners = mesh.points[mesh.triangles]
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert (np.einsum("ij,ij->i", flat, mesh.normals[mesh.triangles[:, 0]]) > 0).all()


def test_round_faces_keep_within_the_chord() -> None:
    mesh = make_mesh(sphere(10), chord=0.05)
    radii = np.linalg.norm(mesh.points, axis=1)
    assert radii == pytest.approx(10, abs=1e-4)
    middles = mesh.points[mesh.triangles].mean(axis=1)
    assert 10 - np.linalg.norm(middles, axis=1).min() < 0.1
    assert enclosed(mesh) == pytest.approx(4 / 3 * math.pi * 1000, rel=0.02)


def test_a_moved_body_is_meshed_where_it_is() -> None:
    shape = moved(cut(block(20, 20, 20), cylinder(5, 30, at=(10, 10, -5))), by=(100, 0, 0))
    mesh = make_mesh(shape, chord=0.1)
    assert mesh.points[:, 0].min() == pytest.approx(100, abs=1e-4)
    assert mesh.edge_points[:, 0].min() == pytest.approx(100, abs=1e-4)
    assert len(mesh.edge_starts) == len(edges_of(shape)) + 1
    assert len(mesh.face_starts) == len(faces_of(shape)) + 1


def test_a_mesh_is_kept_as_plain_arrays() -> None:
    mesh = make_mesh(block(1, 2, 3), chord=0.1)
    with np.load(io.BytesIO(mesh.to_bytes())) as kept:
        assert set(kept.files) == {"points", "normals", "triangles", "face_starts", "edge_points",
                                   "edge_starts", "chord", "is_closed"}  # fmt: skip
        assert np.array_equal(kept["points"], mesh.points)


def test_arrays_read_one_by_one_are_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    shape = cut(block(20, 20, 20), cylinder(5, 30, at=(10, 10, -5)))
    quick = make_mesh(shape, chord=0.1)
    monkeypatch.setattr(arrays, "is_layout_known", lambda: False)
    slow = make_mesh(shape, chord=0.1)
    for name in ("points", "normals", "triangles", "face_starts", "edge_points", "edge_starts"):
        assert np.array_equal(getattr(quick, name), getattr(slow, name)), name


def test_an_array_of_another_size_is_read_one_by_one() -> None:
    shape = sphere(3)
    BRepMesh_IncrementalMesh(shape, 0.2)
    (face,) = faces_of(shape)
    triangulation = BRep_Tool.Triangulation_s(face, TopLoc_Location())
    StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
    count = triangulation.NbTriangles()
    assert arrays._whole(triangulation.InternalTriangles(), count, np.int32) is not None
    assert arrays._whole(triangulation.InternalTriangles(), count + 1, np.int32) is None
    assert arrays.triangles_of(triangulation, 7).min() == 7
