"""Edits of a body, exactly. Each follows the faces, and is refused where no valid body would come of it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
from OCP.BRepAlgoAPI import (
    BRepAlgoAPI_BooleanOperation,
    BRepAlgoAPI_Common,
    BRepAlgoAPI_Cut,
    BRepAlgoAPI_Defeaturing,
    BRepAlgoAPI_Fuse,
)
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepGProp import BRepGProp
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeThickSolid
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.ShapeCustom import ShapeCustom
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, split_bodies
from gondrel.core.kernel.measure.mass import diagonal_of
from gondrel.core.kernel.modelling.followed import Followed, follow
from gondrel.core.model.body import BodyKind
from gondrel.core.model.product import Placement

__all__ = [
    "chamfered", "cut_by_plane", "filleted", "hole_tool", "mirror_of_plane",
    "scaled", "shelled", "thickened", "united", "with_common", "with_hole", "without", "without_faces",
]  # fmt: skip

Vector = tuple[float, float, float]


def _judged(made: Followed, doing: str) -> Followed:
    """The result where it is one or more valid solids, else a refusal."""
    bodies = split_bodies(made.shape)
    solids = [shape for kind, shape in bodies if kind is BodyKind.SOLID]
    if not solids:
        raise KernelRefused(f"nothing would be left after {doing}")
    if not BRepCheck_Analyzer(made.shape).IsValid():
        raise KernelRefused(f"no valid solid comes of {doing}")
    if _volume(made.shape) <= 0:
        raise KernelRefused(f"no volume is left after {doing}")
    if len(solids) == 1 and len(bodies) == 1:
        return Followed(solids[0], *_reordered(made, solids[0]))
    return made


def _volume(shape: TopoDS_Shape) -> float:
    figures = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, figures)
    return float(figures.Mass())


def _reordered(
    made: Followed, solid: TopoDS_Shape
) -> tuple[tuple[int, ...], tuple[int, ...], tuple[int, ...]]:
    """Sources in the order of the solid's own faces."""
    known = list(zip(faces_of(made.shape), made.sources, strict=True))
    sources = [next((s for f, s in known if f.IsSame(face)), -1) for face in faces_of(solid)]
    return tuple(sources), made.gone, made.changed


def _by_operation(
    operation: BRepAlgoAPI_BooleanOperation, body: TopoDS_Shape, tools: Iterable[TopoDS_Shape], doing: str
) -> Followed:
    arguments, others = ShapeList(), ShapeList()
    arguments.Append(body)
    for tool in tools:
        others.Append(tool)
    operation.SetArguments(arguments)
    operation.SetTools(others)
    operation.SetNonDestructive(True)
    operation.Build()
    if not operation.IsDone():
        raise KernelRefused(f"the kernel can't do it ({doing})")
    return _judged(follow(body, operation.Shape(), operation), doing)


def without(body: TopoDS_Shape, tools: Sequence[TopoDS_Shape], doing: str = "taking away") -> Followed:
    """A body without what others fill. Raises KernelRefused."""
    with kernel_call(doing):
        return _by_operation(BRepAlgoAPI_Cut(), body, tools, doing)


def united(body: TopoDS_Shape, others: Sequence[TopoDS_Shape], *, merge: bool = True) -> Followed:
    """Bodies as one.

    Args:
        merge: whether faces that go on over the seam become one.

    Raises:
        KernelRefused: when they do not make one solid.
    """
    doing = "uniting"
    with kernel_call(doing):
        # Faces of left-handed frames, as a mirror image has, are not merged rightly with others.
        direct = [ShapeCustom.DirectFaces_s(other) for other in others]
        made = _by_operation(BRepAlgoAPI_Fuse(), body, direct, doing)
        if len([1 for kind, _ in split_bodies(made.shape) if kind is BodyKind.SOLID]) != 1:
            raise KernelRefused("they do not touch: uniting them makes no single solid")
        volume = _volume(made.shape)
        if not merge:
            return made
        unify = ShapeUpgrade_UnifySameDomain(made.shape, True, True, False)
        unify.Build()
        after = follow(
            made.shape, unify.Shape(), unify.History(), first=lambda face: made.sources[face] >= 0
        )
        sources = tuple(made.sources[s] if s >= 0 else -1 for s in after.sources)
        left = set(sources)
        count = len(faces_of(body))
        gone = tuple(i for i in range(count) if i not in left)
        if not BRepCheck_Analyzer(after.shape).IsValid() or not math.isclose(
            _volume(after.shape), volume, rel_tol=1e-6
        ):
            # merging spoilt it, and what it was made of too: it is done again without
            return _by_operation(BRepAlgoAPI_Fuse(), body, direct, doing)
        return _judged(Followed(after.shape, sources, gone, made.changed), doing)


def with_common(body: TopoDS_Shape, other: TopoDS_Shape) -> Followed:
    """What two bodies have in common. Raises KernelRefused, also where they have nothing."""
    with kernel_call("taking the common part"):
        return _by_operation(BRepAlgoAPI_Common(), body, [other], "taking the common part")


# --- holes -----------------------------------------------------------------------------------------


def _axes(at: Vector, way: Vector) -> gp_Ax2:
    return gp_Ax2(gp_Pnt(*at), gp_Dir(*way))


def hole_tool(
    at: Vector, into: Vector, diameter: float, depth: float, *, bore: tuple[float, float] | None = None,
    sink: tuple[float, float] | None = None,
) -> TopoDS_Shape:  # fmt: skip
    """What a hole takes away.

    Args:
        at: its mouth, mm; into: direction into the material; diameter, depth: mm, flat at its end.
        bore: diameter and depth of a counterbore; sink: diameter at the mouth and full angle, degrees, of
            a countersink.

    Raises:
        KernelRefused: for a size that makes none.
    """
    if not diameter > 0 or not depth > 0:
        raise KernelRefused(
            f"a hole needs a diameter and a depth above 0 (got {diameter:g} by {depth:g} mm)"
        )
    with kernel_call("making a hole"):
        tool: TopoDS_Shape = BRepPrimAPI_MakeCylinder(_axes(at, into), diameter / 2, depth).Shape()
        more: list[TopoDS_Shape] = []
        if bore is not None:
            if bore[0] <= diameter:
                raise KernelRefused(f"a counterbore must be wider than its hole (got {bore[0]:g} mm)")
            more.append(BRepPrimAPI_MakeCylinder(_axes(at, into), bore[0] / 2, bore[1]).Shape())
        if sink is not None:
            if sink[0] <= diameter or not 0 < sink[1] < 180:
                raise KernelRefused(f"a countersink must be wider than its hole (got {sink[0]:g} mm)")
            height = (sink[0] - diameter) / 2 / math.tan(math.radians(sink[1]) / 2)
            more.append(BRepPrimAPI_MakeCone(_axes(at, into), sink[0] / 2, diameter / 2, height).Shape())
        for part in more:
            tool = BRepAlgoAPI_Fuse(tool, part).Shape()
        return tool


def with_hole(
    body: TopoDS_Shape, at: Vector, into: Vector, diameter: float, depth: float | None = None, *,
    bore: tuple[float, float] | None = None, sink: tuple[float, float] | None = None,
) -> Followed:  # fmt: skip
    """A body with a hole; through all of it where no depth is given. Raises KernelRefused."""
    reach = 2 * diagonal_of(body) + 1.0
    tool = hole_tool(at, into, diameter, reach if depth is None else depth, bore=bore, sink=sink)
    made = without(body, [tool], "drilling a hole")
    if not made.changed:
        raise KernelRefused("the hole meets no material there")
    return made


# --- edges and walls -------------------------------------------------------------------------------


def filleted(body: TopoDS_Shape, edges: Sequence[int], radius: float) -> Followed:
    """A body with edges rounded.

    Args:
        edges: indices in the order of edges_of; radius: mm.

    Raises:
        KernelRefused: when the radius finds no room there.
    """
    doing = f"rounding {len(edges)} edges by {radius:g} mm"
    return _on_edges(body, edges, radius, BRepFilletAPI_MakeFillet, doing)


def chamfered(body: TopoDS_Shape, edges: Sequence[int], width: float) -> Followed:
    """A body with edges bevelled, alike on both sides. Raises KernelRefused as filleted does."""
    doing = f"bevelling {len(edges)} edges by {width:g} mm"
    return _on_edges(body, edges, width, BRepFilletAPI_MakeChamfer, doing)


def _on_edges(
    body: TopoDS_Shape, edges: Sequence[int], size: float,
    tool: type[BRepFilletAPI_MakeFillet | BRepFilletAPI_MakeChamfer], doing: str,
) -> Followed:  # fmt: skip
    with kernel_call(doing):
        make = tool(body)
        listed = edges_of(body)
        for index in edges:
            make.Add(size, listed[index])
        make.Build()
        if not make.IsDone():
            raise KernelRefused(f"the kernel can't do it ({doing}): there may be no room for it")
        return _judged(follow(body, make.Shape(), make), doing)


def shelled(body: TopoDS_Shape, open_faces: Sequence[int], wall: float) -> Followed:
    """A body hollowed out to a wall.

    Args:
        open_faces: indices of faces that are left open; wall: mm, measured inwards.

    Raises:
        KernelRefused: when there is no room for the wall.
    """
    doing = f"hollowing out to a wall of {wall:g} mm"
    if not open_faces or not wall > 0:
        raise KernelRefused("a shell needs a face to be open and a wall above 0")
    with kernel_call(doing):
        faces = faces_of(body)
        closing = ShapeList()
        for index in open_faces:
            closing.Append(faces[index])
        make = BRepOffsetAPI_MakeThickSolid()
        make.MakeThickSolidByJoin(body, closing, -wall, 1e-6)
        make.Build()
        if not make.IsDone():
            raise KernelRefused(f"the kernel can't do it ({doing})")
        made = _judged(follow(body, make.Shape(), make), doing)
        if _volume(made.shape) >= _volume(body) * (1 - 1e-9):
            raise KernelRefused(f"there is no room for a wall of {wall:g} mm")
        return made


def without_faces(body: TopoDS_Shape, faces: Sequence[int]) -> Followed:
    """A body without some faces, whose neighbours run on until they meet.

    Args:
        faces: indices in the order of faces_of.

    Raises:
        KernelRefused: when the neighbours do not meet.
    """
    doing = f"closing over {len(faces)} faces"
    with kernel_call(doing):
        listed = faces_of(body)
        make = BRepAlgoAPI_Defeaturing()
        make.SetShape(body)
        for index in faces:
            make.AddFaceToRemove(listed[index])
        make.Build()
        if not make.IsDone():
            raise KernelRefused(f"the kernel can't do it ({doing}): the faces around do not meet")
        made = _judged(follow(body, make.Shape(), make), doing)
        if not set(faces) <= set(made.gone):
            raise KernelRefused(f"the kernel can't do it ({doing}): the faces around do not meet")
        return made


def thickened(sheet: TopoDS_Shape, thickness: float) -> Followed:
    """A solid of a sheet.

    Args:
        thickness: mm, along the sheet's normal; below zero against it.

    Raises:
        KernelRefused: when no valid solid comes of it.
    """
    doing = f"thickening by {thickness:g} mm"
    if not thickness:
        raise KernelRefused("a thickness must not be 0")
    with kernel_call(doing):
        make = BRepOffsetAPI_MakeThickSolid()
        make.MakeThickSolidBySimple(sheet, thickness)
        make.Build()
        if not make.IsDone():
            raise KernelRefused(f"the kernel can't do it ({doing})")
        solid = make.Shape()
        if _volume(solid) < 0:
            solid = solid.Reversed()
        return _judged(follow(sheet, solid, make), doing)


# --- planes and motions ----------------------------------------------------------------------------


def cut_by_plane(body: TopoDS_Shape, at: Vector, normal: Vector) -> Followed:
    """The side of a body that lies against the normal of a plane.

    Raises:
        KernelRefused: when the plane does not cross it.
    """
    doing = "cutting by a plane"
    with kernel_call(doing):
        reach = 4 * diagonal_of(body) + 10 * float(np.linalg.norm(at)) + 10.0
        n = np.array(normal, float) / np.linalg.norm(normal)
        x = np.cross(n, np.eye(3)[int(np.argmin(np.abs(n)))])
        x /= np.linalg.norm(x)
        corner = np.array(at) - (x + np.cross(n, x)) * reach / 2
        axes = gp_Ax2(gp_Pnt(*corner.tolist()), gp_Dir(*n.tolist()), gp_Dir(*x.tolist()))
        half = BRepPrimAPI_MakeBox(axes, reach, reach, reach).Shape()
        made = _by_operation(BRepAlgoAPI_Cut(), body, [half], doing)
        if not made.changed and not made.gone:
            raise KernelRefused("the plane does not cross the body")
        return made


def mirror_of_plane(at: Vector, normal: Vector) -> Placement:
    """The reflection in a plane."""
    n = np.array(normal, float) / np.linalg.norm(normal)
    matrix = np.eye(4)
    matrix[:3, :3] -= 2 * np.outer(n, n)
    matrix[:3, 3] = 2 * (np.array(at) @ n) * n
    return tuple(matrix.ravel().tolist())


def scaled(body: TopoDS_Shape, factor: float, about: Vector) -> Followed:
    """A body made larger or smaller about a point. Raises KernelRefused."""
    if not factor > 0:
        raise KernelRefused(f"a scale must be above 0 (got {factor:g})")
    with kernel_call("scaling"):
        change = gp_Trsf()
        change.SetScale(gp_Pnt(*about), factor)
        made = BRepBuilderAPI_Transform(body, change, True)
        return _judged(follow(body, made.Shape(), made), "scaling")
