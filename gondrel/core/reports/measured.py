"""What was measured, as objects of the contract: lengths in mm, angles in rad, masses in kg."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import cached_property
from typing import Any

from gondrel.core.model.measures import Clearance, HoleRow, Mass, PlacedSection, Thickness
from gondrel.core.model.snapshot import Model

__all__ = [
    "Labels", "clearance_object", "hole_list", "mass_object", "section_object", "thickness_object",
]  # fmt: skip


class Labels:
    """What people call the places of a model; those in each assembly are worked out once."""

    def __init__(self, model: Model) -> None:
        self.model = model
        self._parts: dict[str, dict[str, str]] = {}
        self._tops = {use.id: root for root in model.roots for use in model.product(root).occurrences}

    def of(self, path: tuple[str, ...], product: str) -> str:
        """The components that lead to a place, by name, with slashes; of a root its own name.

        Components of one name beside one another are numbered as they stand: bolt (2).
        """
        labels, parent = [], self._tops.get(path[0], "") if path else product
        for step in path:
            labels.append(self._in(parent)[step])
            parent = self._products[step]
        return "/".join(labels) or self.model.product(product).label

    @cached_property
    def _products(self) -> dict[str, str]:
        """What each component is of."""
        return {use.id: use.product for _, use in self.model.occurrences()}

    def _in(self, parent: str) -> dict[str, str]:
        """Labels of the components of an assembly by their ids."""
        if parent not in self._parts:
            uses = self.model.product(parent).occurrences
            plain = [use.name or self.model.product(use.product).label for use in uses]
            times, seen, labels = Counter(plain), Counter[str](), dict[str, str]()
            for use, label in zip(uses, plain, strict=True):
                seen[label] += 1
                labels[use.id] = f"{label} ({seen[label]})" if times[label] > 1 else label
            self._parts[parent] = labels
        return self._parts[parent]


def section_object(
    model: Model, sections: Sequence[PlacedSection], refused: Sequence[str] = ()
) -> dict[str, Any]:
    """The section of a model: of the whole, and of each body in its place."""
    labels = Labels(model)
    parts = [
        {"path": labels.of(s.path, s.product), "area": s.area, "perimeter": s.perimeter} for s in sections
    ]
    return {
        "area": sum(s.area for s in sections),
        "perimeter": sum(s.perimeter for s in sections),
        "parts": parts,
        "refused": list(refused),
    }


def clearance_object(model: Model, clearance: Clearance) -> dict[str, Any]:
    """The least distance, where it is, and between what."""
    labels = Labels(model)
    return {
        "distance": clearance.distance,
        "points": [list(point) for point in clearance.points],
        "items": [labels.of(path, product) for product, path in clearance.items],
    }


def thickness_object(item: str | None, wall: Thickness | None) -> dict[str, Any]:
    """The thinnest place, in the frame of the part; null where no wall was met."""
    if wall is None or wall.least is None:
        return {"least": None, "point": None, "other_side": None, "item": item, "measured": 0}
    one, other = (list(point) for point in wall.points)
    return {"least": wall.least, "point": one, "other_side": other, "item": item, "measured": wall.measured}


def hole_list(model: Model, rows: Sequence[HoleRow]) -> list[dict[str, Any]]:
    """The table of holes: equal parallel ones of a part together, in the frame of the part."""
    times: Counter[str] = model.quantities
    return [
        {
            "diameter": row.holes[0].diameter,
            "depth": row.holes[0].depth,
            "axis": _axis(row, 0),
            "axes": [_axis(row, place) for place in range(len(row.holes))],
            "through": row.holes[0].is_through,
            "count": len(row.holes),
            "placed": len(row.holes) * times[row.product],
            "item": model.product(row.product).label,
        }
        for row in rows
    ]


def _axis(row: HoleRow, place: int) -> dict[str, Any]:
    hole = row.holes[place]
    return {"point": list(hole.point), "direction": list(hole.direction)}


def mass_object(mass: Mass) -> dict[str, Any]:
    """Mass properties; null where a density is missing."""
    return {
        "mass": mass.mass,
        "centre": list(mass.centre) if mass.centre is not None else None,
        "inertia": list(mass.inertia) if mass.inertia is not None else None,
        "volume": mass.volume,
        "area": mass.area,
        "without_material": list(mass.without),
    }
