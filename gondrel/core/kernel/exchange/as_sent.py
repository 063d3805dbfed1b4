"""The shape-fix modes of the kernel's transfer, all off: what was sent is what is read."""

from __future__ import annotations

from OCP.OCP.collections import (
    DataMap_TCollection_AsciiString_TCollection_AsciiString as StringMap,
)
from OCP.TCollection import TCollection_AsciiString

__all__ = ["MODES", "all_off"]

MODES = tuple(
    """FixFreeShellMode FixFreeFaceMode FixFreeWireMode FixSolidMode FixShellMode FixFaceMode
    FixWireMode FixEdgeCurvesMode FixAddPCurveMode FixSeamMode FixShiftedMode FixMissingSeamMode
    FixDegeneratedMode FixAddNaturalBoundMode FixReversed2dMode
    FixSameParameterMode FixShellOrientationMode CreateOpenSolidMode FixFaceOrientationMode
    FixOrientationMode FixSmallAreaWireMode RemoveSmallAreaFaceMode FixIntersectingWiresMode
    FixLoopWiresMode FixSplitFaceMode AutoCorrectPrecisionMode ModifyTopologyMode
    ModifyGeometryMode ClosedWireMode PreferencePCurveMode FixReorderMode FixSmallMode
    FixConnectedMode FixLackingMode FixSelfIntersectionMode RemoveLoopMode FixRemovePCurveMode
    FixRemoveCurve3dMode FixAddCurve3dMode FixEdgeSameParameterMode FixNotchedEdgesMode
    FixTailMode FixSelfIntersectingEdgeMode FixIntersectingEdgesMode
    FixNonAdjacentIntersectingEdgesMode FixVertexPositionMode FixVertexToleranceMode
    MaxTailAngle MaxTailWidth""".split()
)
"""Every shape-fix mode the kernel knows; all are switched off for the transfer."""


def all_off() -> StringMap:
    """Every mode off, to be set after a file is read and before it is transferred."""
    modes = StringMap()
    for mode in MODES:
        modes.Bind(TCollection_AsciiString(f"FixShape.{mode}"), TCollection_AsciiString("0"))
    return modes
