"""The Receive station in the window: choices, recipes, missing files, tethers, several files."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.recipes import recipes
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import shifted, small_assembly
from tests.conftest import wait_until
from tests.core.formats.meshes.shapes import cube
from tests.core.formats.meshes.test_solids import stl

pytestmark = [pytest.mark.window, pytest.mark.slow]

LEFT = Qt.MouseButton.LeftButton


def idle(window) -> bool:
    return not window.session.tasks.running


@pytest.fixture
def small(tmp_path: Path, store_folder: str) -> Path:
    path = tmp_path / "small.stp"
    model = small_assembly(BlobStore(Path(store_folder)))
    send(model, str(path), "step-ap242", settings_from({}), store_folder)
    return path


def _texts(window) -> str:
    kind = type(window.receive.title)
    return "\n".join(label.text() for label in window.receive.findChildren(kind))


def test_a_file_without_a_unit_asks_before_it_is_loaded(window, tmp_path) -> None:
    session, sheet = window.session, window.receive
    (tmp_path / "part.stl").write_bytes(stl(cube(2.0)))
    session.open_file(str(tmp_path / "part.stl"))
    wait_until(lambda: session.receiving.pending is not None and sheet.form is not None)
    assert session.model is None and "speaks for inch" in _texts(window)
    form = sheet.form
    form.boxes["unit"].setCurrentIndex(form.boxes["unit"].findData("inch"))
    form.boxes["facets"].setCurrentIndex(form.boxes["facets"].findData("solid"))
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: session.model is not None and len(session.facts) == 1)
    (facts,) = session.facts.values()
    assert facts.volume == pytest.approx(8 * 25.4**3, rel=1e-6) and facts.faces == 6


def test_choices_recipes_and_layers(window, small) -> None:
    session, sheet = window.session, window.receive
    session.receiving.open_file(str(small), ask=True)
    wait_until(lambda: session.receiving.pending is not None and sheet.form is not None)
    form = sheet.form
    items = [form.layers.item(i) for i in range(form.layers.count())]
    assert [i.data(Qt.ItemDataRole.UserRole) for i in items] == ["A", "B", "C"]
    assert all(i.checkState() is Qt.CheckState.Checked for i in items)
    form.layers.item(2).setCheckState(Qt.CheckState.Unchecked)
    form.colours.setChecked(False)
    form.scale.setText("2")
    form.recipe.keep_as("House")
    assert [dict(r.values) for r in recipes("receive")] == [
        {"colours": "no", "layers": "A,B", "scale": "2"}
    ]
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: session.model is not None and idle(window))
    bodies = list(session.model.bodies())
    assert len(bodies) == 2 and all(b.colour is None for _, b in bodies)
    assert any("left out by the settings: 1 on layer C" in n.text for n in session.model.notes)
    wait_until(lambda: "Taken by settings" in _texts(window))

    session.receiving.choose_again()
    wait_until(lambda: sheet.form is not None and sheet.form.scale.text() == "2")
    QTest.mouseClick(sheet.other, LEFT)
    wait_until(lambda: session.receiving.pending is None)
    assert len(list(session.model.bodies())) == 2, "taking nothing in leaves what is open"


def test_into_a_prepared_product_and_beside(window, small) -> None:
    session, sheet = window.session, window.receive
    window.actions_by_key["new-product"].trigger()
    wait_until(lambda: session.model is not None)
    (house,) = session.model.roots
    session.receiving.open_file(str(small), ask=True)
    wait_until(lambda: session.receiving.pending is not None and sheet.form is not None)
    sheet.form.where.setCurrentIndex(sheet.form.where.findData(house))
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: idle(window) and len(session.model.products) == 3)
    assert session.model.roots == (house,)
    assert session.model.product(house).name == "Prepared part 1"
    assert len(session.model.product(house).occurrences) == 3

    session.receiving.open_file(str(small), where="beside")
    wait_until(lambda: idle(window) and len(session.model.products) == 6)
    assert len(session.crossing.sources) == 2
    session.undo()
    assert len(session.model.products) == 3


def test_a_changed_source_is_told_shown_and_taken(window, small, store_folder) -> None:
    session, sheet = window.session, window.receive
    session.open_file(str(small))
    wait_until(lambda: session.model is not None and idle(window))
    store = BlobStore(Path(store_folder))
    model = small_assembly(store)
    top = model.product("top")
    uses = tuple(replace(o, placement=shifted(90, 25, 3)) if o.id == "o3" else o for o in top.occurrences)
    other = small.with_name("other.stp")
    changed = model.with_product(replace(top, occurrences=uses))
    send(changed, str(other), "step-ap242", settings_from({}), store_folder)
    shutil.move(other, small)
    wait_until(lambda: session.receiving.states == {str(small): "changed"})
    wait_until(lambda: "small.stp has changed" in _texts(window))
    session.receiving.look(0)
    wait_until(lambda: session.receiving.difference is not None and "pin right: moved" in _texts(window))
    QTest.mouseClick(sheet.main, LEFT)
    wait_until(lambda: session.receiving.difference is None and idle(window))
    places = {o.name: o.placement[7] for _, o in session.model.occurrences()}
    assert places["pin right"] == 25.0 and session.receiving.states == {}
    session.receiving.cut(0)
    wait_until(lambda: "cut, not followed" in _texts(window))


def test_a_changed_source_is_taken_by_running_the_steps_again(window, small, store_folder) -> None:
    session = window.session
    session.open_file(str(small))
    wait_until(lambda: session.model is not None and idle(window))
    part = next(p for p in session.model.products if p.bodies)
    step = {"do": "rename", "items": {"name": part.name}, "pattern": "New {name}"}
    session.arranging.do(step, keep=True)
    wait_until(lambda: session.crossing.history.can_undo and idle(window))
    session.receiving.take_again(0, True)
    assert session.receiving.steps[1] == 0 and len(session.receiving.steps[0]) == 1
    source = session.crossing.sources[0].model
    changed = source.with_product(replace(source.product(part.id), revision="Z"))
    send(changed, str(small), "step-ap242", settings_from({"force": "yes"}), store_folder)
    wait_until(lambda: "run the steps again" in session.crossing.history.current.name and idle(window))
    now = session.model.product(part.id)
    assert (now.name, now.revision) == (f"New {part.name}", "Z")
    steps, by_hand = session.receiving.steps
    assert by_hand == 0 and len(steps) == 1 and steps[0].count("do = ") == 1


def test_a_mesh_with_a_hole_is_mended(window, tmp_path) -> None:
    session = window.session
    data = bytearray(stl(cube(20.0)))
    data[80:84] = (11).to_bytes(4, "little")
    (tmp_path / "open.stl").write_bytes(data[:-50])
    session.receiving.open_file(str(tmp_path / "open.stl"))
    wait_until(lambda: session.receiving.pending is not None)
    session.receiving.receive_pending({}, "new")
    wait_until(lambda: session.model is not None and idle(window))
    wait_until(lambda: "3 open edges" in _texts(window))
    session.receiving.mend_meshes()
    wait_until(lambda: idle(window) and not any(n.code == "mesh-not-closed" for n in session.model.notes))
    wait_until(lambda: any(f.volume == pytest.approx(8000.0) for f in session.facts.values()))


def test_several_files_and_a_folder(window, small, tmp_path) -> None:
    session = window.session
    folder = tmp_path / "folder" / "below"
    folder.mkdir(parents=True)
    for name in ("one.stp", "two.stp"):
        shutil.copy(small, folder / name)
    session.receiving.open_paths([str(tmp_path / "folder")])
    wait_until(lambda: idle(window) and session.model is not None and len(session.model.products) == 6)
    assert len(session.crossing.sources) == 2 and len(session.model.roots) == 2


def test_a_crossing_keeps_its_tethers(window, small, tmp_path) -> None:
    session = window.session
    session.open_file(str(small))
    wait_until(lambda: session.model is not None and idle(window))
    session.persistence.save(tmp_path / "kept.crossing")
    wait_until(lambda: not session.persistence.is_dirty)
    small.unlink()
    session.open_file(str(tmp_path / "kept.crossing"))
    wait_until(lambda: bool(session.receiving.states))
    assert session.receiving.states == {str(small): "gone"}


def test_reference_geometry_is_hidden(window, tmp_path) -> None:
    from tests.core.formats.iges.texts import add_block, text_of

    def fill(make) -> None:
        add_block(make, 20, 30, 40)
        make.add(108, [0.0, 0.0, 1.0, 5.0, 0, 0.0, 0.0, 0.0, 0.0])

    (tmp_path / "plane.igs").write_bytes(text_of(fill))
    session = window.session
    session.open_file(str(tmp_path / "plane.igs"))
    wait_until(lambda: session.model is not None and idle(window))
    apart = next(p for p in session.model.products if p.is_reference)
    assert (frozenset({f"product:{apart.id}"}),) in session.hidden
    model = receive(str(tmp_path / "plane.igs"), str(session.store.folder))
    assert len(model.roots) == 2
