"""Volume, area and centroid of whole products, summed over everything placed in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.snapshot import Model

__all__ = ["Totals", "totals_of"]


@dataclass(frozen=True, slots=True)
class Totals:
    """Figures of a product with all that occurs in it, mm, mm2, mm3, in its own frame.

    Args:
        centroid: of volume where there is any, else of area; None without either.
        bbox: of all placed bodies; None without any.
    """

    volume: float
    area: float
    centroid: tuple[float, float, float] | None
    solids: int
    bbox: tuple[float, float, float, float, float, float] | None


def totals_of(model: Model, facts: Mapping[str, BodyFacts]) -> dict[str, Totals]:
    """Totals of every product by id; bodies whose facts are missing count as nothing."""
    totals: dict[str, Totals] = {}

    def of(product_id: str, above: tuple[str, ...]) -> Totals:
        if product_id in totals:
            return totals[product_id]
        if product_id in above or product_id not in model.by_id:
            return Totals(0.0, 0.0, None, 0, None)
        product = model.by_id[product_id]
        parts = []
        for body in product.bodies:
            if body.blob in facts:
                f = facts[body.blob]
                parts.append(
                    (
                        np.eye(4),
                        Totals(f.volume, f.area, f.centroid, int(body.kind.value == "solid"), f.bbox),
                    )
                )
        for occurrence in product.occurrences:
            matrix = np.asarray(occurrence.placement).reshape(4, 4)
            parts.append((matrix, _scaled(of(occurrence.product, (*above, product_id)), matrix)))
        totals[product_id] = _sum(parts)
        return totals[product_id]

    for product in model.products:
        of(product.id, ())
    return totals


def _scaled(totals: Totals, matrix: np.ndarray) -> Totals:  # type: ignore[type-arg]
    """Totals of a product placed by a matrix that may scale or mirror it; still in the product's frame."""
    scale = abs(float(np.linalg.det(matrix[:3, :3]))) ** (1 / 3)
    if abs(scale - 1) < 1e-12:
        return totals
    return replace(totals, volume=totals.volume * scale**3, area=totals.area * scale**2)


def _sum(parts: list[tuple[np.ndarray, Totals]]) -> Totals:  # type: ignore[type-arg]
    volume = sum(t.volume for _, t in parts)
    area = sum(t.area for _, t in parts)
    weighted, weight = np.zeros(3), 0.0
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for matrix, totals in parts:
        if totals.centroid is not None:
            share = totals.volume if volume else totals.area
            weighted += share * (matrix[:3, :3] @ np.asarray(totals.centroid) + matrix[:3, 3])
            weight += share
        if totals.bbox is not None:
            corners = np.array(totals.bbox).reshape(2, 3)
            grid = np.array(
                [
                    [corners[i, 0], corners[j, 1], corners[k, 2]]
                    for i in (0, 1)
                    for j in (0, 1)
                    for k in (0, 1)
                ]
            )
            placed = grid @ matrix[:3, :3].T + matrix[:3, 3]
            low, high = np.minimum(low, placed.min(axis=0)), np.maximum(high, placed.max(axis=0))
    centroid = weighted / weight if weight else None
    return Totals(
        volume=volume,
        area=area,
        centroid=None if centroid is None else (float(centroid[0]), float(centroid[1]), float(centroid[2])),
        solids=sum(t.solids for _, t in parts),
        bbox=None if not np.isfinite(low).all() else tuple(float(x) for x in (*low, *high)),  # type: ignore[arg-type]
    )
