"""The saved recipes of one purpose: taken, kept, dropped."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QInputDialog, QPushButton, QWidget

from gondrel.core.errors import GondrelError
from gondrel.core.service.recipes import recipes, save_recipe, without_recipe

__all__ = ["RecipeRow"]


class RecipeRow(QWidget):
    """A box of recipes with Keep and, for the one that is chosen, Drop.

    Args:
        purpose: of the recipes; none: what the box says while none is chosen.
        values: the choices to be kept; refused: told an error.
    """

    taken = Signal(object)

    def __init__(
        self, purpose: str, none: str, values: Callable[[], Mapping[str, str]],
        refused: Callable[[GondrelError], None], parent: Any = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.purpose, self.none = purpose, none
        self._values, self._refused = values, refused
        self.box = QComboBox()
        self.box.setAccessibleName("Recipe")
        self.box.setMinimumContentsLength(3)
        self.box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.box.activated.connect(self._take)
        self.keep = QPushButton("Keep\u2026")
        self.keep.setToolTip("Keep these choices under a name")
        self.keep.clicked.connect(self._ask_name)
        self.drop = QPushButton("Drop")
        self.drop.setToolTip("Forget the chosen recipe")
        self.drop.clicked.connect(self._drop)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        row.addWidget(self.box, 1)
        for button in (self.keep, self.drop):
            button.setProperty("role", "tool")
            row.addWidget(button)
        self.show_saved()

    @property
    def chosen(self) -> str:
        """Name of the recipe that is chosen, empty for none."""
        return str(self.box.currentData() or "")

    def show_saved(self, chosen: str = "") -> None:
        """List the saved recipes."""
        self.box.clear()
        self.box.addItem(self.none, "")
        try:
            for recipe in recipes(self.purpose):
                self.box.addItem(recipe.name, recipe.name)
        except GondrelError:
            self.box.addItem("(the saved recipes can't be read)", "")
        self.box.setCurrentIndex(max(self.box.findData(chosen), 0))
        self._follow()

    def _follow(self) -> None:
        self.box.setToolTip(self.chosen)  # a long name is cut in the box
        self.drop.setVisible(bool(self.chosen))

    def keep_as(self, name: str) -> None:
        """Keep the choices as a recipe of this name."""
        try:
            save_recipe(name, self.purpose, self._values())
        except GondrelError as error:
            self._refused(error)
            return
        self.show_saved(name.strip())

    def _take(self) -> None:
        name = self.chosen
        self._follow()
        saved = {r.name: dict(r.values) for r in recipes(self.purpose)} if name else {}
        self.taken.emit(saved.get(name, {}))

    def _ask_name(self) -> None:
        name, done = QInputDialog.getText(self, "Keep as a recipe", "Name of the recipe", text=self.chosen)
        if done and name.strip():
            self.keep_as(name)

    def _drop(self) -> None:
        if self.chosen:
            without_recipe(self.chosen, self.purpose)
            self.show_saved()
