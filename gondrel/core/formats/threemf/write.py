"""Mesh bodies as a 3MF package, through the format's own library.

Source: 3MF core specification (objects, build items, base materials); colours are those of a screen.
"""

from __future__ import annotations

import ctypes
from collections.abc import Sequence
from typing import Any

import numpy as np

from gondrel.core.errors import WriteFailed
from gondrel.core.formats.meshes import Piece
from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.threemf.read import UNITS
from gondrel.core.model.body import Rgba

__all__ = ["write"]


def write(pieces: Sequence[Piece], settings: SendSettings, name: str) -> dict[str, bytes]:
    """One object for each piece, in the unit of the settings; the file by its name.

    Raises:
        WriteFailed: when the library refuses.
    """
    from lib3mf import ELib3MFException, ModelUnit, get_wrapper

    wrapper = get_wrapper()
    try:
        model = wrapper.CreateModel()
        model.SetUnit(ModelUnit(UNITS.index(settings.unit.key)))
        group = model.GetMetaDataGroup()
        for key, value in (("Application", settings.system), ("Designer", settings.author)):
            if value:
                group.AddMetaData("", key, value, "xs:string", True)
        colours = _Colours(wrapper, model)
        for piece in pieces:
            _object(wrapper, model, piece, settings.unit.mm, colours)
        packed = model.QueryWriter("3mf").WriteToBuffer()
    except ELib3MFException as error:
        raise WriteFailed(f"the package can't be made: {error}", file=name) from error
    return {name: bytes(packed)}


def _object(wrapper: Any, model: Any, piece: Piece, mm: float, colours: _Colours) -> None:
    from lib3mf import Position, Triangle, TriangleProperties

    mesh = model.AddMeshObject()
    mesh.SetName(piece.name)
    points = np.ascontiguousarray(piece.facets.points / mm, np.float32)
    corners = np.ascontiguousarray(piece.facets.triangles, np.uint32)
    mesh.SetGeometry(_structures(Position, points), _structures(Triangle, corners))
    own = dict(piece.group_colours)
    if piece.colour is not None or own:
        shown = [own.get(group, piece.colour) for group in range(int(piece.facets.groups.max()) + 1)]
        if piece.colour is not None:
            mesh.SetObjectLevelProperty(*colours.place(piece.colour))
        properties = []
        for colour in (shown[group] for group in piece.facets.groups.tolist()):
            resource, place = colours.place(colour) if colour is not None else (0, 0)
            properties.append(TriangleProperties(resource, (ctypes.c_uint32 * 3)(place, place, place)))
        if len(set(shown)) > 1 or piece.colour is None:
            mesh.SetAllTriangleProperties(properties)
    model.AddBuildItem(mesh, wrapper.GetIdentityTransform())


def _structures(kind: Any, rows: np.ndarray) -> list[Any]:  # type: ignore[type-arg]
    """The rows of an array as structures of the library."""
    return list((kind * len(rows)).from_buffer_copy(rows.tobytes()))


class _Colours:
    """The colours of a package as base materials, each once."""

    def __init__(self, wrapper: Any, model: Any) -> None:
        self.wrapper, self.model = wrapper, model
        self._group: Any = None
        self._known: dict[Rgba, int] = {}

    def place(self, colour: Rgba) -> tuple[int, int]:
        """Resource and property of a colour."""
        if self._group is None:
            self._group = self.model.AddBaseMaterialGroup()
        if colour not in self._known:
            shares = (round(255 * v) for v in (colour.red, colour.green, colour.blue, colour.alpha))
            self._known[colour] = self._group.AddMaterial(colour.hex, self.wrapper.RGBAToColor(*shares))
        return self._group.GetResourceID(), self._known[colour]
