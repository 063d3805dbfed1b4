"""What can be chosen when triangles are sent, or meshes go as solids."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QWidget

from gondrel.ui.widgets.labels import quiet

__all__ = ["MeshOptions"]

_ROWS: tuple[tuple[str, str, tuple[tuple[str, str], ...]], ...] = (
    ("chord", "Triangles within", (("", "1/2000 of size"), ("0.1", "0.1 mm"), ("0.05", "0.05 mm"),
                                   ("0.01", "0.01 mm"), ("0.001", "0.001 mm"))),
    ("angle", "Turning by", (("", "15\u00b0 at most"), ("30", "30\u00b0 at most"), ("5", "5\u00b0 at most"),
                             ("1", "1\u00b0 at most"))),
    ("files", "Files", (("", "one for all"), ("each", "one for each part"))),
)  # fmt: skip


class MeshOptions(QWidget):
    """Chord, angle and files of a mesh; cylinders of meshes that go as solids."""

    chosen = Signal(str, str)

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(0, 1)
        self.boxes: dict[str, QComboBox] = {}
        self.labels = []
        for row, (key, title, choices) in enumerate(_ROWS):
            label = quiet(title)
            label.setWordWrap(False)
            box = self.boxes[key] = QComboBox()
            box.setMinimumWidth(130)
            box.setAccessibleName(title)
            for value, text in choices:
                box.addItem(text, value)
            box.currentIndexChanged.connect(
                lambda _, key=key: self.chosen.emit(key, str(self.boxes[key].currentData()))
            )
            grid.addWidget(label, row, 0)
            grid.addWidget(box, row, 1)
            self.labels.append(label)
        self.cylinders = QCheckBox("Recognise cylinders in meshes")
        self.cylinders.toggled.connect(lambda on: self.chosen.emit("cylinders", "yes" if on else ""))
        grid.addWidget(self.cylinders, len(_ROWS), 0, 1, 2)
        self.show_for(is_mesh=False, has_meshes=False)

    def show_for(self, *, is_mesh: bool, has_meshes: bool) -> None:
        """Show what a target and a model leave to choose."""
        for widget in (*self.boxes.values(), *self.labels):
            widget.setVisible(is_mesh)
        self.cylinders.setVisible(has_meshes and not is_mesh)
        self.setVisible(is_mesh or has_meshes)

    def show_values(self, values: Mapping[str, str]) -> None:
        """Show what is chosen."""
        for key, box in self.boxes.items():
            box.blockSignals(True)
            box.setCurrentIndex(max(box.findData(values.get(key, "")), 0))
            box.blockSignals(False)
        self.cylinders.blockSignals(True)
        self.cylinders.setChecked(values.get("cylinders", "") == "yes")
        self.cylinders.blockSignals(False)
