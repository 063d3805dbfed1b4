"""What a section leaves whole: bars and standard parts that would be cut lengthwise.

Source: ISO 128-44 (formerly 128-50) has shafts, pins, screws, nuts, washers, keys and the like not cut
lengthwise.
"""

from __future__ import annotations

from collections.abc import Collection

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.inspect.axes import bar_axis
from gondrel.core.model.body import BodyKind
from gondrel.core.model.cutting import Vector
from gondrel.core.model.facets import is_facets
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["lengthwise_parts"]


def lengthwise_parts(
    model: Model, standard: Collection[str], store: BlobStore, *, progress: Progress = SILENT
) -> dict[str, Vector]:
    """The axis of each part that is not cut along it: bars, and standard parts with an axis, by product id.

    Args:
        standard: ids of the products that are standard parts.
    """
    axes, known = {}, dict[str, tuple[Vector, bool] | None]()
    for product in progress.each([p for p in model.products if p.bodies], "Looking for bars"):
        axis = _axis_of(product, store, known)
        if axis is not None and (axis[1] or product.id in standard):
            axes[product.id] = axis[0]
    return axes


def _axis_of(
    product: Product, store: BlobStore, known: dict[str, tuple[Vector, bool] | None]
) -> tuple[Vector, bool] | None:
    if len(product.bodies) != 1 or product.bodies[0].kind is not BodyKind.SOLID:
        return None
    key = product.bodies[0].blob
    if key not in known:
        blob = store.get(key)
        try:
            known[key] = None if is_facets(blob) else bar_axis(shape_from_blob(blob))
        except KernelRefused:
            known[key] = None
    return known[key]
