"""Products and the places where they occur."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

from gondrel.core.model.body import Body, Rgba
from gondrel.core.model.columns import Columns, columns_of, from_columns
from gondrel.core.model.metadata import Metadatum, Value
from gondrel.core.model.particulars import Particular

__all__ = [
    "IDENTITY",
    "Material",
    "Metadatum",
    "Occurrence",
    "Placement",
    "Product",
    "Reference",
    "Unread",
    "Validation",
    "Value",
]

Placement = tuple[float, ...]
"""16 numbers, row-major 4x4, child to parent, millimetres."""

IDENTITY: Placement = (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


@dataclass(frozen=True, slots=True)
class Material:
    """A material: its name and, where the file says, its density in kg/m3 and further properties."""

    name: str
    density: float | None = None
    description: str = ""
    properties: tuple[Metadatum, ...] = ()


@dataclass(frozen=True, slots=True)
class Reference:
    """Reference geometry of a product.

    Args:
        kind: system (a coordinate system), axis, plane or point.
        placement: its frame in the product's; an axis runs along z, a plane is normal to it.
    """

    kind: str
    name: str
    placement: Placement


@dataclass(frozen=True, slots=True)
class Validation:
    """Geometric validation properties that travel with a product.

    Args:
        volume: mm3; area: mm2; centroid: mm in the product's frame; each None when not given.
        occurrences: how many children the sender says the product has, None when not given.
        bodies: how many bodies of the product carry figures of their own.
        notional: mm; where the middle of equal solids lies that stand in for the children, None when not
            given: it tells whether all of them are in their places.
    """

    volume: float | None = None
    area: float | None = None
    centroid: tuple[float, float, float] | None = None
    occurrences: int | None = None
    bodies: int = 0
    notional: tuple[float, float, float] | None = None


@dataclass(frozen=True, slots=True)
class Unread:
    """The shape of a product that its source holds and that was not loaded.

    Args:
        path: of the source; record: number of the record that the product was read from.
        bodies: how many bodies the records list.
        box: xmin to zmax of points that the shape rests on, mm, for looking at only; empty where there is
            none.
    """

    path: str
    record: int
    bodies: int
    box: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Occurrence:
    """A product placed in another. A colour here overrides the product's own.

    Args:
        centroid: where the sender says the product's centroid lies in the other, mm, None when not given.
        hidden: whether the sender does not show it; layers: names of those the component itself is on.
        left_out: whether it stays here when the model is sent.
        own_colours: colours in this place alone: id of a body beneath, index of its face or -1 for all of
            the body, colour.
    """

    id: str
    product: str
    name: str
    placement: Placement = IDENTITY
    colour: Rgba | None = None
    hidden: bool = False
    metadata: tuple[Metadatum, ...] = ()
    centroid: tuple[float, float, float] | None = None
    particulars: tuple[Particular, ...] = ()
    layers: tuple[str, ...] = ()
    own_colours: tuple[tuple[str, int, Rgba], ...] = ()
    left_out: bool = False


@dataclass(frozen=True, slots=True)
class Product:
    """A part or an assembly: identity, metadata, its own bodies and what occurs in it.

    Args:
        is_reference: whether it gathers the sender's reference geometry, which is kept hidden.
        missing_file: name of the file that should hold it and was not found, empty when nothing is missing.
        unread: its shape, while that is not loaded.
    """

    id: str
    number: str
    name: str
    revision: str = ""
    description: str = ""
    material: Material | None = None
    metadata: tuple[Metadatum, ...] = ()
    bodies: tuple[Body, ...] = ()
    occurrences: tuple[Occurrence, ...] = ()
    validation: Validation | None = None
    is_reference: bool = False
    missing_file: str = ""
    particulars: tuple[Particular, ...] = ()
    references: tuple[Reference, ...] = ()
    unread: Unread | None = None

    def __reduce__(self) -> tuple[Any, ...]:
        plain = {f.name: getattr(self, f.name) for f in fields(self) if f.name != "occurrences"}
        return _product_from, (plain, columns_of(Occurrence, self.occurrences))

    @property
    def label(self) -> str:
        """What people call it: its name, else its number."""
        return self.name or self.number or "(unnamed)"

    @property
    def is_assembly(self) -> bool:
        """Whether other products occur in it."""
        return bool(self.occurrences)


def _product_from(plain: dict[str, Any], uses: Columns) -> Product:
    return Product(**plain, occurrences=from_columns(Occurrence, uses))
