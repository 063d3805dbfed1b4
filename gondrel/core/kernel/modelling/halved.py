"""What a plane leaves of a body."""

from __future__ import annotations

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.measure.mass import box_of
from gondrel.core.model.cutting import CutPlane

__all__ = ["left_of"]


def left_of(shape: TopoDS_Shape, plane: CutPlane) -> TopoDS_Shape | None:
    """What a plane leaves of a B-rep body; None where it takes all away, the shape itself where nothing.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    with kernel_call("cutting a body"):
        box = np.array(box_of(shape)).reshape(2, 3)
        corners = np.array(
            [[box[i, 0], box[j, 1], box[k, 2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)]
        )
        heights = plane.heights(corners)
        if heights.max() <= 0.0:
            return shape
        if heights.min() >= 0.0:
            return None
        reach = 2.0 * float(np.linalg.norm(box[1] - box[0])) + 1.0
        middle = corners.mean(axis=0)
        middle -= float(plane.heights(middle[None])[0]) * plane.unit
        frame = gp_Ax2(gp_Pnt(*middle.tolist()), gp_Dir(*(-plane.unit).tolist()))
        right, up = (np.array(way.Coord()) for way in (frame.XDirection(), frame.YDirection()))
        frame.SetLocation(gp_Pnt(*(middle - reach / 2 * (right + up)).tolist()))
        room = BRepPrimAPI_MakeBox(frame, reach, reach, reach).Shape()
        operation = BRepAlgoAPI_Common(shape, room)
        if not operation.IsDone():
            raise KernelRefused("a body can't be cut by a plane")
        left: TopoDS_Shape = operation.Shape()
        return left if faces_of(left) else None
