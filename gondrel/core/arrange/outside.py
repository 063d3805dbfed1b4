"""Which parts are seen from outside: the triangles of all of them drawn from many sides into depth images.

Source: the depth buffer of any textbook of computer graphics. A part counts as seen when it is nearest in
one picture element from one of 26 sides; what shows through a gap finer than that does not count.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from itertools import product

import numpy as np
from numpy.typing import NDArray

from gondrel.core.arrange.cutdown import Seen
from gondrel.core.kernel.derive import mesh_of
from gondrel.core.model.depth import nearest_owners, turned
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["RESOLUTION", "owners_seen", "seen_in"]

RESOLUTION = 256
"""Picture elements along the longer side of a depth image."""

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def owners_seen(
    corners: Floats,
    owners: Ints,
    closed: NDArray[np.bool_],
    *,
    resolution: int = RESOLUTION,
    progress: Progress = SILENT,
) -> frozenset[int]:
    """Owners of triangles that are seen from outside.

    Args:
        corners: (n, 3, 3) mm, turning left about their outer side; owners: (n,) numbers from 0.
        closed: (n,) whether a triangle bounds a solid, so that its inner side is never seen.
    """
    if not len(corners):
        return frozenset()
    low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    centred = corners - (low + high) / 2
    step = max(float(np.linalg.norm(high - low)) / resolution, 1e-9)
    seen: set[int] = set()
    for side in progress.each(list(_sides()), "Looking from outside"):
        view = centred @ side.T / step
        facing = ~closed | (turned(view[:, 0], view[:, 1], view[:, 2]) > 0)
        seen |= set(
            np.unique(nearest_owners(view[facing], owners[facing], (resolution, resolution))).tolist()
        )
    return frozenset(seen - {-1})


def _sides() -> Iterator[Floats]:
    """Frames, by rows, whose last axis looks from a face, edge or corner of a cube."""
    for way in product((-1, 0, 1), repeat=3):
        if not any(way):
            continue
        z = np.array(way, float) / np.linalg.norm(way)
        x = np.cross(z, np.eye(3)[int(np.argmin(np.abs(z)))])
        x /= np.linalg.norm(x)
        yield np.array([x, np.cross(z, x), z])


def seen_in(model: Model, store: BlobStore, *, progress: Progress = SILENT) -> Seen:
    """What of a model is seen from outside, by the triangles of its picture.

    Raises:
        KernelRefused: when a body can't be tessellated.
    """
    meshes: dict[str, tuple[Floats, bool]] = {}
    for blob in progress.part(0.0, 0.3).each(list(model.blobs()), "Making triangles"):
        mesh_of(store, blob)
        with np.load(io.BytesIO(store.get_as(blob, "mesh"))) as mesh:
            corners = mesh["points"].astype(np.float64)[mesh["triangles"]]
            meshes[blob] = corners, bool(mesh["is_closed"])
    placed: list[Floats] = []
    closed: list[NDArray[np.bool_]] = []
    owners: list[Ints] = []
    paths: list[tuple[tuple[str, ...], str]] = []
    for place in model.walk():
        product = model.product(place.product)
        matrix = np.asarray(place.placement, float).reshape(4, 4)
        for body in product.bodies if not product.is_reference else ():
            corners, is_closed = meshes[body.blob]
            placed.append(corners @ matrix[:3, :3].T + matrix[:3, 3])
            closed.append(np.full(len(corners), is_closed))
            owners.append(np.full(len(corners), len(paths)))
        paths.append((place.path, product.id))
    if not placed:
        return Seen()
    found = owners_seen(
        np.concatenate(placed), np.concatenate(owners), np.concatenate(closed),
        progress=progress.part(0.3, 1.0),
    )  # fmt: skip
    uses = {use for owner in found for use in paths[owner][0]}
    return Seen(frozenset(paths[owner][1] for owner in found), frozenset(uses))
