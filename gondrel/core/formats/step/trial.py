"""Bodies tried out: written as STEP, read back, and compared with what they were."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from gondrel.core.errors import GondrelError
from gondrel.core.formats.step.records import open_records
from gondrel.core.formats.step.witness import outline_of
from gondrel.core.integral.outline import BodyOutline
from gondrel.core.kernel.base.shape import shape_from_blob, shape_to_blob
from gondrel.core.kernel.derive import deviation_of, facts_of
from gondrel.core.kernel.exchange.step_in import read_items
from gondrel.core.kernel.exchange.step_out import write_body
from gondrel.core.model.changed import shape_changes
from gondrel.core.model.limits import Limits
from gondrel.core.model.store import BlobStore
from gondrel.core.work.files import private_folder

__all__ = ["tried_changes"]


def tried_changes(store: BlobStore, key: str, unit: str) -> str:
    """How the shape of a stored body comes back changed, in words; empty when it does not. Tried once.

    Args:
        unit: key of the length unit it is written in.

    Raises:
        KeyError: when the body is not in the store.
    """
    kind = f"step-trial-{unit}"
    if store.has(key, kind):
        return str(json.loads(store.get_as(key, kind)))
    try:
        change = _tried(store, key, unit)
    except GondrelError as error:
        change = f"it could not be tried out: {error.message}"
    store.put_as(key, kind, json.dumps(change).encode("ascii"))
    return change


def _tried(store: BlobStore, key: str, unit: str) -> str:
    data = write_body(shape_from_blob(store.get(key)), unit).data

    def keep(shape: Any) -> str:
        return store.put(shape_to_blob(shape))

    with private_folder() as folder:
        path = Path(folder) / "body.stp"
        path.write_bytes(data)
        with open_records(str(path)) as records:
            outline = outline_of(records, budget=0.0)
            wanted = {int(n): int(n) for n in outline.bodies}

        def outlined(ordinal: int) -> BodyOutline | None:
            return outline.body(ordinal)

        bodies = list(read_items(str(path), wanted, keep, outlined).values())
    if len(bodies) != 1:
        return f"it comes back as {len(bodies)} bodies" if bodies else "nothing of it comes back"
    back = bodies[0].blob
    before, after = facts_of(store, key), facts_of(store, back)
    deviation = 0.0 if back == key else deviation_of(store, key, back).value
    return "; ".join(shape_changes(before, after, deviation, Limits()))
