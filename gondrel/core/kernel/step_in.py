"""STEP through the kernel, as sent: products, placements, bodies and looks, nothing repaired.

The kernel's own healing is switched off; what STEP leaves out (parameter curves, seams, degenerate
edges) is completed afterwards. Each product definition and each assembly usage is given a token for a name
before the transfer, so that the labels that come out can be told apart and traced to their records
however many products share a name.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property

from OCP.IFSelect import (
    IFSelect_ReturnStatus,
    IFSelect_SelectModelEntities,
    IFSelect_SelectType,
)
from OCP.OCP.collections import (
    DataMap_TCollection_AsciiString_TCollection_AsciiString as StringMap,
)
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.OCP.collections import Sequence_TDF_Label as LabelSequence
from OCP.Quantity import Quantity_ColorRGBA, Quantity_TypeOfColor
from OCP.StepBasic import (
    StepBasic_Product,
    StepBasic_ProductDefinition,
    StepBasic_ProductDefinitionFormation,
)
from OCP.STEPCAFControl import STEPCAFControl_Controller, STEPCAFControl_Reader
from OCP.StepRepr import StepRepr_NextAssemblyUsageOccurrence
from OCP.TCollection import (
    TCollection_AsciiString,
    TCollection_ExtendedString,
    TCollection_HAsciiString,
)
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import (
    XCAFDoc_ColorTool,
    XCAFDoc_ColorType,
    XCAFDoc_DocumentTool,
    XCAFDoc_ShapeTool,
)

from gondrel.core.errors import MalformedFile
from gondrel.core.kernel.calls import kernel_call, quiet
from gondrel.core.kernel.complete import Completion
from gondrel.core.kernel.shape import placement_of, split_bodies
from gondrel.core.kernel.tolerances import widen_tolerances
from gondrel.core.model.body import BodyKind, Rgba
from gondrel.core.model.product import Placement
from gondrel.core.work import SILENT, Progress

__all__ = ["TransferredBody", "TransferredProduct", "TransferredUse", "read_step"]

TOKEN = "@gondrel@"

Keep = Callable[[TopoDS_Shape], str]

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


@dataclass(frozen=True, slots=True)
class TransferredBody:
    """A body as the kernel made it; record is the ordinal (from 1) of the record it came from."""

    kind: BodyKind
    blob: str
    faces: int
    record: int
    colour: Rgba | None
    face_colours: tuple[tuple[int, Rgba], ...]
    layers: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TransferredUse:
    """A component of an assembly; record is the ordinal of its usage record, 0 when it has none."""

    record: int
    product: str
    placement: Placement
    colour: Rgba | None


@dataclass(frozen=True, slots=True)
class TransferredProduct:
    """A product as the kernel made it; record is the ordinal of its product definition, or 0."""

    key: str
    record: int
    bodies: tuple[TransferredBody, ...]
    uses: tuple[TransferredUse, ...]


@dataclass(slots=True)
class Transferred:
    """Everything the kernel made of a file, with the number of records it saw."""

    products: dict[str, TransferredProduct] = field(default_factory=dict)
    roots: list[str] = field(default_factory=list)
    records: int = 0


def _as_sent() -> StringMap:
    modes = StringMap()
    for mode in MODES:
        modes.Bind(TCollection_AsciiString(f"FixShape.{mode}"), TCollection_AsciiString("0"))
    return modes


def read_step(path: str, keep: Keep, progress: Progress = SILENT) -> Transferred:
    """Read a STEP file through the kernel without repairing it.

    Args:
        path: absolute path of the file.
        keep: takes each body as soon as it is made and returns its content hash.

    Raises:
        MalformedFile: when the kernel's parser refuses the file.
        KernelRefused: when the transfer raises.
    """
    STEPCAFControl_Controller.Init_s()
    quiet()
    progress.at(0.0, "Parsing")
    reader = STEPCAFControl_Reader()
    reader.SetColorMode(True)
    reader.SetLayerMode(True)
    reader.SetNameMode(True)
    with kernel_call("parsing", file=path):
        status = reader.ReadFile(path)
    if status != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise MalformedFile("not a complete STEP file: the parser refused it", file=path)
    model = reader.ChangeReader().StepModel()
    named = [
        *_all_of(reader, StepBasic_ProductDefinition),
        *_all_of(reader, StepRepr_NextAssemblyUsageOccurrence),
    ]
    _put_tokens(named)
    progress.at(0.35, "Making shapes")
    document = _new_document()
    reader.SetShapeFixParameters(_as_sent())
    with kernel_call("making shapes", file=path):
        reader.Transfer(document)
    progress.at(0.95, "Collecting bodies")
    result = Transferred(records=model.NbEntities())
    with kernel_call("collecting bodies", file=path):
        _Collector(document, reader, named, result, keep).collect()
    return result


def _new_document() -> TDocStd_Document:
    application = XCAFApp_Application.GetApplication_s()
    storage = TCollection_ExtendedString("BinXCAF")
    document = TDocStd_Document(storage)
    application.NewDocument(storage, document)
    return document


def _all_of(reader: STEPCAFControl_Reader, kind: type) -> list[object]:
    """Every record of a kind or of one derived from it, found without listing all others."""
    selection = IFSelect_SelectType(kind.get_type_descriptor_s())  # type: ignore[attr-defined]
    selection.SetInput(IFSelect_SelectModelEntities())
    found = reader.ChangeReader().WS().EvalSelection(selection)
    entities = []
    while found.More():
        entities.append(found.Value())
        found.Next()
    return entities


def _put_tokens(named: list[object]) -> None:
    """Give every product definition and usage a name that says which of the list it is."""
    seen: set[int] = set()
    for place, entity in enumerate(named, 1):
        token = TCollection_HAsciiString(f"{TOKEN}{place}")
        if isinstance(entity, StepRepr_NextAssemblyUsageOccurrence):
            entity.SetId(token)
            entity.SetName(token)
            entity.SetDescription(token)
        elif isinstance(entity, StepBasic_ProductDefinition):
            formation = entity.Formation()
            if formation is None or formation.OfProduct() is None:
                continue
            product = formation.OfProduct()
            if id(formation) in seen or id(product) in seen:
                copy = StepBasic_Product()
                copy.Init(token, token, None, product.FrameOfReference())
                own = StepBasic_ProductDefinitionFormation()
                own.Init(formation.Id(), formation.Description(), copy)
                entity.SetFormation(own)
                continue
            seen.update((id(formation), id(product)))
            product.SetId(token)
            product.SetName(token)


def _label_key(label: TDF_Label) -> str:
    entry = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, entry)
    return str(entry.ToCString())


def _token_of(label: TDF_Label) -> int:
    if not label.IsAttribute(TDataStd_Name.GetID_s()):
        return 0
    name = TDataStd_Name()
    label.FindAttribute(TDataStd_Name.GetID_s(), name)
    text = name.Get().ToExtString()
    return int(text[len(TOKEN) :]) if text.startswith(TOKEN) else 0


def _labels(sequence: LabelSequence) -> Iterator[TDF_Label]:
    for index in range(1, sequence.Length() + 1):
        yield sequence.Value(index)


class _Collector:
    """Walks the labels of a transferred document into plain data."""

    def __init__(
        self,
        document: TDocStd_Document,
        reader: STEPCAFControl_Reader,
        named: list[object],
        result: Transferred,
        keep: Keep,
    ) -> None:
        self.colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
        self.layers = XCAFDoc_DocumentTool.LayerTool_s(document.Main())
        self.shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
        self.transfer = reader.ChangeReader().WS().TransferReader()
        self.model = reader.ChangeReader().StepModel()
        self.named = named
        self.result = result
        self.keep = keep
        self.completion = Completion()
        self._colours: dict[Rgba, Rgba] = {}

    @cached_property
    def ordinals(self) -> dict[int, int]:
        """Place of each record by its identity; made once the first body is handed on."""
        self.entities = [self.model.Value(i) for i in range(1, self.model.NbEntities() + 1)]
        return {id(entity): ordinal for ordinal, entity in enumerate(self.entities, 1)}

    def named_record(self, label: TDF_Label) -> int:
        """Place of the product definition or usage a label came from, 0 without one."""
        place = _token_of(label)
        return self.ordinals.get(id(self.named[place - 1]), 0) if place else 0

    def collect(self) -> None:
        free = LabelSequence()
        self.shapes.GetFreeShapes(free)
        for label in _labels(free):
            self.result.roots.append(self.product(label))

    def product(self, label: TDF_Label) -> str:
        if XCAFDoc_ShapeTool.IsReference_s(label):
            referred = TDF_Label()
            XCAFDoc_ShapeTool.GetReferredShape_s(label, referred)
            return self.product(referred)
        key = _label_key(label)
        if key in self.result.products:
            return key
        uses: list[TransferredUse] = []
        bodies: list[TransferredBody] = []
        if XCAFDoc_ShapeTool.IsAssembly_s(label):
            components = LabelSequence()
            XCAFDoc_ShapeTool.GetComponents_s(label, components, False)
            for component in _labels(components):
                uses.append(self.use(component))
        else:
            bodies = self.bodies(label)
        self.result.products[key] = TransferredProduct(
            key, self.named_record(label), tuple(bodies), tuple(uses)
        )
        return key

    def use(self, label: TDF_Label) -> TransferredUse:
        referred = TDF_Label()
        XCAFDoc_ShapeTool.GetReferredShape_s(label, referred)
        return TransferredUse(
            record=self.named_record(label),
            product=self.product(referred),
            placement=placement_of(XCAFDoc_ShapeTool.GetLocation_s(label)),
            colour=self.colour(label),
        )

    def bodies(self, label: TDF_Label) -> list[TransferredBody]:
        whole = XCAFDoc_ShapeTool.GetShape_s(label)
        kept = []
        for kind, shape in split_bodies(whole):
            completed = self.completion.completed(shape)
            widen_tolerances(completed)
            kept.append((kind, shape, completed, self.keep(completed)))
        own_colour = self.colour(label)
        own_layers = self.layer_names(label)
        styled: list[tuple[TopoDS_Shape, Rgba | None, tuple[str, ...]]] = []
        subs = LabelSequence()
        XCAFDoc_ShapeTool.GetSubShapes_s(label, subs)
        for sub in _labels(subs):
            shape = XCAFDoc_ShapeTool.GetShape_s(sub)
            styled.append((shape, self.colour(sub), self.layer_names(sub)))
        made = []
        for kind, shape, completed, blob in kept:
            order = ShapeMap()
            TopExp.MapShapes_s(completed, TopAbs_ShapeEnum.TopAbs_FACE, order)
            colour, layers = own_colour, own_layers
            for sub_shape, sub_colour, sub_layers in styled:
                if sub_shape.IsSame(shape) or (kind is not BodyKind.WIRE and _holds(shape, sub_shape)):
                    colour = sub_colour or colour
                    layers = sub_layers or layers
            made.append(
                TransferredBody(
                    kind=kind,
                    blob=blob,
                    faces=order.Extent(),
                    record=self.record_of(shape),
                    colour=colour,
                    face_colours=self.face_colours(order, styled, colour),
                    layers=layers,
                )
            )
        return made

    def face_colours(
        self,
        order: ShapeMap,
        styled: list[tuple[TopoDS_Shape, Rgba | None, tuple[str, ...]]],
        own: Rgba | None,
    ) -> tuple[tuple[int, Rgba], ...]:
        """Colours of single faces by their place in a completed body."""
        found: dict[int, Rgba] = {}
        for sub, colour, _ in styled:
            if colour is None or sub.ShapeType() != TopAbs_ShapeEnum.TopAbs_FACE:
                continue
            index = order.FindIndex(sub) or order.FindIndex(self.completion.now(sub))
            if index and colour != own:
                found[index - 1] = colour
        return tuple(sorted(found.items()))

    def record_of(self, shape: TopoDS_Shape) -> int:
        entity = self.transfer.EntityFromShapeResult(shape, -1)
        return self.ordinals.get(id(entity), 0) if entity is not None else 0

    def colour(self, label: TDF_Label) -> Rgba | None:
        for kind in (
            XCAFDoc_ColorType.XCAFDoc_ColorSurf,
            XCAFDoc_ColorType.XCAFDoc_ColorGen,
            XCAFDoc_ColorType.XCAFDoc_ColorCurv,
        ):
            found = Quantity_ColorRGBA()
            if XCAFDoc_ColorTool.GetColor_s(label, kind, found):
                red, green, blue = found.GetRGB().Values(Quantity_TypeOfColor.Quantity_TOC_sRGB)
                made = Rgba(round(red, 6), round(green, 6), round(blue, 6), round(found.Alpha(), 6))
                return self._colours.setdefault(made, made)  # one object for each colour
        return None

    def layer_names(self, label: TDF_Label) -> tuple[str, ...]:
        found = LabelSequence()
        if not self.layers.GetLayers(label, found):
            return ()
        names = []
        for layer in _labels(found):
            name = TCollection_ExtendedString()
            if self.layers.GetLayer(layer, name):
                names.append(name.ToExtString())
        return tuple(names)


def _holds(body: TopoDS_Shape, part: TopoDS_Shape) -> bool:
    """Whether a styled shape is the single shell of a body."""
    if part.ShapeType() != TopAbs_ShapeEnum.TopAbs_SHELL:
        return False
    explorer = TopExp_Explorer(body, TopAbs_ShapeEnum.TopAbs_SHELL)
    return bool(explorer.More() and explorer.Current().IsSame(part))
