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
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["RESOLUTION", "owners_seen", "seen_in"]

RESOLUTION = 256
"""Picture elements along the longer side of a depth image."""

_MOST_TESTED = 3_000_000

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
        facing = ~closed | (_turned(view[:, 0], view[:, 1], view[:, 2]) > 0)
        seen |= set(np.unique(_nearest(view[facing], owners[facing], resolution)).tolist())
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


def _nearest(view: Floats, owners: Ints, size: int) -> Ints:
    """The owner that is nearest in each picture element, -1 where there is none."""
    flat = view[:, :, :2] + size / 2
    low = np.clip(np.ceil(flat.min(axis=1) - 0.5), 0, size).astype(np.int64)
    high = np.clip(np.floor(flat.max(axis=1) - 0.5), -1, size - 1).astype(np.int64)
    spans = np.maximum(high - low + 1, 0)
    counts = spans[:, 0] * spans[:, 1]
    depths = np.full(size * size, -np.inf)
    nearest = np.full(size * size, -1, np.int64)
    chosen = np.flatnonzero(counts)
    for part in _parts(counts[chosen]):
        which = chosen[part]
        pixel, depth, owner = _drawn(flat[which], view[which, :, 2], owners[which], low[which],
                                     spans[which], size)  # fmt: skip
        order = np.lexsort((depth, pixel))
        last = order[np.flatnonzero(np.diff(pixel[order], append=-1))]
        nearer = last[depth[last] > depths[pixel[last]]]
        depths[pixel[nearer]], nearest[pixel[nearer]] = depth[nearer], owner[nearer]
    return nearest


def _parts(counts: Ints) -> Iterator[slice]:
    """Runs of triangles with a bounded number of picture elements to be tested."""
    ends = np.cumsum(counts)
    start = 0
    while start < len(counts):
        before = int(ends[start - 1]) if start else 0
        stop = max(start + 1, int(np.searchsorted(ends, before + _MOST_TESTED, "right")))
        yield slice(start, stop)
        start = stop


def _drawn(
    flat: Floats, heights: Floats, owners: Ints, low: Ints, spans: Ints, size: int
) -> tuple[Ints, Floats, Ints]:
    """Picture elements whose middle a triangle covers, with its height there and its owner."""
    counts = spans[:, 0] * spans[:, 1]
    which = np.repeat(np.arange(len(counts)), counts)
    place = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
    x = low[which, 0] + place % spans[which, 0]
    y = low[which, 1] + place // spans[which, 0]
    a, b, c = flat[:, 0], flat[:, 1], flat[:, 2]
    whole = _turned(a, b, c)
    usable = np.abs(whole) > 1e-12
    whole = np.where(usable, whole, 1.0)
    point = np.column_stack([x, y]) + 0.5
    u = _turned(point, b[which], c[which]) / whole[which]
    v = _turned(a[which], point, c[which]) / whole[which]
    inside = (u >= 0) & (v >= 0) & (u + v <= 1) & usable[which]
    which, u, v = which[inside], u[inside], v[inside]
    height = heights[which, 0] * u + heights[which, 1] * v + heights[which, 2] * (1 - u - v)
    return y[inside] * size + x[inside], height, owners[which]


def _turned(a: Floats, b: Floats, c: Floats) -> Floats:
    made: Floats = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    return made


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
