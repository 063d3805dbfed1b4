"""What the mesh formats have in common: pieces to write, and models of pieces that were read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from gondrel.core.formats.settings import ReceiveSettings
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.facets import Facets, skins
from gondrel.core.model.product import Product
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import BY_KEY, MILLIMETRE, LengthUnit
from gondrel.core.work import Progress

__all__ = ["NEVER", "Piece", "bounds", "chosen_unit", "model_of_pieces", "unit_note"]

NEVER = "exact surfaces, structure, revisions, materials, metadata, history"
"""What a mesh format never brings."""


@dataclass(frozen=True, slots=True)
class Piece:
    """One mesh body to write, or as read; sizes in mm once read.

    Args:
        group_colours: (group of triangles, colour) where a group differs.
    """

    name: str
    facets: Facets
    colour: Rgba | None = None
    group_colours: tuple[tuple[int, Rgba], ...] = ()
    layers: tuple[str, ...] = ()


def chosen_unit(settings: ReceiveSettings) -> LengthUnit:
    """The unit for a format that has none: the one asked for, else the millimetre."""
    return BY_KEY.get(settings.unit, MILLIMETRE)


def unit_note(title: str, largest: float) -> Note:
    """That a format says no unit, and which one the size speaks for.

    Args:
        largest: largest extent in the file's own numbers.

    Source: own; machine parts are mostly between 5 mm and 5 m.
    """
    if largest < 0.3:
        proposal = f"metre (then it is {largest * 1000:.4g} mm long)"
    elif largest < 4.0:
        proposal = f"inch (then it is {largest * 25.4:.4g} mm long)"
    else:
        proposal = f"millimetre (then it is {largest:.4g} mm long)"
    text = f"{title} says no length unit; its largest extent is {largest:.4g}, which speaks for {proposal}"
    return Note("unit-missing", text)


def model_of_pieces(
    pieces: Sequence[Piece], path: str, store: BlobStore, settings: ReceiveSettings, progress: Progress
) -> Model:
    """One product of all pieces, named after the file; sizes are taken in the unit asked for.

    Raises:
        WriteFailed: when a body can't be stored.
    """
    unit = chosen_unit(settings)
    bodies: list[Body] = []
    for piece in progress.each(pieces, "Looking at meshes"):
        skinned = skins(piece.facets)
        for place, skin in enumerate(skinned, 1):
            facets = Facets(skin.points * unit.mm, skin.triangles, skin.groups) if unit.mm != 1.0 else skin
            blob = store.put(facets.to_bytes())
            progress.give(("body", blob))
            name = piece.name if len(skinned) == 1 or not piece.name else f"{piece.name} {place}"
            colours, layers = piece.group_colours, piece.layers
            number = f"b{len(bodies) + 1}"
            bodies.append(Body(number, BodyKind.MESH, name, blob, piece.colour, colours, layers))
    product = Product("p1", "", Path(path).stem, bodies=tuple(bodies))
    return Model((product,), ("p1",), unit, notes=tuple(_flaws(pieces, product.name)))


def _flaws(pieces: Sequence[Piece], product: str) -> list[Note]:
    notes = []
    for piece in pieces:
        flaws = piece.facets.flaws()
        if flaws:
            flaws_text = "; ".join(map(str, flaws))
            where = piece.name or product
            notes.append(Note("mesh-not-closed", f"the mesh bounds no solid: {flaws_text}", where))
    return notes


def bounds(pieces: Sequence[Piece]) -> float:
    """The largest extent of all pieces together, in their own numbers."""
    points = [p.facets.points for p in pieces if len(p.facets.points)]
    if not points:
        return 0.0
    every = np.concatenate(points)
    return float((every.max(axis=0) - every.min(axis=0)).max())
