"""Reports from the window: pictures of both sides, HTML and PDF, the proof as JSON."""

from __future__ import annotations

import json
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPdfWriter, QTextDocument
from PySide6.QtWidgets import QFileDialog

from gondrel.core.errors import GondrelError
from gondrel.core.model.store import write_whole
from gondrel.core.reports.contract import proof_object
from gondrel.core.reports.document import Picture, ReportSource, make_html
from gondrel.core.reports.findings import make_findings_html
from gondrel.ui.shell.host import Host
from gondrel.ui.widgets.theme import font

__all__ = ["ask_and_save", "html_of", "png_of", "save_findings", "save_proof", "save_report"]

_MARGIN_MM = 16.0
_DOTS = 96
"""Resolution at which sizes in the report's markup are taken; letters stay outlines."""


def ask_and_save(window: Host, kind: str) -> None:
    """Ask where to and save the report as html or pdf."""
    session = window.session
    if session.model is None:
        window.say("There is nothing to report on yet")
        return
    source = Path(session.sent.path) if session.sent else Path(session.crossing.name)
    proposal = str(source.with_name(f"{source.stem}-report.{kind}"))
    path, _ = QFileDialog.getSaveFileName(
        window.over(), "Save report", proposal, f"{kind.upper()} (*.{kind})"
    )
    if path:
        save_report(window, Path(path).with_suffix(f".{kind}"))


def save_report(window: Host, path: Path) -> bool:
    """Save the report as its suffix says, html or pdf. An error is told; True when it is saved."""
    html = html_of(window)
    try:
        write_whole(path, _pdf(html) if path.suffix == ".pdf" else html.encode("utf-8"))
    except GondrelError as error:
        window.session.tell_error(error)
        return False
    window.say(f"Saved {path.name}")
    return True


def html_of(window: Host) -> str:
    """The report of the open crossing as HTML."""
    session = window.session
    model, sent, kept = session.model, session.sent, window.settings.now
    assert model is not None
    return make_html(
        ReportSource(
            title=f"Crossing report: {session.crossing.name}",
            model=model,
            facts=session.facts,
            sent_path=sent.path if sent else "",
            sent_bytes=sent.bytes if sent else 0,
            forecast=sent.forecast if sent else session.forecast,
            proof=sent.proof if sent else None,
            pictures=_pictures(window),
            author=kept.author,
            organisation=kept.organisation,
            made=f"{datetime.now():%Y-%m-%d %H:%M}",
            problems=[str(error) for error in session.problems.values()],
            checked=session.checking.report,
            mended=session.checking.mended,
            views=session.crossing.views,
        ),
        session.figures,
    )


def save_findings(window: Host, path: Path) -> None:
    """Save what the checks found as the suffix says: html or pdf for people, json for programs.

    An error is told.
    """
    checking, model = window.session.checking, window.session.model
    if checking.report is None or model is None:
        window.say("Nothing was checked yet")
        return
    kept = window.settings.now
    made = f"{datetime.now():%Y-%m-%d %H:%M}"
    by = ", ".join(text for text in (kept.author, kept.organisation) if text)
    title = f"Findings: {window.session.crossing.name}"
    helps = {code: (each.why, each.cure) for code, each in checking.helps.items()}
    html = make_findings_html(title, model, checking.report, helps, f"{made}, {by}" if by else made)
    try:
        if path.suffix == ".json":
            write_whole(path, checking.as_json())
        else:
            write_whole(path, _pdf(html) if path.suffix == ".pdf" else html.encode("utf-8"))
    except GondrelError as error:
        window.session.tell_error(error)
        return
    window.say(f"Saved {path.name}")


def _pictures(window: Host) -> list[Picture]:
    if window.stage is None:
        return []
    captions = ["Received", "Returned"] if window.stage.canvas.two else ["Received"]
    images = window.stage.canvas.pictures()
    return [Picture(caption, png_of(image)) for caption, image in zip(captions, images, strict=True)]


def png_of(image: QImage) -> bytes:
    """A picture as the bytes of a PNG file."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]  # its stubs ask for bytes, it for text
    return bytes(data.data())


def _pdf(html: str) -> bytes:
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    margins = QMarginsF(_MARGIN_MM, _MARGIN_MM, _MARGIN_MM, _MARGIN_MM)
    writer.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4),
            QPageLayout.Orientation.Portrait,
            margins,
            QPageLayout.Unit.Millimeter,
        )
    )
    writer.setCreator("Gondrel")
    writer.setResolution(_DOTS)
    document = QTextDocument()
    document.setDefaultFont(font(13))
    document.documentLayout().setPaintDevice(writer)
    document.setHtml(html)
    document.print_(writer)
    buffer.close()
    return bytes(data.data())


def save_proof(window: Host) -> None:
    """Save the proof as JSON beside the sent file. An error is told."""
    sent = window.session.sent
    if sent is None:
        window.say("Nothing was sent yet")
        return
    path = Path(sent.path).with_suffix(".proof.json")
    try:
        write_whole(path, json.dumps(proof_object(sent.proof), indent=1).encode())
    except GondrelError as error:
        window.session.tell_error(error)
        return
    window.say(f"Saved {path.name}")
