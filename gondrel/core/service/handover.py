"""The report that goes with a file: the model sent and proved aside, drawn, checked and told."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

from gondrel.core.arrange.leaving import going
from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.ledger import Proof
from gondrel.core.errors import UsageError
from gondrel.core.formats.registry import target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.derive import mesh_of
from gondrel.core.model.findings import CheckLimits
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.card import Card
from gondrel.core.reports.drawn import drawn
from gondrel.core.reports.handover import HandedFile, Handover, as_pdf, handover_html
from gondrel.core.service.check import check
from gondrel.core.service.receive import measure_all
from gondrel.core.service.send import send
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder

__all__ = ["make_handover"]

_VIEWS = (("iso", "Seen from above, at the right front"),)


def make_handover(
    model: Model, out: str, kind: str, card: Card | None, settings: SendSettings, store_folder: str, *,
    checked: bool = True, author: str = "", progress: Progress = SILENT,
) -> bytes:  # fmt: skip
    """The report as HTML or PDF, by the ending.

    Args:
        kind: what the model is sent as, empty where it is not: then nothing is said of a file.

    Raises:
        UsageError: for another ending. OutputError, KernelRefused: as send does.
    """
    suffix = Path(out).suffix.lower()
    if suffix not in (".html", ".htm", ".pdf"):
        raise UsageError("a report is kept as .html or .pdf", hint=out)
    model, _ = going(model)
    store = BlobStore(Path(store_folder))
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.1))
    files: Sequence[HandedFile] = ()
    forecast: Forecast | None = None
    proof: Proof | None = None
    if kind:
        with private_folder() as folder:
            name = f"{Path(out).stem}{target(kind)[1].suffix}"
            sent = send(
                model,
                str(Path(folder) / name),
                kind,
                settings,
                store_folder,
                progress=progress.part(0.1, 0.6),
            )
            paths = [sent.path, *(path for path, _ in sent.companions)]
            files = [_handed(Path(path)) for path in paths]
            forecast, proof = sent.forecast, sent.proof
    report = (
        check(model, CheckLimits(), store_folder, progress=progress.part(0.6, 0.8)) if checked else None
    )
    for blob in progress.part(0.8, 0.9).each(list(model.blobs()), "Drawing"):
        mesh_of(store, blob)
    pictures = [(caption, drawn(model, store, view=view)) for view, caption in _VIEWS]
    chosen = target(kind)[1] if kind else None
    html = handover_html(Handover(
        model, facts, files, chosen.title if chosen else "",
        (chosen.unit or settings.unit.key) if chosen else "mm", forecast, proof, pictures, report,
        card.name if card is not None else "", author, f"{datetime.now(UTC):%d %B %Y}",
    ))  # fmt: skip
    return as_pdf(html) if suffix == ".pdf" else html.encode()


def _handed(path: Path) -> HandedFile:
    data = path.read_bytes()
    return HandedFile(path.name, len(data), hashlib.sha256(data).hexdigest())
