"""Distances of lines of chords, against the kernel's own and by hand."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeVertex
from OCP.gp import gp_Pnt

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import compound_of
from gondrel.core.kernel.geometry.distance import chords_apart, distance_between
from gondrel.core.kernel.modelling.build import block, cylinder

ONE = np.array([[0, 0, 0], [10, 0, 0]], float)
OTHERS = {
    "beside": ([[0, 3, 0], [10, 3, 0]], 3.0),
    "over, crossing in plan": ([[5, -4, 2], [5, 4, 2]], 2.0),
    "touching": ([[10, 0, 0], [20, 5, 0]], 0.0),
    "end to end": ([[13, 4, 0], [20, 4, 0]], 5.0),
    "slanted past the end": ([[12, 1, 0], [13, 9, 0]], 5**0.5),
    "a point": ([[4, 0, 7], [4, 0, 7]], 7.0),
    "in line, overlapping": ([[-5, 0, 0], [5, 0, 0]], 0.0),
}


@pytest.mark.parametrize("name", OTHERS)
def test_two_chords(name) -> None:
    corners, apart = OTHERS[name]
    other = np.array([corners], float)
    assert chords_apart(ONE[None], other) == pytest.approx([apart], abs=1e-12)
    assert chords_apart(other, ONE[None]) == pytest.approx([apart], abs=1e-12)


def test_lines_of_chords_are_as_far_apart_as_the_kernel_says() -> None:
    chance = np.random.default_rng(3)
    one, other = chance.uniform(-10, 10, (2, 40, 4, 3))
    found = chords_apart(one, other)

    def wire(points):
        ends = [gp_Pnt(*p) for p in points.tolist()]
        return compound_of(BRepBuilderAPI_MakeEdge(a, b).Edge() for a, b in pairwise(ends))

    for a, b, apart in zip(one, other, found, strict=True):
        exact, _ = distance_between(wire(a), wire(b))
        assert apart == pytest.approx(exact, abs=1e-9)
    assert len(chords_apart(one[:0], other[:0])) == 0


def test_shapes_are_as_far_apart_as_they_were_placed() -> None:
    apart, at = distance_between(block(10, 20, 30), block(5, 5, 5, at=(14, 0, 0)))
    assert apart == pytest.approx(4.0) and at[0] == pytest.approx(10.0)
    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(0, 25, 5)).Vertex()
    assert distance_between(vertex, cylinder(5, 10))[0] == pytest.approx(20.0)
    with pytest.raises(KernelRefused):
        distance_between(compound_of(()), vertex)
