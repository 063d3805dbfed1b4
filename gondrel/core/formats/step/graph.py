"""Products, usages, properties and materials of a STEP file, from its records alone.

Source: ISO 10303-41 (product_definition, property_definition), ISO 10303-44 (usages). The names of
validation, material and user-defined properties are common practice of the trade, from memory.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass, field, replace

from gondrel.core.formats.step.assignments import Assigned, assigned
from gondrel.core.formats.step.metadata_read import has_unit, metadatum_of
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Enumeration, InstanceReference, Typed
from gondrel.core.formats.step.units import context_unit, measure_value, unit_factor
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.particulars import Particular
from gondrel.core.model.product import Material, Validation

__all__ = ["OccurrenceFacts", "ProductFacts", "formation_of", "read_graph", "relation_of", "says"]

_DEFINITIONS = ("PRODUCT_DEFINITION", "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS")
_GEOMETRIC = "geometric validation property"
_ASSEMBLY = "assembly validation property"
_MATERIAL = "material property"
_QUANTITY = "quantity"
"""What a property is called that says of how many a component stands."""

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
_NOTHING = frozenset(("", "NONE", "NULL", "/NULL", "UNKNOWN", "$"))
_USUAL_VIEWS = frozenset(("DESIGN", "PART DEFINITION", "PHYSICALLY", "1", "0"))
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
    formation: int = 0
    product: int = 0
    particulars: list[Particular] = field(default_factory=list)
    material_properties: list[Metadatum] = field(default_factory=list)

    def as_material(self) -> Material | None:
        """The material, None when none is given."""
        if not self.material and self.density is None and not self.material_properties:
            return None
        properties = tuple(self.material_properties)
        return Material(self.material, self.density, self.material_description, properties)

    def as_validation(self) -> Validation | None:
        """The validation properties, None when none are given."""
        figures = (self.volume, self.area, self.centroid, self.occurrences)
        if all(f is None for f in (*figures, self.notional)) and not self.validated_bodies:
            return None
        return Validation(*figures, self.validated_bodies, self.notional)


@dataclass(slots=True)
class OccurrenceFacts:
    """What the records say of one assembly usage."""

    record: int
    name: str
    parent: int
    child: int
    quantity: float | None = None
    metadata: list[Metadatum] = field(default_factory=list)
    centroid: tuple[float, float, float] | None = None
    particulars: list[Particular] = field(default_factory=list)


@dataclass(slots=True)
class Graph:
    """Product definitions and usages by record number.

    Args:
        taken: numbers of the records of properties that were read; with_units: metadata whose value has a
            unit that can't be told, by the number of its item, with its key.
        of_items: properties of faces and bodies, by the number of the item's record.
    """

    products: dict[int, ProductFacts] = field(default_factory=dict)
    uses: dict[int, OccurrenceFacts] = field(default_factory=dict)
    unread_properties: int = 0
    taken: set[int] = field(default_factory=set)
    with_units: dict[int, str] = field(default_factory=dict)
    of_items: defaultdict[int, list[Metadatum]] = field(default_factory=lambda: defaultdict(list))
    item_records: defaultdict[int, list[int]] = field(default_factory=lambda: defaultdict(list))
    usages: dict[int, list[Record]] = field(default_factory=dict)


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
        facts = OccurrenceFacts(use.number, name, parent, child, _quantity(records, use))
        said = (
            ("component id", serial),
            ("component description", text),
            ("reference designator", designator),
        )
        for kind, value in said:
            if says(value) and value != name and not (value == serial and serial.isdigit()):
                facts.particulars.append(Particular(kind, (value,)))
        if facts.quantity is not None:
            whole = facts.quantity == int(facts.quantity)
            facts.metadata.append(Metadatum(_QUANTITY, int(facts.quantity) if whole else facts.quantity))
        graph.uses[use.number] = facts
    _read_properties(records, graph)
    _read_particulars(records, graph)
    return graph


def says(text: str) -> bool:
    """Whether a text is one: not what writers put where they have nothing to say."""
    return text.strip().upper() not in _NOTHING


def _read_particulars(records: Records, graph: Graph) -> None:
    """What is assigned to products, revisions, definitions and components."""
    subjects: defaultdict[int, list[tuple[list[Particular], str]]] = defaultdict(list)
    for facts in graph.products.values():
        for number, of in ((facts.product, "product"), (facts.formation, "revision"),
                           (facts.record, "definition")):  # fmt: skip
            subjects[number].append((facts.particulars, of))
    for use in graph.uses.values():
        subjects[use.record].append((use.particulars, ""))
    for designation in records.of("MATERIAL_DESIGNATION"):
        _read_designation(graph, designation)
    assignments = list(assigned(records))
    for each in assignments:
        if each.paper and all(item in subjects for item in each.items):
            for item in each.items:
                subjects[each.paper] += [(listed, each.particular.kind) for listed, _ in subjects[item]]
    _only_papers(subjects, assignments)
    for each in assignments:
        for item in each.items:
            for listed, of in subjects.get(item, ()):
                listed.append(replace(each.particular, of=of))
        if all(item in subjects for item in each.items):
            graph.taken.update((each.number, *each.more))


def _only_papers(
    subjects: dict[int, list[tuple[list[Particular], str]]], assignments: list[Assigned]
) -> None:
    """Leave out papers of products that have several of a kind: it would not be told which one is meant."""
    papers = {each.paper for each in assignments if each.paper in subjects}
    of_lists = Counter((id(listed), of) for paper in papers for listed, of in subjects[paper])
    for paper in papers:
        if any(of_lists[id(listed), of] > 1 for listed, of in subjects[paper]):
            del subjects[paper]


def _read_designation(graph: Graph, designation: Record) -> None:
    """The name of a material where a product is said to be of it and no property says more."""
    products = [graph.products.get(number) for number in designation.refs(1)]
    named = [f for f in products if f is not None and f.material in ("", designation.text(0))]
    for facts in named:
        facts.material = designation.text(0)
    if named and len(named) == len(products):
        graph.taken.add(designation.number)


def relation_of(use: Record) -> tuple[str, str, str, int, int, str]:
    """Id, name, description, parent, child and reference designator of a usage, complex or not."""
    parameters = use.parameters
    if not use.keyword:
        own = use.parts.get("ASSEMBLY_COMPONENT_USAGE", ())
        parameters = (*use.parts.get("PRODUCT_DEFINITION_RELATIONSHIP", ()), *own)
    texts = [p if isinstance(p, str) else "" for p in parameters] + [""] * 6
    numbers = [p.number if isinstance(p, InstanceReference) else 0 for p in parameters] + [0] * 6
    return texts[0], texts[1], texts[2], numbers[3], numbers[4], texts[5]


def _quantity(records: Records, use: Record) -> float | None:
    """How many of the child a usage stands for, None where it does not say."""
    said = use.parts.get("QUANTIFIED_ASSEMBLY_COMPONENT_USAGE", ())
    measure = records.get(said[-1].number) if said and isinstance(said[-1], InstanceReference) else None
    for part in measure.parts.values() if measure is not None else ():
        for value in part:
            number = measure_value(value)
            if number is not None:
                return number
    return None


def formation_of(records: Records, definition: Record) -> Record | None:
    """The formation, that is the revision, of a product definition of any kind."""
    parameters = next(iter(definition.parts.values()), ())
    formation = parameters[2] if len(parameters) > 2 else None
    return records.get(formation.number) if isinstance(formation, InstanceReference) else None


def _product(records: Records, definition: Record) -> ProductFacts:
    formation = formation_of(records, definition)
    product = records.get(formation.ref(2)) if formation else None
    if formation is None or product is None:
        return ProductFacts(definition.number, "", "", "", "")
    facts = ProductFacts(
        record=definition.number,
        number=product.text(0),
        name=product.text(1),
        revision=formation.text(0),
        description=product.text(2),
        formation=formation.number,
        product=product.number,
    )
    parameters = next(iter(definition.parts.values()))
    own, text = (p if isinstance(p, str) else "" for p in (*parameters[:2], "", "")[:2])
    source = formation.parameters[3] if len(formation.parameters) > 3 else None
    made = source.name.lower() if isinstance(source, Enumeration) else ""
    for kind, value in (
        ("definition id", own if own.upper() not in _USUAL_VIEWS else ""),
        ("definition description", text),
        ("revision description", formation.text(1)),
        ("make or buy", made if made in ("made", "bought") else ""),
    ):
        if says(value):
            facts.particulars.append(Particular(kind, (value,)))
    return facts


def _read_properties(records: Records, graph: Graph) -> None:
    used: defaultdict[int, list[tuple[int, int]]] = defaultdict(list)
    for link in records.of("PROPERTY_DEFINITION_REPRESENTATION"):
        used[link.ref(0)].append((link.number, link.ref(1)))
    for prop in records.of("PROPERTY_DEFINITION"):
        for link_number, target in used.get(prop.number, ()):
            representation = records.get(target)
            taken = (
                _read_property(records, graph, prop, representation, link_number) if representation else []
            )
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


def _read_property(records: Records, graph: Graph, prop: Record, rep: Record, link: int) -> list[int]:
    """Read a property; the numbers of the items of its representation that were taken."""
    owner, whole = _owner(records, graph, prop.ref(2))
    if not owner:
        return []
    name = prop.text(0)
    if not whole and name.lower() not in _OWN_USE:
        return _read_of_item(records, graph, prop, rep, link)
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
        return _read_material(records, graph, facts, prop, items)
    if name.lower() in _OWN_USE or not whole:
        return []
    target = facts or graph.uses[owner]
    return _read_metadata(records, graph, name, items, target.metadata)


def _read_metadata(
    records: Records, graph: Graph, name: str, items: list[Record], metadata: list[Metadatum]
) -> list[int]:
    """Take the items of a representation as metadata; their numbers."""
    read = [(item, m) for item in items if (m := metadatum_of(records, name, item, len(items))) is not None]
    metadata.extend(datum for _, datum in read)
    graph.with_units.update(
        (item.number, datum.key) for item, datum in read if has_unit(item) and not datum.unit
    )
    graph.unread_properties += len(items) - len(read)
    return [item.number for item, _ in read]


def _read_of_item(records: Records, graph: Graph, prop: Record, rep: Record, link: int) -> list[int]:
    """A property of a face or body, which an aspect of the shape names."""
    usages = _usages_of(records, graph, prop.ref(2))
    items = [item for n in rep.refs(1) if (item := records.get(n)) is not None]
    if len(usages) != 1:
        return []
    (usage,) = usages
    metadata: list[Metadatum] = []
    taken = _read_metadata(records, graph, prop.text(0), items, metadata)
    if not taken:
        return []
    of = usage.ref(4)
    graph.of_items[of] += metadata
    # Whether that item is in the model is not known yet: they are taken once it is.
    graph.item_records[of] += [link, prop.number, rep.number, *taken, prop.ref(2), usage.number]
    return []


def _usages_of(records: Records, graph: Graph, aspect: int) -> list[Record]:
    """The usages of items that name an aspect of a shape."""
    if not graph.usages:
        graph.usages[0] = []
        for usage in records.of("GEOMETRIC_ITEM_SPECIFIC_USAGE", "ITEM_IDENTIFIED_REPRESENTATION_USAGE"):
            graph.usages.setdefault(usage.ref(2), []).append(usage)
    return graph.usages.get(aspect, [])


def _read_place(records: Records, use: OccurrenceFacts, rep: Record, items: list[Record]) -> list[int]:
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


def _read_material(
    records: Records, graph: Graph, facts: ProductFacts, prop: Record, items: list[Record]
) -> list[int]:
    taken = []
    others = []
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
        else:
            others.append(item)
    name = prop.text(1) or prop.text(0)
    return taken + _read_metadata(records, graph, name, others, facts.material_properties)


def _density_scale(records: Records, unit: int) -> float:
    """Factor to kg/m3. Gram per cubic centimetre where the unit is not a density at all."""
    exponents = {}
    record = records.get(unit)
    elements = record.parts.get("DERIVED_UNIT", ((),))[0] if record else ()
    for element in elements if isinstance(elements, tuple) else ():
        inner = records.get(element.number) if isinstance(element, InstanceReference) else None
        base = records.get(inner.ref(0)) if inner else None
        if inner is not None and base is not None:
            kind = "mass" if "MASS_UNIT" in base.parts else "length"
            exponents[kind] = measure_value(inner.parameters[1])
    if exponents == {"mass": 1.0, "length": -3.0}:
        factor = unit_factor(records, unit)
        if factor is not None:
            return factor * _KG_PER_MM3_TO_KG_PER_M3
    return 1000.0
