"""Queries over a model, by what is said of items and by what they measure."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from gondrel.core.arrange.scope import queried
from gondrel.core.errors import UsageError
from gondrel.core.measuring.sizes import parts_of_size
from gondrel.core.model.sizes import is_size_term, size_term
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.work import SILENT, Progress

__all__ = ["asked_for", "of_size"]


def of_size(
    model: Model, words: Sequence[str], store_folder: str, *, progress: Progress = SILENT
) -> dict[str, frozenset[str]]:
    """The parts that fit each of some terms that ask for sizes. Raises UsageError, KernelRefused."""
    store = BlobStore(Path(store_folder))
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.3))
    rest = progress.part(0.3, 1.0)
    return {word: parts_of_size(model, size_term(word), store, facts, progress=rest) for word in words}


def asked_for(
    model: Model, queries: Sequence[str], store_folder: str, *, progress: Progress = SILENT
) -> list[str]:
    """Ids of the products that fit any of some queries. Raises UsageError when nothing fits."""
    sized = [query for query in queries if is_size_term(query)]
    plain = [query for query in queries if not is_size_term(query)]
    chosen: set[str] = set()
    for ids in of_size(model, sized, store_folder, progress=progress).values() if sized else ():
        chosen |= ids
    if plain:
        chosen |= set(queried(model, plain))
    if not chosen:
        raise UsageError(f"no item fits {', '.join(queries)}")
    return [product.id for product in model.products if product.id in chosen]
