"""The register in the window: put in, released in order, repointed after a look, taken out."""

from __future__ import annotations

import csv
import io
import math
import zipfile
from dataclasses import replace

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from gondrel.core.model.history import History
from gondrel.core.register.keeping import Author
from gondrel.core.register.living import remark
from gondrel.core.register.opening import open_register
from gondrel.core.service.crossing import Crossing
from gondrel.ui.shell.gathering import gather
from tests.conftest import settle, wait_until
from tests.core.register.gears import two_gears, with_pinion

pytestmark = [pytest.mark.window]


def press(widget) -> None:
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=widget.rect().center())


def put_in(window, address: str):
    """Two gears in a register of their own; the model, and the page."""
    session, register = window.session, window.session.registering
    register.address = address
    model = two_gears(session.store)
    session.take_crossing(Crossing("gears", History.begin(model, "made")), None, dirty=True)
    settle(session)
    window.actions_by_key["register"].trigger()
    page = window.pages["register"]
    press(page.put)
    wait_until(lambda: len(register.items) == 6)
    return model, page


def test_the_story_of_a_pinion(window, tmp_path) -> None:
    session, register = window.session, window.session.registering
    register.address = str(tmp_path / "reg.sqlite")
    model = two_gears(session.store)

    def opened(other) -> None:
        session.take_crossing(Crossing("gears", History.begin(other, "made")), None, dirty=True)
        settle(session)

    opened(model)
    window.actions_by_key["register"].trigger()
    page = window.pages["register"]
    wait_until(lambda: "Nothing is in the register" in page.told.text())
    press(page.put)
    wait_until(lambda: len(register.items) == 6)

    # released over what is not: the program says what is missing, and does it in order when asked
    register.show("GN")
    wait_until(lambda: page.name == "GN/A.1")
    told = []
    session.failed.connect(lambda error: told.append(str(error)))
    press(page.release)
    wait_until(lambda: bool(told))
    assert "SH/A.1, PI/A.1, SS/A.1, CASE/A.1" in told[0]
    page.all.setChecked(True)
    press(page.release)
    wait_until(lambda: register.shown["revision"]["state"] == "released")

    # the pinion as its next major revision
    bigger = with_pinion(model, session.store, 14)
    opened(replace(bigger, products=(bigger.product("PI"),), roots=("PI",)))
    page.major.setChecked(True)
    press(page.put)
    wait_until(lambda: any(i["number"] == "PI" and i["revision"] == "B.1" for i in register.items))

    # repointed in one gear and not in the other, after a look
    register.show("PI/A.1")
    wait_until(lambda: page.name == "PI/A.1" and bool(page.map.boxes) and len(page.map.boxes) == 4)
    press(page.compare)
    wait_until(lambda: session.comparing.compared is not None)
    added = math.pi * (14**2 - 10**2) * 20
    assert session.comparing.compared.differences.added == pytest.approx(added, rel=1e-6)
    assert window.pages["compare"].isVisible() and session.comparing.names == ("PI/A.1", "PI/B.1")
    window.pages["compare"].close()
    page.within.setCurrentIndex(page.within.findData("GN/A.1"))
    assert page.to.currentText() == "PI/B.1"
    press(page.look)
    wait_until(lambda: page.repointing is not None and page.repointing.isVisible())
    preview = page.repointing
    tops = [preview.changes.topLevelItem(n) for n in range(preview.changes.topLevelItemCount())]
    assert [(item.text(0), item.text(1)) for item in tops] == [
        ("SS/A.1", "SS/A.2"), ("GN/A.1", "GN/A.2"),
    ]  # fmt: skip
    assert preview.chosen() == {"SS/A.1": [2, 3]} and "more material" in preview.difference.text()
    assert all(not picture.pixmap().isNull() for picture in preview.pictures)
    uses = [tops[0].child(n) for n in range(tops[0].childCount()) if "PI" in tops[0].child(n).text(0)]
    assert len(uses) == 2
    for row in uses:
        row.setCheckState(0, Qt.CheckState.Unchecked)
    assert not preview.do.isEnabled()
    for row in uses:
        row.setCheckState(0, Qt.CheckState.Checked)
    press(preview.do)
    wait_until(lambda: not preview.isVisible())
    wait_until(lambda: any(i["number"] == "GN" and i["revision"] == "A.2" for i in register.items))
    wait_until(lambda: page.name == "PI/B.1" and set(page.map.boxes) == {"PI/B.1", "SS/A.2", "GN/A.2"})
    place = page.map.boxes["GN/A.2"].center()
    QTest.mouseClick(page.map, Qt.MouseButton.LeftButton, pos=QPointF(place).toPoint())
    wait_until(lambda: page.name == "GN/A.2")

    press(page.take)
    wait_until(lambda: session.model is not None and len(session.model.products) == 5)
    numbers = {(p.number, p.revision) for p in session.model.products}
    assert ("PI", "B.1") in numbers and ("GN", "A.2") in numbers
    page.search.setText("pini")
    wait_until(lambda: [i["number"] for i in register.items] == ["PI"])


def test_what_another_window_changed_is_told_and_not_overwritten(window, tmp_path) -> None:
    session, register = window.session, window.session.registering
    _, page = put_in(window, str(tmp_path / "reg.sqlite"))
    register.show("PI/A.1")
    wait_until(lambda: page.name == "PI/A.1" and page.withdraw.isEnabled())
    wait_until(lambda: not session.tasks.running)
    other = open_register(register.address)
    with other.writing() as connection:
        remark(connection, "PI/A.1", "Wears at the rack", Author("otto"))
    other.close()
    told = []
    session.failed.connect(lambda error: told.append(str(error)))
    press(page.release)
    wait_until(lambda: bool(told))
    assert "PI/A.1 was remarked on by otto at" in told[0] and "after you looked" in told[0]
    wait_until(lambda: register.shown["revision"]["remarks"] == "Wears at the rack")
    assert register.shown["revision"]["state"] == "in work"
    press(page.release)
    wait_until(lambda: register.shown["revision"]["state"] == "released")


def test_a_crate_comes_in_as_a_copy_and_a_conflict_is_resolved(window, tmp_path) -> None:
    session, register = window.session, window.session.registering
    model, page = put_in(window, str(tmp_path / "one.sqlite"))
    path = tmp_path / "gears.crate"
    register.pack(("GN",), str(path), used_only=False)
    wait_until(path.is_file)

    page.open_crate(str(path))
    crates = page.crates
    wait_until(lambda: crates.holds.topLevelItemCount() == 5)
    assert not crates.choices and crates.take.isEnabled()
    crates.way.setCurrentIndex(1)
    crates.rule.setText("{number}-T")
    press(crates.take)
    wait_until(lambda: len(register.items) == 11)
    assert {"GN-T", "PI-T"} <= {item["number"] for item in register.items}

    # another register has another pinion of the same name
    register.address = str(tmp_path / "two.sqlite")
    other = with_pinion(model, session.store, 12)
    session.take_crossing(Crossing("gears", History.begin(other, "made")), None, dirty=True)
    settle(session)
    press(page.put)
    wait_until(lambda: len(register.items) == 6)
    crates.way.setCurrentIndex(0)
    page.open_crate(str(path))
    wait_until(lambda: set(crates.choices) == {"PI/A.1", "SS/A.1", "GN/A.1"})
    assert not crates.take.isEnabled()
    for choice in crates.choices.values():
        choice.setCurrentIndex(choice.findData("theirs"))
    assert crates.take.isEnabled()
    press(crates.take)
    wait_until(lambda: any(i["number"] == "PI" and i["revision"] == "A.2" for i in register.items))


def test_files_of_a_crossing_are_gathered(window, as1, tmp_path) -> None:
    session = window.session
    session.open_file(as1)
    wait_until(lambda: session.model is not None and not session.tasks.running)
    sent = tmp_path / "sent" / "as1.stp"
    sent.parent.mkdir()
    session.send(str(sent))
    wait_until(lambda: bool(session.crossing.log))
    notices: list[str] = []
    session.notice.connect(notices.append)
    gather(window, str(tmp_path / "files.zip"))
    wait_until((tmp_path / "files.zip").is_file)
    with zipfile.ZipFile(tmp_path / "files.zip") as archive:
        assert sorted(archive.namelist()) == ["list.csv", "received/as1-tu-203.stp", "sent/as1.stp"]
        assert archive.read("sent/as1.stp") == sent.read_bytes()
        rows = list(csv.DictReader(io.StringIO(archive.read("list.csv").decode())))
    assert [(row["kind"], row["state"]) for row in rows] == [
        ("received", "as it was"),
        ("sent", "as it was"),
    ]
