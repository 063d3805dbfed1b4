"""The first crossing in a real window."""

from __future__ import annotations

import os
import signal
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from gondrel.ui.session.session import RECEIVED, RETURNED
from tests.conftest import choose_in, settle, wait_until

pytestmark = [pytest.mark.slow, pytest.mark.window]


def test_receive_send_prove_drill_down(window, as1: str, tmp_path: Path) -> None:
    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(session)
    assert len(window.stage.canvas.scenes[RECEIVED].placed) == 18
    assert window.receive.main.text() == "Go on to Send"
    picture = window.stage.canvas.grabFramebuffer()
    colours = {picture.pixelColor(x, y).name() for x in range(60, 600, 7) for y in range(60, 520, 7)}
    assert len(colours) > 40, "there is a model in the picture"

    QTest.mouseClick(window.receive.main, Qt.MouseButton.LeftButton)
    assert session.station == 4
    choose_in(window.send_sheet.form.target, "step-ap203")
    wait_until(lambda: session.forecast is not None and session.forecast.target == "STEP AP203")
    window.send_sheet.path.setText(str(tmp_path / "out.stp"))
    QTest.mouseClick(window.send_sheet.main, Qt.MouseButton.LeftButton)
    wait_until(lambda: session.sent is not None, 60)
    settle(session)
    wait_until(lambda: session.station == 5)
    wait_until(lambda: window.stage.canvas.two)
    assert len(window.stage.canvas.scenes[RETURNED].placed) == 18
    cells = {c.thing: c for c in window.ledger.cells}
    assert (cells["colours"].before, cells["colours"].after, cells["colours"].verdict) == (
        "5", "0", "lost as announced"
    )  # fmt: skip
    index = [c.thing for c in window.ledger.cells].index("layers")
    spot = window.ledger.cell_rect(index).center().toPoint()
    QTest.mouseClick(window.ledger, Qt.MouseButton.LeftButton, pos=spot)
    assert window.ledger.current == "layers"
    assert session.focused

    saved = tmp_path / "as1.crossing"
    session.persistence.save(saved)
    wait_until(lambda: not session.persistence.busy)
    before = session.crossing
    session.persistence.load(saved)
    wait_until(lambda: not session.persistence.busy)
    settle(session)
    assert session.crossing == before


def test_selection_goes_both_ways_and_hiding_hides(window, as1: str) -> None:
    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(session)
    canvas = window.stage.canvas
    middle = QPoint(canvas.width() // 2, canvas.height() // 2)
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=middle)
    if not session.selection:
        QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=middle + QPoint(0, 40))
    assert len(session.selection) == 1
    assert len(window.manifest.tree.selectionModel().selectedRows()) == 1
    shown = sum(p.is_shown for p in canvas.scenes[0].placed)
    window.items.hide_selected()
    assert sum(p.is_shown for p in canvas.scenes[0].placed) < shown
    window.items.show_everything()
    window.manifest.filter.setText("bolt")
    assert window.manifest.rows.rowCount() == 1
    window.manifest.filter.setText("no such thing")
    assert "No item fits" in window.manifest.empty.text()


def test_a_killed_worker_leaves_the_open_crossing_whole(window, as1: str, demo_file: str) -> None:
    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(session)
    before = session.model
    session.receiving.receive(demo_file)
    QTest.qWait(150)
    os.kill(session.tasks.reader.pid, signal.SIGKILL)
    wait_until(lambda: session.error is not None, 30)
    assert "signal 9" in str(session.error)
    assert "paddle-winding-gear.stp" in str(session.error)
    assert session.model is before


def test_a_closed_window_hears_nothing_more(window, as1: str) -> None:
    from gondrel.ui.shell.application import open_window

    other = open_window(settings=window.settings)
    wait_until(lambda: other.stage is not None)
    other.session.open_file(as1)
    session = other.session
    other.close()
    assert not session.tasks.running
    session.mesh_ready.emit("a mesh that was said before the window closed")
    settle(window.session)
