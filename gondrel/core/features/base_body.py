"""The base of a part recipe: an extrusion or a revolution where the solid is one."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from gondrel.core.errors import KernelRefused
from gondrel.core.features.lines import is_along, same_axis
from gondrel.core.kernel.base.shape import Shape, faces_of
from gondrel.core.kernel.convert.flat_out import flat_curves
from gondrel.core.kernel.inspect.face_graph import face_graph_of
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.measure.section import cut_shape
from gondrel.core.kernel.modelling.part_steps import framed
from gondrel.core.kernel.modelling.profiled import extruded, region_face, revolved
from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.face_graph import FaceGraph, SolidFace
from gondrel.core.model.geometry import Vector, vector_of
from gondrel.core.model.part_recipe import Base
from gondrel.core.sheet.regions import find_regions

__all__ = ["base_of", "made_base"]

_ALIKE = 1e-7
_MOST_TRIES = 4
_WITHIN = 1e-6


def base_of(solid: Shape) -> tuple[Base, Shape]:
    """The base that a solid is, and the body made of it; the solid itself where it is neither an extrusion
    nor a revolution. Raises KernelRefused when it can't be looked at."""
    graph = face_graph_of(solid)
    facts = measure(solid)
    for base in (*_extrusions(solid, graph), *_revolutions(solid, graph)):
        try:
            made = made_base(base)
            again = measure(made)
        except KernelRefused:
            continue
        if abs(again.volume - facts.volume) < _ALIKE * facts.volume and (
            abs(again.area - facts.area) < _ALIKE * facts.area
            and np.allclose(again.bbox, facts.bbox, atol=1e-4)
        ):
            return base, made
    return Base("remains"), solid


def made_base(base: Base) -> Shape:
    """The body of an extrusion or a revolution. Raises KernelRefused."""
    profile = find_regions(base.curves, _WITHIN)
    if len(profile.regions) != 1:
        raise KernelRefused("the outline of the base body is not one region")
    face = region_face(profile, profile.regions[0])
    way = vector_of(np.cross(base.right, base.up))
    if base.kind == "extrusion":
        return framed(extruded(face, base.depth), base.at, way, base.right)
    return framed(revolved(face, 2 * math.pi, (0.0, 0.0), (0.0, 1.0)), base.at, way, base.right)


def _axes(way: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    up = np.array([0.0, 0.0, 1.0]) if abs(way[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
    right = np.cross(up, way)
    right /= np.linalg.norm(right)
    return right, np.cross(way, right)


def _extrusions(solid: Shape, graph: FaceGraph) -> Iterator[Base]:
    """Extrusions between two flat faces of one area that look away from one another."""
    flat = sorted((f for f in graph.faces if f.kind == "plane"), key=lambda f: -f.area)
    tried = 0
    faces = faces_of(solid)
    for place, one in enumerate(flat):
        for other in flat[place + 1 :]:
            if other.area < one.area * (1 - 1e-6):
                break
            way = np.array(one.way)
            depth = float(np.subtract(one.at, other.at) @ way)
            if float(way @ np.array(other.way)) > -1 + 1e-9 or depth < _WITHIN:
                continue
            if tried == _MOST_TRIES or not _is_prism(graph, one, other):
                continue
            tried += 1
            right, up = _axes(way)
            origin = np.array(other.at)
            curves = tuple(flat_curves(faces[other.index], origin, right, up))
            yield Base("extrusion", vector_of(origin), vector_of(right), vector_of(up), curves, depth)


def _is_prism(graph: FaceGraph, one: SolidFace, other: SolidFace) -> bool:
    """Whether all other faces run along the way between two; those that are neither flat nor round may."""
    for face in graph.faces:
        if face.index in (one.index, other.index) or face.kind == "other":
            continue
        if face.kind == "plane" and abs(float(np.dot(face.way, one.way))) < 1e-6:
            continue
        if face.kind == "cylinder" and is_along(face.way, one.way):
            continue
        return False
    return True


def _revolutions(solid: Shape, graph: FaceGraph) -> Iterator[Base]:
    """A whole turn of what a half plane through the axis cuts."""
    turned = [f for f in graph.faces if f.kind in ("cylinder", "cone", "torus", "sphere")]
    if not turned:
        return
    main = max(turned, key=lambda face: (face.kind != "sphere", face.area))
    axis = np.array(main.way) if main.kind != "sphere" else np.array([0.0, 0.0, 1.0])
    for face in graph.faces:
        if face.kind == "plane" and not is_along(face.way, vector_of(axis)):
            return
        if face.kind in ("cylinder", "cone", "torus") and not same_axis(
            face.at, face.way, main.at, vector_of(axis)
        ):
            return
    right, _ = _axes(axis)
    normal = np.cross(right, axis)
    at: Vector = vector_of(np.array(main.at))
    half = CutPlane(at, vector_of(-right))  # takes away what lies on the left of the axis
    cut = cut_shape(solid, CutPlane(at, vector_of(normal)), (half,))
    if cut.shape is None or len(faces_of(cut.shape)) != 1:
        return
    curves = tuple(flat_curves(cut.shape, np.array(at), right, axis))
    yield Base("revolution", at, vector_of(right), vector_of(axis), curves)
