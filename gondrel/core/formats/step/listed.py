"""What the records list as the shape of each product, and how its usages place it.

Source: ISO 10303-41 (shape_definition_representation, property_definition), ISO 10303-43 (mapped_item,
representation_map, item_defined_transformation), ISO 10303-42 (cartesian_transformation_operator).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.graph import Graph
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import InstanceReference, Parameter
from gondrel.core.formats.step.units import context_unit, measure_value

__all__ = ["ListedItem", "Shapes", "is_rigid"]

Matrix = NDArray[np.float64]

_RELATED = "SHAPE_REPRESENTATION_RELATIONSHIP"
_MOVED = "REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION"
_NO_SHAPE = ("AXIS2_PLACEMENT_3D", "AXIS1_PLACEMENT", "PLACEMENT")
_RIGID = 1e-7
_DEEPEST = 12


@dataclass(frozen=True, slots=True)
class ListedItem:
    """An item of a product's shape.

    Args:
        number, keyword: of its record; context: number of its representation's context.
        placement: where it is mapped to, mm; None where it stands as it is.
    """

    number: int
    keyword: str
    context: int
    placement: Matrix | None = None


def is_rigid(matrix: Matrix) -> bool:
    """Whether a 4x4 matrix neither scales nor mirrors."""
    linear = matrix[:3, :3]
    return bool(np.abs(linear @ linear.T - np.eye(3)).max() < _RIGID and np.linalg.det(linear) > 0)


class Shapes:
    """The shapes of the products of a file, by their records."""

    def __init__(self, records: Records, graph: Graph) -> None:
        self.records = records
        self._inverses: dict[tuple[int, int], Matrix] = {}
        self._units: dict[int, float] = {}
        self._own: dict[int, int] = {}  # product definition: its representation
        for link in records.of("SHAPE_DEFINITION_REPRESENTATION"):
            shape = records.get(link.ref(0))
            of_shape = shape is not None and shape.keyword == "PRODUCT_DEFINITION_SHAPE"
            if shape is not None and of_shape and shape.ref(2) in graph.products:
                self._own.setdefault(shape.ref(2), link.ref(1))
        owned = set(self._own.values())
        self._related: defaultdict[int, list[int]] = defaultdict(list)
        for relation in records.plain(_RELATED):
            pair = relation.ref(2), relation.ref(3)
            for one, other in (pair, pair[::-1]):
                if other not in owned:
                    self._related[one].append(other)
        self._usages = graph.uses

    def items(self, definition: int) -> list[ListedItem]:
        """Everything listed in the shape of a product definition, mapped items followed."""
        items: list[ListedItem] = []
        for representation in self.representations(definition):
            self._collect(representation, None, items, 0)
        return items

    def representations(self, definition: int) -> list[int]:
        """The representations that a product's shape is spread over, its own first."""
        if definition not in self._own:
            return []
        representations, stack = [], [self._own[definition]]
        while stack:
            number = stack.pop(0)
            if number not in representations:
                representations.append(number)
                stack += self._related[number]
        return representations

    def has_shape(self, definition: int) -> bool:
        """Whether the records give a product definition any shape."""
        return definition in self._own

    def _collect(
        self, representation: int, placement: Matrix | None, items: list[ListedItem], depth: int
    ) -> None:
        record = self.records.get(representation)
        if record is None or depth > _DEEPEST:
            return
        context = _context_of(record)
        for number in _items_of(record):
            item = self.records.get(number)
            if item is None or item.keyword in _NO_SHAPE:
                continue
            if item.keyword == "MAPPED_ITEM":
                mapping = self.records.get(item.ref(1))
                move = self._mapped(mapping, item.ref(2), context) if mapping is not None else None
                if mapping is not None and move is not None:
                    whole = move if placement is None else placement @ move
                    self._collect(mapping.ref(1), whole, items, depth + 1)
            else:
                keyword = item.keyword or next(iter(item.parts), "")
                items.append(ListedItem(number, keyword, context, placement))

    def _mapped(self, mapping: Record, target: int, context: int) -> Matrix | None:
        mapped = self.records.get(mapping.ref(1))
        inner = _context_of(mapped) if mapped is not None else context
        origin, there = self.frame(mapping.ref(0), inner), self.frame(target, context)
        return there @ np.linalg.inv(origin) if origin is not None and there is not None else None

    def placements(self, known: Mapping[int, Matrix] | None = None) -> dict[int, Matrix]:
        """The placement of each usage that has one, child to parent, mm.

        Args:
            known: those that are known already.
        """
        placements = dict(known or {})
        if placements.keys() >= self._usages.keys():
            return placements
        for link in self.records.of("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION"):
            shape, relation = self.records.get(link.ref(1)), self.records.get(link.ref(0))
            use = self._usages.get(shape.ref(2)) if shape is not None else None
            if use is None or relation is None or use.record in placements:
                continue
            matrix = self._moved(relation, use.child)
            if matrix is not None:
                placements[use.record] = matrix
        return placements

    def _moved(self, relation: Record, child: int) -> Matrix | None:
        """The transformation of a relationship, from the child's representation to the other."""
        ends = relation.parts.get("REPRESENTATION_RELATIONSHIP", ())
        moved = relation.parts.get(_MOVED, ())
        if len(ends) < 4 or not moved or not isinstance(moved[-1], InstanceReference):
            return None
        first, second = (p.number if isinstance(p, InstanceReference) else 0 for p in ends[2:4])
        operator = self.records.get(moved[-1].number)
        contexts = [_context_of(r) if (r := self.records.get(n)) else 0 for n in (first, second)]
        if operator is None:
            return None
        if operator.keyword == "ITEM_DEFINED_TRANSFORMATION":
            back = self._back(operator.ref(2), contexts[0])
            other = self.frame(operator.ref(3), contexts[1])
            matrix = other @ back if other is not None and back is not None else None
        else:
            matrix = self.frame(operator.number, contexts[1])
        if matrix is None:
            return None
        own = self.representations(child)
        if first not in own and second in own:
            return np.asarray(np.linalg.inv(matrix))
        return matrix

    def _back(self, number: int, context: int) -> Matrix | None:
        """The inverse of a frame; many components are placed from one, so it is worked out once."""
        known = self._inverses.get((number, context))
        if known is None:
            frame = self.frame(number, context)
            if frame is None:
                return None
            known = self._inverses[number, context] = np.asarray(np.linalg.inv(frame), np.float64)
        return known

    def frame(self, number: int, context: int) -> Matrix | None:
        """A placement or transformation operator as a matrix, mm; None when it makes no sense."""
        record = self.records.get(number)
        if record is None:
            return None
        if context not in self._units:
            self._units[context] = context_unit(self.records, context) or 1.0
        unit = self._units[context]
        operator = _operator(record)
        if operator is not None:
            x, y, origin, scale, z = operator
            axes = _base_axes(self._vector(x), self._vector(y), self._vector(z))
            start = self._vector(origin)
            return _matrix(axes * (measure_value(scale) or 1.0), start, unit)
        if record.keyword == "AXIS1_PLACEMENT":
            z_only = self._vector(_at(record, 2))
            axes = _base_axes(None, None, z_only if z_only is not None else np.array([0.0, 0.0, 1.0]))
            return _matrix(axes, self._vector(_at(record, 1)), unit)
        if record.keyword == "CARTESIAN_POINT":
            return _matrix(np.eye(3), self._vector(InstanceReference(number)), unit)
        if record.keyword != "AXIS2_PLACEMENT_3D":
            return None
        start, z_axis = self._vector(_at(record, 1)), self._vector(_at(record, 2))
        x_axis = self._vector(_at(record, 3))
        return _matrix(_axes_along(_key(x_axis), _key(z_axis)), start, unit)

    def _vector(self, value: Parameter) -> Matrix | None:
        record = self.records.get(value.number) if isinstance(value, InstanceReference) else None
        parts = record.parameters[1] if record is not None and len(record.parameters) > 1 else None
        if not isinstance(parts, tuple) or len(parts) != 3:
            return None
        numbers = [measure_value(p) for p in parts]
        return None if None in numbers else np.array(numbers, np.float64)


def _at(record: Record, index: int) -> Parameter:
    return record.parameters[index] if index < len(record.parameters) else None


def _items_of(representation: Record) -> list[int]:
    parameters = representation.parts.get("REPRESENTATION", representation.parameters)
    listed = parameters[1] if len(parameters) > 1 else ()
    return (
        [p.number for p in listed if isinstance(p, InstanceReference)] if isinstance(listed, tuple) else []
    )


def _context_of(representation: Record) -> int:
    parameters = representation.parts.get("REPRESENTATION", representation.parameters)
    last = next((p for p in reversed(parameters) if isinstance(p, InstanceReference)), None)
    return last.number if last is not None else 0


def _operator(record: Record) -> tuple[Parameter, ...] | None:
    """Axis 1, axis 2, origin, scale and axis 3 of a cartesian transformation operator."""
    keyword = "CARTESIAN_TRANSFORMATION_OPERATOR_3D"
    if record.keyword == keyword:
        tail = record.parameters[-5:]
        return tail if len(tail) == 5 else None
    if keyword in record.parts:
        general = record.parts.get("CARTESIAN_TRANSFORMATION_OPERATOR", ())
        last = record.parts[keyword]
        return (*general[:4], last[0] if last else None) if len(general) == 4 else None
    return None


def _base_axes(x: Matrix | None, y: Matrix | None, z: Matrix | None) -> Matrix:
    """Orthonormal axes as columns; a y given beside x and z may make them left-handed.

    Source: ISO 10303-42, base_axis and build_axes.
    """
    ahead = _unit(z) if z is not None else None
    if ahead is None:
        ahead = _unit(np.cross(x, y)) if x is not None and y is not None else np.array([0.0, 0.0, 1.0])
    across = x if x is not None else np.array([1.0, 0.0, 0.0])
    if x is None and abs(ahead[0]) > 1 - 1e-9:
        across = np.array([0.0, 1.0, 0.0])
    across = _unit(across - (across @ ahead) * ahead)
    aside = np.cross(ahead, across)
    if y is not None and float(aside @ y) < 0:
        aside = -aside
    return np.column_stack([across, aside, ahead])


def _key(vector: Matrix | None) -> tuple[float, ...] | None:
    return None if vector is None else tuple(vector.tolist())


@lru_cache(4096)
def _axes_along(x: tuple[float, ...] | None, z: tuple[float, ...] | None) -> Matrix:
    """Axes of a placement; few directions stand for very many components."""
    across, ahead = (None if each is None else np.array(each) for each in (x, z))
    return _base_axes(across, None, ahead if ahead is not None else np.array([0.0, 0.0, 1.0]))


def _unit(vector: Matrix) -> Matrix:
    size = float(np.linalg.norm(vector))
    return vector / size if size > 0 else np.array([1.0, 0.0, 0.0])


def _matrix(axes: Matrix, start: Matrix | None, unit: float) -> Matrix:
    matrix = np.eye(4)
    matrix[:3, :3] = axes
    matrix[:3, 3] = start * unit if start is not None else 0.0
    return matrix
