"""Rows of the manifest: products under their parents, equal components gathered, with quantities."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field

from gondrel.core.model import Model, Occurrence, Product
from gondrel.core.service.messages import Compared, Proof

__all__ = [
    "Chain",
    "Row",
    "build_flat",
    "build_structure",
    "build_where_used",
    "matches",
    "states_of",
]


Chain = tuple[frozenset[str], ...]
"""A row of the manifest: at each level from the root, the occurrences it stands for."""


@dataclass(slots=True)
class Row:
    """One row. Children are made when asked for.

    Args:
        chain: which occurrences it stands for at each level.
        quantity: how many times it occurs in its parent.
    """

    product: Product
    chain: Chain
    quantity: int
    parent: Row | None
    model: Model
    kind: str = "structure"
    place: int = 0
    label: str = ""
    _children: list[Row] | None = field(default=None, repr=False)

    @property
    def children(self) -> list[Row]:
        """Rows below this one."""
        if self._children is None:
            if self.kind == "structure":
                self._children = _gather(self.model, self.product, self.chain, self)
            elif self.kind == "used":
                self._children = _users(self.model, self.product, self)
            else:
                self._children = []
        return self._children

    @property
    def colour(self) -> str:
        """Colour of its first body as #rrggbb, empty for none."""
        for body in self.product.bodies:
            if body.colour is not None:
                return body.colour.hex
        return ""


def _gather(model: Model, product: Product, chain: Chain, parent: Row | None) -> list[Row]:
    groups: dict[str, list[Occurrence]] = {}
    for occurrence in product.occurrences:
        groups.setdefault(occurrence.product, []).append(occurrence)
    rows = []
    for product_id, occurrences in groups.items():
        if product_id in model.by_id:
            step = frozenset(o.id for o in occurrences)
            child = model.product(product_id)
            rows.append(Row(child, (*chain, step), len(occurrences), parent, model, "structure", len(rows)))
    _tell_apart(rows)
    return rows


def _tell_apart(rows: list[Row]) -> None:
    """Give equal names their numbers, so that no two rows read the same."""
    names = Counter(row.product.label for row in rows)
    for row in rows:
        row.label = row.product.label
        if names[row.product.label] > 1 and row.product.number != row.product.label:
            row.label = f"{row.product.label} ({row.product.number or row.product.id})"


def build_structure(model: Model) -> list[Row]:
    """Rows of the roots; a root's chain is empty."""
    rows = [
        Row(model.product(root), (), 1, None, model, "structure", n)
        for n, root in enumerate(model.roots)
        if root in model.by_id
    ]
    _tell_apart(rows)
    return rows


def _chains_of(product_id: str) -> Chain:
    """One chain that stands for every place of a product: the occurrences that lead to it."""
    return (frozenset({f"product:{product_id}"}),)


def build_flat(model: Model) -> list[Row]:
    """Every product once, with its quantity in the whole."""
    rows = [
        Row(p, _chains_of(p.id), model.quantities[p.id], None, model, "flat", n)
        for n, p in enumerate(model.products)
    ]
    _tell_apart(rows)
    return rows


def build_where_used(model: Model) -> list[Row]:
    """Every part, with the assemblies it occurs in below it."""
    rows = []
    for product in model.products:
        if product.bodies:
            chain = _chains_of(product.id)
            row = Row(product, chain, model.quantities[product.id], None, model, "used", len(rows))
            rows.append(row)
    _tell_apart(rows)
    return rows


def _users(model: Model, product: Product, parent: Row) -> list[Row]:
    counts = Counter(
        owner.id for owner, occurrence in model.occurrences() if occurrence.product == product.id
    )
    rows = [
        Row(model.product(owner), _chains_of(owner), count, parent, model, "used", n)
        for n, (owner, count) in enumerate(counts.items())
    ]
    _tell_apart(rows)
    return rows


def covers(chain: Chain, product: str, path: tuple[str, ...], ancestors: tuple[str, ...]) -> bool:
    """Whether a placed product belongs to a row.

    Args:
        ancestors: product ids from the root down to the placed product itself.
    """
    if len(chain) == 1:
        (only,) = chain[0] if len(chain[0]) == 1 else ("",)
        if only.startswith("product:"):
            return only.removeprefix("product:") in (product, *ancestors)
    if len(path) < len(chain):
        return False
    return all(path[level] in step for level, step in enumerate(chain))


def matches(row: Row, words: tuple[str, ...], states: dict[str, str]) -> bool:
    """Whether a row fits a filter. Words: text, kind:, material:, or a verdict such as lost."""
    product = row.product
    text = f"{product.name} {product.number} {product.revision} {row.label}".lower()
    for word in words:
        key, colon, value = word.partition(":")
        if colon and key == "kind":
            found = any(body.kind.value.startswith(value) for body in product.bodies)
            if not (found or (value and "assembly".startswith(value) and product.is_assembly)):
                return False
        elif colon and key == "material":
            if value not in (product.material.name.lower() if product.material else ""):
                return False
        elif word in ("lost", "altered", "added", "carried"):
            if states.get(product.id) != word:
                return False
        elif word not in text:
            return False
    return True


_RANK = ("lost", "altered", "added", "unproved", "carried")


def states_of(model: Model, proof: Proof | None) -> dict[str, str]:
    """The worst verdict of each product's own items, by product id; empty before a proof."""
    if proof is None:
        return {}
    found: dict[str, set[str]] = {}
    for compared in _items(proof):
        for product in compared.item.products[:1]:
            found.setdefault(product, set()).add(compared.verdict)
    return {
        product.id: next((v for v in _RANK if v in found.get(product.id, ())), "carried")
        for product in model.products
    }


def _items(proof: Proof) -> Iterator[Compared]:
    for entry in proof.ledger.entries:
        yield from entry.items
