"""Bodies of a STEP file: completed, held against what the records say, and read again where they differ."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.STEPControl import STEPControl_Reader
from OCP.StepData import StepData_StepModel
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Shape

from gondrel.core.errors import GondrelError
from gondrel.core.integral.outline import BodyOutline
from gondrel.core.kernel.base.shape import faces_of, split_bodies
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.kernel.exchange.as_sent import all_off
from gondrel.core.kernel.exchange.outline_check import faces_elsewhere
from gondrel.core.kernel.exchange.outline_fit import fitted_to_outline
from gondrel.core.kernel.measure.mass import exact_area_of
from gondrel.core.kernel.topology.completion import Completion, Way
from gondrel.core.kernel.topology.tolerances import widen_tolerances

__all__ = ["BodyMaking", "CompletedBody", "Ordinals", "ordinals_of", "raw_bodies"]


@dataclass(slots=True)
class CompletedBody:
    """A completed body.

    Args:
        shape: the body; places: what each face of the raw shape became.
        elsewhere: record numbers of faces that do not lie where the records say, however they were read.
        again: those that lay elsewhere at first and were read another way; wrong: those whose loops run the
            wrong way round in the file; mended: those where the seam says what is meant.
        loose: those from whose surfaces their edges end far off in the file.
        is_coarse: whether the completion cut an edge beside a seam, so that curves on a face lie off.
        whole: area and volume by the records, mm2 and mm3; not a number where they do not say.
    """

    shape: TopoDS_Shape
    places: list[TopoDS_Shape]
    elsewhere: tuple[int, ...] = ()
    again: tuple[int, ...] = ()
    wrong: tuple[int, ...] = ()
    mended: tuple[int, ...] = ()
    is_coarse: bool = False
    loose: tuple[int, ...] = ()
    whole: tuple[float, float] = field(default=(float("nan"), float("nan")))


_LOOSE = 0.1
"""From which distance, mm, of its edges on a face is told: writers leave gaps of a hundredth of that."""

Outlined = Callable[[int], BodyOutline | None]
Ordinals = NDArray[np.int64]


class BodyMaking:
    """Completes the bodies of one file.

    Args:
        path: of the file, should it have to be read again.
        outlined: what the records say of the body of a record, by its ordinal; numbering: what the
            ordinals of the file's records are taken for, their own when not given.
    """

    def __init__(self, path: str, outlined: Outlined, numbering: Ordinals | None = None) -> None:
        self.path = path
        self.outlined = outlined
        self.numbering = numbering
        self.completion = Completion()
        self._raw_again: dict[int, TopoDS_Shape] | None = None

    def made(self, raw: TopoDS_Shape) -> CompletedBody:
        """A raw body completed as usual, not held against anything. Call it inside kernel_call."""
        return _completed(self.completion, raw, {})

    def checked(self, body: CompletedBody, record: int) -> CompletedBody:
        """The body where its faces lie as the records say, else one read again in which they do.

        Call it inside kernel_call. It may wait for the records.
        """
        outline = self.outlined(record)
        if outline is None or len(outline.numbers) != len(body.places):
            return body
        wrong = outline.wrong.nonzero()[0].tolist()
        astray = first = _astray(body, outline)
        if (astray or wrong) and (again := self._another(record, len(body.places))) is not None:
            ways = {**dict.fromkeys(astray, Way.STOCK), **dict.fromkeys(wrong, Way.LOOPS_KEPT)}
            other = _completed(Completion(), again, ways)
            still = _astray(other, outline)
            if len(still) <= len(astray):
                body, astray = other, still
            fresh = self._another(record, len(body.places), fresh=True) if astray else None
            if fresh is not None and (made := _made_anew(fresh, outline)) is not None:
                still = _astray(made, outline)
                if len(still) < len(astray):
                    body, astray = made, still
        elif body.is_coarse and (fresh := self._another(record, len(body.places), fresh=True)) is not None:
            made = _made_anew(fresh, outline)
            if made is not None and not _astray(made, outline):
                body = min(body, made, key=lambda one: _off(one, outline))
        numbers = outline.numbers.tolist()
        body.elsewhere = tuple(numbers[place] for place in astray)
        body.again = tuple(numbers[place] for place in first if place not in astray)
        body.wrong = tuple(numbers[place] for place in wrong)
        body.mended = tuple(numbers[place] for place in outline.mended.nonzero()[0].tolist())
        body.loose = tuple(numbers[place] for place in (outline.off > _LOOSE).nonzero()[0].tolist())
        body.whole = outline.whole
        return body

    def _another(self, record: int, faces: int, *, fresh: bool = False) -> TopoDS_Shape | None:
        """The raw body of a record from the file read once more, None when it is not there again.

        Completing a body leaves curves on its raw edges; fresh is one that nothing was done to.
        """
        if self._raw_again is None or fresh:
            self._raw_again = raw_bodies(self.path, self.numbering)
        raw = self._raw_again.get(record)
        return raw if raw is not None and len(faces_of(raw)) == faces else None


def _completed(completion: Completion, raw: TopoDS_Shape, ways: dict[int, Way]) -> CompletedBody:
    faces = faces_of(raw)
    shape = completion.completed(raw, ways)
    is_coarse = widen_tolerances(shape)
    return CompletedBody(shape, [completion.now(face) for face in faces], is_coarse=is_coarse)


def _made_anew(shape: TopoDS_Shape, outline: BodyOutline) -> CompletedBody | None:
    """The body made from its plain geometry and topology, as those of other formats are; None when that
    does not give one body with the same faces.

    Args:
        outline: of its faces in the order of faces_of.
    """
    try:
        boundary = boundary_of(shape).boundary
        sources = [face.source for face in boundary.faces]
        made = fitted_to_outline(boundary, outline.only(sources)).making.bodies
    except GondrelError:
        return None
    if len(made) != 1:
        return None
    faces, places = faces_of(made[0].shape), {}
    for number, parts in made[0].faces.items():
        if len(parts) == 1:
            places[sources[number]] = faces[parts[0]]
    if sorted(places) != list(range(len(faces_of(shape)))) or len(faces) != len(places):
        return None
    is_coarse = widen_tolerances(made[0].shape)
    return CompletedBody(made[0].shape, [places[place] for place in sorted(places)], is_coarse=is_coarse)


def _off(body: CompletedBody, outline: BodyOutline) -> float:
    """How far a body's area is from what the records say, mm2; not a number where they do not say."""
    return abs(exact_area_of(body.shape) - outline.whole[0])


def _astray(body: CompletedBody, outline: BodyOutline) -> list[int]:
    """Places of faces that do not lie where the outline says; all, when they were made other faces."""
    if any(place.ShapeType() != TopAbs_ShapeEnum.TopAbs_FACE for place in body.places):
        return list(range(len(outline.numbers)))
    if len(faces_of(body.shape)) != len(outline.numbers):
        return list(range(len(outline.numbers)))
    return faces_elsewhere([TopoDS.Face(place) for place in body.places], outline)


_BENEATH = frozenset({
    "StepGeom_Axis2Placement3d", "StepGeom_CartesianPoint", "StepGeom_Direction", "StepGeom_Vector",
    "StepShape_EdgeLoop", "StepShape_FaceBound", "StepShape_FaceOuterBound", "StepShape_OrientedEdge",
    "StepShape_VertexPoint",
})  # fmt: skip
"""Records that stand beneath faces: nine of ten in a file."""

_WITHOUT_FACES = ("GeometricSet", "GeometricCurveSet", "Wireframe", "PointRepresentation")
"""Kinds of records, by a part of their names, of files where a body may come from one of those."""


def ordinals_of(
    model: StepData_StepModel, numbering: Ordinals | None = None
) -> tuple[list[object], dict[int, int]]:
    """Records of a file that a body or a face may come from, and by the identity of each its place, from 1,
    while they are held.

    Args:
        numbering: what is given for the place of each record, as where a file is a part of another.
    """
    numbers = range(1, model.NbEntities() + 1)
    kept: list[object] = []
    places: list[int] = []
    for place, entity in zip(numbers, map(model.Value, numbers), strict=True):
        if type(entity).__name__ not in _BENEATH:
            kept.append(entity)
            places.append(place)
    if any(word in kind.__name__ for kind in set(map(type, kept)) for word in _WITHOUT_FACES):
        kept, places = list(map(model.Value, numbers)), list(numbers)
    if numbering is not None and len(numbering) == len(numbers):
        places = numbering[np.array(places, np.int64) - 1].tolist()
    return kept, dict(zip(map(id, kept), places, strict=True))


def raw_bodies(path: str, numbering: Ordinals | None = None) -> dict[int, TopoDS_Shape]:
    """The bodies of a file in their own frames, not completed, by the ordinals of their records.

    Args:
        numbering: as ordinals_of has it.
    """
    reader = STEPControl_Reader()
    if reader.ReadFile(path) != IFSelect_ReturnStatus.IFSelect_RetDone:
        return {}
    reader.SetShapeFixParameters(all_off())
    reader.TransferRoots()
    model, transfer = reader.StepModel(), reader.WS().TransferReader()
    _held, ordinals = ordinals_of(model, numbering)
    bodies: dict[int, TopoDS_Shape] = {}
    for _, body in split_bodies(reader.OneShape()):
        alone = body.Located(TopLoc_Location())
        entity = transfer.EntityFromShapeResult(alone, -1) or transfer.EntityFromShapeResult(body, -1)
        ordinal = ordinals.get(id(entity), 0) if entity is not None else 0
        if ordinal:
            bodies.setdefault(ordinal, alone)
    return bodies
