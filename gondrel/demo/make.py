"""Writes the demo's files, once: the gear, a bush as its supplier sends it, the drawing of a bracket."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.service.receive import measure_all
from gondrel.core.service.write import write_model
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder
from gondrel.demo.bracket import bracket_drawing
from gondrel.demo.bush import make_bush
from gondrel.demo.gear import make_gear

__all__ = ["BUSH_NAME", "DRAWING_NAME", "FILE_NAME", "make_demo"]

FILE_NAME = "paddle-winding-gear.stp"
BUSH_NAME = "plummer-bush.stp"
DRAWING_NAME = "pawl-bracket.dxf"


def make_demo(folder: str, *, progress: Progress = SILENT) -> str:
    """The path of the gear's file; it and what goes with it are made when they are not there yet.

    Raises:
        KernelRefused: when the kernel can't make a part. WriteFailed: when the disk refuses.
    """
    here = Path(folder)
    here.mkdir(parents=True, exist_ok=True)
    progress.at(0.05, "Modelling the demo gear")
    if not (here / DRAWING_NAME).exists():
        write_whole(here / DRAWING_NAME, bracket_drawing())
    _write(here / BUSH_NAME, make_bush, progress.part(0.05, 0.1))
    _write(here / FILE_NAME, make_gear, progress.part(0.1, 1.0))
    return str(here / FILE_NAME)


def _write(path: Path, make: Callable[[BlobStore], Model], progress: Progress) -> None:
    if path.exists():
        return
    with private_folder() as store_folder:
        store = BlobStore(Path(store_folder))
        model = make(store)
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
            name=path.name,
            progress=progress.part(0.7, 1.0),
        )
        write_whole(path, data)
