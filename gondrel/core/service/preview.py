"""A large file before it is read: its structure at once, and boxes that stand for its shapes."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from gondrel.core.formats.registry import by_content
from gondrel.core.formats.step.graph import read_graph
from gondrel.core.formats.step.records import open_records
from gondrel.core.formats.step.structure import boxes_of, structure_of
from gondrel.core.kernel.mesh.triangulation import Mesh
from gondrel.core.model.later import standing_in
from gondrel.core.model.product import Unread
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import checked_file
from gondrel.core.work.packed import unpacked

__all__ = ["make_stand_ins", "structure_first"]


def structure_first(path: str, store_folder: str, *, progress: Progress = SILENT) -> None:
    """Hand out ("structure", model) as soon as the records are read, and ("boxes", model) once boxes stand
    for the shapes; of another format than STEP, nothing.

    The boxes of the second model have meshes in the store: they are for looking at until the file is read.

    Raises:
        InputError: when the records make no sense.
    """
    with unpacked(checked_file(path)) as plain:
        if by_content(plain).key != "step":
            return
        with open_records(plain) as records:
            progress.at(0.3, "Reading the structure")
            graph = read_graph(records)
            model, definitions = structure_of(records, graph)
            progress.give(("structure", model))
            progress.at(0.6, "Looking how large parts are")
            boxes = dict(boxes_of(records, graph, definitions))
    whole = _with_boxes(model, boxes, path)
    make_stand_ins(whole, store_folder)
    progress.give(("boxes", whole))


def make_stand_ins(model: Model, store_folder: str, *, progress: Progress = SILENT) -> None:
    """Put into the store the meshes of the boxes that stand for shapes of a model that wait."""
    store = BlobStore(Path(store_folder))
    for product, shown in zip(model.products, standing_in(model).products, strict=True):
        if product.unread is not None and product.unread.box:
            mesh = _box_mesh(np.array(product.unread.box))
            store.put_as(shown.bodies[0].blob, "mesh", mesh.to_bytes())


def _with_boxes(model: Model, boxes: dict[str, tuple[float, ...]], path: str) -> Model:
    products = (
        replace(product, unread=Unread(path, 0, 0, boxes[product.id])) if product.id in boxes else product
        for product in model.products
    )
    return replace(model, products=tuple(products))


_SIDES = (
    (2, 6, 4, 0), (5, 7, 3, 1), (4, 5, 1, 0), (3, 7, 6, 2), (1, 3, 2, 0), (6, 7, 5, 4),
)  # fmt: skip
"""Corners of each side, anticlockwise from outside; corner n has x, y and z by the bits 4, 2 and 1 of n."""


def _box_mesh(box: np.ndarray) -> Mesh:
    """Twelve triangles and the twelve edges of a box, xmin to zmax."""
    ends = box.reshape(2, 3)
    corners = np.array(
        [[ends[bool(n & 4) * 1, 0], ends[bool(n & 2) * 1, 1], ends[n & 1, 2]] for n in range(8)]
    )
    points, normals, triangles, rims = [], [], [], []
    for number, side in enumerate(_SIDES):
        own = corners[list(side)]
        normal = np.cross(own[1] - own[0], own[2] - own[0])
        size = float(np.linalg.norm(normal))
        points.append(own)
        normals.append(np.repeat([normal / size if size else [0.0, 0.0, 1.0]], 4, axis=0))
        first = 4 * number
        triangles += [[first, first + 1, first + 2], [first, first + 2, first + 3]]
        rims.append(np.concatenate([own, own[:1]]))
    return Mesh(
        np.concatenate(points).astype(np.float32), np.concatenate(normals).astype(np.float32),
        np.array(triangles, np.int32), np.arange(0, 13, 2, dtype=np.int32),
        np.concatenate(rims).astype(np.float32), np.arange(0, 31, 5, dtype=np.int32), 0.0, True,
    )  # fmt: skip
