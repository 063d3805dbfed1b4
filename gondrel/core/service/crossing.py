"""The crossing: the working document, its file, autosave and recovery.

A crossing file is a zip: crossing.json (version, name, history, what was sent) and one member
per body under blobs/. It appears whole or not at all.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from gondrel.core.errors import WriteFailed
from gondrel.core.model.codec import to_plain
from gondrel.core.model.findings import Mended
from gondrel.core.model.history import History
from gondrel.core.model.provenance import Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.model.views import View
from gondrel.core.service.messages import Sent
from gondrel.core.service.saved.schema import VERSION
from gondrel.core.service.sendings import Sending
from gondrel.core.work.in_turns import Turns, json_in_turns

__all__ = [
    "BLOBS", "FORMAT", "HEAD", "SUFFIX", "Crossing", "Source", "autosaves", "models_of",
    "save_crossing",
]  # fmt: skip

SUFFIX = ".crossing"
FORMAT = "gondrel-crossing"
HEAD, BLOBS = "crossing.json", "blobs/"
"""Names of the members of a crossing file."""


RowPath = tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class Source:
    """A tether: where a model was received from, and what it was then.

    Args:
        model: as received, with the ids its items have in the crossing; is_cut: no longer followed.
        again: whether its changes are taken by themselves, by running the steps again.
    """

    provenance: Provenance
    model: Model
    is_cut: bool = False
    again: bool = False

    @property
    def path(self) -> str:
        """The file it was received from."""
        return self.provenance.file.path


@dataclass(frozen=True, slots=True)
class Crossing:
    """The working document.

    Args:
        history: snapshots of the received model with all edits.
        sent: what was sent and proved last, None before the first send.
        hidden, faint: rows of the manifest hidden or seen through on screen, each as the occurrence
            ids it stands for level by level.
        sources: what it was received from.
        accepted: product, column of the table of facts, and what the sender says there, where that is no
            longer shown beside what is said here.
        log: what was sent to whom, in its order.
        views: named views, with their sections and dimensions.
    """

    name: str
    history: History = History()
    sent: Sent | None = None
    hidden: tuple[RowPath, ...] = ()
    faint: tuple[RowPath, ...] = ()
    sources: tuple[Source, ...] = ()
    accepted: tuple[tuple[str, str, str], ...] = ()
    log: tuple[Sending, ...] = ()
    views: tuple[View, ...] = ()

    @property
    def model(self) -> Model | None:
        """The current model, None before anything was received."""
        return self.history.current.model if self.history.steps else None

    def edited(
        self, what: str, model: Model, mended: tuple[Mended, ...] = (), script: str = ""
    ) -> Crossing:
        """The crossing after an edit of the model, with what came of its mends, and the edit as a step."""
        return replace(self, history=self.history.did(what, model, mended, script))

    def blobs(self) -> tuple[str, ...]:
        """Hashes of every body of every snapshot and of the returned model."""
        return tuple(dict.fromkeys(key for model in models_of(self) for key in model.blobs()))


def models_of(crossing: Crossing) -> list[Model]:
    """Every model of a crossing: its snapshots, what it was received as, what came back."""
    models = [step.model for step in crossing.history.steps]
    models += [source.model for source in crossing.sources]
    return [*models, crossing.sent.returned] if crossing.sent is not None else models


def save_crossing(
    crossing: Crossing, path: Path, store: BlobStore, *, private: bool = False,
    give_way: Callable[[], None] = lambda: None,
) -> None:  # fmt: skip
    """Write a crossing to its file, whole or not at all.

    Args:
        private: whether nobody else may read it.
        give_way: called every few milliseconds, that another thread has its turn.

    Raises:
        WriteFailed: when the disk refuses or a body is not in the store.
    """
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        turn = Turns(give_way)
        head = {"format": FORMAT, "version": VERSION, "crossing": to_plain(crossing, turn)}
        archive.writestr(HEAD, json_in_turns(head, turn))
        for key in crossing.blobs():
            try:
                archive.writestr(BLOBS + key, store.get(key))
            except KeyError:
                raise WriteFailed("a body is missing from the store", file=str(path)) from None
    write_whole(path, stream.getvalue(), private=private)


def autosaves(folder: Path) -> list[Path]:
    """Autosaved crossings that no running application keeps, newest first."""
    if not folder.is_dir():
        return []
    paths = [p for p in folder.glob(f"*{SUFFIX}") if not _is_kept(p)]
    return sorted(paths, key=lambda p: p.stat().st_mtime, reverse=True)


def _is_kept(path: Path) -> bool:
    """Whether the application that wrote an autosave still runs; its process id is in the name."""
    owner = path.stem.rpartition("-")[2]
    return owner.isdigit() and Path(f"/proc/{owner}").exists()
