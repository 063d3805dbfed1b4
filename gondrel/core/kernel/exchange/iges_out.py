"""One body as IGES geometry through the kernel; structure and looks are added elsewhere."""

from __future__ import annotations

import io

from OCP.BRep import BRep_Builder
from OCP.IGESControl import IGESControl_Controller, IGESControl_Writer
from OCP.IGESData import IGESData_IGESWriter
from OCP.IGESSelect import IGESSelect_WorkLibrary
from OCP.Interface import Interface_Static
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS_Shape, TopoDS_Shell

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call, quiet
from gondrel.core.kernel.base.shape import faces_of

__all__ = ["KERNEL_UNITS", "write_iges_body"]

KERNEL_UNITS = {
    "mm": "MM", "inch": "INCH", "m": "M", "cm": "CM", "foot": "FT", "mil": "MIL", "um": "UM",
}  # fmt: skip
_DIGITS = "%.16E"


def write_iges_body(shape: TopoDS_Shape, unit: str, *, as_solid: bool) -> bytes:
    """Write one body as an IGES file of its own.

    Args:
        unit: key of a length unit in KERNEL_UNITS.
        as_solid: as a solid with its topology (186), else as trimmed surfaces (144).

    Raises:
        KernelRefused: when the kernel can't write it.
    """
    with kernel_call("writing a body"):
        IGESControl_Controller.Init_s()
        quiet()
        Interface_Static.SetIVal_s("write.precision.mode", 0)
        Interface_Static.SetIVal_s("write.surfacecurve.mode", 1)  # writers of other formats change it
        writer = IGESControl_Writer(KERNEL_UNITS[unit], 1 if as_solid else 0)
        if not writer.AddShape(_in_shell(shape)):
            raise KernelRefused("the kernel could not turn a body into IGES")
        writer.ComputeModel()
        text = IGESData_IGESWriter(writer.Model())
        # The writer's own format keeps ten digits; all that tell numbers apart are wanted.
        text.FloatWriter().SetFormat(_DIGITS, True)
        text.FloatWriter().SetZeroSuppress(False)
        text.FloatWriter().SetFormatForRange(_DIGITS, 0.0, 0.0)
        text.SendModel(IGESSelect_WorkLibrary.DefineProtocol_s())
        stream = io.BytesIO()
        if not text.Print(stream):
            raise KernelRefused("the kernel could not write a body as IGES")
        return stream.getvalue()


def _in_shell(shape: TopoDS_Shape) -> TopoDS_Shape:
    """A single face in a shell of its own; the writer has no place for one without."""
    if shape.ShapeType() != TopAbs_ShapeEnum.TopAbs_FACE:
        return shape
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    for face in faces_of(shape):
        builder.Add(shell, face)
    return shell
