"""Rows of the manifest: products under their parents, equal components gathered, with quantities."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np

from gondrel.core.model import BodyFacts, Model, Occurrence, Product
from gondrel.core.model.sizes import SIZE_TERMS, is_size_term
from gondrel.core.reports.figures import Figures
from gondrel.ui.presenters.states import NO_STATE, State

__all__ = [
    "Chain",
    "Covering",
    "Row",
    "build_flat",
    "build_structure",
    "build_where_used",
    "cell_text",
    "chain_of_product",
    "fitting",
    "occurrences_of",
    "other_bodies",
    "products_of",
    "renewed",
    "same_drawn",
    "same_places",
    "sort_key",
]


Chain = tuple[frozenset[str], ...]
"""A row of the manifest: at each level from the root, the occurrences it stands for."""

_PRODUCT = "product:"


@dataclass(slots=True, eq=False)
class Row:
    """One row, equal to none but itself. Children are made when asked for.

    Args:
        chain: which occurrences it stands for at each level.
        quantity: how many times it occurs in its parent.
        place: among its siblings as in the file; at: among those that are shown, as they are sorted.
    """

    product: Product
    chain: Chain
    quantity: int
    parent: Row | None
    model: Model
    kind: str = "structure"
    place: int = 0
    label: str = ""
    at: int = 0
    _text: str = ""
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
    def text(self) -> str:
        """What words of a filter are looked for in: name, number, revision and label, all small."""
        if not self._text:
            product = self.product
            self._text = f"{product.name} {product.number} {product.revision} {self.label}".lower()
        return self._text

    @property
    def has_children(self) -> bool:
        """Whether there are rows below this one, without making them."""
        if self._children is not None or self.kind == "used":
            return bool(self.children)
        known = self.model.by_id
        return self.kind == "structure" and any(use.product in known for use in self.product.occurrences)

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
    rows: list[Row] = []
    for product_id, occurrences in groups.items():
        if product_id in model.by_id:
            step = frozenset(o.id for o in occurrences)
            child = model.product(product_id)
            rows.append(Row(child, (*chain, step), len(occurrences), parent, model, "structure", len(rows)))
    _tell_apart(rows)
    return rows


def _tell_apart(rows: list[Row]) -> None:
    """Give equal names their numbers, and those still equal the place they are used at."""
    names = Counter(row.product.label for row in rows)
    for row in rows:
        row.label = row.product.label
        if names[row.label] > 1 and row.product.number not in ("", row.label):
            row.label = f"{row.label} ({row.product.number})"
    again = Counter(row.label for row in rows)
    if len(again) == len(rows):
        return
    model = rows[0].model
    user = {o.product: owner.label for owner, o in reversed(list(model.occurrences()))}
    seen: Counter[str] = Counter()
    for row in rows:
        if again[row.label] > 1:
            base = row.label
            row.label = f"{base} in {user[row.product.id]}" if row.product.id in user else base
            seen[row.label] += 1
            if seen[row.label] > 1:
                row.label = f"{row.label} #{seen[row.label]}"


def build_structure(model: Model) -> list[Row]:
    """Rows of the roots; a root's chain is empty."""
    rows = [
        Row(model.product(root), (), 1, None, model, "structure", n)
        for n, root in enumerate(model.roots)
        if root in model.by_id
    ]
    _tell_apart(rows)
    return rows


def chain_of_product(product_id: str) -> Chain:
    """One chain that stands for every place of a product: the occurrences that lead to it."""
    return (frozenset({_PRODUCT + product_id}),)


def build_flat(model: Model) -> list[Row]:
    """Every product once, with its quantity in the whole."""
    rows = [
        Row(p, chain_of_product(p.id), model.quantities[p.id], None, model, "flat", n)
        for n, p in enumerate(model.products)
    ]
    _tell_apart(rows)
    return rows


def build_where_used(model: Model) -> list[Row]:
    """Every part, with the assemblies it occurs in below it."""
    rows: list[Row] = []
    for product in model.products:
        if product.bodies:
            chain = chain_of_product(product.id)
            row = Row(product, chain, model.quantities[product.id], None, model, "used", len(rows))
            rows.append(row)
    _tell_apart(rows)
    return rows


def _users(model: Model, product: Product, parent: Row) -> list[Row]:
    counts = Counter(
        owner.id for owner, occurrence in model.occurrences() if occurrence.product == product.id
    )
    rows = [
        Row(model.product(owner), chain_of_product(owner), count, parent, model, "used", n)
        for n, (owner, count) in enumerate(counts.items())
    ]
    _tell_apart(rows)
    return rows


class Covering:
    """Which placed products belong to some rows."""

    def __init__(self, chains: Iterable[Chain]) -> None:
        self.products: set[str] = set()
        self.is_all = False
        self._by_last: dict[tuple[int, str], list[Chain]] = {}
        for chain in chains:
            only = next(iter(chain[0])) if len(chain) == 1 and len(chain[0]) == 1 else ""
            if only.startswith(_PRODUCT):
                self.products.add(only.removeprefix(_PRODUCT))
                continue
            self.is_all = self.is_all or not chain
            for step in chain[-1] if chain else ():
                self._by_last.setdefault((len(chain), step), []).append(chain)

    def __bool__(self) -> bool:
        return bool(self.is_all or self.products or self._by_last)

    def covers(self, product: str, path: tuple[str, ...], ancestors: tuple[str, ...]) -> bool:
        """Whether a placed product is among them.

        Args:
            path: occurrences from the root down; ancestors: product ids from the root down to the placed
                product itself.
        """
        if self.is_all or product in self.products or not self.products.isdisjoint(ancestors):
            return True
        return any(
            all(path[level] in step for level, step in enumerate(chain))
            for depth, last in enumerate(path, 1)
            for chain in self._by_last.get((depth, last), ())
        )


NO_SIZES: Mapping[str, Collection[str]] = MappingProxyType({})

STATES = (
    "lost", "altered", "announced", "added", "unproved", "carried", "fault", "doubt", "clean", "missing",
)  # fmt: skip
TERMS = ("kind:", "material:", "number:", "rev:", "layer:", "state:", *SIZE_TERMS, *STATES)
"""What the filter line knows beside plain words."""


Test = Callable[[Row], bool]


def fitting(
    words: tuple[str, ...], states: Mapping[str, State], sized: Mapping[str, Collection[str]] = NO_SIZES
) -> Test:
    """A test whether a row fits a filter: every word or term of TERMS must hold; a leading - turns one
    round.

    Args:
        sized: ids of the products that fit each term that asks for a size.
    """
    tests = [
        (word.startswith("-") and len(word) > 1, _holding(word.removeprefix("-") or word, states, sized))
        for word in words
    ]
    return lambda row: all(test(row) is not turned for turned, test in tests)


def _holding(word: str, states: Mapping[str, State], sized: Mapping[str, Collection[str]]) -> Test:
    if is_size_term(word):
        ids = sized.get(word, ())
        return lambda row: row.product.id in ids
    key, colon, value = word.partition(":")
    if colon and key in _TERM_TESTS:
        holds = _TERM_TESTS[key]
        return lambda row: holds(row, value)
    if colon and key == "state":
        return lambda row: states.get(row.product.id, NO_STATE).says(value) or not value
    if word in STATES:
        return lambda row: states.get(row.product.id, NO_STATE).says(word)
    return lambda row: word in row.text


def _is_kind(row: Row, value: str) -> bool:
    holds = any(body.kind.value.startswith(value) for body in row.product.bodies)
    return holds or bool(value and "assembly".startswith(value) and row.product.is_assembly)


_TERM_TESTS: dict[str, Callable[[Row, str], bool]] = {
    "kind": _is_kind,
    "material": lambda row, value: (
        value in (row.product.material.name.lower() if row.product.material else "")
    ),
    "number": lambda row, value: value in row.product.number.lower(),
    "rev": lambda row, value: row.product.revision.lower() == value or not value,
    "layer": lambda row, value: any(
        value in layer.lower() for body in row.product.bodies for layer in body.layers
    ),
}


def sort_key(
    row: Row, column: str, facts: Mapping[str, BodyFacts], figures: Figures, states: Mapping[str, State]
) -> tuple[object, ...]:
    """What rows are sorted by in a column: numbers by their size, states by their gravity."""
    product, name = row.product, row.label.lower()
    if column == "state":
        return states.get(product.id, NO_STATE).weight, name
    if column == "quantity":
        return -row.quantity, name
    if column == "bodies":
        return -len(product.bodies), name
    if column == "mass":
        volume = sum(facts[b.blob].volume for b in product.bodies if b.blob in facts)
        density = product.material.density if product.material else None
        return -volume * (density or 0.0), name
    text = cell_text(row, column, facts, figures).lower() if column != "item" else name
    return not text, text, name


def cell_text(row: Row, column: str, facts: Mapping[str, BodyFacts], figures: Figures) -> str:
    """What stands in a column of the manifest; state is drawn, not written."""
    product = row.product
    if column == "number":
        return product.number
    if column == "revision":
        return product.revision
    if column == "quantity":
        return str(row.quantity)
    if column == "bodies":
        return str(len(product.bodies)) if product.bodies else ""
    if column == "material":
        return product.material.name if product.material else ""
    if column == "mass":
        known = [facts[b.blob].volume for b in product.bodies if b.blob in facts]
        density = product.material.density if product.material else None
        return figures.mass(sum(known), density) if known else ""
    if column == "colour":
        return row.colour
    if column == "layer":
        return ", ".join(dict.fromkeys(layer for body in product.bodies for layer in body.layers))
    return ""


def same_places(before: Model, after: Model) -> bool:
    """Whether an edit left components as they were, so that rows stay."""
    return (
        before.roots == after.roots
        and len(before.products) == len(after.products)
        and all(
            p.id == q.id and p.occurrences is q.occurrences
            for p, q in zip(before.products, after.products, strict=True)
        )
    )


def same_drawn(before: Model, after: Model) -> bool:
    """Whether two models look the same in the picture, whatever else is said of them."""
    return (
        before.roots == after.roots
        and len(before.products) == len(after.products)
        and all(
            p is q or (p.id == q.id and p.bodies == q.bodies)
            for p, q in zip(before.products, after.products, strict=True)
        )
        and before.use_looks == after.use_looks
        and np.array_equal(before.matrices, after.matrices)
    )


def other_bodies(before: Model, after: Model) -> frozenset[str]:
    """The products that have other bodies than before, of models with the same places."""
    pairs = zip(before.products, after.products, strict=True)
    return frozenset(q.id for p, q in pairs if p.bodies is not q.bodies and p.bodies != q.bodies)


def renewed(rows: list[Row], model: Model) -> None:
    """Give rows that stay, and those below them that were made, the products of another state."""
    for row in rows:
        row.product, row.model, row._text = model.product(row.product.id), model, ""
        if row._children is not None:
            renewed(row._children, model)
    if rows:
        _tell_apart(rows)


def occurrences_of(model: Model, chains: Sequence[Chain]) -> tuple[str, ...]:
    """Ids of the occurrences that rows stand for in their places, each once; none for rows of products."""
    occurrences = dict.fromkeys(step for chain in chains if chain for step in sorted(chain[-1]))
    return tuple(step for step in occurrences if step in model.product_of_use)


def products_of(model: Model, chains: Sequence[Chain]) -> tuple[str, ...]:
    """Ids of the products that rows stand for, each once, in their order."""
    products: dict[str, None] = {}
    for chain in chains:
        if not chain:
            products.update(dict.fromkeys(model.roots[:1]))
            continue
        for step in chain[-1]:
            if step.startswith(_PRODUCT):
                products[step.removeprefix(_PRODUCT)] = None
                break
            if step in model.product_of_use:
                products[model.product_of_use[step]] = None
                break
    return tuple(i for i in products if i in model.by_id)
