"""Aspects of products."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gondrel.core.carriage.aspects.base import (
    Aspect,
    Pair,
    Statement,
    Subject,
    gains_nothing,
    in_words,
    text_of,
)
from gondrel.core.carriage.aspects.shared import data_statements, metadata_of, particulars_of
from gondrel.core.carriage.compare import compare_material, lost
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.words import material_text, ranked
from gondrel.core.model.carries import Carries
from gondrel.core.model.figures import figures_changed
from gondrel.core.model.limits import unlike
from gondrel.core.model.product import Product, Reference
from gondrel.core.model.verdicts import Fate, Verdict

__all__ = ["OF_PRODUCT", "ROOT"]

_PLACES = 6
_REFERENCES = {"system": "coordinate system", "axis": "axis", "plane": "plane", "point": "point"}


def _root(subject: Subject[Product]) -> Iterator[Statement]:
    if subject.it.id in subject.model.roots:
        yield Statement("root", "stands on its own")


def _compare_root(pair: Pair[Product]) -> Compared:
    is_root = pair.theirs.id in pair.sides.returned.roots
    after = pair.item.text if is_root else "a component of another"
    return Compared(pair.item, Verdict.CARRIED if is_root else Verdict.ALTERED, after, "", 1, pair.ids)


def _compare_material(pair: Pair[Product]) -> Compared:
    return compare_material(pair.item, pair.ours.material, pair.theirs.material, pair.ids)


def _references(subject: Subject[Product]) -> Iterator[Statement]:
    """Reference geometry by kind and name, with its place."""
    references = subject.it.references
    named = ranked(f"{_REFERENCES[each.kind]} {each.name}".strip() for each in references)
    for aspect, each in zip(named, references, strict=True):
        yield Statement(aspect, _reference_text(each))


def _reference_text(each: Reference) -> str:
    matrix = np.asarray(each.placement).reshape(4, 4)
    at = ", ".join(f"{v:.4f}" for v in matrix[:3, 3] + 0.0)
    if each.kind == "point":
        return f"at ({at}) mm"
    along = ", ".join(f"{v:.{_PLACES}f}" for v in np.round(matrix[:3, 2], _PLACES) + 0.0)
    text = f"at ({at}) mm along ({along})"
    if each.kind == "system":
        across = ", ".join(f"{v:.{_PLACES}f}" for v in np.round(matrix[:3, 0], _PLACES) + 0.0)
        text += f", x along ({across})"
    return text


def _material_data(subject: Subject[Product]) -> Iterator[Statement]:
    if subject.it.material is not None:
        yield from data_statements("material", subject.it.material.properties)


def _validation(subject: Subject[Product]) -> Iterator[Statement]:
    if subject.it.validation is not None:
        yield Statement("figures", "validation figures")


def _foresee_validation(
    statement: Statement, subject: Subject[Product], carries: Carries, title: str, unit: str
) -> tuple[Fate, str] | None:
    if subject.it.unread is not None:
        return Fate.LOST, "its shape is not loaded, so its figures are not sent"
    if subject.it.id not in subject.model.unloaded:
        return None
    return Fate.ALTERED, "shapes of it are not loaded: the figures are of what is sent"


def _compare_validation(pair: Pair[Product]) -> Compared:
    item, theirs, sides = pair.item, pair.theirs, pair.sides
    after, before = theirs.validation, pair.ours.validation
    if after is None or before is None:
        return lost(item, "no validation figures came back")
    totals = sides.totals[theirs.id]
    missing = [
        name
        for name, was, now in (
            ("volume", before.volume, after.volume),
            ("area", before.area, after.area),
            ("centroid", before.centroid, after.centroid),
            ("number of children", before.occurrences, after.occurrences),
            ("middle of the children", before.notional, after.notional),
        )
        if was is not None and now is None
    ]
    wrong = [
        name
        for name, said, measured, was in (
            ("volume", after.volume, totals.volume, before.volume),
            ("area", after.area, totals.area, before.area),
            ("number of children", after.occurrences, len(theirs.occurrences), before.occurrences),
        )
        # A sender's own coarse figure that came back as it was is carried, not wrong.
        if said is not None
        and unlike(said, measured) > sides.limits.volume
        and (was is None or unlike(said, was) > sides.limits.volume)
    ]
    changed = list(figures_changed(before, after, "before", "after"))
    if changed and not missing:
        return Compared(item, Verdict.ALTERED, "validation figures", "; ".join(changed), 1, pair.ids)
    if after.centroid is not None and totals.centroid is not None and "centroid" not in missing:
        off = float(np.linalg.norm(np.subtract(after.centroid, totals.centroid)))
        same = before.centroid is not None and np.allclose(before.centroid, after.centroid, atol=1e-6)
        if off > sides.limits.deviation and not same:
            wrong.append("centroid")
    if missing or wrong:
        detail = ", ".join([f"{n} missing" for n in missing] + [f"{n} wrong" for n in wrong])
        return Compared(item, Verdict.ALTERED, "validation figures", detail, 1, pair.ids)
    return Compared(item, Verdict.CARRIED, "figures agree with the geometry", "", 1, pair.ids)


def _unread(subject: Subject[Product]) -> Iterator[Statement]:
    waits = subject.it.unread
    if waits is not None:
        bodies = "body" if waits.bodies == 1 else "bodies"
        text = f"{waits.bodies} {bodies}, not loaded"
        yield Statement("shape not loaded", text, waits.bodies, where="shape not loaded")


def _foresee_unread(
    statement: Statement, subject: Subject[Product], carries: Carries, title: str, unit: str
) -> tuple[Fate, str]:
    return Fate.LOST, "its shape is not loaded, so it is not sent; load it first"


def _compare_unread(pair: Pair[Product]) -> Compared:
    return lost(pair.item, "its shape was not loaded")


ROOT: Aspect[Product] = Aspect("structure", _root, _compare_root, gains_nothing)
"""That a product stands on its own; told before all else of the structure."""

OF_PRODUCT: tuple[Aspect[Product], ...] = (
    Aspect("bodies", _unread, _compare_unread, foresee=_foresee_unread),
    text_of("names", "product name", lambda product: product.name),
    text_of("numbers", "number", lambda product: product.number),
    text_of("revisions", "revision", lambda product: product.revision),
    text_of("materials", "material", lambda p: material_text(p.material), compare=_compare_material),
    text_of("metadata", "description", lambda product: product.description),
    Aspect("validation", _validation, _compare_validation, foresee=_foresee_validation),
    metadata_of(lambda product: product.metadata),
    particulars_of(lambda product: product.particulars),
    Aspect("geometry", lambda subject: in_words(_references(subject))),
    Aspect("materials", lambda subject: in_words(_material_data(subject))),
)
