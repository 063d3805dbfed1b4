"""The section on screen: the planes that cut, what they leave whole, and the exact cut faces.

No widgets.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model import Model
from gondrel.core.model.cutting import CLEAR, Cut, CutPlane, Vector, box_cut
from gondrel.core.model.lengthwise import cut_lengthwise
from gondrel.core.model.measures import PlacedSection, Size, Thing
from gondrel.ui.session.host import SessionHost

__all__ = ["Sectioning", "Sections"]

_MEASURE = "gondrel.core.service.measure"
_SETTLE_MS = 180
_MOST_PLANES = 3
_AXES = np.eye(3)


@dataclass(frozen=True, slots=True)
class Sections:
    """The exact cut faces of one pane, and the parts the kernel could not cut."""

    placed: tuple[PlacedSection, ...] = ()
    refused: tuple[str, ...] = ()

    @property
    def area(self) -> float:
        """Of all cut faces, mm2."""
        return sum(section.area for section in self.placed)


class Sectioning(QObject):
    """Changes the cut at once and has its faces made exactly as soon as it rests."""

    changed = Signal()
    ready = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.cut = CLEAR
        self.is_on = False
        self.current = 0
        self.leaves_whole = False
        self.sections: list[Sections] = [Sections(), Sections()]
        self.whole: list[frozenset[tuple[str, ...]]] = [frozenset(), frozenset()]
        self._axes: dict[int, tuple[Model, dict[str, Vector]]] = {}
        self._serial = 0
        self.is_making = False
        self._settle = QTimer(self, singleShot=True, interval=_SETTLE_MS)
        self._settle.timeout.connect(self.make)
        session.model_changed.connect(self._model_changed)

    # --- the planes -------------------------------------------------------------------------

    def toggle(self, middle: Vector, back: Vector) -> None:
        """Cut through a point, or no longer; the planes of before come again.

        Args:
            back: from the model to the viewer; what is on this side is taken away.
        """
        self.is_on = not self.is_on
        if self.is_on and not self.cut:
            self.cut = Cut((CutPlane(middle, _facing(1, back)),))
        self._changed()

    def take(self, cut: Cut) -> None:
        """Cut by these planes."""
        self.cut, self.is_on = cut, bool(cut)
        self.current = min(self.current, max(len(cut.planes) - 1, 0))
        self._changed()

    def restore(self, cut: Cut, leaves_whole: bool) -> None:
        """Go to a section that was kept, or to none."""
        self.leaves_whole = leaves_whole
        self.cut, self.is_on, self.current = cut or self.cut, bool(cut), 0
        self._changed()

    def save_outline(self, path: str) -> None:
        """Write the outlines of the cut faces as DXF or SVG, by the ending of the path."""
        model, sections = self.session.model, self.sections[0].placed
        if model is None or not sections:
            self.session.notice.emit("There is no section to save")
            return

        def take(_: str) -> None:
            self.session.notice.emit(f"Saved {Path(path).name}")

        unit = self.session.settings.now.shown_unit
        args = (model, self.cut, sections, path, str(self.session.store.folder), unit)
        self.session.run_job(f"{_MEASURE}:section_outline", args, f"saving {Path(path).name}", take)

    @property
    def shown(self) -> Cut:
        """The cut as it is drawn: none while it is off."""
        return self.cut if self.is_on else CLEAR

    @property
    def plane(self) -> CutPlane | None:
        """The plane that is being worked on."""
        return self.cut.planes[self.current] if self.cut.planes else None

    def set_plane(self, plane: CutPlane) -> None:
        """Put another in the place of the plane that is worked on."""
        planes = list(self.cut.planes) or [plane]
        planes[self.current] = plane
        self.take(replace(self.cut, planes=tuple(planes)))

    def along(self, axis: int, back: Vector) -> None:
        """Turn the plane across an axis of the model, through the point it has, and take away what is on
        the viewer's side."""
        if self.plane is not None:
            self.set_plane(CutPlane(self.plane.point, _facing(axis, back)))

    def flip(self) -> None:
        """Take the other side away."""
        if self.plane is not None:
            self.set_plane(self.plane.turned())

    def step(self, by: float) -> None:
        """Move the plane along its normal, mm."""
        if self.plane is not None and self.is_on:
            self.set_plane(self.plane.moved(by))

    def put_at(self, height: float) -> None:
        """Move the plane so that it stands at a height along its normal from the origin, mm."""
        if self.plane is not None:
            self.step(height - self.height)

    @property
    def height(self) -> float:
        """How far along its normal the plane stands from the origin, mm."""
        plane = self.plane
        return 0.0 if plane is None else float(np.asarray(plane.point) @ plane.unit)

    def add_plane(self) -> None:
        """Cut a corner: one more plane through the same point, across those there are."""
        plane = self.plane
        if plane is None or self.cut.keeps_within or len(self.cut.planes) >= _MOST_PLANES:
            return
        units = np.array([p.unit for p in self.cut.planes])
        x, y, z = (float(v) for v in min(_AXES, key=lambda a: float(np.abs(units @ a).max())))
        self.current = len(self.cut.planes)
        self.take(Cut((*self.cut.planes, CutPlane(plane.point, (x, y, z)))))

    def drop_plane(self) -> None:
        """Take the plane that is worked on away; the last one stays."""
        if len(self.cut.planes) > 1:
            left = tuple(p for n, p in enumerate(self.cut.planes) if n != self.current)
            self.take(Cut(left[:1] if self.cut.keeps_within else left))

    def choose(self, index: int) -> None:
        """Work on another of the planes."""
        if 0 <= index < len(self.cut.planes) and index != self.current:
            self.current = index
            self.changed.emit()

    def box(self, low: Vector, high: Vector) -> None:
        """Keep what is within a box; an empty one is told."""
        try:
            self.take(box_cut(low, high))
        except ValueError as error:
            self.session.tell_error(GondrelError(str(error)))

    def through(self, points: Sequence[Vector]) -> None:
        """Cut through three points; three in a line are told."""
        a, b, c = (np.asarray(p, float) for p in points)
        normal = np.cross(b - a, c - a)
        length = float(np.linalg.norm(normal))
        if length < 1e-9:
            self.session.notice.emit("The three points lie in a line: they make no plane")
            return
        x, y, z = (float(v) for v in normal / length)
        self.set_plane(CutPlane(points[0], (x, y, z)))

    def from_thing(self, thing: Thing, point: Vector, back: Vector) -> None:
        """Cut along a picked face: through a plane one, through the axis of a round one; a straight edge or
        axis stands across the cut.

        Args:
            point: where it was picked; back: from the model to the viewer.
        """

        def take(measured: Any) -> None:
            self._from_size(measured.sizes[0], point, np.asarray(back, float))

        args = ((thing,), str(self.session.store.folder))
        self.session.run_job(f"{_MEASURE}:measure_things", args, "looking at the face", take, quiet=True)

    def _from_size(self, size: Size, point: Vector, back: np.ndarray) -> None:
        if size.direction is None:
            self.session.notice.emit(f"A {size.what} gives no direction to cut along: pick another")
            return
        way, at = np.asarray(size.direction), size.at if size.at is not None else point
        if size.what in ("plane", "line", "circle", "ellipse"):
            normal = way if way @ back >= 0 else -way
        else:  # the plane holds the axis and faces the viewer as well as it can
            normal = back - (back @ way) * way
            if np.linalg.norm(normal) < 1e-6:
                normal = np.cross(way, _AXES[int(np.argmin(np.abs(way)))])
            normal = _near_axis(normal / np.linalg.norm(normal), way)
        x, y, z = (float(v) for v in normal)
        self.set_plane(CutPlane(at, (x, y, z)))

    # --- what is left whole -----------------------------------------------------------------

    def leave_whole(self, on: bool) -> None:
        """Leave shafts, screws, pins and the like whole where they would be cut lengthwise."""
        self.leaves_whole = on
        self._changed()

    def _whole_of(self, pane: int, model: Model) -> frozenset[tuple[str, ...]] | None:
        """Paths of a pane that are left whole; None while it is not known which parts are."""
        if not self.leaves_whole:
            return frozenset()
        known = self._axes.get(pane)
        if known is None or known[0] is not model:
            return None
        return cut_lengthwise(model, self.cut, known[1])

    def _ask_axes(self, pane: int, model: Model) -> None:
        def take(axes: dict[str, Vector]) -> None:
            self._axes[pane] = (model, axes)
            self._changed()

        args = (model, str(self.session.store.folder))
        self.session.run_job(
            f"{_MEASURE}:parts_left_whole", args, "looking for shafts and standard parts", take, quiet=True
        )

    # --- the exact faces --------------------------------------------------------------------

    def _models(self) -> list[tuple[int, Model]]:
        models = [(0, self.session.model)]
        comparison = self.session.comparison
        models.append((1, comparison.model if comparison is not None else None))
        return [(pane, model) for pane, model in models if model is not None]

    def _changed(self) -> None:
        self.sections = [Sections(), Sections()]
        self.whole = [frozenset(), frozenset()]
        for pane, model in self._models() if self.is_on else ():
            whole = self._whole_of(pane, model)
            if whole is None:
                self._ask_axes(pane, model)
            self.whole[pane] = whole or frozenset()
        self._serial += 1
        self.changed.emit()
        self.is_making = self.is_on
        if self.is_on:
            self._settle.start()

    def _model_changed(self) -> None:
        if self.session.model is None:
            self.cut, self.is_on = CLEAR, False
        self._changed()

    def again(self) -> None:
        """Cut anew: what stands beside the model is another."""
        if self.is_on:
            self._changed()

    def shifts(self, pane: int) -> dict[tuple[str, ...], Vector]:
        """By how much what a pane shows stands away from its place."""
        return self.session.exploding.shifts() if pane == 0 else {}

    def make(self) -> None:
        """Have the faces of the cut made exactly."""
        serial = self._serial
        for pane, model in self._models() if self.is_on else ():

            def take(made: tuple[tuple[PlacedSection, ...], tuple[str, ...]], pane: int = pane) -> None:
                if serial != self._serial:
                    return
                self.sections[pane] = Sections(*made)
                self.is_making = False
                keys = tuple(dict.fromkeys(section.key for section in made[0]))
                self.session.mesh(keys)
                self.session.describe(keys)
                self.ready.emit()

            known = {key: self.session.facts[key] for key in model.blobs() if key in self.session.facts}
            args = (
                model,
                self.cut,
                str(self.session.store.folder),
                self.whole[pane],
                known,
                self.shifts(pane),
            )
            self.session.run_job(f"{_MEASURE}:section_model", args, "cutting", take, quiet=True)


def _facing(axis: int, back: Vector) -> Vector:
    """An axis of the model, turned to the viewer."""
    x, y, z = (float(v) + 0.0 for v in _AXES[axis] * (1.0 if back[axis] >= 0 else -1.0))
    return x, y, z


def _near_axis(normal: np.ndarray, way: np.ndarray) -> np.ndarray:
    """The axis of the model nearest to a direction, where it stands across an axis too."""
    nearest = _AXES[int(np.argmax(np.abs(normal)))] * np.sign(normal[int(np.argmax(np.abs(normal)))])
    return nearest if abs(float(nearest @ way)) < 1e-9 else normal
