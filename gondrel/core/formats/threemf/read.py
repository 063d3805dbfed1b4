"""A 3MF package as mesh bodies and components, through the format's own library.

Source: 3MF core specification (unit, objects, components, build items, base materials, metadata).
"""

from __future__ import annotations

import ctypes
import zipfile
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.formats.threemf.census import census_of
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.census import Census
from gondrel.core.model.facets import Facets, welded
from gondrel.core.model.product import IDENTITY, Metadatum, Occurrence, Placement, Product
from gondrel.core.model.provenance import FileFacts, Note, Provenance, Writer
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import BY_KEY, MILLIMETRE
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.archives import check_size
from gondrel.core.work.files import checked_file

__all__ = ["UNITS", "is_3mf", "read", "read_card"]

UNITS = ("um", "mm", "cm", "inch", "foot", "m")
"""Our unit keys in the order of the library's."""

_RIGID = 1e-6


def is_3mf(head: bytes, path: str) -> bool:
    """Whether a file is a 3MF package: a zip with a model part."""
    if not head.startswith(b"PK\x03\x04"):
        return False
    try:
        with zipfile.ZipFile(path) as archive:
            return any(name.lower().endswith(".model") for name in archive.namelist())
    except (OSError, zipfile.BadZipFile):
        return path.lower().endswith(".3mf")  # cut off; reading it says so


def _open(path: str) -> tuple[Any, Any]:
    """The library's wrapper and model. Raises InputError, MalformedFile."""
    from lib3mf import ELib3MFException, get_wrapper

    checked_file(path)
    try:
        with zipfile.ZipFile(path) as archive:
            check_size(archive, path)
    except zipfile.BadZipFile:
        pass  # the library says what is wrong with it
    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    try:
        reader.ReadFromFile(path)
    except ELib3MFException as error:
        raise MalformedFile(f"not a sound 3MF package: {error}", file=path) from error
    return wrapper, model


def read_card(path: str) -> FileFacts:
    """The file card of a 3MF package. Raises InputError, MalformedFile."""
    wrapper, model = _open(path)
    return _Reader(path, wrapper, model, None, AS_SENT, SILENT).card()


def read(
    path: str, store: BlobStore, *, settings: ReceiveSettings = AS_SENT, progress: Progress = SILENT
) -> Model:
    """Read a 3MF package as sent. Raises InputError, MalformedFile."""
    progress.at(0.0, "Reading the package")
    wrapper, model = _open(path)
    return _Reader(path, wrapper, model, store, settings, progress).read()


@dataclass(slots=True)
class _Reader:
    path: str
    wrapper: Any
    source: Any
    store: BlobStore | None
    settings: ReceiveSettings
    progress: Progress
    products: dict[str, Product] = field(default_factory=dict)
    notes: list[Note] = field(default_factory=list)
    open: set[str] = field(default_factory=set)

    @property
    def mm(self) -> float:
        """Millimetres in one unit of the package, or in the one asked for."""
        return BY_KEY[self.settings.unit or self.said].mm

    @property
    def said(self) -> str:
        """Key of the unit the package says."""
        return UNITS[int(self.source.GetUnit())]

    def read(self) -> Model:
        roots: list[str] = []
        occurrences: list[Occurrence] = []
        items = self.source.GetBuildItems()
        while items.MoveNext():
            item = items.GetCurrent()
            matrix = _matrix(item.GetObjectTransform(), self.mm) if item.HasObjectTransform() else np.eye(4)
            key, placement = self._placed(item.GetObjectResource(), matrix)
            roots.append(key)
            number = item.GetPartNumber()
            occurrences.append(Occurrence(f"item{len(occurrences) + 1}", key, number, placement))
        if not roots:
            raise MalformedFile("nothing in it is to be built", file=self.path, where="build")
        if len(roots) > 1 or any(o.placement != IDENTITY for o in occurrences):
            whole = Product("whole", "", Path(self.path).stem, occurrences=tuple(occurrences))
            self.products = {"whole": whole, **self.products}
            roots = ["whole"]
        unit = BY_KEY.get(self.settings.unit or self.said, MILLIMETRE)
        card = self.card()
        return Model(
            tuple(self.products.values()), tuple(roots), unit,
            Provenance(card, "", census=_census(self.path)),
            (*card.notes, *self.notes),
        )  # fmt: skip

    def card(self) -> FileFacts:
        """What the package says of itself."""
        meshes, facets, components = 0, 0, 0
        objects = self.source.GetMeshObjects()
        while objects.MoveNext():
            meshes += 1
            facets += objects.GetCurrentMeshObject().GetTriangleCount()
        groups = self.source.GetComponentsObjects()
        while groups.MoveNext():
            components += groups.GetCurrentComponentsObject().GetComponentCount()
        said = self._metadata(self.source.GetMetaDataGroup())
        return FileFacts(
            path=str(Path(self.path).resolve()), bytes=Path(self.path).stat().st_size, format="3mf",
            variant="zip", schema="3MF", length_unit=self.said, mm_per_unit=BY_KEY[self.said].mm,
            written_by=Writer(said.get("Application", ""), "", said.get("Designer", ""), "",
                              said.get("CreationDate", "")),
            counts=(("meshes", meshes), ("facets", facets), ("components", components)), title="3MF",
        )  # fmt: skip

    def _metadata(self, group: Any) -> dict[str, str]:
        metadata = {}
        for index in range(group.GetMetaDataCount()):
            datum = group.GetMetaData(index)
            metadata[datum.GetName()] = datum.GetValue()
        return metadata

    def _placed(self, item: Any, matrix: np.ndarray) -> tuple[str, Placement]:  # type: ignore[type-arg]
        """The product of an object and its placement; what mirrors or scales goes into the product."""
        linear = matrix[:3, :3]
        if np.abs(linear @ linear.T - np.eye(3)).max() <= _RIGID and np.linalg.det(linear) > 0:
            left, _, right = np.linalg.svd(linear)
            matrix = matrix.copy()
            matrix[:3, :3] = left @ right  # single precision leaves it not quite square
            flat = tuple(float(v) for v in matrix.ravel())
            is_here = bool(np.abs(matrix - np.eye(4)).max() < 1e-12)
            return self._product(item, np.eye(4)), IDENTITY if is_here else flat
        self.notes.append(
            Note(
                "placed-mirrored",
                "it is placed mirrored or scaled; a part of that shape was made",
                item.GetName(),
            )
        )
        return self._product(item, matrix), IDENTITY

    def _product(self, item: Any, change: np.ndarray) -> str:  # type: ignore[type-arg]
        changed = np.abs(change - np.eye(4)).max() > 0
        key = f"o{item.GetUniqueResourceID()}" + (
            "x" + "".join(f",{v:.7g}" for v in change.ravel()) if changed else ""
        )
        if key in self.products:
            return key
        if key in self.open:
            raise MalformedFile("an object is a component of itself", file=self.path, where=key)
        self.open.add(key)
        name = item.GetName() or f"Object {item.GetUniqueResourceID()}"
        said = tuple(Metadatum(k, v) for k, v in self._metadata(item.GetMetaDataGroup()).items())
        product = Product(key, item.GetPartNumber(), name, metadata=said)
        self.products[key] = product  # parents stand before their parts
        if item.IsMeshObject():
            mesh = self.source.GetMeshObjectByID(item.GetUniqueResourceID())
            self.products[key] = replace(product, bodies=(self._body(mesh, key, change),))
        elif item.IsComponentsObject():
            group = self.source.GetComponentsObjectByID(item.GetUniqueResourceID())
            uses = []
            for index in range(group.GetComponentCount()):
                part = group.GetComponent(index)
                own = _matrix(part.GetTransform(), self.mm) if part.HasTransform() else np.eye(4)
                below, placement = self._placed(part.GetObjectResource(), change @ own)
                uses.append(Occurrence(f"{key}.{index + 1}", below, "", placement))
            self.products[key] = replace(product, occurrences=tuple(uses))
        self.open.discard(key)
        return key

    def _body(self, mesh: Any, key: str, change: np.ndarray) -> Body:  # type: ignore[type-arg]
        points = _array(mesh.GetVertices(), "Coordinates", ctypes.c_float).astype(np.float64) * self.mm
        corners = _array(mesh.GetTriangleIndices(), "Indices", ctypes.c_uint32).astype(np.int64)
        colours, groups = self._colours(mesh, len(corners))
        facets: Facets = welded(points[corners], 0.0, groups)
        if np.abs(change - np.eye(4)).max() > 0:
            facets = facets.moved(tuple(float(v) for v in change.ravel()))
        flaws = facets.flaws()
        if flaws:
            flaws_text = "; ".join(map(str, flaws))
            self.notes.append(
                Note("mesh-not-closed", f"the mesh bounds no solid: {flaws_text}", mesh.GetName())
            )
        assert self.store is not None
        blob = self.store.put(facets.to_bytes())
        self.progress.give(("body", blob))
        own = colours.get(0) if len(colours) == 1 else None
        others = () if own is not None else tuple(sorted(colours.items()))
        return Body(f"b{key}", BodyKind.MESH, "", blob, own, others)

    def _colours(self, mesh: Any, count: int) -> tuple[dict[int, Rgba], np.ndarray]:  # type: ignore[type-arg]
        """Colours by group, and the group of each triangle."""
        groups = np.zeros(count, np.int32)
        keys: dict[tuple[int, int], int] = {}
        object_id, object_index, has_object = mesh.GetObjectLevelProperty()
        for place, properties in enumerate(mesh.GetAllTriangleProperties()):
            pair = (int(properties.ResourceID), int(properties.PropertyIDs[0]))
            if pair[0] == 0 and has_object:
                pair = (int(object_id), int(object_index))
            groups[place] = keys.setdefault(pair, len(keys))
        colours = {}
        for (resource, index), group in keys.items():
            colour = self._colour(resource, index)
            if colour is not None:
                colours[group] = colour
        return colours, groups

    def _colour(self, resource: int, index: int) -> Rgba | None:
        from lib3mf import ELib3MFException

        if not resource:
            return None
        for getter, colour in (
            ("GetBaseMaterialGroupByID", "GetDisplayColor"),
            ("GetColorGroupByID", "GetColor"),
        ):
            try:
                rgba = getattr(getattr(self.source, getter)(resource), colour)(index)
            except ELib3MFException:
                continue
            shares = (rgba.Red, rgba.Green, rgba.Blue, rgba.Alpha)
            return Rgba(*(round(v / 255, 6) for v in shares))
        return None


def _census(path: str) -> Census | None:
    """The census, None where the library reads a package that can't be read again as XML."""
    try:
        return census_of(path)
    except (zipfile.BadZipFile, ElementTree.ParseError, OSError):
        return None


def _array(values: Any, name: str, kind: type) -> np.ndarray:  # type: ignore[type-arg]
    """A list of the library's structures as (n, 3)."""
    count = len(values)
    if not count:
        return np.zeros((0, 3), kind)
    block = (type(values[0]) * count)(*values)
    return np.ctypeslib.as_array(ctypes.cast(block, ctypes.POINTER(kind)), (count, 3)).copy()


def _matrix(transform: Any, mm: float) -> np.ndarray:  # type: ignore[type-arg]
    """A 3MF transform (row vectors, 4 rows of 3) as a 4x4 matrix for column vectors, mm."""
    rows = np.array([list(row) for row in transform.Fields], float)
    matrix = np.eye(4)
    matrix[:3, :3] = rows[:3].T
    matrix[:3, 3] = rows[3] * mm
    return matrix
