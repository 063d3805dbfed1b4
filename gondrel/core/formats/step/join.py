"""What the kernel made of a STEP file joined with what its records say: identity, properties, structure."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from gondrel.core.errors import KernelError
from gondrel.core.formats.step.card import SHEETS, SOLIDS, TESSELLATED, WIRES, document_definitions
from gondrel.core.formats.step.graph import Graph, ProductFacts
from gondrel.core.formats.step.listed import ListedItem, Matrix, Shapes, is_rigid
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.sheets import surface_models
from gondrel.core.formats.step.styled import styled_colours
from gondrel.core.formats.step.tokens import InstanceReference
from gondrel.core.formats.step.witness import body_faces
from gondrel.core.kernel.exchange.transferred import Transferred, TransferredBody, TransferredProduct
from gondrel.core.model.body import Body, BodyKind, Rgba, Witness
from gondrel.core.model.product import IDENTITY, Occurrence, Product
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model

__all__ = ["BODIES", "ItemMaking", "ModelBuilder", "unmade_notes", "uses_of_places"]

BODIES = (*SOLIDS, *SHEETS, *WIRES, *TESSELLATED)
"""Items that are bodies for sure; what else a shape lists may be an axis or a point to hold on to."""

_SAME_PLACE = 1e-6
_TURNED = "has loops that run the wrong way round in the file"
_READINGS = {
    "faces-elsewhere": "does not lie where the file's own records say, whichever way it is read",
    "faces-read-again": "was read another way: read as usual it lay elsewhere",
    "loops-turned": f"{_TURNED}; it was read as sent",
    "loops-mended": f"{_TURNED}; its seam shows what is meant, and so it was read",
    "edges-elsewhere": "has edges that end far off its surface in the file; one of them is wrong",
}
"""What is told of faces that do not simply lie where the records say."""


@dataclass(frozen=True, slots=True)
class ItemMaking:
    """How single items become bodies.

    Args:
        made: the body of a listed item where it is placed, None when none can be made of it; it may raise
            KernelError.
    """

    made: Callable[[ListedItem], TransferredBody | None]


class ModelBuilder:
    """Joins what the kernel made with what the records say.

    Args:
        making: makes bodies of single items that the kernel passed over.
    """

    def __init__(
        self,
        records: Records,
        graph: Graph,
        transferred: Transferred,
        making: ItemMaking,
    ) -> None:
        self.records = records
        self.graph = graph
        self.transferred = transferred
        self.making = making
        self.shapes = Shapes(records, graph)
        self.numbers: dict[str, int] = {}  # record of each body and occurrence, by its id
        self.notes: list[Note] = []
        self.products: dict[str, Product] = {}
        self.made_records: set[int] = set()
        self.made_uses: set[int] = set()
        self.made_bodies: set[int] = set()
        self.serial = 0
        self.by_record: dict[int, str] = {}
        self.surface_models = surface_models(records)
        self.sources: dict[str, tuple[int, tuple[int, ...]]] = {}
        """Record of the solid or shell each body is of, and the places of its faces."""
        self.named_faces: set[int] = set()
        """Records of the faces whose names are in the model."""
        self.styled_edges: dict[str, list[tuple[int, int]]] = {}
        """Record and place of the edges with styles of their own of each body."""
        self.alone: set[str] = set()
        """Bodies that were made by themselves, of whose looks the kernel says nothing."""
        self.serving: set[int] = set()
        """Records that serve looks which the model has."""

    @cached_property
    def body_faces(self) -> list[tuple[int, int, list[tuple[int, int]]]]:
        """As `witness.body_faces` has it."""
        return body_faces(self.records)

    @cached_property
    def _faces_of(self) -> dict[int, list[int]]:
        """Numbers of the faces of every solid and shell, in order."""
        return {number: [f for f, _ in faces] for number, _, faces in self.body_faces}

    def face_places(self, body: Body) -> dict[int, int]:
        """Places of the faces of a body by their records; without those that are not there as sent."""
        raw, order = self.sources.get(body.id, (0, ()))
        faces = self._faces_of.get(raw, [])
        places = zip(faces, order, strict=True) if len(faces) == len(order) else ()
        return {face: place for face, place in places if place >= 0}

    @cached_property
    def uses_of_places(self) -> dict[int, int]:
        """As `uses_of_places` has it."""
        return uses_of_places(self.records, self.graph)

    @property
    def has_structure(self) -> bool:
        """Whether any product has occurrences."""
        return any(product.occurrences for product in self.products.values())

    def build(self) -> Model:
        """The model of the file; what there is to tell of it is in `notes`."""
        sources = list(self.transferred.products.values())
        aligned = self.transferred.records == len(self.records)
        if not aligned:
            text = (
                f"the kernel counts {self.transferred.records} records and the text holds "
                f"{len(self.records)}; names and properties may be missing"
            )
            self.notes.append(Note("record-count-differs", text))
        ids = {source.key: f"p{n}" for n, source in enumerate(sources, 1)}
        self.by_record = {
            self._number(source.record, aligned): ids[source.key] for source in sources if source.record
        }
        for source in sources:
            self.products[ids[source.key]] = self._product(source, ids, aligned)
        roots = [ids[key] for key in self.transferred.roots]
        self._add_unmade(ids, roots)
        roots = self._drop_wrappers(roots)
        if aligned:
            self._add_listed()
            self._place()
        used = _reachable(self.products, roots)
        kept = tuple(product for product in self.products.values() if product.id in used)
        return Model(products=kept, roots=tuple(roots))

    def _number(self, ordinal: int, aligned: bool) -> int:
        """Record number of an ordinal, 0 when there is none."""
        return self.records.at(ordinal).number if aligned and ordinal else 0

    def _product(self, source: TransferredProduct, ids: dict[str, str], aligned: bool) -> Product:
        number = self._number(source.record, aligned)
        facts = self.graph.products.get(number)
        if number:
            self.made_records.add(number)
        bodies = tuple(
            self._body(body, facts, aligned) for body in source.bodies if not self._is_mesh(body, aligned)
        )
        uses = []
        for use in source.uses:
            use_number = self._number(use.record, aligned)
            known = self.graph.uses.get(use_number)
            if known is not None:
                self.made_uses.add(use_number)
            self.serial += 1
            self.numbers[f"o{self.serial}"] = use_number
            uses.append(
                Occurrence(
                    id=f"o{self.serial}",
                    product=ids[use.product],
                    name=known.name if known else "",
                    placement=use.placement,
                    colour=use.colour,
                    metadata=tuple(known.metadata) if known else (),
                    centroid=known.centroid if known else None,
                    particulars=tuple(known.particulars) if known else (),
                )
            )
        return _identified(ids[source.key], facts, bodies, tuple(uses))

    def _is_mesh(self, source: TransferredBody, aligned: bool) -> bool:
        """Whether a body came from triangles, of which the kernel makes faces that it only guesses at."""
        record = self.records.get(self._number(source.record, aligned))
        return record is not None and record.keyword in TESSELLATED

    def _body(self, source: TransferredBody, facts: ProductFacts | None, aligned: bool) -> Body:
        raw = number = self._number(source.record, aligned)
        if source.kind is not BodyKind.SOLID:
            number = self.surface_models.get(number, number)
        record = self.records.get(number) if number else None
        self.made_bodies.add(number)
        self.serial += 1
        self.numbers[f"b{self.serial}"] = number
        self.sources[f"b{self.serial}"] = raw, source.order
        if aligned and source.styled_edges:
            edges = [(self._number(ordinal, aligned), place) for ordinal, place in source.styled_edges]
            self.styled_edges[f"b{self.serial}"] = edges
        where = facts.name if facts else ""
        if record is not None and source.kind is BodyKind.SOLID:
            self._compare_faces(record, source.faces, where)
        return Body(
            id=f"b{self.serial}",
            kind=source.kind,
            name=_body_name(record),
            blob=source.blob,
            colour=source.colour,
            face_colours=source.face_colours,
            layers=source.layers,
            witness=self._witness(source, where),
        )

    def _witness(self, source: TransferredBody, where: str) -> Witness:
        """What the records say of a body; what was done where its faces lay elsewhere is noted."""
        facts = source.reading
        for code, faces, text in zip(
            _READINGS,
            (facts.elsewhere, facts.again, facts.wrong, facts.mended, facts.loose),
            _READINGS.values(),
            strict=True,
        ):
            if faces:
                more = f" (and {len(faces) - 1:,} more)" if len(faces) > 1 else ""
                self.notes.append(Note(code, f"a face {text}{more}", f"{where} #{faces[0]}".strip()))
        return Witness(source.blob, facts.area, facts.volume, not facts.elsewhere)

    def _compare_faces(self, record: Record, made: int, product: str) -> None:
        held = _faces_held(self.records, record)
        if held and held != made:
            text = f"the file gives this body {held} faces, {made} were made"
            self.notes.append(Note("faces-differ", text, f"{product} #{record.number}".strip()))

    def _add_unmade(self, ids: dict[str, str], roots: list[str]) -> None:
        """Keep products and usages that the kernel passed over, with a note for each."""
        by_record = self.by_record
        documents = document_definitions(self.records)
        for number, facts in self.graph.products.items():
            if number in by_record or number in documents:
                continue
            self.serial += 1
            product_id = f"p{len(ids) + self.serial}"
            by_record[number] = product_id
            self.products[product_id] = _identified(product_id, facts, (), ())
            if self.shapes.items(number):
                text = "no shape could be made of this product; its place in the structure is kept"
                self.notes.append(Note("product-without-shape", text, f"{facts.name} #{number}"))
            else:
                text = "the file gives this product no shape; its place in the structure is kept"
                self.notes.append(Note("no-shape-given", text, f"{facts.name} #{number}"))
        placed: set[str] = set()
        for number, use in self.graph.uses.items():
            child = by_record.get(use.child)
            if number in self.made_uses or use.parent not in by_record or child is None:
                continue
            self.made_uses.add(number)
            parent = self.products[by_record[use.parent]]
            self.serial += 1
            occurrence = Occurrence(
                f"o{self.serial}", child, use.name, metadata=tuple(use.metadata),
                centroid=use.centroid, particulars=tuple(use.particulars),
            )  # fmt: skip
            self.numbers[occurrence.id] = number
            self.products[parent.id] = replace(parent, occurrences=(*parent.occurrences, occurrence))
            placed.add(child)
            where = f"{use.name} #{number}"
            if number not in self.placements:
                text = "the file gives it no placement; it stands at the origin of its parent"
                self.notes.append(Note("occurrence-without-place", text, where))
            if use.quantity is not None:
                text = (
                    f"the file says {use.quantity:g} of it without saying where; it stands once, and "
                    "the quantity is a property of it"
                )
                self.notes.append(Note("quantity-not-placed", text, where))
        used = {o.product for p in self.products.values() for o in p.occurrences}
        roots[:] = [root for root in roots if root not in placed]
        roots += [pid for pid in by_record.values() if pid not in used and pid not in roots]

    @cached_property
    def colours(self) -> dict[int, Rgba]:
        """Colours of items by their records, for bodies that the kernel passed over."""
        return styled_colours(self.records)

    @cached_property
    def placements(self) -> dict[int, Matrix]:
        """Placement of each usage by its record."""
        return self.shapes.placements()

    def _add_listed(self) -> None:
        """Make what a product lists as its shape and the kernel passed over, scaled or mirrored."""
        for definition, product_id in list(self.by_record.items()):
            product = self.products.get(product_id)
            listed = self.shapes.items(definition) if product is not None else []
            if product is None or not listed:
                continue
            bent = {i.number for i in listed if i.placement is not None and not is_rigid(i.placement)}
            kept = [b for b in product.bodies if self.numbers[b.id] not in bent]
            made = Counter(self.numbers[b.id] for b in kept)
            untraced = made[0]
            added: list[Body] = []
            for item in listed:
                if made[item.number] > 0:
                    made[item.number] -= item.keyword in SOLIDS
                elif untraced > 0:
                    untraced -= 1
                else:
                    added += self._listed_body(product, item, item.number in bent)
            self.made_bodies.update(item.number for item in listed)
            if added or len(kept) < len(product.bodies):
                self.products[product_id] = replace(product, bodies=(*kept, *added))

    def _listed_body(self, product: Product, item: ListedItem, is_bent: bool) -> list[Body]:
        """The body of a listed item, none when it can't be made; which is noted."""
        where = f"{product.label} #{item.number}"
        like = next((b for b in product.bodies if self.numbers[b.id] == item.number), None)
        try:
            source = self.making.made(item)
        except KernelError as error:
            source, reason = None, f": {error.message}"
        else:
            reason = ""
        if source is None:
            record = item.keyword or "item"
            if item.keyword in BODIES:
                self.notes.append(
                    Note("body-not-made", f"no body could be made of this {record}{reason}", where)
                )
            else:
                text = f"this {record} is listed in the shape and nothing is made of it"
                self.notes.append(Note("item-not-made", text, where))
            return []
        body = self._body(replace(source, record=self.records.ordinal(item.number)), None, True)
        if like is not None:
            body = replace(body, colour=like.colour, face_colours=like.face_colours, layers=like.layers)
        else:
            self.alone.add(body.id)
            body = replace(body, colour=self.colours.get(item.number))
        if like is None and not is_bent and source.kind is not BodyKind.MESH:
            text = f"the kernel passed over this {item.keyword}; it was made by itself"
            self.notes.append(Note("body-made-alone", text, where))
        if is_bent:
            text = "it is placed mirrored or scaled; a body of that shape was made"
            self.notes.append(Note("placed-scaled", text, where))
        return [body]

    def _place(self) -> None:
        """Hold the placements of usages against the records, which know of scales and mirrors too."""
        for product in list(self.products.values()):
            uses = tuple(self._placed(product, use) for use in product.occurrences)
            if uses != product.occurrences:
                self.products[product.id] = replace(self.products[product.id], occurrences=uses)

    def _placed(self, parent: Product, use: Occurrence) -> Occurrence:
        matrix = self.placements.get(self.numbers.get(use.id, 0))
        if matrix is None:
            return use
        where = f"{parent.label} / {use.name}"
        off = float(np.abs(matrix - np.asarray(use.placement).reshape(4, 4)).max())
        if not np.isfinite(matrix).all():
            text = "its placement has values that make no sense; it stands at the origin of its parent"
            self.notes.append(Note("placement-senseless", text, where))
            return replace(use, placement=IDENTITY)
        if off <= _SAME_PLACE * max(1.0, float(np.abs(matrix[:3, 3]).max())):
            return use
        if is_rigid(matrix):
            how = (
                f"another placement (up to {off:.3g} off)"
                if math.isfinite(off)
                else "no sensible placement"
            )
            text = f"the kernel read {how}; the records' own was taken"
            self.notes.append(Note("placement-differs", text, where))
        else:
            text = "it is placed mirrored or scaled; it is read as it is"
            self.notes.append(Note("placed-scaled", text, where))
        return replace(use, placement=tuple(matrix.ravel().tolist()))

    def _drop_wrappers(self, roots: list[str]) -> list[str]:
        """Take in own bodies that the kernel hung into an assembly as a nameless component."""
        made = {p.key: p for p in self.transferred.products.values()}
        nameless = {f"p{n}" for n, source in enumerate(made.values(), 1) if source.record == 0}
        for product in list(self.products.values()):
            own = [o for o in product.occurrences if o.product in nameless and not o.name]
            if not own or product.id in nameless:
                continue
            bodies = list(product.bodies)
            for occurrence in own:
                bodies += self.products[occurrence.product].bodies
            kept = tuple(o for o in product.occurrences if o not in own)
            self.products[product.id] = replace(product, bodies=tuple(bodies), occurrences=kept)
        return roots


def uses_of_places(records: Records, graph: Graph) -> dict[int, int]:
    """Usages by what stands for their places: a representation of their shape, or its link."""
    uses = {}
    for link in records.of("SHAPE_DEFINITION_REPRESENTATION"):
        shape = records.get(link.ref(0))
        if shape is not None and shape.ref(2) in graph.uses:
            uses[link.ref(1)] = shape.ref(2)
    for link in records.of("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION"):
        shape = records.get(link.ref(1))
        if shape is not None and shape.ref(2) in graph.uses:
            uses[link.number] = shape.ref(2)
    return uses


def _identified(
    product_id: str,
    facts: ProductFacts | None,
    bodies: tuple[Body, ...],
    occurrences: tuple[Occurrence, ...],
) -> Product:
    if facts is None:
        return Product(product_id, "", "", bodies=bodies, occurrences=occurrences)
    return Product(
        id=product_id,
        number=facts.number,
        name=facts.name,
        revision=facts.revision,
        description=facts.description,
        material=facts.as_material(),
        metadata=tuple(facts.metadata),
        bodies=bodies,
        occurrences=occurrences,
        validation=facts.as_validation(),
        particulars=tuple(facts.particulars),
    )


def _reachable(products: dict[str, Product], roots: list[str]) -> set[str]:
    seen: set[str] = set()
    stack = list(roots)
    while stack:
        product_id = stack.pop()
        if product_id in seen or product_id not in products:
            continue
        seen.add(product_id)
        stack.extend(o.product for o in products[product_id].occurrences)
    return seen


def _body_name(record: Record | None) -> str:
    if record is None:
        return ""
    name = record.text(0) if record.keyword else ""
    # Some writers put the record's own number there; that is not a name.
    return "" if name in (f"#{record.number}", "NONE") else name


def _faces_held(records: Records, solid: Record) -> int:
    """How many faces the file gives a solid, voids included; 0 when it can't be told."""
    shells = [solid.ref(1), *solid.refs(2)]
    total = 0
    for number in shells:
        shell = records.get(number)
        if shell is not None and shell.keyword == "ORIENTED_CLOSED_SHELL":
            inner = next((p for p in shell.parameters if isinstance(p, InstanceReference)), None)
            shell = records.get(inner.number) if inner else None
        if shell is None:
            return 0
        total += len(shell.refs(1))
    return total


def unmade_notes(records: Records, builder: ModelBuilder) -> list[Note]:
    """What the records hold and the kernel did not make."""
    notes = []
    for record in records.of(*SOLIDS, *SHEETS):
        if record.number not in builder.made_bodies:
            text = f"no product lists this {record.keyword or 'solid'} in its shape; nothing was made of it"
            notes.append(Note("body-not-listed", text, f"#{record.number}"))
    meshes = [r for r in records.of("TESSELLATED_SOLID", "TESSELLATED_SHELL")
              if r.number not in builder.made_bodies]  # fmt: skip
    if meshes:
        text = f"{len(meshes)} tessellated bodies beside the exact ones are not taken over"
        notes.append(Note("tessellation-not-read", text, f"#{meshes[0].number}"))
    if builder.graph.unread_properties:
        text = f"{builder.graph.unread_properties} property values of other kinds are not taken over"
        notes.append(Note("properties-not-read", text))
    return notes
