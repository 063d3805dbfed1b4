"""What a file's records say of bodies, faces, layers and reference geometry and the kernel passes over.

Source: ISO 10303-42 (names of representation items, axis placements), -46 (invisibility,
presentation_layer_assignment), -55 and -242 (constructive geometry, geometric_item_specific_usage).
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property

import numpy as np

from gondrel.core.formats.step.graph import says
from gondrel.core.formats.step.join import ModelBuilder
from gondrel.core.formats.step.listed import Matrix
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.styled import STYLED_ITEMS, is_null_style, item_of
from gondrel.core.formats.step.tokens import InstanceReference as Link
from gondrel.core.formats.step.tokens import decode_string, numbers_in
from gondrel.core.model.body import Body
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.particulars import Particular
from gondrel.core.model.product import IDENTITY, Occurrence, Product, Reference
from gondrel.core.model.snapshot import Model

__all__ = ["with_item_facts"]

_NAME = re.compile(rb"\(\s*'((?:[^']|'')+)'")
_FACES = ("ADVANCED_FACE", "FACE_SURFACE")
_CONSTRUCTIVE = "CONSTRUCTIVE_GEOMETRY_REPRESENTATION"


def with_item_facts(builder: ModelBuilder, model: Model) -> Model:
    """The model with what its file's records say of its items besides; the records are noted as taken."""
    return _Facts(builder, model).model()


class _Facts:
    def __init__(self, builder: ModelBuilder, model: Model) -> None:
        self.builder, self.before = builder, model
        self.records: Records = builder.records
        self.graph = builder.graph
        self.particulars: list[Particular] = []
        self.hidden: set[int] = set()
        self.hidden_uses: set[int] = set()
        self.on_layers: defaultdict[int, list[str]] = defaultdict(list)
        self.names: dict[int, str] = {}
        self.taken: set[int] = set()

    def model(self) -> Model:
        self._face_names()
        self._layers()
        self._invisible()
        facts_of_items = {*self.names, *self.on_layers, *self.hidden, *self.graph.of_items}
        products = []
        for product in self.before.products:
            bodies = product.bodies
            if facts_of_items:
                bodies = tuple(self._body(product, body) for body in bodies)
            uses = tuple(self._use(use) for use in product.occurrences)
            definition = self._definitions.get(product.id, 0)
            references = tuple(self._references(definition)) if definition else ()
            products.append(replace(product, bodies=bodies, occurrences=uses, references=references))
        self.graph.taken.update(self.taken)
        return replace(self.before, products=tuple(products), particulars=tuple(self.particulars))

    @cached_property
    def _definitions(self) -> dict[str, int]:
        return {product: number for number, product in self.builder.by_record.items()}

    # --- faces and bodies ----------------------------------------------------------------------------

    def _face_names(self) -> None:
        for keyword in _FACES:
            for number, match in self.records.matches(keyword, _NAME):
                if match[1] != b"#%d" % number and says(text := decode_string(match[1])):
                    self.names[number] = text

    def _body(self, product: Product, body: Body) -> Body:
        number = self.builder.numbers.get(body.id, 0)
        raw, _ = self.builder.sources.get(body.id, (number, ()))
        places = self.builder.face_places(body)
        names = sorted((place, self.names[f]) for f, place in places.items() if f in self.names)
        layers = sorted((place, name) for f, place in places.items() for name in self.on_layers.get(f, ()))
        facts: list[tuple[int, Metadatum]] = []
        for face, place in places.items():
            facts += [(place, datum) for datum in self.graph.of_items.get(face, ())]
            self.taken.update(self.graph.item_records.get(face, ()))
        own = tuple(self.graph.of_items.get(number, ()))
        self.taken.update(self.graph.item_records.get(number, ()))
        self.builder.named_faces.update(f for f in places if f in self.names)
        return replace(
            body,
            hidden=not self.hidden.isdisjoint((number, raw)),
            layers=tuple(dict.fromkeys((*body.layers, *self.on_layers.get(number, ())))),
            metadata=own,
            face_names=tuple(names),
            face_layers=tuple(layers),
            face_metadata=tuple(sorted(facts, key=lambda each: each[0])),
        )

    # --- layers and visibility -----------------------------------------------------------------------

    @cached_property
    def _wholes(self) -> dict[int, list[int]]:
        """Numbers of the bodies of each representation of a product's shape."""
        wholes = {}
        for product, definition in self._definitions.items():
            if product in self.before.by_id:
                bodies = self.before.product(product).bodies
                numbers = [self.builder.numbers.get(b.id, 0) for b in bodies]
                for representation in self.builder.shapes.representations(definition):
                    wholes[representation] = numbers
        return wholes

    def _layers(self) -> None:
        for record in self.records.of("PRESENTATION_LAYER_ASSIGNMENT"):
            name, text = record.text(0), record.text(1)
            for item in record.refs(2):
                styled = self.records.get(item)
                if styled is not None and styled.keyword in STYLED_ITEMS:
                    item = item_of(styled)[1]
                for number in self._wholes.get(item, [item]):
                    self.on_layers[number].append(name)
            if says(text) and text.lower() not in (name.lower(), f"layer {name}".lower()):
                self.particulars.append(Particular("layer description", (name, text)))

    def _invisible(self) -> None:
        # The style of a curve or point is that of the element, its body that of the set it is in.
        known = {*self.builder.numbers.values(), *(raw for raw, _ in self.builder.sources.values())}
        for record in self.records.of("INVISIBILITY"):
            items = [n for part in record.parts.values() for n in numbers_in(part)]
            understood = [self._hide(item, known) for item in items]
            if understood and all(understood):
                self.taken.add(record.number)

    def _hide(self, item: int, known: set[int]) -> bool:
        """Note an item as hidden; whether it is one that the model can hold as such."""
        record = self.records.get(item)
        if record is None:
            return False
        if record.keyword == "PRESENTATION_LAYER_ASSIGNMENT":
            self.particulars.append(Particular("hidden layer", (record.text(0),)))
            return True
        if record.keyword not in STYLED_ITEMS:
            return False
        styles, target = item_of(record)
        if is_null_style(self.records, styles):
            self.taken.update((item, *styles))
        use = self._use_of_style(styles)
        if use:
            self.hidden_uses.add(use)
            return True
        if target in known:
            self.hidden.add(target)
            return True
        return False

    def _use_of_style(self, styles: list[int]) -> int:
        """The usage in whose place alone a style is given, 0 when it is given everywhere."""
        for number in styles:
            style = self.records.get(number)
            if style is not None and style.keyword == "PRESENTATION_STYLE_BY_CONTEXT":
                return self.builder.uses_of_places.get(style.ref(1), 0)
        return 0

    def _use(self, use: Occurrence) -> Occurrence:
        number = self.builder.numbers.get(use.id, 0)
        return replace(use, hidden=number in self.hidden_uses, layers=tuple(self.on_layers.get(number, ())))

    # --- reference geometry --------------------------------------------------------------------------

    @cached_property
    def _used(self) -> set[int]:
        """Placements that place something."""
        used: set[int] = set()
        for keyword in ("ITEM_DEFINED_TRANSFORMATION", "MAPPED_ITEM", "REPRESENTATION_MAP"):
            for record in self.records.of(keyword):
                used.update(n for part in record.parts.values() for n in numbers_in(part))
        return used

    @cached_property
    def _constructive(self) -> dict[int, list[tuple[int, int]]]:
        """Constructive representations beside each representation, with the relation that says so."""
        constructive: defaultdict[int, list[tuple[int, int]]] = defaultdict(list)
        for relation in self.records.of(f"{_CONSTRUCTIVE}_RELATIONSHIP"):
            one, other = relation.ref(2), relation.ref(3)
            constructive[one].append((other, relation.number))
            constructive[other].append((one, relation.number))
        return constructive

    def _references(self, definition: int) -> Iterator[Reference]:
        for representation in self.builder.shapes.representations(definition):
            yield from self._listed(representation)
            for other, relation in self._constructive.get(representation, ()):
                record = self.records.get(other)
                if record is not None and record.keyword == _CONSTRUCTIVE:
                    listed_items = list(self._listed(other, constructive=True))
                    yield from listed_items
                    if listed_items:
                        self.taken.update((other, relation))

    def _listed(self, representation: int, *, constructive: bool = False) -> Iterator[Reference]:
        record = self.records.get(representation)
        parameters = record.parameters if record is not None else ()
        listed = parameters[1] if len(parameters) > 1 else ()
        context = next((p.number for p in reversed(parameters) if isinstance(p, Link)), 0)
        for link in listed if isinstance(listed, tuple) else ():
            if not isinstance(link, Link) or link.number in self._used:
                continue
            item = self.records.get(link.number)
            if item is None:
                continue
            kind = _kind(item, constructive=constructive)
            frame = self._frame(item, context) if kind else None
            if frame is None or (kind == "system" and not constructive and _is_origin(frame)):
                continue
            self.taken.add(item.number)
            name = item.text(0) if says(item.text(0)) else ""
            yield Reference(kind, name, tuple(frame.ravel().tolist()))

    def _frame(self, item: Record, context: int) -> Matrix | None:
        shapes = self.builder.shapes
        if item.keyword == "PLANE":
            return shapes.frame(item.ref(1), context)
        return shapes.frame(item.number, context)


def _kind(item: Record, *, constructive: bool) -> str:
    kinds = {"AXIS2_PLACEMENT_3D": "system", "AXIS1_PLACEMENT": "axis"}
    if constructive:
        kinds |= {"PLANE": "plane", "CARTESIAN_POINT": "point"}
    return kinds.get(item.keyword, "")


def _is_origin(frame: Matrix) -> bool:
    return bool(np.allclose(frame.ravel(), IDENTITY, atol=1e-12))
