"""Named views on screen: kept with their section, how far they are taken apart, and their dimensions.

No widgets.
"""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from gondrel.core.model.views import Camera, Dimension, View
from gondrel.ui.session.exploding import Exploding
from gondrel.ui.session.host import SessionHost
from gondrel.ui.session.sectioning import Sectioning

__all__ = ["Viewing"]


class Viewing(QObject):
    """Keeps, shows, renames and removes the views of the crossing."""

    changed = Signal()
    shown = Signal(object)

    def __init__(
        self, session: SessionHost, sectioning: Sectioning, exploding: Exploding, parent: QObject
    ) -> None:
        super().__init__(parent)
        self.session, self.sectioning, self.exploding = session, sectioning, exploding
        self.current = ""
        session.model_changed.connect(self.changed)

    @property
    def views(self) -> tuple[View, ...]:
        """The views of the crossing, in the order they were kept."""
        return self.session.crossing.views

    def view(self, name: str) -> View | None:
        """The view of a name, None where there is none."""
        return next((view for view in self.views if view.name == name), None)

    def keep(self, camera: Camera, dimensions: tuple[Dimension, ...] = ()) -> None:
        """Keep what is seen now as a new view.

        Args:
            dimensions: what is measured on it.
        """
        if self.session.model is None:
            return
        taken, number = {view.name for view in self.views}, len(self.views) + 1
        while f"View {number}" in taken:
            number += 1
        view = self._seen(f"View {number}", camera, dimensions)
        self._take((*self.views, view))
        self.current = view.name
        self.session.notice.emit(f"Kept as {view.name}")
        self.changed.emit()

    def _seen(self, name: str, camera: Camera, dimensions: tuple[Dimension, ...]) -> View:
        sectioning, exploding = self.sectioning, self.exploding
        return View(
            name, camera, sectioning.shown, sectioning.leaves_whole,
            exploding.spread if exploding.is_on else 0.0, exploding.level,
            tuple(exploding.own.items()) if exploding.is_on else (), dimensions,
        )  # fmt: skip

    def add_dimensions(self, camera: Camera, dimensions: tuple[Dimension, ...]) -> None:
        """Keep dimensions on the view that is shown, or on a new one."""
        view = self.view(self.current)
        if view is None:
            self.keep(camera, dimensions)
            return
        self._put(view.name, replace(view, dimensions=(*view.dimensions, *dimensions)))
        self.session.notice.emit(f"Kept on {view.name}")

    def show(self, name: str) -> None:
        """Go to a view: its section and what is apart are taken at once, the camera by who shows it."""
        view = self.view(name)
        if view is None:
            return
        self.current = name
        self.sectioning.restore(view.cut, view.leaves_whole)
        self.exploding.restore(view.spread, view.level, dict(view.drawn_out))
        self.shown.emit(view)
        self.changed.emit()

    def rename(self, name: str, to: str) -> None:
        """Give a view another name; one that is taken is told."""
        view, wanted = self.view(name), to.strip()
        if view is None or not wanted or wanted == name:
            return
        if self.view(wanted) is not None:
            self.session.notice.emit(f"There is a view called {wanted} already")
            self.changed.emit()
            return
        self._put(name, replace(view, name=wanted))
        self.current = wanted if self.current == name else self.current

    def remove(self, name: str) -> None:
        """Keep a view no longer."""
        self._take(tuple(view for view in self.views if view.name != name))
        self.current = "" if self.current == name else self.current
        self.changed.emit()

    def leave(self) -> None:
        """Say that what is seen is none of the views any more."""
        if self.current:
            self.current = ""
            self.changed.emit()

    def _put(self, name: str, view: View) -> None:
        self._take(tuple(view if each.name == name else each for each in self.views))
        self.changed.emit()

    def _take(self, views: tuple[View, ...]) -> None:
        self.session.crossing = replace(self.session.crossing, views=views)
        self.session.touch()
