"""Where in its file each item of a received model comes from: the numbers of their records."""

from __future__ import annotations

import hashlib
import json
import os
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from gondrel.core.model.store import BlobStore

__all__ = [
    "Found", "Origins", "RecordView", "keep_origins", "origins_of", "owners_of", "source_key",
]  # fmt: skip

_KIND = "origins"


@dataclass(frozen=True, slots=True)
class Origins:
    """Numbers of records by the ids of items: of STEP instances, IGES directory entries, XT nodes.

    Args:
        faces: by the id of a body and in the order of its faces, 0 where there is none.
    """

    products: Mapping[str, int] = field(default_factory=dict)
    uses: Mapping[str, int] = field(default_factory=dict)
    bodies: Mapping[str, int] = field(default_factory=dict)
    faces: Mapping[str, tuple[int, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Found:
    """A record among others: its number and its type."""

    number: int
    type: str


@dataclass(frozen=True, slots=True)
class RecordView:
    """A record as the file has it.

    Args:
        line: where it stands in the file, from 1; 0 where the file has no lines to tell.
        text: as it stands there, or its fields by name where it is stored as bare numbers; cut off where it
            is very long.
        refers: the records it refers to, in order; referred: those that refer to it, at most some hundred.
    """

    number: int
    type: str
    line: int
    text: str
    refers: tuple[Found, ...] = ()
    referred: tuple[Found, ...] = ()


def owners_of(pointers: Iterable[tuple[int, Iterable[int]]]) -> dict[int, list[int]]:
    """The records that point to each, in their order.

    Args:
        pointers: each record's number with those it points to.
    """
    owners: defaultdict[int, list[int]] = defaultdict(list)
    for number, others in pointers:
        for other in dict.fromkeys(others):
            owners[other].append(number)
    return dict(owners)


def source_key(path: str) -> str:
    """What a file is known by while it does not change: place, size and time.

    Raises:
        OSError: when it is not there.
    """
    real = os.path.realpath(path)
    state = os.stat(real)
    said = f"{real}\0{state.st_size}\0{state.st_mtime_ns}"
    return hashlib.sha256(said.encode("utf-8", "surrogateescape")).hexdigest()


def keep_origins(store: BlobStore, path: str, origins: Origins) -> None:
    """Keep where the items of a file come from, in place of what was known, while the store is there."""
    plain = [dict(origins.products), dict(origins.uses), dict(origins.bodies), dict(origins.faces)]
    try:
        store.put_as(source_key(path), _KIND, json.dumps(plain).encode(), anew=True)
    except OSError:
        return  # the file went meanwhile


def origins_of(store: BlobStore, path: str) -> Origins | None:
    """Where the items of a file come from; None where that is not known, or the file is another now."""
    try:
        plain = json.loads(store.get_as(source_key(path), _KIND))
    except (OSError, KeyError):
        return None
    products, uses, bodies, faces = plain
    return Origins(products, uses, bodies, {key: tuple(row) for key, row in faces.items()})
