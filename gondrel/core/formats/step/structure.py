"""The structure of a STEP file from its records alone, before any shape is read: products, names, places.

For looking at while the shapes are still being read; what is read then takes its place.

Source: ISO 10303-44 (next_assembly_usage_occurrence), -43 (representation_relationship_with_transformation,
item_defined_transformation), -42 (axis2_placement_3d, build_axes).
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.card import document_definitions
from gondrel.core.formats.step.graph import Graph, OccurrenceFacts
from gondrel.core.formats.step.listed import Shapes
from gondrel.core.formats.step.placed import AXES, NAME, REF
from gondrel.core.formats.step.records import Records
from gondrel.core.formats.step.units import length_units
from gondrel.core.model.product import IDENTITY, Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["boxes_of", "places_of", "structure_of"]

Floats = NDArray[np.float64]
Vector = tuple[float, float, float]

_REFERENCE = re.compile(rb"#(\d+)")
_MOVED = re.compile(rb"REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION\s*\(\s*#(\d+)")
_ENDS = re.compile(
    rb"REPRESENTATION_RELATIONSHIP\s*\([\s']*,[\s'$]*,\s*#(\d+)\s*,\s*#(\d+)"  # its strings are empty
)
_TRIPLE = re.compile(rb"\(\s*([-+.\dEe]+)\s*,\s*([-+.\dEe]+)\s*,\s*([-+.\dEe]+)\s*\)")
_FRAME = "AXIS2_PLACEMENT_3D"
_ENTRY = re.compile(rb"\(\s*" + REF + rb",\s*" + REF + rb"\)")
_OF = re.compile(NAME + rb"(?:'[^']*'|\$)\s*,\s*" + REF + rb"\)")
_PAIR = re.compile(NAME + rb"(?:'[^']*'|\$)\s*,\s*" + REF + rb",\s*" + REF + rb"\)")
_MOST_LOOKED_AT, _MOST_FOLLOWED = 6_000, 60


def structure_of(records: Records, graph: Graph) -> tuple[Model, dict[str, int]]:
    """Products and their places, without any body.

    Returns: the model, and the record of each product's definition by its id.

    Raises:
        MalformedFile: when the records make no sense, or an assembly contains itself.
    """
    documents = document_definitions(records)
    known = [number for number in graph.products if number not in documents]
    ids = {number: f"p{place}" for place, number in enumerate(known, 1)}
    places = _Places(records, graph).placements()
    of: defaultdict[int, list[OccurrenceFacts]] = defaultdict(list)
    for use in graph.uses.values():
        if use.parent in ids and use.child in ids:
            of[use.parent].append(use)
    uses: defaultdict[int, list[Occurrence]] = defaultdict(list)
    ordered = (use for parent in known for use in of[parent])
    for serial, use in enumerate(ordered, 1):  # as whoever reads the file counts them
        placement = places.get(use.record, IDENTITY)
        uses[use.parent].append(Occurrence(f"o{serial}", ids[use.child], use.name, placement))
    products = tuple(
        Product(ids[number], facts.number, facts.name, facts.revision, facts.description,
                occurrences=tuple(uses[number]))
        for number, facts in ((number, graph.products[number]) for number in known)
    )  # fmt: skip
    used = {use.product for product in products for use in product.occurrences}
    roots = tuple(product.id for product in products if product.id not in used)
    model = Model(products, roots)
    model.check_structure()
    return model, {key: number for number, key in ids.items()}


def places_of(records: Records, graph: Graph) -> dict[int, Floats]:
    """The placements of usages that are plainly told, (4, 4) child to parent in mm, by their records.

    Empty where a file has several length units: which of them holds is not looked at here.
    """
    if len(length_units(records)) > 1:
        return {}
    placed = _Places(records, graph).placements()
    return {number: np.array(matrix).reshape(4, 4) for number, matrix in placed.items()}


def _vector(match: re.Match[bytes]) -> Vector:
    x, y, z = (float(part) for part in match.groups())
    return x, y, z


def _unit_of(records: Records) -> float:
    """The length unit that most of a file is in, mm; a millimetre where it names none."""
    units = length_units(records)
    return units.most_common(1)[0][0].mm if units else 1.0


class _Places:
    """Placements of usages, read in bulk."""

    def __init__(self, records: Records, graph: Graph) -> None:
        self.records, self.graph = records, graph
        self.unit = _unit_of(records)
        self._frames: dict[int, int] = {}
        self._axes: dict[int, tuple[int, ...]] = {}
        self._triples: dict[int, Vector | None] = {}
        self._rows: list[tuple[Vector, Vector, Vector]] = []

    def placements(self) -> dict[int, tuple[float, ...]]:
        """Child to parent, mm, by the record of the usage; those that are not plainly told are left out."""
        records, uses = self.records, self.graph.uses
        used = {n: int(m[1]) for n, m in records.matches("PRODUCT_DEFINITION_SHAPE", _OF)}
        moved_by = {
            n: (int(m[1]), int(m[2])) for n, m in records.matches("ITEM_DEFINED_TRANSFORMATION", _PAIR)
        }
        self._axes = {
            n: tuple(int(part or 0) for part in m.groups()) for n, m in records.matches(_FRAME, AXES)
        }
        own: dict[int, int] = {}
        for _, match in records.matches("SHAPE_DEFINITION_REPRESENTATION", _ENTRY):
            own.setdefault(used.get(int(match[1]), 0), int(match[2]))
        numbers, children, moved = [], [], []
        for _, match in records.matches("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION", _ENTRY):
            use = uses.get(used.get(int(match[2]), 0))
            text = records.text_of(int(match[1])) if use is not None else b""
            operator, ends = _MOVED.search(text), _ENDS.search(text)
            pair = moved_by.get(int(operator[1])) if operator is not None else None
            if use is None or ends is None or pair is None or not self._axes.keys() >= set(pair):
                continue
            numbers.append(use.record)
            children.append(own.get(use.child) != int(ends[1]) and own.get(use.child) == int(ends[2]))
            moved.append((self._frame(pair[0]), self._frame(pair[1])))
        return self._composed(numbers, np.array(children, bool), np.array(moved, np.int64).reshape(-1, 2))

    def _composed(
        self, numbers: list[int], turned: NDArray[np.bool_], moved: NDArray[np.int64]
    ) -> dict[int, tuple[float, ...]]:
        if not numbers:
            return {}
        frames = self._matrices()
        one, other = frames[moved[:, 0]], frames[moved[:, 1]]
        matrices = other @ np.linalg.inv(one)
        matrices[turned] = np.linalg.inv(matrices[turned])
        rows = matrices.reshape(-1, 16)
        sound: NDArray[np.bool_] = np.asarray(np.isfinite(rows).all(axis=1))
        sane = np.flatnonzero(sound).tolist()
        return {numbers[place]: tuple(rows[place].tolist()) for place in sane}

    def _frame(self, number: int) -> int:
        """The place of an axis placement among the rows, each read once."""
        if number not in self._frames:
            self._frames[number] = len(self._rows)
            at, z, x = self._axes[number]
            self._rows.append(
                (self._triple(at, (0, 0, 0)), self._triple(z, (0, 0, 1)), self._triple(x, (1, 0, 0)))
            )
        return self._frames[number]

    def _triple(self, number: int, default: Vector) -> Vector:
        if number not in self._triples:
            match = _TRIPLE.search(self.records.text_of(number)) if number else None
            self._triples[number] = _vector(match) if match is not None else None
        return self._triples[number] or default

    def _matrices(self) -> Floats:
        """(n, 4, 4) of the axis placements that were read, mm."""
        rows = np.array(self._rows).reshape(-1, 3, 3)
        start, ahead, across = rows[:, 0], rows[:, 1], rows[:, 2]
        ahead = ahead / np.maximum(np.linalg.norm(ahead, axis=1), 1e-300)[:, None]
        beside = np.abs((across * ahead).sum(axis=1)) > (1 - 1e-9) * np.linalg.norm(across, axis=1)
        across = np.where(
            beside[:, None], np.where(np.abs(ahead[:, :1]) > 0.9, [[0.0, 1, 0]], [[1.0, 0, 0]]), across
        )
        across = across - (across * ahead).sum(axis=1)[:, None] * ahead
        across = across / np.maximum(np.linalg.norm(across, axis=1), 1e-300)[:, None]
        frames = np.tile(np.eye(4), (len(rows), 1, 1))
        frames[:, :3, 0], frames[:, :3, 1], frames[:, :3, 2] = across, np.cross(ahead, across), ahead
        frames[:, :3, 3] = start * self.unit
        return frames


def boxes_of(
    records: Records, graph: Graph, definitions: dict[str, int]
) -> Iterator[tuple[str, tuple[float, ...]]]:
    """The box of points that each product's shape rests on, xmin to zmax in mm, by product id.

    Of a large shape some faces are looked at, and a curved one may reach beyond its points: it is for
    looking at only.
    """
    shapes, unit = Shapes(records, graph), _unit_of(records)
    for key, definition in definitions.items():
        points = _points_beneath(records, [item.number for item in shapes.items(definition)])
        if len(points):
            spread = points * unit
            yield key, (*spread.min(axis=0).tolist(), *spread.max(axis=0).tolist())


def _points_beneath(records: Records, items: list[int]) -> Floats:
    """Cartesian points that some records rest on, (n, 3) in the file's unit; of long lists some members."""
    seen, stack, points = set(items), list(items), []
    while stack and len(seen) < _MOST_LOOKED_AT:
        text = records.text_of(stack.pop())
        if text.startswith(b"CARTESIAN_POINT"):
            match = _TRIPLE.search(text)
            if match is not None:
                points.append([float(v) for v in match.groups()])
            continue
        found = [int(n) for n in _REFERENCE.findall(text)]
        for number in found[:: max(1, len(found) // _MOST_FOLLOWED)]:
            if number not in seen:
                seen.add(number)
                stack.append(number)
    return np.array(points).reshape(-1, 3)
