"""Completing what STEP leaves out, against the kernel's own completion."""

from __future__ import annotations

import pytest
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.STEPControl import STEPControl_Reader
from OCP.TCollection import TCollection_AsciiString

from gondrel.core.kernel.base.calls import quiet
from gondrel.core.kernel.base.shape import faces_of, split_bodies
from gondrel.core.kernel.exchange.as_sent import MODES, StringMap
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.topology.completion import Completion

pytestmark = pytest.mark.slow

KERNELS_OWN = frozenset(
    """FixSolidMode FixShellMode FixFaceMode FixWireMode FixFreeShellMode FixFreeFaceMode
    FixFreeWireMode FixEdgeCurvesMode FixAddPCurveMode FixSeamMode FixShiftedMode
    FixMissingSeamMode FixDegeneratedMode FixAddNaturalBoundMode FixReversed2dMode
    FixOrientationMode FixSameParameterMode ClosedWireMode""".split()
)


def read(path: str, kept: frozenset[str]):
    quiet()
    reader = STEPControl_Reader()
    reader.ReadFile(path)
    modes = StringMap()
    for mode in MODES:
        if mode not in kept:
            modes.Bind(TCollection_AsciiString(f"FixShape.{mode}"), TCollection_AsciiString("0"))
    reader.SetShapeFixParameters(modes)
    reader.TransferRoots()
    return reader.OneShape()


def test_outside_files_come_out_as_with_the_kernels_own_completion(as1: str, occt_files: list[str]) -> None:
    """The assembly of gmsh-doc and the parts of occt-misc: the same figures to 1e-9, and valid."""
    for path in (as1, *occt_files):
        theirs = split_bodies(read(path, KERNELS_OWN))
        whole = read(path, frozenset())
        ours = split_bodies(Completion().completed(whole))
        assert len(ours) == len(theirs)
        for (kind, one), (other_kind, other) in zip(ours, theirs, strict=True):
            a, b = measure(one), measure(other)
            assert kind is other_kind
            assert (a.faces, a.edges, a.vertices, a.surfaces) == (b.faces, b.edges, b.vertices, b.surfaces)
            assert a.volume == pytest.approx(b.volume, rel=1e-9)
            assert a.tolerance == pytest.approx(b.tolerance, rel=1e-6)
            assert BRepCheck_Analyzer(one).IsValid() == BRepCheck_Analyzer(other).IsValid()


def test_a_face_of_the_raw_shape_is_found_again(as1: str) -> None:
    whole = read(as1, frozenset())
    completion = Completion()
    completed = completion.completed(whole)
    for before, after in zip(faces_of(whole), faces_of(completed), strict=True):
        assert completion.now(before).IsSame(after)
