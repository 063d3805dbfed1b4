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
    assert measure(made.shape).volume > sum(measure(body).volume for body in bodies)


def test_a_box_of_a_box_is_that_box_and_a_cylinder_of_a_cylinder_nearly() -> None:
    assert measure(envelope_of([build.block(3, 4, 5)], "box").shape).volume == pytest.approx(60)
    round_one = measure(envelope_of([build.cylinder(5, 20)], "cylinder").shape).volume
    assert np.pi * 25 * 20 <= round_one < 1.02 * np.pi * 25 * 20
