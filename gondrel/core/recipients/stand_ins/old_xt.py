"""A system that reads Parasolid XT up to an old version, and nothing else."""

from __future__ import annotations

import re
from pathlib import Path

from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.base import StandIn, Taken, opened
from gondrel.core.work import Progress

__all__ = ["STAND_IN"]

_NEWEST = 14000
_SCHEMA = re.compile(rb"SCH_\d+_(\d+)")
_HEAD = 65_536


def _take(path: str, store: BlobStore, progress: Progress) -> Taken:
    with Path(path).open("rb") as stream:
        found = _SCHEMA.search(stream.read(_HEAD))
    if found is None:
        return Taken(Model((), ()), ("this is no Parasolid file; nothing was taken in",))
    version = int(found[1])
    if version > _NEWEST:
        text = f"the file is of version {version}, newer than {_NEWEST}; nothing was taken in"
        return Taken(Model((), ()), (text,))
    return Taken(opened(path, store, progress)[1])


STAND_IN = StandIn(
    "old-xt", "An old Parasolid system", f"It reads XT up to version {_NEWEST} and nothing else.",
    _take,
)  # fmt: skip
