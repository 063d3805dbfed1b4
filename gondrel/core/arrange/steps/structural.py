"""Steps that change structure."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from gondrel.core.arrange.leaving import leave_out
from gondrel.core.arrange.merging import merge_products
from gondrel.core.arrange.ordering import move_in_order, sort_components
from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.recovery import propose
from gondrel.core.arrange.steps.base import Context, Items, Kind, NotApplicable
from gondrel.core.arrange.structure import (
    bodies_to_components,
    delete_components,
    dissolve,
    flatten,
    group_components,
    make_independent,
    move_into,
    replace_product,
)
from gondrel.core.arrange.taking import take_proposal
from gondrel.core.errors import UsageError
from gondrel.core.model.product import Occurrence, Placement

__all__ = ["KINDS", "one_place"]

Vector = tuple[float, float, float]
_TURNED_ROUND: Placement = (-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


@dataclass(frozen=True, slots=True)
class Recover:
    """groups: whether parts that touch and recur become sub-assemblies."""

    groups: bool = True

    def run(self, context: Context, items: Items) -> Edit:
        proposal = propose(context.model, context.store, groups=self.groups, progress=context.progress)
        if not proposal.changes:
            raise NotApplicable("nothing is the same shape as anything else, or it is one part already")
        return take_proposal(context.model, proposal)


@dataclass(frozen=True, slots=True)
class Components:
    """Bodies become components of the product they are in."""

    def run(self, context: Context, items: Items) -> Edit:
        bodies = [body.id for product in context.products(items) for body in product.bodies]
        return bodies_to_components(context.model, bodies)


@dataclass(frozen=True, slots=True)
class Group:
    """name, number: of the new sub-assembly."""

    name: str
    number: str = ""

    def run(self, context: Context, items: Items) -> Edit:
        return group_components(context.model, [u.id for u in context.uses(items)], self.name, self.number)


@dataclass(frozen=True, slots=True)
class Dissolve:
    """Sub-assemblies are replaced by what is in them."""

    def run(self, context: Context, items: Items) -> Edit:
        return dissolve(context.model, [use.id for use in context.uses(items)])


@dataclass(frozen=True, slots=True)
class Flatten:
    """levels: how many levels are dissolved, 0 for all."""

    levels: int = 0

    def run(self, context: Context, items: Items) -> Edit:
        product = (
            context.single(items) if items != Items() else context.model.product(context.model.roots[0])
        )
        return flatten(context.model, product.id, levels=self.levels)


@dataclass(frozen=True, slots=True)
class Independent:
    """name: of the copy; place: which of its places, from 1."""

    name: str = ""
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        return make_independent(context.model, one_place(context, items, self.place).id, self.name)


@dataclass(frozen=True, slots=True)
class Replace:
    """by: the product that is put in the places."""

    by: Items

    def run(self, context: Context, items: Items) -> Edit:
        uses = [use.id for use in context.uses(items)]
        return replace_product(context.model, uses, context.single(self.by).id)


@dataclass(frozen=True, slots=True)
class MoveInto:
    """into: the sub-assembly they are put into; they stay where they are in space."""

    into: Items

    def run(self, context: Context, items: Items) -> Edit:
        house = context.single(self.into)
        places = [use.id for _, use in context.model.occurrences() if use.product == house.id]
        target = house.id if house.id in context.model.roots else (places or [""])[0]
        return move_into(context.model, [use.id for use in context.uses(items)], target)


@dataclass(frozen=True, slots=True)
class Delete:
    """Products go with all their places."""

    def run(self, context: Context, items: Items) -> Edit:
        if items == Items():
            raise UsageError("nothing is said of what is to be deleted")
        if items.inside:
            return delete_components(context.model, [use.id for use in context.uses(items)])
        return delete_components(context.model, (), [p.id for p in context.products(items)])


def one_place(context: Context, items: Items, place: int) -> Occurrence:
    """One place of what is meant; of several in one assembly the one of that number.

    Raises:
        NotApplicable: when there is none, or it is about several products.
    """
    uses = context.uses(items)
    by_product: defaultdict[str, list[Occurrence]] = defaultdict(list)
    for use in uses:
        by_product[use.product].append(use)
    if len(by_product) != 1:
        raise NotApplicable(f"{len(by_product)} items are {items}; the step is about one")
    if not 0 < place <= len(uses):
        raise NotApplicable(f"{items} stands in {len(uses)} places; there is no place {place}")
    return uses[place - 1]


@dataclass(frozen=True, slots=True)
class Merge:
    """Equal products become one, whatever they are called; the first stays."""

    def run(self, context: Context, items: Items) -> Edit:
        chosen = {p.id for p in context.products(items)}
        edit, told = merge_products(context.model, context.store, chosen, progress=context.progress)
        context.told += told
        return edit


@dataclass(frozen=True, slots=True)
class Order:
    """to: first, earlier, later or last among the components beside it."""

    to: str

    def run(self, context: Context, items: Items) -> Edit:
        return move_in_order(context.model, [use.id for use in context.uses(items)], self.to)


@dataclass(frozen=True, slots=True)
class Sort:
    """by: number or name; the components of each assembly that is meant are put in that order."""

    by: str = "number"

    def run(self, context: Context, items: Items) -> Edit:
        return sort_components(context.model, {p.id for p in context.products(items)}, self.by)


@dataclass(frozen=True, slots=True)
class LeaveOut:
    """out: whether the components stay here when the model is sent, or go along again."""

    out: bool = True

    def run(self, context: Context, items: Items) -> Edit:
        return leave_out(context.model, [use.id for use in context.uses(items)], out=self.out)


KINDS = (
    Kind("recover", "Equal bodies become one part, repeated groups sub-assemblies", Recover),
    Kind("components", "Bodies become components", Components),
    Kind("group", "Components are put into a new sub-assembly", Group),
    Kind("dissolve", "Sub-assemblies are replaced by what is in them", Dissolve),
    Kind("flatten", "All levels below a product become one", Flatten),
    Kind("independent", "A shared product becomes one of its own in one place", Independent),
    Kind("replace", "Another product is put in the places", Replace),
    Kind("move-into", "Components are moved into a sub-assembly", MoveInto),
    Kind("merge", "Equal products become one", Merge),
    Kind("order", "Components are put in another order", Order),
    Kind("sort", "The components of assemblies are sorted", Sort),
    Kind("leave-out", "Components are left out of what is sent", LeaveOut),
    Kind("delete", "Products or places go", Delete),
)
