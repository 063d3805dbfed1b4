"""A B-rep as a mesh body: triangles within a stated distance, welded along common edges."""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_Plane
from OCP.gp import gp_Pnt
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of, shape_from_blob
from gondrel.core.kernel.measure.mass import diagonal_of
from gondrel.core.kernel.mesh.triangulation import make_mesh
from gondrel.core.model.facets import Facets, is_facets, welded
from gondrel.core.model.product import IDENTITY, Placement
from gondrel.core.model.store import BlobStore

__all__ = ["SHARE", "mesh_body", "tessellated"]

SHARE = 1 / 2000
"""Chord height as a share of a body's diagonal where none is asked for."""

_WELD = 1e-6


def tessellated(shape: TopoDS_Shape, *, chord: float, angle: float) -> Facets:
    """Triangles of a body; the group of each is its face.

    Args:
        chord: largest distance between triangle and surface, mm, 0 for a share of the body's size.
        angle: largest angle between neighbouring facets, rad.

    Raises:
        KernelRefused: when the kernel can't tessellate it.
    """
    wanted = chord or max(diagonal_of(shape) * SHARE, 1e-5)
    mesh = make_mesh(shape, chord=wanted, angle=angle, is_exact=True)
    counts = np.diff(mesh.face_starts)
    groups = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
    points = mesh.points.astype(np.float64)
    return welded(points[mesh.triangles], _WELD, groups)


def mesh_body(
    store: BlobStore, key: str, *, chord: float, angle: float, placement: Placement = IDENTITY
) -> tuple[Facets, float]:
    """A stored body as a mesh in its place, and how far its facets lie off its surfaces, mm.

    The deviation is that of the middles of facets and of their edges from the surface of the face
    they stand for, of up to 4000 facets. Raises KernelRefused.
    """
    blob = store.get(key)
    if is_facets(blob):
        return Facets.from_bytes(blob).moved(placement), 0.0
    shape = shape_from_blob(blob)
    mesh = tessellated(shape, chord=chord, angle=angle)
    with kernel_call("measuring the deviation of a mesh"):
        off = _deviation(mesh, shape)
    return mesh.moved(placement), off


_MOST = 4000
_ACCURACY = 1e-7


def _deviation(mesh: Facets, shape: TopoDS_Shape) -> float:
    worst = 0.0
    faces = faces_of(shape)
    step = max(1, len(mesh.triangles) // _MOST)
    surfaces: dict[int, ShapeAnalysis_Surface] = {}
    for triangle in range(0, len(mesh.triangles), step):
        group = int(mesh.groups[triangle])
        if group not in surfaces:
            surfaces[group] = ShapeAnalysis_Surface(BRep_Tool.Surface_s(faces[group]))
        surface = surfaces[group]
        if isinstance(surface.Surface(), Geom_Plane):
            continue
        a, b, c = mesh.corners[triangle]
        for point in ((a + b + c) / 3, (a + b) / 2, (b + c) / 2, (c + a) / 2):
            surface.ValueOfUV(gp_Pnt(*map(float, point)), _ACCURACY)
            worst = max(worst, float(surface.Gap()))
    return worst
