"""The Batch page: a folder sent from the window, stopped, gone on with."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.conftest import wait_until

pytestmark = [pytest.mark.window, pytest.mark.slow]

LEFT = Qt.MouseButton.LeftButton


def test_a_folder_is_sent_stopped_and_gone_on_with(window, as1: str, tmp_path: Path) -> None:
    source, out = tmp_path / "in", tmp_path / "out"
    source.mkdir()
    for number in range(4):
        (source / f"part-{number}.stp").write_bytes(Path(as1).read_bytes())
    (source / "bad.stp").write_text("no model")
    window.actions_by_key["batch"].trigger()
    page = window.pages["batch"]
    assert not page.go.isEnabled()
    page.source.setText(str(source))
    page.target.setText(str(out))
    assert page.go.isEnabled()
    QTest.mouseClick(page.go, LEFT)
    wait_until(lambda: len(page.outcomes) >= 2)
    QTest.mouseClick(page.stop, LEFT)
    wait_until(lambda: page.runner is None)
    done = {o.source for o in page.outcomes if o.verdict != "failed"}
    assert "Stopped" in page.told.text() and len(page.outcomes) < 5
    assert not [p for p in out.rglob("*") if p.name.startswith(".gondrel-") and p.is_dir()]

    QTest.mouseClick(page.go, LEFT)
    wait_until(lambda: page.runner is None and len(page.outcomes) == 5, 120)
    assert {o.source for o in page.outcomes if o.again} == done
    rows = [page.tree.topLevelItem(n) for n in range(5)]
    texts = {row.text(0): (row.text(1), row.text(4)) for row in rows}
    assert texts["bad.stp"][0] == "failed" and "not a file" in texts["bad.stp"][1]
    assert sum(o.verdict != "failed" for o in page.outcomes) == 4
    assert sorted(p.name for p in out.glob("*.stp")) == [f"part-{n}.stp" for n in range(4)]
