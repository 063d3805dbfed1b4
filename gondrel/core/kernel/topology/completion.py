"""Completing what STEP leaves out: parameter curves, seams and degenerate edges of curved faces.

The kernel's own transfer can do this too, but goes over plane faces as well, which need nothing of
it, and costs several times as much. So the transfer runs with every mode off, and each face that is
not plane is completed here with the same tools. Which modes that takes was measured on outside files
(docs/reading.md); three of them could hide what is wrong in a file, so the faces whose loops the
file's own records show to run the wrong way round are completed without.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.ShapeBuild import ShapeBuild_ReShape
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.shape import faces_of

__all__ = ["Completion", "Way"]

_FACE_ON = ("FixWireMode", "FixAddNaturalBoundMode", "FixMissingSeamMode", "FixOrientationMode")
_FACE_OFF = (
    "FixSmallAreaWireMode", "RemoveSmallAreaFaceMode",
    "FixIntersectingWiresMode", "FixLoopWiresMode", "FixSplitFaceMode", "AutoCorrectPrecisionMode",
)  # fmt: skip
_WIRE_ON = (
    "FixEdgeCurvesMode", "FixAddPCurveMode", "FixSeamMode", "FixShiftedMode", "FixDegeneratedMode",
    "FixReversed2dMode", "FixSameParameterMode",
)  # fmt: skip
_WIRE_OFF = (
    "FixReorderMode", "FixSmallMode", "FixConnectedMode", "FixLackingMode", "FixSelfIntersectionMode",
    "FixRemovePCurveMode", "FixRemoveCurve3dMode", "FixAddCurve3dMode",
    "FixNotchedEdgesMode", "FixTailMode", "FixSelfIntersectingEdgeMode", "FixIntersectingEdgesMode",
    "FixNonAdjacentIntersectingEdgesMode", "FixVertexToleranceMode", "ModifyRemoveLoopMode",
)  # fmt: skip
_LEAST_PRECISION = 1e-7


class Way(Enum):
    """How a face is completed: as usual; with its loops left as they run; by the kernel's stock modes."""

    USUAL = "usual"
    LOOPS_KEPT = "loops kept"
    STOCK = "stock"


class Completion:
    """Completes bodies of one file; faces that several bodies share are completed once."""

    def __init__(self) -> None:
        self._context = ShapeBuild_ReShape()
        self._fixers = {way: self._fixer(way) for way in Way}

    def _fixer(self, way: Way) -> ShapeFix_Face:
        fixer = ShapeFix_Face()
        fixer.SetContext(self._context)
        if way is Way.STOCK:
            return fixer
        wires = fixer.FixWireTool()
        for tool, on, off in ((fixer, _FACE_ON, _FACE_OFF), (wires, _WIRE_ON, _WIRE_OFF)):
            for name in on:
                setattr(tool, name, 1)
            for name in off:
                setattr(tool, name, 0)
        if way is Way.LOOPS_KEPT:
            fixer.FixOrientationMode = 0
        wires.ClosedWireMode = True
        wires.PreferencePCurveMode = False
        wires.ModifyTopologyMode = False
        wires.ModifyGeometryMode = False
        return fixer

    def completed(self, shape: TopoDS_Shape, ways: Mapping[int, Way] | None = None) -> TopoDS_Shape:
        """The shape with its curved faces completed.

        Args:
            ways: how to complete faces, by their place in the shape, that are not completed as usual.

        Raises the kernel's own exceptions; call it inside kernel_call.

        Source: own measurement, docs/reading.md.
        """
        for place, face in enumerate(faces_of(shape)):
            kind = BRepAdaptor_Surface(face, False).GetType()
            if kind != GeomAbs_SurfaceType.GeomAbs_Plane or _is_bare(face):
                self._complete(face, ways.get(place, Way.USUAL) if ways else Way.USUAL)
        return self._context.Apply(shape)

    def now(self, part: TopoDS_Shape) -> TopoDS_Shape:
        """What a face or edge of a shape became."""
        return self._context.Apply(part)

    def _complete(self, face: TopoDS_Face, way: Way) -> None:
        fixer = self._fixers[way]
        fixer.Init(face)
        fixer.SetPrecision(max(BRep_Tool.Tolerance_s(face), _LEAST_PRECISION))
        fixer.Perform()


def _is_bare(face: TopoDS_Face) -> bool:
    """Whether a face has no loop at all."""
    return not TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_WIRE).More()
