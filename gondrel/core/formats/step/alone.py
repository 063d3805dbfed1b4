"""Single items of a STEP file as bodies, for those that the kernel passes over in the whole file."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from gondrel.core.errors import KernelRefused
from gondrel.core.formats.step.excerpt import excerpt
from gondrel.core.formats.step.join import ItemMaking
from gondrel.core.formats.step.listed import ListedItem, Matrix, is_rigid
from gondrel.core.formats.step.records import Records
from gondrel.core.formats.step.tessellated import facets_of
from gondrel.core.formats.step.units import context_unit
from gondrel.core.formats.step.witness import Hearing
from gondrel.core.kernel.base.shape import moved_blob, shape_to_blob
from gondrel.core.kernel.exchange.step_in import read_items
from gondrel.core.kernel.exchange.transferred import ReadingFacts, TransferredBody
from gondrel.core.model.body import BodyKind
from gondrel.core.model.provenance import DEADLY
from gondrel.core.model.store import BlobStore
from gondrel.core.work import Progress
from gondrel.core.work.files import private_folder

__all__ = ["item_making"]


def item_making(records: Records, store: BlobStore, hearing: Hearing, progress: Progress) -> ItemMaking:
    """How single items of a file become bodies in the store, handed out through the progress."""

    def keep(shape: Any) -> str:
        return put(shape_to_blob(shape))

    def put(data: bytes) -> str:
        blob = store.put(data)
        progress.give(("body", blob))
        return blob

    def moved(blob: str, matrix: Matrix) -> str:
        return put(moved_blob(store.get(blob), tuple(matrix.ravel().tolist())))

    def made(item: ListedItem) -> TransferredBody | None:
        step = f"Making {item.keyword} #{item.number}"
        progress.at(0.87, step)
        if progress.is_deadly(step):
            raise KernelRefused(DEADLY)
        mesh = facets_of(records, item.number, context_unit(records, item.context) or 1.0)
        if mesh is not None:
            blob = put(mesh.to_bytes())
            transferred: TransferredBody | None = TransferredBody(
                BodyKind.MESH, blob, 0, records.ordinal(item.number), None, (), ()
            )
        else:
            transferred = _exact(records, item, keep, hearing)
        if transferred is None or item.placement is None:
            return transferred
        reading = transferred.reading if is_rigid(item.placement) else ReadingFacts()
        return replace(transferred, blob=moved(transferred.blob, item.placement), reading=reading)

    return ItemMaking(made)


def _exact(records: Records, item: ListedItem, keep: Any, hearing: Hearing) -> TransferredBody | None:
    """The body of an item from a file of its own; its first, where it makes several."""
    data, numbers = excerpt(records, [item.number], item.context)
    integrity = hearing.integrity()
    senseless = set(integrity.senseless) if integrity is not None else set()
    lost = next((n for n in numbers if records.ordinal(n) - 1 in senseless), 0)
    if lost:  # the kernel may die of it
        raise KernelRefused(f"it rests on #{lost}, which makes no sense")
    wanted = {place: records.ordinal(number) for place, number in enumerate(numbers, 1)}
    with private_folder() as folder:
        path = Path(folder) / "item.stp"
        path.write_bytes(data)
        items = read_items(str(path), wanted, keep, hearing.body)
    own = items.get(records.ordinal(item.number))
    return own if own is not None else next(iter(items.values()), None)
