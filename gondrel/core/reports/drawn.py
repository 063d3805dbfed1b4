"""A picture of a model without a display: its triangles drawn into a depth image, lit and outlined."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.body import Body
from gondrel.core.model.depth import nearest_owners
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["VIEWS", "drawn"]

VIEWS = {
    "iso": (1.0, -1.0, 0.8), "front": (0.0, -1.0, 0.0), "back": (0.0, 1.0, 0.0), "left": (-1.0, 0.0, 0.0),
    "right": (1.0, 0.0, 0.0), "top": (0.0, 0.0, 1.0), "bottom": (0.0, 0.0, -1.0),
}  # fmt: skip
"""From where it is looked at."""

_GREY = (0.62, 0.66, 0.69)
_FINE = 2
_LIGHT = np.array([0.35, 0.45, 0.82])

Floats = NDArray[np.float64]


def drawn(
    model: Model, store: BlobStore, *, view: str = "iso", size: tuple[int, int] = (900, 620),
    ground: tuple[int, int, int] = (255, 255, 255), is_clear: bool = False,
) -> bytes:  # fmt: skip
    """A PNG of a model, by the meshes that are in the store; what has none is left away.

    Args:
        size: width and height in picture elements; ground: colour behind it, 0 to 255.
        is_clear: whether nothing stands behind it: the ground is transparent.
    """
    corners, colours, faces = _triangles(model, store)
    width, height = size[0] * _FINE, size[1] * _FINE
    image = np.full((height, width, 3), np.array(ground) / 255.0)
    covered = np.zeros((height, width), bool)
    if len(corners):
        frame = _frame(np.array(VIEWS[view]))
        turned = corners @ frame.T
        low, high = turned.min(axis=(0, 1)), turned.max(axis=(0, 1))
        room = max((high[0] - low[0]) / (width * 0.94), (high[1] - low[1]) / (height * 0.94), 1e-9)
        centred = (turned - (low + high) / 2) / room
        found = nearest_owners(centred, np.arange(len(corners)), (width, height)).reshape(height, width)[
            ::-1
        ]
        normal = np.cross(centred[:, 1] - centred[:, 0], centred[:, 2] - centred[:, 0])
        normal /= np.maximum(np.linalg.norm(normal, axis=1), 1e-300)[:, None]
        normal *= np.where(normal[:, 2:] < 0, -1.0, 1.0)
        light = 0.5 + 0.5 * np.clip(normal @ (_LIGHT / np.linalg.norm(_LIGHT)), 0, 1)
        there = found >= 0
        covered = there
        image[there] = (colours * light[:, None])[found[there]]
        image[_outlines(np.where(there, faces[found], -1))] *= 0.35
    small = image.reshape(size[1], _FINE, size[0], _FINE, 3).mean(axis=(1, 3))
    if is_clear:
        share = covered.reshape(size[1], _FINE, size[0], _FINE).mean(axis=(1, 3))[..., None]
        behind = np.array(ground) / 255.0
        own = np.where(share > 0, (small - (1 - share) * behind) / np.maximum(share, 1e-9), 0.0)
        small = np.concatenate([own, share], axis=2)
    return _png(np.clip(small * 255 + 0.5, 0, 255).astype(np.uint8))


def _triangles(model: Model, store: BlobStore) -> tuple[Floats, Floats, NDArray[np.int64]]:
    """Corners, colours and faces of all triangles in their places."""
    corners, colours, faces = [np.empty((0, 3, 3))], [np.empty((0, 3))], [np.empty(0, np.int64)]
    meshes: dict[str, Mapping[str, NDArray[np.float64]]] = {}
    count = 0
    for place in model.walk():
        product = model.product(place.product)
        matrix = np.asarray(place.placement, float).reshape(4, 4)
        for body in () if product.is_reference else product.bodies:
            if not store.has(body.blob, "mesh") or body.hidden:
                continue
            if body.blob not in meshes:
                with np.load(io.BytesIO(store.get_as(body.blob, "mesh"))) as mesh:
                    meshes[body.blob] = {key: mesh[key] for key in ("points", "triangles", "face_starts")}
            mesh = meshes[body.blob]
            points = mesh["points"].astype(float) @ matrix[:3, :3].T + matrix[:3, 3]
            owners = np.searchsorted(mesh["face_starts"], np.arange(len(mesh["triangles"])), "right") - 1
            corners.append(points[mesh["triangles"]])
            colours.append(_colours(body, owners))
            faces.append(owners + count)
            count += len(mesh["face_starts"])
    return np.concatenate(corners), np.concatenate(colours), np.concatenate(faces)


def _colours(body: Body, owners: NDArray[np.int64]) -> Floats:
    own = body.colour
    usual = (own.red, own.green, own.blue) if own is not None else _GREY
    table = np.tile(np.array(usual), (int(owners.max(initial=0)) + 1, 1))
    for face, colour in body.face_colours:
        if face < len(table):
            table[face] = colour.red, colour.green, colour.blue
    made: Floats = table[owners]
    return made


def _frame(towards: Floats) -> Floats:
    z = towards / np.linalg.norm(towards)
    up = np.array([0.0, 0.0, 1.0]) if abs(z[2]) < 0.99 else np.array([0.0, 1.0, 0.0])
    x = np.cross(up, z)
    x /= np.linalg.norm(x)
    return np.array([x, np.cross(z, x), z])


def _outlines(faces: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Picture elements where another face begins to the right or below."""
    marked = np.zeros(faces.shape, bool)
    marked[:, :-1] |= faces[:, :-1] != faces[:, 1:]
    marked[:-1] |= faces[:-1] != faces[1:]
    return marked


def _png(image: NDArray[np.uint8]) -> bytes:
    """An image as PNG (ISO/IEC 15948): 8 bits of red, green and blue, and of cover, no filter."""
    height, width, channels = image.shape
    rows = np.concatenate([np.zeros((height, 1), np.uint8), image.reshape(height, -1)], axis=1)

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2 if channels == 3 else 6, 0, 0, 0)
    parts = (chunk(b"IHDR", head), chunk(b"IDAT", zlib.compress(rows.tobytes(), 9)), chunk(b"IEND", b""))
    return b"\x89PNG\r\n\x1a\n" + b"".join(parts)
