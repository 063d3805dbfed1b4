"""Records of the file in the window: what was not read is a click away from what the file says."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from tests.conftest import settle, wait_until

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
