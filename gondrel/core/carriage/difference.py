"""What changed between a received model and the same source received again, and taking it over.

Source: own. Items are matched as for a proof; what was arranged here since the first receive is kept
wherever the item can still be recognised, and where it can't, that is told.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from gondrel.core.carriage.changes import Change, Difference
from gondrel.core.carriage.matching import Matching, match_models
from gondrel.core.carriage.words import material_text
from gondrel.core.likeness.fit import fit_of
from gondrel.core.likeness.groups import alike_by_figures
from gondrel.core.likeness.same_shape import SAME_PLACE, has_same_figures
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.graft import apart_from
from gondrel.core.model.landmarks import Landmarks
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["compare_sources", "take_over"]

_SHIFT = 1e-4
_TURN = 1e-6

Deviate = Callable[[str, str], float]


def compare_sources(
    base: Model, new: Model, facts: Mapping[str, BodyFacts], deviate: Deviate,
    landmarks: Callable[[str], Landmarks] | None = None,
) -> Difference:  # fmt: skip
    """What changed from a model as first received to the same source received again.

    Args:
        facts: measures of the bodies of both; deviate: largest deviation of two bodies, mm, by hash.
        landmarks: of a body, by hash; where they are given, a body that only moved in its part is told so.
    """
    matching = _matched(base, new, facts, landmarks)
    shapes = _shapes(base, new, matching, facts, deviate, landmarks)
    changes = [*_parts(base, new, matching), *shapes]
    changes += [*_moves(base, new, matching), *_facts(base, new, matching)]
    return Difference(tuple(changes), new)


def _matched(
    base: Model, new: Model, facts: Mapping[str, BodyFacts],
    landmarks: Callable[[str], Landmarks] | None = None,
) -> Matching:  # fmt: skip
    """As for a proof, and besides: products of one number and name are the same though all else changed."""
    matching = match_models(base, new, facts, landmarks)
    taken = set(matching.products.values())
    for product in base.products:
        if product.id in matching.products:
            continue
        alike = [
            p for p in new.products
            if p.id not in taken and (p.number, p.name) == (product.number, product.name)
        ]  # fmt: skip
        if len(alike) == 1:
            matching.products[product.id] = alike[0].id
            taken.add(alike[0].id)
    matching.added_products = [p for p in matching.added_products if p not in taken]
    return matching


def _parts(base: Model, new: Model, matching: Matching) -> Iterator[Change]:
    counts = base.quantities, new.quantities
    for product in base.products:
        theirs = matching.products.get(product.id)
        if theirs is None:
            yield Change("removed", product.id, product.label, f"was there {_times(counts[0][product.id])}")
            continue
        before, after = counts[0][product.id], counts[1][theirs]
        if after > before and not _grows_with_parent(base, product, matching, new):
            yield Change("added", product.id, product.label, _instead(before, after))
        elif after < before and not _grows_with_parent(base, product, matching, new):
            yield Change(
                "removed", product.id, product.label, f"{_times(after)} instead of {_times(before)}"
            )
    for identity in (*matching.added_products, *matching.copies):
        product = new.product(identity)
        yield Change("added", identity, product.label, f"is there {_times(counts[1][identity])}")


def _grows_with_parent(base: Model, product: Product, matching: Matching, new: Model) -> bool:
    """Whether no parent of its own holds it more or less often: then the parent alone is told of."""
    ours = [o for _, o in base.occurrences() if o.product == product.id]
    theirs = [o for _, o in new.occurrences() if o.product == matching.products.get(product.id)]
    return len(ours) == len(theirs)


def _instead(before: int, after: int) -> str:
    return f"{_times(after)} instead of {_times(before)}"


def _times(count: int) -> str:
    return "once" if count == 1 else f"{count} times"


def _shapes(
    base: Model, new: Model, matching: Matching, facts: Mapping[str, BodyFacts], deviate: Deviate,
    landmarks: Callable[[str], Landmarks] | None,
) -> Iterator[Change]:  # fmt: skip
    ours = {body.id: (product, body) for product, body in base.bodies()}
    theirs = {body.id: (product, body) for product, body in new.bodies()}
    for one, other in matching.bodies.items():
        product, before = ours[one]
        _, after = theirs[other]
        text = _moved_within(before, after, facts, landmarks) or _shape_change(
            before, after, facts, deviate
        )
        if text:
            yield Change("geometry", product.id, product.label, text)
    paired = set(matching.products.values())
    for identity in matching.added_bodies:
        product, body = theirs[identity]
        if product.id in paired:
            yield Change("geometry", product.id, product.label, f"a {body.kind.value} more")
    gone = set(matching.products)
    for identity, (product, body) in ours.items():
        if product.id in gone and identity not in matching.bodies:
            yield Change("geometry", product.id, product.label, f"a {body.kind.value} less")


def _moved_within(
    before: Body, after: Body, facts: Mapping[str, BodyFacts], landmarks: Callable[[str], Landmarks] | None
) -> str:
    """What is said of a body that is the same shape elsewhere in its part; empty for any other."""
    a, b = facts.get(before.blob), facts.get(after.blob)
    if landmarks is None or before.blob == after.blob or a is None or b is None:
        return ""
    if math.dist(a.centroid, b.centroid) <= _SHIFT or not alike_by_figures(a, b):
        return ""
    if not fit_of(landmarks(before.blob), landmarks(after.blob)).is_equal:
        return ""
    return f"the same shape, its middle moved by {math.dist(a.centroid, b.centroid):.4g} mm in the part"


def _shape_change(before: Body, after: Body, facts: Mapping[str, BodyFacts], deviate: Deviate) -> str:
    if before.blob == after.blob:
        return ""
    a, b = facts.get(before.blob), facts.get(after.blob)
    if a is None or b is None:
        return "its shape changed; it could not be measured"
    deviation = deviate(before.blob, after.blob)
    if deviation <= SAME_PLACE and has_same_figures(a, b):
        return ""  # written anew, but the same
    faces = f", {a.faces} to {b.faces} faces" if a.faces != b.faces else ""
    return (
        f"volume {a.volume:,.3f} to {b.volume:,.3f} mm\u00b3 ({b.volume - a.volume:+,.3f}), "
        f"surfaces up to {deviation:.4g} mm apart{faces}"
    )


def _moves(base: Model, new: Model, matching: Matching) -> Iterator[Change]:
    ours = {o.id: (p, o) for p, o in base.occurrences()}
    theirs = {o.id: o for _, o in new.occurrences()}
    for one, other in matching.occurrences.items():
        _, before = ours[one]
        text = _move(before, theirs[other])
        if text:
            child = base.by_id.get(before.product)
            label = before.name or (child.label if child else before.id)
            yield Change("moved", before.product, label, text)


def _move(before: Occurrence, after: Occurrence) -> str:
    a, b = (np.asarray(o.placement).reshape(4, 4) for o in (before, after))
    shift = float(np.linalg.norm(b[:3, 3] - a[:3, 3]))
    cosine = (float(np.trace(a[:3, :3].T @ b[:3, :3])) - 1) / 2
    turn = (
        float(np.degrees(np.arccos(np.clip(cosine, -1, 1)))) if np.abs(a - b)[:3, :3].max() > _TURN else 0.0
    )
    parts = []
    if shift > _SHIFT:
        way = ", ".join(f"{v:+.4g}" for v in b[:3, 3] - a[:3, 3])
        parts.append(f"moved by {shift:.4g} mm ({way})")
    if turn:
        parts.append(f"turned by {turn:.3g} degrees")
    return " and ".join(parts)


_FIELDS = ("number", "name", "revision", "description")


def _facts(base: Model, new: Model, matching: Matching) -> Iterator[Change]:
    for one, other in matching.products.items():
        before, after = base.product(one), new.product(other)
        parts = [
            f"{field_} {getattr(before, field_)!r} to {getattr(after, field_)!r}"
            for field_ in _FIELDS
            if getattr(before, field_) != getattr(after, field_)
        ]
        if material_text(before.material) != material_text(after.material):
            parts.append(
                f"material {material_text(before.material)!r} to {material_text(after.material)!r}"
            )
        was, now = ({m.key: m.value for m in p.metadata} for p in (before, after))
        for key in dict.fromkeys((*was, *now)):
            if was.get(key) != now.get(key):
                parts.append(f"{key} {was.get(key, 'nothing')!r} to {now.get(key, 'nothing')!r}")
        if parts:
            yield Change("metadata", one, before.label, "; ".join(parts))


# --- taking over ------------------------------------------------------------------------------------


@dataclass(slots=True)
class _Taking:
    """The current model while the source's changes are taken into it."""

    current: Model
    base: Model
    new: Model
    matching: Matching
    notes: list[str] = field(default_factory=list)
    products: dict[str, Product] = field(default_factory=dict)


def take_over(
    current: Model, base: Model, new: Model, facts: Mapping[str, BodyFacts]
) -> tuple[Model, Model, tuple[str, ...]]:
    """The current model with the changes of its source taken in.

    Returns: the model, the new base with the ids it has in it, and what of the arrangement could not
    be kept, in words.
    """
    apart = apart_from(current, new)
    taking = _Taking(current, base, apart, _matched(base, apart, facts))
    taking.products = dict(current.by_id)
    renamed = _with_old_ids(apart, taking.matching)
    _take_products(taking, renamed)
    _take_bodies(taking, renamed)
    _take_occurrences(taking, renamed)
    kept = {p.id for p in renamed.products}
    gone = {p.id for p in base.products if p.id not in kept}
    products = []
    for product in taking.products.values():
        if product.id in gone:
            continue
        uses = tuple(o for o in product.occurrences if o.product not in gone)
        products.append(replace(product, occurrences=uses))
    ids = {p.id for p in products}
    roots = [r for r in current.roots if r in ids]
    roots += [r for r in renamed.roots if r in ids and r not in roots and not _is_placed(products, r)]
    model = replace(
        current, products=tuple(products), roots=tuple(roots), provenance=new.provenance, notes=new.notes
    )
    return model, renamed, tuple(taking.notes)


def _is_placed(products: list[Product], identity: str) -> bool:
    return any(o.product == identity for p in products for o in p.occurrences)


def _with_old_ids(new: Model, matching: Matching) -> Model:
    """The new model under the ids that matched items have had so far."""
    ids = {theirs: ours for ours, theirs in matching.products.items()}
    ids |= {theirs: ours for ours, theirs in matching.bodies.items()}
    ids |= {theirs: ours for ours, theirs in matching.occurrences.items()}
    products = tuple(
        replace(
            p,
            id=ids.get(p.id, p.id),
            bodies=tuple(replace(b, id=ids.get(b.id, b.id)) for b in p.bodies),
            occurrences=tuple(
                replace(o, id=ids.get(o.id, o.id), product=ids.get(o.product, o.product))
                for o in p.occurrences
            ),
        )
        for p in new.products
    )
    return replace(new, products=products, roots=tuple(ids.get(r, r) for r in new.roots))


def _take_products(taking: _Taking, renamed: Model) -> None:
    for product in renamed.products:
        was = taking.base.by_id.get(product.id)
        now = taking.products.get(product.id)
        if was is None:
            taking.products[product.id] = replace(product, bodies=(), occurrences=())
        elif now is not None:
            fields_ = {
                name: getattr(product, name)
                for name in (*_FIELDS, "material", "metadata", "validation")
                if getattr(now, name) == getattr(was, name)
            }
            taking.products[product.id] = replace(now, **fields_)
    for product in taking.base.products:
        if product.id not in renamed.by_id:
            now = taking.products.get(product.id)
            if now is not None and now != product:
                taking.notes.append(f"{now.label} is gone at the source; what was arranged of it is lost")


def _take_bodies(taking: _Taking, renamed: Model) -> None:
    was = {b.id: b for _, b in taking.base.bodies()}
    home = {b.id: p.id for p in taking.products.values() for b in p.bodies}
    fresh = {b.id: b for _, b in renamed.bodies()}
    for identity, before in was.items():
        holder = home.get(identity)
        if holder is None:
            continue
        product = taking.products[holder]
        bodies = []
        for body in product.bodies:
            if body.id != identity:
                bodies.append(body)
            elif identity in fresh:
                bodies.append(_merged(taking, product, body, before, fresh[identity]))
        taking.products[holder] = replace(product, bodies=tuple(bodies))
    for source in renamed.products:
        for body in source.bodies:
            if body.id in was:
                if body.id not in home:
                    text = f"a body of {source.label} is no longer in the crossing; its change is not taken"
                    taking.notes.append(text)
                continue
            holder = _holder(taking, source, home)
            product = taking.products[holder]
            taking.products[holder] = replace(product, bodies=(*product.bodies, body))


def _holder(taking: _Taking, source: Product, home: Mapping[str, str]) -> str:
    """Where a new body belongs: the product itself, or the one that its siblings were moved to."""
    if source.id in taking.products:
        return source.id
    moved = [home[b.id] for b in source.bodies if b.id in home]
    if moved:
        return moved[0]
    taking.products[source.id] = replace(source, bodies=(), occurrences=())
    return source.id


def _merged(taking: _Taking, product: Product, now: Body, was: Body, fresh: Body) -> Body:
    """A body after the source changed: what was arranged here is kept, the rest is the source's."""
    kept = {
        name: getattr(fresh, name)
        for name in ("kind", "name", "colour", "layers")
        if getattr(now, name) == getattr(was, name)
    }
    if fresh.blob == was.blob:
        return replace(now, **kept)
    if now.blob != was.blob:
        taking.notes.append(f"{product.label} was mended here and changed at the source: mend it again")
    colours = fresh.face_colours if now.face_colours == was.face_colours else now.face_colours
    if now.face_colours != was.face_colours:
        taking.notes.append(
            f"{product.label}: colours of faces were kept by their place; look whether they fit"
        )
    return replace(now, **kept, blob=fresh.blob, face_colours=colours)


def _take_occurrences(taking: _Taking, renamed: Model) -> None:
    was = {o.id: o for _, o in taking.base.occurrences()}
    home = {o.id: p.id for p in taking.products.values() for o in p.occurrences}
    fresh = {o.id: (p, o) for p, o in renamed.occurrences()}
    for identity, before in was.items():
        holder = home.get(identity)
        if holder is None:
            continue
        product = taking.products[holder]
        uses = []
        for use in product.occurrences:
            if use.id != identity:
                uses.append(use)
            elif identity in fresh:
                now = fresh[identity][1]
                kept = {
                    name: getattr(now, name)
                    for name in ("name", "placement", "colour", "metadata", "hidden")
                    if getattr(use, name) == getattr(before, name)
                }
                uses.append(replace(use, **kept))
        taking.products[holder] = replace(product, occurrences=tuple(uses))
    for source, use in fresh.values():
        if use.id in was:
            continue
        if source.id in taking.products:
            product = taking.products[source.id]
            taking.products[source.id] = replace(product, occurrences=(*product.occurrences, use))
        else:
            taking.notes.append(
                f"{use.name or use.product} is new in {source.label}, which is no longer here"
            )
