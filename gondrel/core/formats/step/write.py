"""Model to STEP file: the whole entity model is ours, the geometry of each body the kernel's."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, datetime

import numpy as np

from gondrel.core.formats.base import Target
from gondrel.core.formats.settings import Aid, SendSettings
from gondrel.core.formats.step.assignments import AssignmentWriter
from gondrel.core.formats.step.compose import RecordComposer, ref
from gondrel.core.formats.step.tokens import Enumeration
from gondrel.core.formats.step.write_admin import (
    Frame,
    add_axes,
    add_frame,
    add_people_and_approvals,
    header,
    protocol_of,
)
from gondrel.core.formats.step.write_appearance import Looks
from gondrel.core.formats.step.write_bodies import WrittenItems, add_body
from gondrel.core.formats.step.write_external import Documents, part_model
from gondrel.core.formats.step.write_properties import CheckFigures, Properties
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.exchange.step_out import write_body
from gondrel.core.kernel.modelling.rigid import rigidly_placed
from gondrel.core.model.beneath import bodies_beneath, parts_in_assemblies
from gondrel.core.model.body import Body, BodyFacts, Rgba
from gondrel.core.model.figures import notional_of, placed_centroid
from gondrel.core.model.mass import totals_of
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.particulars import Particular
from gondrel.core.model.product import Occurrence, Product, Reference
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.machine import give_memory_back

__all__ = ["write", "write_linked"]

_LARGE = 2_000_000
"""Bytes of a body's text from which what the kernel held to write it is worth giving back at once."""


def write(
    model: Model,
    target: Target,
    settings: SendSettings,
    store: BlobStore,
    facts: Mapping[str, BodyFacts],
    *,
    name: str,
    progress: Progress = SILENT,
) -> bytes:
    """The STEP file of a model as bytes.

    Args:
        facts: measures of every body by hash, for the validation properties. Mirrored or scaled parts are
            made of that shape, since STEP placements are rigid.
        name: file name for the header.

    Raises:
        MalformedFile: when a placement shears its part.
        KernelRefused: when the kernel can't write a body.
    """
    model = rigidly_placed(model, store)
    facts = {key: facts[key] if key in facts else facts_of(store, key) for key in model.blobs()}
    return _Writer(model, target, settings, store, facts).file(name, progress)


def write_linked(
    model: Model,
    target: Target,
    settings: SendSettings,
    store: BlobStore,
    facts: Mapping[str, BodyFacts],
    *,
    name: str,
    names_of: Callable[[Model, Iterable[Product]], Mapping[str, str]],
    progress: Progress = SILENT,
) -> dict[str, bytes]:
    """An assembly as several STEP files: one with the structure, and one for each part in it.

    Args:
        name: of the file with the structure; names_of: names the file of each of some products by its id,
            from the folder of that file.

    Raises: as write does.
    """
    model = rigidly_placed(model, store)
    facts = {key: facts[key] if key in facts else facts_of(store, key) for key in model.blobs()}
    parts = parts_in_assemblies(model)
    names = names_of(model, parts)
    files = {
        name: _Writer(model, target, settings, store, facts, names).file(name, progress.part(0.0, 0.2))
    }
    for part in progress.part(0.2, 1.0).each(parts, "Writing parts"):
        writer = _Writer(part_model(model, part), target, settings, store, facts)
        files[names[part.id]] = writer.file(names[part.id].rpartition("/")[2], SILENT)
    return files


class _Writer:
    """Writes one model; numbers of what is written are kept by id."""

    def __init__(
        self,
        model: Model,
        target: Target,
        settings: SendSettings,
        store: BlobStore,
        facts: Mapping[str, BodyFacts],
        elsewhere: Mapping[str, str] | None = None,
    ) -> None:
        self.elsewhere = elsewhere or {}
        self.model, self.target, self.settings = model, target, settings
        self.store, self.facts = store, facts
        self.things = target.carries.things
        self.protocol = protocol_of(target.kind)
        self.composer = RecordComposer()
        self.frame: Frame = add_frame(self.composer, target.kind, settings.unit)
        self.looks = Looks(self.composer, self.frame.context)
        self.properties = Properties(
            self.composer,
            self.frame.context,
            self.frame.length,
            settings.unit.mm,
            booleans="boolean" in target.carries.metadata_kinds,
        )
        self.assignments = AssignmentWriter(self.composer, first_edition=self.protocol.first_203)
        self.totals = totals_of(model, facts)
        self.products: list[int] = []
        self.revisions: dict[tuple[str, str, str, frozenset[Particular]], dict[str, int]] = {}
        self.formations: list[int] = []
        self.definitions: dict[str, int] = {}
        self.shapes: dict[str, int] = {}
        self.representations: dict[str, int] = {}
        self.bodies: dict[str, WrittenItems] = {}
        self.styles: dict[str, int] = {}
        self.axes: dict[str, int] = {}

    def file(self, name: str, progress: Progress) -> bytes:
        for product in progress.each(self.model.products, "Writing parts"):
            self._identity(product)
            if product.id in self.elsewhere:
                self._empty(product)
            else:
                self._geometry(product)
        for product in self.model.products:
            self._structure(product)
        self.composer.add(
            "PRODUCT_RELATED_PRODUCT_CATEGORY",
            "detail" if self.protocol.first_203 else "part",
            None,
            tuple(ref(n) for n in self.products),
        )
        documents = Documents(self.composer, self.target.title)
        for identity, file in self.elsewhere.items():
            documents.add(self.definitions[identity], file)
        self.looks.finish(self.model.particulars if "layers" in self.things else ())
        self.assignments.finish()
        when = datetime.now(UTC)
        if self.protocol.first_203:
            add_people_and_approvals(
                self.composer,
                self.settings,
                when,
                self.products,
                self.formations,
                list(self.definitions.values()),
                self.assignments,
            )
        source = self.model.provenance
        described = source.file.written_by.description if source is not None else ""
        start = header(name, self.target.schema, self.settings, when, described)
        return (start + self.composer.data() + "ENDSEC;\nEND-ISO-10303-21;\n").encode("ascii")

    def _identity(self, product: Product) -> None:
        add = self.composer.add
        number = self._product(product)
        said = {each.kind: each.values[0] for each in product.particulars}
        source = said.get("make or buy", "")
        revision = product.revision, said.get("revision description", ""), ref(number)
        if source or self.protocol.first_203:
            formation = add(
                "PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE",
                *revision,
                Enumeration(source.upper() or "NOT_KNOWN"),
            )
        else:
            formation = add("PRODUCT_DEFINITION_FORMATION", *revision)
        definition = add(
            "PRODUCT_DEFINITION",
            said.get("definition id", "design"),
            said.get("definition description", ""),
            ref(formation),
            ref(self.frame.definition_context),
        )
        subjects = {"product": number, "revision": formation, "definition": definition}
        if product.id not in self.elsewhere:
            self.assignments.add(product.particulars, subjects)
        shape = add("PRODUCT_DEFINITION_SHAPE", "", "", ref(definition))
        self.products.append(number)
        self.formations.append(formation)
        self.definitions[product.id] = definition
        self.shapes[product.id] = shape
        if product.id in self.elsewhere:
            return
        if "metadata" in self.things:
            self.properties.metadata(definition, product.metadata)
        if "materials" in self.things and product.material is not None:
            self.properties.material(definition, product.material)

    def _product(self, product: Product) -> int:
        """The product's own record: one for all revisions and shapes of it that the model holds."""
        said = frozenset(p for p in product.particulars if p.of == "product")
        key = product.number, product.name, product.description, said
        of_revisions = self.revisions.setdefault(key, {})
        parameters = (*key[:3], (ref(self.frame.product_context),))
        if not product.number or product.revision in of_revisions or not of_revisions:
            of_revisions[product.revision] = self.composer.add("PRODUCT", *parameters)
            self.products.append(of_revisions[product.revision])
        else:
            of_revisions[product.revision] = next(iter(of_revisions.values()))
        return of_revisions[product.revision]

    def _empty(self, product: Product) -> None:
        """The representation of a product whose shape is in another file."""
        origin, context = ref(self.frame.origin), ref(self.frame.context)
        own = self.composer.add("SHAPE_REPRESENTATION", "", (origin,), context)
        self.representations[product.id] = own
        self.composer.add("SHAPE_DEFINITION_REPRESENTATION", ref(self.shapes[product.id]), ref(own))

    def _geometry(self, product: Product) -> None:
        """Bodies, their looks and figures, and the product's representation."""
        groups: dict[str, list[int]] = {}
        for body in product.bodies:
            shape = shape_from_blob(self.store.get(body.blob))
            aid = self.settings.aid
            text = write_body(
                shape, self.settings.unit.key, parameter_curves=aid is Aid.CURVES,
                edges=[index for index, _ in body.edge_colours] if "colours" in self.things else (),
            )  # fmt: skip
            if len(text.data) > _LARGE:
                give_memory_back()  # the kernel's records, before ours are made of its text
            written = add_body(self.composer, text, body.name, turning=aid is Aid.SPHERES)
            self.bodies[body.id] = written
            groups.setdefault(written.representation, []).extend(written.items)
            if "colours" in self.things:
                self.styles[body.id] = self.looks.body(body, written)
            if "layers" in self.things:
                self.looks.layer(body, written)
                self.looks.hide(body, written, self.styles.get(body.id, 0))
            self._name_faces(body, written)
        add = self.composer.add
        context, origin = ref(self.frame.context), ref(self.frame.origin)
        if len(groups) == 1 and not product.occurrences:
            ((keyword, items),) = groups.items()
            own = add(keyword, "", (origin, *map(ref, items)), context)
        else:
            axes = tuple(self._axes(o) for o in product.occurrences)
            own = add("SHAPE_REPRESENTATION", "", (origin, *map(ref, axes)), context)
            self.axes.update(zip((o.id for o in product.occurrences), axes, strict=True))
            for keyword, items in groups.items():
                typed = add(keyword, "", (origin, *map(ref, items)), context)
                add("SHAPE_REPRESENTATION_RELATIONSHIP", "", "", ref(own), ref(typed))
        self.representations[product.id] = own
        add("SHAPE_DEFINITION_REPRESENTATION", ref(self.shapes[product.id]), ref(own))
        if self.protocol.items:
            self._of_items(product, own)
        if not self.protocol.first_203:
            self._references(product, own)
        if "validation" in self.things:
            self._validation(product)

    def _name_faces(self, body: Body, written: WrittenItems) -> None:
        for index, name in body.face_names:
            if index < len(written.faces):
                self.composer.name(written.faces[index], name)

    def _of_items(self, product: Product, own: int) -> None:
        """Properties of single bodies and faces."""
        shape = self.shapes[product.id]
        for body in product.bodies:
            written = self.bodies[body.id]
            for item in written.items[:1]:
                self.properties.of_item(shape, own, item, body.metadata)
            of_faces: dict[int, list[Metadatum]] = {}
            for index, datum in body.face_metadata:
                of_faces.setdefault(index, []).append(datum)
            for index, items in of_faces.items():
                if index < len(written.faces):
                    self.properties.of_item(shape, own, written.faces[index], tuple(items))

    def _references(self, product: Product, own: int) -> None:
        """Reference geometry, as a representation beside the product's own."""
        add, context = self.composer.add, ref(self.frame.context)
        allowed = product.references if self.protocol.items else [
            r for r in product.references if r.kind == "system"
        ]  # fmt: skip
        items = tuple(ref(self._reference(each)) for each in allowed)
        if not items:
            return
        if self.protocol.items:
            keyword = "CONSTRUCTIVE_GEOMETRY_REPRESENTATION"
            held = add(keyword, "supplemental geometry", items, context)
            add(f"{keyword}_RELATIONSHIP", "supplemental geometry", "", ref(own), ref(held))
        else:
            held = add("SHAPE_REPRESENTATION", "", items, context)
            add("SHAPE_REPRESENTATION_RELATIONSHIP", "", "", ref(own), ref(held))

    def _reference(self, each: Reference) -> int:
        matrix = np.asarray(each.placement).reshape(4, 4)
        origin = tuple(float(x) / self.settings.unit.mm for x in matrix[:3, 3])
        z, x = (tuple(float(v) for v in matrix[:3, column]) for column in (2, 0))
        add = self.composer.add
        if each.kind == "point":
            return add("CARTESIAN_POINT", each.name, origin)
        if each.kind == "axis":
            point, axis = add("CARTESIAN_POINT", "", origin), add("DIRECTION", "", z)
            return add("AXIS1_PLACEMENT", each.name, ref(point), ref(axis))
        axes = add_axes(self.composer, origin, z, x, "" if each.kind == "plane" else each.name)
        return add("PLANE", each.name, ref(axes)) if each.kind == "plane" else axes

    def _axes(self, occurrence: Occurrence) -> int:
        matrix = np.asarray(occurrence.placement).reshape(4, 4)
        origin = tuple(float(x) / self.settings.unit.mm for x in matrix[:3, 3])
        z, x = (tuple(float(v) for v in matrix[:3, column]) for column in (2, 0))
        return add_axes(self.composer, origin, z, x)

    def _validation(self, product: Product) -> None:
        totals = self.totals[product.id]
        if totals.area > 0:
            figures = CheckFigures(totals.volume, totals.area, totals.centroid)
            self.properties.validation(self.shapes[product.id], figures)
        if product.occurrences:
            self.properties.children(self.definitions[product.id], len(product.occurrences))
        said = product.validation.notional if product.validation is not None else None
        middle = notional_of(product) if said is not None else None
        if middle is not None:
            self.properties.notional(self.shapes[product.id], middle)

    def _structure(self, parent: Product) -> None:
        add = self.composer.add
        for serial, occurrence in enumerate(parent.occurrences, 1):
            child = self.model.product(occurrence.product)
            said = {each.kind: each.values[0] for each in occurrence.particulars}
            usage = add(
                "NEXT_ASSEMBLY_USAGE_OCCURRENCE",
                said.get("component id", str(serial)),
                occurrence.name,
                said.get("component description", ""),
                ref(self.definitions[parent.id]),
                ref(self.definitions[child.id]),
                said.get("reference designator"),
            )
            self.assignments.add(occurrence.particulars, {"": usage})
            shape = add("PRODUCT_DEFINITION_SHAPE", "Placement", "Placement of an item", ref(usage))
            axes = self.axes[occurrence.id]
            move = add("ITEM_DEFINED_TRANSFORMATION", "", "", ref(self.frame.origin), ref(axes))
            first, second = self.representations[child.id], self.representations[parent.id]
            relation = self.composer.add_text(
                f"(REPRESENTATION_RELATIONSHIP('','',#{first},#{second}) "
                f"REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION(#{move}) "
                "SHAPE_REPRESENTATION_RELATIONSHIP())"
            )
            add("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION", ref(relation), ref(shape))
            if "metadata" in self.things:
                self.properties.metadata(usage, occurrence.metadata)
            if "validation" in self.things and occurrence.centroid is not None:
                place = placed_centroid(occurrence, self.totals)
                if place is not None:
                    self.properties.place(shape, place)
            self._places(occurrence, shape, axes)

    def _places(self, use: Occurrence, shape: int, axes: int) -> None:
        """Colours and visibility of a component: of all that is beneath it, in its place alone."""
        hidden = use.hidden and "layers" in self.things
        coloured = "colours" in self.things
        own: dict[str, dict[int, Rgba]] = {}
        for body_id, face, its in use.own_colours if coloured else ():
            own.setdefault(body_id, {})[face] = its
        colour = use.colour if coloured else None
        if colour is None and not hidden and not own:
            return
        if any(body.id not in self.bodies for body in bodies_beneath(self.model, use.product)):
            return  # a look in one place alone is said of bodies, and these are in another file
        place = self.looks.place(shape, axes)
        for body in bodies_beneath(self.model, use.product):
            base = self.styles.get(body.id, 0)
            of_body = own.get(body.id, {})
            if colour is not None or hidden or -1 in of_body:
                self.looks.in_place(
                    place, of_body.get(-1, colour), self.bodies[body.id].items, base, hidden=hidden
                )
            faces = self.bodies[body.id].faces
            for face, its in of_body.items():
                if 0 <= face < len(faces):
                    self.looks.in_place(place, its, (faces[face],), base)
