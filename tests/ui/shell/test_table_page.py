"""The table of facts in the window: typed in, filled down, pasted, kept and read."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit

from gondrel.core.arrange.table import apply_cells
from tests.conftest import settle, wait_until

pytestmark = [pytest.mark.window, pytest.mark.slow]


def column(page: Any, key: str) -> int:
    return [c.key for c in page.cells.table.columns].index(key)


def select(page: Any, *cells: tuple[int, int]) -> None:
    model = page.view.selectionModel()
    model.clearSelection()
    page.view.setCurrentIndex(page.cells.index(*cells[0]))
    for row, place in cells:
        model.select(page.cells.index(row, place), QItemSelectionModel.SelectionFlag.Select)


def test_cells_are_typed_filled_pasted_kept_and_read(
    window, as1: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    settle(session)
    window.show_table()
    page = window.pages["table"]
    ids = page.cells.table.ids
    names = [session.model.product(i).name for i in ids[:2]]
    material = column(page, "material")
    page.view.setCurrentIndex(page.cells.index(0, material))
    page.view.edit(page.cells.index(0, material))
    line = page.view.findChild(QLineEdit)
    QTest.keyClicks(line, "POM-C")
    QTest.keyClick(line, Qt.Key.Key_Return)
    settle(session)
    assert session.model.product(ids[0]).material.density == 1410
    cell = page.cells.index(0, material)
    assert cell.data() == "POM-C   received nothing"
    select(page, (0, material))
    page.keep_ours()
    settle(session)
    assert cell.data() == "POM-C" and session.crossing.accepted == ((ids[0], "material", ""),)
    session.edit(lambda model: apply_cells(model, {(ids[0], "name"): "Bed", (ids[1], "name"): "Rod"}))
    settle(session)
    select(page, (0, column(page, "name")), (1, column(page, "name")))
    page.take_theirs()
    settle(session)
    assert [session.model.product(i).name for i in ids[:2]] == names
    session.undo()
    session.undo()
    settle(session)

    select(page, (0, material), (1, material), (2, material))
    page.view.setFocus()
    page.fill_down()
    settle(session)
    assert [session.model.product(i).material.name for i in ids[:3]] == ["POM-C"] * 3
    session.undo()
    settle(session)
    assert session.model.product(ids[1]).material is None

    revision = column(page, "revision")
    QApplication.clipboard().setText("C\tFirst\nD\tSecond")
    page.view.setCurrentIndex(page.cells.index(1, revision))
    page.paste()
    settle(session)
    pasted = [session.model.product(i) for i in ids[1:3]]
    assert [(p.revision, p.description) for p in pasted] == [("C", "First"), ("D", "Second")]

    path = tmp_path / "facts.xlsx"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    page.save()
    assert path.stat().st_size > 2000
    kept = session.model
    session.undo()
    session.undo()
    settle(session)
    page.load()
    settle(session)
    assert {p.id: (p.revision, p.material) for p in session.model.products} == {
        p.id: (p.revision, p.material) for p in kept.products
    }
