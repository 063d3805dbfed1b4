"""What was measured, over the picture: each figure is copied by a click."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QApplication, QCheckBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from gondrel.ui.presenters.measures import apart_rows, size_rows, wall_rows
from gondrel.ui.session.session import Session
from gondrel.ui.widgets.labels import empty_layout, head, plain, quiet
from gondrel.ui.widgets.theme import scaled

__all__ = ["MeasurePanel"]

_WIDTH = 236


class MeasurePanel(QFrame):
    """One or two things, their sizes, and how they stand to one another."""

    wall_wanted = Signal()
    keep_wanted = Signal()
    resized = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.setObjectName("stagepanel")
        self.session = session
        self.setFixedWidth(scaled(_WIDTH))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 9, 12, 10)
        column.setSpacing(5)
        column.addWidget(head("Measure"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        column.addLayout(self.rows)
        self.values: dict[str, str] = {}
        session.measuring.changed.connect(self.refresh)
        session.settings.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what is picked and what it measures."""
        measuring, show = self.session.measuring, self.session.figures
        self.setVisible(measuring.is_on)
        empty_layout(self.rows)
        self.values = {}
        if not measuring.is_on:
            return
        if not measuring.things:
            self.rows.addWidget(quiet("Click a face, an edge or a corner; then another for the distance"))
        for place, thing in enumerate(measuring.things):
            self._thing(place, thing.name)
            measured = measuring.measured
            if measured is not None and (measured.apart is None or len(measuring.things) == 1):
                self._add(size_rows(measured.sizes[place], show))
        if measuring.measured is not None and measuring.measured.apart is not None:
            self._add(apart_rows(measuring.measured.apart, show))
        if measuring.wall is not None:
            self._add(wall_rows(measuring.wall, show))
        if measuring.refused:
            self.rows.addWidget(quiet(measuring.refused))
        elif measuring.things and measuring.measured is None:
            self.rows.addWidget(quiet("measuring \u2026"))
        self._acts()
        self.resized.emit()

    def _thing(self, place: int, name: str) -> None:
        measuring = self.session.measuring
        line = QHBoxLayout()
        label = plain(f"{place + 1}  {name}")
        label.setWordWrap(True)
        label.setProperty("role", "card-text")
        line.addWidget(label, 1)
        if measuring.has_axis(place):
            box = QCheckBox("axis")
            box.setChecked(measuring.by_axis[place])
            box.setAccessibleName(f"Measure thing {place + 1} from its axis")
            box.clicked.connect(lambda on, p=place: measuring.use_axis(p, on))
            line.addWidget(box)
        self.rows.addLayout(line)

    def _add(self, rows: list[tuple[str, str]]) -> None:
        for label, value in rows:
            self.values[label] = value
            line = QHBoxLayout()
            line.setSpacing(6)
            line.addWidget(quiet(label), 0, Qt.AlignmentFlag.AlignTop)
            button = QPushButton(value.replace("  ", "\n"))  # coordinates one below the other
            button.setProperty("role", "figure")
            button.setToolTip("Click to copy")
            button.setAccessibleName(f"{label} {value}, copy")
            button.clicked.connect(lambda _=False, text=value: self._copy(text))
            line.addWidget(button, 1, Qt.AlignmentFlag.AlignRight)
            self.rows.addLayout(line)

    def _copy(self, text: str) -> None:
        QApplication.clipboard().setText(text)
        self.session.notice.emit(f"Copied {text}")

    def _acts(self) -> None:
        measuring = self.session.measuring
        line = QHBoxLayout()
        line.setSpacing(4)
        entries = []
        if len(measuring.things) == 1 and measuring.things[0].kind == "face":
            entries.append(("Wall here", self.wall_wanted.emit))
        if measuring.measured is not None:
            entries.append(("Keep on a view", self.keep_wanted.emit))
        if measuring.things:
            entries.append(("Anew", measuring.forget))
        for text, act in entries:
            button = QPushButton(text)
            button.setProperty("role", "chipbutton")
            button.clicked.connect(lambda _=False, run=act: run())
            line.addWidget(button)
        line.addStretch(1)
        self.rows.addLayout(line)
