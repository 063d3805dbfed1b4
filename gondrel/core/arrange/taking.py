"""A proposed structure taken: the model as the proposal has it, every body where it was."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import replace

import numpy as np

from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.proposal import Proposal, ProposedGroup, ProposedPart
from gondrel.core.arrange.structure import free_id
from gondrel.core.errors import UsageError
from gondrel.core.model.product import IDENTITY, Occurrence, Placement, Product
from gondrel.core.model.snapshot import Model

__all__ = ["take_proposal"]


def take_proposal(
    model: Model,
    proposal: Proposal,
    *,
    without: Collection[str] = (),
    names: Mapping[str, str] | None = None,
    whole: str = "Assembly",
) -> Edit:
    """The model with the proposed structure.

    Args:
        without: keys of parts and groups that are not taken; what is of them stays as it is.
        names: other names for parts and groups, by key.
        whole: name of the assembly that is made where several roots become one part.

    Raises:
        UsageError: when nothing of it would change anything.
    """
    taking = _Taking(model, proposal, dict(names or {}))
    for part in proposal.parts:
        if part.key not in without:
            taking.part(part)
    for group in proposal.groups:
        if group.key not in without:
            taking.group(group)
    if not taking.made and not taking.uses and not taking.groups:
        raise UsageError("nothing of the proposal is ticked that would change anything")
    return taking.words(), taking.model(whole)


class _Taking:
    def __init__(self, model: Model, proposal: Proposal, names: dict[str, str]) -> None:
        self.before, self.names = model, names
        self.products = dict(model.by_id)
        self.bodies = {body.id: body for _, body in model.bodies()}
        self.made: dict[str, Product] = {}
        self.uses: defaultdict[str, list[Occurrence]] = defaultdict(list)
        self.gone: set[str] = set()
        self.replaced: dict[str, Occurrence] = {}
        self.groups: list[str] = []
        self.moved: set[str] = set()

    def part(self, part: ProposedPart) -> None:
        """Make a part, or keep it, and put it wherever a body of its shape stands."""
        name = self.names.get(part.key, part.name)
        body = self.bodies[part.body]
        if part.product:
            target = part.product
            if self.products[target].name != name:
                self.products[target] = replace(self.products[target], name=name)
                self.made[target] = self.products[target]
        elif all(part.product == use.source for use in part.uses):
            return
        else:
            target = free_id(part.key, {*self.products, *self.made})
            self.made[target] = Product(target, part.number, name, bodies=(body,))
        for use in part.uses:
            if use.source == part.product:
                continue
            placed = Occurrence(use.id, target, use.name or name, use.placement, use.colour)
            source = self.products[use.source]
            if len(source.bodies) == 1 and not source.occurrences and part.product:
                self.gone.add(use.source)  # a part of its own that is the same as another
                if use.parent:
                    self.replaced[use.id] = placed
                else:
                    self.uses[""].append(placed)
            else:
                self.uses[use.parent].append(placed)
                self.moved.add(use.body)

    def group(self, group: ProposedGroup) -> None:
        """A sub-assembly of what stands together, used as often as it does; left out where a part of it
        was not taken."""
        here = {use.id: use for use in self.uses[group.parent]}
        wanted = [ids for _, ids in group.uses]
        if any(use not in here for ids in wanted for use in ids):
            return
        target = free_id(group.key, {*self.products, *self.made})
        name = self.names.get(group.key, group.name)
        members = tuple(here[use] for use in wanted[0])
        self.made[target] = Product(target, "", name, occurrences=members)
        self.groups.append(target)
        within = {use for ids in wanted for use in ids}
        kept = [use for use in self.uses[group.parent] if use.id not in within]
        for number, (placement, _) in enumerate(group.uses, 1):
            use_id = f"{group.parent}/{group.key}/{number}"
            kept.append(Occurrence(use_id, target, name, _exact(placement)))
        self.uses[group.parent] = kept

    def words(self) -> str:
        """What was done, for the history."""
        count = sum(1 for key in self.made if key not in self.groups)
        uses = sum(len(uses) for uses in self.uses.values()) + len(self.replaced)
        groups = f", {len(self.groups)} sub-assemblies" if self.groups else ""
        return f"Take the recovered structure: {count} parts made or named{groups}, {uses} places"

    def model(self, whole: str) -> Model:
        """The model as taken."""
        products: list[Product] = []
        for product in self.before.products:
            if product.id in self.gone:
                continue
            kept = self.products[product.id]
            uses = tuple(self.replaced.get(use.id, use) for use in kept.occurrences)
            added = tuple(self.uses.get(product.id, ()))
            bodies = tuple(b for b in kept.bodies if b.id not in self.moved)
            if added or len(bodies) != len(kept.bodies) or uses != kept.occurrences:
                kept = replace(kept, bodies=bodies, occurrences=(*uses, *added), validation=None)
            products.append(kept)
        products += [p for key, p in self.made.items() if key not in self.before.by_id]
        roots = tuple(r for r in self.before.roots if r not in self.gone)
        if self.uses.get(""):
            products, roots = self._under_one(products, roots, whole)
        return replace(self.before, products=tuple(products), roots=roots)

    def _under_one(
        self, products: list[Product], roots: tuple[str, ...], whole: str
    ) -> tuple[list[Product], tuple[str, ...]]:
        """Roots that became places of a part stand in an assembly, and so do the others."""
        by_id = {p.id: p for p in products}
        apart = tuple(r for r in roots if by_id[r].is_reference)
        stood = [
            Occurrence(f"/{r}", r, by_id[r].label) for r in roots if not by_id[r].is_reference
        ]  # fmt: skip
        top = Product(free_id("whole", by_id), "", whole, occurrences=(*stood, *self.uses[""]))
        return [top, *products], (top.id, *apart)


def _exact(placement: Placement) -> Placement:
    return IDENTITY if np.array_equal(placement, IDENTITY) else placement
