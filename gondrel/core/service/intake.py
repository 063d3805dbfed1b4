"""Receiving, and receiving into a prepared product."""

from __future__ import annotations

from gondrel.core.arrange.insertion import with_model_inside
from gondrel.core.errors import UsageError
from gondrel.core.model.snapshot import Model
from gondrel.core.service.receive import receive
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = ["receive_by"]


def receive_by(
    path: str, store_folder: str, options: ReceiveOptions, *, progress: Progress = SILENT
) -> Model:
    """Read a file, and put it into a prepared product where that is asked for.

    Raises:
        UsageError: when there is no such product. InputError: when a file can't be read.
    """
    into = options.into
    model = receive(path, store_folder, options.settings, progress=progress.part(0.0, 0.7 if into else 1.0))
    if not into:
        return model
    house, _, number = into.rpartition("#")
    prepared = receive(house, store_folder, progress=progress.part(0.7, 1.0))
    chosen = [p.id for p in prepared.products if number in (p.number, p.name)]
    if not chosen:
        raise UsageError(f"{house} has no product {number!r}", hint="give its number or its name")
    return with_model_inside(prepared, chosen[0], model)
