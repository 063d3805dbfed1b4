"""The choices of taking apart, over the picture."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSlider, QVBoxLayout

from gondrel.ui.session.session import Session
from gondrel.ui.widgets.labels import plain
from gondrel.ui.widgets.theme import scaled

__all__ = ["ExplodePanel"]

_STEPS = 200


class ExplodePanel(QFrame):
    """How far, down to which level, and which way the component that is selected goes."""

    view_wanted = Signal()
    resized = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.setObjectName("stagepanel")
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 7, 12, 7)
        column.setSpacing(5)
        line = QHBoxLayout()
        line.setSpacing(6)
        line.addWidget(plain("apart"))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, _STEPS)
        self.slider.setMinimumWidth(scaled(150))
        self.slider.setAccessibleName("How far it is taken apart")
        self.slider.valueChanged.connect(self._moved)
        line.addWidget(self.slider, 1)
        line.addWidget(plain("down to level"))
        self.levels = QHBoxLayout()
        self.levels.setSpacing(3)
        self.level_buttons: list[QPushButton] = []
        line.addLayout(self.levels)
        self.keep = QPushButton("Keep view")
        self.keep.setProperty("role", "chipbutton")
        self.keep.clicked.connect(self.view_wanted)
        line.addWidget(self.keep)
        column.addLayout(line)
        self.told = plain("")
        self.told.setProperty("role", "quiet")
        column.addWidget(self.told)
        session.exploding.changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        self.refresh()

    def _moved(self, value: int) -> None:
        self.session.exploding.set_spread(value / _STEPS)

    def refresh(self) -> None:
        """Show the state of it."""
        exploding = self.session.exploding
        self.setVisible(exploding.is_on)
        if not exploding.is_on:
            return
        self.slider.blockSignals(True)
        self.slider.setValue(round(exploding.spread * _STEPS))
        self.slider.blockSignals(False)
        depth = exploding.explosion.depth if exploding.explosion is not None else 1
        while len(self.level_buttons) < depth:
            number = len(self.level_buttons) + 1
            button = QPushButton(str(number))
            button.setProperty("role", "chipbutton")
            button.setCheckable(True)
            button.setAccessibleName(f"Level {number}")
            button.clicked.connect(lambda _=False, n=number: exploding.set_level(n))
            self.level_buttons.append(button)
            self.levels.addWidget(button)
        for number, button in enumerate(self.level_buttons, 1):
            button.setVisible(number <= depth)
            button.setChecked(number == exploding.level)
        self.told.setText(self._said())
        self.resized.emit()

    def _said(self) -> str:
        """Which way the selected component goes and why."""
        exploding, model = self.session.exploding, self.session.model
        if exploding.explosion is None or model is None:
            return "looking how parts come apart \u2026"
        chosen = self.session.selection
        step = next(iter(sorted(chosen[0][-1])), "") if chosen and chosen[0] else ""
        leave = exploding.explosion.leaves.get(step)
        if leave is None:
            return "Select a component to see which way it goes; Alt and drag draws it out"
        use = next((use for _, use in model.occurrences() if use.id == step), None)
        name = "It" if use is None else use.name or model.product(use.product).label
        return f"{name}: {leave.why}, {self.session.figures.length(leave.distance)}"
