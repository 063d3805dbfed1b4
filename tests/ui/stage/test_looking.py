"""Looking closer, driven by mouse and keyboard in the real window: section, measure, take apart,
views, compare, and the records behind it all."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from gondrel.ui.presenters.rows import chain_of_product
from tests.conftest import settle, wait_until

pytestmark = [pytest.mark.window, pytest.mark.slow]


def key(window: Any, which: Any, held: Any = None) -> None:

    window.stage.canvas.setFocus()
    QTest.keyClick(window.stage.canvas, which, held or Qt.KeyboardModifier.NoModifier)
    QTest.qWait(50)


def at(window: Any, point: Any, pane: int = 0) -> Any:

    x, y = window.stage.canvas.on_screen(pane, np.asarray(point, float)[None])[0]
    return QPoint(round(x), round(y))


def click(window: Any, where: Any) -> None:

    QTest.mouseClick(window.stage.canvas, Qt.MouseButton.LeftButton, pos=where)
    settle(window.session)


def drag(widget: Any, start: Any, by: tuple[int, int], held: Any = None) -> None:

    held = held or Qt.KeyboardModifier.NoModifier
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, held, start)
    for share in (0.25, 0.5, 0.75, 1.0):
        end = start + QPoint(round(by[0] * share), round(by[1] * share))
        left, there = Qt.MouseButton.LeftButton, QPointF(widget.mapToGlobal(end))
        moved = QMouseEvent(QEvent.Type.MouseMove, QPointF(end), there, left, left, held)
        QApplication.sendEvent(widget, moved)
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, held, end)
    QTest.qWait(50)


@pytest.fixture
def opened(window: Any, as1: str) -> Any:
    window.session.open_file(as1)
    wait_until(lambda: window.session.model is not None, 120)
    settle(window.session)
    wait_until(lambda: not window.stage.canvas.scenes[0].wanted, 60)
    return window


def caps(window: Any) -> dict[str, Any]:
    model = window.session.model
    return {model.product(cap.product).name: cap for cap in window.stage.canvas.scenes[0].caps}


def cut_at(window: Any, axis: str, height: float) -> None:
    """Type where the plane stands, as a user would."""

    if not window.session.sectioning.is_on:
        key(window, Qt.Key.Key_X)
    panel = window.stage.looking.section_panel
    wait_until(panel.isVisible, 10)
    QTest.mouseClick(panel.buttons[axis], Qt.MouseButton.LeftButton)
    panel.height_box.setFocus()
    panel.height_box.selectAll()
    sign = 1.0 if max(window.session.sectioning.plane.unit) > 0.5 else -1.0
    QTest.keyClicks(panel.height_box, f"{sign * height:g}")
    QTest.keyClick(panel.height_box, Qt.Key.Key_Return)
    settle(window.session)
    wait_until(lambda: bool(window.stage.canvas.scenes[0].caps), 60)


def test_a_section_is_worked_in(opened: Any) -> None:

    session, canvas = opened.session, opened.stage.canvas
    cut_at(opened, "x", 25.0)
    rod = caps(opened)["rod"]
    area = {s.product: s.area for s in session.sectioning.sections[0].placed}[rod.product]
    assert area == pytest.approx(math.pi * 25, rel=1e-9)
    assert "4,178.54 mm² in 5 bodies" in opened.stage.looking.section_panel.told.text()
    canvas.set_view("right" if session.sectioning.plane.unit[0] > 0 else "left")
    canvas.fit([rod.box])
    QTest.qWait(400)
    middle = rod.in_whole(np.array([rod.mesh.points.mean(axis=0)]))[0] + np.array([0.0, 1.5, 1.5])
    QTest.mouseMove(canvas, at(opened, middle))
    wait_until(lambda: "rod" in opened.stage.line.text(), 10)
    assert "plane, 78.5398 mm²" in opened.stage.line.text()
    click(opened, at(opened, middle))
    assert session.selected_products() == (rod.product,) and rod.is_selected
    _, hit = canvas.pick(
        opened.stage.canvas.mapFromGlobal(canvas.mapToGlobal(at(opened, middle))).toPointF()
    )
    assert hit is not None and hit.placed is rod and hit.point[0] == pytest.approx(25.0, abs=1e-4)
    key(opened, Qt.Key.Key_M)
    click(opened, at(opened, middle))
    assert session.measuring.measured.sizes[0].area == pytest.approx(math.pi * 25, rel=1e-9)
    key(opened, Qt.Key.Key_M)
    before = session.sectioning.height
    key(opened, Qt.Key.Key_BracketRight)
    assert session.sectioning.height > before
    handle = opened.stage.looking.handle
    held = session.sectioning.height
    canvas.set_view("home")
    QTest.qWait(400)
    drag(handle, handle.rect().center(), (30, 10))
    settle(session)
    assert session.sectioning.height != pytest.approx(held)
    key(opened, Qt.Key.Key_X)
    assert not session.sectioning.is_on and not canvas.scenes[0].caps


def test_nothing_that_is_cut_away_is_picked(opened: Any) -> None:

    canvas, session = opened.stage.canvas, opened.session
    cut_at(opened, "z", 10.0)
    canvas.set_view("top" if session.sectioning.plane.unit[2] > 0 else "below")
    QTest.qWait(300)
    ends = np.array([canvas.width() / 2, canvas.height() / 2])

    seen = 0
    for x in range(-150, 151, 30):
        for y in range(-150, 151, 30):
            _, hit = canvas.pick(QPointF(ends[0] + x, ends[1] + y))
            if hit is not None:
                seen += 1
                inside = session.sectioning.shown.taken(
                    np.array([hit.point]) - 1e-4 * session.sectioning.plane.unit
                )
                assert not inside[0]
    assert seen > 10
    session.sectioning.add_plane()
    settle(session)
    assert canvas.scenes[0].opening.is_corner and len(session.sectioning.cut.planes) == 2
    opened.stage.looking.cut_to_box()
    settle(session)
    assert session.sectioning.cut.keeps_within
    session.sectioning.drop_plane()
    assert len(session.sectioning.cut.planes) == 1


def test_hatching_differs_where_parts_touch_and_screws_stay_whole(opened: Any) -> None:
    session = opened.session
    cut_at(opened, "x", 25.0)
    view = opened.stage.looking.sections
    placed = session.sectioning.sections[0].placed
    scene = opened.stage.canvas.scenes[0]
    made = view._hatches(0, list(zip(placed, scene.caps, strict=True)))
    names = {session.model.product(s.product).name: made[s.path, s.body] for s in placed}
    assert names["plate"] != names["l-bracket"] and names["bolt"] != names["l-bracket"]
    assert names["bolt"] != names["nut"]
    before = {c.product for c in scene.caps}
    panel = opened.stage.looking.section_panel
    panel.whole.click()
    settle(session)
    wait_until(lambda: bool(opened.stage.canvas.scenes[0].caps), 60)
    left = {
        session.model.product(p).name
        for p in before - {c.product for c in opened.stage.canvas.scenes[0].caps}
    }
    assert "bolt" in left and "plate" not in left
    wholes = {
        session.model.product(p.product).name for p in opened.stage.canvas.scenes[0].placed if p.is_whole
    }
    assert "bolt" in wholes


def test_the_outline_goes_out(opened: Any, tmp_path: Path) -> None:
    import ezdxf

    cut_at(opened, "x", 25.0)
    path = tmp_path / "middle.dxf"
    opened.session.sectioning.save_outline(str(path))
    settle(opened.session)
    drawing = ezdxf.readfile(path)
    arcs = [c for c in drawing.modelspace() if c.dxf.layer == "rod"]
    assert {arc.dxftype() for arc in arcs} <= {"CIRCLE", "ARC"}
    assert [arc.dxf.radius for arc in arcs] == pytest.approx([5.0] * len(arcs), rel=1e-9)


def test_measures_by_clicking(opened: Any) -> None:

    session, canvas = opened.session, opened.stage.canvas
    key(opened, Qt.Key.Key_M)
    panel = opened.stage.looking.measure_panel
    assert panel.isVisible()
    canvas.set_view("top")
    QTest.qWait(400)
    plate = next(p for p in canvas.scenes[0].placed if session.model.product(p.product).name == "plate")
    corner = plate.box[1].copy()
    corner[:2] -= 12
    click(opened, at(opened, corner))
    assert session.measuring.things[0].kind == "face"
    assert panel.values["area"].endswith("cm²") or panel.values["area"].endswith("mm²")
    canvas.set_view("front")
    QTest.qWait(400)
    side = plate.box.mean(axis=0)
    side[1] = plate.box[0][1]
    click(opened, at(opened, side))
    assert len(session.measuring.things) == 2 and panel.values["angle"] == "90°"
    assert panel.values["distance"] == "0.000 mm"
    assert opened.stage.looking.dimensions.isVisible()

    def shown() -> list[QPushButton]:
        return [b for b in panel.findChildren(QPushButton) if b.text() == "90°" and b.isVisible()]

    QTest.qWait(200)  # the row is laid out
    wait_until(lambda: bool(shown()), 10)
    figures = [b for b in panel.findChildren(QPushButton) if b.isVisible()]
    assert all(b.width() >= b.sizeHint().width() for b in figures), "a figure is cut off"

    def copied() -> bool:
        QTest.mouseClick(shown()[-1], Qt.MouseButton.LeftButton)
        return QApplication.clipboard().text() == "90°"

    wait_until(copied, 10)  # the first click now and then does not arrive here; why is not known
    assert QApplication.clipboard().text() == "90°"
    session.measuring.forget()
    click(opened, at(opened, side))
    opened.stage.looking._measure_wall()
    settle(session)
    assert session.measuring.wall is not None and session.measuring.wall.least is not None
    assert "wall here" in panel.values


def test_taken_apart_and_kept_as_a_view(opened: Any, tmp_path: Path) -> None:

    session, scene = opened.session, opened.stage.canvas.scenes[0]
    homes = {id(p): p.matrix.copy() for p in scene.placed}
    key(opened, Qt.Key.Key_E)
    settle(session)
    wait_until(lambda: session.exploding.explosion is not None, 60)
    moved = [p for p in scene.placed if not np.allclose(p.matrix, homes[id(p)])]
    assert moved and opened.stage.looking.explode_panel.isVisible()
    slider = opened.stage.looking.explode_panel.slider
    slider.setFocus()
    QTest.keyClick(slider, Qt.Key.Key_Home)
    assert all(np.allclose(p.matrix, homes[id(p)]) for p in scene.placed)
    QTest.keyClick(slider, Qt.Key.Key_End)
    assert session.exploding.spread == 1.0
    placements = [use.placement for _, use in session.model.occurrences()]
    opened.stage.canvas.fit()
    QTest.qWait(300)
    nut = next(p for p in scene.placed if session.model.product(p.product).name == "l-bracket")
    drawn = nut.matrix.copy()
    where = at(opened, nut.box.mean(axis=0))
    _, hit = opened.stage.canvas.pick(where.toPointF())
    if hit is not None:
        drag(opened.stage.canvas, where, (40, -40), Qt.KeyboardModifier.AltModifier)
        assert session.exploding.own
        assert not np.allclose(hit.placed.matrix, drawn) or hit.placed is not nut
    assert [use.placement for _, use in session.model.occurrences()] == placements
    key(opened, Qt.Key.Key_V, Qt.KeyboardModifier.ShiftModifier)
    (view,) = session.crossing.views
    assert view.spread == 1.0
    key(opened, Qt.Key.Key_E)
    assert not session.exploding.is_on
    key(opened, Qt.Key.Key_V)
    page = opened.pages["views"]
    page.list.setCurrentRow(0)
    session.viewing.rename("View 1", "All apart")
    session.viewing.show("All apart")
    assert session.exploding.is_on and session.exploding.spread == 1.0
    path = tmp_path / "kept.crossing"
    session.persistence.save(path)
    settle(session)
    session.open_file(str(path))
    settle(session)
    assert [v.name for v in session.crossing.views] == ["All apart"]


def test_what_differs_from_another_file(opened: Any, as1: str) -> None:

    session = opened.session
    key(opened, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    page = opened.pages["compare"]
    wait_until(page.isVisible, 10)
    session.comparing.with_file(as1)
    settle(session)
    assert "0 parts changed" in page.said.text() and opened.stage.canvas.two
    page.way_buttons["overlay"].click()
    settle(session)
    assert session.comparison.captions[1] == "BOTH"
    assert opened.stage.looking.buttons["compare"].isChecked()
    page.close()
    assert not opened.stage.looking.buttons["compare"].isChecked()
    assert session.comparison is None and not opened.stage.canvas.two


def test_the_record_behind_a_picked_face_and_edge(opened: Any) -> None:
    session, canvas = opened.session, opened.stage.canvas
    canvas.set_view("top")
    QTest.qWait(400)
    plate = next(p for p in canvas.scenes[0].placed if session.model.product(p.product).name == "plate")
    corner = plate.box[1].copy()
    corner[:2] -= 12
    where = at(opened, corner)
    click(opened, where)
    click(opened, where)
    assert session.checking.picked_face is not None
    key(opened, Qt.Key.Key_R)
    settle(session)
    page = opened.pages["record"]
    assert session.sourcing.view.type == "ADVANCED_FACE" and page.text.toPlainText().startswith("#")
    assert "line" in page.title.text()
    number = session.sourcing.view.number
    page.refers.itemActivated.emit(page.refers.item(0))
    settle(session)
    assert session.sourcing.view.number != number
    page.previous.click()
    settle(session)
    assert session.sourcing.view.number == number
    corner = plate.box[1].copy()
    corner[:2] -= 1.0, 12.0  # beside the edge at the right
    where = at(opened, corner)
    click(opened, where)
    assert session.checking.picked_face is None
    page.of_selection.click()
    settle(session)
    assert session.sourcing.view.type == "EDGE_CURVE"
    page.search.setFocus()
    QTest.keyClicks(page.search, "PLANE")
    QTest.keyClick(page.search, Qt.Key.Key_Return)
    settle(session)
    assert page.found.count() > 10


def test_a_picture_with_a_scale_bar_and_a_clear_ground(opened: Any, tmp_path: Path) -> None:
    from PySide6.QtGui import QImage

    key(opened, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    page = opened.pages["picture"]
    page.clear.setChecked(True)
    page.write(str(tmp_path / "clear.png"))
    page.clear.setChecked(False)
    page.scale.setChecked(False)
    page.write(str(tmp_path / "plain.png"))
    clear, plain = (QImage(str(tmp_path / f"{name}.png")) for name in ("clear", "plain"))
    corner = QPoint(clear.width() - 3, 3)
    assert clear.pixelColor(corner).alpha() == 0 and plain.pixelColor(corner).alpha() == 255
    middle = QPoint(clear.width() // 2, clear.height() // 2)
    assert clear.pixelColor(middle).alpha() == 255
    foot = QPoint(20, clear.height() - 22)
    assert clear.pixelColor(foot).alpha() > 0


def test_the_bar_has_the_length_it_says(opened: Any) -> None:
    from gondrel.ui.stage.snapshot import scale_length

    assert [scale_length(h) for h in (1.0, 10.0, 46.0, 100.0, 1234.5)] == pytest.approx(
        [0.2, 2.0, 10.0, 20.0, 200.0]
    )


def test_another_axis_is_up(opened: Any) -> None:
    for up in ("y", "x", "z"):
        opened.settings.change(up=up)
        opened.stage.canvas.set_view("front")
        wanted = {"x": (1, 0, 0), "y": (0, 1, 0), "z": (0, 0, 1)}[up]
        assert opened.stage.canvas.camera.GetViewUp() == pytest.approx(wanted)


def test_what_is_idle_is_checked_by_itself(opened: Any) -> None:
    assert opened.session.checking.report is None
    opened.settings.change(checks_idle=True)
    opened.session.checking._idle.start(10)
    wait_until(lambda: opened.session.checking.report is not None, 90)


def test_work_that_needs_more_memory_than_is_allowed_is_ended(opened: Any) -> None:
    session = opened.session
    opened.show_settings()
    page = opened.pages["settings"]
    assert "measuring" in page.used.text() and min(session.tasks.memory()) > 10
    page.memory.setValue(1)
    assert opened.settings.now.memory == 1
    session.run_job("tests.jobs.test_worker:gorge", (), "trying", lambda _: None)
    settle(session)
    assert session.error is not None and "1000 MB allowed" in session.error.message
    page.memory.setValue(0)
    assert session.model is not None


def test_progress_stands_over_the_tray_of_the_section(opened: Any) -> None:
    key(opened, Qt.Key.Key_X)
    settle(opened.session)
    opened.session.run_job("tests.jobs.test_worker:hang", (), "waiting", lambda _: None)
    wait_until(opened.work.isVisible, 20)
    tray = opened.stage.looking.section_panel
    bottom = opened.work.mapTo(opened, opened.work.rect().bottomLeft()).y()
    assert bottom < tray.mapTo(opened, tray.rect().topLeft()).y()
    opened.session.tasks.cancel()
    settle(opened.session)


def test_manifest_and_sheet_keep_their_widths(window: Any) -> None:
    handle = window.split.handle(1)
    before = window.split.sizes()
    drag(handle, QPoint(2, 100), (60, 0))
    wait_until(lambda: window.settings.now.widths != (), 10)
    assert window.settings.now.widths[0] > before[0] + 30 and window.settings.now.widths == tuple(
        window.split.sizes()
    )


def test_tables_of_measures_and_walls_in_the_picture(opened: Any, tmp_path: Path) -> None:
    session = opened.session
    key(opened, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    page = opened.pages["measures"]
    QTest.mouseClick(page.ask, Qt.MouseButton.LeftButton)
    settle(session)
    rows = [page.tables["holes"].topLevelItem(n) for n in range(page.tables["holes"].topLevelItemCount())]
    told = {
        row.text(0): (row.text(1), row.text(2), row.text(4))
        for row in rows
        if row.text(0) in ("plate", "nut")
    }
    assert told == {"plate": ("6", "⌀ 10.000 mm", "6"), "nut": ("1", "⌀ 10.000 mm", "8")}
    page.write(str(tmp_path / "holes.csv"))
    assert "10.000 mm" in (tmp_path / "holes.csv").read_text("utf-8")
    page.show_kind("mass")
    page.measure()
    settle(session)
    assert page.tables["mass"].topLevelItem(0).text(1) == "not measured"
    page.show_kind("close")
    page.measure()
    settle(session)
    assert page.tables["close"].topLevelItemCount() > 10
    page.show_kind("walls")
    QTest.mouseClick(page.picture, Qt.MouseButton.LeftButton)
    settle(session)
    wait_until(lambda: bool(session.sizing.walled), 60)
    legend = opened.stage.legend
    assert legend.isVisible() and legend.title == "Walls" and legend.lines[0].startswith("thinnest")
    QTest.mouseClick(page.picture, Qt.MouseButton.LeftButton)
    assert not legend.isVisible() and not opened.stage.canvas.scenes[0].fields


def test_parts_are_found_by_size(opened: Any) -> None:
    line = opened.manifest.filter
    line.setFocus()
    QTest.keyClicks(line, "bore:10")
    settle(opened.session)
    model = opened.session.model
    wait_until(lambda: "bore:10" in opened.session.sizing.fits, 60)
    names = {model.product(key).name for key in opened.session.sizing.fits["bore:10"]}
    assert names == {"nut", "plate", "l-bracket"}
    assert "1 of" not in opened.manifest.empty.text()


def test_the_structure_of_a_large_file_comes_first(window: Any, as1: str, monkeypatch: Any) -> None:
    from gondrel.ui.session import receiving

    monkeypatch.setattr(receiving, "_LARGE", 1)
    session, seen = window.session, []
    session.model_changed.connect(
        lambda: seen.append(
            (
                session.is_preview,
                session.model is not None
                and sum(len(p.bodies) + (p.unread is not None) for p in session.model.products),
            )
        )
    )
    edited: list[bool] = []

    def look() -> None:
        if session.is_preview and not edited:
            edited.append(session.edit(lambda model: ("Nothing", model)))
            edited.append(window.ledger is not None)

    session.model_changed.connect(look)
    session.open_file(as1)
    wait_until(lambda: session.model is not None and not session.is_preview and not session.loading, 120)
    settle(session)
    assert seen[-1] == (False, 5)
    if edited:
        assert edited[0] is False, "nothing can be done with a structure alone"
    previews = [bodies for is_preview, bodies in seen if is_preview]
    assert previews in ([], [0], [0, 5]), "structure first, then boxes"
    window.session.tasks.cancel()


def sheet_buttons(window: Any) -> dict[str, Any]:
    return {b.text(): b for b in window.receive.findChildren(QPushButton) if b.isVisible()}


def bodies_cell(window: Any) -> str:
    return next((cell.verdict for cell in window.ledger.cells if cell.thing == "bodies"), "")


def test_shapes_come_when_they_are_asked_for(window: Any, as1: str, monkeypatch: Any) -> None:
    from gondrel.core.model.later import is_stand_in
    from gondrel.ui.session import receiving

    monkeypatch.setattr(receiving, "_VERY_LARGE", 1)
    session, stage = window.session, window.stage
    session.open_file(as1)
    wait_until(lambda: session.model is not None and not session.loading, 120)
    settle(session)
    scene = stage.canvas.scenes[0]
    wait_until(lambda: len(scene.placed) == 18, 30)
    assert all(is_stand_in(p.body.id) for p in scene.placed), "boxes stand for everything"
    assert "5 parts not loaded" in stage.captions[0].text()
    wait_until(lambda: bodies_cell(window) == "lost", 60)  # what is not loaded is never carried
    wait_until(lambda: {"Load all", "Selected", "Listed"} <= set(sheet_buttons(window)), 10)

    nut = next(p for p in session.model.products if p.name == "nut")
    session.select((chain_of_product(nut.id),))
    wait_until(
        lambda: len(session.loading_shapes.waiting) == 4 and not session.loading_shapes.is_running, 60
    )
    wait_until(lambda: sum(not is_stand_in(p.body.id) for p in scene.placed) == 8, 30)
    assert not session.crossing.history.can_undo, "loading is no edit"

    wait_until(lambda: "Load all" in sheet_buttons(window), 10)
    QTest.mouseClick(sheet_buttons(window)["Load all"], Qt.MouseButton.LeftButton)
    wait_until(lambda: not session.loading_shapes.waiting and not session.loading_shapes.is_running, 60)
    settle(session)
    wait_until(lambda: not any(is_stand_in(p.body.id) for p in scene.placed), 30)
    assert len(scene.placed) == 18 and "not loaded" not in stage.captions[0].text()
    wait_until(lambda: bodies_cell(window) == "carried", 60)
    wait_until(lambda: "Load all" not in sheet_buttons(window), 10)


def test_a_file_that_was_read_before_opens_at_once(window: Any, as1: str) -> None:
    from gondrel.core.work.files import cache_folder

    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None and not session.loading, 120)
    settle(session)
    wait_until(lambda: (cache_folder() / "sources").is_dir() and not session.tasks.running, 60)
    first = session.model
    session.open_file(as1)
    wait_until(lambda: session.model is not first, 60)
    settle(session)
    assert session.model.products == first.products


def test_features_are_listed_and_shown_in_the_picture(opened: Any) -> None:
    from gondrel.ui.shell.measures_page import MeasuresPage

    session, canvas = opened.session, opened.stage.canvas
    opened.show_page("measures")
    page = opened.findChild(MeasuresPage)
    QTest.mouseClick(page.kind_buttons["features"], Qt.MouseButton.LeftButton)
    QTest.mouseClick(page.ask, Qt.MouseButton.LeftButton)
    wait_until(lambda: session.sizing.features is not None, 60)
    QTest.qWait(100)
    table = page.tables["features"]
    rows = [table.topLevelItem(n) for n in range(table.topLevelItemCount())]
    holes = [row for row in rows if row.text(0) == "plate" and row.text(2) == "hole"]
    assert [row.text(3) for row in holes] == ["diameter 10 mm, depth 20 mm"] * 6
    table.setCurrentItem(holes[0])
    QTest.mouseClick(
        table.viewport(), Qt.MouseButton.LeftButton, pos=table.visualItemRect(holes[0]).center()
    )
    QTest.qWait(200)
    faded = [p for p in canvas.scenes[0].placed if p.look is not None and p.look.opacity < 1.0]
    assert len(faded) == len(canvas.scenes[0].placed) - 1
    assert len(canvas._marks[0]) == 2, "both halves of the hole are marked"
    session.select((chain_of_product(session.model.roots[0]),))
    QTest.qWait(100)
    assert not any(p.look.opacity < 1.0 for p in canvas.scenes[0].placed), "all is there again"
    page.close()
