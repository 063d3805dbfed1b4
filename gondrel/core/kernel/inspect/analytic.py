"""Splines that are analytic surfaces in disguise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.GeomAdaptor import GeomAdaptor_Surface

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.geometry.analytic import converted_surface
from gondrel.core.kernel.inspect.inspection import Inspection

__all__ = ["Analytic", "analytic_of", "flatness_of"]


def flatness_of(body: Inspection, face: int) -> float:
    """How far the poles of a spline face lie off the plane nearest to them, mm."""
    surface = BRep_Tool.Surface_s(body.face_shapes[face])
    points = np.array(
        [
            surface.Pole(i, j).Coord()
            for i in range(1, surface.NbUPoles() + 1)
            for j in range(1, surface.NbVPoles() + 1)
        ]
    )
    away = points - points.mean(axis=0)
    normal = np.linalg.svd(away, full_matrices=False)[2][-1]
    return float(np.abs(away @ normal).max())


@dataclass(frozen=True, slots=True)
class Analytic:
    """The analytic surface a spline face lies on: its kind, how far off at most (mm), and radius or 0."""

    kind: str
    off: float
    radius: float


def analytic_of(body: Inspection, face: int, within: float) -> Analytic | None:
    """What a spline face is in disguise, to within a distance in mm; None for a true spline."""
    with kernel_call("looking for an analytic surface"):
        converted = converted_surface(BRep_Tool.Surface_s(body.face_shapes[face]), within)
        if converted is None:
            return None
        surface, gap = converted
        adaptor = GeomAdaptor_Surface(surface)
    kind = adaptor.GetType().name.removeprefix("GeomAbs_").lower()
    shape = {"cylinder": adaptor.Cylinder, "sphere": adaptor.Sphere}.get(kind)
    return Analytic(kind, gap, float(shape().Radius()) if shape else 0.0)
