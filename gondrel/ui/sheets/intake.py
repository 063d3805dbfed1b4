"""The choices of a receive, and the recipes they can be kept as."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.errors import GondrelError
from gondrel.ui.sheets.recipe_row import RecipeRow
from gondrel.ui.widgets.labels import head, quiet

__all__ = ["IntakeForm"]

_KINDS = (
    ("solids", "Solids"), ("sheets", "Sheets"), ("wires", "Curves"), ("points", "Points"),
    ("meshes", "Meshes"), ("reference", "Reference"),
)  # fmt: skip
_CHOICES: tuple[tuple[str, str, tuple[tuple[str, str], ...]], ...] = (
    ("unit", "Numbers in", (("", "the file's unit"), ("mm", "millimetre"), ("cm", "centimetre"),
                            ("m", "metre"), ("inch", "inch"), ("foot", "foot"))),
    ("structure", "Structure", (("kept", "as it is"), ("flat", "all in one part"))),
    ("loose", "Loose bodies", (("one", "stay together"), ("each", "a part for each"))),
    ("names", "Names from", (("product", "the product"), ("number", "the number"),
                             ("file", "the file"))),
    ("join", "Join faces", (("auto", "as needed"), ("off", "leave loose"),
                               ("0.001", "within 0.001 mm"), ("0.01", "within 0.01 mm"),
                               ("0.1", "within 0.1 mm"))),
    ("shapes", "Shapes", (("", "by the file's size"), ("all", "all at once"),
                          ("asked", "when asked for"))),
    ("facets", "Meshes", (("mesh", "stay meshes"), ("solid", "solids of planes"),
                          ("shaped", "with cylinders"))),
)  # fmt: skip
_MOST_LAYERS_SEEN = 5


class IntakeForm(QWidget):
    """Choices of what to take in; told as KEY=VALUE pairs, only where they differ from taking all.

    Args:
        refused: told when a recipe can't be kept.
    """

    changed = Signal()

    def __init__(self, refused: Callable[[GondrelError], None], parent: Any = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(head("Recipe"))
        self.recipe = RecipeRow("receive", "Everything, as sent", self.values, refused)
        self.recipe.taken.connect(self.show_values)
        column.addWidget(self.recipe)
        column.addWidget(head("How"))
        self.boxes: dict[str, QComboBox] = {}
        rows = QGridLayout()
        rows.setVerticalSpacing(6)
        rows.setColumnStretch(1, 1)
        for row, (key, title, choices) in enumerate(_CHOICES):
            rows.addWidget(_label(title), row, 0)
            box = self.boxes[key] = QComboBox()
            box.setAccessibleName(title)
            for value, text in choices:
                box.addItem(text, value)
            box.setMinimumContentsLength(12)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            rows.addWidget(box, row, 1)
        rows.addWidget(_label("Scale by"), len(_CHOICES), 0)
        self.scale = QLineEdit()
        self.scale.setPlaceholderText("1")
        self.scale.setAccessibleName("Scale by")
        rows.addWidget(self.scale, len(_CHOICES), 1)
        rows.addWidget(_label("Goes to"), len(_CHOICES) + 1, 0)
        self.where = QComboBox()
        self.where.setAccessibleName("Goes to")
        self.where.setMinimumContentsLength(12)
        self.where.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        rows.addWidget(self.where, len(_CHOICES) + 1, 1)
        column.addLayout(rows)
        column.addWidget(head("Take in"))
        self.kinds = {key: QCheckBox(text) for key, text in _KINDS}
        grid = QGridLayout()
        grid.setVerticalSpacing(4)
        for place, taken in enumerate(self.kinds.values()):
            grid.addWidget(taken, place // 2, place % 2)
        self.colours = QCheckBox("Colours")
        grid.addWidget(self.colours, 3, 0)
        column.addLayout(grid)
        self.layers_head = head("Layers")
        self.layers = QListWidget()
        self.layers.setAccessibleName("Layers to take in")
        column.addWidget(self.layers_head)
        column.addWidget(self.layers)
        for taken in (*self.kinds.values(), self.colours):
            taken.toggled.connect(lambda _: self.changed.emit())
        for choice in (*self.boxes.values(), self.where):
            choice.currentIndexChanged.connect(lambda _: self.changed.emit())
        self.show_values({})

    # --- showing ---------------------------------------------------------------------------

    def show_values(self, values: dict[str, str]) -> None:
        """Show settings given as KEY=VALUE pairs."""
        wanted = values.get("kinds")
        taken = {key for key, _ in _KINDS} if wanted is None else set(wanted.split(","))
        for key, box in self.kinds.items():
            box.setChecked(key in taken)
        self.colours.setChecked(values.get("colours", "yes") != "no")
        for key, choice in self.boxes.items():
            value = values.get(key, "")
            place = choice.findData(value)
            if place < 0 and value:
                choice.addItem(f"within {value} mm" if key == "join" else value, value)
                place = choice.count() - 1
            choice.setCurrentIndex(max(place, 0))
        self.scale.setText(values.get("scale", ""))
        if "layers" in values:
            chosen = set(values["layers"].split(","))
            for item in self._layer_items():
                ticked = item.data(Qt.ItemDataRole.UserRole) in chosen
                item.setCheckState(Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked)

    def show_unit(self, unit: str) -> None:
        """Say which unit the file's own is; without one millimetres are assumed."""
        self.boxes["unit"].setItemText(0, f"{unit}, as the file says" if unit else "mm, assumed")

    def show_layers(self, layers: Sequence[tuple[str, int]]) -> None:
        """List layers with how much is on each, all ticked; nothing when the file says none."""
        self.layers.clear()
        for name, count in layers:
            item = QListWidgetItem(f"{name}   {count}")
            item.setData(Qt.ItemDataRole.UserRole, name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.layers.addItem(item)
        shown = min(len(layers), _MOST_LAYERS_SEEN)
        self.layers.setFixedHeight(shown * 24 + 6)
        for widget in (self.layers, self.layers_head):
            widget.setVisible(bool(layers))

    def show_places(self, places: Sequence[tuple[str, str]], chosen: str) -> None:
        """List where what is received can go."""
        self.where.clear()
        for key, text in places:
            self.where.addItem(text, key)
        self.where.setCurrentIndex(max(self.where.findData(chosen), 0))

    # --- reading ---------------------------------------------------------------------------

    def values(self) -> dict[str, str]:
        """The choices as KEY=VALUE pairs; what is as sent is left out."""
        values: dict[str, str] = {}
        ticked = [key for key, box in self.kinds.items() if box.isChecked()]
        if len(ticked) < len(self.kinds):
            values["kinds"] = ",".join(ticked)
        if not self.colours.isChecked():
            values["colours"] = "no"
        items = self._layer_items()
        on = [i.data(Qt.ItemDataRole.UserRole) for i in items if i.checkState() is Qt.CheckState.Checked]
        if len(on) < len(items):
            values["layers"] = ",".join(on)
        for key, box in self.boxes.items():
            if box.currentIndex() > 0:
                values[key] = str(box.currentData())
        if self.scale.text().strip() not in ("", "1"):
            values["scale"] = self.scale.text().strip().replace(",", ".")
        return values

    def _layer_items(self) -> list[QListWidgetItem]:
        return [self.layers.item(i) for i in range(self.layers.count())]


def _label(text: str) -> QLabel:
    label = quiet(text)
    label.setWordWrap(False)
    return label
