"""Steps that say something of products: names, numbers, material, colour, properties."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.arrange.naming import find_and_replace, rename_by_pattern
from gondrel.core.arrange.properties import (
    Edit,
    set_colour,
    set_material,
    set_metadata,
    set_text,
    without_metadatum,
)
from gondrel.core.arrange.steps.base import Context, Items, Kind
from gondrel.core.errors import UsageError
from gondrel.core.model.body import Rgba

__all__ = ["KINDS"]


def _ids(context: Context, items: Items) -> list[str]:
    return [product.id for product in context.products(items)]


@dataclass(frozen=True, slots=True)
class Set:
    """field: number, name, revision or description; value: the text."""

    field: str
    value: str

    def run(self, context: Context, items: Items) -> Edit:
        return set_text(context.model, _ids(context, items), self.field, self.value)


@dataclass(frozen=True, slots=True)
class Rename:
    """pattern: with {n}, {n:3:10}, {name}, {number}, {revision}, {material}, {layer}; field: which
    is set."""

    pattern: str
    field: str = "name"

    def run(self, context: Context, items: Items) -> Edit:
        return rename_by_pattern(context.model, _ids(context, items), self.field, self.pattern)


@dataclass(frozen=True, slots=True)
class FindReplace:
    """find, put: texts; field: where; regular: whether find is a regular expression."""

    find: str
    put: str = ""
    field: str = "name"
    regular: bool = False

    def run(self, context: Context, items: Items) -> Edit:
        ids = _ids(context, items)
        return find_and_replace(context.model, ids, self.field, self.find, self.put, regular=self.regular)


@dataclass(frozen=True, slots=True)
class Material:
    """name: of the material, empty for none; density: kg/m3, 0 when it is not known."""

    name: str
    density: float = 0.0

    def run(self, context: Context, items: Items) -> Edit:
        return set_material(context.model, _ids(context, items), self.name, self.density or None)


@dataclass(frozen=True, slots=True)
class Colour:
    """colour: #rrggbb, empty for none; faces: whether colours of single faces go."""

    colour: str
    faces: bool = False

    def run(self, context: Context, items: Items) -> Edit:
        try:
            made = Rgba.from_hex(self.colour) if self.colour else None
        except ValueError as error:
            raise UsageError(str(error)) from None
        return set_colour(context.model, _ids(context, items), made, faces=self.faces)


@dataclass(frozen=True, slots=True)
class Property:
    """key: of the property; value: a text, number or true or false, nothing to take it away."""

    key: str
    value: bool | int | float | str | None = None

    def run(self, context: Context, items: Items) -> Edit:
        if self.value is None:
            return without_metadatum(context.model, _ids(context, items), self.key)
        return set_metadata(context.model, _ids(context, items), self.key, self.value)


KINDS = (
    Kind("set", "A text of products is set", Set),
    Kind("rename", "Names or numbers are made by a pattern", Rename),
    Kind("find-replace", "A text is found and replaced", FindReplace),
    Kind("material", "A material is given", Material),
    Kind("colour", "A colour is given", Colour),
    Kind("property", "A property is given or taken away", Property),
)
