"""Arrange in the window: structure proposed and taken, a hole looked at, rows dragged, steps files."""

from __future__ import annotations

import io
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLineEdit

from gondrel.core.service.intake import receive_by
from gondrel.core.service.send import send
from gondrel.core.service.settings import receive_options_from, settings_from
from gondrel.ui.session.arranging import Picked
from gondrel.ui.session.session import RETURNED
from gondrel.ui.session.stations import Station
from tests.conftest import settle, wait_until

LEFT = Qt.MouseButton.LeftButton

pytestmark = [pytest.mark.window, pytest.mark.slow]


@pytest.fixture
def flat(as1: str, store_folder: str, tmp_path: Path) -> str:
    out = str(tmp_path / "flat.stp")
    model = receive_by(as1, store_folder, receive_options_from({"structure": "flat"}))
    send(model, out, "step-ap242", settings_from({}), store_folder)
    return out


def opened(window: Any, path: str) -> Any:
    session = window.session
    session.open_file(path)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    session.go(Station.ARRANGE)
    settle(session)
    return session


def recovered(window: Any, path: str) -> Any:
    session = opened(window, path)
    QTest.mouseClick(window.arrange.recover, LEFT)
    wait_until(lambda: window.arrange.table is not None)
    QTest.mouseClick(window.arrange.main, LEFT)
    wait_until(lambda: len(session.model.products) > 1)
    settle(session)
    return session


def choose(session: Any, name: str) -> Any:
    product = next(p for p in session.model.products if p.name == name)
    session.select(((frozenset({f"product:{product.id}"}),),))
    settle(session)
    return product


def write(line: QLineEdit, text: str) -> None:
    line.selectAll()
    QTest.keyClicks(line, text)


def test_structure_is_proposed_changed_ticked_and_taken(window, flat: str) -> None:
    session, sheet = opened(window, flat), window.arrange
    before = session.model
    QTest.mouseClick(sheet.recover, LEFT)
    wait_until(lambda: sheet.table is not None)
    table = sheet.table
    rows = {table.topLevelItem(i).text(0): table.topLevelItem(i) for i in range(table.topLevelItemCount())}
    assert {"nut", "bolt", "plate", "rod", "l-bracket"} <= set(rows)
    assert rows["nut"].text(1) == "8" and session.model is before, "nothing is done before it is taken"
    told = [rows["nut"].child(i).text(0) for i in range(rows["nut"].childCount())]
    assert any("8 places" in line for line in told)
    rows["plate"].setCheckState(0, Qt.CheckState.Unchecked)
    settle(session)
    table = sheet.table  # made anew by nothing that was ticked
    assert session.arranging.without
    wait_until(lambda: sheet.main.text() == "Take what is ticked")
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: len(session.model.products) > 1)
    settle(session)
    names = {p.name for p in session.model.products}
    assert {"nut", "bolt", "rod", "l-bracket"} <= names and "plate" not in names
    assert [b.name for p in session.model.products if p.name == "as1" for b in p.bodies] == ["plate"]
    session.undo()
    assert session.model == before


def test_a_hole_is_filled_in_by_a_pick_looked_at_kept_and_undone(window, flat: str) -> None:
    session = recovered(window, flat)
    plate = choose(session, "plate")
    form = window.arrange.form
    form.choose("hole")
    facts = session.facts[plate.bodies[0].blob]
    box = facts.bbox
    thin = min(range(3), key=lambda i: box[i + 3] - box[i])
    point = [box[i] + 9.0 for i in range(3)]
    point[thin] = box[thin + 3]
    normal = [0.0, 0.0, 0.0]
    normal[thin] = 1.0
    session.arranging.pick(
        Picked(plate.bodies[0].id, plate.id, "face", tuple(point), tuple(point), tuple(normal))
    )
    at, into = form.inputs["at"], form.inputs["into"]
    assert [float(v) for v in at.text().split(",")] == pytest.approx(point, abs=1e-4)
    assert [float(v) for v in into.text().split(",")] == [-v for v in normal]
    write(form.inputs["diameter"], "7")
    QTest.mouseClick(form.look, LEFT)
    wait_until(lambda: session.arranging.preview is not None)
    settle(session)
    assert session.model.product(plate.id) == plate, "nothing is changed before it is kept"
    assert window.stage.canvas.two and window.stage.canvas.scenes[RETURNED].placed
    wait_until(lambda: window.arrange.main.text() == "Keep it")
    QTest.mouseClick(window.arrange.main, LEFT)
    settle(session)
    after = session.facts[session.model.product(plate.id).bodies[0].blob]
    depth = box[thin + 3] - box[thin]
    assert facts.volume - after.volume == pytest.approx(math.pi * 3.5**2 * depth, rel=1e-6)
    session.undo()
    assert session.model.product(plate.id) == plate


def test_what_is_refused_is_told_and_wrong_figures_are_named(window, flat: str) -> None:
    session = recovered(window, flat)
    choose(session, "plate")
    form = window.arrange.form
    form.choose("hole")
    write(form.inputs["diameter"], "wide")
    QTest.mouseClick(form.do, LEFT)
    assert window.error_notice.isVisible() and "Diameter" in window.error_notice.what.text()
    write(form.inputs["diameter"], "5")
    write(form.inputs["at"], "9000, 0, 0")
    before = session.model
    QTest.mouseClick(form.do, LEFT)
    wait_until(lambda: session.arranging.refused is not None)
    settle(session)
    assert session.model is before and "meets no material" in session.arranging.refused.why


def test_a_row_dropped_on_an_assembly_goes_into_it(window, flat: str) -> None:
    session = recovered(window, flat)
    manifest = window.manifest
    root = manifest.rows.roots[0]
    manifest.tree.expandAll()
    rows = {row.product.name: row for row in root.children}
    rod = rows["rod"]
    session.select((rod.chain,))
    session.arranging.group("Rod set")
    settle(session)
    root = manifest.rows.roots[0]
    rows = {row.product.name: row for row in root.children}
    session.select((rows["plate"].chain,))
    settle(session)
    tree = manifest.tree
    index = manifest.rows.index_of(rows["Rod set"])
    tree.scrollTo(index)
    at = QPointF(tree.visualRect(index).center())
    drop = QDropEvent(at, Qt.DropAction.MoveAction, QMimeData(), LEFT, Qt.KeyboardModifier.NoModifier)
    tree.dropEvent(drop)
    settle(session)
    house = next(p for p in session.model.products if p.name == "Rod set")
    inside = {session.model.product(u.product).name for u in house.occurrences}
    assert inside == {"rod", "plate"}
    assert session.crossing.history.current.name == "Move a component into Rod set"


def test_steps_are_saved_and_run_on_the_next_file(
    window, flat: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = recovered(window, flat)
    choose(session, "bolt")
    window.arrange.form.choose("rename")
    write(window.arrange.form.inputs["pattern"], "Hex {name}")
    QTest.mouseClick(window.arrange.form.do, LEFT)
    wait_until(lambda: any(p.name == "Hex bolt" for p in session.model.products))
    settle(session)
    path = tmp_path / "steps.toml"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    session.select(())
    settle(session)
    QTest.mouseClick(window.arrange.save_steps, LEFT)
    assert path.read_text().count("do = ") == 2
    path.write_text(path.read_text() + '\n[[step]]\ndo = "delete"\nitems = { name = "gone" }\n')
    session.undo()
    session.undo()
    settle(session)
    assert len(session.model.products) == 1
    QTest.mouseClick(window.arrange.run_steps, LEFT)
    wait_until(lambda: any(p.name == "Hex bolt" for p in session.model.products))
    settle(session)
    assert [o.outcome for o in session.arranging.outcomes] == ["done", "done", "not applicable"]
    assert session.crossing.history.current.name == "Run steps.toml: 2 steps"


def test_a_filter_tells_what_is_left_while_it_is_typed(window, as1: str) -> None:
    session = opened(window, as1)
    form = window.arrange.form
    form.choose("keep")
    settle(session)
    assert form.left.isVisible() and form.left.text().startswith("Say which parts")
    write(form.inputs["names"], "nut, bolt")
    wait_until(lambda: form.left.text().startswith("Left: 2 parts of 5 in 14 places of 18"))
    assert "faces, a file of about" in form.left.text()
    write(form.inputs["names"], "nothing of that name")
    wait_until(lambda: form.left.text() == "No part fits.")
    form.inputs["names"].selectAll()
    QTest.keyClick(form.inputs["names"], Qt.Key.Key_Delete)
    box = form.inputs["visible"]
    QTest.mouseClick(box, LEFT, pos=QPoint(8, box.height() // 2))
    wait_until(lambda: form.left.text() == "Every part is kept: nothing would be cut.")
    write(form.inputs["names"], "plate")
    QTest.mouseClick(form.do, LEFT)
    wait_until(lambda: sum(bool(p.bodies) for p in session.model.products) == 1)


def test_a_component_is_aligned_by_two_picked_faces(window, as1: str) -> None:
    session = opened(window, as1)
    model = session.model
    plate, rod = (next(p for p in model.products if p.name == name) for name in ("plate", "rod"))
    form = window.arrange.form
    form.choose("align")
    form.inputs["how"].setCurrentIndex(form.inputs["how"].findData("axis"))
    for key, product in (("mine", rod), ("to", plate)):
        at = round_point(session, product)
        session.arranging.pick(Picked(product.bodies[0].id, product.id, "face", at, at, (0.0, 0.0, 1.0)))
        QTest.mouseClick(form.inputs[key], LEFT)
        assert product.name in form.inputs[key].text()
    QTest.mouseClick(form.do, LEFT)
    wait_until(lambda: session.crossing.history.can_undo)
    settle(session)
    assert session.crossing.history.current.name == "Align rod with its axis to plate"
    assert 'do = "align"' in session.arranging.scripts[-1]


def round_point(session: Any, product: Any) -> tuple[float, float, float]:
    """A point on a round face of a part, from its mesh."""
    body = product.bodies[0]
    kinds = session.details[body.blob].face_kinds
    with np.load(io.BytesIO(session.store.get_as(body.blob, "mesh"))) as mesh:
        first = mesh["triangles"][mesh["face_starts"][kinds.index("bspline")]]
        x, y, z = mesh["points"][first].astype(float).mean(axis=0)
    return x, y, z


def test_components_stay_here_and_stand_in_another_order(window, as1: str) -> None:
    session = opened(window, as1)
    manifest = window.manifest
    manifest.tree.expandAll()
    rows = {row.product.name: row for row in manifest.rows.roots[0].children}
    session.select((rows["plate"].chain,))
    settle(session)
    both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    QTest.keyClick(window, Qt.Key.Key_X, both)
    wait_until(lambda: any(use.left_out for _, use in session.model.occurrences()))
    settle(session)
    rows = {row.product.name: row for row in manifest.rows.roots[0].children}
    index = manifest.rows.index_of(rows["plate"])
    assert index.data() == "plate \u00b7 left out"
    session.select((rows["plate"].chain,))
    settle(session)
    before = [use.id for use in session.model.product(session.model.roots[0]).occurrences]
    last = rows["plate"].chain[-1]
    QTest.keyClick(window, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    settle(session)
    after = [use.id for use in session.model.product(session.model.roots[0]).occurrences]
    (moved,) = last
    assert sorted(before) == sorted(after) and after.index(moved) == before.index(moved) + 1
    session.go(Station.SEND)
    wait_until(lambda: session.forecast is not None and not session.tasks.running)
    assert session.forecast.remarks[0] == "Left out of what is sent, as chosen: plate."
