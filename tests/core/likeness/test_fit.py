"""Equal bodies are found wherever they stand, mirror images told apart, near misses refused."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from gondrel.core.kernel.base.shape import moved_copy
from gondrel.core.kernel.inspect.landmarks import landmarks_of_facets, landmarks_of_shape
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.modelling import build
from gondrel.core.likeness.fit import fit_of, symmetry_of
from gondrel.demo import parts

SHAPES = {
    "block": lambda: build.block(10, 20, 30),
    "cube": lambda: build.block(10, 10, 10),
    "cylinder": lambda: build.cylinder(5, 20),
    "ball": lambda: build.sphere(7),
    "ring": lambda: build.torus(20, 4),
    "screw": parts.hex_screw,
    "washer": parts.washer,
    "crank": parts.crank,
    "guard": parts.guard,
}
CHIRAL = ("crank", "guard")


def placed(seed: int, *, mirrored: bool = False) -> np.ndarray:
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(random_state=seed).as_matrix()
    if mirrored:
        matrix[:3, :3] = matrix[:3, :3] @ np.diag([-1.0, 1.0, 1.0])
    matrix[:3, 3] = np.random.default_rng(seed).uniform(-500, 500, 3)
    return matrix


def moved(shape: Any, matrix: np.ndarray) -> Any:
    return moved_copy(shape, tuple(matrix.ravel().tolist()))


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("seed", [1, 2])
def test_a_moved_body_is_found_and_lies_where_it_was_put(name: str, seed: int) -> None:
    shape = SHAPES[name]()
    there = moved(shape, placed(seed))
    fit = fit_of(landmarks_of_shape(shape), landmarks_of_shape(there))
    assert fit.is_equal and fit.accuracy < 1e-6 and not fit.is_mirrored
    assert fit.placement is not None
    assert np.linalg.det(np.array(fit.placement).reshape(4, 4)[:3, :3]) == pytest.approx(1.0)
    # by another hand: points of the moved triangles lie on those of the body they were moved onto
    ours = tessellated(moved(shape, np.array(fit.placement).reshape(4, 4)), chord=0.05, angle=0.3)
    theirs = tessellated(there, chord=0.05, angle=0.3)
    assert ours.volume == pytest.approx(theirs.volume, rel=1e-4)
    assert np.allclose(ours.points.min(axis=0), theirs.points.min(axis=0), atol=0.2)
    assert np.allclose(ours.points.max(axis=0), theirs.points.max(axis=0), atol=0.2)


@pytest.mark.parametrize("name", SHAPES)
def test_a_mirror_image_is_equal_only_where_the_body_is_its_own(name: str) -> None:
    shape = SHAPES[name]()
    here, image = landmarks_of_shape(shape), landmarks_of_shape(moved(shape, placed(3, mirrored=True)))
    assert fit_of(here, image).is_equal is (name not in CHIRAL)
    mirrored = fit_of(here, image, mirrored=True)
    assert mirrored.is_equal and mirrored.is_mirrored and mirrored.placement is not None
    assert np.linalg.det(np.array(mirrored.placement).reshape(4, 4)[:3, :3]) == pytest.approx(-1.0)
    assert symmetry_of(here).is_mirrored is (name not in CHIRAL)


def test_two_bolts_of_which_one_is_a_fiftieth_longer_are_not_equal() -> None:
    def bolt(length: float) -> Any:
        return build.turned(
            [(0, 0), (4, 0), (4, length), (6.5, length), (6.5, length + 5), (0, length + 5)]
        )

    fit = fit_of(landmarks_of_shape(bolt(40)), landmarks_of_shape(bolt(40.02)))
    assert not fit.is_equal and "of other sizes" in fit.why_not


def test_the_reason_tells_what_is_other() -> None:
    block, drilled = build.block(10, 20, 30), build.cut(build.block(10, 20, 30), build.cylinder(2, 90))
    assert "cylindrical faces" in fit_of(landmarks_of_shape(block), landmarks_of_shape(drilled)).why_not
    one = build.cut(build.block(40, 30, 10), build.cylinder(3, 20, at=(10, 10, -5)))
    other = build.cut(build.block(40, 30, 10), build.cylinder(3, 20, at=(11, 10, -5)))
    assert not fit_of(landmarks_of_shape(one), landmarks_of_shape(other)).is_equal


@pytest.mark.parametrize(("name", "count"), [("block", 4), ("cube", 24), ("screw", 6), ("crank", 1)])
def test_the_symmetry_group_has_as_many_rotations_as_geometry_says(name: str, count: int) -> None:
    """4 of a box, 24 of a cube, 6 of a hexagon with a head, 1 of a crank (point groups D2, O, C6, C1)."""
    found = symmetry_of(landmarks_of_shape(SHAPES[name]()))
    assert len(found.rotations) == count and not found.is_round


def test_round_bodies_and_balls() -> None:
    assert symmetry_of(landmarks_of_shape(build.cylinder(5, 20))).is_round
    assert symmetry_of(landmarks_of_shape(build.sphere(7))).is_ball


def test_meshes_are_compared_by_their_corners() -> None:
    mesh = tessellated(parts.crank(), chord=0.5, angle=0.5)
    there = mesh.moved(tuple(placed(4).ravel().tolist()))
    assert fit_of(landmarks_of_facets(mesh), landmarks_of_facets(there)).is_equal
    assert not fit_of(landmarks_of_facets(mesh), landmarks_of_facets(
        mesh.moved(tuple(placed(4, mirrored=True).ravel().tolist())))).is_equal  # fmt: skip
