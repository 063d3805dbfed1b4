"""Ways of looking closer: the section and measuring, with their panels over the picture."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QPointF, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from gondrel.core.model import Model
from gondrel.core.model.cutting import Vector
from gondrel.core.model.measures import Measured, Thing
from gondrel.core.model.views import Dimension, View
from gondrel.ui.presenters.detail import edge_line, face_line
from gondrel.ui.presenters.measures import dimension_text
from gondrel.ui.scene import camera as moves
from gondrel.ui.scene.bodies import Hit
from gondrel.ui.scene.canvas import Canvas
from gondrel.ui.session.session import Session
from gondrel.ui.stage.dimension import Dimensions
from gondrel.ui.stage.explode_panel import ExplodePanel
from gondrel.ui.stage.measure_panel import MeasurePanel
from gondrel.ui.stage.plane_handle import PlaneHandle
from gondrel.ui.stage.section_panel import SectionPanel
from gondrel.ui.stage.section_view import SectionView

__all__ = ["Looking"]

_CORNER_PIXELS = 9
_GAP = 8


class Looking(QObject):
    """Owns what is laid over the picture for looking closer, and takes the clicks that belong to it."""

    mark_wanted = Signal(int, object, object)

    def __init__(
        self, session: Session, canvas: Canvas, load: Callable[[str], None], dress: Callable[[], None],
        parent: QWidget,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.session, self.canvas, self.parent_widget = session, canvas, parent
        self.sections = SectionView(session, canvas, load, dress)
        self.picking = ""
        self._points: list[Vector] = []
        self._last_hit: Hit | None = None
        self._laid_out_soon = QTimer(self, singleShot=True, interval=0)  # once new widgets have their style
        self._laid_out_soon.timeout.connect(self.lay_out)
        self.dimensions = Dimensions(canvas, parent)
        self.handle = PlaneHandle(session.sectioning, canvas, self.middle, parent)
        self.section_panel = SectionPanel(session, parent)
        self.measure_panel = MeasurePanel(session, parent)
        self.explode_panel = ExplodePanel(session, parent)
        self.modes = self._mode_bar()
        self._connect()

    def _mode_bar(self) -> QWidget:
        bar = QWidget(self.parent_widget)
        bar.setObjectName("stagemodes")
        column = QVBoxLayout(bar)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.buttons: dict[str, QPushButton] = {}
        for key, text in (
            ("section", "Section"),
            ("measure", "Measure"),
            ("explode", "Take apart"),
            ("compare", "Compare"),
        ):
            button = QPushButton(text)
            button.setProperty("role", "mode")
            button.setCheckable(True)
            self.buttons[key] = button
            column.addWidget(button)
        return bar

    def _connect(self) -> None:
        session = self.session
        self.section_panel.pick_wanted.connect(self.start_picking)
        self.section_panel.outline_wanted.connect(self._save_outline)
        self.section_panel.box_wanted.connect(self.cut_to_box)
        self.section_panel.axis_wanted.connect(lambda a: session.sectioning.along(a, self._towards()))
        self.measure_panel.wall_wanted.connect(self._measure_wall)
        for panel in (self.section_panel, self.measure_panel, self.explode_panel):
            panel.resized.connect(self._laid_out_soon.start)
        session.sectioning.changed.connect(self._show_modes)
        session.comparing.changed.connect(self._show_modes)
        self.buttons["compare"].clicked.connect(self._show_modes)  # a click opens its page, no more
        session.measuring.changed.connect(self._measured)
        session.exploding.changed.connect(self._taken_apart)
        self.canvas.stepped.connect(self._step)
        for panel in (self.section_panel, self.explode_panel):
            panel.view_wanted.connect(self.keep_view)
        self.measure_panel.keep_wanted.connect(self._keep_dimensions)
        session.viewing.shown.connect(self._show_view)
        session.viewing.changed.connect(self._views_changed)
        self.canvas.pulled.connect(self._pull)

    # --- layout -----------------------------------------------------------------------------

    def lay_out(self) -> None:
        """Place what lies over the picture."""
        has_model = self.session.model is not None
        self.modes.setVisible(has_model)
        self.modes.adjustSize()
        self.modes.move(14, 42)
        for panel in (self.section_panel, self.measure_panel, self.explode_panel):
            if (laid := panel.layout()) is not None:
                laid.activate()
        self.measure_panel.adjustSize()
        self.measure_panel.move(14, self.modes.y() + self.modes.height() + _GAP)
        width, bottom = self.parent_widget.width(), self.parent_widget.height() - self.foot
        for tray in (self.section_panel, self.explode_panel):
            if tray.isVisibleTo(self.parent_widget):
                tray.resize(min(tray.sizeHint().width(), width - 16), tray.sizeHint().height())
                bottom -= tray.height()
                tray.move((width - tray.width()) // 2, bottom)
                bottom -= _GAP
        self.dimensions.resize(self.canvas.size())
        for widget in (self.handle, self.modes, self.section_panel, self.measure_panel, self.explode_panel):
            widget.raise_()
        self.canvas.foot = self.foot + self.height
        self.handle.place()

    def keep_view(self) -> None:
        """Keep what is seen as a view, with what is measured on it."""
        self.session.viewing.keep(moves.camera_of(self.canvas.camera), self.dimensions.now)

    def _keep_dimensions(self) -> None:
        self.session.viewing.add_dimensions(moves.camera_of(self.canvas.camera), self.dimensions.now)

    def _show_view(self, view: View) -> None:
        moves.take_camera(self.canvas.camera, view.camera)
        self.dimensions.show_kept(view.dimensions)
        self.session.settings.change(parallel=view.camera.is_parallel)
        self.canvas.camera_changed(False)

    def _views_changed(self) -> None:
        view = self.session.viewing.view(self.session.viewing.current)
        self.dimensions.show_kept(view.dimensions if view is not None else ())

    def _show_modes(self) -> None:
        self.buttons["section"].setChecked(self.session.sectioning.is_on)
        self.buttons["measure"].setChecked(self.session.measuring.is_on)
        self.buttons["explode"].setChecked(self.session.exploding.is_on)
        self.buttons["compare"].setChecked(self.session.comparing.beside is not None)
        self.lay_out()

    foot = 54
    """Pixels at the foot of the stage that its tools take."""

    @property
    def height(self) -> int:
        """Pixels that the trays over the tools take, 0 while there is none."""
        trays = (self.section_panel, self.explode_panel)
        return sum(tray.height() + _GAP for tray in trays if tray.isVisibleTo(self.parent_widget))

    def _taken_apart(self) -> None:
        self.canvas.displace(self.session.exploding.shifts())
        if self.session.sectioning.is_on:
            self.session.sectioning.again()
        self._show_modes()

    def _pull(self, hit: Hit, step: QPointF) -> None:
        """Draw a component out along its way as far as the pointer went along it."""
        exploding, path = self.session.exploding, hit.placed.path
        while path and exploding.leave_of(path) is None:
            path = path[:-1]  # a part that stays goes with the assembly it is in
        leave = exploding.leave_of(path)
        if leave is None or not exploding.is_on:
            return
        reach = self.canvas.size_of_pixels(hit.point, 100.0)
        way = self._in_whole(path, leave.way)
        ends = self.canvas.on_screen(0, np.stack([hit.point, hit.point + way * reach]))
        along = ends[1] - ends[0]
        square = float(along @ along)
        if np.isfinite(square) and square > 1.0:
            exploding.draw_out(path, float(np.array([step.x(), step.y()]) @ along) / square * reach)

    def _in_whole(self, path: tuple[str, ...], way: Vector) -> np.ndarray:
        """A direction of the assembly that a component is in, in the frame of the whole."""
        model = self.session.model
        turn = np.eye(3)
        for place in model.walk() if model is not None else ():
            if place.path == path[:-1]:
                turn = np.asarray(place.placement, float).reshape(4, 4)[:3, :3]
                break
        turned: np.ndarray = turn @ np.asarray(way)
        return turned

    # --- section ----------------------------------------------------------------------------

    def middle(self) -> np.ndarray | None:
        """The middle of what is shown, mm; None without anything."""
        box = self.canvas.scenes[0].bounds()
        return None if box is None else box.mean(axis=0)

    def toggle_section(self) -> None:
        """Cut the model open through its middle, or close it."""
        middle = self.middle()
        if middle is not None:
            self.start_picking("")
            x, y, z = (round(float(v), 3) + 0.0 for v in middle)
            self.session.sectioning.toggle((x, y, z), self._towards())

    def _save_outline(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self.parent_widget, "Save the outline of the section", "section.dxf", "DXF (*.dxf);;SVG (*.svg)"
        )
        if path:
            self.session.sectioning.save_outline(path if Path(path).suffix else f"{path}.dxf")

    def _towards(self) -> Vector:
        """From the model to the viewer."""
        x, y, z = (float(v) for v in moves.axes(self.canvas.camera)[2])
        return x, y, z

    def cut_to_box(self) -> None:
        """Keep what is within the box of the selection, or the middle half of everything."""
        chosen = self.session.selection
        boxes = [p.box for p in self.canvas.scenes[0].placed if p.is_shown]
        picked = [p.box for p in self.canvas.scenes[0].placed if p.is_selected] if chosen else []
        if not boxes:
            return
        used = np.stack(picked or boxes)
        low, high = used[:, 0].min(axis=0), used[:, 1].max(axis=0)
        if not picked:
            low, high = low + (high - low) / 4, high - (high - low) / 4
        a, b = (tuple(round(float(v), 3) + 0.0 for v in corner) for corner in (low, high))
        self.session.sectioning.box((a[0], a[1], a[2]), (b[0], b[1], b[2]))

    def start_picking(self, what: str) -> None:
        """Take the next clicks for the plane: a face, or three points."""
        self.picking, self._points = what, []
        self.section_panel.show_picking(what)

    def _step(self, steps: float) -> None:
        """Step the plane by a hundredth of the model, or of an inch or millimetre where that is more."""
        box = self.canvas.scenes[0].bounds()
        if box is not None and self.session.sectioning.is_on:
            size = float((box[1] - box[0]).max())
            self.session.sectioning.step(steps * _round_step(size / 100))

    # --- clicks -----------------------------------------------------------------------------

    def takes(self, pane: int, hit: Hit | None, edge: int | None) -> bool:
        """Take a click for the section or for measuring; False where it belongs to neither."""
        if self.picking:
            if hit is not None:
                self._pick_plane(hit, edge)
            return True
        if not self.session.measuring.is_on:
            return False
        if hit is None:
            self.session.measuring.forget()
        else:
            self._last_hit = hit
            self.session.measuring.pick(self.thing_at(pane, hit, edge))
            self.mark_wanted.emit(pane, hit, edge)
        return True

    def _pick_plane(self, hit: Hit, edge: int | None) -> None:
        x, y, z = (float(v) for v in hit.point)
        if self.picking == "face":
            thing = self.thing_at(0, hit, edge, corners=False)
            self.start_picking("")
            self.session.sectioning.from_thing(thing, (x, y, z), self._towards())
            return
        self._points.append((x, y, z))
        if len(self._points) == 3:
            points = self._points
            self.start_picking("")
            self.session.sectioning.through(points)

    def thing_at(self, pane: int, hit: Hit, edge: int | None, *, corners: bool = True) -> Thing:
        """What is measured where the picture was hit: a corner, an edge, or a face."""
        placed = hit.placed
        placement = tuple(float(v) for v in placed.matrix.ravel())
        name = self._name(pane, hit)
        detail = self.session.details.get(placed.body.blob)
        if edge is not None:
            ends = placed.in_whole(placed.mesh.line_of(edge)[[0, -1]].astype(float))
            reach = self.canvas.size_of_pixels(hit.point, _CORNER_PIXELS)
            away = np.linalg.norm(ends - hit.point, axis=1)
            if corners and float(away.min()) < reach:
                x, y, z = (float(v) for v in ends[int(np.argmin(away))])
                corner = f"{name}, corner"
                return Thing("vertex", placed.body.blob, -1, placement, (x, y, z), name=corner)
            said = edge_line(detail, edge, self.session.figures)
            return Thing("edge", placed.body.blob, edge, placement, name=f"{name}, {said}")
        said = face_line(detail, hit.face, self.session.figures)
        return Thing("face", placed.body.blob, hit.face, placement, name=f"{name}, {said}")

    def _name(self, pane: int, hit: Hit) -> str:
        comparison = self.session.comparison
        model: Model | None = self.session.model
        if pane == 1 and comparison is not None:
            model = comparison.model
        product = model.by_id.get(hit.placed.product) if model is not None else None
        return product.label if product is not None else "body"

    # --- measuring --------------------------------------------------------------------------

    def toggle_measure(self) -> None:
        """Measure what is clicked, or select it again."""
        self.start_picking("")
        self.session.measuring.toggle()
        self._show_modes()

    def _measured(self) -> None:
        measured = self.session.measuring.measured
        self.dimensions.show_now(tuple(self._dimensions(measured)) if measured is not None else ())
        self._show_modes()

    def _dimensions(self, measured: Measured) -> list[Dimension]:
        text = dimension_text(measured, self.session.figures)
        wall = self.session.measuring.wall
        if wall is not None and wall.least is not None and self._last_hit is not None:
            ends = self._last_hit.placed.in_whole(np.array(wall.points))
            one, other = (tuple(float(v) for v in end) for end in ends)
            shown = self.session.figures.length(wall.least)
            return [Dimension(((one[0], one[1], one[2]), (other[0], other[1], other[2])), shown, "wall")]
        if measured.apart is not None:
            names = " to ".join(thing.name for thing in self.session.measuring.things)
            return [Dimension(measured.apart.points, text, names)]
        if self._last_hit is None or not text:
            return []
        x, y, z = (float(v) for v in self._last_hit.point)
        return [Dimension(((x, y, z), (x, y, z)), text, self.session.measuring.things[0].name)]

    def _measure_wall(self) -> None:
        hit = self._last_hit
        if hit is not None:
            inverse = hit.placed.inverse
            x, y, z = (float(v) for v in inverse[:3, :3] @ hit.point + inverse[:3, 3])
            self.session.measuring.measure_wall((x, y, z))


def _round_step(size: float) -> float:
    """A step of 1, 2 or 5 times a power of ten, near a size."""
    power = 10.0 ** np.floor(np.log10(max(size, 1e-6)))
    return float(min((1.0, 2.0, 5.0, 10.0), key=lambda m: abs(m * power - size)) * power)
