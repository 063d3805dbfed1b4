"""The page on which a picture is saved."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QCheckBox, QFileDialog, QPushButton, QWidget

from gondrel.core.errors import GondrelError
from gondrel.core.model.store import write_whole
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.reporting import png_of
from gondrel.ui.widgets.labels import quiet

__all__ = ["PicturePage"]

Shoot = Callable[[bool, bool], QImage | None]


class PicturePage(Page):
    """What the picture is to have, and where it goes: a PNG file, or the clipboard."""

    def __init__(self, session: Session, shoot: Shoot, parent: QWidget) -> None:
        super().__init__("Picture", parent, 380, 240)
        self.session, self.shoot = session, shoot
        self.scale = QCheckBox("Scale bar")
        self.scale.setChecked(True)
        self.clear = QCheckBox("Ground seen through")
        for box in (self.scale, self.clear):
            self.column.addWidget(box)
        self.column.addWidget(quiet("The picture is taken as large as the stage is now."))
        self.column.addStretch(1)
        self.copy = QPushButton("Copy")
        self.copy.clicked.connect(self._copy)
        self.save = QPushButton("Save as PNG\u2026")
        self.save.clicked.connect(self._choose)
        for place, button in ((1, self.copy), (2, self.save)):
            self.buttons.insertWidget(place, button)
        self.finish()

    def _taken(self) -> QImage | None:
        return self.shoot(self.clear.isChecked(), self.scale.isChecked())

    def _copy(self) -> None:
        image = self._taken()
        if image is not None:
            QGuiApplication.clipboard().setImage(image)
            self.session.notice.emit("Picture copied")

    def _choose(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Save the picture", "picture.png", "PNG (*.png)")
        if path:
            self.write(path if Path(path).suffix else f"{path}.png")

    def write(self, path: str) -> None:
        """Save the picture; what keeps it from being saved is told."""
        image = self._taken()
        if image is None:
            return
        try:
            write_whole(Path(path), png_of(image))
        except GondrelError as error:
            self.session.tell_error(error)
            return
        self.session.notice.emit(f"Saved {Path(path).name}")
