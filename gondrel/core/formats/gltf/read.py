"""A glTF file as mesh bodies in their places.

Source: glTF 2.0 specification (ISO/IEC 12113): nodes and their matrices, meshes of triangles, accessors,
materials' base colours; GLB container, chapter 4. Strips, fans, sparse accessors, compressed and animated
geometry are not read, and said so.
"""

from __future__ import annotations

import base64
import binascii
import json
import struct
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.gltf.colours import from_linear
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.census import Census, Remainder
from gondrel.core.model.facets import welded
from gondrel.core.model.product import Product
from gondrel.core.model.provenance import FileFacts, Note, Provenance, Writer
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import BY_KEY, METRE
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import checked_file

__all__ = ["is_gltf", "read", "read_card"]

_MAGIC = b"glTF"
_TYPES = {5120: "i1", 5121: "u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_TRIANGLES = 4
_DEEPEST = 200
_LARGEST = 2_000_000_000
_UPRIGHT = np.array([[1.0, 0, 0, 0], [0, 0, -1.0, 0], [0, 1.0, 0, 0], [0, 0, 0, 1.0]])
"""Their y upward to our z upward."""

_KINDS = {
    "cameras": "cameras", "skins": "animations", "animations": "animations", "textures": "textures",
    "images": "textures", "samplers": "textures",
}  # fmt: skip
_SERVING = ("accessors", "bufferViews", "buffers", "scenes")
_CARRIED = ("nodes", "meshes", "materials")


def is_gltf(head: bytes, path: str) -> bool:
    """Whether a file is glTF as text: JSON that names its asset, by its ending or the first of it."""
    is_json = head.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"{")
    return is_json and (b'"asset"' in head or Path(path).suffix.lower() == ".gltf")


@dataclass(slots=True)
class _Gltf:
    path: str
    plain: dict[str, Any]
    inner: bytes | None
    buffers: dict[int, bytes] = field(default_factory=dict)

    def listed(self, key: str) -> list[dict[str, Any]]:
        """The objects of one kind. Raises MalformedFile when they are none."""
        items = self.plain.get(key, [])
        if not isinstance(items, list) or not all(isinstance(item, dict) for item in items):
            raise MalformedFile(f"{key} is no list of objects", file=self.path, where=key)
        return items

    def at(self, key: str, index: Any) -> dict[str, Any]:
        """One object. Raises MalformedFile when it is not there."""
        items = self.listed(key)
        if not isinstance(index, int) or isinstance(index, bool) or not 0 <= index < len(items):
            raise MalformedFile(f"{key} {index} is not there", file=self.path, where=key)
        return items[index]

    def array(self, index: Any, width: int) -> np.ndarray:  # type: ignore[type-arg]
        """The values of an accessor, (n, width). Raises MalformedFile, InputError."""
        accessor = self.at("accessors", index)
        where = f"accessor {index}"
        kind = _TYPES.get(accessor.get("componentType", 0))
        count, start = accessor.get("count"), accessor.get("byteOffset", 0)
        if kind is None or not isinstance(count, int) or count < 0 or "sparse" in accessor:
            raise MalformedFile("its values are of a kind that is not read", file=self.path, where=where)
        view = self.at("bufferViews", accessor.get("bufferView"))
        data = self._buffer(view.get("buffer"))
        size = np.dtype(kind).itemsize * width
        offset, stride = view.get("byteOffset", 0), view.get("byteStride", size)
        numbers = (offset, stride, start, view.get("byteLength"))
        if not all(isinstance(n, int) and n >= 0 for n in numbers) or stride < size:
            raise MalformedFile("its places make no sense", file=self.path, where=where)
        first, end = offset + start, offset + min(view["byteLength"], _LARGEST)
        if count and (first + stride * (count - 1) + size > min(end, len(data))):
            raise MalformedFile("it reaches beyond its buffer", file=self.path, where=where)
        if not count:
            return np.zeros((0, width))
        block = np.frombuffer(data, np.uint8, stride * (count - 1) + size, first)
        rows = np.lib.stride_tricks.as_strided(block, (count, size), (stride, 1))
        return np.ascontiguousarray(rows).view(kind).reshape(count, width)

    def _buffer(self, index: Any) -> bytes:
        buffer = self.at("buffers", index)
        if index not in self.buffers:
            self.buffers[index] = self._loaded(buffer, f"buffer {index}")
        return self.buffers[index]

    def _loaded(self, buffer: dict[str, Any], where: str) -> bytes:
        uri = buffer.get("uri")
        if uri is None:
            if self.inner is None:
                raise MalformedFile("it has no data", file=self.path, where=where)
            return self.inner
        if not isinstance(uri, str):
            raise MalformedFile("its address is no text", file=self.path, where=where)
        if uri.startswith("data:"):
            try:
                return base64.b64decode(uri.partition(",")[2], validate=True)
            except binascii.Error as error:
                raise MalformedFile(
                    f"its data make no sense: {error}", file=self.path, where=where
                ) from None
        name = PurePosixPath(uri)
        if name.is_absolute() or ".." in name.parts or ":" in uri:
            raise InputError("its data lie outside the folder of the file", file=self.path, where=where)
        return checked_file(Path(self.path).parent / name, _LARGEST).read_bytes()


def _open(path: str) -> _Gltf:
    """Raises InputError, MalformedFile."""
    data = checked_file(path).read_bytes()
    inner: bytes | None = None
    if data.startswith(_MAGIC):
        data, inner = _chunks(path, data)
    try:
        plain = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise MalformedFile(f"its description is no JSON: {error}", file=path) from error
    asset = plain.get("asset") if isinstance(plain, dict) else None
    if not isinstance(asset, dict) or not str(asset.get("version", "")).startswith("2."):
        raise MalformedFile("it is no glTF of version 2", file=path, where="asset")
    return _Gltf(path, plain, inner)


def _chunks(path: str, data: bytes) -> tuple[bytes, bytes | None]:
    """The description and the data of a binary file."""
    if len(data) < 20:
        raise MalformedFile("the file is cut off", file=path, where=f"byte {len(data)}")
    version, whole = struct.unpack_from("<II", data, 4)
    if version != 2:
        raise MalformedFile(f"it is of version {version}; 2 is read", file=path, where="byte 4")
    if whole > len(data):
        raise MalformedFile(
            f"the file is cut off: {len(data):,} of {whole:,} bytes", file=path, where=f"byte {len(data)}"
        )
    found: dict[bytes, bytes] = {}
    at = 12
    while at + 8 <= whole:
        size, kind = struct.unpack_from("<I4s", data, at)
        if at + 8 + size > whole:
            raise MalformedFile("a chunk reaches beyond the file", file=path, where=f"byte {at}")
        found.setdefault(kind, data[at + 8 : at + 8 + size])
        at += 8 + size
    if b"JSON" not in found:
        raise MalformedFile("it has no description", file=path, where="byte 12")
    return found[b"JSON"], found.get(b"BIN\0")


def read_card(path: str) -> FileFacts:
    """The file card of a glTF file. Raises InputError, MalformedFile."""
    return _card(_open(path))


def _card(file: _Gltf) -> FileFacts:
    meshes = file.listed("meshes")
    asset = file.plain["asset"]
    variant = "binary" if file.inner is not None else "text"
    return FileFacts(
        path=str(Path(file.path).resolve()), bytes=Path(file.path).stat().st_size, format="gltf",
        variant=variant, schema="glTF 2.0", length_unit="m", mm_per_unit=METRE.mm,
        written_by=Writer(str(asset.get("generator", ""))),
        counts=(("meshes", len(meshes)), ("nodes", len(file.listed("nodes")))), title="glTF",
    )  # fmt: skip


def read(
    path: str, store: BlobStore, *, settings: ReceiveSettings = AS_SENT, progress: Progress = SILENT
) -> Model:
    """Read a glTF file as sent: every node with a mesh as a body in its place. Raises InputError,
    MalformedFile."""
    progress.at(0.0, "Reading the file")
    file = _open(path)
    try:
        reader = _Reader(file, store, BY_KEY.get(settings.unit, METRE).mm, progress)
        reader.scene()
    except (KeyError, IndexError, TypeError, ValueError, OverflowError, AttributeError) as error:
        raise MalformedFile(f"its values make no sense ({error})", file=path) from error
    if not reader.bodies:
        raise MalformedFile("there is no triangle in it", file=path, where="meshes")
    product = Product("p1", "", Path(path).stem, bodies=tuple(reader.bodies))
    card = _card(file)
    unit = BY_KEY.get(settings.unit, METRE)
    provenance = Provenance(card, "", census=_census(file, reader))
    return Model((product,), ("p1",), unit, provenance, (*card.notes, *reader.notes))


class _Reader:
    def __init__(self, file: _Gltf, store: BlobStore, mm: float, progress: Progress) -> None:
        self.file, self.store, self.mm, self.progress = file, store, mm, progress
        self.bodies: list[Body] = []
        self.notes: list[Note] = []
        self.passed: Counter[str] = Counter()
        self.reached: set[int] = set()

    def scene(self) -> None:
        """All nodes of the scene that is shown, or of the first."""
        plain = self.file.plain
        if self.file.listed("scenes"):
            roots = self.file.at("scenes", plain.get("scene", 0)).get("nodes", [])
        else:
            below = {child for node in self.file.listed("nodes") for child in node.get("children", [])}
            roots = [n for n in range(len(self.file.listed("nodes"))) if n not in below]
        for root in roots:
            self._node(root, _UPRIGHT, 0)

    def _node(self, index: Any, above: np.ndarray, depth: int) -> None:  # type: ignore[type-arg]
        node = self.file.at("nodes", index)
        if index in self.reached or depth > _DEEPEST:
            raise MalformedFile(f"node {index} stands in itself", file=self.file.path, where="nodes")
        self.reached.add(index)
        matrix = above @ _matrix(node)
        if "mesh" in node:
            self._mesh(node, matrix)
        for child in node.get("children", []):
            self._node(child, matrix, depth + 1)

    def _mesh(self, node: dict[str, Any], matrix: np.ndarray) -> None:  # type: ignore[type-arg]
        mesh = self.file.at("meshes", node["mesh"])
        name = str(node.get("name") or mesh.get("name") or f"Mesh {node['mesh']}")
        corners, groups, colours = [], [], {}
        for number, primitive in enumerate(mesh.get("primitives", [])):
            if primitive.get("mode", _TRIANGLES) != _TRIANGLES or primitive.get("extensions"):
                self.passed["strips, lines, points or compressed triangles"] += 1
                continue
            points = self.file.array(primitive["attributes"]["POSITION"], 3).astype(float)
            if "indices" in primitive:
                chosen = self.file.array(primitive["indices"], 1)[:, 0].astype(np.int64)
            else:
                chosen = np.arange(len(points))
            if len(chosen) % 3 or (len(chosen) and chosen.max() >= len(points)):
                raise MalformedFile("its corners make no sense", file=self.file.path, where=f"mesh {name}")
            placed = (points @ matrix[:3, :3].T + matrix[:3, 3]) * self.mm
            if not np.isfinite(placed).all():
                raise MalformedFile("a corner is not finite", file=self.file.path, where=f"mesh {name}")
            corners.append(placed[chosen].reshape(-1, 3, 3))
            groups.append(np.full(len(chosen) // 3, number, np.int32))
            colour = self._colour(primitive.get("material"))
            if colour is not None:
                colours[number] = colour
        if corners and sum(map(len, corners)):
            if np.linalg.det(matrix[:3, :3]) < 0:
                corners = [c[:, ::-1] for c in corners]
            self._body(name, np.concatenate(corners), np.concatenate(groups), colours)

    def _body(self, name: str, corners: Any, groups: Any, colours: dict[int, Rgba]) -> None:
        facets = welded(corners, 0.0, groups)
        if flaws := facets.flaws():
            text = "; ".join(map(str, flaws))
            self.notes.append(Note("mesh-not-closed", f"the mesh bounds no solid: {text}", name))
        blob = self.store.put(facets.to_bytes())
        self.progress.give(("body", blob))
        number = f"b{len(self.bodies) + 1}"
        present = {int(g) for g in np.unique(groups)}
        alike = set(colours.values())
        if len(alike) == 1 and present <= set(colours):
            self.bodies.append(Body(number, BodyKind.MESH, name, blob, alike.pop()))
        else:
            self.bodies.append(
                Body(number, BodyKind.MESH, name, blob, None, tuple(sorted(colours.items(), key=_first)))
            )

    def _colour(self, index: Any) -> Rgba | None:
        if index is None:
            return None
        material = self.file.at("materials", index)
        if dict(material.get("extras") or {}).get("uncoloured"):
            return None
        surface = material.get("pbrMetallicRoughness", {})
        return from_linear(surface.get("baseColorFactor", (1.0, 1.0, 1.0, 1.0)))


def _first(pair: tuple[int, Rgba]) -> int:
    return pair[0]


def _matrix(node: dict[str, Any]) -> np.ndarray:  # type: ignore[type-arg]
    """A node's place: its matrix, by columns, or its translation, rotation and scale."""
    if "matrix" in node:
        return np.array(node["matrix"], float).reshape(4, 4).T
    matrix = np.eye(4)
    x, y, z, w = np.array(node.get("rotation", (0, 0, 0, 1)), float)
    turn = np.array([
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ])  # fmt: skip
    matrix[:3, :3] = turn * np.array(node.get("scale", (1, 1, 1)), float)
    matrix[:3, 3] = np.array(node.get("translation", (0, 0, 0)), float)
    return matrix


def _census(file: _Gltf, reader: _Reader) -> Census:
    """Account for every object of the file."""
    counts = {key: len(value) for key, value in file.plain.items() if isinstance(value, list)}
    rest = [Remainder(_KINDS[key], key, count) for key, count in counts.items() if key in _KINDS and count]
    lost = counts.get("nodes", 0) - len(reader.reached)
    if lost:
        rest.append(Remainder("nodes of other scenes", "nodes", lost))
    rest += [Remainder("other triangles", kind, count) for kind, count in reader.passed.items()]
    carried = sum(counts.get(key, 0) for key in _CARRIED) - lost
    serving = sum(counts.get(key, 0) for key in _SERVING)
    left = sum(each.count for each in rest)
    return Census(carried + serving + left, carried, serving, tuple(rest), "objects")
