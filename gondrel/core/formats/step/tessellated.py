"""Tessellated items of a STEP file as mesh bodies.

Source: ISO 10303-42 edition 4 and later, tessellated_geometry: coordinates_list, triangulated_face and
triangulated_surface_set (triangles), their complex forms (strips and fans), tessellated_solid and shell.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import InstanceReference, Parameter
from gondrel.core.model.facets import Facets, welded

__all__ = ["facets_of"]

_PLAIN = ("TRIANGULATED_FACE", "TRIANGULATED_SURFACE_SET")
_COMPLEX = ("COMPLEX_TRIANGULATED_FACE", "COMPLEX_TRIANGULATED_SURFACE_SET")
_GATHERED = ("TESSELLATED_SOLID", "TESSELLATED_SHELL", "TESSELLATED_GEOMETRIC_SET")
_DEEPEST = 4


def facets_of(records: Records, number: int, unit: float) -> Facets | None:
    """The triangles of a tessellated item, None for one of another kind or without any.

    Args:
        unit: millimetres in the unit of its coordinates.
    """
    pieces = list(_pieces(records, number, 0))
    if not pieces:
        return None
    mesh = welded(np.concatenate(pieces) * unit, 0.0)
    groups = np.repeat(np.arange(len(pieces), dtype=np.int32), [len(piece) for piece in pieces])
    return Facets(mesh.points, mesh.triangles, groups) if len(mesh.triangles) == len(groups) else mesh


def _pieces(records: Records, number: int, depth: int) -> Iterator[NDArray[np.float64]]:
    """The corners of the triangles of each face, (n, 3, 3)."""
    record = records.get(number)
    if record is None or depth > _DEEPEST:
        return
    if record.keyword in _GATHERED:
        for inner in record.refs(1):
            yield from _pieces(records, inner, depth + 1)
    elif record.keyword in (*_PLAIN, *_COMPLEX):
        corners = _corners(records, record)
        if len(corners):
            yield corners


def _corners(records: Records, record: Record) -> NDArray[np.float64]:
    parameters = record.parameters
    first = parameters[1] if len(parameters) > 1 else None
    listed = records.get(first.number) if isinstance(first, InstanceReference) else None
    points = _rows(listed.parameters[-1]) if listed is not None and listed.parameters else []
    if len(parameters) < 5 or not points:
        return np.zeros((0, 3, 3))
    # After the coordinates: pnmax, normals, [geometric_link of a face,] pnindex, then the triangles.
    indices = 4 if record.keyword.endswith("_SET") else 5
    renamed = [int(v) for v in _flat(parameters[indices])] if len(parameters) > indices else []
    lists = parameters[indices + 1 :]
    if record.keyword in _PLAIN:
        triangles = [tuple(int(v) for v in row) for row in _rows(lists[0] if lists else None)]
    else:
        triangles = [t for strip in _rows(lists[0] if lists else None) for t in _of_strip(strip)]
        triangles += [t for fan in _rows(lists[1] if len(lists) > 1 else None) for t in _of_fan(fan)]
    places = [[renamed[i - 1] if 0 < i <= len(renamed) else i for i in t] for t in triangles if len(t) == 3]
    table = np.array([p for p in points if len(p) == 3], np.float64)
    chosen = np.array([p for p in places if all(0 < i <= len(table) for i in p)], np.int64).reshape(-1, 3)
    return np.asarray(table[chosen - 1], np.float64)


def _of_strip(strip: list[float]) -> Iterator[tuple[int, ...]]:
    for place in range(len(strip) - 2):
        a, b, c = (int(v) for v in strip[place : place + 3])
        yield (a, b, c) if place % 2 == 0 else (a, c, b)


def _of_fan(fan: list[float]) -> Iterator[tuple[int, ...]]:
    for place in range(1, len(fan) - 1):
        yield int(fan[0]), int(fan[place]), int(fan[place + 1])


def _flat(value: Parameter) -> list[float]:
    return [float(v) for v in value if isinstance(v, int | float)] if isinstance(value, tuple) else []


def _rows(value: Parameter) -> list[list[float]]:
    return [_flat(row) for row in value] if isinstance(value, tuple) else []
