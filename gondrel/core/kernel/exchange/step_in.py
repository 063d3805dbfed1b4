"""STEP through the kernel, as sent: products, placements, bodies and looks, nothing repaired.

The kernel's own healing is switched off; what STEP leaves out (parameter curves, seams, degenerate
edges) is completed afterwards. Each product definition and each assembly usage is given a token for a name
before the transfer, so that the labels that come out can be told apart and traced to their records
however many products share a name.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from OCP.IFSelect import (
    IFSelect_ReturnStatus,
    IFSelect_SelectModelEntities,
    IFSelect_SelectType,
)
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.OCP.collections import Sequence_TDF_Label as LabelSequence
from OCP.Quantity import Quantity_ColorRGBA, Quantity_TypeOfColor
from OCP.StepBasic import StepBasic_ProductDefinition
from OCP.STEPCAFControl import STEPCAFControl_Controller, STEPCAFControl_Reader
from OCP.StepRepr import (
    StepRepr_NextAssemblyUsageOccurrence,
    StepRepr_ShapeRepresentationRelationship,
)
from OCP.StepShape import StepShape_ShapeDefinitionRepresentation
from OCP.StepVisual import StepVisual_StyledItem
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import (
    XCAFDoc_ColorTool,
    XCAFDoc_ColorType,
    XCAFDoc_DocumentTool,
    XCAFDoc_ShapeTool,
)

from gondrel.core.errors import MalformedFile
from gondrel.core.kernel.base.calls import kernel_call, quiet
from gondrel.core.kernel.base.shape import kind_of, placement_of, split_bodies
from gondrel.core.kernel.exchange.as_sent import all_off
from gondrel.core.kernel.exchange.step_bodies import (
    BodyMaking,
    CompletedBody,
    Ordinals,
    Outlined,
    ordinals_of,
    raw_bodies,
)
from gondrel.core.kernel.exchange.step_labels import label_key, labels_of, put_tokens, token_of
from gondrel.core.kernel.exchange.step_origins import single_origins
from gondrel.core.kernel.exchange.styled_edges import styled_edges, styled_edges_of
from gondrel.core.kernel.exchange.transferred import (
    ReadingFacts,
    Transferred,
    TransferredBody,
    TransferredOccurrence,
    TransferredProduct,
)
from gondrel.core.model.body import BodyKind, Rgba
from gondrel.core.work import SILENT, Progress

__all__ = [
    "MAKING",
    "Keep",
    "ReadingFacts",
    "Trace",
    "TransferredBody",
    "TransferredOccurrence",
    "TransferredProduct",
    "read_items",
    "read_step",
]  # fmt: skip

MAKING = "Making shapes"
"""The step in which the kernel makes all shapes of a file."""

Keep = Callable[[TopoDS_Shape], str]
Trace = Callable[[str, int], None]


def read_step(
    path: str,
    keep: Keep,
    outlined: Outlined = lambda _: None,
    progress: Progress = SILENT,
    clean: Callable[[], str] = lambda: "",
    numbering: Ordinals | None = None,
    traced: Trace = lambda _blob, _record: None,
) -> Transferred:
    """Read a STEP file through the kernel without repairing it.

    Args:
        path: absolute path of the file.
        keep: takes each body as soon as it is made and returns its content hash.
        outlined: what the records say of the body of a record, by its ordinal; None where nothing.
        clean: asked before shapes are made for a file to make them of instead, with as many records; empty
            for the file itself. It may wait for the records, and raise.
        numbering: for each record of the file what its ordinal is taken for, where it is a part of another.
        traced: told the hash of each body that was kept and the ordinal of its record.

    Raises:
        MalformedFile: when the kernel's parser refuses the file.
        KernelRefused: when the transfer raises.
    """
    STEPCAFControl_Controller.Init_s()
    quiet()
    progress.at(0.0, "Parsing")
    reader = _parsed(path)
    if other := clean():
        path, reader = other, _parsed(other)
    model = reader.ChangeReader().StepModel()
    named = [
        *_all_of(reader, StepBasic_ProductDefinition),
        *_all_of(reader, StepRepr_NextAssemblyUsageOccurrence),
    ]
    put_tokens(named)
    progress.at(0.35, MAKING)
    document = TDocStd_Document(TCollection_ExtendedString("received"))  # no application keeps it
    reader.SetShapeFixParameters(all_off())
    with kernel_call("making shapes", file=path):
        reader.Transfer(document)
    progress.at(0.95, "Collecting bodies")
    result = Transferred(records=model.NbEntities())
    with kernel_call("collecting bodies", file=path):
        making = BodyMaking(path, outlined, numbering)
        _Collector(document, reader, named, result, keep, making, traced).collect()
    return result


def _parsed(path: str) -> STEPCAFControl_Reader:
    reader = STEPCAFControl_Reader()
    reader.SetColorMode(True)
    reader.SetLayerMode(True)
    reader.SetNameMode(True)
    for leave_out in (reader.SetPropsMode, reader.SetGDTMode, reader.SetMatMode, reader.SetViewMode):
        leave_out(False)  # known from the records, and the kernel dies of some that make no sense
    with kernel_call("parsing", file=path):
        status = reader.ReadFile(path)
    if status != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise MalformedFile("not a complete STEP file: the parser refused it", file=path)
    return reader


def read_items(
    path: str, wanted: Mapping[int, int], keep: Keep, outlined: Outlined
) -> dict[int, TransferredBody]:
    """Bodies of a file by their records alone, whatever products it has.

    Args:
        wanted: by the ordinal of a record in this file, what it is called; outlined is asked by that.

    Returns: those that could be made, without looks, by what they are called.

    Raises:
        KernelRefused: when the transfer raises.
    """
    STEPCAFControl_Controller.Init_s()
    bodies: dict[int, TransferredBody] = {}
    with kernel_call("making single bodies", file=path):
        raw, making = raw_bodies(path), BodyMaking(path, outlined)
        for ordinal, shape in raw.items():
            name = wanted.get(ordinal)
            if name is None:
                continue
            kind = kind_of(shape)
            body = making.made(shape)
            if kind in (BodyKind.SOLID, BodyKind.SHEET):
                body = making.checked(body, name)
            count = len(body.places)
            blob = keep(body.shape)
            order = _order(body, _faces_in_order(body.shape))
            bodies[name] = TransferredBody(kind, blob, count, name, None, (), (), _reading(body), order)
    return bodies


def _all_of(reader: STEPCAFControl_Reader, kind: type) -> list[object]:
    """Every record of a kind or of one derived from it, found without listing all others."""
    selection = IFSelect_SelectType(kind.get_type_descriptor_s())  # type: ignore[attr-defined]
    selection.SetInput(IFSelect_SelectModelEntities())
    selected = reader.ChangeReader().WS().EvalSelection(selection)
    entities = []
    while selected.More():
        entities.append(selected.Value())
        selected.Next()
    return entities


_Styled = tuple[TopoDS_Shape, Rgba | None, tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class _Kept:
    """A body that was made and handed on: raw as the kernel transferred it, and completed."""

    kind: BodyKind
    raw: TopoDS_Shape
    record: int
    body: CompletedBody
    blob: str


class _Collector:
    """Walks the labels of a transferred document into plain data."""

    def __init__(
        self,
        document: TDocStd_Document,
        reader: STEPCAFControl_Reader,
        named: list[object],
        result: Transferred,
        keep: Keep,
        making: BodyMaking,
        traced: Trace,
    ) -> None:
        self.traced = traced
        self.colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
        self.layers = XCAFDoc_DocumentTool.LayerTool_s(document.Main())
        self.shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
        self.transfer = reader.ChangeReader().WS().TransferReader()
        self.model = reader.ChangeReader().StepModel()
        self.reader = reader
        self.named = named
        self.styled_items = _all_of(reader, StepVisual_StyledItem)
        self.result = result
        self.keep = keep
        self.making = making
        self.parts: dict[str, TDF_Label] = {}
        self.kept: dict[str, list[_Kept]] = {}
        self.styled_edges: frozenset[int] = frozenset()
        self._styled: dict[str, list[_Styled]] = {}
        self._colours: dict[Rgba, Rgba] = {}

    @cached_property
    def origins(self) -> Mapping[int, Mapping[TopAbs_ShapeEnum, object]]:
        """What the records say of products with one body; the identities hold while the records do."""
        assert self.ordinals is not None
        return single_origins(
            _all_of(self.reader, StepShape_ShapeDefinitionRepresentation),
            _all_of(self.reader, StepRepr_ShapeRepresentationRelationship),
        )

    @cached_property
    def ordinals(self) -> dict[int, int]:
        """Place of each record by its identity; made once the first body is handed on."""
        self.entities, ordinals = ordinals_of(self.model, self.making.numbering)
        return ordinals

    def named_record(self, label: TDF_Label) -> int:
        """Place of the product definition or usage a label came from, 0 without one."""
        place = token_of(label)
        return self.ordinals.get(id(self.named[place - 1]), 0) if place else 0

    def collect(self) -> None:
        free = LabelSequence()
        self.shapes.GetFreeShapes(free)
        for label in labels_of(free):
            self.result.roots.append(self.product(label))
        self.styled_edges = styled_edges(self.styled_items, self.ordinals)
        for key, label in self.parts.items():
            bodies = tuple(self.finished(label, kept) for kept in self.kept[key])
            self.result.products[key] = replace(self.result.products[key], bodies=bodies)

    def product(self, label: TDF_Label) -> str:
        if XCAFDoc_ShapeTool.IsReference_s(label):
            referred = TDF_Label()
            XCAFDoc_ShapeTool.GetReferredShape_s(label, referred)
            return self.product(referred)
        key = label_key(label)
        if key in self.result.products:
            return key
        uses: list[TransferredOccurrence] = []
        if XCAFDoc_ShapeTool.IsAssembly_s(label):
            components = LabelSequence()
            XCAFDoc_ShapeTool.GetComponents_s(label, components, False)
            for component in labels_of(components):
                uses.append(self.use(component))
        else:
            self.parts[key] = label
            self.kept[key] = self.raw_bodies(label)
        self.result.products[key] = TransferredProduct(key, self.named_record(label), (), tuple(uses))
        return key

    def use(self, label: TDF_Label) -> TransferredOccurrence:
        referred = TDF_Label()
        XCAFDoc_ShapeTool.GetReferredShape_s(label, referred)
        return TransferredOccurrence(
            record=self.named_record(label),
            product=self.product(referred),
            placement=placement_of(XCAFDoc_ShapeTool.GetLocation_s(label)),
            colour=self.colour(label),
        )

    def raw_bodies(self, label: TDF_Label) -> list[_Kept]:
        """The bodies of a part, completed and handed on, before they are held against the records."""
        bodies = []
        split = list(split_bodies(XCAFDoc_ShapeTool.GetShape_s(label)))
        alone = self.alone(label) if len(split) == 1 else {}
        for kind, shape in split:
            body = self.making.made(shape)
            blob = self.keep(body.shape)
            known = alone.get(shape.ShapeType())
            record = self.ordinals.get(id(known), 0) if known is not None else self.record_of(shape)
            self.traced(blob, record)
            bodies.append(_Kept(kind, shape, record, body, blob))
        return bodies

    def alone(self, label: TDF_Label) -> Mapping[TopAbs_ShapeEnum, object]:
        """The record of the body of a product that has one, by the kind of shape it becomes."""
        place = token_of(label)
        return self.origins.get(id(self.named[place - 1]), {}) if place else {}

    def finished(self, label: TDF_Label, kept: _Kept) -> TransferredBody:
        """A body as the records say, with its looks."""
        body, blob = kept.body, kept.blob
        if kept.kind in (BodyKind.SOLID, BodyKind.SHEET):
            body = self.making.checked(kept.body, kept.record)
            if body is not kept.body:
                blob = self.keep(body.shape)
                self.traced(blob, kept.record)
        order = _faces_in_order(body.shape)
        colour, layers = self.colour(label), self.layer_names(label)
        styled = self.styled(label)
        for sub, sub_colour, sub_layers in styled:
            is_whole = kept.kind is not BodyKind.WIRE and _holds(kept.raw, sub)
            if sub.IsSame(kept.raw) or is_whole:
                colour = sub_colour or colour
                layers = sub_layers or layers
        return TransferredBody(
            kind=kept.kind,
            blob=blob,
            faces=order.Extent(),
            record=kept.record,
            colour=colour,
            face_colours=_face_colours(kept.raw, body, order, styled, colour),
            layers=layers,
            reading=_reading(body),
            order=_order(body, order),
            styled_edges=styled_edges_of(kept.raw, body.shape, self.styled_edges, self.record_of),
        )

    def styled(self, label: TDF_Label) -> list[_Styled]:
        """The parts of a part's shape that have looks of their own."""
        key = label_key(label)
        if key not in self._styled:
            subs = LabelSequence()
            XCAFDoc_ShapeTool.GetSubShapes_s(label, subs)
            self._styled[key] = [
                (XCAFDoc_ShapeTool.GetShape_s(sub), self.colour(sub), self.layer_names(sub))
                for sub in labels_of(subs)
            ]
        return self._styled[key]

    def record_of(self, shape: TopoDS_Shape) -> int:
        entity = self.transfer.EntityFromShapeResult(shape, -1)
        return self.ordinals.get(id(entity), 0) if entity is not None else 0

    def colour(self, label: TDF_Label) -> Rgba | None:
        for kind in (
            XCAFDoc_ColorType.XCAFDoc_ColorSurf,
            XCAFDoc_ColorType.XCAFDoc_ColorGen,
            XCAFDoc_ColorType.XCAFDoc_ColorCurv,
        ):
            colour = Quantity_ColorRGBA()
            if XCAFDoc_ColorTool.GetColor_s(label, kind, colour):
                red, green, blue = colour.GetRGB().Values(Quantity_TypeOfColor.Quantity_TOC_sRGB)
                made = Rgba(round(red, 6), round(green, 6), round(blue, 6), round(colour.Alpha(), 6))
                return self._colours.setdefault(made, made)  # one object for each colour
        return None

    def layer_names(self, label: TDF_Label) -> tuple[str, ...]:
        labels = LabelSequence()
        if not self.layers.GetLayers(label, labels):
            return ()
        names = []
        for layer in labels_of(labels):
            name = TCollection_ExtendedString()
            if self.layers.GetLayer(layer, name):
                names.append(name.ToExtString())
        return tuple(names)


def _faces_in_order(shape: TopoDS_Shape) -> ShapeMap:
    shape_map = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_FACE, shape_map)
    return shape_map


def _order(body: CompletedBody, order: ShapeMap) -> tuple[int, ...]:
    return tuple(order.FindIndex(place) - 1 for place in body.places)


def _holds(body: TopoDS_Shape, part: TopoDS_Shape) -> bool:
    """Whether a styled shape is the single shell of a body."""
    if part.ShapeType() != TopAbs_ShapeEnum.TopAbs_SHELL:
        return False
    explorer = TopExp_Explorer(body, TopAbs_ShapeEnum.TopAbs_SHELL)
    return bool(explorer.More() and explorer.Current().IsSame(part))


def _face_colours(
    raw: TopoDS_Shape,
    body: CompletedBody,
    order: ShapeMap,
    styled: list[_Styled],
    own: Rgba | None,
) -> tuple[tuple[int, Rgba], ...]:
    """Colours of single faces by their place in a completed body."""
    colours: dict[int, Rgba] = {}
    places = _faces_in_order(raw)
    for sub, colour, _ in styled:
        if colour is None or sub.ShapeType() != TopAbs_ShapeEnum.TopAbs_FACE:
            continue
        place = places.FindIndex(sub)
        index = order.FindIndex(body.places[place - 1]) if place else 0
        if index and colour != own:
            colours[index - 1] = colour
    return tuple(sorted(colours.items()))


def _reading(body: CompletedBody) -> ReadingFacts:
    area, volume = (None if math.isnan(figure) else figure for figure in body.whole)
    return ReadingFacts(body.elsewhere, body.again, body.wrong, body.mended, area, volume, body.loose)
