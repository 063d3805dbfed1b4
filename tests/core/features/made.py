"""Solids with known features, made by the kernel."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from gondrel.core.kernel.base.shape import edges_of, faces_of

Sizes = dict[str, float]
Part = tuple[str, Callable[[], TopoDS_Shape], list[tuple[str, Sizes]]]

Z = (0.0, 0.0, 1.0)


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> TopoDS_Shape:
    return BRepPrimAPI_MakeBox(gp_Pnt(*at), x, y, z).Shape()


def rod(r: float, h: float, at: tuple[float, ...] = (0, 0, 0), way: tuple[float, ...] = Z) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*way)), r, h).Shape()


def cone(r1: float, r2: float, h: float, at: tuple[float, ...], way: tuple[float, ...] = Z) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(*at), gp_Dir(*way)), r1, r2, h).Shape()


def cut(shape: TopoDS_Shape, *tools: TopoDS_Shape) -> TopoDS_Shape:
    for tool in tools:
        shape = BRepAlgoAPI_Cut(shape, tool).Shape()
    return shape


def fuse(*shapes: TopoDS_Shape) -> TopoDS_Shape:
    whole = shapes[0]
    for shape in shapes[1:]:
        made = BRepAlgoAPI_Fuse(whole, shape)
        made.SimplifyResult()
        whole = made.Shape()
    return whole


def lines(shape: TopoDS_Shape, way: int) -> Iterable[TopoDS_Edge]:
    """The straight edges along an axis."""
    for edge in edges_of(shape):
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType().name == "GeomAbs_Line" and abs(curve.Line().Direction().Coord()[way]) > 0.9:
            yield edge


def rounded(shape: TopoDS_Shape, radius: float, edges: Iterable[TopoDS_Edge]) -> TopoDS_Shape:
    maker = BRepFilletAPI_MakeFillet(shape)
    for edge in edges:
        maker.Add(radius, edge)
    return maker.Shape()


def bevelled(shape: TopoDS_Shape, distance: float, edges: Iterable[TopoDS_Edge]) -> TopoDS_Shape:
    maker = BRepFilletAPI_MakeChamfer(shape)
    for edge in edges:
        maker.Add(distance, edge)
    return maker.Shape()


def rims(shape: TopoDS_Shape, radius: float) -> list[TopoDS_Edge]:
    """The round edges of a radius."""
    found = []
    for edge in edges_of(shape):
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType().name == "GeomAbs_Circle" and abs(curve.Circle().Radius() - radius) < 1e-9:
            found.append(edge)
    return found


def _plate() -> TopoDS_Shape:
    return box(100, 60, 12)


def _slotted(depth: float) -> TopoDS_Shape:
    low = 12 - depth
    tool = fuse(rod(5, 40, (30, 30, low)), rod(5, 40, (60, 30, low)), box(30, 10, 40, (30, 25, low)))
    return cut(_plate(), tool)


def _bolt_circle(count: int) -> TopoDS_Shape:
    turns = [2 * math.pi * k / count for k in range(count)]
    tools = [rod(3, 40, (40 + 25 * math.cos(t), 40 + 25 * math.sin(t), -5)) for t in turns]
    return cut(box(80, 80, 10), *tools)


def _channel() -> TopoDS_Shape:
    return cut(box(60, 40, 40), box(80, 30, 40, (-10, 5, 10)))


def _prism(sides: int, across: float, height: float) -> TopoDS_Shape:
    """A regular prism about Z, of a width between two sides."""
    reach = across / 2 / math.cos(math.pi / sides)
    outline = BRepBuilderAPI_MakePolygon()
    for k in range(sides):
        turn = 2 * math.pi * (k + 0.5) / sides
        outline.Add(gp_Pnt(reach * math.cos(turn), reach * math.sin(turn), 0))
    outline.Close()
    face = BRepBuilderAPI_MakeFace(outline.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, height)).Shape()


def _uneven_chamfer() -> TopoDS_Shape:
    maker = BRepFilletAPI_MakeChamfer(_plate_kept)
    edge = next(iter(lines(_plate_kept, 2)))
    face = next(f for f in faces_of(_plate_kept) if any(e.IsSame(edge) for e in edges_of(f)))
    maker.Add(1, 2, edge, face)
    return maker.Shape()


def _base_rim(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    """The round edges that lie lowest."""
    found = rims(shape, 8)
    heights = [BRepAdaptor_Curve(edge).Circle().Location().Z() for edge in found]
    return [edge for edge, height in zip(found, heights, strict=True) if height < min(heights) + 1e-6]


def _hole(d: float, depth: float, **more: float) -> tuple[str, Sizes]:
    return "hole", {"diameter": d, "depth": depth, **more}


def _core(nominal: float, pitch: float) -> float:
    """The core of an inner thread: five eighths of the height of the triangle of ISO 68-1 on each side."""
    return nominal - 2 * 5 / 8 * math.sqrt(3) / 2 * pitch


PARTS: list[Part] = [
    ("bore with a keyway", lambda: cut(rod(30, 20), rod(12, 40, (0, 0, -5)), box(15, 8, 40, (0, -4, -5))), [
     _hole(24, 20)]),
    ("bore with two keyways", lambda: cut(box(60, 60, 20, (-30, -30, 0)), rod(12, 40, (0, 0, -5)),
     box(30, 8, 40, (-15, -4, -5))), [_hole(24, 20)]),
    ("less than half a bore", lambda: cut(box(60, 60, 20, (-30, -30, 0)), rod(12, 40, (0, -31, -5))), []),
    ("through hole", lambda: cut(_plate(), rod(4, 40, (20, 20, -5))), [_hole(8, 12)]),
    ("blind flat hole", lambda: cut(_plate(), rod(4, 40, (20, 20, 5))), [_hole(8, 7)]),
    ("blind hole with point", lambda: cut(_plate(), rod(3, 40, (20, 20, 6)), cone(3, 0,
     3 / math.tan(math.radians(59)), (20, 20, 6), (0, 0, -1))),
     [_hole(6, 6, point_angle=118)]),
    ("slanting hole", lambda: cut(_plate(), rod(4, 80, (50, 30, -20), (0, 0.3, 1))), [("hole",
     {"diameter": 8})]),
    ("crossing holes", lambda: cut(box(40, 40, 40), rod(5, 60, (20, 20, -5)), rod(4, 60, (-5, 20, 20), (1,
     0, 0))),
     [("hole", {"diameter": 10}), ("hole", {"diameter": 8})]),
    ("counterbore", lambda: cut(_plate(), rod(3.3, 40, (50, 30, -5)), rod(5.5, 40, (50, 30, 6))),
     [("counterbore", {"diameter": 6.6, "depth": 12, "counterbore_diameter": 11, "counterbore_depth": 6})]),
    ("counterbore from below", lambda: cut(_plate(), rod(3.3, 40, (50, 30, -5)), rod(5.5, 9, (50, 30, -5))),
     [("counterbore", {"diameter": 6.6, "counterbore_diameter": 11, "counterbore_depth": 4})]),
    ("countersink", lambda: cut(_plate(), rod(3, 40, (50, 30, -5)), cone(3, 6, 3, (50, 30, 9))),
     [("countersink", {"diameter": 6, "countersink_diameter": 12, "countersink_angle": 90})]),
    ("stepped hole", lambda: cut(box(50, 50, 40), rod(3, 60, (25, 25, -5)), rod(6, 60, (25, 25, 15)),
     rod(9, 60, (25, 25, 30))),
     [("hole", {"diameter": 6, "steps": 3})]),
    ("row of holes", lambda: cut(_plate(), *(rod(2.5, 40, (20 + 15 * k, 30, -5)) for k in range(5))),
     [_hole(5, 12)] * 5 + [("pattern", {"count": 5, "pitch": 15})]),
    ("grid of holes", lambda: cut(_plate(), *(rod(2, 40, (20 + 20 * x, 15 + 10 * y,
     -5)) for x in range(3) for y in range(3))),
     [_hole(4, 12)] * 9 + [("pattern", {"count": 9, "columns": 3, "rows": 3, "pitch": 10, "pitch2": 20})]),
    ("bolt circle of 6", lambda: _bolt_circle(6), [_hole(6, 10)] * 6 + [("pattern", {"count": 6,
     "pitch_diameter": 50, "angle": 60})]),
    ("upright rounds", lambda: rounded(_plate_kept, 3, lines(_plate_kept, 2)), [("fillet",
     {"radius": 3})] * 4),
    ("all rounds", lambda: rounded(_cube_kept, 2, edges_of(_cube_kept)), [("fillet", {"radius": 2})]),
    ("inner fillet", lambda: rounded(_step_kept, 4, [_inner_edge(_step_kept)]), [("fillet",
     {"radius": 4})]),
    ("upright chamfers", lambda: bevelled(_plate_kept, 2, lines(_plate_kept, 2)),
     [("chamfer", {"distance": 2, "distance2": 2, "angle": 45})] * 4),
    ("rod", lambda: rod(10, 50), [("revolution", {"diameter": 20, "length": 50})]),
    ("stepped shaft", lambda: fuse(rod(10, 30), rod(7, 60), rod(12, 8, (0, 0, 10))),
     [("revolution", {"diameter": 24, "length": 60})]),
    ("bevelled shaft", lambda: bevelled(_rod_kept, 1.5, rims(_rod_kept, 10)),
     [("chamfer", {"distance": 1.5, "distance2": 1.5})] * 2 + [("revolution", {"diameter": 20,
     "length": 50})]),
    ("tube", lambda: cut(rod(10, 50), rod(6, 60, (0, 0, -5))),
     [_hole(12, 50), ("revolution", {"diameter": 20, "length": 50})]),
    ("boss", lambda: fuse(_plate(), rod(8, 20, (50, 30, 0))), [("boss", {"diameter": 16, "height": 8})]),
    ("boss with hole", lambda: cut(fuse(_plate(), rod(8, 20, (50, 30, 0))), rod(3, 60, (50, 30, -5))),
     [_hole(6, 20), ("boss", {"diameter": 16, "height": 8})]),
    ("pocket", lambda: cut(_plate(), box(40, 30, 20, (30, 15, 7))), [("pocket", {"depth": 5,
     "area": 1200})]),
    ("slot through", lambda: _slotted(30), [("slot", {"width": 10, "length": 40, "depth": 12})]),
    ("slot with floor", lambda: _slotted(5), [("slot", {"width": 10, "length": 40, "depth": 5})]),
    ("blind holes from both sides", lambda: cut(box(40, 40, 40), rod(4, 40, (20, 20, 28)), rod(4, 40, (20,
     20, -28))),
     [_hole(8, 12)] * 2),
    ("hole through two walls", lambda: cut(_channel(), rod(4, 100, (30, -5, 25), (0, 1, 0))), [("hole",
     {"diameter": 8})]),
    ("half a hole at the rim", lambda: cut(_plate(), rod(4, 40, (0, 30, -5))), []),
    ("hole near another of its size", lambda: cut(_plate(), rod(4, 40, (40, 30, -5)), rod(4, 40, (49, 30,
     -5))),
     [_hole(8, 12)] * 2),
    ("uneven chamfer", lambda: _uneven_chamfer(), [("chamfer", {"distance": 1, "distance2": 2})]),
    ("pocket with round corners", lambda: cut(_plate(), rounded(_tool_kept, 4, lines(_tool_kept, 2))),
     [("fillet", {"radius": 4})] * 4 + [("pocket", {"depth": 5})]),
    ("hexagon", lambda: _prism(6, 20, 30), []),
    ("octagon", lambda: _prism(8, 20, 30), []),
    ("flattened rod", lambda: cut(rod(10, 40), box(20, 40, 60, (7, -20, -10))), []),
    ("fillet under a boss", lambda: rounded(_boss_kept, 2, _base_rim(_boss_kept)), [("fillet",
     {"radius": 2})]),
    ("nut", lambda: cut(_prism(6, 17, 8), rod(5, 20, (0, 0, -5))), [_hole(10, 8)]),
    ("square row", lambda: cut(_plate(), *(rod(2.5, 40, (x, y, -5)) for x in (20, 40) for y in (20, 40))),
     [_hole(5, 12)] * 4 + [("pattern", {"count": 4})]),
    ("unordered holes", lambda: cut(_plate(), *(rod(2.5, 40, (x, y, -5)) for x, y in ((15, 15), (37, 22),
     (80, 41)))),
     [_hole(5, 12)] * 3),
    ("plain box", _plate, []),
    ("wedge", lambda: cut(box(40, 40, 40), BRepPrimAPI_MakeBox(gp_Ax2(gp_Pnt(0, 0, 40), gp_Dir(1, 0, 1)),
     80, 80, 80).Shape()), []),
    ("shell of a box", lambda: cut(box(60, 40, 30), box(56, 36, 30, (2, 2, 2))), [("shell", {"wall": 2})]),
    ("cup", lambda: cut(rod(20, 50), rod(17, 50, (0, 0, 3))), [_hole(34, 47), ("revolution",
     {"diameter": 40, "length": 50})]),
    ("shell with a hole", lambda: cut(box(60, 40, 30), box(56, 36, 30, (2, 2, 2)), rod(4, 9, (30, 20, -3))),
     [("shell", {"wall": 2}), _hole(8, 2)]),
    ("rib", lambda: fuse(_angle(), _rib(20)), [("rib", {"thickness": 5})]),
    ("two ribs", lambda: fuse(_angle(), _rib(10), _rib(45)), [("rib", {"thickness": 5})] * 2),
    ("core of M8", lambda: cut(_plate(), rod(_core(8, 1.25) / 2, 40, (20, 20, -5))),
     [_hole(_core(8, 1.25), 12), ("thread", {"nominal": 8, "pitch": 1.25})]),
    ("core of M12, blind", lambda: cut(box(40, 40, 40), rod(_core(12, 1.75) / 2, 40, (20, 20, 20))),
     [_hole(_core(12, 1.75), 20), ("thread", {"nominal": 12, "pitch": 1.75})]),
    ("core of 1/4-20", lambda: cut(_plate(), rod(_core(6.35, 1.27) / 2, 40, (20, 20, -5))),
     [_hole(_core(6.35, 1.27), 12), ("thread", {"nominal": 6.35, "pitch": 1.27})]),
    ("gear of 12", lambda: _gear(12, 40, 32, 10), [("pattern", {"count": 12})]),
    ("gear of 20 with a bore", lambda: cut(_gear(20, 60, 52, 12), rod(8, 40, (0, 0, -5))),
     [_hole(16, 12), ("pattern", {"count": 20})]),
    ("spline shaft", lambda: fuse(_gear(10, 30, 26, 20), rod(10, 60)), [("pattern", {"count": 10}),
     ("revolution", {"diameter": 20, "length": 60})]),
    ("mirrored holes", lambda: cut(_plate(), *(rod(2.5, 40, (50 + side * x, y, -5))
     for side in (-1, 1) for x, y in ((10, 20), (25, 35), (40, 15)))),
     [_hole(5, 12)] * 6 + [("pattern", {"count": 6, "mirrored": 1})]),
    ("variable fillet", lambda: _variable(_plate_kept, 2, 5), [("fillet", {"radius": 2, "radius2": 5})]),
    ("engraving", lambda: cut(box(100, 60, 12), *(box(4 + n, 6, 5, (10 + 14 * n, 25, 11))
     for n in range(5))), [("pocket", {"depth": 1, "marks": 5})]),
    ("raised marks", lambda: fuse(box(100, 60, 12), *(box(4 + n, 6, 2, (10 + 14 * n, 25, 11))
     for n in range(5))), [("pocket", {"depth": 1, "marks": 5})]),
    ("blind counterbore", lambda: cut(box(40, 40, 40), rod(3, 40, (20, 20, 15)), rod(6, 40, (20, 20, 33))),
     [("counterbore", {"diameter": 6, "depth": 25, "counterbore_diameter": 12, "counterbore_depth": 7})]),
    ("blind countersink", lambda: cut(box(40, 40, 40), rod(3, 40, (20, 20, 20)), cone(3, 6, 3,
     (20, 20, 37))), [("countersink", {"diameter": 6, "depth": 20, "countersink_diameter": 12})]),
    ("row of bosses", lambda: fuse(_plate(), *(rod(4, 18, (20 + 20 * n, 30, 0)) for n in range(4))),
     [("boss", {"diameter": 8, "height": 6})] * 4 + [("pattern", {"count": 4, "pitch": 20})]),
    ("circle of counterbores", lambda: cut(box(80, 80, 10), *(tool for k in range(5) for tool in (
     rod(2, 40, _around(k, 5)), rod(4, 40, (*_around(k, 5)[:2], 6))))),
     [("counterbore", {"diameter": 4, "counterbore_diameter": 8, "counterbore_depth": 4})] * 5
     + [("pattern", {"count": 5, "pitch_diameter": 50, "angle": 72})]),
    ("two pockets", lambda: cut(_plate(), box(20, 30, 20, (10, 15, 7)), box(30, 30, 20, (60, 15, 5))),
     [("pocket", {"depth": 5, "area": 600}), ("pocket", {"depth": 7, "area": 900})]),
    ("pocket of six walls", lambda: cut(_plate(), fuse(box(40, 15, 20, (30, 15, 7)), box(15, 35, 20, (30,
     15, 7)))), [("pocket", {"depth": 5, "area": 900})]),
    ("row of slots", lambda: cut(_plate(), *(_slot_tool(20 + 25 * n) for n in range(3))),
     [("slot", {"width": 6, "length": 26, "depth": 12})] * 3 + [("pattern", {"count": 3, "pitch": 25})]),
    ("all at once", lambda: cut(fuse(_plate(), rod(8, 20, (75, 30, 0))), rod(4, 40, (20, 20, -5)),
     box(20, 20, 20, (35, 20, 7))), [_hole(8, 12), ("boss", {"diameter": 16, "height": 8}),
     ("pocket", {"depth": 5, "area": 400})]),
]  # fmt: skip


def _around(k: int, count: int) -> tuple[float, float, float]:
    turn = 2 * math.pi * k / count
    return 40 + 25 * math.cos(turn), 40 + 25 * math.sin(turn), -5


def _angle() -> TopoDS_Shape:
    return fuse(box(60, 60, 8), box(8, 60, 60))


def _rib(y: float) -> TopoDS_Shape:
    outline = BRepBuilderAPI_MakePolygon()
    for x, z in ((8, 8), (40, 8), (8, 40)):
        outline.Add(gp_Pnt(x, y, z))
    outline.Close()
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Vec(0, 5, 0)).Shape()


def _gear(count: int, tip: float, root: float, height: float) -> TopoDS_Shape:
    """Teeth of straight flanks, as wide at their foot as the gaps and half as wide at their tip."""
    outline = BRepBuilderAPI_MakePolygon()
    step = 2 * math.pi / count
    for k in range(count):
        for radius, share in ((root / 2, 0.0), (tip / 2, 0.12), (tip / 2, 0.38), (root / 2, 0.5)):
            turn = (k + share) * step
            outline.Add(gp_Pnt(radius * math.cos(turn), radius * math.sin(turn), 0))
    outline.Close()
    face = BRepBuilderAPI_MakeFace(outline.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, height)).Shape()


def _variable(shape: TopoDS_Shape, start: float, end: float) -> TopoDS_Shape:
    maker = BRepFilletAPI_MakeFillet(shape)
    maker.Add(start, end, next(iter(lines(shape, 0))))
    return maker.Shape()


def _slot_tool(x: float) -> TopoDS_Shape:
    return fuse(rod(3, 40, (x, 20, -5)), rod(3, 40, (x, 40, -5)), box(6, 20, 40, (x - 3, 20, -5)))


def _inner_edge(shape: TopoDS_Shape) -> TopoDS_Edge:
    """The edge in the corner of a step at x = 20, z = 10."""
    for edge in lines(shape, 1):
        point = BRepAdaptor_Curve(edge).Value(0.0)
        if abs(point.X() - 20) < 1e-6 and abs(point.Z() - 10) < 1e-6:
            return edge
    raise LookupError


_plate_kept = _plate()
_cube_kept = box(20, 30, 40)
_step_kept = fuse(box(60, 30, 10), box(20, 30, 40))
_rod_kept = rod(10, 50)
_tool_kept = box(40, 30, 20, (30, 15, 7))
_boss_kept = fuse(_plate(), rod(8, 20, (50, 30, 0)))
