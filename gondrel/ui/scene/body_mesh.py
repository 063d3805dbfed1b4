"""One body's triangles and edges as VTK draws them, cut into pieces of bearable size."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData, vtkStaticCellLocator

__all__ = ["BodyMesh", "make_lines", "make_surface"]

_PIECE = 5_000
"""Triangles or edge points that are handed to the graphics driver in one frame, about."""


@dataclass(slots=True)
class BodyMesh:
    """One body's triangles, shared by all its placed instances.

    Args:
        pieces: the surface cut into runs of whole faces; piece_starts: first triangle of each.
        lines: the edges, cut likewise; is_closed: whether no inner side can be seen.
    """

    points: np.ndarray
    normals: np.ndarray
    triangles: np.ndarray
    face_starts: np.ndarray
    edge_points: np.ndarray
    edge_starts: np.ndarray
    pieces: list[vtkPolyData]
    piece_starts: list[int]
    lines: list[vtkPolyData]
    chord: float
    bounds: np.ndarray
    is_closed: bool = True
    _locator: vtkStaticCellLocator | None = None

    @classmethod
    def from_bytes(cls, data: bytes, turn: Callable[[], None] = lambda: None) -> BodyMesh:
        """Build from the stored mesh of a body.

        Args:
            turn: called between pieces, so that others have their turn.
        """
        arrays = np.load(io.BytesIO(data))
        return cls.from_arrays(**{name: arrays[name] for name in arrays.files}, turn=turn)

    @classmethod
    def from_arrays(
        cls,
        points: np.ndarray,
        normals: np.ndarray,
        triangles: np.ndarray,
        face_starts: np.ndarray,
        edge_points: np.ndarray,
        edge_starts: np.ndarray,
        chord: float | np.ndarray,
        is_closed: bool | np.ndarray = True,
        turn: Callable[[], None] = lambda: None,
    ) -> BodyMesh:
        """Build from the arrays of a mesh, as the kernel side describes them."""
        cuts = _cut_again(_cuts(face_starts))
        pieces = []
        for first, last in pairwise(cuts):
            used, local = np.unique(triangles[first:last], return_inverse=True)
            pieces.append(make_surface(points[used], normals[used], local.reshape(-1, 3)))
            turn()
        lines = []
        ends = _cuts(edge_starts)
        for first, last in pairwise(ends):
            turn()
            inside = (edge_starts >= first) & (edge_starts <= last)
            lines.append(make_lines(edge_points[first:last], edge_starts[inside] - first))
        spread = [part for part in (points, edge_points) if len(part)]
        bounds = np.zeros((2, 3))
        if spread:
            ends_of = [(part.min(axis=0), part.max(axis=0)) for part in spread]
            bounds[0] = np.min([low for low, _ in ends_of], axis=0)
            bounds[1] = np.max([high for _, high in ends_of], axis=0)
        return cls(
            points, normals, triangles, face_starts, edge_points, edge_starts, pieces,
            [int(c) for c in cuts[:-1]], lines, float(chord), bounds, bool(is_closed),
        )  # fmt: skip

    @property
    def low(self) -> np.ndarray:
        """Least corner of the box."""
        corner: np.ndarray = self.bounds[0]
        return corner

    @property
    def high(self) -> np.ndarray:
        """Greatest corner of the box."""
        corner: np.ndarray = self.bounds[1]
        return corner

    def point_faces(self) -> np.ndarray:
        """(n,) index of the face each node belongs to; nodes are not shared between faces."""
        faces = np.zeros(len(self.points), np.int64)
        owners = np.repeat(np.arange(len(self.face_starts) - 1), np.diff(self.face_starts))
        for corner in range(3):
            faces[self.triangles[:, corner]] = owners
        return faces

    def locator(self) -> vtkStaticCellLocator:
        """A search tree over the triangles, built on first use."""
        if self._locator is None:
            made = vtkStaticCellLocator()
            made.SetDataSet(make_surface(self.points, self.normals, self.triangles))
            made.BuildLocator()
            self._locator = made
        return self._locator

    def triangles_of(self, face: int) -> np.ndarray:
        """The triangles of a face, (n, 3), into points."""
        triangles: np.ndarray = self.triangles[self.face_starts[face] : self.face_starts[face + 1]]
        return triangles

    def line_of(self, edge: int) -> np.ndarray:
        """Points along an edge, (n, 3), mm, in the body's frame."""
        line: np.ndarray = self.edge_points[self.edge_starts[edge] : self.edge_starts[edge + 1]]
        return line

    def face_of(self, cell: int) -> int:
        """Index of the face a triangle belongs to."""
        return int(np.searchsorted(self.face_starts, cell, side="right")) - 1


def _cuts(starts: np.ndarray) -> list[int]:
    """Where to cut a run of whole faces or edges so that pieces stay near the wanted size."""
    total = int(starts[-1]) if len(starts) else 0
    wanted = np.arange(0, max(total, 1), _PIECE)
    cuts = starts[np.searchsorted(starts, wanted)] if len(starts) else wanted
    return list(dict.fromkeys([*(int(x) for x in cuts), total])) if total else [0, 0]


def _cut_again(cuts: list[int]) -> list[int]:
    """Cuts through faces that are themselves too large: a mesh of a million facets is one face."""
    merged = [cuts[0]]
    for first, last in pairwise(cuts):
        pieces = max(1, round((last - first) / (2 * _PIECE)))
        merged += [first + (last - first) * i // pieces for i in range(1, pieces + 1)]
    return merged


def make_surface(points: np.ndarray, normals: np.ndarray, triangles: np.ndarray) -> vtkPolyData:
    """Triangles with normals at their corners as VTK draws them."""
    surface = _poly(points, _cells(triangles))
    surface.GetPointData().SetNormals(numpy_to_vtk(normals, deep=True))
    return surface


def make_lines(points: np.ndarray, starts: np.ndarray) -> vtkPolyData:
    """Polylines as VTK draws them; line i is points[starts[i]:starts[i + 1]]."""
    lines = vtkPolyData()
    line_points = vtkPoints()
    line_points.SetData(numpy_to_vtk(points, deep=True))
    lines.SetPoints(line_points)
    lines.SetLines(_polylines(starts))
    return lines


def _cells(triangles: np.ndarray) -> vtkCellArray:
    cells = vtkCellArray()
    offsets = np.arange(0, 3 * len(triangles) + 1, 3, dtype=np.int64)
    cells.SetData(
        numpy_to_vtkIdTypeArray(offsets, deep=True),
        numpy_to_vtkIdTypeArray(triangles.astype(np.int64).ravel(), deep=True),
    )
    return cells


def _polylines(starts: np.ndarray) -> vtkCellArray:
    lengths = np.diff(starts)
    keep = lengths >= 2
    offsets = np.concatenate([[0], np.cumsum(lengths[keep])]).astype(np.int64)
    kept = np.repeat(keep, lengths)
    connectivity = np.flatnonzero(kept) + (starts[0] if len(starts) else 0)
    cells = vtkCellArray()
    cells.SetData(
        numpy_to_vtkIdTypeArray(offsets, deep=True),
        numpy_to_vtkIdTypeArray(connectivity.astype(np.int64), deep=True),
    )
    return cells


def _poly(points: np.ndarray, cells: vtkCellArray) -> vtkPolyData:
    data = vtkPolyData()
    vtk_points = vtkPoints()
    vtk_points.SetData(numpy_to_vtk(points, deep=True))
    data.SetPoints(vtk_points)
    data.SetPolys(cells)
    return data
