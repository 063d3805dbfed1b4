"""Measuring on screen: one or two picked things, what they measure, and dimensions that are kept.

No widgets.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model.cutting import Vector
from gondrel.core.model.measures import Measured, Thickness, Thing
from gondrel.ui.session.host import SessionHost

__all__ = ["Measuring"]

_MEASURE = "gondrel.core.service.measure"
_ROUND_FACES = ("cylinder", "cone", "torus")
_ROUND_EDGES = ("circle", "ellipse")


class Measuring(QObject):
    """Measures by the exact geometry, aside; the last pick that is out of date is not told."""

    changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.is_on = False
        self.things: tuple[Thing, ...] = ()
        self.by_axis: tuple[bool, ...] = ()
        self.measured: Measured | None = None
        self.wall: Thickness | None = None
        self.refused = ""
        self._serial = 0
        session.model_changed.connect(self.forget)

    def toggle(self) -> None:
        """Measure what is picked, or no longer."""
        self.is_on = not self.is_on
        self.forget()

    def forget(self) -> None:
        """Let go of what was picked."""
        self.things, self.by_axis = (), ()
        self._clear()
        self.changed.emit()

    def _clear(self) -> None:
        self.measured, self.wall, self.refused = None, None, ""
        self._serial += 1

    def pick(self, thing: Thing) -> None:
        """Measure a thing, or the distance of a second from it; a third begins anew."""
        if len(self.things) == 2:
            self.things, self.by_axis = (), ()
        if thing in self.things:
            return
        self.things = (*self.things, thing)
        self.by_axis = (*self.by_axis, False)
        self.measure()

    def has_axis(self, place: int) -> bool:
        """Whether the axis of a picked thing can be measured from."""
        if self.measured is None or place >= len(self.measured.sizes):
            return False
        thing = self.things[place]
        kinds = _ROUND_FACES if thing.kind == "face" else _ROUND_EDGES
        return self.by_axis[place] or self.measured.sizes[place].what in kinds

    def use_axis(self, place: int, on: bool) -> None:
        """Measure from the axis of a round thing, or from itself."""
        if self.by_axis[place] != on:
            self.by_axis = tuple(on if n == place else flag for n, flag in enumerate(self.by_axis))
            self.measure()

    def asked(self) -> tuple[Thing, ...]:
        """The things as they are measured: some by their axes."""
        return tuple(
            replace(thing, kind="axis", of_edge=thing.kind == "edge") if axis else thing
            for thing, axis in zip(self.things, self.by_axis, strict=True)
        )

    def measure(self) -> None:
        """Measure what is picked."""
        self._clear()
        serial = self._serial

        def take(measured: Measured) -> None:
            if serial == self._serial:
                self.measured = measured
                self.changed.emit()

        def refuse(error: GondrelError) -> None:
            if serial == self._serial:
                self.refused = str(error)
                self.changed.emit()

        self.changed.emit()
        args: tuple[Any, ...] = (self.asked(), str(self.session.store.folder))
        self.session.run_job(f"{_MEASURE}:measure_things", args, "measuring", take, refuse, quiet=True)

    def measure_wall(self, point: Vector) -> None:
        """Measure the wall behind the face that is picked alone.

        Args:
            point: where, mm, in the frame of its body.
        """
        thing = self.things[0]
        serial = self._serial

        def take(wall: Thickness) -> None:
            if serial == self._serial:
                self.wall = wall
                self.changed.emit()

        args = (thing.key, thing.index, point, str(self.session.store.folder))
        self.session.run_job(
            f"{_MEASURE}:wall_at", args, "measuring a wall", take, lambda _: None, quiet=True
        )
