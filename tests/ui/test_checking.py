"""The Check station in the window: run, filter, fly to a finding."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.conftest import wait_until

pytestmark = [pytest.mark.window, pytest.mark.slow]


def test_findings_are_listed_filtered_and_flown_to(window, as1: str, tmp_path: Path) -> None:
    session, sheet = window.session, window.check
    session.open_file(as1)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    session.go(1)
    sheet.limit.addItem("30 mm", "30")
    sheet.limit.setCurrentIndex(sheet.limit.count() - 1)
    QTest.mouseClick(sheet.main, Qt.MouseButton.LeftButton)
    wait_until(lambda: session.checking.report is not None and bool(sheet.pills))
    report = session.checking.report
    assert {f.code for f in report.findings} >= {"G301", "G302"}
    sheet._open("G301")
    wait_until(lambda: "G301" in sheet.lists)
    listed = sheet.lists["G301"]
    before = window.stage.canvas.camera.GetPosition()
    listed.setCurrentRow(0)
    wait_until(lambda: window.stage.pointer.isVisible())
    QTest.qWait(100)
    assert window.stage.canvas.camera.GetPosition() != before
    finding = listed.item(0).data(Qt.ItemDataRole.UserRole)
    assert session.focused == {finding.product}
    at = window.stage.pointer.place()
    assert abs(at.x() - window.stage.canvas.width() / 2) < 60, "what was flown to is in the middle"

    sheet._show(next(iter(sheet.pills)), False)
    session.go(0)
    assert not window.stage.pointer.isVisible()
    session.edit(lambda model: ("Touch", model.with_product(model.products[0])))
    assert session.checking.report is not None, "the same model is not checked anew"
