"""A body made ready for IGES and tried out: written, read back, and compared with what it was."""

from __future__ import annotations

from base64 import b64decode, b64encode
from dataclasses import dataclass
from pathlib import Path

from gondrel.core.errors import GondrelError
from gondrel.core.formats.iges.read import read
from gondrel.core.formats.iges.records import IgesFile, parse_iges
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.derive import deviation_of, facts_of
from gondrel.core.kernel.exchange.iges_out import write_iges_body
from gondrel.core.model.body import Body
from gondrel.core.model.changed import is_loose, shape_changes
from gondrel.core.model.limits import Limits
from gondrel.core.model.store import BlobStore
from gondrel.core.model.values import values_from_json, values_to_json
from gondrel.core.work.files import private_folder

__all__ = ["BodyPlan", "plan_of"]


@dataclass(frozen=True, slots=True)
class BodyPlan:
    """How a body goes into an IGES file.

    Args:
        data: an IGES file of the body alone, None when it can't be written.
        kind: what it comes back as, in words; changes: how its shape comes back changed, in words.
        count: how many bodies come back.
        refused: why it can't be written, empty when it can.
    """

    data: bytes | None
    kind: str = ""
    changes: str = ""
    count: int = 1
    refused: str = ""

    def file(self) -> IgesFile:
        """The records of the body's own file."""
        assert self.data is not None
        return parse_iges(self.data)


def plan_of(store: BlobStore, body: Body, unit: str, *, as_solid: bool) -> BodyPlan:
    """The plan for a stored body, made once.

    Raises:
        KeyError: when the body is not in the store.
    """
    key = f"iges2-{unit}-{'solid' if as_solid else 'surface'}"
    if store.has(body.blob, key):
        kind, changes, count, refused, data = values_from_json(store.get_as(body.blob, key), {})
        return BodyPlan(None if data is None else b64decode(data), kind, changes, count, refused)
    plan = _plan(store, body, unit, as_solid)
    text = None if plan.data is None else b64encode(plan.data).decode()
    store.put_as(body.blob, key, values_to_json((plan.kind, plan.changes, plan.count, plan.refused, text)))
    return plan


def _plan(store: BlobStore, body: Body, unit: str, as_solid: bool) -> BodyPlan:
    shape = shape_from_blob(store.get(body.blob))
    try:
        data = write_iges_body(shape, unit, as_solid=as_solid)
        with private_folder() as folder:
            path = Path(folder) / "body.igs"
            path.write_bytes(data)
            bodies = [b for _, b in read(str(path), store).bodies()]
    except GondrelError as error:
        return BodyPlan(None, refused=error.message)
    if not bodies:
        return BodyPlan(None, refused="nothing of it could be read back")
    changes = "" if len(bodies) > 1 else _changes(store, body.blob, bodies[0].blob)
    return BodyPlan(data, bodies[0].kind.value, changes, len(bodies))


def _changes(store: BlobStore, key: str, back: str) -> str:
    """How a body came back changed, in words; empty when it did not."""
    before, after = facts_of(store, key), facts_of(store, back)
    changes = shape_changes(before, after, 0.0, Limits())
    if not changes and (is_loose(before) or is_loose(after)):
        changes = shape_changes(before, after, deviation_of(store, key, back).value, Limits())
    return "; ".join(changes)
