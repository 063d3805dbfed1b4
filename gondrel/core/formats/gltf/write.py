"""Mesh bodies as one binary glTF file.

Source: glTF 2.0 specification (ISO/IEC 12113): metres, y upward, right-handed; GLB container, chapter 4.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Sequence
from typing import Any

import numpy as np

from gondrel import __version__
from gondrel.core.formats.gltf.colours import to_linear
from gondrel.core.formats.meshes import Piece
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.body import Rgba
from gondrel.core.model.units import METRE

__all__ = ["write"]

_UPRIGHT = [1.0, 0.0, 0.0, 0.0, 0.0, 0.0, -1.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0]
"""Our z upward to theirs, y upward; by columns."""

_FLOAT, _INDEX = 5126, 5125
_VERTICES, _TRIANGLES = 34962, 34963
_PLAIN = Rgba(0.62, 0.65, 0.68)


def write(pieces: Sequence[Piece], settings: SendSettings, name: str) -> dict[str, bytes]:
    """One node for each piece below one that stands them upright; the file by its name."""
    file = _File()
    children = [file.piece(piece) for piece in pieces]
    root = len(file.nodes)
    file.nodes.append({"name": name.rpartition(".")[0] or name, "matrix": _UPRIGHT, "children": children})
    plain = {
        "asset": {"version": "2.0", "generator": f"Gondrel {__version__}"},
        "scene": 0,
        "scenes": [{"nodes": [root]}],
        "nodes": file.nodes,
        "meshes": file.meshes,
        "materials": file.materials,
        "accessors": file.accessors,
        "bufferViews": file.views,
        "buffers": [{"byteLength": len(file.data)}],
    }
    text = json.dumps(plain, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    whole = 12 + 8 + len(text) + 8 + len(file.data)
    head = struct.pack("<4sII", b"glTF", 2, whole)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text
    chunks += struct.pack("<I4s", len(file.data), b"BIN\0") + bytes(file.data)
    return {name: head + chunks}


class _File:
    def __init__(self) -> None:
        self.nodes: list[dict[str, Any]] = []
        self.meshes: list[dict[str, Any]] = []
        self.materials: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []
        self.views: list[dict[str, Any]] = []
        self.data = bytearray()
        self._known: dict[Rgba | None, int] = {}

    def piece(self, piece: Piece) -> int:
        """Add a piece; returns its node."""
        facets, own = piece.facets, dict(piece.group_colours)
        points = np.ascontiguousarray(facets.points / METRE.mm, "<f4")
        at = self._add(points.tobytes(), _VERTICES, {
            "componentType": _FLOAT, "count": len(points), "type": "VEC3",
            "min": points.min(axis=0).tolist(), "max": points.max(axis=0).tolist(),
        })  # fmt: skip
        colours = [own.get(group, piece.colour) for group in range(int(facets.groups.max(initial=0)) + 1)]
        materials = np.array([self._material(colour) for colour in colours])[facets.groups]
        primitives = []
        for material in np.unique(materials).tolist():
            corners = np.ascontiguousarray(facets.triangles[materials == material], "<u4")
            indices = self._add(corners.tobytes(), _TRIANGLES, {
                "componentType": _INDEX, "count": corners.size, "type": "SCALAR",
            })  # fmt: skip
            primitives.append({"attributes": {"POSITION": at}, "indices": indices, "material": material})
        self.meshes.append({"name": piece.name, "primitives": primitives})
        self.nodes.append({"name": piece.name, "mesh": len(self.meshes) - 1})
        return len(self.nodes) - 1

    def _add(self, data: bytes, target: int, accessor: dict[str, Any]) -> int:
        self.views.append({
            "buffer": 0, "byteOffset": len(self.data), "byteLength": len(data), "target": target,
        })  # fmt: skip
        self.data += data
        self.accessors.append({"bufferView": len(self.views) - 1, **accessor})
        return len(self.accessors) - 1

    def _material(self, colour: Rgba | None) -> int:
        """The material of a colour; of none a plain one, marked as such."""
        if colour not in self._known:
            shown = colour or _PLAIN
            material: dict[str, Any] = {
                "name": shown.hex if colour is not None else "no colour given",
                "pbrMetallicRoughness": {
                    "baseColorFactor": to_linear(shown), "metallicFactor": 0.0, "roughnessFactor": 0.6,
                },
                "doubleSided": True,
            }  # fmt: skip
            if colour is None:
                material["extras"] = {"uncoloured": True}
            if shown.alpha < 1.0:
                material["alphaMode"] = "BLEND"
            self._known[colour] = len(self.materials)
            self.materials.append(material)
        return self._known[colour]
