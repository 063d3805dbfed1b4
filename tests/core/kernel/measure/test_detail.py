"""Kinds and sizes of faces and edges, against closed formulas."""

from __future__ import annotations

import math

import pytest

from gondrel.core.kernel.measure.detail import describe
from gondrel.core.kernel.modelling.build import block, cone, cut, cylinder, sphere, torus


def all_of(detail):
    """Every face and every edge of a description."""
    faces = [detail.face(i) for i in range(len(detail.face_kinds))]
    assert detail.face(len(faces)) is None
    return faces, [detail.edge(i) for i in range(len(detail.edge_kinds))]


def test_a_block_with_a_hole() -> None:
    detail = describe(cut(block(60, 40, 10), cylinder(6, 30, at=(20, 20, -5))))
    faces, edges = all_of(detail)
    kinds = [face.kind for face in faces]
    assert sorted(kinds) == ["cylinder", *["plane"] * 6]
    (hole,) = [face for face in faces if face.kind == "cylinder"]
    assert hole.sizes == (12.0,)
    assert hole.area == pytest.approx(math.pi * 12 * 10, rel=1e-9)
    circles = [edge for edge in edges if edge.kind == "circle"]
    assert [edge.diameter for edge in circles] == [12.0, 12.0]
    assert circles[0].length == pytest.approx(math.pi * 12, rel=1e-7)
    assert sum(edge.length for edge in edges if edge.kind == "line") == pytest.approx(
        4 * (60 + 40 + 10) + 10
    )


def test_round_bodies() -> None:
    (ball,), _ = all_of(describe(sphere(5)))
    assert (ball.kind, ball.sizes) == ("sphere", (10.0,))
    assert ball.area == pytest.approx(4 * math.pi * 25, rel=1e-6)
    (ring,), _ = all_of(describe(torus(20, 3)))
    assert (ring.kind, ring.sizes) == ("torus", (40.0, 6.0))
    sides = [f for f in all_of(describe(cone(10, 4, 12)))[0] if f.kind == "cone"]
    assert sides[0].angle == pytest.approx(math.atan((10 - 4) / 12))
