"""Whether a boundary's geometry lies on its geometry: vertices on curves, curves on surfaces, loops on
the right side."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.gp import gp_Pnt
from OCP.ShapeAnalysis import ShapeAnalysis_Surface

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.convert.boundary_in import BoundaryEdges
from gondrel.core.kernel.convert.boundary_out import EXACT
from gondrel.core.kernel.convert.geometry_in import CurveMaker
from gondrel.core.model.boundary import Loop
from gondrel.core.model.geometry import Plane

__all__ = ["find_incidence"]

_SAMPLES = 9
_ALLOWED = 1.5
"""Share of a tolerance above which a distance is told."""


def find_incidence(edges: BoundaryEdges) -> Iterator[tuple[str, str, str, int]]:
    """What lies off: a code, a sentence, and what it concerns ("edge" or "face") by its number.

    Args:
        edges: the edges of the boundary, which making it then need not make again.

    Distances are held against the edge's tolerance, else the format's linear resolution.
    """
    with kernel_call("looking at a body's geometry"):
        yield from _Looker(edges).look()


class _Looker:
    def __init__(self, edges: BoundaryEdges) -> None:
        self.boundary = edges.boundary
        self.edges = edges
        self.points: dict[int, np.ndarray] = {}  # type: ignore[type-arg]

    def look(self) -> Iterator[tuple[str, str, str, int]]:
        for number, edge in enumerate(self.boundary.edges):
            try:
                self._sample(number)
            except KernelRefused as error:
                yield "edge-senseless", error.message, "edge", number
                continue
            allowed = max(edge.tolerance or 0.0, EXACT) * _ALLOWED
            for vertex, at in ((edge.start, 0), (edge.end, -1)):
                if vertex is None:
                    continue
                given = self.boundary.vertices[vertex]
                gap = float(np.linalg.norm(self.points[number][at] - np.array(given.point)))
                if gap > max(allowed, (given.tolerance or 0.0) * _ALLOWED):
                    yield "vertex-off-edge", f"a vertex lies {gap:.2g} mm off its edge", "edge", number
        for number, face in enumerate(self.boundary.faces):
            yield from self._face(number, face.loops)

    def _sample(self, number: int) -> None:
        edge = self.edges.edge(number)
        curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
        first, last = BRep_Tool.Range_s(edge)
        values = [curve.Value(float(t)) for t in np.linspace(first, last, _SAMPLES)]
        self.points[number] = np.array([(p.X(), p.Y(), p.Z()) for p in values])

    def _face(self, number: int, loops: tuple[Loop, ...]) -> Iterator[tuple[str, str, str, int]]:
        face = self.boundary.faces[number]
        try:
            surface = CurveMaker().surface(face.surface).surface
        except KernelRefused as error:
            yield "surface-senseless", error.message, "face", number
            return
        analysis = ShapeAnalysis_Surface(surface)
        for loop in loops:
            for fin in loop:
                if fin.edge is None or fin.edge not in self.points:
                    continue
                allowed = max(self.boundary.edges[fin.edge].tolerance or 0.0, EXACT) * _ALLOWED
                worst = 0.0
                for x, y, z in self.points[fin.edge].tolist():
                    analysis.ValueOfUV(gp_Pnt(x, y, z), 1e-7)
                    worst = max(worst, analysis.Gap())
                if worst > allowed:
                    yield "edge-off-surface", f"an edge lies {worst:.2g} mm off a surface", "edge", fin.edge
        if isinstance(face.surface, Plane) and loops and self._area(face.surface, face.forward, loops) < 0:
            yield "loop-on-wrong-side", "a plane face lies on the wrong side of its loops", "face", number

    def _area(self, plane: Plane, forward: bool, loops: tuple[Loop, ...]) -> float:
        """Signed area within the loops, seen against the face's normal; polygons through the samples."""
        normal = np.array(plane.normal) * (1.0 if forward != plane.flipped else -1.0)
        total = 0.0
        for loop in loops:
            ring: list[np.ndarray] = []  # type: ignore[type-arg]
            for fin in loop:
                if fin.edge is None or fin.edge not in self.points:
                    return 0.0
                run = self.points[fin.edge] if fin.forward else self.points[fin.edge][::-1]
                ring.extend(run[:-1])
            points = np.array(ring)
            following = np.roll(points, -1, axis=0)
            total += float(np.cross(points - points[0], following - points[0]).sum(axis=0) @ normal) / 2
        return total
