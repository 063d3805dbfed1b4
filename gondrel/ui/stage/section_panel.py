"""The choices of the section, over the picture."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QDoubleSpinBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from gondrel.core.reports.figures import count_of
from gondrel.ui.session.session import Session
from gondrel.ui.widgets.labels import empty_layout, plain
from gondrel.ui.widgets.theme import scaled

__all__ = ["SectionPanel"]

_INCH = 25.4


class SectionPanel(QFrame):
    """Direction, height, more planes, what stays whole, and what is cut."""

    pick_wanted = Signal(str)
    box_wanted = Signal()
    axis_wanted = Signal(int)
    outline_wanted = Signal()
    view_wanted = Signal()
    resized = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.setObjectName("stagepanel")
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 7, 12, 7)
        column.setSpacing(5)
        self.buttons: dict[str, QPushButton] = {}
        first, second = QHBoxLayout(), QHBoxLayout()
        for line in (first, second):
            line.setSpacing(4)
            column.addLayout(line)
        for key, text in (("x", "X"), ("y", "Y"), ("z", "Z"), ("flip", "Flip")):
            first.addWidget(self._button(key, text))
        first.addSpacing(6)
        first.addWidget(self._height())
        first.addSpacing(6)
        for key, text in (("face", "By face"), ("points", "By points")):
            first.addWidget(self._button(key, text))
        self.planes = QHBoxLayout()
        self.planes.setSpacing(4)
        first.addLayout(self.planes)
        first.addStretch(1)
        self.whole = QCheckBox("Shafts and screws whole")
        self.whole.clicked.connect(session.sectioning.leave_whole)
        second.addWidget(self.whole)
        second.addSpacing(8)
        self.told = plain("")
        self.told.setProperty("role", "quiet")
        second.addWidget(self.told, 1)
        for key, text in (("outline", "Save outline\u2026"), ("view", "Keep view")):
            second.addWidget(self._button(key, text))
        self._connect()
        self.refresh()

    def _button(self, key: str, text: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("role", "chipbutton")
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.buttons[key] = button
        return button

    def _height(self) -> QDoubleSpinBox:
        self.height_box = QDoubleSpinBox()
        self.height_box.setRange(-1e6, 1e6)
        self.height_box.setKeyboardTracking(False)
        self.height_box.setFixedWidth(scaled(104))
        self.height_box.setAccessibleName("Height of the section plane")
        self.height_box.valueChanged.connect(self._height_typed)
        return self.height_box

    def _connect(self) -> None:
        sectioning = self.session.sectioning
        for axis, key in enumerate("xyz"):
            self.buttons[key].setCheckable(True)
            self.buttons[key].clicked.connect(lambda _=False, a=axis: self.axis_wanted.emit(a))
        self.buttons["flip"].clicked.connect(sectioning.flip)
        for key in ("face", "points"):
            self.buttons[key].setCheckable(True)
            self.buttons[key].clicked.connect(
                lambda on=False, k=key: self.pick_wanted.emit(k if on else "")
            )
        self.buttons["outline"].clicked.connect(self.outline_wanted)
        self.buttons["view"].clicked.connect(self.view_wanted)
        sectioning.changed.connect(self.refresh)
        sectioning.ready.connect(self.refresh)

    def show_picking(self, what: str) -> None:
        """Show what is being picked in the picture, "" for nothing."""
        for key in ("face", "points"):
            self.buttons[key].setChecked(what == key)
        self.refresh()

    @property
    def _factor(self) -> float:
        return _INCH if self.session.figures.is_inch else 1.0

    def _height_typed(self, value: float) -> None:
        self.session.sectioning.put_at(value * self._factor)

    def refresh(self) -> None:
        """Show the state of the section."""
        sectioning, figures = self.session.sectioning, self.session.figures
        self.setVisible(sectioning.is_on)
        plane = sectioning.plane
        if plane is None:
            return
        unit = plane.unit
        for axis, key in enumerate("xyz"):
            self.buttons[key].setChecked(bool(abs(unit[axis]) > 1 - 1e-9))
        self.height_box.blockSignals(True)
        self.height_box.setDecimals(4 if figures.is_inch else 3)
        self.height_box.setSuffix(" in" if figures.is_inch else " mm")
        self.height_box.setSingleStep(0.05 if figures.is_inch else 1.0)
        self.height_box.setValue(sectioning.height / self._factor)
        self.height_box.blockSignals(False)
        self._show_planes()
        self.whole.setChecked(sectioning.leaves_whole)
        self.told.setText(self._said())
        self.resized.emit()

    def _show_planes(self) -> None:
        sectioning = self.session.sectioning
        empty_layout(self.planes)
        count = len(sectioning.cut.planes)
        for index in range(count) if count > 1 else ():
            button = QPushButton(str(index + 1))
            button.setProperty("role", "chipbutton")
            button.setCheckable(True)
            button.setChecked(index == sectioning.current)
            button.setAccessibleName(f"Plane {index + 1}")
            button.clicked.connect(lambda _=False, i=index: sectioning.choose(i))
            self.planes.addWidget(button)
        within = sectioning.cut.keeps_within
        entries = [("corner", "+ plane", sectioning.add_plane)] if count < 3 and not within else []
        entries += (
            [("drop", "\u2212 plane" if not within else "No box", sectioning.drop_plane)]
            if count > 1
            else []
        )
        entries += [("box", "Box", self.box_wanted.emit)] if count == 1 else []
        for key, text, act in entries:
            button = self._button(key, text)
            button.clicked.connect(lambda _=False, run=act: run())
            self.planes.addWidget(button)
        self.planes.addStretch(1)

    def _said(self) -> str:
        sectioning, figures = self.session.sectioning, self.session.figures
        if self.buttons["face"].isChecked():
            return "Click a face or a straight edge"
        if self.buttons["points"].isChecked():
            return "Click three points"
        ours = sectioning.sections[0]
        if not ours.placed:
            return "cutting \u2026" if sectioning.is_making else "cuts nothing"
        parts = len({(s.path, s.body) for s in ours.placed})
        text = f"{figures.area(ours.area)} in {count_of(parts, 'body')}"
        theirs = sectioning.sections[1]
        if theirs.placed:
            text += f", returned {figures.area(theirs.area)}"
        if ours.refused:
            text += f"; not cut: {', '.join(ours.refused[:2])}"
        return text
