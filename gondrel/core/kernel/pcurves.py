"""Curves in the parameters of a face, laid anew where the kernel's completion only came near.

What the completion lays through a score of points may lie so far beside its edge that a ten-thousandth of
the face's area is wrong. The kernel's projection proper is exact where the curve is simple there, and else
as near as a spline of many pieces comes.
"""

from __future__ import annotations

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.Geom import Geom_Curve, Geom_Surface
from OCP.Geom2d import Geom2d_Curve
from OCP.GeomProjLib import GeomProjLib
from OCP.gp import gp_Vec2d
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

__all__ = ["gap_between", "laid_anew"]

_EXACT = 1e-6
"""Gap, mm, up to which a new curve is taken: where the edge itself lies off, neither is better."""

_NEAR = 0.25
"""Share of a period that the new curve may lie from the old one when whole turns are taken off."""


def laid_anew(
    edge: TopoDS_Edge, face: TopoDS_Face, flat: Geom2d_Curve, gap: float, *, samples: int
) -> float:
    """Give an edge a better curve on a face in the place of one that lies off by a gap, where there is one.

    Returns: how far the edge's curve now lies off, mm. Call it inside kernel_call.
    """
    if BRep_Tool.IsClosed_s(edge, face):
        return gap
    curve, surface = BRep_Tool.Curve_s(edge, 0.0, 0.0), BRep_Tool.Surface_s(face)
    first, last = BRep_Tool.Range_s(edge)
    found = GeomProjLib.Curve2d_s(curve, first, last, surface)
    if found is None:
        return gap
    middle = (first + last) / 2
    old, new = flat.Value(middle), found.Value(middle)
    shift = [
        _whole(o - n, is_periodic, period)
        for o, n, is_periodic, period in (
            (old.X(), new.X(), surface.IsUPeriodic(), surface.UPeriod if surface.IsUPeriodic() else None),
            (old.Y(), new.Y(), surface.IsVPeriodic(), surface.VPeriod if surface.IsVPeriodic() else None),
        )
    ]
    if any(part is None for part in shift):
        return gap
    if any(shift):
        found.Translate(gp_Vec2d(shift[0], shift[1]))
    now = gap_between(curve, found, surface, first, last, samples=samples)
    if now > min(gap, _EXACT):
        return gap
    BRep_Builder().UpdateEdge(edge, found, face, BRep_Tool.Tolerance_s(edge))
    return now


def _whole(off: float, is_periodic: bool, period: object) -> float | None:
    """The whole turns nearest to a difference, None when what is left is no small part of one."""
    if not is_periodic or not callable(period):
        return 0.0
    size = float(period())
    turns = round(off / size)
    return turns * size if abs(off - turns * size) <= _NEAR * size else None


def gap_between(
    curve: Geom_Curve, flat: Geom2d_Curve, surface: Geom_Surface, first: float, last: float, *, samples: int
) -> float:
    """How far a curve lies off a surface, by its counterpart in the surface's parameters, sampled; mm."""
    worst, step = 0.0, (last - first) / (samples - 1)
    for number in range(samples):
        t = last if number == samples - 1 else first + number * step
        at = flat.Value(t)
        worst = max(worst, surface.Value(at.X(), at.Y()).SquareDistance(curve.Value(t)))
    return float(worst**0.5)
