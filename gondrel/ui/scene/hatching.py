"""Lines that belong to no body: the hatching of cut faces, and trails of what is taken apart."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper

from gondrel.core.model import Rgba
from gondrel.core.model.cutting import CutPlane
from gondrel.core.sheet.hatching import Hatch, hatch_lines
from gondrel.ui.scene.bodies import PlacedBody
from gondrel.ui.scene.body_mesh import make_lines

__all__ = ["hatched", "ink_on", "trails_of"]

_DARK, _LIGHT = Rgba(0.10, 0.13, 0.16), Rgba(0.97, 0.97, 0.95)
_OPACITY = 0.6
_HATCHES = 46
"""About so many hatch lines lie across the larger side of all that is cut."""


def hatched(caps: Sequence[tuple[PlacedBody, CutPlane, Hatch]], size: float) -> vtkActor | None:
    """The hatching of cut faces as lines over them, light on what is dark; None without any.

    Args:
        caps: cut faces in their places, the plane of each, in the whole, and its hatch; size: of all that
            is cut, mm.
    """
    points, inks, spacing = [], [], max(size / _HATCHES, 1e-6)
    for placed, plane, hatch in caps:
        normal = plane.unit
        right = np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
        right /= np.linalg.norm(right)
        axes = np.stack([right, np.cross(normal, right)], axis=1)
        mesh = placed.mesh
        inner = np.ones(len(mesh.edge_points), bool)
        inner[mesh.edge_starts[1:] - 1] = False  # from the end of one edge to the start of the next
        first = np.flatnonzero(inner)
        rim = placed.in_whole(mesh.edge_points.astype(float))
        flat = rim @ axes
        lines = hatch_lines(np.stack([flat[first], flat[first + 1]], axis=1), hatch, spacing)
        if len(lines):
            depth = float(np.asarray(plane.point) @ normal)
            points.append((lines.reshape(-1, 2) @ axes.T) + depth * normal)
            inks += [_shares(ink_on(placed.colour))] * len(lines)
    if not points:
        return None
    drawn = np.concatenate(points).astype(np.float32)
    actor, mapper = vtkActor(), vtkPolyDataMapper()
    data = make_lines(drawn, np.arange(0, len(drawn) + 1, 2))
    data.GetCellData().SetScalars(numpy_to_vtk((255 * np.array(inks)).round().astype(np.uint8), deep=True))
    mapper.SetInputData(data)
    mapper.SetResolveCoincidentTopologyToPolygonOffset()
    mapper.SetRelativeCoincidentTopologyLineOffsetParameters(-2.0, -2.0)
    actor.SetMapper(mapper)
    prop = actor.GetProperty()
    prop.SetLighting(False)
    prop.SetOpacity(_OPACITY)
    actor.PickableOff()
    return actor


def ink_on(colour: Rgba) -> Rgba:
    """The colour of lines that are seen better over a colour, the dark or the light one.

    Source: contrast ratio of WCAG 2.2, over what the line lets through.
    """

    def contrast(ink: Rgba) -> float:
        red, green, blue = (
            _OPACITY * over + (1 - _OPACITY) * under
            for over, under in zip(_shares(ink), _shares(colour), strict=True)
        )
        low, high = sorted((Rgba(red, green, blue).luminance, colour.luminance))
        return (high + 0.05) / (low + 0.05)

    return max(_DARK, _LIGHT, key=contrast)


def _shares(colour: Rgba) -> tuple[float, float, float]:
    return colour.red, colour.green, colour.blue


def trails_of(placed: Iterable[PlacedBody]) -> list[vtkActor]:
    """Lines from the places of instances to where they are drawn, one for each path; none without any."""
    ends: dict[tuple[str, ...], np.ndarray] = {}
    for each in placed:
        shift = each.matrix[:3, 3] - each.home[:3, 3]
        if each.is_shown and shift.any():
            middle = each.box.mean(axis=0)
            ends.setdefault(each.path, np.stack([middle - shift, middle]))
    if not ends:
        return []
    points = np.concatenate(list(ends.values())).astype(np.float32)
    actor, mapper = vtkActor(), vtkPolyDataMapper()
    mapper.SetInputData(make_lines(points, np.arange(0, len(points) + 1, 2)))
    actor.SetMapper(mapper)
    actor.GetProperty().SetLighting(False)
    actor.GetProperty().SetColor(*_TRAIL)
    actor.PickableOff()
    return [actor]


_TRAIL = (0.11, 0.36, 0.48)
