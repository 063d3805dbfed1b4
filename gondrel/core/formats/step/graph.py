"""Products, usages, properties and materials of a STEP file, from its records alone.

Source: ISO 10303-41 (product_definition, property_definition), ISO 10303-44 (usages). The names of
validation, material and user-defined properties are common practice of the trade, from memory.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Enumeration, Reference, Typed
from gondrel.core.formats.step.units import context_unit, measure_value, unit_factor
from gondrel.core.model.product import Material, Metadatum, Validation, Value

__all__ = ["ProductFacts", "UseFacts", "formation_of", "read_graph", "relation_of"]

_DEFINITIONS = ("PRODUCT_DEFINITION", "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS")
_GEOMETRIC = "geometric validation property"
_ASSEMBLY = "assembly validation property"
_MATERIAL = "material property"
_OWN_USE = (
    _GEOMETRIC,
    _ASSEMBLY,
    _MATERIAL,
    "attribute validation property",
    "pmi validation property",
    "semantic pmi validation property",
    "tessellated validation property",
    "composite validation property",
)
_GENERIC_NAMES = ("user defined attribute", "user defined property", "")
_KG_PER_MM3_TO_KG_PER_M3 = 1e9


@dataclass(slots=True)
class ProductFacts:
    """What the records say of one product definition."""

    record: int
    number: str
    name: str
    revision: str
    description: str
    metadata: list[Metadatum] = field(default_factory=list)
    material: str = ""
    material_description: str = ""
    density: float | None = None
    volume: float | None = None
    area: float | None = None
    centroid: tuple[float, float, float] | None = None
    occurrences: int | None = None
    notional: tuple[float, float, float] | None = None
    validated_bodies: int = 0

    def as_material(self) -> Material | None:
        """The material, None when none is given."""
        if not self.material and self.density is None:
            return None
        return Material(self.material, self.density, self.material_description)

    def as_validation(self) -> Validation | None:
        """The validation properties, None when none are given."""
        figures = (self.volume, self.area, self.centroid, self.occurrences)
        if all(f is None for f in (*figures, self.notional)) and not self.validated_bodies:
            return None
        return Validation(*figures, self.validated_bodies, self.notional)


@dataclass(slots=True)
class UseFacts:
    """What the records say of one assembly usage."""

    record: int
    name: str
    parent: int
    child: int
    quantity: float | None = None
    metadata: list[Metadatum] = field(default_factory=list)
    centroid: tuple[float, float, float] | None = None


@dataclass(slots=True)
class Graph:
    """Product definitions and usages by record number.

    Args:
        taken: numbers of the records of properties that were read; with_units: metadata whose value has a
            unit, by the number of its item, with its key.
    """

    products: dict[int, ProductFacts] = field(default_factory=dict)
    uses: dict[int, UseFacts] = field(default_factory=dict)
    unread_properties: int = 0
    taken: set[int] = field(default_factory=set)
    with_units: dict[int, str] = field(default_factory=dict)


def read_graph(records: Records) -> Graph:
    """Everything the records say of products and usages.

    Raises:
        MalformedFile: when the parameters of a record that matters can't be read.
    """
    graph = Graph()
    for definition in records.of(*_DEFINITIONS):
        graph.products[definition.number] = _product(records, definition)
    for use in records.of("NEXT_ASSEMBLY_USAGE_OCCURRENCE"):
        serial, name, text, parent, child, designator = relation_of(use)
        name = name or text or designator or ("" if serial.isdigit() else serial)
        graph.uses[use.number] = UseFacts(use.number, name, parent, child, _quantity(records, use))
    _read_properties(records, graph)
    return graph


def relation_of(use: Record) -> tuple[str, str, str, int, int, str]:
    """Id, name, description, parent, child and reference designator of a usage, complex or not."""
    parameters = use.parameters
    if not use.keyword:
        own = use.parts.get("ASSEMBLY_COMPONENT_USAGE", ())
        parameters = (*use.parts.get("PRODUCT_DEFINITION_RELATIONSHIP", ()), *own)
    texts = [p if isinstance(p, str) else "" for p in parameters] + [""] * 6
    numbers = [p.number if isinstance(p, Reference) else 0 for p in parameters] + [0] * 6
    return texts[0], texts[1], texts[2], numbers[3], numbers[4], texts[5]


def _quantity(records: Records, use: Record) -> float | None:
    """How many of the child a usage stands for, None where it does not say."""
    said = use.parts.get("QUANTIFIED_ASSEMBLY_COMPONENT_USAGE", ())
    measure = records.get(said[-1].number) if said and isinstance(said[-1], Reference) else None
    for part in measure.parts.values() if measure is not None else ():
        for value in part:
            number = measure_value(value)
            if number is not None:
                return number
    return None


def formation_of(records: Records, definition: Record) -> Record | None:
    """The formation, that is the revision, of a product definition of any kind."""
    parameters = next(iter(definition.parts.values()), ())
    found = parameters[2] if len(parameters) > 2 else None
    return records.get(found.number) if isinstance(found, Reference) else None


def _product(records: Records, definition: Record) -> ProductFacts:
    formation = formation_of(records, definition)
    product = records.get(formation.ref(2)) if formation else None
    if formation is None or product is None:
        return ProductFacts(definition.number, "", "", "", "")
    return ProductFacts(
        record=definition.number,
        number=product.text(0),
        name=product.text(1),
        revision=formation.text(0),
        description=product.text(2) or formation.text(1),
    )


def _read_properties(records: Records, graph: Graph) -> None:
    used: defaultdict[int, list[tuple[int, int]]] = defaultdict(list)
    for link in records.of("PROPERTY_DEFINITION_REPRESENTATION"):
        used[link.ref(0)].append((link.number, link.ref(1)))
    for prop in records.of("PROPERTY_DEFINITION"):
        for link_number, target in used.get(prop.number, ()):
            representation = records.get(target)
            taken = _read_property(records, graph, prop, representation) if representation else []
            if taken:
                graph.taken.update((link_number, prop.number, target, *taken))


def _owner(records: Records, graph: Graph, number: int) -> tuple[int, bool]:
    """The product definition or usage a property is of, and whether it is of the whole."""
    whole = True
    for _ in range(4):
        if number in graph.products or number in graph.uses:
            return number, whole
        record = records.get(number)
        if record is None:
            return 0, whole
        if record.keyword == "PRODUCT_DEFINITION_SHAPE":
            number = record.ref(2)
        elif record.keyword == "SHAPE_ASPECT":
            number, whole = record.ref(2), False
        else:
            return 0, whole
    return 0, whole


def _read_property(records: Records, graph: Graph, prop: Record, rep: Record) -> list[int]:
    """Read a property; the numbers of the items of its representation that were taken."""
    owner, whole = _owner(records, graph, prop.ref(2))
    if not owner:
        return []
    name = prop.text(0)
    items = [item for n in rep.refs(1) if (item := records.get(n)) is not None]
    facts = graph.products.get(owner)
    if name.lower() == _GEOMETRIC and facts is not None:
        return _read_geometric(records, facts, rep, items, whole)
    use = graph.uses.get(owner)
    if name.lower() == _GEOMETRIC and use is not None and whole:
        return _read_place(records, use, rep, items)
    if name.lower() == _ASSEMBLY and facts is not None:
        return _read_assembly(records, facts, rep, items)
    if name.lower() == _MATERIAL and facts is not None:
        return _read_material(records, facts, prop, items)
    if name.lower() in _OWN_USE or not whole:
        return []
    target = facts or graph.uses[owner]
    read = [(item, m) for item in items if (m := _metadatum(name, item, len(items))) is not None]
    target.metadata.extend(datum for _, datum in read)
    graph.with_units.update((item.number, datum.key) for item, datum in read if _has_unit(item))
    graph.unread_properties += len(items) - len(read)
    return [item.number for item, _ in read]


def _read_place(records: Records, use: UseFacts, rep: Record, items: list[Record]) -> list[int]:
    """Where the sender says that the centroid of a component lies in its assembly."""
    for item in items:
        if item.keyword == "CARTESIAN_POINT" and (point := _point(records, rep, item)) is not None:
            use.centroid = point
            return [item.number]
    return []


def _point(records: Records, rep: Record, item: Record) -> tuple[float, float, float] | None:
    """A point of a representation, mm."""
    in_mm = context_unit(records, rep.ref(2)) or 1.0
    values = item.parameters[1] if len(item.parameters) > 1 else None
    if not isinstance(values, tuple) or len(values) != 3:
        return None
    x, y, z = (in_mm * (measure_value(v) or 0.0) for v in values)
    return x, y, z


def _read_assembly(records: Records, facts: ProductFacts, rep: Record, items: list[Record]) -> list[int]:
    taken = []
    for item in items:
        if item.keyword == "CARTESIAN_POINT" and "notional" in rep.text(0):
            facts.notional = _point(records, rep, item)
            taken += [item.number] if facts.notional is not None else []
            continue
        value = measure_value(item.parameters[1]) if len(item.parameters) > 1 else None
        if "children" in item.text(0) and value is not None:
            facts.occurrences = int(value)
            taken.append(item.number)
    return taken


def _read_geometric(
    records: Records, facts: ProductFacts, rep: Record, items: list[Record], whole: bool
) -> list[int]:
    taken = []
    for item in items:
        if item.keyword == "CARTESIAN_POINT":
            in_mm = context_unit(records, rep.ref(2)) or 1.0
            values = item.parameters[1]
            if isinstance(values, tuple) and len(values) == 3:
                taken.append(item.number)
                if whole:
                    x, y, z = (in_mm * (measure_value(v) or 0.0) for v in values)
                    facts.centroid = (x, y, z)
            continue
        if len(item.parameters) < 3 or not isinstance(measure := item.parameters[1], Typed):
            continue
        value, scale = measure_value(measure), unit_factor(records, item.ref(2))
        if value is None or scale is None or measure.name not in ("VOLUME_MEASURE", "AREA_MEASURE"):
            continue
        taken.append(item.number)
        if measure.name == "VOLUME_MEASURE":
            if whole:
                facts.volume = value * scale
            else:
                facts.validated_bodies += 1
        elif whole:
            facts.area = value * scale
    return taken


def _read_material(records: Records, facts: ProductFacts, prop: Record, items: list[Record]) -> list[int]:
    taken = []
    for item in items:
        if item.keyword == "DESCRIPTIVE_REPRESENTATION_ITEM":
            if "name" in prop.text(1).lower() or not facts.material:
                facts.material, facts.material_description = item.text(0), item.text(1)
                taken.append(item.number)
        elif len(item.parameters) > 2 and "density" in item.text(0).lower():
            value = measure_value(item.parameters[1])
            if value is not None:
                facts.density = value * _density_scale(records, item.ref(2))
                taken.append(item.number)
    return taken


def _density_scale(records: Records, unit: int) -> float:
    """Factor to kg/m3. Gram per cubic centimetre where the unit is not a density at all."""
    exponents = {}
    record = records.get(unit)
    elements = record.parts.get("DERIVED_UNIT", ((),))[0] if record else ()
    for element in elements if isinstance(elements, tuple) else ():
        inner = records.get(element.number) if isinstance(element, Reference) else None
        base = records.get(inner.ref(0)) if inner else None
        if inner is not None and base is not None:
            kind = "mass" if "MASS_UNIT" in base.parts else "length"
            exponents[kind] = measure_value(inner.parameters[1])
    if exponents == {"mass": 1.0, "length": -3.0}:
        factor = unit_factor(records, unit)
        if factor is not None:
            return factor * _KG_PER_MM3_TO_KG_PER_M3
    return 1000.0


def _metadatum(name: str, item: Record, siblings: int) -> Metadatum | None:
    """A user-defined attribute from one representation item; None for a kind we do not read."""
    own_key = item.parts.get("REPRESENTATION_ITEM", (None,))[0] or (
        item.parameters[0] if item.parameters else None
    )
    item_name = own_key if isinstance(own_key, str) else ""
    generic = name.lower() in _GENERIC_NAMES or siblings > 1
    key = item_name if (generic and item_name) else name
    value = _item_value(item)
    return None if value is None or not key else Metadatum(key, value)


def _has_unit(item: Record) -> bool:
    """Whether the value of a representation item is a measure with a unit."""
    own = item.parts.get("MEASURE_WITH_UNIT", item.parameters[1:])
    return any(isinstance(p, Reference) for p in own)


def _item_value(item: Record) -> Value | None:
    for keyword, parameters in item.parts.items():
        last = (
            parameters[1]
            if item.keyword and len(parameters) > 1
            else (parameters[0] if parameters else None)
        )
        if keyword == "DESCRIPTIVE_REPRESENTATION_ITEM":
            return last if isinstance(last, str) else ""
        if keyword in ("INTEGER_REPRESENTATION_ITEM", "INT_LITERAL"):
            number = measure_value(last)
            return None if number is None else int(number)
        if keyword in ("REAL_REPRESENTATION_ITEM", "REAL_LITERAL"):
            return measure_value(last)
        if keyword in ("BOOLEAN_REPRESENTATION_ITEM", "BOOLEAN_LITERAL"):
            return last.name in ("T", "TRUE") if isinstance(last, Enumeration) else None
        if keyword in ("MEASURE_REPRESENTATION_ITEM", "VALUE_REPRESENTATION_ITEM"):
            number = measure_value(last)
            whole = isinstance(last, Typed) and last.name == "COUNT_MEASURE"
            return int(number) if number is not None and whole else number
    return None
