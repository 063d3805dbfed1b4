"""Changes of structure. What stands somewhere stays there in space; each returns what was done, in words,
and the new model."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import replace

import numpy as np

from gondrel.core.arrange.properties import Edit
from gondrel.core.errors import UsageError
from gondrel.core.model.product import IDENTITY, Occurrence, Placement, Product
from gondrel.core.model.snapshot import Model, compose

__all__ = [
    "bodies_to_components", "delete_components", "dissolve", "flatten", "free_id", "group_components",
    "make_independent", "mirror_component", "move_component", "move_into", "repeat_component",
    "replace_product", "without_unused",
]  # fmt: skip


def free_id(wanted: str, taken: Collection[str]) -> str:
    """An id that nothing has yet."""
    made, number = wanted, 2
    while made in taken:
        made, number = f"{wanted}-{number}", number + 1
    return made


def _placed_in(model: Model, use_id: str) -> tuple[Product, Occurrence]:
    for parent, use in model.occurrences():
        if use.id == use_id:
            return parent, use
    raise UsageError("the component is not there", hint=use_id)


def _with_uses(model: Model, parent: Product, uses: Iterable[Occurrence]) -> Model:
    return model.with_product(replace(parent, occurrences=tuple(uses), validation=None))


def _inverse(placement: Placement) -> Placement:
    made = np.linalg.inv(np.asarray(placement, float).reshape(4, 4))
    return tuple(made.ravel().tolist())


def without_unused(model: Model, before: Collection[str] = ()) -> Model:
    """The model without products that stand nowhere any more, nor in anything that does.

    Args:
        before: ids of products that stood nowhere already; they stay.
    """
    stood = {place.product for place in model.walk()} | set(before)
    return replace(model, products=tuple(p for p in model.products if p.id in stood))


def _idle(model: Model) -> set[str]:
    return model.by_id.keys() - {place.product for place in model.walk()}


def bodies_to_components(model: Model, body_ids: Iterable[str]) -> Edit:
    """Each body a component of its own, in the product it was in.

    Raises:
        UsageError: when none is in a product with anything beside it.
    """
    wanted = set(body_ids)
    made: list[Product] = []
    products: list[Product] = []
    taken = set(model.by_id)
    for product in model.products:
        chosen = [body for body in product.bodies if body.id in wanted]
        if not chosen or (len(product.bodies) == 1 and not product.occurrences):
            products.append(product)
            continue
        uses = list(product.occurrences)
        for body in chosen:
            name = body.name or f"{product.label} {product.bodies.index(body) + 1}"
            part = Product(free_id(f"{product.id}#{body.id}", taken), "", name, bodies=(body,))
            taken.add(part.id)
            made.append(part)
            uses.append(Occurrence(f"{product.id}/{body.id}", part.id, name))
        kept = tuple(body for body in product.bodies if body.id not in wanted)
        products.append(replace(product, bodies=kept, occurrences=tuple(uses), validation=None))
    if not made:
        raise UsageError("no body is chosen that stands in a product beside others")
    whom = made[0].label if len(made) == 1 else f"{len(made)} bodies"
    return f"Make {whom} a component" + ("s" if len(made) > 1 else ""), replace(
        model, products=(*products, *made)
    )


def group_components(model: Model, use_ids: Sequence[str], name: str, number: str = "") -> Edit:
    """Components of one product put together in a new sub-assembly in their place.

    Raises:
        UsageError: when they are not all in one product, or none is given.
    """
    found = [_placed_in(model, use) for use in use_ids]
    if not found or len({parent.id for parent, _ in found}) != 1:
        raise UsageError("choose components that stand in the same assembly")
    parent, within = found[0][0], {use.id for _, use in found}
    target = free_id("group", model.by_id)
    members = tuple(use for use in parent.occurrences if use.id in within)
    group = Product(target, number, name.strip() or "Sub-assembly", occurrences=members)
    uses: list[Occurrence] = []
    for use in parent.occurrences:
        if use.id not in within:
            uses.append(use)
        elif use.id == members[0].id:
            uses.append(Occurrence(f"{parent.id}/{target}", target, group.name))
    changed = _with_uses(replace(model, products=(*model.products, group)), parent, uses)
    return f"Put {len(members)} components into {group.label}", changed


def dissolve(model: Model, use_ids: Sequence[str]) -> Edit:
    """Sub-assemblies replaced by what is in them, in its place.

    Raises:
        UsageError: when one holds no components, or has bodies of its own.
    """
    idle = _idle(model)
    for use_id in use_ids:
        parent, use = _placed_in(model, use_id)
        inner = model.product(use.product)
        if not inner.occurrences or inner.bodies:
            raise UsageError(f"{inner.label} is no sub-assembly of components alone")
        uses: list[Occurrence] = []
        for each in parent.occurrences:
            uses += _lifted(each, inner) if each.id == use_id else [each]
        model = _with_uses(model, parent, uses)
    whom = "a sub-assembly" if len(use_ids) == 1 else f"{len(use_ids)} sub-assemblies"
    return f"Dissolve {whom}", without_unused(model, idle)


def _lifted(use: Occurrence, inner: Product) -> list[Occurrence]:
    return [
        replace(
            child, id=f"{use.id}/{child.id}", placement=compose(use.placement, child.placement),
            colour=use.colour or child.colour, hidden=use.hidden or child.hidden,
        )
        for child in inner.occurrences
    ]  # fmt: skip


def flatten(model: Model, product_id: str, *, levels: int = 0) -> Edit:
    """A product with its parts directly in it.

    Args:
        levels: how many levels of sub-assemblies are dissolved, 0 for all.

    Raises:
        UsageError: when it holds no sub-assembly.
    """
    idle = _idle(model)
    product = model.product(product_id)
    uses, depth = list(product.occurrences), 0
    while levels == 0 or depth < levels:
        deeper: list[Occurrence] = []
        for use in uses:
            inner = model.product(use.product)
            deeper += _lifted(use, inner) if inner.occurrences and not inner.bodies else [use]
        if len(deeper) == len(uses) and all(a is b for a, b in zip(deeper, uses, strict=True)):
            break
        uses, depth = deeper, depth + 1
    if not depth:
        raise UsageError(f"{product.label} holds no sub-assembly")
    return f"Flatten {product.label}", without_unused(_with_uses(model, product, uses), idle)


def make_independent(model: Model, use_id: str, name: str = "") -> Edit:
    """A shared product made one of its own in one place.

    Raises:
        UsageError: when the product stands nowhere else.
    """
    parent, use = _placed_in(model, use_id)
    product = model.product(use.product)
    if sum(u.product == product.id for _, u in model.occurrences()) < 2:
        raise UsageError(f"{product.label} is used nowhere else")
    target = free_id(product.id, model.by_id)
    copy = replace(
        product, id=target, name=name.strip() or f"{product.name} copy", number="",
        bodies=tuple(replace(b, id=f"{target}/{b.id}") for b in product.bodies),
        occurrences=tuple(replace(u, id=f"{target}/{u.id}") for u in product.occurrences),
    )  # fmt: skip
    changed = _with_uses(
        replace(model, products=(*model.products, copy)), parent,
        (replace(u, product=target) if u.id == use_id else u for u in parent.occurrences),
    )  # fmt: skip
    return f"Make {product.label} independent in one place", changed


def replace_product(model: Model, use_ids: Collection[str], product_id: str) -> Edit:
    """Components that are of another product from now on, in the same places.

    Raises:
        UsageError: when a product would contain itself, or there is none of that id.
    """
    if product_id not in model.by_id:
        raise UsageError("the product to put in their place is not there")
    idle = _idle(model)
    wanted = set(use_ids)
    products = tuple(
        replace(p, occurrences=tuple(
            replace(u, product=product_id) if u.id in wanted else u for u in p.occurrences
        ), validation=None) if any(u.id in wanted for u in p.occurrences) else p
        for p in model.products
    )  # fmt: skip
    changed = replace(model, products=products)
    _refuse_circles(changed)
    return f"Replace {len(wanted)} components by {model.product(product_id).label}", without_unused(
        changed, idle
    )


def _refuse_circles(model: Model) -> None:
    below: dict[str, set[str]] = {p.id: {u.product for u in p.occurrences} for p in model.products}
    for start in below:
        seen, stack = set(), list(below[start])
        while stack:
            each = stack.pop()
            if each == start:
                raise UsageError(f"{model.product(start).label} would contain itself")
            if each not in seen:
                seen.add(each)
                stack += below.get(each, ())


def move_into(model: Model, use_ids: Sequence[str], target: str) -> Edit:
    """Components put into another product that stands beside them or above them, where they are in space.

    Args:
        target: id of the occurrence to put them into, or of the root product; it must stand once only, as
            its other places would get them too.

    Raises:
        UsageError: when the target is used several times, or is inside what is moved.
    """
    house, way = _house(model, target)
    moved: list[Occurrence] = []
    for use_id in use_ids:
        parent, use = _placed_in(model, use_id)
        _, above = (
            _house(model, _only_place(model, parent)) if parent.id not in model.roots else ("", IDENTITY)
        )
        placement = compose(_inverse(way), compose(above, use.placement))
        moved.append(replace(use, placement=placement))
        model = _with_uses(model, parent, (u for u in parent.occurrences if u.id != use_id))
    inner = model.product(house)
    changed = _with_uses(model, inner, (*inner.occurrences, *moved))
    _refuse_circles(changed)
    whom = "a component" if len(moved) == 1 else f"{len(moved)} components"
    return f"Move {whom} into {inner.label}", changed


def _only_place(model: Model, product: Product) -> str:
    places = [use.id for _, use in model.occurrences() if use.product == product.id]
    if len(places) != 1:
        raise UsageError(f"{product.label} stands in {len(places)} places; make it independent first")
    return places[0]


def _house(model: Model, target: str) -> tuple[str, Placement]:
    """The product of an occurrence that stands once, and where that is in the whole."""
    if target in model.roots:
        return target, IDENTITY
    for place in model.walk():
        if place.path and place.path[-1] == target:
            product = model.product(place.product)
            if model.quantities[product.id] != 1:
                count = model.quantities[product.id]
                raise UsageError(f"{product.label} stands in {count} places; make it independent first")
            return product.id, place.placement
    raise UsageError("the assembly to put them into is not there", hint=target)


def delete_components(model: Model, use_ids: Collection[str], product_ids: Collection[str] = ()) -> Edit:
    """Components taken out, and products with all their places; what stands nowhere then goes too.

    Raises:
        UsageError: when nothing would be left.
    """
    idle, wanted, gone = _idle(model), set(use_ids), set(product_ids)
    count = 0
    products = []
    for product in model.products:
        if product.id in gone:
            count += 1
            continue
        kept = tuple(u for u in product.occurrences if u.id not in wanted and u.product not in gone)
        if len(kept) != len(product.occurrences):
            count += len(product.occurrences) - len(kept)
            product = replace(product, occurrences=kept, validation=None)
        products.append(product)
    roots = tuple(r for r in model.roots if r not in gone)
    if not count:
        raise UsageError("nothing is chosen to delete")
    if not roots:
        raise UsageError("nothing would be left")
    changed = without_unused(replace(model, products=tuple(products), roots=roots), idle - gone)
    return f"Delete {count} item{'s' if count != 1 else ''}", changed


def move_component(model: Model, use_id: str, motion: Placement, words: str) -> Edit:
    """A component moved in the product it is in.

    Args:
        motion: 16 numbers, in that product's frame; words: the motion for the history.
    """
    parent, use = _placed_in(model, use_id)
    placed = compose(motion, use.placement)
    uses = (replace(u, placement=placed) if u.id == use_id else u for u in parent.occurrences)
    label = use.name or model.product(use.product).label
    return f"Move {label} {words}", _with_uses(model, parent, uses)


def repeat_component(model: Model, use_id: str, motions: Sequence[Placement], words: str) -> Edit:
    """Further places of a component beside it.

    Args:
        motions: from its place to each further one, in the frame of the product it is in.
    """
    if not motions:
        raise UsageError("a pattern needs at least two places")
    parent, use = _placed_in(model, use_id)
    taken = {u.id for _, u in model.occurrences()}
    copies = []
    for number, motion in enumerate(motions, 2):
        made = free_id(f"{use.id}x{number}", taken)
        taken.add(made)
        name = f"{use.name} {number}" if use.name else ""
        copies.append(replace(use, id=made, name=name, placement=compose(motion, use.placement)))
    label = use.name or model.product(use.product).label
    return f"Repeat {label} {words}", _with_uses(model, parent, (*parent.occurrences, *copies))


def mirror_component(model: Model, use_id: str, mirror: Placement, mirrored: Callable[[str], str]) -> Edit:
    """The mirror image of a component, as a product of its own, beside it.

    Args:
        mirror: the reflection, in the frame of the product it is in; mirrored: makes of a blob that of its
            image by the reflection about the part's own origin, x turned round, and returns its hash.

    Raises:
        UsageError: for an assembly.
    """
    parent, use = _placed_in(model, use_id)
    product = model.product(use.product)
    if product.occurrences:
        raise UsageError(f"{product.label} is an assembly; mirror its parts")
    target = free_id(f"{product.id}-mirrored", model.by_id)
    bodies = tuple(
        replace(b, id=f"{target}/{b.id}", blob=mirrored(b.blob), witness=None) for b in product.bodies
    )
    image = replace(
        product, id=target, number="", name=f"{product.name} mirrored", bodies=bodies, validation=None
    )
    turned: Placement = (-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    placement = compose(compose(mirror, use.placement), turned)
    taken = {u.id for _, u in model.occurrences()}
    added = Occurrence(free_id(f"{use.id}-mirrored", taken), target, image.name, placement, use.colour)
    changed = _with_uses(
        replace(model, products=(*model.products, image)), parent, (*parent.occurrences, added)
    )
    return f"Mirror {product.label}", changed
