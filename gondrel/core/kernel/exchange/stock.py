"""A file as another receiver sees it: through the kernel's stock document reader, all its settings as
they come. Nothing of our own reading has a part in it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from OCP.BRepGProp import BRepGProp
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESCAFControl import IGESCAFControl_Reader
from OCP.IGESControl import IGESControl_Controller
from OCP.OCP.collections import (
    DataMap_TCollection_AsciiString_TCollection_AsciiString as StringMap,
)
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.OCP.collections import Sequence_TDF_Label as LabelSequence
from OCP.Quantity import Quantity_ColorRGBA, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Controller, STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import (
    XCAFDoc_ColorTool,
    XCAFDoc_ColorType,
    XCAFDoc_DocumentTool,
    XCAFDoc_ShapeTool,
)

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call, quiet
from gondrel.core.kernel.base.shape import faces_of, placement_of, split_bodies
from gondrel.core.kernel.exchange.step_labels import labels_of
from gondrel.core.kernel.measure.mass import FINE_ERROR, area_of, integrated
from gondrel.core.model.body import BodyFacts, BodyKind, Rgba
from gondrel.core.model.other import OtherOccurrence, OtherProduct, OtherReading

__all__ = ["read_as_other"]

_ERROR, _FEW = 1e-7, 200
"""Relative error asked of its integrals of bodies of more than so many faces."""

_SHAPES = (XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen)


def read_as_other(path: str, form: str, meant: Sequence[BodyFacts] = ()) -> OtherReading:
    """A file by the kernel's stock document reader.

    Args:
        form: "step" or "iges".
        meant: measures of bodies that may be in it. Where the quick rule finds one of their figures to
            1e-10 it is not integrated more finely.

    Raises:
        KernelRefused: when it can't be read so.
    """
    quiet()
    with kernel_call("reading as another reader does", file=path):
        document = TDocStd_Document(TCollection_ExtendedString("other"))
        if form == "iges":
            IGESControl_Controller.Init_s()
            reader = IGESCAFControl_Reader()
            status = reader.ReadFile(path)
            reader.SetShapeFixParameters(StringMap())
        else:
            STEPCAFControl_Controller.Init_s()
            reader = STEPCAFControl_Reader()
            status = reader.ReadFile(path)
        if status != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise KernelRefused("the stock reader refused the file", file=path)
        reader.Transfer(document)
        return _Walk(document, _Known.of(meant)).reading()


@dataclass(frozen=True, slots=True)
class _Known:
    """Areas and volumes that are known of bodies, rising, mm2 and mm3."""

    areas: list[float]
    volumes: list[float]

    @classmethod
    def of(cls, bodies: Sequence[BodyFacts]) -> _Known:
        """Those of some bodies."""
        return cls(sorted(facts.area for facts in bodies), sorted(facts.volume for facts in bodies))


class _Walk:
    def __init__(self, document: TDocStd_Document, known: _Known) -> None:
        self.known = known
        self.shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
        self.products: list[OtherProduct] = []
        self.seen: dict[tuple[int, int, str], int] = {}

    def reading(self) -> OtherReading:
        free = LabelSequence()
        self.shapes.GetFreeShapes(free)
        roots = [self.product(label) for label in labels_of(free)]
        return OtherReading(tuple(self.products), tuple(roots))

    def product(self, label: TDF_Label) -> int:
        if XCAFDoc_ShapeTool.IsReference_s(label):
            referred = TDF_Label()
            XCAFDoc_ShapeTool.GetReferredShape_s(label, referred)
            return self.product(referred)
        name = _name(label)
        key = (label.Tag(), label.Depth(), name)
        if key in self.seen:
            return self.seen[key]
        place = self.seen[key] = len(self.products)
        self.products.append(OtherProduct(name))
        if XCAFDoc_ShapeTool.IsAssembly_s(label):
            components = LabelSequence()
            XCAFDoc_ShapeTool.GetComponents_s(label, components, False)
            uses = tuple(
                OtherOccurrence(self.product(c), placement_of(XCAFDoc_ShapeTool.GetLocation_s(c)), _name(c))
                for c in labels_of(components)
            )
            self.products[place] = OtherProduct(name, uses)
        else:
            self.products[place] = _part(label, name, self.known)
        return place


def _part(label: TDF_Label, name: str, known: _Known) -> OtherProduct:
    """A product with shape: its bodies, and the area that each colour covers."""
    whole = XCAFDoc_ShapeTool.GetShape_s(label)
    volume, area = 0.0, 0.0
    kinds: dict[str, int] = {}
    for kind, body in split_bodies(whole):
        kinds[kind.value] = kinds.get(kind.value, 0) + 1
        error = FINE_ERROR if len(faces_of(body)) <= _FEW else _ERROR
        if kind in (BodyKind.SOLID, BodyKind.SHEET):
            area += integrated(BRepGProp.SurfaceProperties_s, body, error, known.areas)[0].Mass()
        if kind is BodyKind.SOLID:
            volume += integrated(BRepGProp.VolumeProperties_s, body, error, known.volumes)[0].Mass()
    return OtherProduct(name, (), tuple(sorted(kinds.items())), volume, area, _colours(label, whole))


def _colours(label: TDF_Label, whole: TopoDS_Shape) -> tuple[tuple[str, float], ...]:
    """Colour as #rrggbb and the area of the faces that show it; empty for none."""
    shown: dict[int, str] = {}
    order = ShapeMap()
    TopExp.MapShapes_s(whole, TopAbs_ShapeEnum.TopAbs_FACE, order)
    own = _colour(label)
    if own:
        shown.update(dict.fromkeys(range(1, order.Extent() + 1), own))
    subs = LabelSequence()
    XCAFDoc_ShapeTool.GetSubShapes_s(label, subs)
    styled = [(XCAFDoc_ShapeTool.GetShape_s(sub), _colour(sub)) for sub in labels_of(subs)]
    # Of a body first, of single faces over it.
    for shape, colour in sorted(styled, key=lambda pair: int(pair[0].ShapeType())):
        if colour:
            for face in faces_of(shape):
                index = order.FindIndex(face)
                if index:
                    shown[index] = colour
    areas: dict[str, float] = {}
    for index, colour in shown.items():
        face = faces_of(order.FindKey(index))[0]
        areas[colour] = areas.get(colour, 0.0) + area_of(face)
    return tuple(sorted(areas.items()))


def _colour(label: TDF_Label) -> str:
    colour = Quantity_ColorRGBA()
    for kind in _SHAPES:
        if XCAFDoc_ColorTool.GetColor_s(label, kind, colour):
            red, green, blue = colour.GetRGB().Values(Quantity_TypeOfColor.Quantity_TOC_sRGB)
            return Rgba(red, green, blue).hex
    return ""


def _name(label: TDF_Label) -> str:
    if not label.IsAttribute(TDataStd_Name.GetID_s()):
        return ""
    name = TDataStd_Name()
    label.FindAttribute(TDataStd_Name.GetID_s(), name)
    return str(name.Get().ToExtString())
