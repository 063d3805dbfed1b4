"""Model to STEP file: the whole entity model is ours, the geometry of each body the kernel's."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime

import numpy as np

from gondrel.core.formats.base import Target
from gondrel.core.formats.settings import Aid, SendSettings
from gondrel.core.formats.step.compose import Composer, ref
from gondrel.core.formats.step.tokens import Enumeration
from gondrel.core.formats.step.write_admin import (
    Frame,
    add_axes,
    add_frame,
    add_people_and_approvals,
    header,
)
from gondrel.core.formats.step.write_bodies import WrittenBody, add_body
from gondrel.core.formats.step.write_looks import Looks
from gondrel.core.formats.step.write_properties import Figures, Properties
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.rigid import rigidly_placed
from gondrel.core.kernel.shape import shape_from_blob
from gondrel.core.kernel.step_out import write_body
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.figures import notional_of, placed_centroid
from gondrel.core.model.mass import totals_of
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["write"]


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


class _Writer:
    """Writes one model; numbers of what is written are kept by id."""

    def __init__(
        self,
        model: Model,
        target: Target,
        settings: SendSettings,
        store: BlobStore,
        facts: Mapping[str, BodyFacts],
    ) -> None:
        self.model, self.target, self.settings = model, target, settings
        self.store, self.facts = store, facts
        self.things = target.carries.things
        self.composer = Composer()
        self.frame: Frame = add_frame(self.composer, target.kind, settings.unit)
        self.looks = Looks(self.composer, self.frame.context)
        self.properties = Properties(
            self.composer,
            self.frame.context,
            self.frame.length,
            settings.unit.mm,
            booleans="boolean" in target.carries.metadata_kinds,
        )
        self.totals = totals_of(model, facts)
        self.products: list[int] = []
        self.formations: list[int] = []
        self.definitions: dict[str, int] = {}
        self.shapes: dict[str, int] = {}
        self.representations: dict[str, int] = {}
        self.bodies: dict[str, WrittenBody] = {}
        self.styles: dict[str, int] = {}
        self.axes: dict[str, int] = {}

    def file(self, name: str, progress: Progress) -> bytes:
        for product in progress.each(self.model.products, "Writing parts"):
            self._identity(product)
            self._geometry(product)
        for product in self.model.products:
            self._structure(product)
        self.composer.add(
            "PRODUCT_RELATED_PRODUCT_CATEGORY",
            "detail" if self.target.kind == "step-ap203" else "part",
            None,
            tuple(ref(n) for n in self.products),
        )
        self.looks.finish()
        when = datetime.now(UTC)
        if self.target.kind == "step-ap203":
            add_people_and_approvals(
                self.composer,
                self.settings,
                when,
                self.products,
                self.formations,
                list(self.definitions.values()),
            )
        start = header(name, self.target.schema, self.settings, when)
        return (start + self.composer.data() + "ENDSEC;\nEND-ISO-10303-21;\n").encode("ascii")

    def _identity(self, product: Product) -> None:
        add = self.composer.add
        number = add(
            "PRODUCT",
            product.number,
            product.name,
            product.description,
            (ref(self.frame.product_context),),
        )
        if self.target.kind == "step-ap203":
            formation = add(
                "PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE",
                product.revision,
                "",
                ref(number),
                Enumeration("NOT_KNOWN"),
            )
        else:
            formation = add("PRODUCT_DEFINITION_FORMATION", product.revision, "", ref(number))
        definition = add(
            "PRODUCT_DEFINITION", "design", "", ref(formation), ref(self.frame.definition_context)
        )
        shape = add("PRODUCT_DEFINITION_SHAPE", "", "", ref(definition))
        self.products.append(number)
        self.formations.append(formation)
        self.definitions[product.id] = definition
        self.shapes[product.id] = shape
        if "metadata" in self.things:
            self.properties.metadata(definition, product.metadata)
        if "materials" in self.things and product.material is not None:
            self.properties.material(definition, product.material)

    def _geometry(self, product: Product) -> None:
        """Bodies, their looks and figures, and the product's representation."""
        groups: dict[str, list[int]] = {}
        for body in product.bodies:
            shape = shape_from_blob(self.store.get(body.blob))
            aid = self.settings.aid
            text = write_body(shape, self.settings.unit.key, parameter_curves=aid is Aid.CURVES)
            written = add_body(self.composer, text, body.name, turning=aid is Aid.SPHERES)
            self.bodies[body.id] = written
            groups.setdefault(written.representation, []).extend(written.items)
            if "colours" in self.things:
                self.styles[body.id] = self.looks.body(body, written)
            if "layers" in self.things:
                self.looks.layer(body, written)
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
        if "validation" in self.things:
            self._validation(product)

    def _axes(self, occurrence: Occurrence) -> int:
        matrix = np.asarray(occurrence.placement).reshape(4, 4)
        origin = tuple(float(x) / self.settings.unit.mm for x in matrix[:3, 3])
        z, x = (tuple(float(v) for v in matrix[:3, column]) for column in (2, 0))
        return add_axes(self.composer, origin, z, x)

    def _validation(self, product: Product) -> None:
        totals = self.totals[product.id]
        if totals.area > 0:
            figures = Figures(totals.volume, totals.area, totals.centroid)
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
            usage = add(
                "NEXT_ASSEMBLY_USAGE_OCCURRENCE",
                str(serial),
                occurrence.name,
                "",
                ref(self.definitions[parent.id]),
                ref(self.definitions[child.id]),
                None,
            )
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
            if "colours" in self.things and occurrence.colour and not child.occurrences:
                for body in child.bodies:
                    self.looks.occurrence(
                        occurrence.colour,
                        shape,
                        self.bodies[body.id].items,
                        self.styles.get(body.id, 0),
                        axes,
                    )
