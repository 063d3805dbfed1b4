"""The picture is drawn in a turn of its own and shown in the next."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtCore import QEventLoop, QTimer

from gondrel.ui.scene.surface import Surface, make_renderer
from gondrel.ui.session.deferred import Deferred
from gondrel.ui.shell.application import make_application

pytestmark = pytest.mark.window


class _Told(Surface):
    """Notes in which order it is drawn and painted."""

    def __init__(self, deferred: Deferred) -> None:
        super().__init__(deferred)
        self.told: list[str] = []

    def draw_frame(self) -> None:
        self.told.append("drawn")
        super().draw_frame()

    def paintGL(self) -> None:
        self.told.append("painted")
        super().paintGL()


def _turn(milliseconds: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


@pytest.fixture
def surface() -> Iterator[_Told]:
    application = make_application()
    made = _Told(Deferred(application))
    made.window_.AddRenderer(make_renderer())
    made.resize(200, 150)
    made.show()
    for _ in range(50):
        _turn(50)
        if "painted" in made.told:
            break
    _turn(200)
    made.told.clear()
    yield made
    made.close()
    made.deleteLater()


def test_it_is_drawn_before_it_is_painted_and_once_however_often_it_is_asked_for(surface: _Told) -> None:
    for _ in range(3):
        surface.update()
    _turn(400)
    assert surface.told == ["drawn", "painted"]


def test_a_timer_has_its_turn_between_drawing_and_showing(surface: _Told) -> None:
    beat = QTimer(surface, interval=0)
    beat.timeout.connect(lambda: surface.told.append("beat"))
    beat.start()
    surface.update()
    _turn(400)
    beat.stop()
    told = [what for n, what in enumerate(surface.told) if what != "beat" or surface.told[n - 1] != "beat"]
    assert told[told.index("drawn") :][:3] == ["drawn", "beat", "painted"]


def test_what_was_drawn_meanwhile_is_not_drawn_again(surface: _Told) -> None:
    surface.update()
    surface.redraw()
    _turn(400)
    assert surface.told == ["painted", "drawn"]


def test_what_lies_over_it_is_painted_without_drawing(surface: _Told) -> None:
    surface.repaint()
    assert surface.told == ["painted"]


def test_hidden_it_is_drawn_once_it_is_shown(surface: _Told) -> None:
    surface.hide()
    surface.update()
    _turn(200)
    assert "drawn" not in surface.told
    surface.show()
    _turn(400)
    assert "drawn" in surface.told
