"""The census of a STEP file: which records were read, which only serve those, and what remains.

A record counts as read when what it says is in the model, told one by one: a styled item or a layer that
the reading passed over remains, though its like were taken. What those refer to serves, except other
things that must be read themselves.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.assignments import USUAL_CATEGORIES
from gondrel.core.formats.step.card import SHEETS, SOLIDS, TESSELLATED, WIRES
from gondrel.core.formats.step.codes import CARRIED, REST, SERVING
from gondrel.core.formats.step.external import external_files
from gondrel.core.formats.step.graph import formation_of
from gondrel.core.formats.step.join import ModelBuilder
from gondrel.core.formats.step.kinds import KINDS, kind_of_keyword
from gondrel.core.formats.step.links import Flags, Links
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.styled import STYLED_ITEMS, item_of, parts_of_style, same_colour
from gondrel.core.formats.step.texts import unheld_texts
from gondrel.core.formats.step.tokens import numbers_in
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.census import MOST_PLACES, Census, Remainder
from gondrel.core.model.snapshot import Model

__all__ = ["Taking", "taking_of"]

_THINGS = frozenset((
    *SOLIDS, *SHEETS, *WIRES, *TESSELLATED, "MAPPED_ITEM", "PRODUCT_DEFINITION", "PROPERTY_DEFINITION",
    "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS", "NEXT_ASSEMBLY_USAGE_OCCURRENCE", "STYLED_ITEM",
    "OVER_RIDING_STYLED_ITEM", "CONTEXT_DEPENDENT_OVER_RIDING_STYLED_ITEM", "PRODUCT_DEFINITION_FORMATION",
    "PRODUCT",
))  # fmt: skip
"""Records that are never read merely because another refers to them."""

_LISTS = frozenset((
    "DRAUGHTING_MODEL", "PRESENTATION_STYLE_ASSIGNMENT", "PRESENTATION_STYLE_BY_CONTEXT",
    "SURFACE_SIDE_STYLE", "PRESENTATION_LAYER_ASSIGNMENT", "GEOMETRIC_SET", "GEOMETRIC_CURVE_SET",
))  # fmt: skip
"""Records that only list others, each of which must be read itself; as representations do."""

_APPEARANCE = ("SURFACE_STYLE_REFLECTANCE", "SURFACE_STYLE_BOUNDARY")
_ABOUT_FILES = (
    "DOCUMENT_REPRESENTATION_TYPE", "APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT", "ROLE_ASSOCIATION",
    "PROPERTY_DEFINITION", "PRODUCT_RELATED_PRODUCT_CATEGORY",
)  # fmt: skip
_UNITS = ("NAMED_UNIT", "DERIVED_UNIT", "SI_UNIT", "CONVERSION_BASED_UNIT")
_MOST_HEADS = 40
_DEEPEST = 10


def taking_of(records: Records, links: Links, builder: ModelBuilder, model: Model) -> Taking:
    """Account for every record of a file.

    Args:
        builder: that of the model; model: as it was built, before other files are put into it.
    """
    taking = Taking(records, links, builder, model)
    taking.take_all()
    return taking


class Taking:
    """What of a file was taken, record by record."""

    def __init__(self, records: Records, links: Links, builder: ModelBuilder, model: Model) -> None:
        self.records, self.links, self.builder, self.model = records, links, builder, model
        self.names, self.which = records.keywords()
        self.carried: Flags = np.zeros(len(records), bool)
        self.served: Flags = np.zeros(len(records), bool)
        self.assigned = np.full(len(records), -1)  # kinds of what remains
        self._codes = np.zeros(len(records), np.int64)
        numbers = builder.numbers
        self.bodies: defaultdict[int, list[Body]] = defaultdict(list)
        self.label: dict[int, str] = {}
        for product, body in model.bodies():
            self.bodies[numbers.get(body.id, 0)].append(body)
            named = f"{product.label} / {body.name}" if body.name not in ("", product.label) else ""
            self.label.setdefault(numbers.get(body.id, 0), named or product.label)
        self.bodies.pop(0, None)
        self.uses = {numbers.get(o.id, 0): o for _, o in model.occurrences()}
        self.uses.pop(0, None)
        self.definitions = {n: pid for n, pid in builder.by_record.items() if pid in model.by_id}

    @cached_property
    def census(self) -> Census:
        """Every record accounted for."""
        known, carried = self.known(), self.carried
        rest = tuple(self.remainder(~known))
        self._codes = np.where(carried, CARRIED, np.where(known, SERVING, REST + self.assigned))
        besides = unheld_texts(self.records, self.builder.graph, self.builder.named_faces)
        serving = int((known & ~carried).sum())
        return Census(len(self.records), int(carried.sum()), serving, rest, besides=tuple(besides))

    @property
    def codes(self) -> NDArray[np.uint8]:
        """What became of each record, as `Codes` has it."""
        assert self.census is not None  # that is where it is found out
        return self._codes.astype(np.uint8)

    def flags(self, *keywords: str) -> Flags:
        """Which records have one of some keywords, as a whole or in part."""
        wanted = frozenset(keywords)
        codes = [i for i, name in enumerate(self.names) if not wanted.isdisjoint(name.split("+"))]
        return np.isin(self.which, codes)

    def take(self, *numbers: int) -> None:
        """Count records as read."""
        self._mark(self.carried, numbers)

    def serve(self, *numbers: int) -> None:
        """Count records as serving."""
        self._mark(self.served, numbers)

    def _mark(self, flags: Flags, numbers: Iterable[int]) -> None:
        for number in numbers:
            if ordinal := self.records.ordinal(number):
                flags[ordinal - 1] = True

    def is_taken(self, number: int) -> bool:
        """Whether a record was read."""
        ordinal = self.records.ordinal(number)
        return bool(ordinal and self.carried[ordinal - 1])

    def is_served(self, number: int) -> bool:
        """Whether a record was read or serves."""
        ordinal = self.records.ordinal(number)
        return bool(ordinal and (self.carried[ordinal - 1] or self.served[ordinal - 1]))

    # --- things --------------------------------------------------------------------------------------

    def take_all(self) -> None:
        """Mark what was read, thing by thing."""
        self._products()
        self._uses()
        self._shapes()
        self.take(*self.bodies)
        self._mapped()
        self._styles()
        self._layers()
        self.take(*self.builder.graph.taken)
        self._files()

    def _products(self) -> None:
        for number in self.definitions:
            self.take(number)
            definition = self.records.get(number)
            formation = formation_of(self.records, definition) if definition is not None else None
            if formation is not None:
                self.take(formation.number, formation.ref(2))

    def _uses(self) -> None:
        self.take(*self.uses)
        for link in self.records.of("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION"):
            shape = self.records.get(link.ref(1))
            if shape is not None and shape.ref(2) in self.uses:
                self.serve(link.number, shape.number, link.ref(0))

    def _shapes(self) -> None:
        for shape in self.records.of("PRODUCT_DEFINITION_SHAPE"):
            if shape.ref(2) in self.definitions or shape.ref(2) in self.uses:
                self.serve(shape.number)
        for link in self.records.of("SHAPE_DEFINITION_REPRESENTATION"):
            if self.is_served(link.ref(0)):
                self.serve(link.number, link.ref(1))
        for definition in self.definitions:
            self.serve(*self.builder.shapes.representations(definition))
        relations = self.flags("SHAPE_REPRESENTATION_RELATIONSHIP", "REPRESENTATION_RELATIONSHIP")
        relations &= np.diff(self.links.starts) >= 2  # what they relate comes first
        rows = np.flatnonzero(relations)
        first = self.links.starts[rows]
        one, other = self.links.targets[first], self.links.targets[first + 1]
        known = self.carried | self.served
        self.served[rows[(one >= 0) & (other >= 0) & known[one] & known[other]]] = True

    def _mapped(self) -> None:
        left = list(self.records.of("MAPPED_ITEM"))
        while True:
            items = []
            for item in left:
                mapping = self.records.get(item.ref(1))
                mapped = self.records.get(mapping.ref(1)) if mapping is not None else None
                if mapping is None or mapped is None:
                    continue
                inner = [n for part in mapped.parts.values() for n in numbers_in(part)]
                if self.is_served(mapped.number) or any(self.is_taken(n) for n in inner):
                    self.serve(item.number, mapping.number, mapped.number)
                    items.append(item)
            left = [item for item in left if item not in items]
            if not items or not left:
                return

    # --- looks ---------------------------------------------------------------------------------------

    @cached_property
    def _owners(self) -> dict[int, tuple[int, bool]]:
        """The body, by its record, of every item that looks can be given to, and whether it is a face."""
        owners: dict[int, tuple[int, bool]] = {}
        for number, model, faces in self.builder.body_faces:
            if model in self.bodies:
                owners.update((face, (model, True)) for face, _ in faces)
                owners[number] = model, False
        for record in self.records.of(*SOLIDS):
            if record.number in self.bodies and not record.refs(2):
                owners[record.ref(1)] = record.number, False
        for part, whole in self.builder.surface_models.items():
            if whole in self.bodies:
                owners.setdefault(part, (whole, False))
        for record in self.records.of("GEOMETRIC_SET", "GEOMETRIC_CURVE_SET"):
            own = next((n for n in record.refs(1) if n in self.bodies), 0)
            if own:
                owners.setdefault(record.number, (own, False))
        owners.update((number, (number, False)) for number in self.bodies)
        return owners

    def _styles(self) -> None:
        left: Counter[tuple[str, Rgba]] = Counter()
        for body in (b for bodies in self.bodies.values() for b in bodies):
            left.update((body.id, colour) for _, colour in body.face_colours)
        uses = Counter(o.colour for o in self.uses.values() if o.colour is not None)
        lists = self._listing()
        self.serve(*self.builder.serving)
        for item in self.records.of(*STYLED_ITEMS):
            styles, target = item_of(item)
            taken = False
            for part in parts_of_style(self.records, styles):
                if part.colour is None:
                    continue
                if self._has_colour(target, part.colour, left, uses, part.context):
                    self.serve(*part.numbers)
                    taken = True
            if taken or item.number in self.builder.graph.taken:
                self.take(item.number)
                self.serve(*lists.get(item.number, ()))

    def _listing(self) -> dict[int, list[int]]:
        """The presentations that each styled item is listed in."""
        listing: defaultdict[int, list[int]] = defaultdict(list)
        for name in self.names:
            if "PRESENTATION_REPRESENTATION" in name or "DRAUGHTING_MODEL" in name:
                for record in self.records.of(*name.split("+")):
                    for part in record.parts.values():
                        for listed in numbers_in(part):
                            listing[listed].append(record.number)
        return listing

    def _has_colour(
        self, target: int, colour: Rgba, left: Counter[tuple[str, Rgba]], uses: Counter[Rgba], context: int
    ) -> bool:
        """Whether the model has a colour where a style gives it."""
        if context:
            known = next((c for c in uses if same_colour(c, colour)), None)
            return known is not None
        number, is_face = self._owners.get(target, (0, False))
        for body in self.bodies.get(number, ()):
            if body.colour is not None and same_colour(body.colour, colour):
                return True
            if not is_face:
                continue
            for key in left:
                if key[0] == body.id and left[key] > 0 and same_colour(key[1], colour):
                    left[key] -= 1
                    return True
        return False

    def _layers(self) -> None:
        whole: dict[int, list[Body]] = {}
        for definition, product in self.definitions.items():
            for number in self.builder.shapes.representations(definition):
                whole[number] = list(self.model.product(product).bodies)
        for record in self.records.of("PRESENTATION_LAYER_ASSIGNMENT"):
            items = record.refs(2)
            if items and all(self._on_layer(n, record.text(0), whole) for n in items):
                self.take(record.number)

    def _on_layer(self, item: int, layer: str, whole: dict[int, list[Body]]) -> bool:
        record = self.records.get(item)
        if item in self.uses:
            return layer in self.uses[item].layers
        if record is not None and record.keyword in STYLED_ITEMS:
            item = item_of(record)[1]
        number, is_face = self._owners.get(item, (0, False))
        bodies = self.bodies.get(number) or whole.get(item, [])
        if is_face:
            return bool(bodies) and all(layer in (name for _, name in b.face_layers) for b in bodies)
        return bool(bodies) and all(layer in body.layers for body in bodies)

    def _files(self) -> None:
        needed = external_files(self.records)
        if not set(needed) & set(self.definitions):
            return
        for reference in self.records.of("APPLIED_DOCUMENT_REFERENCE"):
            self.serve(reference.number)
        for equivalence in self.records.of("DOCUMENT_PRODUCT_EQUIVALENCE"):
            self.serve(equivalence.number, equivalence.ref(3))
        for definition in self.records.of("PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS"):
            parameters = next(iter(definition.parts.values()), ())
            self.serve(definition.number, *numbers_in(parameters))
            formation = formation_of(self.records, definition)
            self.serve(formation.ref(2) if formation is not None else 0)
        self._about_files()

    def _about_files(self) -> None:
        """What is said of files that were read: where they are, in which format, that they are files."""
        files = {r.number for r in self.records.of("DOCUMENT_FILE", "APPLIED_DOCUMENT_REFERENCE")}
        files |= {r.number for r in self.records.of("PRODUCT") if not self.is_taken(r.number)}
        for record in self.records.of(*_ABOUT_FILES):
            if any(n in files and self.is_served(n) for n in numbers_in(record.parameters)):
                self.serve(record.number)
        for link in self.records.of("PROPERTY_DEFINITION_REPRESENTATION"):
            if self.is_served(link.ref(0)) and not self.is_taken(link.ref(0)):
                held = self.records.get(link.ref(1))
                self.serve(link.number, link.ref(1), *(held.refs(1) if held is not None else ()))

    # --- what serves ---------------------------------------------------------------------------------

    def known(self) -> Flags:
        """Every record that was read or serves what was."""
        seen = self._reached()
        self._origins(seen)
        self._points(seen)
        for record in self.records.of("APPLICATION_PROTOCOL_DEFINITION"):
            self._also(record, numbers_in(record.parameters), seen)
        for record in self.records.of("NAME_ATTRIBUTE"):
            self._also(record, [record.ref(1)], seen & self.flags(*_UNITS))
        for record in self.records.of("DIMENSIONAL_EXPONENTS"):
            self.serve(record.number)
        for record in self.records.of("GENERAL_PROPERTY_ASSOCIATION"):
            if self.is_taken(record.ref(3)):
                self.serve(record.number)
        for link in self.records.of("SHAPE_DEFINITION_REPRESENTATION"):
            held = self.records.get(link.ref(0))
            if held is not None and held.keyword == "PROPERTY_DEFINITION":
                aspect = self.records.ordinal(held.ref(2))
                if aspect and seen[aspect - 1]:  # what part of a shape a figure is of
                    self.serve(link.number, held.number, link.ref(1))
        self._categories()
        return self._reached()

    def _reached(self) -> Flags:
        seeds = self.carried | self.served
        owners, targets = self.links.owners, self.links.targets
        is_list = np.array([_is_list(name) for name in self.names] or [False])[self.which]
        is_context = np.array(["CONTEXT" in name for name in self.names] or [False])[self.which]
        is_thing = np.array([_is_thing(name) for name in self.names] or [False])[self.which]
        followed = ~is_list[owners] | is_context[targets]
        return self.links.reached(seeds, followed & ~is_thing[targets])

    def _also(self, record: Record, referred: list[int], seen: Flags) -> None:
        ordinals = [self.records.ordinal(n) for n in referred]
        if any(o and seen[o - 1] for o in ordinals):
            self.serve(record.number)

    def _origins(self, seen: Flags) -> None:
        """Placements that a shape lists as its own origin serve; others are coordinate systems."""
        for ordinal in np.flatnonzero(self.served & self._is_shape).tolist():
            record = self.records.at(ordinal + 1)
            listed = [n for part in record.parts.values() for n in numbers_in(part)]
            for number in listed:
                item = self.records.get(number)
                if item is None or item.keyword != "AXIS2_PLACEMENT_3D":
                    continue
                if seen[self.records.ordinal(number) - 1] or self._is_origin(item):
                    self.serve(number)

    @cached_property
    def _is_shape(self) -> Flags:
        codes = [i for i, name in enumerate(self.names) if "SHAPE_REPRESENTATION" in name]
        return np.isin(self.which, codes)

    def _is_origin(self, placement: Record) -> bool:
        """Whether an axis placement is the origin with its axes along those of the shape."""
        wanted = ((0.0, 0.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))
        for index, usual in enumerate(wanted, 1):
            record = self.records.get(placement.ref(index))
            if record is not None and record.parameters[1:2] != (usual,):
                return False
        return True

    def _points(self, seen: Flags) -> None:
        """The curves of sets that bodies were made of, and points where bodies are points."""
        for number, bodies in self.bodies.items():
            record = self.records.get(number)
            if record is None or record.keyword not in ("GEOMETRIC_SET", "GEOMETRIC_CURVE_SET"):
                continue
            has_points = any(body.kind is BodyKind.POINT for body in bodies)
            for item in record.refs(1):
                element = self.records.get(item)
                if element is not None and (element.keyword != "CARTESIAN_POINT" or has_points):
                    self.serve(item)

    def _categories(self) -> None:
        """Categories that every file has say nothing."""
        usual = set()
        for record in self.records.of("PRODUCT_RELATED_PRODUCT_CATEGORY"):
            products = record.refs(2)
            if record.text(0).lower() in USUAL_CATEGORIES and all(self.is_taken(p) for p in products):
                self.serve(record.number)
                usual.add(record.number)
        for relation in self.records.of("PRODUCT_CATEGORY_RELATIONSHIP"):
            above = self.records.get(relation.ref(2))
            is_usual = above is not None and above.text(0).lower() in USUAL_CATEGORIES
            if relation.ref(3) in usual and is_usual:
                self.serve(relation.number, relation.ref(2))

    # --- what remains --------------------------------------------------------------------------------

    def remainder(self, rest: Flags) -> Iterator[Remainder]:
        """The records that remain, by kind and type; what hangs on a record is of its kind."""
        owners, targets = self.links.owners, self.links.targets
        inner = rest[owners] & (targets >= 0)
        inner &= rest[targets]
        below = np.zeros(len(rest), bool)
        below[targets[inner & (owners != targets)]] = True
        heads = rest & ~below
        kind_of = np.array([KINDS.index(kind_of_keyword(name)) for name in self.names] or [0])[self.which]
        left, assigned = rest.copy(), np.full(len(rest), -1)
        for kind in [*range(len(KINDS))] if rest.any() else []:
            seeds = heads & left & (kind_of == kind)
            if seeds.any():
                reached = self.links.reached(seeds, left[targets] & (targets >= 0)) & left
                assigned[reached] = kind
                left &= ~reached
        assigned[left] = kind_of[left]  # in rings that nothing refers to
        self.assigned = assigned
        for kind in np.unique(assigned[rest]).tolist():
            mine = assigned == kind
            codes, counts = np.unique(self.which[mine], return_counts=True)
            head_codes = set(self.which[mine & heads].tolist())
            order = sorted(zip(codes.tolist(), counts.tolist(), strict=True),
                           key=lambda pair: (pair[0] not in head_codes, self.names[pair[0]]))  # fmt: skip
            for code, count in order:
                some = np.flatnonzero(mine & heads & (self.which == code))[:_MOST_HEADS]
                where = dict.fromkeys(w for row in some.tolist() if (w := self._where(row)))
                yield Remainder(KINDS[kind], self.names[code], count, tuple(where)[:MOST_PLACES])

    @cached_property
    def _places(self) -> dict[int, str]:
        """What the items are called that something can hang on, by row."""
        named = {number: self.label[number] for number in self.bodies}
        for face, (number, is_face) in self._owners.items():
            if is_face:
                named[face] = f"a face of {self.label[number]}"
        for number, product in self.definitions.items():
            definition = self.records.get(number)
            label = self.model.product(product).label
            named[number] = label
            formation = formation_of(self.records, definition) if definition is not None else None
            if formation is not None:
                named.setdefault(formation.number, label)
                named.setdefault(formation.ref(2), label)
            for representation in self.builder.shapes.representations(number):
                named.setdefault(representation, label)
        named |= {number: use.name for number, use in self.uses.items() if use.name}
        return {self.records.ordinal(n) - 1: text for n, text in named.items() if self.records.ordinal(n)}

    def _where(self, row: int) -> str:
        """What a record hangs on, empty when that is not said."""
        seen, front = {row}, [row]
        for _ in range(_DEEPEST):
            front = [t for r in front for t in self.links.of(r) if t not in seen]
            for ordinal in front:
                if ordinal in self._places:
                    return self._places[ordinal]
            seen.update(front)
        return ""


def _is_thing(name: str) -> bool:
    parts = name.split("+")
    return not _THINGS.isdisjoint(parts) or any(part.startswith(_APPEARANCE) for part in parts)


def _is_list(name: str) -> bool:
    parts = name.split("+")
    if not _LISTS.isdisjoint(parts):
        return True
    return any(p.endswith("REPRESENTATION") and p != "DEFINITIONAL_REPRESENTATION" for p in parts)
