"""Shapes of single IGES entities through the kernel, nothing repaired that the format holds.

Solids carry their topology and are made as sent. A trimmed surface comes as loops of curves without
any, so the wire of each face is put in order there: without that no face of this kind is one.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESControl import IGESControl_Controller, IGESControl_Reader
from OCP.Interface import Interface_Static
from OCP.OCP.collections import (
    DataMap_TCollection_AsciiString_TCollection_AsciiString as StringMap,
)
from OCP.TCollection import TCollection_AsciiString
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.errors import MalformedFile
from gondrel.core.kernel.base.calls import kernel_call, quiet
from gondrel.core.kernel.base.shape import edges_of, faces_of, vertices_of
from gondrel.core.kernel.exchange.as_sent import MODES

__all__ = ["IgesShapes", "plane_patch"]

_COMPLETING = frozenset(
    """FixSolidMode FixShellMode FixFaceMode FixWireMode FixFreeShellMode FixFreeFaceMode FixFreeWireMode
    FixEdgeCurvesMode FixAddPCurveMode FixSeamMode FixShiftedMode FixMissingSeamMode FixDegeneratedMode
    FixAddNaturalBoundMode FixReversed2dMode FixReorderMode FixConnectedMode FixOrientationMode""".split()
)
"""Modes a trimmed surface needs to become a face at all."""


_CURVES = "read.surfacecurve.mode"
_AS_SAID, _PREFER_SPACE, _FORCE_SPACE = 0, 3, -3
"""Edges of trimmed surfaces come from curves in space where there are any: those of neighbours agree,
and circles stay circles."""


_POLE = 1e-6
_ENDLESS = 1e50
"""How narrow a surface is at a pole, mm; from where on a parameter stands for an endless border."""


class IgesShapes:
    """The shapes of a file's entities, made one by one; refused are those the kernel could not parse.

    Args:
        in_space: whether every curve on a surface is also given in space, so that it is taken from there.

    Raises:
        MalformedFile: when the kernel's parser refuses the file.
    """

    def __init__(self, path: str, *, in_space: bool) -> None:
        IGESControl_Controller.Init_s()
        self.in_space = in_space
        quiet()
        self.reader = IGESControl_Reader()
        with kernel_call("parsing", file=path):
            status = self.reader.ReadFile(path)
        if status != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise MalformedFile("not a complete IGES file: the parser refused it", file=path)
        self.model = self.reader.IGESModel()
        with kernel_call("numbering entities", file=path):
            count = self.model.NbEntities()
            self.entities = [self.model.Value(i) for i in range(1, count + 1)]
            self.places = {self.model.DNum(e): i for i, e in enumerate(self.entities, 1)}
        self.numbers = {id(e): self.model.DNum(e) for e in self.entities}
        self._mode = ""
        with kernel_call("looking for refused records", file=path):
            self.refused = frozenset(
                number for number, place in self.places.items() if self.model.IsErrorEntity(place)
            )

    def shape(self, number: int, *, is_solid: bool) -> TopoDS_Shape | None:
        """The shape of an entity in mm, None when the kernel makes none.

        Args:
            number: of its directory entry; is_solid: whether it carries its topology (a solid, a shell).

        Raises:
            KernelRefused: when the kernel raises over it.
        """
        place = self.places.get(number)
        if place is None:
            return None
        with kernel_call(f"making the shape of D{number}"):
            shape = self._transferred(place, "as sent" if is_solid else "completed")
            if not is_solid and shape is not None and _lacks_poles(shape):
                # What was made of an entity is kept by the transfer and would be handed out again.
                self.reader.WS().TransferReader().TransientProcess().Clear()
                shape = self._transferred(place, "in parameters") or shape
        return shape

    def _transferred(self, place: int, mode: str) -> TopoDS_Shape | None:
        self._choose(mode)
        self.reader.ClearShapes()
        in_space = _FORCE_SPACE if self.in_space else _PREFER_SPACE
        curves = {"as sent": _AS_SAID, "in parameters": _PREFER_SPACE}.get(mode, in_space)
        Interface_Static.SetIVal_s(_CURVES, curves)
        try:
            is_made = self.reader.TransferOne(place)
        finally:
            Interface_Static.SetIVal_s(_CURVES, _AS_SAID)  # readers of other formats heed it too
        if not is_made or not self.reader.NbShapes():
            return None
        shape = self.reader.OneShape()
        return None if shape is None or shape.IsNull() else shape

    def face_numbers(self, shape: TopoDS_Shape) -> list[int]:
        """For each face of a shape just made the number of the entity it came from, 0 where unknown."""
        transfer = self.reader.WS().TransferReader()
        with kernel_call("tracing faces"):
            origins = [transfer.EntityFromShapeResult(face, -1) for face in faces_of(shape)]
        return [self.numbers.get(id(e), 0) if e is not None else 0 for e in origins]

    def _choose(self, mode: str) -> None:
        """Set the kernel's modes; the setting outlives a reader, so it is always set anew."""
        if mode == self._mode:
            return
        modes = StringMap()
        for name in MODES if mode != "in parameters" else ():
            if mode == "as sent" or name not in _COMPLETING:
                modes.Bind(TCollection_AsciiString(f"FixShape.{name}"), TCollection_AsciiString("0"))
        self.reader.SetShapeFixParameters(modes)
        self._mode = mode


def _lacks_poles(shape: TopoDS_Shape) -> bool:
    """Whether a face reaches a pole of its surface without an edge there: curves in space have none."""
    for face in faces_of(shape):
        if any(BRep_Tool.Degenerated_s(edge) for edge in edges_of(face)):
            continue
        corners = [BRep_Tool.Pnt_s(vertex) for vertex in vertices_of(face)]
        if any(pole.Distance(at) < _POLE for pole in _poles(face) for at in corners):
            return True
    return False


def _poles(face: TopoDS_Face) -> Iterator[gp_Pnt]:
    """Where a border of a face's surface shrinks to a point."""
    surface = BRep_Tool.Surface_s(face)
    u1, u2, v1, v2 = surface.Bounds()
    for fixed in (v1, v2):
        if max(abs(value) for value in (u1, u2, fixed)) < _ENDLESS:
            yield from _shrunk([surface.Value(u, fixed) for u in (u1, (u1 + u2) / 3, (u1 + u2) / 2)])
    for fixed in (u1, u2):
        if max(abs(value) for value in (v1, v2, fixed)) < _ENDLESS:
            yield from _shrunk([surface.Value(fixed, v) for v in (v1, (v1 + v2) / 3, (v1 + v2) / 2)])


def _shrunk(points: list[gp_Pnt]) -> Iterator[gp_Pnt]:
    if all(points[0].Distance(other) < _POLE for other in points[1:]):
        yield points[0]


def plane_patch(coefficients: tuple[float, float, float, float], size: float) -> TopoDS_Shape:
    """A square of a plane without bounds, about the foot of the origin.

    Args:
        coefficients: A, B, C, D of A x + B y + C z = D, mm; size: length of its sides, mm.

    Raises:
        KernelRefused: when the coefficients make no plane.
    """
    a, b, c, d = coefficients
    square = max(float(np.dot((a, b, c), (a, b, c))), 1e-300)
    foot = gp_Pnt(a * d / square, b * d / square, c * d / square)
    with kernel_call("making a plane"):
        plane = gp_Pln(foot, gp_Dir(a, b, c))
        half = size / 2
        return BRepBuilderAPI_MakeFace(plane, -half, half, -half, half).Face()
