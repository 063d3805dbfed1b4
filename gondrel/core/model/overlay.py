"""Two models in one place, each in a tint where they differ, with the material that differs."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.differences import Differences
from gondrel.core.model.graft import apart_from
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["ADDED", "AFTER", "BEFORE", "REMOVED", "difference_model", "overlaid"]

BEFORE, AFTER = Rgba(0.11, 0.36, 0.48, 0.5), Rgba(0.78, 0.50, 0.10, 0.5)
ADDED, REMOVED = Rgba(0.18, 0.44, 0.31), Rgba(0.65, 0.24, 0.25)
_PALE = Rgba(0.62, 0.66, 0.69, 0.16)


def overlaid(before: Model, after: Model, differences: Differences) -> Model:
    """Both models over one another: what changed or was moved in blue as it was before, and in ochre as it
    is after; the rest pale."""
    changed = {change.before for change in differences.materials} | _parts(
        before, [m.before for m in differences.moved]
    )
    fresh = {change.after for change in differences.materials} | _parts(
        after, [m.after for m in differences.moved]
    )
    first = _tinted(before, changed, BEFORE, _PALE)
    second = apart_from(before, _tinted(after, fresh, AFTER, None))
    return Model((*first.products, *second.products), (*first.roots, *second.roots), before.units)


def difference_model(before: Model, after: Model, differences: Differences) -> Model:
    """Only what differs, in its places: material added in green, removed in red; the first model pale round
    it."""
    pale = _tinted(before, (), _PALE, _PALE)
    made: list[Product] = list(pale.products)
    tops: list[str] = list(pale.roots)
    for number, change in enumerate(differences.materials):
        source = before if change.before else after
        owner = change.before or change.after
        bodies = tuple(
            Body(f"difference-{number}-{name}-{place}", BodyKind.SOLID, name, key, colour)
            for name, keys, colour in (
                ("added", change.added, ADDED), ("removed", change.removed, REMOVED),
            )
            for place, key in enumerate(keys)
        )  # fmt: skip
        part = Product(f"difference-{number}", "", change.name, bodies=bodies)
        uses = tuple(
            Occurrence(f"difference-{number}-{n}", part.id, change.name, placed.placement)
            for n, placed in enumerate(p for p in source.walk() if p.product == owner)
        )
        top = Product(f"differences-{number}", "", f"{change.name}, changed", occurrences=uses)
        made += [part, top]
        tops.append(top.id)
    return Model(tuple(made), tuple(tops), before.units)


def _parts(model: Model, uses: Collection[str]) -> set[str]:
    """The parts beneath some components."""
    wanted = set(uses)
    tops = [use.product for _, use in model.occurrences() if use.id in wanted]
    return {place.product for top in tops for place in model.walk(top)}


def _tinted(model: Model, chosen: Collection[str], colour: Rgba, rest: Rgba | None) -> Model:
    """A model in one colour where it is chosen and in another elsewhere; left out there without one."""
    products = []
    for product in model.products:
        tint = colour if product.id in chosen else rest
        bodies = () if tint is None else tuple(
            replace(body.uncoloured(), colour=tint) for body in product.bodies
        )  # fmt: skip
        uses = tuple(replace(use, colour=None, own_colours=()) for use in product.occurrences)
        products.append(replace(product, bodies=bodies, occurrences=uses))
    return replace(model, products=tuple(products))
