"""Cutting a model down: parts kept or dropped by what they are, with the figures of what is left."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from fnmatch import fnmatchcase

from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.structure import delete_components
from gondrel.core.errors import UsageError
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model

__all__ = [
    "Left", "PartFilter", "Seen", "Traits", "cut_down", "figures_of", "filtered", "matching_parts",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class PartFilter:
    """What parts are looked for; every condition that is given must hold.

    Args:
        names, numbers, layers, materials: with * and ? as in file names, any of them, small or capital.
        kinds: of bodies: solid, sheet, wire, point, mesh; colours: #rrggbb of the part or a face.
        smaller: mm, parts whose box has a diagonal below it; larger: above it.
        least_share, most_share: of the volume of all parts in their places.
        standard: whether they are standard parts, by their dimensions.
        visible: whether any of their places is seen from outside.
    """

    names: tuple[str, ...] = ()
    numbers: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()
    layers: tuple[str, ...] = ()
    colours: tuple[str, ...] = ()
    materials: tuple[str, ...] = ()
    smaller: float | None = None
    larger: float | None = None
    least_share: float | None = None
    most_share: float | None = None
    standard: bool | None = None
    visible: bool | None = None

    def __bool__(self) -> bool:
        return self != PartFilter()


@dataclass(frozen=True, slots=True)
class Left:
    """How much a model is.

    Args:
        bytes: of all B-reps, each once; what a file of it takes grows with it.
    """

    parts: int
    places: int
    bodies: int
    faces: int
    volume: float
    bytes: int


@dataclass(frozen=True, slots=True)
class Seen:
    """What of a model is seen from outside.

    Args:
        products: ids of the parts with a place that is seen; uses: ids of the components, assemblies with
            anything seen in them too.
    """

    products: frozenset[str] = frozenset()
    uses: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Traits:
    """What the kernel had to find out of a model for a filter; None where it was not asked for.

    Args:
        standard: ids of the products that are standard parts.
    """

    standard: frozenset[str] | None = None
    seen: Seen | None = None

    def suffice(self, wanted: PartFilter) -> bool:
        """Whether all is known that a filter asks for."""
        return (wanted.standard is None or self.standard is not None) and (
            wanted.visible is None or self.seen is not None
        )


def matching_parts(
    model: Model, wanted: PartFilter, facts: Mapping[str, BodyFacts], traits: Traits = Traits()
) -> list[str]:
    """Ids of the parts that a filter means, in their order; assemblies are none.

    Raises:
        UsageError: when the filter says nothing.
    """
    if not wanted:
        raise UsageError("nothing is said of the parts that are meant")
    counts = model.quantities
    whole = sum(_volume(p, facts) * counts[p.id] for p in model.products) or 1.0
    standard = traits.standard or frozenset()
    seen = traits.seen.products if traits.seen else frozenset()
    return [
        p.id for p in model.products
        if p.bodies and not p.is_reference and _fits(p, wanted, facts, whole)
        and (wanted.standard is None or (p.id in standard) == wanted.standard)
        and (wanted.visible is None or (p.id in seen) == wanted.visible)
    ]  # fmt: skip


def filtered(
    model: Model, wanted: PartFilter, facts: Mapping[str, BodyFacts], *, keep: bool,
    traits: Traits = Traits(), within: Collection[str] | None = None,
) -> Edit:  # fmt: skip
    """The model cut down to the parts that a filter means, or without them.

    Where it is about what is seen from outside, places that are not seen go too, of whichever part.

    Args:
        within: ids of the parts that it is about, None for all.

    Raises:
        UsageError: when no part fits, nothing would go or nothing would be left.
    """
    seen = traits.seen or Seen()
    by_places = wanted.visible is not None and keep == wanted.visible
    looser = replace(wanted, visible=None) if by_places and not keep else wanted
    if looser or (within is None and not by_places):
        parts = matching_parts(model, looser, facts, traits)
    else:
        parts = [p.id for p in model.products if p.bodies and not p.is_reference]
    if within is not None:
        parts = [part for part in parts if part in set(within)]
    if not parts:
        raise UsageError("no part fits")
    if not by_places:
        return cut_down(model, parts, keep=keep)
    chosen = set(parts)
    unseen = [u.id for _, u in model.occurrences() if u.product in chosen and u.id not in seen.uses]
    if not keep:
        parts = [part for part in parts if part not in seen.products]
        if not unseen and not parts:
            raise UsageError("everything is seen from outside")
    return cut_down(model, parts, keep=keep, use_ids=unseen)


def _volume(product: Product, facts: Mapping[str, BodyFacts]) -> float:
    return sum(facts[b.blob].volume for b in product.bodies if b.blob in facts)


def _size(product: Product, facts: Mapping[str, BodyFacts]) -> float:
    boxes = [facts[b.blob].bbox for b in product.bodies if b.blob in facts]
    if not boxes:
        return 0.0
    low, high = (
        [min(b[i] for b in boxes) for i in range(3)],
        [max(b[i + 3] for b in boxes) for i in range(3)],
    )
    return math.dist(low, high)


def _like(text: str, patterns: tuple[str, ...]) -> bool:
    return any(fnmatchcase(text.casefold(), pattern.casefold()) for pattern in patterns)


def _fits(
    product: Product, wanted: PartFilter, facts: Mapping[str, BodyFacts], whole: float
) -> bool:  # fmt: skip
    material = product.material.name if product.material else ""
    layers = {layer for body in product.bodies for layer in body.layers}
    colours = {
        colour.hex for body in product.bodies
        for colour in (body.colour, *(c for _, c in body.face_colours)) if colour is not None
    }  # fmt: skip
    size, share = _size(product, facts), _volume(product, facts) / whole
    return (
        (not wanted.names or _like(product.name, wanted.names))
        and (not wanted.numbers or _like(product.number, wanted.numbers))
        and (not wanted.kinds or any(b.kind.value in wanted.kinds for b in product.bodies))
        and (not wanted.layers or any(_like(layer, wanted.layers) for layer in layers))
        and (not wanted.materials or _like(material, wanted.materials))
        and (not wanted.colours or bool({c.lower() for c in wanted.colours} & colours))
        and (wanted.smaller is None or size < wanted.smaller)
        and (wanted.larger is None or size > wanted.larger)
        and (wanted.least_share is None or share >= wanted.least_share)
        and (wanted.most_share is None or share <= wanted.most_share)
    )


def cut_down(model: Model, part_ids: list[str], *, keep: bool, use_ids: Collection[str] = ()) -> Edit:
    """The model with only some parts, or without them; assemblies that hold nothing then go too.

    Args:
        use_ids: components that go whether their parts stay or not.

    Raises:
        UsageError: when nothing would be left or nothing would go.
    """
    chosen = set(part_ids)
    gone = {
        p.id for p in model.products
        if p.bodies and not p.is_reference and (p.id in chosen) != keep
    }  # fmt: skip
    if not gone and not use_ids:
        raise UsageError("every part is kept: nothing would be cut")
    parts = {p.id for p in model.products if p.bodies and not p.is_reference}
    places = {u.id for _, u in model.occurrences() if u.product in parts - gone}
    if gone >= parts or (use_ids and places and places <= set(use_ids)):
        raise UsageError("no part would be left")
    away = set(use_ids)
    emptied = _emptied(model, gone, away)
    mixed = {
        i for i in gone
        if model.product(i).occurrences and not _all_gone(model, i, gone | emptied, away)
    }  # fmt: skip
    changed = replace(
        model,
        products=tuple(
            replace(p, bodies=(), validation=None) if p.id in mixed else p for p in model.products
        ),
    )
    roots = [r for r in model.roots if r not in gone | emptied]
    if not roots:
        raise UsageError("no part would be left")
    _, changed = delete_components(changed, away, (gone | emptied) - mixed)
    what = "Keep" if keep else "Drop"
    count = len(chosen)
    return f"{what} {count} part{'s' if count != 1 else ''}, cut down from {len(parts)}", changed


def _all_gone(model: Model, product_id: str, gone: set[str], away: set[str]) -> bool:
    uses = model.product(product_id).occurrences
    return all(use.product in gone or use.id in away for use in uses)


def _emptied(model: Model, gone: set[str], away: set[str]) -> set[str]:
    """Assemblies that hold nothing but what goes."""
    above: defaultdict[str, list[str]] = defaultdict(list)
    for house, use in model.occurrences():
        above[use.product].append(house.id)
    emptied: set[str] = set()
    waiting = [*gone, *{use.product for _, use in model.occurrences() if use.id in away}]
    while waiting:
        for parent in above[waiting.pop()]:
            product = model.product(parent)
            if (
                parent not in emptied
                and not product.bodies
                and _all_gone(model, parent, gone | emptied, away)
            ):
                emptied.add(parent)
                waiting.append(parent)
    return emptied


def figures_of(model: Model, facts: Mapping[str, BodyFacts], size_of: Mapping[str, int]) -> Left:
    """How much a model is.

    Args:
        size_of: bytes of each blob.
    """
    counts = model.quantities
    parts = [p for p in model.products if p.bodies and counts[p.id]]
    bodies = [(counts[p.id], b) for p in parts for b in p.bodies]
    return Left(
        len(parts),
        sum(counts[p.id] for p in parts),
        len(bodies),
        sum(facts[b.blob].faces for _, b in bodies if b.blob in facts),
        sum(n * facts[b.blob].volume for n, b in bodies if b.blob in facts),
        sum(size_of.get(key, 0) for key in {b.blob for _, b in bodies}),
    )
