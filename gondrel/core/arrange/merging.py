"""Products that are the same made one, whatever they are called; every place stays where it is in space."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator
from dataclasses import replace

from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.structure import without_unused
from gondrel.core.errors import UsageError
from gondrel.core.kernel.derive import facts_of
from gondrel.core.likeness.stored import like_bodies
from gondrel.core.model.product import IDENTITY, Placement, Product
from gondrel.core.model.snapshot import Model, compose
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["merge_products"]

_SAID = ("number", "name", "revision", "description", "material")
_DIGITS = 6


def merge_products(
    model: Model, store: BlobStore, product_ids: Collection[str], *, progress: Progress = SILENT
) -> tuple[Edit, tuple[str, ...]]:
    """Equal products among those chosen as one: parts of one body of the same shape, then assemblies of the
    same components in the same places. The first of each stays.

    Returns: the edit, and what was said of the others and is no more, in words.

    Raises:
        UsageError: when no two are equal. KernelRefused: when a body can't be measured.
    """
    idle = model.by_id.keys() - {place.product for place in model.walk()}
    kept: dict[str, tuple[str, Placement]] = dict(_equal_parts(model, store, product_ids, progress))
    changed = _replaced(model, kept)
    while same := dict(_equal_assemblies(changed, product_ids)):
        kept |= same
        changed = _replaced(changed, same)
    if not kept:
        raise UsageError("no two of the chosen items are the same shape")
    told = tuple(
        text for gone, (first, _) in kept.items()
        for text in _unsaid(model.product(first), model.product(gone))
    )  # fmt: skip
    count = len({first for first, _ in kept.values()})
    words = f"Merge {len(kept)} equal items into {count}"
    return (words, without_unused(changed, idle)), told


def _equal_parts(
    model: Model, store: BlobStore, chosen: Collection[str], progress: Progress
) -> Iterator[tuple[str, tuple[str, Placement]]]:
    """Parts that go: the part that stays in their place, and the motion from it."""
    parts = [
        p for p in model.products
        if p.id in chosen and len(p.bodies) == 1 and not p.occurrences and not p.is_reference
    ]  # fmt: skip
    by_blob: defaultdict[str, list[Product]] = defaultdict(list)
    for part in parts:
        by_blob[part.bodies[0].blob].append(part)
    facts = {blob: facts_of(store, blob) for blob in by_blob}
    place = {part.id: n for n, part in enumerate(parts)}
    for group in like_bodies(list(by_blob), facts, store, progress=progress):
        alike = sorted(
            (part for blob in group.members for part in by_blob[blob]), key=lambda p: place[p.id]
        )
        first = alike[0]
        for other in alike[1:]:
            yield other.id, (first.id, group.motion(first.bodies[0].blob, other.bodies[0].blob))


def _equal_assemblies(model: Model, chosen: Collection[str]) -> Iterator[tuple[str, tuple[str, Placement]]]:
    known: dict[object, str] = {}
    for product in model.products:
        if product.id not in chosen or not product.occurrences or product.bodies:
            continue
        what = frozenset(
            (use.product, tuple(round(v, _DIGITS) + 0.0 for v in use.placement))
            for use in product.occurrences
        )
        first = known.setdefault((len(product.occurrences), what), product.id)
        if first != product.id and product.id not in model.roots:
            yield product.id, (first, IDENTITY)


def _replaced(model: Model, kept: dict[str, tuple[str, Placement]]) -> Model:
    """The model with other products in the places of those that go."""
    alone = [model.product(i).label for i in kept if i in model.roots]
    if alone:
        raise UsageError(f"{alone[0]} stands on its own, in no assembly; put it into one first")
    products = []
    for product in model.products:
        if product.id in kept:
            continue
        if any(use.product in kept for use in product.occurrences):
            uses = []
            for use in product.occurrences:
                if use.product in kept:
                    first, motion = kept[use.product]
                    placed = use.placement if motion is IDENTITY else compose(use.placement, motion)
                    use = replace(use, product=first, placement=placed, own_colours=())
                uses.append(use)
            product = replace(product, occurrences=tuple(uses), validation=None)
        products.append(product)
    return replace(model, products=tuple(products))


def _unsaid(first: Product, gone: Product) -> Iterator[str]:
    for field in _SAID:
        was, now = getattr(gone, field), getattr(first, field)
        if was and was != now:
            text = was if isinstance(was, str) else was.name
            yield f"{field} {text!r} of what is {first.label!r} now"
    if set(gone.metadata) - set(first.metadata):
        yield f"properties of {gone.label!r}, which is {first.label!r} now"
    bodies = (
        replace(p.bodies[0], id="", name="", blob="", witness=None) for p in (first, gone) if p.bodies
    )
    if len(set(bodies)) > 1:
        yield f"colours or layers of {gone.label!r}, which is {first.label!r} now"
