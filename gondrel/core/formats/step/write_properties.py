"""Metadata, materials and validation properties as property records.

Source: ISO 10303-41 (property_definition) and ISO 10303-45 (materials). The names of validation,
material and user-defined properties are common practice of the trade, from memory.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from gondrel.core.formats.step.compose import RecordComposer, ref
from gondrel.core.formats.step.metadata_read import DATE
from gondrel.core.formats.step.tokens import Enumeration, Typed, encode_string
from gondrel.core.formats.step.unit_symbols import write_unit
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.product import Material

__all__ = ["CheckFigures", "Properties"]

_DAY = re.compile(r"(\d{4})-(\d\d)-(\d\d)")


@dataclass(frozen=True, slots=True)
class CheckFigures:
    """Validation figures in mm; centroid None when there is no volume or area to have one."""

    volume: float
    area: float
    centroid: tuple[float, float, float] | None


class Properties:
    """Writes properties of products and usages.

    Args:
        context: geometric context; length: its length unit; unit_mm: millimetres in that unit.
        booleans: whether the protocol knows a boolean value.
    """

    def __init__(
        self, composer: RecordComposer, context: int, length: int, unit_mm: float, *, booleans: bool
    ) -> None:
        self.composer = composer
        self.context = context
        self.length = length
        self.unit_mm = unit_mm
        self.booleans = booleans

    def _property(self, name: str, text: str, target: int, title: str, *items: int) -> None:
        add = self.composer.add
        definition = add("PROPERTY_DEFINITION", name, text, ref(target))
        listed = tuple(ref(item) for item in items)
        representation = add("REPRESENTATION", title, listed, ref(self.context))
        add("PROPERTY_DEFINITION_REPRESENTATION", ref(definition), ref(representation))

    def metadata(self, target: int, values: tuple[Metadatum, ...]) -> None:
        """User-defined attributes of a product definition or a usage."""
        add = self.composer.add
        for datum in values:
            item = self._value(datum)
            definition = add("PROPERTY_DEFINITION", datum.key, "", ref(target))
            general = add("GENERAL_PROPERTY", "", datum.key, "user defined attribute")
            add("GENERAL_PROPERTY_ASSOCIATION", "", "", ref(general), ref(definition))
            representation = add("REPRESENTATION", datum.key, (ref(item),), ref(self.context))
            add("PROPERTY_DEFINITION_REPRESENTATION", ref(definition), ref(representation))

    def of_item(self, shape: int, representation: int, item: int, values: tuple[Metadatum, ...]) -> None:
        """Attributes of a single body or face, named by an aspect of the product's shape."""
        if not values:
            return
        add = self.composer.add
        aspect = add("SHAPE_ASPECT", "", "", ref(shape), Enumeration("T"))
        add("GEOMETRIC_ITEM_SPECIFIC_USAGE", "", "", ref(aspect), ref(representation), ref(item))
        for datum in values:
            self._property(datum.key, "", aspect, datum.key, self._value(datum))

    def _value(self, datum: Metadatum) -> int:
        add, value = self.composer.add, datum.value
        if datum.measure and not isinstance(value, str | bool):
            measure = Typed(f"{datum.measure.upper().replace(' ', '_')}_MEASURE", (float(value),))
            if datum.unit:
                unit = ref(write_unit(self.composer, datum.unit))
                return add("MEASURE_REPRESENTATION_ITEM", datum.key, measure, unit)
            return add("VALUE_REPRESENTATION_ITEM", datum.key, measure)
        if datum.measure == DATE and (day := _DAY.fullmatch(str(value))):
            name, (year, month, date) = encode_string(datum.key), map(int, day.groups())
            return self.composer.add_text(
                f"(CALENDAR_DATE({date},{month}) DATE({year}) DATE_REPRESENTATION_ITEM() "
                f"REPRESENTATION_ITEM({name}))"
            )
        if isinstance(value, bool):
            if self.booleans:
                truth = Enumeration("T" if value else "F")
                return add("BOOLEAN_REPRESENTATION_ITEM", datum.key, truth)
            return add("DESCRIPTIVE_REPRESENTATION_ITEM", datum.key, str(value).lower())
        if isinstance(value, int):
            return add("INTEGER_REPRESENTATION_ITEM", datum.key, value)
        if isinstance(value, float):
            return add("REAL_REPRESENTATION_ITEM", datum.key, value)
        return add("DESCRIPTIVE_REPRESENTATION_ITEM", datum.key, value)

    def material(self, definition: int, material: Material) -> None:
        """Material name and density (kg/m3) of a product definition."""
        add, share = self.composer.add, self.composer.share
        item = add("DESCRIPTIVE_REPRESENTATION_ITEM", material.name, material.description)
        self._property("material property", "material name", definition, "material name", item)
        for datum in material.properties:
            self._property("material property", datum.key, definition, datum.key, self._value(datum))
        if material.density is None:
            return
        share_text = self.composer.share_text
        kilogram = share_text("(MASS_UNIT() NAMED_UNIT(*) SI_UNIT(.KILO.,.GRAM.))")
        metre = share_text("(LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT($,.METRE.))")
        mass = share("DERIVED_UNIT_ELEMENT", ref(kilogram), 1.0)
        volume = share("DERIVED_UNIT_ELEMENT", ref(metre), -3.0)
        unit = share("DERIVED_UNIT", (ref(mass), ref(volume)))
        value = Typed("POSITIVE_RATIO_MEASURE", (material.density,))
        item = add("MEASURE_REPRESENTATION_ITEM", "density", value, ref(unit))
        self._property("material property", "density", definition, "density", item)

    def validation(self, shape: int, figures: CheckFigures) -> None:
        """Volume, area and centroid of a product definition shape.

        Not of single bodies: their aspects make other readers take a part for an assembly of its bodies.
        """
        self._measure(shape, "volume", "VOLUME_MEASURE", figures.volume, 3)
        self._measure(shape, "surface area", "AREA_MEASURE", figures.area, 2)
        if figures.centroid is not None:
            scaled = tuple(c / self.unit_mm for c in figures.centroid)
            point = self.composer.add("CARTESIAN_POINT", "centre point", scaled)
            self._property("geometric validation property", "centroid", shape, "centroid", point)

    def place(self, shape: int, centroid: tuple[float, float, float]) -> None:
        """Where the centroid of a component lies in its assembly, by the shape of its usage."""
        scaled = tuple(c / self.unit_mm for c in centroid)
        point = self.composer.add("CARTESIAN_POINT", "centre point", scaled)
        self._property("geometric validation property", "centroid of instance", shape, "centroid", point)

    def children(self, definition: int, count: int) -> None:
        """The number of components an assembly has."""
        item = self.composer.add(
            "VALUE_REPRESENTATION_ITEM",
            "number of children",
            Typed("COUNT_MEASURE", (float(count),)),
        )
        self._property("assembly validation property", "", definition, "number of children", item)

    def notional(self, shape: int, centroid: tuple[float, float, float]) -> None:
        """The middle of the solids that stand in for the children of an assembly."""
        scaled = tuple(c / self.unit_mm for c in centroid)
        point = self.composer.add("CARTESIAN_POINT", "centre point", scaled)
        title = "notional solids centroid"
        self._property("assembly validation property", title, shape, title, point)

    def _measure(self, shape: int, title: str, kind: str, value: float, power: int) -> None:
        share = self.composer.share
        element = share("DERIVED_UNIT_ELEMENT", ref(self.length), float(power))
        unit = share("DERIVED_UNIT", (ref(element),))
        scaled = value / self.unit_mm**power
        item = self.composer.add(
            "MEASURE_REPRESENTATION_ITEM", f"{title} measure", Typed(kind, (scaled,)), ref(unit)
        )
        self._property("geometric validation property", title, shape, title, item)
