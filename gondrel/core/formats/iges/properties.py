"""Names, numbers, metadata, colours, levels and places that IGES entities are given.

Source: IGES 5.3 (US PRO/IPO-100), clauses 4.77 (colour definition), 4.100 ff. (properties: form 1
definition levels, 3 level function, 9 part number, 15 name, 27 generic data), 4.21 (transformation
matrix); from memory.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.iges.entities import properties_of
from gondrel.core.formats.iges.records import Entity, IgesFile
from gondrel.core.model.body import Rgba
from gondrel.core.model.product import Material, Metadatum, Value

__all__ = [
    "MODEL_MORE",
    "MORE",
    "OWN",
    "STANDARD_COLOURS",
    "PropertyValue",
    "colour_of",
    "generic",
    "layers_of",
    "level_names",
    "matrix_of",
    "metadata_in",
    "said_of",
]

LEVELS, LEVEL_NAME, PART_NUMBER, NAME, GENERIC = 1, 3, 9, 15, 27

OWN = "GONDREL."
"""How the names of generic data begin that carry a product's own facts (revision, material, ...)."""

MORE, MODEL_MORE = "MORE", "MODEL.MORE"
"""Names of what is said besides of an item and of the model; see model.extras."""

STANDARD_COLOURS = {
    1: Rgba(0, 0, 0), 2: Rgba(1, 0, 0), 3: Rgba(0, 1, 0), 4: Rgba(0, 0, 1), 5: Rgba(1, 1, 0),
    6: Rgba(1, 0, 1), 7: Rgba(0, 1, 1), 8: Rgba(1, 1, 1),
}  # fmt: skip
_MOST_NESTED, _PROPERTY = 50, 406


@dataclass(slots=True)
class PropertyValue:
    """What the properties of an entity say."""

    name: str = ""
    number: str = ""
    own: dict[str, Value] = field(default_factory=dict)
    metadata: list[Metadatum] = field(default_factory=list)

    def own_text(self, key: str) -> str:
        """One of the facts Gondrel writes, as text."""
        return str(self.own.get(key, ""))

    @property
    def material(self) -> Material | None:
        """The material, None when none is named."""
        if "MATERIAL" not in self.own and "DENSITY" not in self.own:
            return None
        density = self.own.get("DENSITY")
        value = float(density) if isinstance(density, int | float) else None
        return Material(self.own_text("MATERIAL"), value, self.own_text("MATERIAL.DESCRIPTION"))


def said_of(file: IgesFile, entity: Entity) -> PropertyValue:
    """What the properties of an entity say. Raises MalformedFile."""
    said = PropertyValue()
    for number in properties_of(entity):
        property_entity = file.at(number)
        if property_entity is None or property_entity.kind != _PROPERTY:
            continue
        if property_entity.form == NAME:
            said.name = property_entity.text(1)
        elif property_entity.form == PART_NUMBER:
            said.number = next(
                (property_entity.text(i) for i in (4, 3, 1, 2) if property_entity.text(i)), ""
            )
        else:
            for datum in metadata_in(property_entity):
                if datum.key.startswith(OWN):
                    said.own[datum.key.removeprefix(OWN)] = datum.value
                else:
                    said.metadata.append(datum)
    return said


def metadata_in(entity: Entity) -> Sequence[Metadatum]:
    """The metadata that an entity says, none where it is no generic data. Raises MalformedFile."""
    return tuple(generic(entity)) if entity.kind == _PROPERTY and entity.form == GENERIC else ()


def generic(entity: Entity) -> Iterator[Metadatum]:
    """The values of a generic data property, each as metadata. Raises MalformedFile."""
    key, count = entity.text(1), entity.integer(2)
    for place in range(count):
        at = 3 + 2 * place
        if at + 1 >= len(entity.values):
            return
        kind = entity.integer(at)
        shown = key if count == 1 else f"{key} {place + 1}"
        value: Value
        if kind == 1:
            value = entity.integer(at + 1)
        elif kind == 2:
            value = entity.real(at + 1)
        elif kind == 6:
            value = bool(entity.integer(at + 1))
        else:
            value = entity.text(at + 1)
        yield Metadatum(shown, value)


def colour_of(file: IgesFile, entity: Entity) -> Rgba | None:
    """The colour of an entity, None when it has none."""
    if entity.colour >= 0:
        return STANDARD_COLOURS.get(entity.colour)
    definition = file.at(-entity.colour)
    if definition is None or definition.kind != 314:
        return None
    shares = [min(max(definition.real(i) / 100.0, 0.0), 1.0) for i in range(3)]
    return Rgba(round(shares[0], 6), round(shares[1], 6), round(shares[2], 6))


def level_names(file: IgesFile) -> dict[int, str]:
    """The names of levels that have one."""
    level_entities = (e for e in file.of(406) if e.form == LEVEL_NAME and e.level > 0)
    return {e.level: e.text(2) or e.text(1) for e in level_entities}


def layers_of(file: IgesFile, entity: Entity, names: dict[int, str]) -> tuple[str, ...]:
    """The layers an entity is on, by name where the level has one. Raises MalformedFile."""
    levels = [entity.level] if entity.level > 0 else []
    if entity.level < 0:
        listed = file.at(-entity.level)
        if listed is not None and listed.kind == 406 and listed.form == LEVELS:
            levels = [listed.integer(i) for i in range(1, 1 + listed.integer(0))]
    return tuple(names.get(level, str(level)) for level in levels if level > 0)


def matrix_of(file: IgesFile, number: int, unit: float) -> NDArray[np.float64]:
    """The 4x4 matrix of a transformation and those it refers to, mm.

    Args:
        number: of the transformation entity, 0 for none; unit: millimetres in one unit of the file.

    Raises:
        MalformedFile: when it is no transformation, not finite, or refers to itself.
    """
    whole = np.eye(4)
    for _ in range(_MOST_NESTED):
        if not number:
            return whole
        entity = file.at(number)
        if entity is None or entity.kind != 124:
            raise MalformedFile("the directory entry's transformation is none", where=f"D{number}")
        rows = np.array([entity.real(i, float(i in (0, 5, 10))) for i in range(12)]).reshape(3, 4)
        if not np.isfinite(rows).all():
            raise MalformedFile("a transformation is not finite", where=entity.place)
        matrix = np.vstack([rows, [0, 0, 0, 1]])
        matrix[:3, 3] *= unit
        whole = matrix @ whole
        number = entity.transform
    raise MalformedFile("transformations refer to each other in a circle", where=f"D{number}")
