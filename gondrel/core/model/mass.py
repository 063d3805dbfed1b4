"""Volume, area and centroid of whole products, summed over everything placed in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.boxes import placed_boxes, placed_points
from gondrel.core.model.snapshot import Model

__all__ = ["Totals", "kilograms", "totals_of"]

Floats = NDArray[np.float64]
Vector = tuple[float, float, float]
Box = tuple[float, float, float, float, float, float]


@dataclass(frozen=True, slots=True)
class Totals:
    """Figures of a product with all that occurs in it, mm, mm2, mm3, in its own frame.

    Args:
        centroid: of volume where there is any, else of area; None without either.
        bbox: of all placed bodies; None without any.
    """

    volume: float
    area: float
    centroid: Vector | None
    solids: int
    bbox: Box | None


def totals_of(model: Model, facts: Mapping[str, BodyFacts]) -> dict[str, Totals]:
    """Totals of every product by id; bodies whose facts are missing count as nothing."""
    totals: dict[str, Totals] = {}

    def of(product_id: str, above: tuple[str, ...]) -> Totals:
        if product_id in totals:
            return totals[product_id]
        if product_id in above or product_id not in model.by_id:
            return Totals(0.0, 0.0, None, 0, None)
        product = model.by_id[product_id]
        own = [
            Totals(f.volume, f.area, f.centroid, int(body.kind.value == "solid"), f.bbox)
            for body in product.bodies
            if (f := facts.get(body.blob)) is not None
        ]
        if len(own) == 1 and not product.occurrences:
            alone = own[0]
            totals[product_id] = alone if alone.volume or alone.area else replace(alone, centroid=None)
            return totals[product_id]
        placed = np.array([use.placement for use in product.occurrences], float).reshape(-1, 4, 4)
        scales = np.abs(np.linalg.det(placed[:, :3, :3])) ** (1 / 3)
        inner = [
            _scaled(of(use.product, (*above, product_id)), scale)
            for use, scale in zip(product.occurrences, scales.tolist(), strict=True)
        ]
        matrices = np.concatenate([np.broadcast_to(np.eye(4), (len(own), 4, 4)), placed])
        totals[product_id] = _sum(matrices, [*own, *inner])
        return totals[product_id]

    for product in model.products:
        of(product.id, ())
    return totals


def _scaled(totals: Totals, scale: float) -> Totals:
    """Totals of a product placed by a matrix that scales; still in the product's frame."""
    if abs(scale - 1) < 1e-12:
        return totals
    return replace(totals, volume=totals.volume * scale**3, area=totals.area * scale**2)


def _sum(matrices: Floats, parts: list[Totals]) -> Totals:
    """Totals of parts in their places, (n, 4, 4)."""
    volume = sum(each.volume for each in parts)
    area = sum(each.area for each in parts)
    return Totals(
        volume=volume,
        area=area,
        centroid=_centroid(matrices, parts, by_volume=bool(volume)),
        solids=sum(each.solids for each in parts),
        bbox=_box(matrices, parts),
    )


def _centroid(matrices: Floats, parts: list[Totals], *, by_volume: bool) -> Vector | None:
    rows = [row for row, each in enumerate(parts) if each.centroid is not None]
    if not rows:
        return None
    known = [parts[row] for row in rows]
    shares = np.array([each.volume if by_volume else each.area for each in known])
    if not shares.sum():
        return None
    points = placed_points(matrices[rows], np.array([each.centroid for each in known], float))
    x, y, z = (shares @ points / shares.sum()).tolist()
    return x, y, z


def _box(matrices: Floats, parts: list[Totals]) -> Box | None:
    """The box along the axes around boxes in their places; None without any."""
    rows = [row for row, each in enumerate(parts) if each.bbox is not None]
    if not rows:
        return None
    boxes = placed_boxes(
        matrices[rows], np.array([parts[row].bbox for row in rows], float).reshape(-1, 2, 3)
    )
    x, y, z = boxes[:, 0].min(axis=0).tolist()
    u, v, w = boxes[:, 1].max(axis=0).tolist()
    return x, y, z, u, v, w


def kilograms(volume: float, density: float) -> float:
    """A mass in kg.

    Args:
        volume: mm3; density: kg/m3.
    """
    return volume * density * 1e-9
