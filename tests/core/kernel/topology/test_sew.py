"""Loose faces joined, and closed shells filled: counts and volumes by closed formulas."""

from __future__ import annotations

from math import pi

import numpy as np
import pytest

from gondrel.core.kernel.base.shape import compound_of, edges_of, faces_of, moved_copy, shell_of
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling.build import block, cut, cylinder, sphere
from gondrel.core.kernel.topology.sew import connect_edges, sew_faces, solids_of_shells
from gondrel.core.model.body import BodyKind

WITHIN = 1e-4


def moved(shape, x: float):
    return moved_copy(shape, (1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1))


def test_six_faces_become_a_block_whatever_their_order() -> None:
    chance = np.random.default_rng(1)
    faces = [moved(face, 0.0) for face in faces_of(block(10, 20, 30))]
    for _ in range(3):
        order = chance.permutation(6).tolist()
        joined = sew_faces([faces[n] for n in order], WITHIN)
        ((kind, shape, sources),) = [(b.kind, b.shape, b.sources) for b in joined.bodies]
        assert kind is BodyKind.SOLID and joined.open_edges == 0
        assert measure(shape).volume == pytest.approx(6000.0)
        assert sorted(sources) == list(range(6))


@pytest.mark.parametrize(("gap", "kind"), [(5e-5, BodyKind.SOLID), (5e-3, BodyKind.SHEET)])
def test_faces_further_apart_than_the_tolerance_stay_apart(gap, kind) -> None:
    """The lid lies beside its place by a gap."""
    faces = faces_of(block(10, 20, 30))
    lid = next(n for n in range(6) if inspect_shape(block(10, 20, 30)).middle_of(n)[0] == pytest.approx(10))
    loose = [moved(face, gap if n == lid else 0.0) for n, face in enumerate(faces)]
    joined = sew_faces(loose, WITHIN)
    assert {body.kind for body in joined.bodies} == {kind}
    assert (joined.open_edges == 0) == (kind is BodyKind.SOLID)


def test_faces_with_one_missing_stay_a_sheet_with_four_open_edges() -> None:
    joined = sew_faces(faces_of(block(10, 20, 30))[:5], WITHIN)
    assert [body.kind for body in joined.bodies] == [BodyKind.SHEET] and joined.open_edges == 4


def test_two_blocks_at_once() -> None:
    blocks = block(10, 20, 30), block(5, 5, 5, at=(40, 0, 0))
    pieces = [moved(face, 0.0) for shape in blocks for face in faces_of(shape)]
    joined = sew_faces(pieces, WITHIN)
    assert sorted(round(measure(b.shape).volume, 6) for b in joined.bodies) == [125.0, 6000.0]


def test_a_single_closed_face_is_a_skin_of_its_own() -> None:
    joined = sew_faces(faces_of(sphere(5)), WITHIN)
    assert [b.kind for b in joined.bodies] == [BodyKind.SOLID]
    assert measure(joined.bodies[0].shape).volume == pytest.approx(4 / 3 * pi * 125)


def test_shells_one_in_another_are_cavities_and_one_in_those_is_solid_again() -> None:
    """Cubes of 30, 20 and 10 about one middle: the middle one is air."""
    shells = [shell_of(faces_of(block(s, s, s, at=(-s / 2, -s / 2, -s / 2)))) for s in (20.0, 10.0, 30.0)]
    made = solids_of_shells(shells)
    assert [kind for kind, _ in made] == [BodyKind.SOLID] * 2
    volumes = sorted(measure(shape).volume for _, shape in made)
    assert volumes == pytest.approx([10**3, 30**3 - 20**3])
    open_one = shell_of(faces_of(block(10, 10, 10))[:5])
    assert [kind for kind, _ in solids_of_shells([open_one])] == [BodyKind.SHEET]


def test_edges_that_meet_become_wires() -> None:
    """The edges of the top and the bottom of a cup, which are two circles, and of a block's face."""
    rims = [e for e in edges_of(cut(cylinder(10, 20), cylinder(8, 40, at=(0, 0, -10)))) if _is_flat(e)]
    assert len(rims) == 4
    assert len(connect_edges(rims, WITHIN)) == 4, "circles meet nothing but themselves"
    around = list(edges_of(faces_of(block(10, 20, 30))[0]))
    (wire,) = connect_edges(around[::-1], WITHIN)
    assert measure(wire).length == pytest.approx(100.0) or measure(wire).length > 0
    two = connect_edges([around[0], moved(around[0], 500.0)], WITHIN)
    assert len(two) == 2


def _is_flat(edge) -> bool:
    facts = measure(compound_of([edge]))
    return abs(facts.bbox[5] - facts.bbox[2]) < 1e-6
