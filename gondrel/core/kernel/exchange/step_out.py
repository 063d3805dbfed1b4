"""One body as STEP geometry through the kernel; product data and looks are added elsewhere."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from OCP.BRepClass3d import BRepClass3d
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.STEPConstruct import STEPConstruct
from OCP.STEPControl import STEPControl_Controller, STEPControl_StepModelType, STEPControl_Writer
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Iterator, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call, quiet
from gondrel.core.kernel.base.shape import edges_of
from gondrel.core.kernel.exchange.step_bodies import ordinals_of
from gondrel.core.kernel.exchange.step_ready import ready_for_step
from gondrel.core.kernel.measure.spots import edge_spots, nearest_spot

__all__ = ["KERNEL_UNITS", "BodyText", "write_body"]

KERNEL_UNITS = {
    "mm": "MM",
    "inch": "INCH",
    "m": "M",
    "cm": "CM",
    "foot": "FT",
    "mil": "MIL",
    "um": "UM",
}
"""Our unit keys as the kernel's writer names them."""


@dataclass(frozen=True, slots=True)
class BodyText:
    """A body as a STEP file of its own.

    Args:
        data: Part 21 text.
        face_order: index of each face (in the order of faces_of) in the order it was written.
        edges: record number of each edge that was asked for, by its index in the order of edges_of.
    """

    data: bytes
    face_order: tuple[int, ...]
    edges: Mapping[int, int] = field(default_factory=dict)


def write_body(
    shape: TopoDS_Shape, unit: str, *, parameter_curves: bool = False, edges: Sequence[int] = ()
) -> BodyText:
    """Write one body as STEP geometry.

    Args:
        unit: key of a length unit in KERNEL_UNITS.
        parameter_curves: whether the curves of edges in the parameters of their faces are written too.
        edges: places of edges whose records are wanted.

    Raises:
        KernelRefused: when the kernel can't write it.
    """
    with kernel_call("writing a body"):
        STEPControl_Controller.Init_s()
        quiet()
        for name, value in (
            ("write.step.unit", KERNEL_UNITS[unit]),
            ("write.step.schema", "AP214IS"),
        ):
            if not Interface_Static.SetCVal_s(name, value):
                raise KernelRefused(f"the kernel does not take {name} = {value}")
        Interface_Static.SetIVal_s("write.surfacecurve.mode", int(parameter_curves))
        ready, places = ready_for_step(shape)
        writer = STEPControl_Writer()
        status = writer.Transfer(ready, STEPControl_StepModelType.STEPControl_AsIs)
        if status != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise KernelRefused(f"the kernel could not turn a body into STEP ({status.name})")
        stream = io.BytesIO()
        writer.WriteStream(stream)
        faces = tuple(places[n] for n in _face_order(ready))
        return BodyText(
            stream.getvalue(), faces, _edge_records(writer, shape, ready, edges) if edges else {}
        )


def _edge_records(
    writer: STEPControl_Writer, shape: TopoDS_Shape, ready: TopoDS_Shape, edges: Sequence[int]
) -> dict[int, int]:
    """Record numbers of some edges; those that were not written as one edge are left out."""
    _held, ordinals = ordinals_of(writer.Model())
    finder = writer.WS().TransferWriter().FinderProcess()
    written, spots, before = edges_of(ready), edge_spots(ready), edge_spots(shape)
    records: dict[int, int] = {}
    for edge in edges:
        place = nearest_spot(spots, before[edge]) if edge < len(before) else -1
        entity = STEPConstruct.FindEntity_s(finder, written[place]) if place >= 0 else None
        if number := ordinals.get(id(entity), 0):
            records[edge] = number
    return records


def _face_order(shape: TopoDS_Shape) -> tuple[int, ...]:
    """Faces shell by shell as the kernel writes them: the outer shell of a solid first."""
    order = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_FACE, order)
    shells: list[TopoDS_Shape] = []
    if shape.ShapeType() == TopAbs_ShapeEnum.TopAbs_SOLID:
        outer = BRepClass3d.OuterShell_s(TopoDS.Solid(shape))
        shells.append(outer)
        explorer = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_SHELL)
        while explorer.More():
            if not explorer.Current().IsSame(outer):
                shells.append(explorer.Current())
            explorer.Next()
    else:
        shells.append(shape)
    places: list[int] = []
    for shell in shells:
        if shell.ShapeType() == TopAbs_ShapeEnum.TopAbs_FACE:
            places.append(0)
            continue
        iterator = TopoDS_Iterator(shell)
        while iterator.More():
            index = order.FindIndex(iterator.Value())
            if index:
                places.append(index - 1)
            iterator.Next()
    return tuple(places)
