"""Neighbouring faces that lie on the same analytic surface."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Ax1

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.geometry.elementary import KINDS, SPHERE
from gondrel.core.kernel.inspect.inspection import Inspection

__all__ = ["pairs_on_one_surface"]

_ANGLE = 1e-6
_AWAY = 1e-5
_NOT_ALONG = 1e-9


def pairs_on_one_surface(body: Inspection) -> Iterator[tuple[int, int, int, str]]:
    """Edges whose two faces lie on the same plane, cylinder, cone, sphere or torus.

    Returns: the edge, both faces, and the kind of surface.
    """
    with kernel_call("comparing neighbouring faces"):
        pairs = []
        for edge, *faces in _alike(body):
            one, other = (BRepAdaptor_Surface(body.face_shapes[face], False) for face in faces)
            if _is_same(one, other):
                pairs.append((edge, faces[0], faces[1], KINDS[body.forms.kind[faces[0]]]))
        yield from pairs


def _alike(body: Inspection) -> list[tuple[int, int, int]]:
    """Edges between two faces on surfaces of one kind with parallel axes or normals, and both faces."""
    pairs = [
        (edge.index, min(edge.coedges)[0], max(edge.coedges)[0])
        for edge in body.edges
        if len(edge.coedges) == 2 and edge.coedges[0][0] != edge.coedges[1][0]
    ]
    if not pairs:
        return []
    _, one, other = np.array(pairs).T
    kinds, axes = body.forms.kind, body.forms.frame[:, 3]
    cosines = np.abs((axes[one] * axes[other]).sum(axis=1))
    is_along = (cosines > 1 - _NOT_ALONG) | (kinds[one] == SPHERE)
    alike = (kinds[one] >= 0) & (kinds[one] == kinds[other]) & is_along
    return [pairs[row] for row in np.flatnonzero(alike)]


def _is_same(one: BRepAdaptor_Surface, other: BRepAdaptor_Surface) -> bool:
    kind = one.GetType()
    if kind == GeomAbs_SurfaceType.GeomAbs_Plane:
        a, b = one.Plane(), other.Plane()
        return bool(
            a.Axis().Direction().IsParallel(b.Axis().Direction(), _ANGLE)
            and a.Distance(b.Location()) < _AWAY
        )
    if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        c, d = one.Cylinder(), other.Cylinder()
        return abs(c.Radius() - d.Radius()) < _AWAY and _is_one_line(c.Axis(), d.Axis())
    if kind == GeomAbs_SurfaceType.GeomAbs_Cone:
        e, f = one.Cone(), other.Cone()
        return (
            abs(abs(e.SemiAngle()) - abs(f.SemiAngle())) < _ANGLE
            and e.Apex().Distance(f.Apex()) < _AWAY
            and _is_one_line(e.Axis(), f.Axis())
        )
    if kind == GeomAbs_SurfaceType.GeomAbs_Sphere:
        g, h = one.Sphere(), other.Sphere()
        return bool(abs(g.Radius() - h.Radius()) < _AWAY and g.Location().Distance(h.Location()) < _AWAY)
    if kind == GeomAbs_SurfaceType.GeomAbs_Torus:
        p, q = one.Torus(), other.Torus()
        return (
            abs(p.MajorRadius() - q.MajorRadius()) < _AWAY
            and abs(p.MinorRadius() - q.MinorRadius()) < _AWAY
            and p.Location().Distance(q.Location()) < _AWAY
            and _is_one_line(p.Axis(), q.Axis())
        )
    return False


def _is_one_line(one: gp_Ax1, other: gp_Ax1) -> bool:
    return bool(one.IsCoaxial(other, _ANGLE, _AWAY) or one.IsCoaxial(other.Reversed(), _ANGLE, _AWAY))
