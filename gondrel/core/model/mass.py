"""Volume, area and centroid of whole products, summed over everything placed in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.boxes import placed_boxes
from gondrel.core.model.snapshot import Model

__all__ = ["Totals", "kilograms", "totals_of"]

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
    centroid: tuple[float, float, float] | None
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
        matrices = np.array([use.placement for use in product.occurrences], float).reshape(-1, 4, 4)
        scales = np.abs(np.linalg.det(matrices[:, :3, :3])) ** (1 / 3)
        for use, matrix, scale in zip(product.occurrences, matrices, scales.tolist(), strict=True):
            parts.append((matrix, _scaled(of(use.product, (*above, product_id)), scale)))
        totals[product_id] = _sum(parts)
        return totals[product_id]

    for product in model.products:
        of(product.id, ())
    return totals


def _scaled(totals: Totals, scale: float) -> Totals:
    """Totals of a product placed by a matrix that scales; still in the product's frame."""
    if abs(scale - 1) < 1e-12:
        return totals
    return replace(totals, volume=totals.volume * scale**3, area=totals.area * scale**2)


def _sum(parts: list[tuple[np.ndarray, Totals]]) -> Totals:  # type: ignore[type-arg]
    volume = sum(t.volume for _, t in parts)
    area = sum(t.area for _, t in parts)
    weighted, weight = np.zeros(3), 0.0
    for matrix, totals in parts:
        if totals.centroid is not None:
            share = totals.volume if volume else totals.area
            weighted += share * (matrix[:3, :3] @ np.asarray(totals.centroid) + matrix[:3, 3])
            weight += share
    centroid = weighted / weight if weight else None
    return Totals(
        volume=volume,
        area=area,
        centroid=None if centroid is None else (float(centroid[0]), float(centroid[1]), float(centroid[2])),
        solids=sum(t.solids for _, t in parts),
        bbox=_box([(matrix, totals.bbox) for matrix, totals in parts if totals.bbox is not None]),
    )


def _box(placed: list[tuple[np.ndarray, Box]]) -> Box | None:  # type: ignore[type-arg]
    """The box along the axes around boxes in their places; None without any."""
    if not placed:
        return None
    boxes = placed_boxes(
        np.array([matrix for matrix, _ in placed]), np.array([box for _, box in placed]).reshape(-1, 2, 3)
    )
    low, high = boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)
    x, y, z, u, v, w = (float(each) for each in (*low, *high))
    return x, y, z, u, v, w


def kilograms(volume: float, density: float) -> float:
    """A mass in kg.

    Args:
        volume: mm3; density: kg/m3.
    """
    return volume * density * 1e-9
