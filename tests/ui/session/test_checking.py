"""Check and Mend in the window: run, filter, fly to a finding; look at a mend, keep it, undo it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from gondrel.core.kernel.base.shape import faces_of, moved_copy, shape_to_blob
from gondrel.core.kernel.examples.broken import cylinder_as_spline, solid_of
from gondrel.core.kernel.examples.flawed import with_ledge
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model.findings import Severity
from gondrel.core.model.store import BlobStore
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from gondrel.ui.scene.camera import project
from gondrel.ui.session.session import RETURNED
from gondrel.ui.stage.finding_pointer import severity_colour
from gondrel.ui.widgets.theme import verdict_colour
from tests.conftest import settle, wait_until
from tests.core.mends.test_mends import hemisphere, model_of

LEFT = Qt.MouseButton.LeftButton

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


def _bell(tmp_path: Path) -> str:
    store = str(tmp_path / "s")
    model = model_of(BlobStore(tmp_path / "s"), hemisphere(30.0), hemisphere(27.0))
    send(model, str(tmp_path / "bell.stp"), "step-ap242", settings_from({}), store)
    return str(tmp_path / "bell.stp")


def _checked(window, path: str) -> None:
    """Open a file and check it from the Mend station, by its main button."""
    session, sheet = window.session, window.mend
    session.open_file(path)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    session.go(2)
    wait_until(sheet.main.isVisible)
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: session.checking.report is not None)
    settle(session)


def _open_card(sheet, code: str) -> None:
    QTest.mouseClick(sheet.cards[code], LEFT)
    wait_until(lambda: code in sheet.looks)
    QTest.qWait(50)


def test_a_bell_of_two_surfaces_is_looked_at_kept_compared_and_undone(window, tmp_path: Path) -> None:
    """Volume between two half balls of 30 and 27 mm: 2/3 pi (R^3 - r^3)."""
    session, sheet = window.session, window.mend
    _checked(window, _bell(tmp_path))
    assert {"R103", "R104"} <= set(sheet.cards)
    _open_card(sheet, "R104")
    assert sheet.smooth.isVisible()
    received = session.model
    QTest.mouseClick(sheet.looks["R104"], LEFT)
    wait_until(lambda: session.checking.preview is not None)
    settle(session)
    assert session.model == received, "looking changes nothing"
    canvas = window.stage.canvas
    assert canvas.two and len(canvas.scenes[RETURNED].placed) == 1 and window.stage.is_mapped
    assert "IF MENDED" in window.stage.captions[1].text()
    assert sheet.main.text() == "Keep this mend" and sheet.second.text() == "Drop it"

    QTest.mouseClick(sheet.second, LEFT)
    settle(session)
    assert session.checking.preview is None and not canvas.two and session.model == received

    QTest.mouseClick(sheet.does["R104"], LEFT)
    wait_until(lambda: bool(session.checking.mended) and session.checking.report is not None)
    settle(session)
    ((_, body),) = session.model.bodies()
    wait_until(lambda: body.blob in session.facts)
    assert session.facts[body.blob].volume == pytest.approx(15324.688964, rel=1e-6)

    QTest.mouseClick(sheet.looks["before"], LEFT)
    settle(session)
    assert canvas.two and canvas.swapped, "what was before stands at the left"
    assert len(canvas.scenes[RETURNED].placed) == 2
    session.go(3)
    assert not canvas.two, "other stations show what they are for"
    session.go(2)
    settle(session)

    session.undo()
    settle(session)
    assert len(list(session.model.bodies())) == 2 and not session.checking.mended
    assert not canvas.two


def test_an_open_rim_is_drawn_and_seen_whole(window, tmp_path: Path) -> None:
    """A block without its top: its four open edges are marked, and all of them are in the picture."""
    session, sheet, canvas = window.session, window.check, window.stage.canvas
    whole = block(10, 20, 30)
    body = inspect_shape(whole)
    sides = [f for n, f in enumerate(faces_of(whole)) if body.middle_of(n)[2] < 29.0]
    store = BlobStore(tmp_path / "s")
    path = str(tmp_path / "open.stp")
    send(model_of(store, solid_of(sides)), path, "step-ap242", settings_from({}), str(tmp_path / "s"))
    _checked(window, path)
    session.go(1)
    sheet._open("T101")
    wait_until(lambda: "T101" in sheet.lists)
    sheet.lists["T101"].setCurrentRow(0)
    wait_until(window.stage.pointer.isVisible)
    assert len(canvas._marks[0]) == 4
    (placed,) = canvas.scenes[0].placed
    assert not placed.mesh.is_closed
    for corner in ((0, 0, 30), (10, 0, 30), (10, 20, 30), (0, 20, 30)):
        ((x, y),) = project(canvas.camera, np.array([corner], float), canvas.aspect(0))
        assert abs(x) < 1 and abs(y) < 1
    finding = sheet.lists["T101"].item(0).data(Qt.ItemDataRole.UserRole)
    assert len(finding.edges) == 4 and severity_colour(finding) == QColor(verdict_colour("lost"))
    session.go(0)
    wait_until(lambda: not window.stage.pointer.isVisible())


def test_what_is_under_the_pointer_is_lit(window, tmp_path: Path) -> None:
    """The side of a block lights up under the pointer, goes when the pointer leaves it, and on a turn."""
    session, stage = window.session, window.stage
    store = BlobStore(tmp_path / "s")
    path = str(tmp_path / "block.stp")
    send(model_of(store, block(20, 20, 20)), path, "step-ap242", settings_from({}), str(tmp_path / "s"))
    session.open_file(path)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    settle(session)
    canvas = stage.canvas
    middle = canvas.rect().center()
    QTest.mouseMove(canvas, middle - QPoint(0, 20))
    QTest.mouseMove(canvas, middle)
    wait_until(stage.outline.isVisible)
    assert len(stage.outline.lines) >= 4 and "plane" in stage.line.text()
    for line in stage.outline.lines:
        assert canvas.rect().contains(line.p1().toPoint())
    lit = list(stage.outline.lines)
    QTest.mouseMove(canvas, QPoint(8, 8))
    wait_until(lambda: not stage.outline.isVisible())
    QTest.mouseMove(canvas, middle)
    wait_until(stage.outline.isVisible)
    assert stage.outline.lines == lit
    canvas.turn(1, 0)
    assert not stage.outline.isVisible()


def test_one_finding_alone_is_mended_from_the_list(window, tmp_path: Path) -> None:
    """Two spline quarters that are cylinders; the first is mended, the second stays."""
    session, sheet = window.session, window.check
    store = BlobStore(tmp_path / "s")
    path = str(tmp_path / "quarters.stp")
    quarters = model_of(store, cylinder_as_spline(8.0, 20.0), cylinder_as_spline(5.0, 20.0))
    send(quarters, path, "step-ap242", settings_from({}), str(tmp_path / "s"))
    _checked(window, path)
    session.go(1)
    sheet._open("G405")
    wait_until(lambda: "G405" in sheet.lists)
    listed = sheet.lists["G405"]
    assert listed.count() == 2 and not sheet.one.isVisible()
    listed.setCurrentRow(1)
    wait_until(sheet.one.isVisible)
    QTest.qWait(50)
    QTest.mouseClick(sheet.one, LEFT)
    wait_until(lambda: session.checking.preview is not None)
    settle(session)
    assert session.station == 2 and [t.code for t in session.checking.preview.outcomes] == ["R110"]
    QTest.mouseClick(window.mend.main, LEFT)
    wait_until(lambda: bool(session.checking.mended) and session.checking.report is not None)
    settle(session)
    assert sum(f.code == "G405" for f in session.checking.report.findings) == 1


def test_a_picked_face_is_removed_when_kept(window, tmp_path: Path) -> None:
    session, sheet = window.session, window.mend
    bored = cut(block(20, 20, 10), cylinder(4, 30, at=(10, 10, -5)))
    wall = next(f.index for f in inspect_shape(bored).faces if f.kind == "cylinder")
    store = BlobStore(tmp_path / "s")
    path = str(tmp_path / "plate.stp")
    send(model_of(store, bored), path, "step-ap242", settings_from({}), str(tmp_path / "s"))
    _checked(window, path)
    ((_, body),) = session.model.bodies()
    session.checking.pick_face(body.id, wall)
    wait_until(lambda: "picked" in sheet.looks)
    QTest.qWait(50)
    QTest.mouseClick(sheet.looks["picked"], LEFT)
    wait_until(lambda: session.checking.preview is not None)
    settle(session)
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: bool(session.checking.mended))
    settle(session)
    ((_, body),) = session.model.bodies()
    assert session.facts[body.blob].volume == pytest.approx(4000.0, rel=1e-9)
    assert session.checking.picked_face is None


def test_limits_parts_and_the_saved_pages(window, tmp_path: Path, monkeypatch) -> None:
    session, sheet = window.session, window.check
    store = BlobStore(tmp_path / "s")
    model = model_of(store, block(10, 20, 30))
    ledge = replace(model.products[0], id="q", number="N-2", name="Ledge", bodies=())
    aside = moved_copy(with_ledge(0.006), (1, 0, 0, 50, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1))
    body = replace(model.products[0].bodies[0], id="c", blob=store.put(shape_to_blob(aside)))
    both = replace(model, products=(*model.products, replace(ledge, bodies=(body,))), roots=("p", "q"))
    path = str(tmp_path / "two.stp")
    send(both, path, "step-ap242", settings_from({}), str(tmp_path / "s"))
    session.open_file(path)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    session.go(1)
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: session.checking.report is not None)
    settle(session)
    assert sheet.parts is not None and sheet.parts.count() == 2
    assert sheet.parts.item(0).text().startswith("\u25d0 Ledge")
    assert "clean" in sheet.parts.item(1).text() and "26 examined" in sheet.parts.item(1).text()
    sheet.part_chosen.emit(str(sheet.parts.item(1).data(Qt.ItemDataRole.UserRole)))
    assert [session.model.product(p).name for p in session.selected_products()] == ["Part"]
    session.select(())

    sheet.more.setChecked(True)
    assert sheet.form.isVisible()
    line = sheet.form.lines["short"]
    line.setText("0.001")
    line.editingFinished.emit()
    wait_until(
        lambda: session.checking.report is not None and session.checking.report.limits.short == 0.001
    )
    settle(session)
    assert session.checking.report.count(Severity.DOUBT) == 0

    for name, telling in (("f.html", "Sound"), ("f.json", '"findings"'), ("f.pdf", "%PDF")):
        target = tmp_path / name
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, t=target, **k: (str(t), ""))
        QTest.mouseClick(sheet.save, LEFT)
        wait_until(target.exists, 20)
        assert telling.lower() in target.read_bytes()[:20_000].decode("latin-1").lower()


def test_the_next_step_is_the_one_that_helps(window, tmp_path: Path, as1: str) -> None:
    """A model with doubts leads to Mend, a clean one to Send."""
    session, sheet = window.session, window.check
    for path, station in ((_bell(tmp_path), 2), (as1, 4)):
        session.open_file(path)
        wait_until(
            lambda p=path: session.card is not None and session.card.path == p and not session.tasks.running
        )
        session.go(1)
        settle(session)
        QTest.mouseClick(sheet.main, LEFT)
        wait_until(lambda: session.checking.report is not None)
        settle(session)
        QTest.mouseClick(sheet.main, LEFT)
        assert session.station == station
