"""Envelopes hold what they were made of."""

from __future__ import annotations

import numpy as np
import pytest

from gondrel.core.kernel.measure.deviation import away_from
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.mesh.envelope import ENVELOPES, envelope_of
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.modelling import build
from gondrel.core.model.facets import encloses
from gondrel.demo import parts


@pytest.mark.parametrize("kind", ENVELOPES)
def test_every_point_lies_within_or_no_farther_out_than_told(kind: str) -> None:
    bodies = [parts.crank(), build.moved(parts.hex_screw(), by=(80, 0, 0))]
    made = envelope_of(bodies, kind)
    skin = tessellated(made.shape, chord=0.02, angle=0.1)
    away = away_from(made.shape)
    for body in bodies:
        points = tessellated(body, chord=0.02, angle=0.2).points
        chosen = points[:: max(1, len(points) // 150)]
        off = away(chosen)
        for point, distance in zip(chosen, off, strict=True):
            assert distance <= made.beyond + 1e-4 or encloses(skin, np.asarray(point))
    assert measure(made.shape).volume >= (1 - 1e-9) * sum(measure(body).volume for body in bodies)


def test_a_box_of_a_box_is_that_box_and_a_cylinder_of_a_cylinder_nearly() -> None:
    assert measure(envelope_of([build.block(3, 4, 5)], "box").shape).volume == pytest.approx(60)
    round_one = measure(envelope_of([build.cylinder(5, 20)], "cylinder").shape).volume
    assert np.pi * 25 * 20 <= round_one < 1.02 * np.pi * 25 * 20


def test_the_skin_leaves_nothing_enclosed() -> None:
    """A box of 20 with a void of 10 and a core of 4 in it, and a block that touches: closed forms."""
    hollow = build.cut(build.block(20, 20, 20), build.block(10, 10, 10, at=(5, 5, 5)))
    core = build.block(4, 4, 4, at=(8, 8, 8))
    beside = build.block(10, 20, 20, at=(20, 0, 0))
    made = envelope_of([hollow, core, beside], "skin")
    figures = measure(made.shape)
    assert made.beyond == 0 and figures.area == pytest.approx(2 * (30 * 20 + 30 * 20 + 20 * 20))
    assert figures.volume + 1e-6 >= 30 * 20 * 20
