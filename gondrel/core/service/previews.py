"""Previews of revisions: drawn once, and kept by their content."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Connection

from gondrel.core.kernel.derive import mesh_of
from gondrel.core.model.facets import is_facets
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.register.keeping import PREVIEW, take_out
from gondrel.core.register.looking import revision_of
from gondrel.core.reports.drawn import drawn
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder

__all__ = ["previews"]

_SIZE = (480, 360)


def previews(
    connection: Connection, blobs: BlobStore, keys: Sequence[str], *, progress: Progress = SILENT
) -> dict[str, bytes]:
    """A PNG of each revision by its id. Raises KeyError, KernelError."""
    found = {}
    with private_folder() as folder:
        aside = BlobStore(folder)  # nothing but what was put in lies in the register's folder
        for key in progress.each(keys, "Drawing previews"):
            content = revision_of(connection, key).content
            try:
                found[key] = blobs.get_as(content, PREVIEW)
            except KeyError:
                found[key] = _drawn(take_out(connection, key), blobs, aside)
                blobs.put_as(content, PREVIEW, found[key])
    return found


def _drawn(model: Model, blobs: BlobStore, aside: BlobStore) -> bytes:
    for key in model.blobs():
        if not aside.has(key):
            aside.put(blobs.get(key))
        if not is_facets(aside.get(key)):
            mesh_of(aside, key)
    return drawn(model, aside, size=_SIZE, is_clear=True)
