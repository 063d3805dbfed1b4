"""What becomes of single bodies in XT: found out by making them ready, which sending then uses."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from gondrel.core.errors import KernelRefused
from gondrel.core.formats.base import Target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.xt.body_write import SIZE_BOX
from gondrel.core.integral.plain import boundary_outline
from gondrel.core.kernel.base.shape import shape_from_blob, shape_to_blob
from gondrel.core.kernel.convert.boundary_out import EXACT, boundary_of
from gondrel.core.kernel.derive import deviation_of, facts_of
from gondrel.core.kernel.exchange.outline_fit import fitted_to_outline
from gondrel.core.model import boundary, geometry
from gondrel.core.model.boundary import Boundary
from gondrel.core.model.carries import Fated
from gondrel.core.model.changed import is_loose, shape_changes
from gondrel.core.model.geometry import Line
from gondrel.core.model.limits import Limits
from gondrel.core.model.places import foresee_places
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.values import kinds_of, values_from_json, values_to_json
from gondrel.core.model.verdicts import Fate
from gondrel.core.work import SILENT, Progress

__all__ = ["XtPlan", "foresee", "plan_of"]

_KIND = "xtplan6"
_VALUES = kinds_of(boundary, geometry)


@dataclass(frozen=True, slots=True)
class XtPlan:
    """How a body goes into an XT file.

    Args:
        boundary: what is written, None when it can't be.
        changes: how its faces change on the way, in words.
        refused: why it can't be written, empty when it can.
    """

    boundary: Boundary | None
    changes: tuple[str, ...] = ()
    refused: str = ""


def plan_of(store: BlobStore, key: str) -> XtPlan:
    """The plan for a stored body, made once.

    Raises:
        KeyError: when the body is not in the store.
    """
    if store.has(key, _KIND):
        made, changes, refused = values_from_json(store.get_as(key, _KIND), _VALUES)
        return XtPlan(made, changes, refused)
    plan = _plan(store, key)
    store.put_as(key, _KIND, values_to_json((plan.boundary, plan.changes, plan.refused)))
    return plan


def _plan(store: BlobStore, key: str) -> XtPlan:
    facts = facts_of(store, key)
    reach = max(abs(v) for v in facts.bbox)
    if reach > SIZE_BOX:
        return XtPlan(
            None,
            refused=f"it reaches {reach / 1e3:,.0f} m from the origin; an XT body must lie within "
            f"{SIZE_BOX / 1e3:,.0f} m",
        )
    try:
        outcome = boundary_of(shape_from_blob(store.get(key)))
    except KernelRefused as error:
        return XtPlan(None, refused=error.message)
    short = _too_short(outcome.boundary)
    changes = outcome.changes
    if facts.volume < 0.0:
        changes = (*changes, "its material lay outside its skin and is turned inside")
    if not short and is_loose(facts):
        changes = (*changes, *_tried(store, key, outcome.boundary))
    return XtPlan(outcome.boundary if not short else None, changes, short)


def _tried(store: BlobStore, key: str, given: Boundary) -> list[str]:
    """How a body comes back changed, in words, by making it of what is written."""
    try:
        made = fitted_to_outline(given, boundary_outline(given, budget=0.0)).making.bodies
    except KernelRefused as error:
        return [f"it could not be tried out: {error.message}"]
    if len(made) != 1:
        return [f"it comes back as {len(made)} bodies"]
    back = store.put(shape_to_blob(made[0].shape))
    deviation = deviation_of(store, key, back).value
    return shape_changes(facts_of(store, key), facts_of(store, back), deviation, Limits())


def _too_short(given: Boundary) -> str:
    """Where an edge is shorter than the modeller tells apart, in words; empty when none is."""
    for edge in given.edges:
        if not isinstance(edge.curve, Line) or edge.start is None or edge.end is None:
            continue
        one, other = given.vertices[edge.start].point, given.vertices[edge.end].point
        if math.dist(one, other) < EXACT:
            where = ", ".join(f"{v:.3f}" for v in one)
            length = math.dist(one, other)
            return f"an edge near ({where}) mm is {length:.2g} mm long, XT tells {EXACT:g} mm apart"
    return ""


def foresee(
    model: Model, store: BlobStore, target: Target, settings: SendSettings, *, progress: Progress = SILENT
) -> Iterator[Fated]:
    """Item key, fate and why of every body and mirrored or scaled place that does not simply go across.

    Raises:
        KernelRefused: when a body can't be measured.
    """
    for _, body in progress.each(list(model.bodies()), "Looking at bodies"):
        plan = plan_of(store, body.blob)
        if plan.refused:
            yield ("bodies", body.id, "body"), (Fate.LOST, f"it can't be written: {plan.refused}")
        elif plan.changes:
            yield ("geometry", body.id, "shape"), (Fate.ALTERED, "; ".join(plan.changes))
    yield from foresee_places(model)
