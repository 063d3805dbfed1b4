"""Drawings in and out, in the real window: looked at, resized, made into a part; views drawn and saved."""

import math

import ezdxf
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from gondrel.core.model.outline import PartOutline
from gondrel.core.sheet.dxf import to_dxf
from tests.conftest import wait_until
from tests.core.sheet.test_solving import bracket, bracket_area

pytestmark = [pytest.mark.window]


def press(widget, place: QPointF) -> None:
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=place.toPoint())


@pytest.fixture
def drawing(tmp_path):
    curves = bracket()
    path = tmp_path / "bracket.dxf"
    outlines = [
        PartOutline("Rim", "#0000FF", tuple(curves[:8])),
        PartOutline("Bores", "#FF0000", tuple(curves[8:])),
    ]
    path.write_bytes(to_dxf(outlines))
    return path


def test_a_drawing_becomes_a_part(window, drawing, tmp_path) -> None:
    session = window.session
    session.receiving.open_paths([str(drawing)])
    drafting = session.drafting
    wait_until(lambda: drafting.looked is not None)
    page = window.pages["drawing"]
    assert page.isVisible() and page.trees["regions"].topLevelItemCount() == 1
    canvas = page.canvas

    # a click on a curve leads to its size, the wheel comes nearer and F goes back
    press(canvas, canvas.place_of((40, 0)))
    assert page.tabs["sizes"].isChecked()
    item = page.trees["sizes"].currentItem()
    assert item.text(0) == "L1" and canvas.chosen == {0}
    before = canvas.scale
    place = canvas.place_of((40, 0))
    QApplication.sendEvent(canvas, QWheelEvent(
        place, canvas.mapToGlobal(place), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    ))  # fmt: skip
    assert canvas.scale > before and (canvas.place_of((40, 0)) - place).manhattanLength() < 1
    canvas.setFocus()
    QTest.keyClick(canvas, Qt.Key.Key_F)
    assert canvas.scale == pytest.approx(before)

    # a size typed where it stands; what holds is kept
    page._edit_size(item)
    editor = (
        page.trees["sizes"].findChild(type(window.manifest.filter), "qt_spinbox_lineedit")
        or QApplication.focusWidget()
    )
    QTest.keyClick(editor, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(editor, "94")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    wait_until(lambda: not drafting.is_busy and drafting.looked.solved is not None)
    area = bracket_area(110, 50, 10, 6, 16, 4)
    assert drafting.looked.profile.regions[0].area == pytest.approx(area, rel=1e-9)
    assert "free" in page.held.text()

    # what can't be had is told and taken back
    drafting.resize("L1", -3.0)
    wait_until(lambda: not drafting.is_busy)
    assert drafting.wish.changes == (("L1", 94.0),)

    page.making.deep.setValue(8.0)
    press(page.making.make, QPointF(page.making.make.rect().center()))
    wait_until(lambda: session.model is not None and not session.tasks.running, 60)
    (body,) = session.model.blobs()
    wait_until(lambda: body in session.facts)
    assert session.facts[body].volume == pytest.approx(8 * area, rel=1e-8)

    # a second one goes beside it, as a step that can be undone
    page.making.make.click()
    wait_until(lambda: len(session.model.products) == 2)
    session.undo()
    assert len(session.model.products) == 1
    out = tmp_path / "outline.dxf"
    drafting.write(str(out))
    wait_until(out.is_file)
    assert len(ezdxf.readfile(out).modelspace().query("CIRCLE")) == 2


def test_layers_and_relations_are_chosen(window, drawing) -> None:
    drafting = window.session.drafting
    window.session.open_file(str(drawing))
    wait_until(lambda: drafting.looked is not None)
    page = window.pages["drawing"]
    item = next(
        page.layers.topLevelItem(n) for n in range(2) if page.layers.topLevelItem(n).text(0) == "Bores"
    )
    item.setCheckState(0, Qt.CheckState.Unchecked)
    wait_until(lambda: not drafting.is_busy and len(drafting.looked.profile.curves) == 8)
    assert drafting.wish.layers == ("Rim",)
    page.show_tab("relations")
    first = page.trees["relations"].topLevelItem(0)
    first.setCheckState(0, Qt.CheckState.Unchecked)
    wait_until(lambda: not drafting.is_busy)
    assert drafting.wish.dropped == ("1",)


def test_a_drawing_is_pasted(window, drawing) -> None:
    QApplication.clipboard().setText(drawing.read_text())
    window.actions_by_key["paste-drawing"].trigger()
    wait_until(lambda: window.session.drafting.looked is not None)
    assert window.session.drafting.looked.profile.regions[0].area == pytest.approx(
        bracket_area(80, 50, 10, 6, 16, 4)
    )
    QApplication.clipboard().setText("no drawing")
    window.actions_by_key["paste-drawing"].trigger()
    assert window.session.drafting.pasted != "no drawing"


def test_what_is_no_drawing_is_told(window, tmp_path) -> None:
    path = tmp_path / "a.dxf"
    path.write_bytes(b"AC1032 and more")
    window.session.open_file(str(path))
    drafting = window.session.drafting
    wait_until(lambda: drafting.error is not None)
    assert "DWG" in window.pages["drawing"].told.text()


def test_views_are_drawn_and_saved(window, drawing, tmp_path) -> None:
    session = window.session
    session.open_file(str(drawing))
    wait_until(lambda: session.drafting.looked is not None)
    session.drafting.make()
    wait_until(lambda: session.model is not None and not session.tasks.running, 60)
    window.actions_by_key["draw"].trigger()
    page = window.pages["draw"]
    for name in ("left", "iso"):
        page.views[name].setChecked(False)
    press(page.draw, QPointF(page.draw.rect().center()))
    wait_until(lambda: session.plotting.drawing is not None and not session.plotting.is_busy, 60)
    front, top = session.plotting.drawing.views
    legs = 2 * (64 + 34) + 2 * math.pi * 5 + math.pi / 2 * (6 + 16) + 2 * math.pi * 4
    assert (front["name"], top["name"]) == ("front", "top")
    assert top["visible_length"] == pytest.approx(legs, rel=1e-9)
    out = tmp_path / "views.dxf"
    page.write(str(out))
    wait_until(out.is_file)
    assert len(ezdxf.readfile(out).modelspace().query("CIRCLE")) == 2
    page.curves.setCurrentIndex(1)
    page.curves.activated.emit(1)
    wait_until(lambda: not session.plotting.is_busy and session.plotting.drawing.deviation is not None, 60)


def test_a_feature_is_found_shown_changed_and_taken_back(window, as1) -> None:
    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None and not session.tasks.running, 60)
    window.actions_by_key["measures"].trigger()
    page = window.pages["measures"]
    press(page.kind_buttons["features"], QPointF(page.kind_buttons["features"].rect().center()))
    press(page.ask, QPointF(page.ask.rect().center()))
    wait_until(lambda: session.sizing.features is not None)
    table = page.tables["features"]
    items = [table.topLevelItem(n) for n in range(table.topLevelItemCount())]
    item = next(i for i in items if i.text(0) == "plate" and i.text(1) == "1")
    table.scrollToItem(item)
    press(table.viewport(), QPointF(table.visualItemRect(item).center()))
    assert page.change.isEnabled()
    press(page.change, QPointF(page.change.rect().center()))
    form = window.arrange.form
    wait_until(lambda: form.isVisible())
    assert form.inputs["changes"].text() == "1 diameter 10"
    before = volume_of(session, "plate")
    form.inputs["changes"].setText("1 diameter 12; 1 diameter 14")
    press(form.do, QPointF(form.do.rect().center()))
    wait_until(lambda: session.crossing.history.can_undo and not session.tasks.running)
    gone = math.pi * (49 - 25) * 20
    assert volume_of(session, "plate") == pytest.approx(before - gone, rel=1e-9)
    form.fill("rebuild", {"changes": "1 diameter 900"})
    session.undo()
    assert volume_of(session, "plate") == pytest.approx(before, rel=1e-12)

    page.measure()
    wait_until(lambda: session.sizing.features is not None)
    press(page.keep, QPointF(page.keep.rect().center()))
    plate = next(p for p in session.model.products if p.name == "plate")
    assert {d.key: d.value for d in plate.metadata}["Features: hole"] == 6


def volume_of(session, name: str) -> float:
    product = next(p for p in session.model.products if p.name == name)
    wait_until(lambda: all(b.blob in session.facts for b in product.bodies))
    return sum(session.facts[b.blob].volume for b in product.bodies)
