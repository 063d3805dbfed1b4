"""Flat curves on a pane: drawn, panned, zoomed, pointed at."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from gondrel.core.model.outline import Arc, Curve, LineStyle, Point, sampled
from gondrel.ui.widgets.theme import font, palette

__all__ = ["Area", "FlatCanvas", "Spot", "Stroke", "path_of"]

_NEAR = 6.0
_MARGIN = 0.06
_ZOOM = 1.2
_FINE = 2e-4
_DASHES = {LineStyle.DASHED: [6.0, 3.0], LineStyle.CHAIN: [10.0, 3.0, 1.0, 3.0]}


@dataclass(frozen=True, slots=True)
class Stroke:
    """A curve that is drawn.

    Args:
        key: what it is known by where it is pointed at, -1 for nothing.
    """

    curve: Curve
    colour: str
    style: LineStyle = LineStyle.WIDE
    key: int = -1
    is_faint: bool = False


@dataclass(frozen=True, slots=True)
class Area:
    """A filled area between closed runs of curves, each with whether it is run backwards."""

    loops: tuple[tuple[tuple[Curve, bool], ...], ...]
    key: int
    is_chosen: bool = True


@dataclass(frozen=True, slots=True)
class Spot:
    """A marked place with a word: what is open, double or crossing there."""

    kind: str
    point: Point


def path_of(curve: Curve, chord: float) -> QPainterPath:
    """A curve as a path, y downwards."""
    path = QPainterPath()
    if isinstance(curve, Arc):
        (x, y), r = curve.centre, curve.radius
        box = QRectF(x - r, -y - r, 2 * r, 2 * r)
        path.arcMoveTo(box, math.degrees(curve.start))
        path.arcTo(box, math.degrees(curve.start), math.degrees(curve.end - curve.start))
        return path
    points = sampled(curve, chord)
    path.moveTo(points[0][0], -points[0][1])
    for x, y in points[1:].tolist():
        path.lineTo(x, -y)
    return path


@dataclass(slots=True)
class _Shown:
    strokes: tuple[Stroke, ...] = ()
    areas: tuple[Area, ...] = ()
    spots: tuple[Spot, ...] = ()
    texts: tuple[tuple[str, Point, float], ...] = ()
    paths: list[QPainterPath] = field(default_factory=list)
    fills: list[QPainterPath] = field(default_factory=list)
    points: list[np.ndarray] = field(default_factory=list)
    box: QRectF = field(default_factory=QRectF)


class FlatCanvas(QWidget):
    """A pane of flat curves: drag moves it, the wheel comes nearer at the pointer, F shows all of it."""

    pointed = Signal(int)
    clicked = Signal(int)
    area_clicked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(320, 240)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Drawing")
        self.scale, self.centre = 1.0, QPointF()
        self.hovered, self.chosen = -1, frozenset[int]()
        self._shown = _Shown()
        self._pressed: QPointF | None = None
        self._moved = False
        self._is_fitted = True
        self.empty_text = ""

    # --- what is shown -------------------------------------------------------------------------------

    def show_curves(
        self, strokes: Sequence[Stroke], areas: Sequence[Area] = (), spots: Sequence[Spot] = (),
        texts: Sequence[tuple[str, Point, float]] = (), *, keep: bool = False,
    ) -> None:  # fmt: skip
        """Show curves, filled areas, marked places and texts.

        Args:
            keep: whether the pane stays where it is.
        """
        shown = _Shown(tuple(strokes), tuple(areas), tuple(spots), tuple(texts))
        rough = [sampled(stroke.curve, 1e9) for stroke in strokes]
        arcs = [stroke.curve for stroke in strokes if isinstance(stroke.curve, Arc)]
        rough += [np.array([np.subtract(a.centre, a.radius), np.add(a.centre, a.radius)]) for a in arcs]
        if rough:
            whole = np.concatenate(rough)
            (left, low), (right, high) = whole.min(axis=0), whole.max(axis=0)
            shown.box = QRectF(left, -high, max(right - left, 1e-9), max(high - low, 1e-9))
        chord = max(shown.box.width(), shown.box.height(), 1e-9) * _FINE
        shown.paths = [path_of(stroke.curve, chord) for stroke in strokes]
        shown.points = [
            np.stack([p[:, 0], -p[:, 1]], axis=1) for p in (sampled(s.curve, 5 * chord) for s in strokes)
        ]
        for area in areas:
            fill = QPainterPath()
            fill.setFillRule(Qt.FillRule.OddEvenFill)
            for loop in area.loops:
                run = [sampled(curve, chord)[:: -1 if back else 1] for curve, back in loop]
                points = np.concatenate(run)
                fill.moveTo(points[0][0], -points[0][1])
                for x, y in points[1:].tolist():
                    fill.lineTo(x, -y)
                fill.closeSubpath()
            shown.fills.append(fill)
        self._shown = shown
        self.hovered = -1
        if not keep or self._is_fitted:
            self.fit()
        self.update()

    def choose(self, keys: Sequence[int]) -> None:
        """Mark curves."""
        self.chosen = frozenset(keys)
        self.update()

    def fit(self) -> None:
        """Show all of it."""
        box = self._shown.box
        self._is_fitted = True
        if box.isEmpty() or not self.width():
            self.update()
            return
        self.centre = box.center()
        room = 1 - 2 * _MARGIN
        self.scale = min(self.width() * room / box.width(), self.height() * room / box.height())
        self.update()

    def go_to(self, point: Point) -> None:
        """Bring a place into the middle, near enough to be seen."""
        self._is_fitted = False
        self.centre = QPointF(point[0], -point[1])
        box = self._shown.box
        self.scale = max(
            self.scale, 6 * min(self.width(), self.height()) / max(box.width(), box.height(), 1e-9)
        )
        self.update()

    def at(self, place: QPointF) -> QPointF:
        """Where on the sheet a place of the pane is, y downwards."""
        x, y = place.x() - self.width() / 2, place.y() - self.height() / 2
        return QPointF(self.centre.x() + x / self.scale, self.centre.y() + y / self.scale)

    def place_of(self, point: Point) -> QPointF:
        """Where in the pane a point of the sheet is."""
        middle = QPointF(self.width() / 2, self.height() / 2)
        return (QPointF(point[0], -point[1]) - self.centre) * self.scale + middle

    # --- mouse and keys ------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin to move, or to click."""
        self._pressed, self._moved = event.position(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the sheet, or point at a curve."""
        if self._pressed is not None and event.buttons():
            step = event.position() - self._pressed
            if self._moved or step.manhattanLength() > 3:
                self._moved = True
                self._is_fitted = False
                self.centre -= QPointF(step.x() / self.scale, step.y() / self.scale)
                self._pressed = event.position()
                self.update()
            return
        near = self.curve_near(event.position())
        if near != self.hovered:
            self.hovered = near
            self.pointed.emit(near)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End a move; a click chooses what is there."""
        if self._pressed is not None and not self._moved:
            near = self.curve_near(event.position())
            if near >= 0:
                self.clicked.emit(near)
            else:
                point = self.at(event.position())
                inside = [
                    a.key
                    for a, f in zip(self._shown.areas, self._shown.fills, strict=True)
                    if f.contains(point)
                ]
                if inside:
                    self.area_clicked.emit(inside[-1])
        self._pressed = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Come nearer, or go farther, at the pointer."""
        self.come(_ZOOM ** (event.angleDelta().y() / 120), event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """F fits, + and - come nearer and go farther, arrows move."""
        middle = QPointF(self.width() / 2, self.height() / 2)
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_F:
            self.fit()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.come(_ZOOM, middle)
        elif key == Qt.Key.Key_Minus:
            self.come(1 / _ZOOM, middle)
        elif key in steps:
            self._is_fitted = False
            self.centre += QPointF(*steps[key]) * (self.width() / 8 / self.scale)
            self.update()
        else:
            super().keyPressEvent(event)

    def come(self, factor: float, place: QPointF) -> None:
        """Come nearer by a factor, keeping what is at a place of the pane."""
        kept = self.at(place)
        self._is_fitted = False
        self.scale = min(max(self.scale * factor, 1e-9), 1e9)
        self.centre += kept - self.at(place)
        self.update()

    def curve_near(self, place: QPointF) -> int:
        """The key of the curve at a place of the pane, -1 for none."""
        point = self.at(place)
        here = np.array([point.x(), point.y()])
        best, found = _NEAR / self.scale, -1
        for stroke, points in zip(self._shown.strokes, self._shown.points, strict=True):
            if stroke.key < 0:
                continue
            start, along = points[:-1], np.diff(points, axis=0)
            square = np.maximum((along**2).sum(axis=1), 1e-300)
            share = np.clip(((here - start) * along).sum(axis=1) / square, 0.0, 1.0)
            off = float(np.linalg.norm(here - start - share[:, None] * along, axis=1).min())
            if off < best:
                best, found = off, stroke.key
        return found

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep all in view where it was."""
        if self._is_fitted:
            self.fit()
        super().resizeEvent(event)

    # --- drawing -------------------------------------------------------------------------------------

    def paintEvent(self, event: object) -> None:
        """Areas, curves, texts, marked places."""
        painter, colours, shown = QPainter(self), palette(), self._shown
        painter.fillRect(self.rect(), QColor(colours.sheet))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not shown.strokes:
            painter.setPen(QColor(colours.quiet))
            painter.setFont(font(13))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.empty_text)
            painter.end()
            return
        painter.save()
        painter.translate(self.width() / 2, self.height() / 2)
        painter.scale(self.scale, self.scale)
        painter.translate(-self.centre)
        for area, fill in zip(shown.areas, shown.fills, strict=True):
            painter.fillPath(fill, QColor(colours.accent_soft if area.is_chosen else colours.field))
        for stroke, path in zip(shown.strokes, shown.paths, strict=True):
            painter.strokePath(path, self._pen(stroke))
        painter.restore()
        self._paint_texts(painter)
        words: list[QRectF] = []
        for spot in shown.spots:
            self._paint_spot(painter, spot, words)
        painter.end()

    def _pen(self, stroke: Stroke) -> QPen:
        colours = palette()
        marked = stroke.key >= 0 and (stroke.key == self.hovered or stroke.key in self.chosen)
        colour = QColor(colours.accent if marked else colours.line if stroke.is_faint else stroke.colour)
        if (
            not marked and not stroke.is_faint and colour.lightness() > 200
        ):  # what was meant for a dark ground
            colour = colour.darker(180)
        width = 3.0 if marked else 1.6 if stroke.style is LineStyle.WIDE else 1.0
        pen = QPen(colour, width)
        pen.setCosmetic(True)
        if dashes := _DASHES.get(stroke.style):
            pen.setDashPattern(dashes)
        return pen

    def _paint_texts(self, painter: QPainter) -> None:
        painter.setPen(QColor(palette().quiet))
        for text, point, height in self._shown.texts:
            size = height * self.scale
            if 4 <= size <= 200:
                painter.setFont(font(min(size, 40)))
                painter.drawText(self.place_of(point), text.partition("\n")[0])

    def _paint_spot(self, painter: QPainter, spot: Spot, words: list[QRectF]) -> None:
        """The mark, and its word where that does not run into another."""
        colours, at = palette(), self.place_of(spot.point)
        colour = QColor(colours.brick if spot.kind == "open" else colours.ochre)
        painter.setPen(QPen(colour, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if spot.kind == "open":
            painter.drawEllipse(at, 6, 6)
        elif spot.kind == "double":
            painter.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10))
        else:
            painter.drawLine(at + QPointF(-5, -5), at + QPointF(5, 5))
            painter.drawLine(at + QPointF(-5, 5), at + QPointF(5, -5))
        painter.setFont(font(11))
        box = QRectF(at.x() + 9, at.y() - 17, 7.0 * len(spot.kind), 14)
        if not any(box.intersects(other) for other in words):
            words.append(box)
            painter.drawText(at + QPointF(9, -6), spot.kind)
