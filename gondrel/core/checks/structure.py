"""Checks of structure and names, on the model alone."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import numpy as np

from gondrel.core.model.body import BodyKind
from gondrel.core.model.findings import Finding, Severity
from gondrel.core.model.snapshot import Model

__all__ = ["STRUCTURE_CODES", "find_in_structure"]

STRUCTURE_CODES = {
    "A501": ("Product without a body", Severity.DOUBT),
    "A502": ("Equal bodies as different parts", Severity.NOTE),
    "A503": ("Placed mirrored or scaled", Severity.DOUBT),
    "A504": ("Same part twice in one place", Severity.FAULT),
    "A505": ("File of a component missing", Severity.FAULT),
    "A506": ("Several loose surfaces in one part", Severity.DOUBT),
    "A507": ("Curves or points left over beside a solid", Severity.DOUBT),
    "M601": ("Product without a name", Severity.DOUBT),
    "M602": ("Number of several products", Severity.DOUBT),
    "M603": ("Name not in plain letters", Severity.NOTE),
}
"""Titles and severities by code."""

_RIGID = 1e-6


def find_in_structure(model: Model) -> Iterator[Finding]:
    """Everything that is doubtful in products, names and places."""
    yield from _products(model)
    yield from _equal(model)
    yield from _places(model)


def _finding(code: str, text: str, product: str) -> Finding:
    title, severity = STRUCTURE_CODES[code]
    return Finding(code, title, severity, text, product)


def _products(model: Model) -> Iterator[Finding]:
    numbers: dict[str, list[str]] = defaultdict(list)
    for product in model.products:
        if product.missing_file:
            yield _finding("A505", f"{product.missing_file} was not found", product.id)
        elif not product.bodies and not product.occurrences:
            yield _finding("A501", "there is nothing in it", product.id)
        sheets = sum(body.kind is BodyKind.SHEET for body in product.bodies)
        if sheets > 1 and not product.is_reference:
            yield _finding("A506", f"{sheets} sheets that bound nothing together", product.id)
        loose = sum(body.kind in (BodyKind.WIRE, BodyKind.POINT) for body in product.bodies)
        if loose and loose < len(product.bodies) and not product.is_reference:
            yield _finding("A507", f"{loose} bodies of only curves or points", product.id)
        if not product.name.strip():
            yield _finding("M601", f"number {product.number or 'missing too'}", product.id)
        elif not product.name.isascii():
            yield _finding("M603", f"{product.name!r}: some receivers show other letters", product.id)
        if product.number:
            numbers[product.number].append(product.id)
    for number, ids in numbers.items():
        if len(ids) > 1:
            names = ", ".join(model.product(i).label for i in ids)
            yield _finding("M602", f"{number}: {names}", ids[0])


def _equal(model: Model) -> Iterator[Finding]:
    owners: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for product in model.products:
        if product.bodies:
            owners[tuple(sorted(b.blob for b in product.bodies))].append(product.id)
    for ids in owners.values():
        if len(ids) > 1:
            names = ", ".join(model.product(i).label for i in ids)
            yield _finding("A502", names, ids[0])


def _places(model: Model) -> Iterator[Finding]:
    for parent, use in model.occurrences():
        matrix = np.asarray(use.placement).reshape(4, 4)[:3, :3]
        if np.abs(matrix @ matrix.T - np.eye(3)).max() > _RIGID or np.linalg.det(matrix) < 0:
            yield _finding("A503", f"{use.name or use.id} in {parent.label}", use.product)
    for parent in model.products:
        seen: dict[tuple[object, ...], str] = {}
        for use in parent.occurrences:
            key = (use.product, *(round(v, 6) for v in use.placement))
            if key in seen:
                names = f"{seen[key] or 'a component'} and {use.name or 'another'} in {parent.label}"
                yield _finding("A504", names, use.product)
            seen[key] = use.name
