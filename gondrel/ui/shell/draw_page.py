"""The page of drawings: which views, how their lines are drawn, a look at them, and where they go."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.model.drawing import Drawing, DrawWish
from gondrel.core.model.outline import FlatLine, LineStyle
from gondrel.core.reports.drawing_page import SHEETS
from gondrel.core.reports.figures import count_of
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.widgets.flat_canvas import FlatCanvas, Stroke
from gondrel.ui.widgets.labels import head, quiet
from gondrel.ui.widgets.theme import palette

__all__ = ["DrawPage"]

_VIEWS = ("front", "top", "left", "iso", "right", "back", "bottom", "section x", "section y", "section z",
          "flat")  # fmt: skip
_WORDS = {"iso": "isometric", "flat": "flat faces", "section x": "section across x",
          "section y": "section across y", "section z": "section across z"}  # fmt: skip
_HIDDEN = (("flat", "dashed, not in isometric"), ("dashed", "dashed"), ("none", "left out"))
_LAYERS = (("both", "by part and kind"), ("parts", "by part"), ("kinds", "by kind of line"))
_PROJECTIONS = (("first", "first angle"), ("third", "third angle"))
_CURVES = ("as they are", "as polylines")


class DrawPage(Page):
    """A drawing of the model, or of what is selected, before it is saved."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Draw views", parent, 1180, 720)
        self.session, self.plotting = session, session.plotting
        self.told = quiet("")
        self.column.addWidget(self.told)
        body = QHBoxLayout()
        body.setSpacing(14)
        body.addLayout(self._choices())
        self.canvas = FlatCanvas(self)
        self.canvas.empty_text = "Choose views and draw them"
        body.addWidget(self.canvas, 1)
        body.addLayout(self._sheet())
        self.column.addLayout(body, 1)
        self._connect()
        self.fit = QPushButton("Fit")
        self.fit.clicked.connect(self.canvas.fit)
        self.buttons.insertWidget(0, self.fit)
        self.finish()
        self.plotting.changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.settings.changed.connect(self.refresh)
        self.refresh()

    def _choices(self) -> QVBoxLayout:
        wish, column = self.plotting.wish, QVBoxLayout()
        column.addWidget(head("Views"))
        self.views: dict[str, QCheckBox] = {}
        grid = QHBoxLayout()
        sides = (QVBoxLayout(), QVBoxLayout())
        for place, name in enumerate(_VIEWS):
            box = QCheckBox(_WORDS.get(name, name))
            box.setChecked(name in wish.views)
            box.toggled.connect(self._take)
            self.views[name] = box
            sides[place // 6].addWidget(box)
        for side in sides:
            side.addStretch(1)
            grid.addLayout(side)
        column.addLayout(grid)
        column.addWidget(head("Lines"))
        form = QFormLayout()
        self.hidden, self.layers, self.projection = map(_combo, (_HIDDEN, _LAYERS, _PROJECTIONS))
        self.smooth = QCheckBox("where faces meet smoothly")
        self.curves = QComboBox()
        self.curves.addItems(_CURVES)
        self.chord = QDoubleSpinBox()
        self.chord.setDecimals(4)
        self.chord.setRange(0.0001, 100.0)
        self.chord.setValue(0.05)
        self.chord.setSuffix(" mm off")
        for label, widget in (
            ("Hidden", self.hidden), ("", self.smooth), ("Splines", self.curves), ("", self.chord),
            ("Layers", self.layers), ("Placing", self.projection),
        ):  # fmt: skip
            form.addRow(label, widget)
        column.addLayout(form)
        column.addStretch(1)
        self.draw = QPushButton("Draw")
        self.draw.setProperty("role", "main")
        self.draw.clicked.connect(self._draw)
        column.addWidget(self.draw)
        return column

    def _sheet(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(head("Sheet"))
        sheet = QFormLayout()
        self.version, self.unit, self.format = (QComboBox() for _ in range(3))
        self.version.addItems(["R2010", "R12"])
        self.unit.addItems(["mm", "cm", "m", "inch"])
        self.format.addItems(list(SHEETS))
        self.format.setCurrentText(self.plotting.wish.sheet)
        self.drawn_by, self.remark = QLineEdit(), QLineEdit()
        self.drawn_by.setPlaceholderText(self.session.settings.now.author or "who drew it")
        self.remark.setPlaceholderText("a field of your own")
        self.parts = QCheckBox("parts list and figures")
        self.parts.setChecked(True)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("DXF", self.version), ("Unit", self.unit), ("PDF", self.format), ("Drawn", self.drawn_by),
            ("Remark", self.remark), ("", self.parts),
        )  # fmt: skip
        for label, entry in rows:
            sheet.addRow(label, entry)
        column.addLayout(sheet)
        column.addStretch(1)
        self.save = QPushButton("Save drawing\u2026")
        self.save.clicked.connect(self._choose)
        column.addWidget(self.save)
        return column

    def _connect(self) -> None:
        drawn = (self.hidden, self.layers, self.projection, self.curves)
        for combo in (*drawn, self.version, self.unit, self.format):
            combo.activated.connect(self._take)
        self.smooth.toggled.connect(self._take)
        self.chord.editingFinished.connect(self._take)
        for line in (self.drawn_by, self.remark):
            line.editingFinished.connect(self._take)
        self.chord.setEnabled(False)

    # --- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the drawing as it is now."""
        plotting, drawing = self.plotting, self.plotting.drawing
        there = self.session.model is not None
        whom = "what is selected" if self.session.selected_products() else "everything"
        if plotting.is_busy:
            self.told.setText("Drawing \u2026")
        elif drawing is None:
            self.told.setText(f"Of {whom}" if there else "Nothing is open")
        else:
            self.told.setText(self._said(drawing))
        self.draw.setText("Draw anew" if drawing is not None else f"Draw {whom}")
        self.draw.setEnabled(there and bool(self._wished()))
        self.save.setEnabled(drawing is not None and not plotting.is_busy)
        self.canvas.show_curves(
            [] if drawing is None else list(_strokes(drawing)),
            texts=[] if drawing is None else [text for o in drawing.outlines for text in o.texts],
            keep=drawing is not None,
        )

    def _said(self, drawing: Drawing) -> str:
        show = self.session.figures
        parts = [
            f"{_WORDS.get(v['name'], v['name'])} {show.length(v['visible_length'])}" for v in drawing.views
        ]
        text = f"Seen lines: {', '.join(parts)}"
        if drawing.deviation is not None:
            text += f". Polylines lie off by {show.deviation(drawing.deviation)} at most"
        if drawing.left_out:
            text += f". Not drawn: {', '.join(drawing.left_out[:3])}"
            more = len(drawing.left_out) - 3
            text += f" and {count_of(more, 'more part')}" if more > 0 else ""
        return text

    # --- what the user does ----------------------------------------------------------------------------

    def _wished(self) -> tuple[str, ...]:
        chosen = (name for name, box in self.views.items() if box.isChecked())
        return tuple(name.replace("section ", "section=") for name in chosen)

    def _take(self) -> None:
        polylines = self.curves.currentIndex() == 1
        self.chord.setEnabled(polylines)
        given = (("Drawn", self.drawn_by.text().strip() or self.session.settings.now.author),
                 ("Remark", self.remark.text().strip()))  # fmt: skip
        self.plotting.change(
            views=self._wished() or DrawWish().views,
            hidden=self.hidden.currentData() != "none",
            hidden_iso=self.hidden.currentData() == "dashed",
            smooth=self.smooth.isChecked(),
            version=self.version.currentText(),
            unit=self.unit.currentText(),
            layers=self.layers.currentData(),
            projection=self.projection.currentData(),
            chord=self.chord.value() if polylines else None,
            fields=tuple((label, text) for label, text in given if text),
            sheet=self.format.currentText(),
        )
        self.refresh()

    def _draw(self) -> None:
        self._take()
        self.plotting.draw(self.session.selected_products())

    def _choose(self) -> None:
        name = f"{self.session.crossing.name}.pdf"
        kinds = "PDF (*.pdf);;DXF (*.dxf);;SVG (*.svg)"
        path, kind = QFileDialog.getSaveFileName(self, "Save the drawing", name, kinds)
        if path:
            ending = f".{kind[:3].lower()}"
            self.write(path if Path(path).suffix else f"{path}{ending}")

    def write(self, path: str) -> None:
        """Save the drawing by its ending."""
        self._take()
        self.plotting.write(path, parts_list=self.parts.isChecked())


def _combo(entries: tuple[tuple[str, str], ...]) -> QComboBox:
    box = QComboBox()
    for key, text in entries:
        box.addItem(text, key)
    return box


def _strokes(drawing: Drawing) -> Iterator[Stroke]:
    ink = palette().ink
    for outline in drawing.outlines:
        for start, end in outline.hatching:
            yield Stroke(FlatLine(start, end), outline.colour, LineStyle.NARROW)
        for curve in outline.curves:
            yield Stroke(curve, ink, outline.style)
