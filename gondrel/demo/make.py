"""Writes the demo's STEP file, once."""

from __future__ import annotations

from pathlib import Path

from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.service.receive import measure_all
from gondrel.core.service.write import write_model
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder
from gondrel.demo.gear import make_gear

__all__ = ["FILE_NAME", "make_demo"]

FILE_NAME = "paddle-winding-gear.stp"


def make_demo(folder: str, *, progress: Progress = SILENT) -> str:
    """The path of the demo file, modelled and written when it is not there yet.

    Raises:
        KernelRefused: when the kernel can't make a part. WriteFailed: when the disk refuses.
    """
    path = Path(folder) / FILE_NAME
    if path.exists():
        return str(path)
    path.parent.mkdir(parents=True, exist_ok=True)
    progress.at(0.05, "Modelling the demo gear")
    with private_folder() as store_folder:
        store = BlobStore(Path(store_folder))
        model = make_gear(store)
        facts = measure_all(model.blobs(), str(store_folder), progress=progress.part(0.5, 0.7))
        settings = SendSettings(
            author="L. Amberly",
            organisation="Ostrey Navigation Works",
            system="Ostrey drawing office",
        )
        data = write_model(
            model,
            "step-ap242",
            settings,
            store,
            facts,
            name=FILE_NAME,
            progress=progress.part(0.7, 1.0),
        )
        write_whole(path, data)
    return str(path)
