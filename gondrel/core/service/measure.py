"""Measure: sections, distances, walls, holes and masses of a model, and the same of a file."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from pathlib import Path
from typing import Any

from gondrel.core.arrange.steps.base import Context
from gondrel.core.arrange.steps.cutting import standard_ids
from gondrel.core.errors import KernelRefused, UsageError
from gondrel.core.kernel.base.shape import Shape, shape_from_blob
from gondrel.core.kernel.derive import thinnest_of, walls_of
from gondrel.core.kernel.measure.between import apart
from gondrel.core.kernel.measure.thickness import thickness_at
from gondrel.core.kernel.measure.things import placed_thing, size_of
from gondrel.core.measuring.clearances import closer_than, least_clearance
from gondrel.core.measuring.explosion import explosion_of
from gondrel.core.measuring.holes import hole_table
from gondrel.core.measuring.masses import mass_of
from gondrel.core.measuring.outlines import outlines_of
from gondrel.core.measuring.placed import placed_bodies, under
from gondrel.core.measuring.sections import cut_model
from gondrel.core.measuring.uncut import lengthwise_parts
from gondrel.core.model.body import BodyFacts, BodyKind
from gondrel.core.model.cutting import Cut, Vector
from gondrel.core.model.explosion import Explosion
from gondrel.core.model.facets import is_facets
from gondrel.core.model.measures import (
    Clearance,
    HoleRow,
    Mass,
    Measured,
    PlacedSection,
    Thickness,
    Thing,
    Wish,
)
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.reports.measured import (
    clearance_object,
    hole_list,
    mass_object,
    section_object,
    thickness_object,
)
from gondrel.core.service.intake import receive_by
from gondrel.core.service.queries import asked_for
from gondrel.core.service.receive import measure_all
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.sheet.dxf import to_dxf
from gondrel.core.sheet.svg import to_svg
from gondrel.core.work import SILENT, Progress

__all__ = [
    "clearance_between",
    "map_walls",
    "measure_command",
    "measure_things",
    "parts_left_whole",
    "section_model",
    "section_outline",
    "table_of_holes",
    "take_apart",
    "thin_places",
    "too_close",
    "wall_at",
    "weigh",
]


def measure_command(
    path: str, options: ReceiveOptions, wish: Wish, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel measure``. Raises InputError, KernelError, UsageError."""
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.5))
    facts = measure_all(model.blobs(), store, progress=progress.part(0.5, 0.7))
    rest, result = progress.part(0.7, 1.0), dict[str, Any]()
    if wish.section:
        sections, refused = section_model(model, Cut(wish.section), store, (), facts, progress=rest)
        result["section"] = section_object(model, sections, refused)
        if wish.outline:
            section_outline(model, Cut(wish.section), sections, wish.outline, store)
            result["sent"] = [{"path": wish.outline, "bytes": Path(wish.outline).stat().st_size}]
    if wish.clearance is not None:
        one, other = (tuple(asked_for(model, [query], store)) for query in wish.clearance)
        clearance = clearance_between(model, one, other, store, facts, progress=rest)
        result["clearance"] = clearance_object(model, clearance)
    if wish.thickness is not None:
        ids = tuple(asked_for(model, [wish.thickness], store))
        item, wall = _thinnest(thin_places(model, ids, store, progress=rest))
        result["thickness"] = thickness_object(model.product(item).label if item else None, wall)
    chosen = tuple(asked_for(model, wish.items, store)) if wish.items else model.roots
    if wish.holes:
        result["holes"] = hole_list(model, table_of_holes(model, chosen, store, progress=rest))
    if wish.mass:
        result["mass"] = mass_object(weigh(model, chosen, store, facts))
    return result


def section_model(
    model: Model, cut: Cut, store_folder: str, whole: Collection[tuple[str, ...]] = (),
    facts: Mapping[str, BodyFacts] | None = None,
    shifts: Mapping[tuple[str, ...], Vector] | None = None, *, progress: Progress = SILENT,
) -> tuple[tuple[PlacedSection, ...], tuple[str, ...]]:  # fmt: skip
    """Cut a model; what is left whole, or stands shifted, mm, is given by its paths.

    Returns: what the planes leave of each body in its place, and the names of the parts the kernel failed
        over.

    Raises:
        UsageError: when the normal of a plane has no length.
    """
    try:
        for plane in cut.planes:
            _ = plane.unit
    except ValueError as error:
        raise UsageError(str(error)) from None
    known = facts if facts is not None else {}
    return cut_model(
        model,
        cut,
        BlobStore(Path(store_folder)),
        known,
        whole=whole,
        shifts=shifts or {},
        progress=progress,
    )


def parts_left_whole(model: Model, store_folder: str, *, progress: Progress = SILENT) -> dict[str, Vector]:
    """The axes of the parts that are not cut lengthwise, by product id: bars and standard parts."""
    store = BlobStore(Path(store_folder))
    standard = standard_ids(Context(model, store, progress.part(0.0, 0.5)))
    return lengthwise_parts(model, standard, store, progress=progress.part(0.5, 1.0))


def section_outline(
    model: Model, cut: Cut, sections: Sequence[PlacedSection], path: str, store_folder: str,
    unit: str = "mm", *, progress: Progress = SILENT,
) -> str:  # fmt: skip
    """Write the outlines of a section as DXF or SVG, by the ending of the path; planes side by side.

    Returns: the path.

    Raises:
        UsageError: when the ending is neither. WriteFailed, KernelRefused.
    """
    outlines = outlines_of(model, cut, sections, BlobStore(Path(store_folder)), progress=progress)
    suffix = Path(path).suffix.casefold()
    if suffix == ".dxf":
        data = to_dxf(outlines, unit=unit)
    elif suffix == ".svg":
        data = to_svg(outlines, title=f"Section of {model.product(model.roots[0]).label}")
    else:
        raise UsageError("an outline is written as .dxf or .svg", hint=Path(path).name)
    write_whole(Path(path), data)
    return path


def take_apart(model: Model, store_folder: str, *, progress: Progress = SILENT) -> Explosion:
    """How the assemblies of a model come apart. Raises KernelRefused when a body can't be measured."""
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.3))
    return explosion_of(model, BlobStore(Path(store_folder)), facts, progress=progress.part(0.3, 1.0))


def map_walls(keys: Sequence[str], store_folder: str, *, progress: Progress = SILENT) -> None:
    """Have the walls at the nodes of bodies' meshes in the store, handing out ("walls", hash) for each; a
    solid that the kernel fails over is passed over."""
    store = BlobStore(Path(store_folder))
    for key in progress.each(list(keys), "Measuring walls"):
        try:
            walls_of(store, key)
        except KernelRefused:
            continue
        progress.give(("walls", key))


def clearance_between(
    model: Model, ones: Sequence[str], others: Sequence[str], store_folder: str,
    facts: Mapping[str, BodyFacts] | None = None, *, progress: Progress = SILENT,
) -> Clearance:  # fmt: skip
    """The least distance between products with all in them, in their places. Raises UsageError,
    KernelRefused."""
    known = facts if facts is not None else measure_all(model.blobs(), store_folder)
    return least_clearance(
        under(model, ones), under(model, others), BlobStore(Path(store_folder)), known, progress=progress
    )


def too_close(
    model: Model, limit: float, store_folder: str, *, progress: Progress = SILENT
) -> list[Clearance]:
    """All pairs of bodies that come closer than a limit, mm. Raises UsageError, KernelRefused."""
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.2))
    bodies = list(placed_bodies(model))
    return closer_than(
        bodies, limit, BlobStore(Path(store_folder)), facts, progress=progress.part(0.2, 1.0)
    )


def thin_places(
    model: Model, ids: Sequence[str], store_folder: str, *, progress: Progress = SILENT
) -> dict[tuple[str, str], Thickness]:
    """The thinnest place of each solid of some products, with all in them, by product id and body hash.

    Solids the kernel fails over are left out.
    """
    store, walls = BlobStore(Path(store_folder)), dict[tuple[str, str], Thickness]()
    solids = dict.fromkeys(
        (b.product.id, b.body) for b in under(model, ids) if b.body.kind is BodyKind.SOLID
    )
    for product, body in progress.each(list(solids), "Measuring walls"):
        try:
            walls[product, body.blob] = thinnest_of(store, body.blob)
        except KernelRefused:
            continue
    return walls


def _thinnest(walls: Mapping[tuple[str, str], Thickness]) -> tuple[str, Thickness | None]:
    """The product with the thinnest wall, and the wall."""
    met = [(wall.least, place) for place, wall in walls.items() if wall.least is not None]
    if not met:
        return "", None
    _, place = min(met)
    return place[0], walls[place]


def table_of_holes(
    model: Model, ids: Sequence[str], store_folder: str, *, progress: Progress = SILENT
) -> list[HoleRow]:
    """The holes of products with all in them, each part once."""
    parts = dict.fromkeys(each.product for each in under(model, ids))
    return hole_table(parts, BlobStore(Path(store_folder)), progress=progress)


def weigh(
    model: Model, ids: Sequence[str], store_folder: str, facts: Mapping[str, BodyFacts] | None = None, *,
    progress: Progress = SILENT,
) -> Mass:  # fmt: skip
    """Mass properties of products with all in them, each in all of its places.

    Raises:
        KernelRefused: when a body can't be measured.
    """
    bodies = under(model, ids)
    keys = tuple(dict.fromkeys(each.body.blob for each in bodies))
    known = facts if facts is not None else measure_all(keys, store_folder, progress=progress)
    return mass_of(bodies, known)


def measure_things(things: Sequence[Thing], store_folder: str, *, progress: Progress = SILENT) -> Measured:
    """The sizes of one or two things, and how two stand to one another.

    Raises:
        KernelRefused: when the kernel fails over them. UsageError: when one is of a mesh.
    """
    store, shapes = BlobStore(Path(store_folder)), dict[str, Shape]()
    for thing in things:
        if thing.key and thing.key not in shapes:
            blob = store.get(thing.key)
            if is_facets(blob):
                raise UsageError("a mesh body has no exact faces and edges to measure")
            shapes[thing.key] = shape_from_blob(blob)
    placed = [placed_thing(thing, shapes.get(thing.key)) for thing in things]
    sizes = tuple(size_of(each) for each in placed)
    return Measured(sizes, apart(placed[0], placed[1]) if len(placed) == 2 else None)


def wall_at(
    key: str, face: int, point: Vector, store_folder: str, *, progress: Progress = SILENT
) -> Thickness:
    """The wall of a stored solid at a point of a face, in its frame. Raises KernelRefused, UsageError."""
    blob = BlobStore(Path(store_folder)).get(key)
    if is_facets(blob):
        raise UsageError("the walls of a mesh body are not measured")
    return thickness_at(shape_from_blob(blob), face, point)
