"""Nodes as plain curves and surfaces, in millimetres."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from gondrel.core.errors import MalformedFile, UnsupportedContent
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.formats.xt.parameters import from_xt
from gondrel.core.formats.xt.schema import MM_PER_METRE
from gondrel.core.model.geometry import (
    BCurve,
    Blend,
    BlendBound,
    BSurface,
    Circle,
    Cone,
    Curve,
    Cylinder,
    Ellipse,
    Intersection,
    Line,
    Offset,
    OnSurface,
    Plane,
    Sphere,
    Spun,
    Surface,
    Swept,
    Torus,
    Trimmed,
    Vector,
)

__all__ = ["GeometryReader"]

_DEEPEST = 40


class GeometryReader:
    """Makes plain geometry of nodes, each once.

    Its errors name the node they were found in.
    """

    def __init__(self, document: Document) -> None:
        self.document = document
        self._made: dict[int, Any] = {}
        self._open: list[int] = []

    # --- values ----------------------------------------------------------------------------

    def fail(self, node: Node, why: str) -> MalformedFile:
        """The error about a node."""
        return MalformedFile(why, where=f"{node.kind} {node.index}")

    def node(self, owner: Node, field: str, *, which: int | None = None) -> Node:
        """The node a pointer leads to. Raises MalformedFile for none."""
        value = owner[field]
        index = value if which is None else value[which]
        target = self.document.at(index)
        if target is None:
            raise self.fail(owner, f"its {field} leads to no node ({index})")
        return target

    def vector(self, node: Node, field: str) -> Vector:
        """A point in mm, or three pure numbers. Raises MalformedFile when it is null or not finite."""
        value = node.in_mm(field)
        if value is None or len(value) != 3 or not all(math.isfinite(v) for v in value):
            raise self.fail(node, f"its {field} is no vector")
        return value[0], value[1], value[2]

    def real(self, node: Node, field: str) -> float:
        """A length in mm, or a pure number, as the field has it. Raises MalformedFile when null or not
        finite."""
        value = node.in_mm(field)
        if value is None or not math.isfinite(value):
            raise self.fail(node, f"its {field} is no number")
        return float(value)

    @contextmanager
    def _opened(self, node: Node) -> Iterator[None]:
        if node.index in self._open:
            raise self.fail(node, "it is made from itself")
        if len(self._open) > _DEEPEST:
            raise self.fail(node, "geometry is nested too deeply")
        self._open.append(node.index)
        try:
            yield
        finally:
            self._open.pop()

    def _make(self, node: Node, table: dict[str, Callable[..., Any]], what: str) -> Any:
        if node.index not in self._made:
            make = table.get(node.kind)
            if make is None:
                raise UnsupportedContent(
                    f"{node.kind} is no {what} that is read", where=f"{node.kind} {node.index}"
                )
            with self._opened(node):
                self._made[node.index] = make(self, node)
        return self._made[node.index]

    # --- curves ----------------------------------------------------------------------------

    def curve(self, node: Node) -> Curve:
        """The curve of a node. Raises MalformedFile, UnsupportedContent."""
        made: Curve = self._make(node, _CURVES, "curve")
        return made

    def _line(self, node: Node) -> Line:
        return Line(self.vector(node, "pvec"), self.vector(node, "direction"), _flipped(node))

    def _circle(self, node: Node) -> Circle:
        return Circle(
            self.vector(node, "centre"), self.vector(node, "normal"), self.vector(node, "x_axis"),
            self.real(node, "radius"), _flipped(node),
        )  # fmt: skip

    def _ellipse(self, node: Node) -> Ellipse:
        return Ellipse(
            self.vector(node, "centre"), self.vector(node, "normal"), self.vector(node, "x_axis"),
            self.real(node, "major_radius"), self.real(node, "minor_radius"), _flipped(node),
        )  # fmt: skip

    def _b_curve(self, node: Node) -> BCurve:
        return self._nurbs_curve(self.node(node, "nurbs"), MM_PER_METRE, _flipped(node))

    def _nurbs_curve(self, node: Node, scale: float, flipped: bool) -> BCurve:
        rational = node["rational"] == "T"
        size, count = int(node["vertex_dim"]), int(node["n_vertices"])
        poles, weights = self._poles(node, size, count, rational, scale)
        knots = self.numbers(self.node(node, "knots"), "knots")
        mults = self.numbers(self.node(node, "knot_mult"), "mult")
        periodic = node["periodic"] == "T"
        return BCurve(
            int(node["degree"]),
            poles,
            weights,
            tuple(knots),
            tuple(int(m) for m in mults),
            periodic,
            flipped,
        )

    def numbers(self, node: Node, field: str) -> list[float]:
        """A list of numbers. Raises MalformedFile when one is null or not finite."""
        values: list[float] = node[field]
        if not all(v is not None and math.isfinite(v) for v in values):
            raise self.fail(node, f"one of its {field} is no number")
        return values

    def _poles(
        self, node: Node, size: int, count: int, rational: bool, scale: float
    ) -> tuple[tuple[tuple[float, ...], ...], tuple[float, ...]]:
        flat = self.numbers(self.node(node, "bspline_vertices"), "vertices")
        if size not in (2, 3, 4) or count < 2 or len(flat) != size * count:
            raise self.fail(node, f"{len(flat)} numbers are not {count} poles of {size}")
        if not rational:
            rows = (flat[i : i + size] for i in range(0, len(flat), size))
            return tuple(tuple(v * scale for v in row) for row in rows), ()
        poles, weights = [], []
        for at in range(0, len(flat), size):
            weight = flat[at + size - 1]
            if not weight > 0:
                raise self.fail(node, f"a pole has the weight {weight:g}")
            poles.append(tuple(v * scale / weight for v in flat[at : at + size - 1]))
            weights.append(weight)
        return tuple(poles), tuple(weights)

    def _intersection(self, node: Node) -> Intersection:
        first, second = (self.surface(self.node(node, "surface", which=i)) for i in (0, 1))
        chart = self.node(node, "chart")
        points = [p for p in chart.in_mm("hvec") if p is not None]
        if len(points) != len(chart["hvec"]) or not all(math.isfinite(v) for p in points for v in p):
            raise self.fail(chart, "one of its points is null")
        ends = [self.document.at(node[side]) for side in ("start", "end")]
        closed = bool(ends[0] is not None and ends[0].get("type") == "H")
        if len(points) > 2 and math.dist(points[0], points[-1]) < 1e-8:
            closed = True
        error = chart.in_mm("chordal_error") or 0.0
        return Intersection(first, second, tuple(points), closed, error, _flipped(node))

    def _trimmed(self, node: Node) -> Trimmed:
        return Trimmed(
            self.curve(self.node(node, "basis_curve")), self.vector(node, "point_1"),
            self.vector(node, "point_2"), self.real(node, "parm_1"), self.real(node, "parm_2"),
            _flipped(node),
        )  # fmt: skip

    def _on_surface(self, node: Node) -> OnSurface:
        surface = self.surface(self.node(node, "surface"))
        flat = self.node(self.node(node, "b_curve"), "nurbs")
        kept = self.document.at(node["original"])
        original = self.curve(kept) if kept is not None else None
        curve = from_xt(self._nurbs_curve(flat, 1.0, False), surface)
        return OnSurface(surface, curve, _flipped(node), original)

    # --- surfaces --------------------------------------------------------------------------

    def surface(self, node: Node) -> Surface:
        """The surface of a node. Raises MalformedFile, UnsupportedContent."""
        made: Surface = self._make(node, _SURFACES, "surface")
        return made

    def _plane(self, node: Node) -> Plane:
        return Plane(
            self.vector(node, "pvec"), self.vector(node, "normal"), self.vector(node, "x_axis"),
            _flipped(node),
        )  # fmt: skip

    def _cylinder(self, node: Node) -> Cylinder:
        return Cylinder(
            self.vector(node, "pvec"), self.vector(node, "axis"), self.vector(node, "x_axis"),
            self.real(node, "radius"), _flipped(node),
        )  # fmt: skip

    def _cone(self, node: Node) -> Cone:
        angle = math.atan2(self.real(node, "sin_half_angle"), self.real(node, "cos_half_angle"))
        return Cone(
            self.vector(node, "pvec"), self.vector(node, "axis"), self.vector(node, "x_axis"),
            self.real(node, "radius"), angle, _flipped(node),
        )  # fmt: skip

    def _sphere(self, node: Node) -> Sphere:
        return Sphere(
            self.vector(node, "centre"), self.vector(node, "axis"), self.vector(node, "x_axis"),
            self.real(node, "radius"), _flipped(node),
        )  # fmt: skip

    def _torus(self, node: Node) -> Torus:
        return Torus(
            self.vector(node, "centre"), self.vector(node, "axis"), self.vector(node, "x_axis"),
            self.real(node, "major_radius"), self.real(node, "minor_radius"), _flipped(node),
        )  # fmt: skip

    def _b_surface(self, node: Node) -> BSurface:
        inner = self.node(node, "nurbs")
        rows, columns = int(inner["n_u_vertices"]), int(inner["n_v_vertices"])
        rational = inner["rational"] == "T"
        if rows < 2 or columns < 2 or int(inner["vertex_dim"]) != 3 + rational:
            raise self.fail(inner, f"{rows} by {columns} poles of {inner['vertex_dim']} make no surface")
        poles, weights = self._poles(
            inner, int(inner["vertex_dim"]), rows * columns, rational, MM_PER_METRE
        )
        knots = [tuple(self.numbers(self.node(inner, f), "knots")) for f in ("u_knots", "v_knots")]
        mults = [
            tuple(int(m) for m in self.numbers(self.node(inner, f), "mult"))
            for f in ("u_knot_mult", "v_knot_mult")
        ]
        grid: Any = tuple(poles[i : i + columns] for i in range(0, len(poles), columns))
        held = tuple(weights[i : i + columns] for i in range(0, len(weights), columns))
        return BSurface(
            int(inner["u_degree"]), int(inner["v_degree"]), grid, held, knots[0], mults[0],
            knots[1], mults[1],
            inner["u_periodic"] == "T", inner["v_periodic"] == "T", _flipped(node),
        )  # fmt: skip

    def _offset(self, node: Node) -> Offset:
        return Offset(self.surface(self.node(node, "surface")), self.real(node, "offset"), _flipped(node))

    def _swept(self, node: Node) -> Swept:
        return Swept(self.curve(self.node(node, "section")), self.vector(node, "sweep"), _flipped(node))

    def _spun(self, node: Node) -> Spun:
        return Spun(
            self.curve(self.node(node, "profile")), self.vector(node, "base"), self.vector(node, "axis"),
            _flipped(node),
        )  # fmt: skip

    def _blend(self, node: Node) -> Blend:
        if node["type"] != "R":
            raise UnsupportedContent(
                f"a blend of type {node['type']!r} is not read, only rolling balls",
                where=f"{node.kind} {node.index}",
            )
        ranges = node.in_mm("range")
        if None in ranges or abs(abs(ranges[0]) - abs(ranges[1])) > 1e-6 or not abs(ranges[0]) > 0:
            raise UnsupportedContent(
                "a blend of unequal ranges is not read", where=f"{node.kind} {node.index}"
            )
        first, second = (self.surface(self.node(node, "surface", which=i)) for i in (0, 1))
        spine = self.curve(self.node(node, "spine"))
        return Blend(first, second, spine, abs(ranges[0]), (ranges[0], ranges[1]), _flipped(node))

    def _bound(self, node: Node) -> BlendBound:
        blend = self.surface(self.node(node, "blend"))
        if not isinstance(blend, Blend):
            raise self.fail(node, "it bounds no blend")
        return BlendBound(blend, int(bool(node["boundary"])), _flipped(node))


def _flipped(node: Node) -> bool:
    return bool(node["sense"] == "-")


_CURVES: dict[str, Callable[..., Any]] = {
    "LINE": GeometryReader._line,
    "CIRCLE": GeometryReader._circle,
    "ELLIPSE": GeometryReader._ellipse,
    "B_CURVE": GeometryReader._b_curve,
    "INTERSECTION": GeometryReader._intersection,
    "TRIMMED_CURVE": GeometryReader._trimmed,
    "SP_CURVE": GeometryReader._on_surface,
}
_SURFACES: dict[str, Callable[..., Any]] = {
    "PLANE": GeometryReader._plane,
    "CYLINDER": GeometryReader._cylinder,
    "CONE": GeometryReader._cone,
    "SPHERE": GeometryReader._sphere,
    "TORUS": GeometryReader._torus,
    "B_SURFACE": GeometryReader._b_surface,
    "OFFSET_SURF": GeometryReader._offset,
    "SWEPT_SURF": GeometryReader._swept,
    "SPUN_SURF": GeometryReader._spun,
    "BLENDED_EDGE": GeometryReader._blend,
    "BLEND_BOUND": GeometryReader._bound,
}
