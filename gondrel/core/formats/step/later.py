"""A STEP file whose shapes are read later: its structure from the records alone, and shapes when asked for.

Neither needs the kernel to see the file as a whole, nor the memory that takes.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing, contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import UsageError
from gondrel.core.formats.step.alone import item_making
from gondrel.core.formats.step.card import card_of, check_complete, document_definitions
from gondrel.core.formats.step.codes import Codes, codes_of, counted
from gondrel.core.formats.step.external import external_files
from gondrel.core.formats.step.graph import read_graph
from gondrel.core.formats.step.in_place import ColourInPlace, colours_in_place
from gondrel.core.formats.step.join import BODIES, ModelBuilder, uses_of_places
from gondrel.core.formats.step.parted import Parts
from gondrel.core.formats.step.put_together import structure_alone
from gondrel.core.formats.step.read import ReadAlone, joined, read_alone
from gondrel.core.formats.step.records import Records, open_records
from gondrel.core.formats.step.source import origins_in
from gondrel.core.formats.step.structure import boxes_of, places_of
from gondrel.core.formats.step.witness import Hearing
from gondrel.core.kernel.exchange.transferred import Transferred
from gondrel.core.model.body import Body
from gondrel.core.model.census import Census
from gondrel.core.model.later import LoadedShapes, place_of_body
from gondrel.core.model.origins import Origins, keep_origins, origins_of, source_key
from gondrel.core.model.product import Unread
from gondrel.core.model.provenance import FileFacts, Note, Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder
from gondrel.core.work.kept_open import KeptOpen

__all__ = ["read_shapes", "read_structure"]

_AT_ONCE = 12_000_000
"""About how many bytes of a file are given to the kernel at once."""

_OF_THE_WHOLE = frozenset(("no-shape-given", "product-without-shape", "occurrence-without-place"))
"""What is told of an excerpt for what it leaves out."""


def read_structure(path: str, store: BlobStore, *, progress: Progress = SILENT) -> Model | None:
    """Everything in a file but its shapes; each product says how many bodies wait to be loaded.

    Returns: the model; None where the file has to be read whole: it refers to others, has records of one
        number, or no shapes.

    Raises:
        InputError: when it can't be opened. MalformedFile: when it is cut off or makes no sense.
    """
    absolute = str(Path(path).resolve())
    with private_folder() as folder:
        apart = folder / Path(path).name
        taken = _take_apart(absolute, apart, progress)
        if taken is None:
            return None
        progress.at(0.4, "Joining the structure")
        with _structure(apart, taken.card, store, progress.part(0.4, 1.0)) as alone:
            model, builder = alone.model, alone.builder
            origins = origins_in(builder, model)
            codes = _codes(taken.numbers, alone)
    keep_origins(store, absolute, origins)
    for each in taken.coloured.values():
        codes = codes.with_taken(taken.numbers, each.carried, each.serving)
    number_of = {key: record for record, key in builder.by_record.items()}
    products = tuple(
        replace(
            product,
            unread=taken.waiting.get(number_of.get(product.id, 0)),
            occurrences=tuple(
                replace(use, colour=place.colour)
                if (place := taken.coloured.get(builder.numbers.get(use.id, 0))) is not None
                else use
                for use in product.occurrences
            ),
        )
        for product in model.products
    )
    census = counted(taken.names, taken.which, codes, waits=True)
    provenance = Provenance(taken.card, "", files=(), census=census)
    return replace(model, products=products, provenance=provenance, notes=alone.notes)


@dataclass(frozen=True, slots=True)
class _Taken:
    """What of a file is needed once its structure lies apart: its card, what waits, and for each record its
    number and its keyword."""

    card: FileFacts
    waiting: dict[int, Unread]
    coloured: dict[int, ColourInPlace]
    numbers: NDArray[np.int64]
    names: list[str]
    which: NDArray[np.int64]


def _take_apart(path: str, apart: Path, progress: Progress) -> _Taken | None:
    """Write the structure of a file apart; None where it has to be read whole."""
    with open_records(path) as records:
        check_complete(records)
        progress.at(0.1, "Reading the structure")
        graph = read_graph(records)
        if external_files(records):
            return None
        parts = Parts(records, graph)
        waiting = _waiting(parts, path)
        if not parts.is_sound or not waiting:
            return None
        parts.write_structure(apart)
        coloured = colours_in_place(parts, uses_of_places(records, graph))
        card = replace(card_of(records), missing_files=())
        return _Taken(card, waiting, coloured, records.numbers(), *records.keywords())


def _waiting(parts: Parts, path: str) -> dict[int, Unread]:
    """What waits to be loaded, by the record of each product's definition."""
    documents = document_definitions(parts.records)
    waiting = {}
    for definition in parts.graph.products:
        bodies = sum(item.keyword in BODIES for item in parts.items(definition))
        if bodies and definition not in documents:
            waiting[definition] = Unread(path, definition, bodies)
    boxes = boxes_of(parts.records, parts.graph, {str(number): number for number in waiting})
    for key, box in boxes:
        waiting[int(key)] = replace(waiting[int(key)], box=box)
    return waiting


@contextmanager
def _structure(path: Path, card: FileFacts, store: BlobStore, progress: Progress) -> Iterator[ReadAlone]:
    """The model of a file without shapes, from its records alone.

    Args:
        card: of the file that it was taken from.
    """
    hearing = Hearing(str(path), progress)
    with closing(hearing), open_records(str(path)) as records:
        graph = read_graph(records)
        making = item_making(records, store, hearing, progress)
        builder = ModelBuilder(records, graph, Transferred(records=len(records)), making)
        builder.placements = builder.shapes.placements(places_of(records, graph))
        builder.transferred = structure_alone(records, graph, builder.placements)
        yield joined(builder, card, None, hearing.integrity(), progress)


def _codes(numbers: NDArray[np.int64], alone: ReadAlone) -> Codes:
    return codes_of(numbers, alone.builder.records.numbers(), alone.taking.codes, alone.census)


_opened = KeptOpen[Parts](lambda parts: parts.records.close())


def _parts(path: str) -> Parts:
    return _opened.of(source_key(path), lambda: _take_up(open_records(path)))


def _take_up(records: Records) -> Parts:
    return Parts(records, read_graph(records))


def read_shapes(
    model: Model, path: str, wanted: Sequence[int], store: BlobStore, *, progress: Progress = SILENT
) -> LoadedShapes:
    """The shapes of some products of a file whose structure was read before.

    Args:
        model: that they are for; wanted: the records of their definitions, as `Unread` names them.

    Each body's hash is handed out as ("body", hash) as soon as it is stored.

    Raises:
        InputError: when the file is not there or can't be read. UsageError: when it is another now.
    """
    parts = _parts(path)
    if any(number not in parts.graph.products for number in wanted):
        raise UsageError(
            f"{Path(path).name} is not the file that was received", hint="receive it again from Receive"
        )
    census = model.provenance.census if model.provenance and model.provenance.file.path == path else None
    codes = Codes.unpacked(census.waiting) if census is not None and census.waiting else None
    numbers = parts.records.numbers()
    bodies: dict[int, tuple[Body, ...]] = {}
    records: dict[int, tuple[int, ...]] = {}
    faces: dict[int, tuple[tuple[int, ...], ...]] = {}
    notes: dict[Note, None] = {}
    batches = _batches(parts, wanted)
    for place, batch in enumerate(batches):
        part = progress.part(place / len(batches), (place + 1) / len(batches))
        with private_folder() as folder:
            excerpt = folder / Path(path).name
            parts.write_shapes(excerpt, batch)
            with read_alone(str(excerpt), store, part) as alone:
                origins = origins_in(alone.builder, alone.model)
                for number in batch:
                    product = alone.model.by_id.get(alone.builder.by_record.get(number, ""))
                    found = product.bodies if product is not None else ()
                    bodies[number] = found
                    records[number] = tuple(origins.bodies.get(b.id, 0) for b in found)
                    faces[number] = tuple(origins.faces.get(b.id, ()) for b in found)
                said = (n for n in alone.notes if n.code not in _OF_THE_WHOLE and n not in alone.card.notes)
                notes.update(dict.fromkeys(said))
                if codes is not None:
                    codes = codes.joined(_codes(numbers, alone))
    _keep_origins(model, path, store, records, faces)
    left = {p.unread.record for p in model.products if p.unread is not None and p.unread.path == path}
    fresh: Census | None = None
    if codes is not None:
        names, which = parts.records.keywords()
        fresh = counted(names, which, codes, waits=bool(left - set(wanted)))
    return LoadedShapes(path, bodies, tuple(notes), fresh)


def _batches(parts: Parts, wanted: Sequence[int]) -> list[list[int]]:
    """Products whose shapes are read together."""
    listed = sum(bool(parts.items(number)) for number in parts.graph.products)
    count = max(1, round(_AT_ONCE / (parts.records.size / max(listed, 1))))
    chosen = list(dict.fromkeys(wanted))
    return [chosen[at : at + count] for at in range(0, len(chosen), count)]


def _keep_origins(
    model: Model,
    path: str,
    store: BlobStore,
    records: Mapping[int, tuple[int, ...]],
    faces: Mapping[int, tuple[tuple[int, ...], ...]],
) -> None:
    """Add where the bodies that were loaded come from to what is known of the file."""
    known = origins_of(store, path) or Origins()
    bodies, of_faces = dict(known.bodies), dict(known.faces)
    for product in model.products:
        waits = product.unread
        if waits is None or waits.path != path or waits.record not in records:
            continue
        rows = zip(records[waits.record], faces[waits.record], strict=True)
        for place, (number, row) in enumerate(rows, 1):
            key = place_of_body(product.id, place)
            bodies |= {key: number} if number else {}
            of_faces |= {key: row} if row else {}
    keep_origins(store, path, Origins(known.products, known.uses, bodies, of_faces))
