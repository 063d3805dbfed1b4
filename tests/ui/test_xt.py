"""Parasolid XT in the window: its one unit, its two forms, sent and received again."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.conftest import choose_in, wait_until

pytestmark = [pytest.mark.window, pytest.mark.slow]

LEFT = Qt.MouseButton.LeftButton


def idle(window) -> bool:
    return not window.session.tasks.running


def test_sent_as_xt_and_received_again(window, as1: str, tmp_path: Path) -> None:
    session, sheet = window.session, window.send_sheet
    session.open_file(as1)
    wait_until(lambda: session.model is not None and idle(window))
    session.go(4)
    QTest.qWait(100)
    choose_in(sheet.form.target, "xt-text")
    wait_until(lambda: session.forecast is not None and session.forecast.target == "Parasolid XT, text")
    wait_until(lambda: sheet.path.text().endswith(".x_t"))
    assert not sheet.form.unit.isEnabled() and sheet.form.unit.currentData() == "m"
    assert session.forecast.fate("structure") == "carried" and session.forecast.fate("units") == "altered"
    wait_until(
        lambda: any((c.thing, c.before, c.after) == ("units", "mm", "m") for c in window.ledger.cells)
    )

    choose_in(sheet.form.form, "placed")
    wait_until(lambda: session.forecast.target == "Parasolid XT, text, placed bodies")
    assert session.forecast.fate("structure") == "lost" and session.forecast.fate("bodies") == "carried"
    choose_in(sheet.form.form, "structure")
    wait_until(lambda: session.forecast.fate("structure") == "carried")

    out = tmp_path / "as1.x_t"
    sheet.path.setText(str(out))
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: session.sent is not None and session.station == 5)
    assert not session.sent.proof.unannounced and not session.sent.proof.false_alarms

    session.go(4)
    choose_in(sheet.form.target, "step-ap242")
    wait_until(lambda: sheet.form.unit.isEnabled())
    assert sheet.form.unit.currentData() == "mm", "the unit chosen before is there again"

    session.open_file(str(out))
    wait_until(lambda: session.model.provenance.file.format == "parasolid" and idle(window))
    texts = [label.text() for label in window.receive.findChildren(type(window.receive.title))]
    assert any("Parasolid XT 13006, text" in text for text in texts)
    assert len(list(session.model.bodies())) == 5
