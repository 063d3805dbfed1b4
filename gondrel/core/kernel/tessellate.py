"""A B-rep as a mesh body: triangles within a stated distance, welded along common edges."""

from __future__ import annotations

import numpy as np
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.measure import diagonal_of
from gondrel.core.kernel.mesh import make_mesh
from gondrel.core.kernel.shape import shape_from_blob
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

    The deviation is that of the middles of facets and edges from the faces they stand for. Raises
    KernelRefused.
    """
    blob = store.get(key)
    if is_facets(blob):
        return Facets.from_bytes(blob).moved(placement), 0.0
    from gondrel.core.kernel.deviation import deviation_field

    shape = shape_from_blob(blob)
    mesh = tessellated(shape, chord=chord, angle=angle)
    middles = _middles(mesh)
    off = float(deviation_field(middles, shape_from_blob(blob)).max(initial=0.0)) if len(middles) else 0.0
    return mesh.moved(placement), off


_MOST = 4000


def _middles(mesh: Facets) -> np.ndarray:  # type: ignore[type-arg]
    """Middles of facets and of edges, where they lie furthest off a curved surface; thinned evenly."""
    pairs, _, _ = mesh.edges()
    found = np.concatenate([mesh.corners.mean(axis=1), mesh.points[pairs].mean(axis=1)])
    step = max(1, len(found) // _MOST)
    return np.asarray(found[::step])
