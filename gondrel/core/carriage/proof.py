"""The proof: what was meant and what came back, compared thing by thing."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from gondrel.core.carriage.added import RETURNED, added_items
from gondrel.core.carriage.appearance import Spots, compare_edges, compare_face_colours, compare_faces
from gondrel.core.carriage.aspects import (
    FACEWISE,
    is_of_its_own,
    of_body,
    of_faces,
    of_model,
    of_product,
)
from gondrel.core.carriage.compare import (
    compare_colour,
    compare_material,
    compare_metadata,
    compare_text,
    scale_between,
)
from gondrel.core.carriage.compare_uses import compare_use
from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.inventory import NO_UNIT, Item, Key, inventory
from gondrel.core.carriage.ledger import Compared, Ledger, Proof, make_ledger
from gondrel.core.carriage.matching import match_models
from gondrel.core.carriage.sides import Measure, Sides, compare_said, is_said, lost
from gondrel.core.errors import InputError
from gondrel.core.kernel.measure.deviation import ACCURACY, METHOD
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.carries import EDGE_COLOURS
from gondrel.core.model.changed import shape_changes
from gondrel.core.model.figures import figures_changed
from gondrel.core.model.limits import Limits, unlike
from gondrel.core.model.mass import totals_of
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["finish_proof", "prove_models"]


def prove_models(
    meant: Model,
    returned: Model,
    facts: Mapping[str, BodyFacts],
    *,
    measure: Measure,
    spots: Spots | None = None,
    edge_spots: Spots | None = None,
    forecast: Forecast | None = None,
    limits: Limits | None = None,
) -> Proof:
    """Compare what was meant with what came back.

    Args:
        facts: measures of the bodies of both models by hash.
        measure: the deviation between two bodies given by their hashes; spots, edge_spots: where the faces
            and edges of a body lie, for comparing their colours.

    Raises:
        InputError: when there is nothing to compare at all.
    """
    if not meant.products:
        raise InputError("there is nothing to compare: the first model holds no product")
    sides = Sides(
        meant,
        returned,
        facts,
        match_models(meant, returned, facts),
        limits or Limits(),
        measure,
        spots,
        edge_spots,
    )
    sides.totals = totals_of(returned, facts)
    sides.bodies = {b.id: (p, b) for model in (meant, returned) for p, b in _tagged(model, returned)}
    sides.uses = {o.id: (p, o) for model in (meant, returned) for p, o in _tagged_uses(model, returned)}
    compared = [_compare(sides, item) for item in inventory(meant).values()]
    compared += _size_change(sides)
    compared += _added(sides)
    figures = Proof(
        verdict="",
        ledger=Ledger(()),
        max_deviation=sides.deviation,
        max_volume_error=sides.volume_error,
        max_shift=sides.shift,
        unannounced=(),
        false_alarms=(),
        pairs=tuple(sides.matching.bodies.items()),
        method=f"{METHOD.format(limit=1500)}; accurate to {ACCURACY:g} mm. {sides.limits.told}",
    )
    return finish_proof(
        compared, forecast, figures, units=(meant.unit_told or NO_UNIT, returned.unit_told or NO_UNIT)
    )


def finish_proof(
    compared: list[Compared], forecast: Forecast | None, figures: Proof, *, units: tuple[str, str]
) -> Proof:
    """Compared items as a proof: what was announced of them, the ledger, and the verdict on all.

    Args:
        figures: a proof with the worst figures, the pairs and the method.
        units: keys of the length units before and after.
    """
    announced = None
    if forecast is not None:
        announced, beside = forecast.announced(), forecast.beside()
        compared = [replace(c, announced=_was_said(c, announced, beside)) for c in compared]
    return replace(
        figures,
        verdict=_overall(compared),
        ledger=make_ledger(compared, announced, units, figures.max_deviation),
        unannounced=tuple(_unannounced(compared)),
        false_alarms=tuple(_false_alarms(compared, forecast)),
    )


def _tagged(model: Model, returned: Model) -> Iterator[tuple[Product, Body]]:
    for product, body in model.bodies():
        yield product, replace(body, id=RETURNED + body.id) if model is returned else body


def _tagged_uses(model: Model, returned: Model) -> Iterator[tuple[Product, Occurrence]]:
    for product, use in model.occurrences():
        yield product, replace(use, id=RETURNED + use.id) if model is returned else use


def _overall(compared: list[Compared]) -> str:
    verdicts = {c.verdict for c in compared}
    grave = any(_is_grave(c) for c in compared)
    if "lost" in verdicts:
        return "lost"
    gained = any(c.verdict == "added" and not _is_of_its_own(c.item) for c in compared)
    return "altered" if grave or gained or verdicts & {"altered", "unproved"} else "carried"


_OF_ITS_OWN = ("validation", "remainder")
"""What a writer adds of its own accord: check figures, and records that its protocol demands."""


def _is_of_its_own(item: Item) -> bool:
    return item.thing in _OF_ITS_OWN or is_of_its_own(item.aspect)


def _is_grave(each: Compared) -> bool:
    return each.verdict == "added" and each.item.thing in ("bodies", "structure")


def _was_said(each: Compared, announced: dict[Key, str], beside: Counter[tuple[str, str]]) -> bool:
    """Whether a verdict was announced; what came back besides counts off what was said to."""
    if each.verdict in ("lost", "altered"):
        return announced.get(each.item.key) == each.verdict
    if not _is_grave(each):
        return True
    source = each.item.thing, (*each.item.products, "")[0]
    beside[source] -= 1
    return beside[source] >= 0


def _unannounced(compared: list[Compared]) -> Iterator[Compared]:
    for each in compared:
        if (_is_grave(each) or each.verdict in ("lost", "altered")) and not each.announced:
            yield each


def _false_alarms(compared: list[Compared], forecast: Forecast | None) -> Iterator[Item]:
    if forecast is None:
        return
    happened = {c.item.key: c.verdict for c in compared}
    for entry in forecast.entries:
        if entry.fate != "carried" and happened.get(entry.item.key) != entry.fate:
            yield entry.item


def _compare(sides: Sides, item: Item) -> Compared:
    """The verdict of one item of the meant model."""
    if item.thing == "units":
        return _compare_unit(sides, item)
    if item.thing == "remainder":
        return _compare_rest(sides, item)
    if not item.subject:
        return compare_said(item, of_model(sides.returned), ())
    if item.subject in sides.meant.by_id:
        return _compare_product(sides, item)
    if item.subject in sides.bodies:
        return _compare_body(sides, item)
    return compare_use(sides, item)


def _compare_unit(sides: Sides, item: Item) -> Compared:
    """A unit that was only assumed is no fact: neither the same as one that is said nor as another."""
    after = sides.returned.unit_told or NO_UNIT
    if item.text == after == NO_UNIT:
        taken = sides.returned.units.key
        return Compared(item, "unproved", after, f"neither file says a unit; {taken} was taken", 1)
    if after == NO_UNIT:
        return lost(item, f"the file says no unit; {sides.returned.units.key} was taken")
    assumed = item.text == NO_UNIT
    detail = f"no unit was said before; {sides.meant.units.key} was taken" if assumed else ""
    return Compared(item, "carried" if after == item.text else "altered", after, detail, 1)


def _rest(model: Model) -> dict[str, int]:
    """How many records of each kind and type stand in the remainder of a model's file."""
    census = model.provenance.census if model.provenance is not None else None
    return {r.aspect: r.count for r in (*census.rest, *census.besides)} if census is not None else {}


def _compare_rest(sides: Sides, item: Item) -> Compared:
    after = _rest(sides.returned).get(item.aspect, 0)
    if not after:
        return lost(item, "nothing of it came back")
    verdict = "carried" if after >= item.weight else "altered"
    return Compared(item, verdict, str(after), "", after)


def _added_rest(sides: Sides) -> Iterator[Compared]:
    """Records that no thing covers, and that were not there or fewer."""
    before = _rest(sides.meant)
    for aspect, count in _rest(sides.returned).items():
        more = count - before.get(aspect, 0)
        if more > 0:
            kind, _, type_ = aspect.rpartition(": ")
            item = Item("remainder", RETURNED, aspect, kind, "", more)
            yield Compared(item, "added", f"{more} {type_}", "not in the model sent", more)


def _compare_product(sides: Sides, item: Item) -> Compared:
    theirs_id = sides.matching.products.get(item.subject)
    if theirs_id is None:
        return lost(item, "the product did not come back")
    ours, theirs = sides.meant.product(item.subject), sides.returned.product(theirs_id)
    ids = (theirs_id,)
    if item.aspect == "root":
        is_root = theirs_id in sides.returned.roots
        after = item.text if is_root else "a component of another"
        return Compared(item, "carried" if is_root else "altered", after, "", 1, ids)
    if item.thing == "validation":
        return _compare_validation(sides, item, ours, theirs)
    if is_said(item, of_product(ours)):
        return compare_said(item, of_product(theirs), ids)
    if item.thing == "metadata" and item.aspect != "description":
        return compare_metadata(item, ours.metadata, theirs.metadata, ids)
    if item.aspect == "material":
        return compare_material(item, ours.material, theirs.material, ids)
    after = {
        "product name": theirs.name,
        "number": theirs.number,
        "revision": theirs.revision,
        "description": theirs.description,
    }[item.aspect]
    return compare_text(item, after, ids)


def _compare_validation(sides: Sides, item: Item, ours: Product, theirs: Product) -> Compared:
    after, before = theirs.validation, ours.validation
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
        return Compared(item, "altered", "validation figures", "; ".join(changed), 1, (theirs.id,))
    if after.centroid is not None and totals.centroid is not None and "centroid" not in missing:
        off = float(np.linalg.norm(np.subtract(after.centroid, totals.centroid)))
        same = before.centroid is not None and np.allclose(before.centroid, after.centroid, atol=1e-6)
        if off > sides.limits.deviation and not same:
            wrong.append("centroid")
    if missing or wrong:
        detail = ", ".join([f"{n} missing" for n in missing] + [f"{n} wrong" for n in wrong])
        return Compared(item, "altered", "validation figures", detail, 1, (theirs.id,))
    return Compared(item, "carried", "figures agree with the geometry", "", 1, (theirs.id,))


def _compare_body(sides: Sides, item: Item) -> Compared:
    theirs_id = sides.matching.bodies.get(item.subject)
    if theirs_id is None:
        return lost(item, "the body did not come back")
    _, ours = sides.bodies[item.subject]
    product, theirs = sides.bodies[RETURNED + theirs_id]
    ids = (product.id,)
    if item.aspect == "body":
        same = ours.kind is theirs.kind
        return Compared(item, "carried" if same else "altered", theirs.kind.value, "", 1, ids)
    if item.aspect == "shape":
        return _compare_shape(sides, item, ours, theirs, ids)
    if item.aspect == "body name":
        return compare_text(item, theirs.name, ids)
    if item.aspect == "body colour":
        return compare_colour(item, ours.colour, theirs.colour, ids)
    if item.aspect == "face colours":
        return compare_face_colours(item, ours, theirs, sides.spots, ids)
    if item.aspect in FACEWISE:
        before, after_ = (of_faces(body).get(item.aspect, {}) for body in (ours, theirs))
        of_edges = item.aspect == EDGE_COLOURS
        compare, spots = (compare_edges, sides.edge_spots) if of_edges else (compare_faces, sides.spots)
        return compare(item, (ours.blob, theirs.blob), before, after_, spots, ids)
    if is_said(item, of_body(ours)):
        return compare_said(item, of_body(theirs), ids)
    fresh = ", ".join(layer for layer in theirs.layers if layer not in ours.layers)
    after = item.text if item.text in theirs.layers else fresh
    return compare_text(item, after, ids)


def _compare_shape(sides: Sides, item: Item, ours: Body, theirs: Body, ids: tuple[str, ...]) -> Compared:
    a, b = sides.facts.get(ours.blob), sides.facts.get(theirs.blob)
    if a is None or b is None:
        return Compared(item, "unproved", "", "the body could not be measured", 0, ids)
    deviation = 0.0 if ours.blob == theirs.blob else sides.measure(ours.blob, theirs.blob).value
    if not a.faces and not b.faces:  # curves and points have no surfaces to measure between
        deviation = max(deviation, *(abs(p - q) for p, q in zip(a.bbox, b.bbox, strict=True)))
    if a.volume or b.volume:
        sides.volume_error = max(sides.volume_error or 0.0, unlike(a.volume, b.volume))
    sides.deviation = max(sides.deviation or 0.0, deviation)
    reasons = shape_changes(a, b, deviation, sides.limits)
    text = f"within {deviation:.2g} mm"
    unheard = [b.heard for b in (ours, theirs) if b.heard is not None and not b.heard.agrees]
    if unheard and not reasons:
        detail = "a face of it does not lie where its file's own records say"
        return Compared(item, "unproved", text, detail, 1, ids)
    return Compared(item, "altered" if reasons else "carried", text, "; ".join(reasons), 1, ids)


def _size_change(sides: Sides) -> Iterator[Compared]:
    """One scale for everything is a unit taken for another, and is told as such."""
    pairs = [
        (sides.facts[sides.bodies[a][1].blob], sides.facts[sides.bodies[RETURNED + b][1].blob])
        for a, b in sides.matching.bodies.items()
        if sides.bodies[a][1].blob in sides.facts and sides.bodies[RETURNED + b][1].blob in sides.facts
    ]
    factor = scale_between(pairs)
    if factor is None:
        return
    item = Item("units", "", "size", "whole model", "true size")
    detail = f"everything came back {factor:.6g} times its size"
    yield Compared(item, "altered", f"x {factor:.6g}", detail, 1)


def _added(sides: Sides) -> Iterator[Compared]:
    """What the returned model has and the meant one has not."""
    found = sides.matching
    for product_id in (*found.added_products, *found.copies):
        product = sides.returned.product(product_id)
        source = found.copies.get(product_id)
        ids: tuple[str, ...] = (source,) if source is not None else ()
        item = Item("structure", RETURNED + product_id, "added product", product.label, "", 1, ids)
        detail = "a copy of a shared part" if source is not None else "not in the model sent"
        yield Compared(item, "added", product.label, detail, 1, (product_id,))
    for occurrence_id in found.added_occurrences:
        parent, use = sides.uses[RETURNED + occurrence_id]
        path = f"{parent.label} / {use.name}"
        item = Item("structure", use.id, "added component", path, "")
        yield Compared(item, "added", use.name, "not in the model sent", 1, (parent.id,))
    for body_id in found.added_bodies:
        product, body = sides.bodies[RETURNED + body_id]
        ids = tuple(ours for ours, theirs in found.products.items() if theirs == product.id)
        item = Item("bodies", body.id, "added body", f"{product.label} / {body.name}", "", 1, ids)
        yield Compared(item, "added", body.kind.value, "not in the model sent", 1, (product.id,))
    yield from added_items(
        [(sides.meant.product(a), sides.returned.product(b)) for a, b in found.products.items()],
        [(*sides.bodies[a], sides.bodies[RETURNED + b][1]) for a, b in found.bodies.items()],
        [(*sides.uses[a], sides.uses[RETURNED + b][1]) for a, b in found.occurrences.items()],
        (sides.meant, sides.returned),
    )
    yield from _added_rest(sides)
