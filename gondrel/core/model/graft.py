"""Putting a received file in the place of a component whose file was missing or lay apart."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from gondrel.core.model.census import merged
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["apart_from", "graft", "side_by_side", "unresolved"]


def _renamed(model: Model, taken: set[str], mark: str) -> Model:
    """A model whose ids clash with none of those taken."""

    def new(identity: str) -> str:
        return f"{mark}{identity}"

    own = {p.id for p in model.products}
    own |= {b.id for _, b in model.bodies()} | {o.id for _, o in model.occurrences()}
    if not own & taken:
        return model
    products = tuple(
        replace(
            p,
            id=new(p.id),
            bodies=tuple(replace(b, id=new(b.id)) for b in p.bodies),
            occurrences=tuple(replace(o, id=new(o.id), product=new(o.product)) for o in p.occurrences),
        )
        for p in model.products
    )
    return replace(model, products=products, roots=tuple(new(r) for r in model.roots))


def apart_from(model: Model, other: Model) -> Model:
    """The other model with ids that clash with none of the first."""
    taken = {p.id for p in model.products}
    taken |= {b.id for _, b in model.bodies()} | {o.id for _, o in model.occurrences()}
    number = 2
    while any(identity.startswith(f"r{number}:") for identity in taken):
        number += 1
    return _renamed(other, taken, f"r{number}:")


def unresolved(model: Model) -> list[Product]:
    """The products whose file is missing."""
    return [product for product in model.products if product.missing_file]


def graft(model: Model, product_id: str, other: Model) -> Model:
    """The model with what a file holds in the place of one of its products.

    The product keeps what it says of itself; where it says nothing, the file's own product speaks.
    """
    added = apart_from(model, other)
    place = model.product(product_id)
    roots = [added.product(r) for r in added.roots]
    filled = replace(place, missing_file="")
    gone: set[str] = set()
    if len(roots) == 1:
        root = roots[0]
        gone.add(root.id)
        filled = Product(
            place.id,
            place.number or root.number,
            place.name or root.name,
            place.revision or root.revision,
            place.description or root.description,
            place.material or root.material,
            place.metadata or root.metadata,
            root.bodies,
            root.occurrences,
            place.validation or root.validation,
            particulars=place.particulars or root.particulars,
            references=(*place.references, *root.references),
        )
    else:
        uses = tuple(Occurrence(f"{r.id}@{place.id}", r.id, r.label) for r in roots)
        filled = replace(filled, occurrences=uses)
    products: list[Product] = []
    for product in model.products:
        products.append(filled if product.id == place.id else product)
        if product.id == place.id:  # parents stand before their parts
            products += [p for p in added.products if p.id not in gone]
    particulars = dict.fromkeys((*model.particulars, *other.particulars))
    return replace(model, products=tuple(products), particulars=tuple(particulars))


def side_by_side(models: Sequence[Model]) -> Model:
    """Several received models as one: the products of all, and what the files of all count."""
    whole = models[0]
    for other in models[1:]:
        added = apart_from(whole, other)
        whole = replace(
            whole,
            products=(*whole.products, *added.products),
            roots=(*whole.roots, *added.roots),
            notes=(*whole.notes, *other.notes),
            particulars=tuple(dict.fromkeys((*whole.particulars, *other.particulars))),
        )
    known = [m.provenance for m in models if m.provenance is not None]
    if len(known) != len(models) or len(models) == 1:
        return whole
    counts: Counter[str] = Counter()
    for each in known:
        counts.update(dict(each.file.counts))
    card = replace(known[0].file, counts=tuple(counts.items()))
    files = tuple((each.file.path, "") for each in known[1:])
    census = merged(each.census for each in known)
    return replace(whole, provenance=replace(known[0], file=card, files=files, census=census))
