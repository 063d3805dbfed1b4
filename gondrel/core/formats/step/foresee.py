"""What becomes of single bodies in STEP beyond what a protocol's table says."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.formats.base import Target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.formats.step.trial import tried_changes
from gondrel.core.kernel.base.shape import crossing_tori, shape_from_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.beneath import bodies_beneath
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.carries import Fated
from gondrel.core.model.changed import is_loose
from gondrel.core.model.places import foresee_places
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.verdicts import Fate
from gondrel.core.work import SILENT, Progress

__all__ = ["foresee"]

_KIND = "crossing"


def foresee(
    model: Model, store: BlobStore, target: Target, settings: SendSettings, *, progress: Progress = SILENT
) -> Iterator[Fated]:
    """Item key, fate and why of every body that does not simply go across.

    The kernel's writer turns a torus that crosses itself into a surface of revolution; bodies whose edges
    lie loosely are tried out.

    Raises:
        KernelRefused: when a body can't be measured.
    """
    for _, body in progress.each(list(model.bodies()), "Looking at bodies"):
        if dict(facts_of(store, body.blob).surfaces).get("torus") and _crossing(store, body.blob):
            why = "a torus that crosses itself is written as a surface of revolution"
            yield ("geometry", body.id, "shape"), (Fate.ALTERED, why)
        elif changes := _tried(store, body, settings.unit.key):
            yield ("geometry", body.id, "shape"), (Fate.ALTERED, changes)
    yield from foresee_places(model)
    for _, use in model.occurrences():
        is_seen = use.colour is not None or use.hidden
        if is_seen and next(bodies_beneath(model, use.product), None) is None:
            why = "STEP gives looks to bodies, and there is none beneath this component"
            yield ("colours", use.id, "occurrence colour"), (Fate.LOST, why)
            yield ("layers", use.id, "hidden"), (Fate.LOST, why)


def _tried(store: BlobStore, body: Body, unit: str) -> str:
    """How a body that may change comes back changed, in words."""
    if body.kind not in (BodyKind.SOLID, BodyKind.SHEET) or not is_loose(facts_of(store, body.blob)):
        return ""
    return tried_changes(store, body.blob, unit)


def _crossing(store: BlobStore, key: str) -> bool:
    if not store.has(key, _KIND):
        count = crossing_tori(shape_from_blob(store.get(key)))
        store.put_as(key, _KIND, str(count).encode())
    return int(store.get_as(key, _KIND)) > 0
