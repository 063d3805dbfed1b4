"""Whether a solid's shells have their material on the inner side."""

from __future__ import annotations

from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS, TopoDS_Shape

__all__ = ["is_inside_out"]

_TOLERANCE = 1e-7


def is_inside_out(solid: TopoDS_Shape) -> bool:
    """Whether the material of a solid lies outside its shell. Call it inside kernel_call."""
    classifier = BRepClass3d_SolidClassifier(TopoDS.Solid(solid))
    classifier.PerformInfinitePoint(_TOLERANCE)
    return bool(classifier.State() == TopAbs_State.TopAbs_IN)
