"""The GL widget with its two panes: received and returned under one camera."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

import numpy as np
from PySide6 import QtCore, QtGui
from PySide6.QtCore import Qt
from vtkmodules.vtkRenderingCore import vtkActor, vtkCamera

from gondrel.core.model import Model
from gondrel.core.model.cutting import Cut, Vector
from gondrel.ui.scene import camera as moves
from gondrel.ui.scene.batch import Batch
from gondrel.ui.scene.bodies import CROWD, Hit, PlacedBody, Scene
from gondrel.ui.scene.crowd import MOST_LARGE, Crowd, near_of
from gondrel.ui.scene.hatching import trails_of
from gondrel.ui.scene.surface import Surface, make_renderer
from gondrel.ui.scene.trial import trial_actors
from gondrel.ui.session.deferred import Deferred

__all__ = ["Canvas"]

_REST_SAMPLES = 4
_LIGHT_MS, _QUICK_MS, _SMOOTH_MS, _FAIR_MS = 20.0, 32.0, 45.0, 52.0
_UNKNOWN_MS = 21.0
"""What the first frame of a new crowd is taken for: too slow for the time in which jobs run beside it."""

_REST_AFTER_MS = 220
_BUDGET_MS, _FEWEST_MOVING = 85.0, 16
"""What a frame of a crowd may take while moving, and how many are drawn by themselves at least."""

_CALM_MS = 900
_LATE_MS = 1500
_STILL_MS = 700
"""A picture that nothing moved for so long is drawn in full, whatever goes on beside it."""

_COARSE, _TURNING = 0.5, 0.65
"""Side of a picture that is drawn small, as a share of what is shown: beside other work, and turning."""

_CLICK = 4
_FRAME_POINTS = 5_000
_TOOLS, _ABOVE = 54, 8
"""Pixels at the foot of the panes that the tools take, and free ones over them."""


class Canvas(Surface):
    """Draws one or two scenes side by side and turns the mouse into camera moves and picks."""

    picked = QtCore.Signal(object, bool)
    hovered = QtCore.Signal(object)
    moved = QtCore.Signal()
    stepped = QtCore.Signal(float)
    pulled = QtCore.Signal(object, object)

    def __init__(self, deferred: Deferred, parent: Any = None) -> None:
        super().__init__(deferred, parent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.scenes = [Scene(), Scene()]
        self.renderers = [make_renderer(), make_renderer()]
        self.cameras = [r.GetActiveCamera() for r in self.renderers]
        self.divider = 0.5
        self.two = False
        self.swapped = False
        self.foot = _TOOLS
        self.upward = "z"
        self.frame_ms = 0.0
        self._is_moving = False
        self._most_moving = MOST_LARGE
        self._full_ms = 0.0
        self._insists = False
        self.is_busy = False
        self._trial = trial_actors()
        self._due: list[tuple[int, vtkActor]] = []
        self._edges_due: list[tuple[int, vtkActor]] = []
        self._uploaded: set[Any] = set()
        self._drawn: set[Any] = set()
        self.crowds = [Crowd(), Crowd()]
        self._near: list[set[PlacedBody]] = [set(), set()]
        self.batches = [Batch(), Batch()]
        self._marks: list[list[vtkActor]] = [[], []]
        self._hatching: list[list[vtkActor]] = [[], []]
        self._trails: list[vtkActor] = []
        for renderer, crowd, batch in zip(self.renderers, self.crowds, self.batches, strict=True):
            for actor in (crowd.actor, batch.surface, batch.edges):
                renderer.AddActor(actor)
        self._filtered = False
        self._pulled: Hit | None = None
        self._press: QtCore.QPointF | None = None
        self._last: QtCore.QPointF | None = None
        self._centre: np.ndarray | None = None
        self._rest = QtCore.QTimer(self, singleShot=True, interval=_REST_AFTER_MS)
        self._rest.timeout.connect(self._at_rest)
        self._settle = QtCore.QTimer(self, singleShot=True, interval=120)
        self._settle.timeout.connect(self.settle)
        self._late = QtCore.QTimer(self, singleShot=True, interval=_LATE_MS)
        self._late.timeout.connect(self._queue_loose)
        self._sharpen = QtCore.QTimer(self, singleShot=True)
        self._sharpen.timeout.connect(self._draw_sharp)
        self._hover = QtCore.QTimer(self, singleShot=True, interval=60)
        self._hover.timeout.connect(self._tell_hover)
        self._pointer = QtCore.QPointF()
        self.window_.AddRenderer(self.renderers[0])
        for actor in self._trial:  # drawn once, so that the first model need not wait for shaders
            self.renderers[0].AddActor(actor)
        self.lay_out()

    def set_background(self, low: tuple[float, float, float], high: tuple[float, float, float]) -> None:
        """Colours of the backdrop from bottom to top."""
        for renderer in self.renderers:
            renderer.SetBackground(*low)
            renderer.SetBackground2(*high)
        self.update()

    # --- panes -----------------------------------------------------------------------------

    def lay_out(self) -> None:
        """Give each pane its part of the widget."""
        first, second = (1, 0) if self.swapped else (0, 1)
        if self.two:
            self.renderers[first].SetViewport(0.0, 0.0, self.divider, 1.0)
            self.renderers[second].SetViewport(self.divider, 0.0, 1.0, 1.0)
        else:
            self.renderers[first].SetViewport(0.0, 0.0, 1.0, 1.0)
        wanted = [self.renderers[first], self.renderers[second]] if self.two else [self.renderers[first]]
        for renderer in self.renderers:
            if renderer not in wanted and self.window_.HasRenderer(renderer):
                self.window_.RemoveRenderer(renderer)
            elif renderer in wanted and not self.window_.HasRenderer(renderer):
                self.window_.AddRenderer(renderer)
        self.update()

    def set_two(self, two: bool) -> None:
        """Show one pane or two."""
        self.two = two
        self.lay_out()

    def swap(self, swapped: bool) -> None:
        """Change places of received and returned, while a key is held."""
        if self.swapped != swapped:
            self.swapped = swapped
            self.lay_out()

    def pane_at(self, x: float) -> int:
        """Which scene is under a horizontal position: 0 received, 1 returned."""
        left, right = (1, 0) if self.swapped else (0, 1)
        return right if self.two and x > self.width() * self.divider else left

    def pane_rect(self, pane: int) -> tuple[float, float]:
        """Left edge and width of a pane in pixels."""
        if not self.two:
            return 0.0, float(self.width())
        is_left = (pane == 0) != self.swapped
        cut = self.width() * self.divider
        return (0.0, cut) if is_left else (cut, self.width() - cut)

    def aspect(self, pane: int = 0) -> float:
        """Width to height of a pane."""
        return max(self.pane_rect(pane)[1], 1.0) / max(self.height(), 1)

    def on_screen(self, pane: int, points: np.ndarray) -> np.ndarray:
        """Where points (n, 3) of the model are drawn in a pane, (n, 2), pixels; not a number behind."""
        left, width = self.pane_rect(pane)
        flat = moves.project(self.camera, points, self.aspect(pane))
        return np.column_stack(
            [left + (flat[:, 0] + 1) / 2 * width, (1 - (flat[:, 1] + 1) / 2) * self.height()]
        )

    # --- scenes ----------------------------------------------------------------------------

    def clear(self, pane: int) -> None:
        """Empty a pane."""
        self._let_go(pane, self.scenes[pane].placed)
        self.crowds[pane].hide()
        self._near[pane].clear()
        self.mark(pane, ())
        self.show_caps(pane, (), None)
        cut = self.scenes[pane].opening.cut
        self._uploaded.clear()  # it would keep the meshes of what is gone
        self.scenes[pane] = Scene()
        self.scenes[pane].set_cut(cut)
        self.batches[pane].open(self.scenes[pane].opening)
        self.batches[pane].show(self.scenes[pane])

    def exchange(self, pane: int, model: Model, products: Collection[str]) -> None:
        """Let go of the bodies of some products of a pane and plan those that a model has for them."""
        gone = self.scenes[pane].exchange(model, products)
        self._let_go(pane, gone)
        self._near[pane] -= set(gone)

    def _let_go(self, pane: int, gone: Sequence[PlacedBody]) -> None:
        """Take the actors of instances out of a pane, and out of what waits to be drawn there."""
        actors = {actor for placed in gone for actor in (*placed.surfaces, *placed.edges)}
        for due in (self._due, self._edges_due):
            due[:] = [entry for entry in due if entry[1] not in actors]
        for actor in actors:
            self.renderers[pane].RemoveActor(actor)
            self._drawn.discard(actor)

    def show_placed(self, pane: int) -> None:
        """Take new instances of a pane; they are drawn once all are there, or after a while."""
        if self.is_crowded(pane):
            self._settle.start()
        elif self.scenes[pane].wanted:
            if not self._late.isActive():
                self._late.start()
        else:
            self.settle()

    def _queue_loose(self) -> None:
        """Have everything drawn by itself that nothing else draws."""
        for pane, scene in enumerate(self.scenes):
            for placed in scene.placed if not self.is_crowded(pane) else ():
                if not placed.is_gathered:
                    self._queue(pane, placed)
        self._add_due()

    def _queue(self, pane: int, placed: PlacedBody) -> None:
        self.scenes[pane].embody(placed)
        for due, actors in ((self._due, placed.surfaces), (self._edges_due, placed.edges)):
            for actor in actors:
                if actor not in self._drawn:
                    self._drawn.add(actor)
                    due.append((pane, actor))

    def is_crowded(self, pane: int) -> bool:
        """Whether a pane holds so many instances that small ones are drawn as boxes."""
        return self.scenes[pane].count >= CROWD

    def settle(self) -> None:
        """Gather what can be drawn together: solids in one mesh, or small ones of very many as boxes."""
        for pane, scene in enumerate(self.scenes):
            if self.is_crowded(pane):
                self._settle_crowd(pane, scene)
                self.update()
            elif not scene.wanted and self.batches[pane].show(scene):
                self.update()
        if not any(scene.wanted for scene in self.scenes):
            self._late.stop()
            self._queue_loose()
        self._add_due()

    def _settle_crowd(self, pane: int, scene: Scene) -> None:
        if not scene.placed:
            return
        most = self._most_moving if self._is_moving else MOST_LARGE
        near = near_of(scene.extents.boxes, self.camera, self.height(), self.aspect(pane), most)
        wanted = [scene.placed[place] for place in np.flatnonzero(near).tolist()]
        for placed in self._near[pane] - set(wanted):
            placed.gather(True)
        for placed in wanted:
            placed.gather(False)
            self._queue(pane, placed)
        self._near[pane] = set(wanted)
        if self.crowds[pane].show(scene, ~near & scene.shown()):
            self._full_ms = max(self._full_ms, _UNKNOWN_MS)

    def set_cut(self, cut: Cut, whole: Sequence[Collection[tuple[str, ...]]] = ((), ())) -> None:
        """Cut what both panes show; cut faces of before go.

        Args:
            whole: for each pane the paths of what is left whole.
        """
        if not cut and not any(scene.opening.cut or scene.caps for scene in self.scenes):
            return
        for pane, scene in enumerate(self.scenes):
            is_other = scene.set_cut(cut, whole[pane])
            self.show_caps(pane, (), None)
            if is_other:
                self.batches[pane].open(scene.opening)
                self.crowds[pane].actor.GetProperty().SetBackfaceCulling(not cut)
                for actor in (self.crowds[pane].actor, *self._marks[pane]):
                    scene.opening.clip(actor)
        self.settle()
        self.redraw()

    def displace(self, shifts: Mapping[tuple[str, ...], Vector]) -> None:
        """Draw the first pane's instances away from their places, with a line from each place to where it
        is drawn."""
        if not self.scenes[0].displace(shifts):
            return
        for actor in self._trails:
            self.renderers[0].RemoveActor(actor)
        self._trails = trails_of(self.scenes[0].placed)
        for actor in self._trails:
            self.renderers[0].AddActor(actor)
        self.settle()
        self.redraw()

    def show_caps(self, pane: int, caps: Sequence[PlacedBody], hatching: vtkActor | None) -> None:
        """Draw exact cut faces in a pane in place of earlier ones, and their hatching."""
        scene, renderer = self.scenes[pane], self.renderers[pane]
        old = [actor for cap in scene.caps for actor in (*cap.surfaces, *cap.edges)]
        for actor in (*old, *self._hatching[pane]):
            renderer.RemoveActor(actor)
            self._drawn.discard(actor)
        scene.caps[:] = caps
        self._hatching[pane] = [hatching] if hatching is not None else []
        for cap in caps:
            scene.embody(cap)
            for actor in (*cap.surfaces, *cap.edges):
                renderer.AddActor(actor)
        for actor in self._hatching[pane]:
            renderer.AddActor(actor)
        scene.cull(bool(caps))
        self.batches[pane].surface.GetProperty().SetBackfaceCulling(bool(caps) or not scene.opening.cut)
        self.update()

    def mark(self, pane: int, marks: Sequence[vtkActor], *, clipped: bool = True) -> None:
        """Draw marks over a pane's model in place of earlier ones, clipped by its cut where they lie on
        what is cut."""
        for actor in self._marks[pane]:
            self.renderers[pane].RemoveActor(actor)
        self._marks[pane] = list(marks)
        for actor in marks if clipped and self.scenes[pane].opening.cut else ():
            self.scenes[pane].opening.clip(actor)
        for actor in marks:
            self.renderers[pane].AddActor(actor)
        self.update()

    def _add_due(self) -> None:
        """Add actors for one frame: a few of those that were never drawn, so that no frame takes long."""
        if not (self._due or self._edges_due):
            return
        budget = _FRAME_POINTS
        heavy = self.is_busy and self.frame_ms > _QUICK_MS
        for due in (self._due,) if heavy else (self._due, self._edges_due):
            while due and budget > 0:
                pane, actor = due.pop(0)
                budget -= self._weigh(actor)
                self.renderers[pane].AddActor(actor)
        self.update()

    def _weigh(self, actor: vtkActor) -> int:
        """Points that the graphics driver gets anew with an actor; those of a shared mapper only once."""
        mapper = actor.GetMapper()
        if mapper in self._uploaded:
            return 20
        self._uploaded.add(mapper)
        return int(mapper.GetInput().GetNumberOfPoints())

    @property
    def camera(self) -> vtkCamera:
        """The camera that leads; the other follows it."""
        return self.cameras[0]

    def fit(self, boxes: list[np.ndarray] | None = None) -> None:
        """Fill the panes with some (2, 3) boxes, or with everything shown in either."""
        if boxes is None:
            boxes = [scene.boxes() for scene in self.scenes]
        else:
            boxes = [np.array(boxes).reshape(-1, 2, 3)]
        around = np.concatenate(boxes)
        if not len(around):
            return
        aspect = min(self.aspect(0), self.aspect(1)) if self.two else self.aspect()
        free = max(1.0 - (self.foot + _ABOVE) / max(self.height(), 1), 0.5)
        moves.fit(self.camera, around, aspect / free)
        moves.zoom(self.camera, free, 0.0, 0.0, aspect)
        moves.pan(self.camera, None, 0.0, -(1.0 - free) / 2, 1.0)
        self.camera_changed(False)

    def set_view(self, name: str) -> None:
        """Turn to a named view and fit."""
        moves.set_view(self.camera, name, self.upward)
        self.fit()

    def set_parallel(self, parallel: bool) -> None:
        """Show parallel edges parallel, or in perspective, at the same size at the focal point."""
        camera = self.camera
        if bool(camera.GetParallelProjection()) == parallel:
            return
        tangent = np.tan(np.radians(camera.GetViewAngle()) / 2)
        if parallel:
            camera.SetParallelScale(camera.GetDistance() * tangent)
        else:
            _, _, back = moves.axes(camera)
            focal = np.array(camera.GetFocalPoint())
            camera.SetPosition(*(focal + back * camera.GetParallelScale() / tangent))
        camera.SetParallelProjection(parallel)
        self.camera_changed(False)

    def turn(self, x: float, y: float) -> None:
        """Turn by steps of fifteen degrees about the middle of what is shown."""
        box = self.scenes[0].bounds()
        centre = box.mean(axis=0) if box is not None else np.zeros(3)
        moves.orbit(self.camera, centre, x / 12, y / 12)
        self.camera_changed()

    def shift(self, x: float, y: float) -> None:
        """Shift the picture by a tenth of the pane's height."""
        moves.pan(self.camera, None, x / 10, y / 10, 1.0)
        self.camera_changed()

    def come(self, factor: float) -> None:
        """Come nearer by a factor."""
        moves.zoom(self.camera, factor, 0.0, 0.0, self.aspect())
        self.camera_changed()

    def camera_changed(self, moving: bool = True) -> None:
        """Let the other camera follow and draw anew, coarsely while moving."""
        lead, follow = self.cameras
        follow.SetPosition(*lead.GetPosition())
        follow.SetFocalPoint(*lead.GetFocalPoint())
        follow.SetViewUp(*lead.GetViewUp())
        follow.SetViewAngle(lead.GetViewAngle())
        follow.SetParallelScale(lead.GetParallelScale())
        follow.SetParallelProjection(lead.GetParallelProjection())
        begins, self._is_moving = moving and not self._is_moving, moving
        if moving:
            self.smooth(0, False)
            if self.frame_ms > _FAIR_MS:
                self._show_batch_edges(False)
            self._keep_budget(begins=begins)
        self._rest.start(_REST_AFTER_MS)
        (self.redraw if moving else self.update)()
        self.moved.emit()

    def _keep_budget(self, *, begins: bool) -> None:
        """Where very many are drawn, draw so few of them by themselves while moving that it goes on
        smoothly; all that are near are drawn again at rest.

        begins: whether it moves now and has not before.
        """
        if not any(self.is_crowded(pane) for pane in range(len(self.scenes))):
            return
        is_late = not begins and self.frame_ms > _BUDGET_MS and self._most_moving > _FEWEST_MOVING
        if is_late:
            self._most_moving = max(int(self._most_moving * 0.6), _FEWEST_MOVING)
        if (is_late or begins) and self._most_moving < MOST_LARGE:
            self.settle()

    def _at_rest(self) -> None:
        """Smooth the edges of the still picture, as far as a frame stays well under 0.1 s."""
        self._show_batch_edges(True)
        self._is_moving = False
        self.settle()
        if self._press is None and not self.is_busy:
            self.smooth(_REST_SAMPLES if self.frame_ms < _QUICK_MS else 0, self.frame_ms < _FAIR_MS)

    def set_busy(self, busy: bool) -> None:
        """While work goes on beside it a heavy picture goes coarse, without edges and smoothing."""
        self.is_busy = busy
        if not busy:
            self._rest.start(_CALM_MS)  # the next job often follows at once
            if self._sharpen.isActive():
                self._sharpen.start(_CALM_MS)
            if self._edges_due:
                self._add_due()

    @property
    def is_settled(self) -> bool:
        """Whether the picture stays as it is, unless somebody moves it or something else comes to it."""
        return not (self._rest.isActive() or self._sharpen.isActive() or self.deferred.waiting)

    def _show_batch_edges(self, shown: bool) -> None:
        """Leave edges out of a picture that turns too slowly with them."""
        for batch in self.batches:
            batch.edges.SetVisibility(shown and bool(batch.surface.GetVisibility()))

    def smooth(self, samples: int, filtered: bool) -> None:
        """Set multisampling, or the cheaper filter when samples is 0."""
        wanted = filtered and not samples
        if self.window_.GetMultiSamples() == samples and self._filtered == wanted:
            return
        self.window_.SetMultiSamples(samples)
        self._filtered = wanted
        for renderer in self.renderers:
            renderer.SetUseFXAA(wanted)
        self.update()

    # --- picking ---------------------------------------------------------------------------

    def ray(self, position: QtCore.QPointF) -> tuple[int, np.ndarray, np.ndarray]:
        """Pane under a position and the ray through it, from eye to far behind the model."""
        pane = self.pane_at(position.x())
        left, width = self.pane_rect(pane)
        x = 2 * (position.x() - left) / max(width, 1) - 1
        y = 1 - 2 * position.y() / max(self.height(), 1)
        camera = self.camera
        right, up, back = moves.axes(camera)
        eye = np.array(camera.GetPosition())
        tangent = np.tan(np.radians(camera.GetViewAngle()) / 2)
        aspect = width / max(self.height(), 1)
        if camera.GetParallelProjection():
            scale = camera.GetParallelScale()
            start = eye + right * x * scale * aspect + up * y * scale
            direction = -back
        else:
            start = eye
            direction = -back + right * x * tangent * aspect + up * y * tangent
        reach = camera.GetDistance()
        box = self.scenes[pane].bounds()
        if box is not None:
            reach += float(np.linalg.norm(box[1] - box[0])) + float(np.linalg.norm(box.mean(axis=0) - eye))
        return pane, start, start + direction * 2 * reach

    def size_of_pixels(self, point: np.ndarray, pixels: float) -> float:
        """How long some pixels are at a point, mm."""
        return moves.height_at(self.camera, point) * pixels / max(self.height(), 1)

    def pick(self, position: QtCore.QPointF) -> tuple[int, Hit | None]:
        """The pane and what is under a position in it."""
        pane, start, end = self.ray(position)
        return pane, self.scenes[pane].pick(start, end)

    def whole_picture(self, *, is_clear: bool) -> QtGui.QImage:
        """All panes as one picture, smoothed; with a ground that is seen through where it is asked for."""
        self.smooth(_REST_SAMPLES, False)
        for renderer in self.renderers:
            renderer.SetGradientBackground(not is_clear)
            renderer.SetBackgroundAlpha(0.0 if is_clear else 1.0)
        kept = [renderer.GetBackground() for renderer in self.renderers]
        if is_clear:
            for renderer in self.renderers:
                renderer.SetBackground(0.0, 0.0, 0.0)
        self.redraw()
        image = self.grabFramebuffer().convertToFormat(QtGui.QImage.Format.Format_ARGB32_Premultiplied)
        for renderer, colour in zip(self.renderers, kept, strict=True):
            renderer.SetGradientBackground(True)
            renderer.SetBackgroundAlpha(1.0)
            renderer.SetBackground(*colour)
        self.redraw()
        self._rest.start()
        return image

    def pictures(self) -> list[QtGui.QImage]:
        """The panes as shown now, smoothed, received first."""
        self.smooth(_REST_SAMPLES, False)
        self.redraw()
        whole = self.grabFramebuffer()
        ratio = self.devicePixelRatioF()
        images = []
        for pane in range(2 if self.two else 1):
            left, width = self.pane_rect(pane)
            area = QtCore.QRect(round(left * ratio), 0, round(width * ratio), whole.height())
            images.append(whole.copy(area))
        self._rest.start()
        return images

    # --- mouse -----------------------------------------------------------------------------

    def mousePressEvent(self, event: QtGui.QMouseEvent) -> None:
        self._press = self._last = event.position()
        _, hit = self.pick(event.position())
        is_pull = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        self._pulled = hit if is_pull else None
        box = self.scenes[0].bounds()
        self._centre = hit.point if hit else (box.mean(axis=0) if box is not None else np.zeros(3))

    def mouseMoveEvent(self, event: QtGui.QMouseEvent) -> None:
        self._pointer = event.position()
        if self._press is None or self._last is None:
            self._hover.start()
            return
        step = event.position() - self._last
        self._last = event.position()
        if self._pulled is not None:
            self.pulled.emit(self._pulled, step)
            return
        dx, dy = step.x() / max(self.height(), 1), step.y() / max(self.height(), 1)
        turning = bool(event.buttons() & Qt.MouseButton.LeftButton) and not (
            event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        )
        if turning:
            assert self._centre is not None
            moves.orbit(self.camera, self._centre, dx, dy)
        else:
            moves.pan(self.camera, self._centre, dx, dy, 1.0)
        self.camera_changed()

    def mouseReleaseEvent(self, event: QtGui.QMouseEvent) -> None:
        press, self._press, self._last = self._press, None, None
        if press is None:
            return
        away = (event.position() - press).manhattanLength()
        if event.button() == Qt.MouseButton.LeftButton and away < _CLICK:
            add = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self.picked.emit(self.pick(event.position()), add)
        self._rest.start()

    def wheelEvent(self, event: QtGui.QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.stepped.emit(event.angleDelta().y() / 120)
            return
        pane = self.pane_at(event.position().x())
        left, width = self.pane_rect(pane)
        x = 2 * (event.position().x() - left) / max(width, 1) - 1
        y = 1 - 2 * event.position().y() / max(self.height(), 1)
        factor = 1.0015 ** event.angleDelta().y()
        moves.zoom(self.camera, factor, x, y, self.aspect(pane))
        self.camera_changed()

    def leaveEvent(self, event: QtCore.QEvent) -> None:
        self._hover.stop()
        self.hovered.emit(None)

    def _tell_hover(self) -> None:
        self.hovered.emit(self.pick(self._pointer))

    # --- drawing ---------------------------------------------------------------------------

    def draw_frame(self) -> None:
        """Draw the picture as it is to be now: small and without edges where it moves and takes long."""
        clock = QtCore.QElapsedTimer()
        clock.start()
        for renderer, scene, crowd in zip(self.renderers, self.scenes, self.crowds, strict=True):
            crowd.face(renderer.GetActiveCamera(), both=bool(scene.opening.cut) or self._is_moving)
            box = scene.bounds()
            if box is not None:
                pad = np.linalg.norm(box[1] - box[0]) * 0.02 + 1e-6
                low, high = box[0] - pad, box[1] + pad
                renderer.ResetCameraClippingRange(low[0], high[0], low[1], high[1], low[2], high[2])
        slow = self._full_ms > (_LIGHT_MS if self.is_busy else _SMOOTH_MS)
        coarse = slow and (self.is_busy or self._is_moving) and not self._insists
        self._insists = False
        if coarse:  # smoothed again once at rest
            self.window_.SetMultiSamples(0)
            if self._full_ms > _FAIR_MS:
                self._show_batch_edges(False)
        elif self._trial:
            self.draw(_COARSE)
            self.show_drawn()  # what spreads it takes long the first time
        self.draw((_COARSE if self.is_busy else _TURNING) if coarse else 1.0)
        for actor in self._trial:
            self.renderers[0].RemoveActor(actor)
        self._trial = []
        if self._due or (self._edges_due and not (self.is_busy and self.frame_ms > _QUICK_MS)):
            QtCore.QTimer.singleShot(0, self._add_due)
        self.frame_ms = clock.nsecsElapsed() / 1e6
        if coarse:
            self._sharpen.start(_STILL_MS if self.is_busy else _REST_AFTER_MS)
        else:
            self._full_ms = self.frame_ms

    def _draw_sharp(self) -> None:
        """Draw a picture that stands still in full, whatever goes on beside it."""
        if self._press is not None:  # it is being turned
            self._sharpen.start(_STILL_MS)
            return
        self._show_batch_edges(True)
        self._insists = True
        self.draw_ahead()
