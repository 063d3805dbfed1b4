"""The life of the demo's pinion in the real window: changed in Arrange, released, repointed, packed."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.conftest import settle, wait_until

pytestmark = [pytest.mark.window, pytest.mark.slow]


def press(widget: Any) -> None:
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=widget.rect().center())


class Journey:
    """The window with a register of its own."""

    def __init__(self, window: Any, folder: Any) -> None:
        self.window, self.session = window, window.session
        self.register = window.session.registering
        self.register.address = str(folder / "team.sqlite")
        self.told: list[str] = []
        self.session.failed.connect(lambda error: self.told.append(f"{error} ({error.hint})"))
        window.actions_by_key["register"].trigger()
        self.page = window.pages["register"]

    def rest(self) -> None:
        wait_until(lambda: not self.session.tasks.running, 120)
        settle(self.session)

    def do(self, step: dict[str, Any]) -> None:
        count = len(self.session.crossing.history.steps)
        self.session.arranging.do(step, keep=True)
        wait_until(lambda: len(self.session.crossing.history.steps) > count, 120)
        self.rest()

    def put(self, *, major: bool = False) -> None:
        self.page.major.setChecked(major)
        press(self.page.put)
        self.rest()

    def look_at(self, name: str) -> None:
        self.register.show(name)
        wait_until(lambda: self.page.name == name, 60)
        self.rest()

    def revisions(self) -> dict[str, str]:
        return {each["number"]: each["revision"] for each in self.register.items}

    def used(self, name: str) -> set[tuple[str, str, int]]:
        self.look_at(name)
        return {(u["assembly"], u["uses"], u["times"]) for u in self.register.uses["uses"]}


def test_the_life_of_the_demos_pinion(window: Any, demo_file: str, tmp_path: Any) -> None:
    window.session.open_file(demo_file)
    wait_until(lambda: window.session.model is not None, 120)
    journey = Journey(window, tmp_path)
    page = journey.page
    journey.rest()
    journey.put()
    assert len(journey.revisions()) == 32
    journey.do({"do": "set", "items": {"number": "PG-000"}, "field": "number", "value": "PG-900"})
    journey.put()
    assert len(journey.revisions()) == 33 and journey.revisions()["PG-900"] == "B.1"

    journey.look_at("PG-202/C.1")
    press(page.take)
    wait_until(lambda: len(window.session.model.products) == 1, 60)
    journey.rest()
    journey.do({"do": "cut", "at": [0, 0, 48], "normal": [0, 0, 1]})
    journey.put(major=True)
    assert journey.revisions()["PG-202"] == "D.1"

    journey.look_at("PG-000/B.1")
    press(page.release)
    wait_until(lambda: bool(journey.told), 60)
    assert "PG-101/A.1" in journey.told[0] and "release these first" in journey.told[0]
    page.all.setChecked(True)
    press(page.release)
    wait_until(lambda: journey.register.shown["revision"]["state"] == "released", 60)
    journey.look_at("PG-900/B.1")
    press(page.release)
    wait_until(lambda: journey.register.shown["revision"]["state"] == "released", 60)

    journey.look_at("PG-202/C.1")
    assert page.to.currentText() == "PG-202/D.1"
    page.within.setCurrentIndex(page.within.findData("PG-000/B.1"))
    press(page.look)
    wait_until(lambda: page.repointing is not None and page.repointing.isVisible(), 120)
    assert page.repointing.chosen() == {"PG-200/B.1": [2]}
    assert "less material" in page.repointing.difference.text()
    first = page.repointing.changes.topLevelItem(0)
    faces = [first.child(n).text(2) for n in range(first.childCount())]
    assert first.text(2) == "4 faces moved" and sum("Feather key" in face for face in faces) == 3
    press(page.repointing.do)
    wait_until(lambda: not page.repointing.isVisible(), 60)
    journey.rest()
    assert journey.revisions()["PG-000"] == "B.2" and journey.revisions()["PG-900"] == "B.1"
    assert journey.used("PG-202/D.1") == {("PG-200/B.2", "PG-202/D.1", 1), ("PG-000/B.2", "PG-200/B.2", 1)}
    assert ("PG-900/B.1", "PG-200/B.1", 1) in journey.used("PG-202/C.1")

    journey.look_at("PG-000/B.2")
    page.all.setChecked(True)
    press(page.release)
    wait_until(lambda: journey.register.shown["revision"]["state"] == "released", 60)
    crate = tmp_path / "gears.crate"
    journey.register.pack(("PG-000", "PG-900"), str(crate), used_only=False)
    wait_until(crate.is_file, 120)
    journey.rest()
    page.open_crate(str(crate))
    crates = page.crates
    wait_until(lambda: crates.holds.topLevelItemCount() == 36, 60)
    wait_until(lambda: not crates.picture.pixmap().isNull())
    crates.way.setCurrentIndex(1)
    press(crates.take)
    wait_until(lambda: len(journey.revisions()) == 66, 60)
    journey.rest()
    for name in ("PG-202/C.1", "PG-202/D.1", "PG-814/A.1"):
        number, _, revision = name.partition("/")
        here = {(a, c, n) for a, c, n in journey.used(name) if "-COPY" not in a}
        there = journey.used(f"{number}-COPY/{revision}")
        assert {(a.replace("-COPY", ""), c.replace("-COPY", ""), n) for a, c, n in there} == here
        assert journey.register.shown["revision"]["lineage"]
    before = journey.revisions()
    crates.way.setCurrentIndex(0)
    wait_until(lambda: crates.take.isEnabled(), 60)
    notices: list[str] = []
    window.session.notice.connect(notices.append)
    press(crates.take)
    wait_until(lambda: any("36 were here" in text for text in notices), 60)
    assert "Taken in: 0 revisions" in "".join(notices) and journey.revisions() == before
