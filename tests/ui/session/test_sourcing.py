"""Records of the file in the window: what was not read is a click away from what the file says."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from gondrel.core.model.sought import Sought
from gondrel.core.model.store import BlobStore
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from gondrel.core.service.source import record_behind
from tests.builders import small_assembly
from tests.conftest import settle, wait_until
from tests.records import says

pytestmark = [pytest.mark.window, pytest.mark.slow]


def test_the_remainder_is_shown_in_the_file(window, as1: str, tmp_path: Path) -> None:
    """A kind of record that the file has nowhere else is put into it."""
    session = window.session
    text = Path(as1).read_text("latin-1")
    at = text.rindex("ENDSEC;")
    path = tmp_path / "more.stp"
    path.write_text(f"{text[:at]}#999999=EVENT_OCCURRENCE('17','first fitting',$);\n{text[at:]}", "latin-1")
    session.open_file(str(path))
    wait_until(lambda: session.model is not None and not session.tasks.running)
    session.go(0)
    button = next(b for b in window.receive.findChildren(QPushButton) if b.text() == "Show it in the file")
    button.click()
    settle(session)
    page = window.pages["record"]
    assert page.isVisible() and page.search.text() == "EVENT_OCCURRENCE"
    wait_until(lambda: session.sourcing.view is not None)
    assert "first fitting" in page.text.toPlainText()
    page.search.clear()
    QTest.keyClicks(page.search, "first fitting")
    QTest.keyClick(page.search, Qt.Key.Key_Return)
    settle(session)
    assert page.found.count() == 1


FACES = {"stp": "ADVANCED_FACE", "igs": "510 face", "x_t": "FACE"}
COMPONENTS = {
    "stp": "NEXT_ASSEMBLY_USAGE_OCCURRENCE",
    "igs": "408 singular subfigure instance",
    "x_t": "INSTANCE",
}


@pytest.mark.parametrize(
    ("target", "ending"), [("step-ap242", "stp"), ("iges-solid", "igs"), ("xt-text", "x_t")]
)
def test_records_behind_what_is_picked_selected_and_found(window, target, ending, tmp_path: Path) -> None:
    """A face picked in the picture, its colour, a component selected, and a finding pointed at."""
    store = tmp_path / "store"
    path = str(tmp_path / f"small.{ending}")
    send(small_assembly(BlobStore(store)), path, target, settings_from({}), str(store))
    session, canvas = window.session, window.stage.canvas
    session.open_file(path)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    sourcing = session.sourcing

    def shown() -> str:
        settle(session)
        wait_until(lambda: sourcing.view is not None)
        page = window.pages["record"]
        assert page.isVisible() and page.text.toPlainText() == sourcing.view.text
        return sourcing.view.type

    def record() -> str:
        window.stage.canvas.setFocus()
        QTest.keyClick(window.stage.canvas, Qt.Key.Key_R)
        return shown()

    canvas.set_view("top")
    QTest.qWait(400)
    x, y = canvas.on_screen(0, np.array([[50.0, 20.0, 10.0]]))[0]
    for _ in range(2):  # the first selects the component, the second its face
        QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
        settle(session)
    assert session.checking.picked_face is not None
    body, place = session.checking.picked_face
    assert record() == FACES[ending]
    page, face = window.pages["record"], sourcing.view.number
    assert face == record_behind(path, Sought("face", body, place), str(session.store.folder)).number
    page.of_colour.click()
    shown()
    colour = record_behind(path, Sought("face", body, place, of_colour=True), str(session.store.folder))
    assert sourcing.view == colour

    use = next(use for _, use in session.model.occurrences() if use.name == "pin left")
    session.select(((frozenset({use.id}),),))
    page.of_selection.click()
    assert shown() == COMPONENTS[ending]
    for key in ("Text", "Count", "Position"):
        session.select(((frozenset({use.id}),),) if key == "Position" else ())
        page.of_property.menu().aboutToShow.emit()
        listed = {action.text(): action for action in page.of_property.menu().actions()}
        listed["Position (in this place)" if key == "Position" else key].trigger()
        shown()
        assert says(path, sourcing.view, key), sourcing.view
    page.close()
    window.activateWindow()  # there is no window manager to do it
    wait_until(window.isActiveWindow)

    session.go(1)
    sheet = window.check
    sheet.limit.addItem("30 mm", "30")
    sheet.limit.setCurrentIndex(sheet.limit.count() - 1)
    QTest.mouseClick(sheet.main, Qt.MouseButton.LeftButton)
    wait_until(lambda: session.checking.report is not None and bool(sheet.pills))
    sheet._open("G302")
    wait_until(lambda: "G302" in sheet.lists)
    listed = sheet.lists["G302"]
    listed.setCurrentRow(0)
    wait_until(lambda: window.stage.pointer.isVisible())
    finding = listed.item(0).data(Qt.ItemDataRole.UserRole)
    assert finding.face >= 0
    assert record() == FACES[ending]
    sought = Sought("face", finding.body, finding.face)
    assert sourcing.view == record_behind(path, sought, str(session.store.folder))
