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


def test_a_bell_of_two_surfaces_is_mended_and_undone(window, tmp_path: Path) -> None:
    from gondrel.core.model.store import BlobStore
    from gondrel.core.service.send import send, settings_from
    from tests.core.mends.test_mends import hemisphere, model_of

    session, sheet = window.session, window.mend
    model = model_of(BlobStore(tmp_path / "s"), hemisphere(30.0), hemisphere(27.0))
    send(model, str(tmp_path / "bell.stp"), "step-ap242", settings_from({}), str(tmp_path / "s"))
    session.open_file(str(tmp_path / "bell.stp"))
    wait_until(lambda: session.model is not None and not session.tasks.running)
    session.go(2)
    QTest.mouseClick(sheet.main, Qt.MouseButton.LeftButton)
    wait_until(lambda: session.checking.report is not None and sheet.all.isVisible())
    QTest.mouseClick(sheet.all, Qt.MouseButton.LeftButton)
    wait_until(lambda: bool(session.checking.mended) and session.checking.report is not None)
    wait_until(lambda: not session.tasks.running)
    ((_, body),) = session.model.bodies()
    wait_until(lambda: body.blob in session.facts)
    assert session.facts[body.blob].volume == pytest.approx(15324.688964, rel=1e-6)
    session.undo()
    assert len(list(session.model.bodies())) == 2
