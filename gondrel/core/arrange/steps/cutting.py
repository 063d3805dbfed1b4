"""Steps that cut a model down."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

from gondrel.core.arrange.bodywork import shape_of
from gondrel.core.arrange.cutdown import PartFilter, Traits, cut_down, filtered
from gondrel.core.arrange.outside import seen_in
from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.steps.base import Context, Items, Kind, NotApplicable
from gondrel.core.arrange.structure import without_unused
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import located, shape_from_blob, shape_to_blob, split_bodies
from gondrel.core.kernel.inspect.axes import about_axis
from gondrel.core.kernel.mesh.envelope import ENVELOPES, envelope_of
from gondrel.core.likeness.standard_parts import standard_part
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.facets import is_facets
from gondrel.core.model.product import Product

__all__ = ["KINDS", "standard_ids"]


@dataclass(frozen=True, slots=True)
class Keep(PartFilter):
    """Only the parts that fit stay. names, numbers, layers, materials: patterns with * and ?; kinds;
    colours; smaller, larger: mm; least_share, most_share: of the whole volume; standard: true or false;
    visible: true for what is seen from outside, places that are not seen go too."""

    def run(self, context: Context, items: Items) -> Edit:
        return _filtered(self, context, items, keep=True)


@dataclass(frozen=True, slots=True)
class Drop(PartFilter):
    """The parts that fit go. The conditions are those of keep; with visible false also the places of other
    parts that are not seen."""

    def run(self, context: Context, items: Items) -> Edit:
        return _filtered(self, context, items, keep=False)


def _filtered(step: PartFilter, context: Context, items: Items, *, keep: bool) -> Edit:
    wanted = PartFilter(**{f.name: getattr(step, f.name) for f in fields(PartFilter)})
    within = {p.id for p in context.products(items) if p.bodies} if items != Items() else None
    if not wanted:
        if within is None:
            raise UsageError("nothing is said of the parts that are meant")
        return cut_down(context.model, list(within), keep=keep)
    traits = Traits(
        standard_ids(context) if wanted.standard is not None else None,
        seen_in(context.model, context.store, progress=context.progress)
        if wanted.visible is not None
        else None,
    )
    facts = context.all_facts()
    try:
        return filtered(context.model, wanted, facts, keep=keep, traits=traits, within=within)
    except UsageError as error:
        raise NotApplicable(error.message) from None


def standard_ids(context: Context) -> frozenset[str]:
    """Ids of the products that are standard parts by their dimensions."""
    return frozenset(p.id for p in context.model.products if _is_standard(p, context))


def _is_standard(product: Product, context: Context) -> bool:
    if len(product.bodies) != 1 or product.bodies[0].kind is not BodyKind.SOLID:
        return False
    body = product.bodies[0]
    axial = about_axis(shape_from_blob(context.store.get(body.blob)))
    return axial is not None and standard_part(axial, context.facts(body).volume) is not None


@dataclass(frozen=True, slots=True)
class ReplaceByEnvelope:
    """kind: box, cylinder, hull, or skin, which is everything as one without what is enclosed; each
    product with all that is in it becomes that."""

    kind: str = "box"

    def run(self, context: Context, items: Items) -> Edit:
        if self.kind not in ENVELOPES:
            raise UsageError(f"there is no envelope {self.kind!r}", hint=", ".join(ENVELOPES))
        model = context.model
        products = context.products(items) if items != Items() else [model.product(model.roots[0])]
        idle = model.by_id.keys() - {place.product for place in model.walk()}
        worst, before, after = 0.0, 0.0, 0.0
        for product in products:
            shapes = []
            for place in model.walk(product.id):
                for body in model.product(place.product).bodies:
                    if not is_facets(context.store.get(body.blob)) or body.kind is BodyKind.MESH:
                        shapes.append(located(shape_of(context.store, body), place.placement))
                        before += context.facts(body).volume
            if not shapes:
                raise NotApplicable(f"{product.label} holds no body")
            made = envelope_of(shapes, self.kind)
            worst = max(worst, made.beyond)
            made_bodies = tuple(
                Body(f"{product.id}/envelope{n}", BodyKind.SOLID, f"{product.label} envelope",
                     context.store.put(shape_to_blob(solid)))
                for n, (_, solid) in enumerate(split_bodies(made.shape), 1)
            )  # fmt: skip
            after += sum(context.facts(body).volume for body in made_bodies)
            changed = replace(product, bodies=made_bodies, occurrences=(), validation=None)
            model = model.with_product(changed)
        told = f"{before / 1e3:.6g} to {after / 1e3:.6g} cm\u00b3"
        if worst:
            told += f", what it holds reaches at most {worst:.2g} mm out of it"
        whom = products[0].label if len(products) == 1 else f"{len(products)} items"
        return f"Replace {whom} by a {self.kind} ({told})", without_unused(model, idle)


KINDS = (
    Kind("keep", "Only parts that fit a filter stay", Keep),
    Kind("drop", "Parts that fit a filter go", Drop),
    Kind(
        "envelope",
        "Products are replaced by one simple body that holds them",
        ReplaceByEnvelope,
    ),
)
