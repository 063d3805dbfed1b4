"""Completing what STEP leaves out: parameter curves, seams and degenerate edges of curved faces.

The kernel's own transfer can do this too, but goes over plane faces as well, which need nothing of
it, and costs several times as much. So the transfer runs with every mode off, and each face that is
not plane is completed here with the same tools and the same modes.
"""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.ShapeBuild import ShapeBuild_ReShape
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.shape import faces_of

__all__ = ["Completion"]

_FACE_ON = ("FixWireMode", "FixAddNaturalBoundMode", "FixMissingSeamMode")
_FACE_OFF = (
    "FixOrientationMode", "FixSmallAreaWireMode", "RemoveSmallAreaFaceMode",
    "FixIntersectingWiresMode", "FixLoopWiresMode", "FixSplitFaceMode", "AutoCorrectPrecisionMode",
)  # fmt: skip
_WIRE_ON = (
    "FixEdgeCurvesMode", "FixAddPCurveMode", "FixSeamMode", "FixShiftedMode", "FixDegeneratedMode",
    "FixReversed2dMode",
)  # fmt: skip
_WIRE_OFF = (
    "FixReorderMode", "FixSmallMode", "FixConnectedMode", "FixLackingMode", "FixSelfIntersectionMode",
    "FixRemovePCurveMode", "FixRemoveCurve3dMode", "FixAddCurve3dMode", "FixSameParameterMode",
    "FixNotchedEdgesMode", "FixTailMode", "FixSelfIntersectingEdgeMode", "FixIntersectingEdgesMode",
    "FixNonAdjacentIntersectingEdgesMode", "FixVertexToleranceMode", "ModifyRemoveLoopMode",
)  # fmt: skip
_LEAST_PRECISION = 1e-7


class Completion:
    """Completes bodies of one file; faces that several bodies share are completed once."""

    def __init__(self) -> None:
        self._context = ShapeBuild_ReShape()
        self._fixer = ShapeFix_Face()
        self._fixer.SetContext(self._context)
        wires = self._fixer.FixWireTool()
        for tool, on, off in ((self._fixer, _FACE_ON, _FACE_OFF), (wires, _WIRE_ON, _WIRE_OFF)):
            for name in on:
                setattr(tool, name, 1)
            for name in off:
                setattr(tool, name, 0)
        wires.ClosedWireMode = False
        wires.PreferencePCurveMode = False
        wires.ModifyTopologyMode = False
        wires.ModifyGeometryMode = False

    def completed(self, shape: TopoDS_Shape) -> TopoDS_Shape:
        """The shape with its curved faces completed.

        Raises the kernel's own exceptions; call it inside kernel_call.

        Source: own measurement, docs/reading.md.
        """
        for face in faces_of(shape):
            kind = BRepAdaptor_Surface(face, False).GetType()
            if kind != GeomAbs_SurfaceType.GeomAbs_Plane or _is_bare(face):
                self._complete(face)
        return self._context.Apply(shape)

    def now(self, part: TopoDS_Shape) -> TopoDS_Shape:
        """What a face or edge of a shape became."""
        return self._context.Apply(part)

    def _complete(self, face: TopoDS_Face) -> None:
        self._fixer.Init(face)
        self._fixer.SetPrecision(max(BRep_Tool.Tolerance_s(face), _LEAST_PRECISION))
        self._fixer.Perform()


def _is_bare(face: TopoDS_Face) -> bool:
    """Whether a face has no loop at all."""
    return not TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_WIRE).More()
