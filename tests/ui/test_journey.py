"""The whole way by mouse and keyboard: demo, edit, undo, send twice, prove, report, save, reopen."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit

from gondrel.ui.presenters.cells import weighed
from gondrel.ui.session.session import RECEIVED, RETURNED
from tests.conftest import choose_in, settle, wait_until

pytestmark = [pytest.mark.slow, pytest.mark.window]

LEFT = Qt.MouseButton.LeftButton


def write(line: QLineEdit, text: str) -> None:
    """Type a text into a line, in place of what is there, and leave it with Enter."""
    line.setFocus()
    QTest.keyClick(line, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(line, text)
    QTest.keyClick(line, Qt.Key.Key_Return)
    QTest.qWait(50)


def press(window, key: Qt.Key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(window, key, modifier)
    QTest.qWait(60)


def click_row(window, name: str) -> None:
    """Click the first manifest row of this name."""
    rows, tree = window.manifest.rows, window.manifest.tree

    def look(parent):
        for place in range(rows.rowCount(parent)):
            index = rows.index(place, 0, parent)
            if rows.row_of(index).label == name:
                return index
            found = look(index)
            if found is not None:
                return found
        return None

    index = look(tree.rootIndex())
    assert index is not None, name
    tree.scrollTo(index)
    QTest.mouseClick(tree.viewport(), LEFT, pos=tree.visualRect(index).center())
    QTest.qWait(60)


def click_cell(window, thing: str) -> None:
    at = [c.thing for c in window.ledger.cells].index(thing)
    spot = window.ledger.cell_rect(at).center().toPoint()
    QTest.mouseClick(window.ledger, LEFT, pos=spot)
    QTest.qWait(120)


def colours_in(window, left: float, right: float) -> set[str]:
    """Colours of a strip of the picture, its ends as shares of its width."""
    picture = window.stage.canvas.grabFramebuffer()
    xs = range(int(picture.width() * left), int(picture.width() * right), 5)
    return {picture.pixelColor(x, y).name() for x in xs for y in range(60, picture.height() - 80, 5)}


def send(window, kind: str, path: Path) -> None:
    press(window, Qt.Key.Key_5)
    choose_in(window.send_sheet.form.target, kind)
    settle(window.session)
    write(window.send_sheet.path, str(path))
    before = window.session.sent
    QTest.mouseClick(window.send_sheet.main, LEFT)
    wait_until(lambda: window.session.sent is not before, 120)
    settle(window.session)


def test_the_whole_journey(window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    session = window.session
    gaps, last = [], [time.perf_counter()]

    def turn() -> None:
        now = time.perf_counter()
        gaps.append(now - last[0])
        last[0] = now

    watchdog = QTimer(interval=5)
    watchdog.timeout.connect(turn)
    watchdog.start()

    demo = next(
        b for b in window.stage.welcome.findChildren(type(window.receive.main)) if "demo" in b.text()
    )
    QTest.mouseClick(demo, LEFT)
    wait_until(lambda: session.model is not None, 120)
    settle(window.session)
    watchdog.stop()
    print(f"longest stalls while the demo came in: {sorted(gaps)[-3:]}")
    assert session.station == 0
    assert "paddle-winding-gear" in window.band.name
    assert len(window.stage.canvas.scenes[RECEIVED].placed) == 65
    assert len(colours_in(window, 0.1, 0.9)) > 60

    # edit a revision and a colour, undo one
    click_row(window, "Spur wheel 40 T")
    press(window, Qt.Key.Key_4)
    assert session.station == 3
    write(window.arrange.lines["revision"], "D")
    (wheel,) = session.selected_products()
    assert session.model.product(wheel).revision == "D"
    before = session.model.product(wheel).bodies[0].colour
    QTest.mouseClick(window.arrange.swatches[6], LEFT)
    settle(window.session)
    assert session.model.product(wheel).bodies[0].colour != before
    assert [s.name.split(" of ")[0] for s in session.crossing.history.steps[1:]] == [
        "Set revision",
        "Set colour",
    ]
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(window.session)
    assert session.model.product(wheel).bodies[0].colour == before
    assert session.model.product(wheel).revision == "D"
    assert session.selected_products() == (wheel,), "the selection outlives an edit"

    # send as AP214, then AP203; the forecast stands in the ledger before
    send(window, "step-ap214", tmp_path / "gear-214.stp")
    assert session.sent.proof.unannounced == ()
    assert session.station == 5
    press(window, Qt.Key.Key_5)
    choose_in(window.send_sheet.form.target, "step-ap203")
    settle(window.session)
    foreseen = {c.thing: c.verdict for c in window.ledger.cells if c.is_forecast}
    assert foreseen["colours"] == "lost"
    assert foreseen["bodies"] == "carried"
    click_cell(window, "layers")
    assert "LAYERS" in window.send_sheet.forecast_head.text()
    send(window, "step-ap203", tmp_path / "gear-203.stp")
    proved = {c.thing: c.verdict for c in window.ledger.cells}
    # what was announced is quiet; what AP203 demands of its own is read, and nothing remains
    as_said = {thing: weighed(fate, True) for thing, fate in foreseen.items()} | {"remainder": "unproved"}
    assert {thing: proved[thing] for thing in as_said} == as_said
    assert session.sent.proof.unannounced == ()

    # open a lost thing: manifest and both panes follow
    click_cell(window, "colours")
    assert window.ledger.current == "colours"
    assert window.prove.thing == "colours"
    assert session.focused
    assert session.focused_returned
    click_cell(window, "colours")
    assert not session.focused

    # swap the panes in place while Space is held
    assert window.stage.canvas.two
    coloured, grey = colours_in(window, 0.05, 0.45), colours_in(window, 0.55, 0.95)
    window.manifest.tree.setFocus()
    QTest.keyPress(window.manifest.tree, Qt.Key.Key_Space)
    wait_until(lambda: window.stage.canvas.swapped, 10)
    wait_until(lambda: len(colours_in(window, 0.05, 0.45)) < len(coloured), 20)
    QTest.keyRelease(window.manifest.tree, Qt.Key.Key_Space)
    QTest.qWait(200)
    assert not window.stage.canvas.swapped
    assert grey

    # deviation map with legend and probe
    window.actions_by_key["map"].trigger()
    QTest.qWait(200)
    assert window.stage.legend.isVisible()
    press(window, Qt.Key.Key_D)
    assert not window.stage.legend.isVisible()

    # report and crossing
    report, saved = tmp_path / "gear.html", tmp_path / "gear.crossing"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(report), ""))
    QTest.mouseClick(window.prove.main, LEFT)
    text = report.read_text()
    assert text.count("data:image/png;base64") == 2
    assert "Spur wheel 40 T" in text
    assert "announced" in text
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(saved), ""))
    click_row(window, "Rack bar")
    press(window, Qt.Key.Key_Delete)
    press(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    settle(window.session)
    assert saved.is_file()
    crossing, hidden = session.crossing, set(session.hidden)
    assert len(hidden) == 1

    session.open_file(str(saved))
    settle(window.session)
    assert session.crossing == crossing
    assert session.hidden == hidden
    assert session.model.product(wheel).revision == "D"
    assert session.crossing.history.can_redo
    assert window.stage.canvas.two
    assert len(window.stage.canvas.scenes[RETURNED].placed) == 65


def test_search_runs_commands_and_finds_items(window, demo_file: str) -> None:
    session = window.session
    session.open_file(demo_file)
    wait_until(lambda: session.model is not None, 60)
    settle(window.session)
    spot = window.band.search_rect().center().toPoint()
    QTest.mouseClick(window.band, LEFT, pos=spot)
    QTest.keyClicks(window.search.line, "rack bar")
    QTest.keyClick(window.search.line, Qt.Key.Key_Return)
    QTest.qWait(100)
    assert [session.model.product(p).name for p in session.selected_products()] == ["Rack bar"]
    press(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(window.search.line, "go to prove")
    QTest.keyClick(window.search.line, Qt.Key.Key_Return)
    assert session.station == 5
    press(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(window.search.line, "zzzz")
    assert window.search.none.isVisible()
    QTest.keyClick(window.search.line, Qt.Key.Key_Escape)
    assert not window.search.isVisible()


def test_isolate_see_through_and_show_everything(window, as1: str) -> None:
    session, canvas = window.session, window.stage.canvas
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(window.session)
    window.manifest.tree.expandAll()
    click_row(window, "rod")
    press(window, Qt.Key.Key_I)
    shown = [p for p in canvas.scenes[RECEIVED].placed if p.is_shown]
    assert {session.model.product(p.product).name for p in shown} == {"rod"}
    press(window, Qt.Key.Key_A)
    assert all(p.is_shown for p in canvas.scenes[RECEIVED].placed)
    press(window, Qt.Key.Key_T)
    faint = [p for p in canvas.scenes[RECEIVED].placed if p.drawn_colour[3] < 1]
    assert {session.model.product(p.product).name for p in faint} == {"rod"}
    press(window, Qt.Key.Key_T)
    assert all(p.drawn_colour[3] == 1 for p in canvas.scenes[RECEIVED].placed)


def test_a_second_click_tells_the_face_or_edge(window, as1: str) -> None:
    session, stage = window.session, window.stage
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(window.session)
    wait_until(lambda: bool(session.details), 60)
    canvas = stage.canvas
    found = None
    for x in range(40, canvas.width() - 40, 20):
        for y in range(60, canvas.height() - 100, 20):
            hit = canvas.pick(QPointF(x, y))[1]
            if hit is not None and stage._edge_near(hit) is None:
                found = QPoint(x, y)
                break
        if found:
            break
    assert found is not None
    QTest.mouseClick(canvas, LEFT, pos=found)
    assert stage.picked_part == ""
    QTest.mouseClick(canvas, LEFT, pos=found)
    assert "mm\u00b2" in stage.picked_part or "cm\u00b2" in stage.picked_part
    assert any(kind in stage.picked_part for kind in ("plane", "cylinder"))
    press(window, Qt.Key.Key_Escape)
    assert not session.selection


def test_views_turn_the_picture_and_parallel_holds_its_size(window, as1: str) -> None:
    import numpy as np

    from gondrel.ui.scene import camera as moves

    session, canvas = window.session, window.stage.canvas
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(window.session)
    views = window.stage.views
    for view, direction in (("front", (0, -1, 0)), ("top", (0, 0, 1)), ("left", (-1, 0, 0))):
        QTest.mouseClick(views, LEFT, pos=views.cell(view).center().toPoint())
        assert np.allclose(moves.axes(canvas.camera)[2], direction, atol=1e-6)
    middle = np.array(canvas.camera.GetFocalPoint())
    before = moves.height_at(canvas.camera, middle)
    press(window, Qt.Key.Key_P)
    assert canvas.camera.GetParallelProjection()
    assert moves.height_at(canvas.camera, middle) == pytest.approx(before, rel=1e-6)
    press(window, Qt.Key.Key_P)
    assert not canvas.camera.GetParallelProjection()
    assert moves.height_at(canvas.camera, middle) == pytest.approx(before, rel=1e-6)


def test_settings_are_kept_and_shown(window, as1: str) -> None:
    from gondrel.ui.session.settings import SettingsStore

    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(window.session)
    window.show_settings()
    page = window.pages["settings"]
    write(page.author, "M. Weir")
    page.unit.setCurrentIndex(1)
    page.theme.setCurrentIndex(1)
    QTest.qWait(200)
    assert session.send_settings().author == "M. Weir"

    def texts() -> list[str]:
        return [label.text() for label in window.receive.findChildren(type(window.stage.line))]

    wait_until(lambda: any("in\u00b3" in text for text in texts()))
    again = SettingsStore().now
    assert (again.author, again.shown_unit, again.theme) == ("M. Weir", "inch", "dark")
    picture = window.grab().toImage()
    assert picture.pixelColor(1200, 300).lightness() < 80
    page.theme.setCurrentIndex(0)
    QTest.qWait(200)
    assert window.grab().toImage().pixelColor(1200, 300).lightness() > 200


def test_an_error_stays_until_closed_and_can_be_copied(window, tmp_path: Path, as1: str) -> None:
    session = window.session
    bad = tmp_path / "cut.stp"
    bad.write_bytes(Path(as1).read_bytes()[:20000])
    session.open_file(str(bad))
    wait_until(lambda: window.error_notice.isVisible(), 60)
    assert "cut off" in window.error_notice.what.text()
    QTest.mouseClick(window.error_notice.copy, LEFT)
    assert "cut.stp" in QApplication.clipboard().text()
    window.show_log()
    assert "ERROR" in window.pages["log"].text.toPlainText()
    QTest.mouseClick(window.error_notice.shut, LEFT)
    assert not window.error_notice.isVisible()
    assert session.model is None
    assert window.stage.welcome.isVisible()


def test_columns_are_chosen_and_kept(window, demo_file: str) -> None:
    session, rows = window.session, window.manifest.rows
    session.open_file(demo_file)
    wait_until(lambda: session.model is not None, 60)
    settle(window.session)
    window.manifest._choose_column("mass", True)
    window.manifest._choose_column("material", True)
    assert rows.columns == ("item", "revision", "quantity", "material", "mass", "state")
    window.manifest.filter.setText("kind:solid material:steel")
    assert rows.rowCount() == 1
    window.manifest.filter.setText("")
    window.manifest.set_mode("flat")
    texts = [rows.index(r, rows.columns.index("mass")).data() for r in range(rows.rowCount())]
    assert any("kg" in text for text in texts)


def test_what_was_left_unsaved_is_offered_and_recovered(window, as1: str, tmp_path: Path) -> None:
    from gondrel.ui.session.persistence import state_folder

    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None, 60)
    settle(window.session)
    session.persistence.autosave()
    wait_until(lambda: not session.persistence.busy)
    ours = session.persistence.autosave_path()
    assert ours.is_file()
    lost = state_folder() / "autosave" / "bridge-1-999999999.crossing"
    lost.write_bytes(ours.read_bytes())

    from gondrel.ui.shell.application import open_window

    other = open_window(settings=window.settings)
    wait_until(lambda: other.stage is not None)
    assert [found.name for found in other.stage.welcome.lost] == ["bridge"]
    other.stage.welcome._recover(other.stage.welcome.lost[0])
    wait_until(lambda: other.session.model is not None, 60)
    wait_until(lambda: not lost.exists(), 30)
    assert other.session.crossing.name == "bridge"
    assert other.session.persistence.is_dirty
    assert other.session.model == session.model
    other.close()
    assert ours.exists(), "closing one window leaves the other's copy alone"


def test_closing_keeps_unsaved_work_and_nothing_else(window, as1: str) -> None:
    from gondrel.core.arrange.properties import set_text
    from gondrel.ui.session.persistence import state_folder
    from gondrel.ui.shell.application import open_window

    def kept() -> list[str]:
        return sorted(p.name.rsplit("-", 2)[0] for p in (state_folder() / "autosave").glob("*.crossing"))

    for edits in (False, True):
        other = open_window(settings=window.settings)
        wait_until(lambda o=other: o.stage is not None)
        other.session.open_file(as1)
        wait_until(lambda o=other: o.session.model is not None, 60)
        settle(other.session)
        if edits:
            root = other.session.model.roots[0]
            other.session.edit(lambda model, r=root: set_text(model, [r], "revision", "Z"))
            settle(other.session)
        other.close()
        assert kept() == (["as1-tu-203"] if edits else [])
