"""What the stage says while there is no model: what to do first, what is loading, what can be recovered."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from gondrel.ui.session.persistence import Lost, lost_crossings
from gondrel.ui.session.session import Session
from gondrel.ui.widgets.bar import Bar
from gondrel.ui.widgets.labels import empty_layout, head
from gondrel.ui.widgets.theme import font

__all__ = ["Welcome"]

_RECENT = 5
_NOTICE = 120


_DROP = "Drop a STEP, IGES, Parasolid XT or mesh file, or a saved crossing, anywhere in this window."


class Welcome(QWidget):
    """Title, two buttons, recent files, and what an earlier end left unsaved."""

    open_wanted = Signal()
    demo_wanted = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setObjectName("welcome")
        self.column = QVBoxLayout(self)
        self.column.setSpacing(8)
        self.bar = Bar()
        self.title, self.text = QLabel(""), QLabel("")
        self.lost: list[Lost] = []
        self._shown: object = None
        session.tasks.changed.connect(self.refresh)
        session.model_changed.connect(self.refresh)
        session.settings.changed.connect(self.refresh)
        session.failed.connect(lambda error: self.refresh())
        self.look_for_lost()

    def look_for_lost(self) -> None:
        """See whether crossings can be recovered."""
        self.lost = lost_crossings()
        self._shown = None
        self.refresh()

    def refresh(self) -> None:
        """Show what is loading, or what can be done."""
        session = self.session
        task = session.tasks.shown()
        if session.model is not None:
            return
        loading = task.title if task is not None else ""
        state = (loading, session.settings.now.recent, len(self.lost), session.error, font(1).pixelSize())
        if state != self._shown:
            self._shown = state
            self._build(loading)
        if task is not None:
            self.bar.show_share(task.share)
            self.text.setText(f"{task.text} \u2026" if task.text else "Beginning \u2026")

    def _build(self, loading: str) -> None:
        empty_layout(self.column)
        if self.session.error is not None and not loading:
            self.column.addSpacing(_NOTICE)  # the notice with the reason lies over the top
        self.column.addStretch(2)
        self.title = QLabel(loading or self._heading())
        self.title.setFont(font(20, QFont.Weight.DemiBold))
        self.title.setWordWrap(True)
        self.title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.column.addWidget(self.title)
        self.text = QLabel("" if loading else _DROP)
        self.text.setProperty("role", "quiet")
        self.text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.text.setWordWrap(True)
        self.column.addWidget(self.text)
        if loading:
            self._build_loading()
        else:
            self._build_choices()
        self.column.addStretch(3)

    def _heading(self) -> str:
        if self.session.error is not None:
            return "That could not be received"
        return "Receive a model to see what it carries"

    def _build_loading(self) -> None:
        self.bar = Bar()
        self.bar.setFixedWidth(280)
        self.column.addSpacing(6)
        self.column.addWidget(self.bar, 0, Qt.AlignmentFlag.AlignCenter)
        stop = QPushButton("Stop")
        stop.setMinimumWidth(110)
        stop.clicked.connect(self.session.tasks.cancel)
        self.column.addSpacing(6)
        self.column.addWidget(stop, 0, Qt.AlignmentFlag.AlignCenter)

    def _build_choices(self) -> None:
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        choose = QPushButton("Choose a file")
        choose.setProperty("role", "main")
        choose.clicked.connect(self.open_wanted)
        demo = QPushButton("Look at the demo")
        demo.clicked.connect(self.demo_wanted)
        for button in (choose, demo):
            button.setMinimumWidth(160)
            button.setMinimumHeight(42)
            buttons.addWidget(button)
        buttons.addStretch(1)
        self.column.addSpacing(8)
        self.column.addLayout(buttons)
        if self.lost:
            self._build_lost()
        recent = [p for p in self.session.settings.now.recent if Path(p).is_file()][:_RECENT]
        if recent:
            self.column.addSpacing(16)
            self.column.addWidget(head("Recent"), 0, Qt.AlignmentFlag.AlignCenter)
            for path in recent:
                link = QPushButton(Path(path).name)
                link.setProperty("role", "link")
                link.setToolTip(path)
                link.clicked.connect(lambda _=False, p=path: self.session.open_file(p))
                self.column.addWidget(link, 0, Qt.AlignmentFlag.AlignCenter)

    def _build_lost(self) -> None:
        self.column.addSpacing(16)
        self.column.addWidget(head("Left unsaved"), 0, Qt.AlignmentFlag.AlignCenter)
        for lost in self.lost[:3]:
            line = QHBoxLayout()
            line.addStretch(1)
            line.addWidget(QLabel(f"{lost.name}, kept {lost.when:%d %b %H:%M}"))
            take = QPushButton("Recover")
            take.clicked.connect(lambda _=False, one=lost: self._recover(one))
            drop = QPushButton("Discard")
            drop.clicked.connect(lambda _=False, one=lost: self._discard(one))
            line.addWidget(take)
            line.addWidget(drop)
            line.addStretch(1)
            self.column.addLayout(line)

    def _recover(self, lost: Lost) -> None:
        self.lost = [other for other in self.lost if other is not lost]
        self.session.persistence.recover(lost)

    def _discard(self, lost: Lost) -> None:
        lost.path.unlink(missing_ok=True)
        self.look_for_lost()
