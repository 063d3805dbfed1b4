"""The records behind what is selected: found and shown without the file being loaded again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import InputError, UsageError
from gondrel.core.formats.base import RecordSource
from gondrel.core.formats.registry import by_content
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.measure.counterpart import counterpart
from gondrel.core.kernel.topology.bounding import faces_beside
from gondrel.core.model.origins import Found, Origins, RecordView, origins_of, source_key
from gondrel.core.model.sought import Sought
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import checked_file
from gondrel.core.work.kept_open import KeptOpen
from gondrel.core.work.packed import unpacked

__all__ = ["find_records", "record_at", "record_behind"]

_MOST = 600
_SAME_ENDS = 1e-6
"""Share of its coordinates by which an edge's ends may differ from those in the file."""


def _let_go(held: tuple[RecordSource, ExitStack]) -> None:
    source, stack = held
    source.close()
    stack.close()


_opened = KeptOpen(_let_go)


def _source(path: str) -> RecordSource:
    """The records of a file.

    Raises:
        InputError: when it is not there or can't be read. UsageError: when its format shows no records.
    """
    checked_file(path)
    return _opened.of(source_key(path), lambda: _open(path))[0]


def _open(path: str) -> tuple[RecordSource, ExitStack]:
    stack = ExitStack()
    plain = stack.enter_context(unpacked(path))
    known = by_content(plain)
    opens = known.opens_source
    if opens is None:
        stack.close()
        raise UsageError(f"the records of {known.title} files are not shown")
    return opens(plain), stack


def record_at(path: str, number: int, *, progress: Progress = SILENT) -> RecordView:
    """A record by its number. Raises InputError, UsageError."""
    source = _source(path)
    view = source.view(number)
    if view is None:
        raise UsageError(f"{Path(path).name} holds no record {source.noun}{number}")
    return view


def find_records(path: str, query: str, *, progress: Progress = SILENT) -> list[Found]:
    """Records by number, type or text, at most some hundred; several words are divided by commas.

    Raises InputError, UsageError.
    """
    source = _source(path)
    words = [word.strip() for word in query.split(",") if word.strip()]
    return list(dict.fromkeys(found for word in words for found in _found(source, word)))[:_MOST]


def _found(source: RecordSource, query: str) -> list[Found]:
    digits = query.strip().lstrip("#D").strip()
    if digits.isdigit():
        view = source.view(int(digits))
        by_number = [Found(view.number, view.type)] if view is not None else []
        return by_number + [found for found in source.find(query) if found not in by_number]
    return source.find(query)


def record_behind(
    path: str, sought: Sought, store_folder: str, *, progress: Progress = SILENT
) -> RecordView:
    """The record that an item was read from, or that gives it its colour or a property.

    Raises:
        UsageError: when that is not known, or the file is another than was received.
        InputError: when it is not there.
    """
    checked_file(path)
    store = BlobStore(Path(store_folder))
    origins = origins_of(store, path)
    if origins is None:
        raise UsageError(
            "where this came from is not known", hint="the file changed, or has to be received again"
        )
    if sought.kind == "edge":
        number = _edge(_source(path), origins, sought, store)
    elif sought.kind == "face":
        (number,) = _faces(origins, sought, (sought.face,), store)
    else:
        number = _table(origins, sought.kind).get(sought.id, 0)
    if not number:
        raise UsageError(f"no record of this {sought.kind} is known; it may have been made here")
    if sought.of_colour:
        number = _colour(_source(path), origins, sought, number)
    elif sought.key:
        number = _source(path).property_of(number, sought.key)
        if not number:
            raise UsageError(
                f"no record of the property {sought.key} is known",
                hint="it may have been made here; a text it holds can be searched for",
            )
    return record_at(path, number)


def _table(origins: Origins, kind: str) -> Mapping[str, int]:
    tables = {"product": origins.products, "component": origins.uses, "body": origins.bodies}
    return tables.get(kind, {})


def _faces(origins: Origins, sought: Sought, places: Sequence[int], store: BlobStore) -> list[int]:
    """The records of faces of the body that is sought for, 0 where there is none; of a changed body those
    of what they were."""
    faces = origins.faces.get(sought.id, ())
    was: list[int | None] = list(places)
    if faces and sought.received not in ("", sought.blob):
        now, then = (shape_from_blob(store.get(key)) for key in (sought.blob, sought.received))
        was = [counterpart(now, place, then) for place in places]
    return [faces[at] if at is not None and 0 <= at < len(faces) else 0 for at in was]


def _edge(source: RecordSource, origins: Origins, sought: Sought, store: BlobStore) -> int:
    """The record of an edge: one that all faces beside it have, and no other; of several, as where a
    cylinder is two halves, the one with its ends."""
    faces = origins.faces.get(sought.id, ())
    if not faces:
        return 0
    places, ends = faces_beside(shape_from_blob(store.get(sought.blob)), sought.edge)
    numbers = _faces(origins, sought, places, store)
    if not numbers or not all(numbers):
        return 0
    tables = [source.edges_of(number) for number in numbers]
    shared = [edge for edge in tables[0] if all(edge in table for table in tables)]
    if len(numbers) == 1 and not source.lists_edges:
        # The rim of a sheet, or the seam of a surface, which not every format has.
        others = {edge for face in faces if face and face != numbers[0] for edge in source.edges_of(face)}
        shared = [edge for edge in shared if edge not in others]
    if len(shared) < 2:
        return shared[0] if shared else 0
    off = {edge: _off(np.array(tables[0][edge]), np.array(ends)) for edge in shared}
    best, second = sorted(off, key=off.__getitem__)[:2]
    if off[best] > _SAME_ENDS or off[second] <= _SAME_ENDS:
        raise UsageError(f"which of {len(shared)} edges between the same faces it is can't be told")
    return best


def _off(told: NDArray[np.float64], ends: NDArray[np.float64]) -> float:
    """How far two pairs of points are from being the same in another unit, as a share of their size."""
    if len(told) != len(ends) or not told.any():
        return float("inf")
    ways = [one * max(float(one @ ends), 0.0) / float(one @ one) for one in (told, np.roll(told, 3))]
    return min(float(np.linalg.norm(ends - way)) for way in ways) / (float(np.linalg.norm(ends)) or 1.0)


def _colour(source: RecordSource, origins: Origins, sought: Sought, number: int) -> int:
    """The record of a colour: the item's own, of a face else that of its body."""
    found = source.colour_of(number)
    if not found and sought.kind == "face":
        found = source.colour_of(origins.bodies.get(sought.id, 0))
    if not found:
        raise InputError(f"this {sought.kind} has no colour of its own in the file")
    return found
