"""Checks of structure, names, places and sizes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from gondrel.core.kernel.derive import detail_of, facts_of
from gondrel.core.model.body import BodyKind
from gondrel.core.model.doubts import size_doubt, size_factor
from gondrel.core.model.findings import Finding, Severity
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["STRUCTURE_CODES", "find_in_structure"]

STRUCTURE_CODES = {
    "A501": ("Product without a body", Severity.DOUBT),
    "A502": ("Equal bodies as different parts", Severity.NOTE),
    "A503": ("Placed mirrored or scaled", Severity.DOUBT),
    "A504": ("Same part twice in one place", Severity.FAULT),
    "A505": ("File of a component missing", Severity.FAULT),
    "A506": ("Several loose surfaces in one part", Severity.DOUBT),
    "A507": ("Curves or points left over beside a solid", Severity.DOUBT),
    "A512": ("Unit or scale doubtful", Severity.DOUBT),
    "A513": ("Far away from everything else", Severity.DOUBT),
    "M601": ("Product without a name", Severity.DOUBT),
    "M602": ("Number of several products", Severity.DOUBT),
    "M603": ("Name not in plain letters", Severity.NOTE),
    "M604": ("Name of several products", Severity.NOTE),
    "M605": ("Name or number with odd characters", Severity.DOUBT),
    "M606": ("Product without a number", Severity.NOTE),
}
"""Titles and severities by code."""

_RIGID = 1e-6


def find_in_structure(model: Model, store: BlobStore) -> Iterator[Finding]:
    """Everything that is doubtful in products, names, places and sizes."""
    yield from _products(model)
    yield from _names(model)
    yield from _equal(model)
    yield from _places(model)
    yield from _size(model, store)
    yield from _far(model, store)


def _finding(code: str, text: str, product: str, **more: Any) -> Finding:
    title, severity = STRUCTURE_CODES[code]
    return Finding(code, title, severity, text, product, **more)


def _products(model: Model) -> Iterator[Finding]:
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


def _names(model: Model) -> Iterator[Finding]:
    numbers: dict[str, list[str]] = defaultdict(list)
    names: dict[str, list[str]] = defaultdict(list)
    for product in model.products:
        if not product.name.strip():
            yield _finding("M601", f"number {product.number or 'missing too'}", product.id)
        elif not product.name.isascii():
            yield _finding("M603", f"{product.name!r}: some receivers show other letters", product.id)
        if not product.number.strip():
            yield _finding("M606", f"{product.label} can't be found by a number", product.id)
        for text in (product.name, product.number):
            if text.strip() and (text != text.strip() or not text.isprintable()):
                yield _finding(
                    "M605", f"{text!r}: blanks at its ends, or signs that don't print", product.id
                )
        numbers[product.number].append(product.id)
        names[product.name].append(product.id)
    for code, found in (("M602", numbers), ("M604", names)):
        for text, ids in found.items():
            if len(ids) > 1 and text.strip():
                others = ", ".join(
                    model.product(i).label if code == "M602" else model.product(i).number or "(no number)"
                    for i in ids
                )
                yield _finding(code, f"{text}: {others}", ids[0])


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


def _size(model: Model, store: BlobStore) -> Iterator[Finding]:
    """Sizes that are usual ones only at another scale; seen first on the file's own figures, then on the
    bodies as they are now, so that it is gone when they were rescaled."""
    card = model.provenance.file if model.provenance is not None else None
    names = [Path(card.path).stem if card is not None else ""]
    names += [text for p in model.products for text in (p.name, p.number)]
    if card is None or not size_doubt(card.diameters, card.extent, card.length_unit, names):
        return
    details = [detail_of(store, blob) for blob in model.blobs()]
    diameters = {
        sizes[0]
        for detail in details
        for kind, sizes in zip(detail.face_kinds, detail.face_sizes, strict=True)
        if kind == "cylinder"
    }
    boxes = np.array([facts_of(store, blob).bbox for blob in model.blobs()]).reshape(-1, 2, 3)
    extent = float(np.ptp(boxes.reshape(-1, 3), axis=0).max()) if len(boxes) else 0.0
    found = size_factor(sorted(diameters), extent, card.length_unit)
    if found is not None:
        factor, text = found
        yield _finding("A512", text, "", measured=factor, limit=1.0)


def _far(model: Model, store: BlobStore) -> Iterator[Finding]:
    """Placed bodies whose distance from all others is many times the size of these together."""
    placed = [
        (product, body, np.asarray(place.placement, float).reshape(4, 4))
        for place in model.walk()
        if (product := model.by_id.get(place.product)) is not None and not product.is_reference
        for body in product.bodies
    ]
    if len(placed) < 2:
        return
    boxes = np.array([facts_of(store, body.blob).bbox for _, body, _ in placed]).reshape(-1, 2, 3)
    matrices = np.array([matrix for _, _, matrix in placed])
    middles = (matrices[:, :3, :3] @ boxes.mean(axis=1)[:, :, None])[:, :, 0] + matrices[:, :3, 3]
    sizes = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1)
    centre = np.median(middles, axis=0)
    away = np.linalg.norm(middles - centre, axis=1)
    near = away <= _FAR * max(float(np.median(away)), float(np.median(sizes)))
    told: set[str] = set()
    for place in np.flatnonzero(~near).tolist():
        rest = float((away + sizes / 2)[near].max())
        product, body, _ = placed[place]
        if away[place] - sizes[place] / 2 > _FAR * rest and body.id not in told:
            told.add(body.id)
            x, y, z = (float(v) for v in boxes[place].mean(axis=0))
            text = f"it lies {away[place]:,.4g} mm from the middle; the rest is {2 * rest:,.4g} mm across"
            yield _finding(
                "A513", text, product.id, body=body.id, point=(x, y, z), measured=float(away[place]),
                limit=_FAR * rest, unit="mm",
            )  # fmt: skip


_FAR = 20.0
"""How many times further than the rest is large something must lie to be called far away; own choice."""
