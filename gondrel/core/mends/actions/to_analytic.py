"""Planes, cylinders, cones, spheres and tori as splines."""

from __future__ import annotations

from gondrel.core.kernel.repair.recut import to_analytic
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R110",
    name="to-analytic",
    title="Replace splines by the analytic surfaces they lie on",
    what=(
        "A spline that lies on a plane, cylinder, cone, sphere or torus within the tolerance "
        "becomes that surface; its edges run where the new surfaces meet."
    ),
    cures=("G404", "G405"),
    order=90,
    is_safe=True,
    is_asked=True,
    is_single=True,
    run=lambda work: to_analytic(work.shapes[0], work.tolerance, work.only),
)
