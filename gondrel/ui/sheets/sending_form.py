"""The choices of a send: what goes, as what, in which form; kept as recipes."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.errors import GondrelError
from gondrel.core.model import BodyKind
from gondrel.core.recipients.card import Card
from gondrel.core.service.messages import TargetChoice
from gondrel.core.service.recipes import recipes, without_recipe
from gondrel.ui.session.choices import FORMS, SCOPES
from gondrel.ui.session.session import Session
from gondrel.ui.sheets.mesh_options import MeshOptions
from gondrel.ui.widgets.labels import quiet

__all__ = ["SendingForm"]

_UNITS = (("mm", "millimetre"), ("inch", "inch"), ("m", "metre"))
_FORM_TEXTS = {
    "structure": "one file, components", "placed": "one file, bodies in place",
    "linked": "linked files", "nested": "linked, in folders", "each": "each part alone",
}  # fmt: skip
_BODIES = (("", "as they are"), ("surfaces", "as surfaces"))
_SCOPE_TEXTS = {"": "everything", "selected": "what is selected", "fits": "only what fits"}


class SendingForm(QWidget):
    """What goes, as what, in which unit and form, and the recipe of it."""

    changed = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        self.labels: dict[str, QLabel] = {}
        self.target = self._row(grid, 0, "Format")
        self.scope = self._row(grid, 1, "What")
        self.query = QLineEdit()
        self.query.setPlaceholderText("*bolt*, layer:Castings, kind:solid")
        self.query.setAccessibleName("Only what fits")
        self.query.editingFinished.connect(self._query)
        grid.addWidget(self.query, 2, 1)
        self.form = self._row(grid, 4, "Assembly")
        self.bodies = self._row(grid, 5, "Solids")
        self.unit = self._row(grid, 6, "Length unit")
        column.addLayout(grid)
        self.options = MeshOptions()
        self.options.chosen.connect(session.choose_option)
        column.addWidget(self.options)
        for key in SCOPES:
            self.scope.addItem(_SCOPE_TEXTS[key], key)
        for key, text in _UNITS:
            self.unit.addItem(text, key)
        for key, text in _BODIES:
            self.bodies.addItem(text, key)
        self.target.currentIndexChanged.connect(self._choose)
        self.form.currentIndexChanged.connect(self._choose)
        self.unit.currentIndexChanged.connect(self._choose)
        self.bodies.currentIndexChanged.connect(
            lambda: session.choose_option("bodies", str(self.bodies.currentData() or ""))
        )
        self.scope.currentIndexChanged.connect(self._scope)
        self._add_recipe(grid)

    def _row(self, grid: QGridLayout, row: int, title: str) -> QComboBox:
        label = self.labels[title] = quiet(title)
        label.setWordWrap(False)
        box = QComboBox()
        box.setAccessibleName(title)
        box.setMinimumContentsLength(10)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        grid.addWidget(label, row, 0)
        grid.addWidget(box, row, 1)
        return box

    def _add_recipe(self, grid: QGridLayout) -> None:
        self.recipe = self._row(grid, 7, "Recipe")
        self.recipe.setMinimumContentsLength(3)
        self.recipe.activated.connect(self._take_recipe)
        self.keep = QPushButton("Keep\u2026")
        self.keep.setToolTip("Keep these choices under a name")
        self.keep.clicked.connect(self._ask_name)
        self.drop = QPushButton("Drop")
        self.drop.setToolTip("Forget the chosen recipe")
        self.drop.clicked.connect(self._drop)
        row = QHBoxLayout()
        row.addWidget(self.recipe, 1)
        row.addWidget(self.keep)
        row.addWidget(self.drop)
        grid.addLayout(row, 7, 1)
        self.show_recipes()

    # --- showing ---------------------------------------------------------------------------

    def chosen(self) -> TargetChoice | None:
        """The target that is chosen, None while they are not known."""
        return next((t for t in self.session.targets if t.kind == self.session.choices.kind), None)

    def refresh(self, card: Card | None) -> None:
        """Show what is chosen and what there is to choose for a recipient."""
        session = self.session
        readable = card.reads.kinds if card is not None else ()
        offered = [
            t
            for t in session.targets
            if not readable or t.kind in readable or t.kind == session.choices.kind
        ]
        _offer(self.target, [(t.kind, t.title) for t in offered], session.choices.kind)
        chosen = self.chosen()
        if chosen is None:
            return
        self.target.setToolTip(chosen.note)
        for place, each in enumerate(offered):
            self.target.setItemData(place, each.note, Qt.ItemDataRole.ToolTipRole)
        forms = [f for f in FORMS if chosen.links or f not in ("linked", "nested")]
        _offer(self.form, [(f, _FORM_TEXTS[f]) for f in forms], session.choices.form)
        _offer(self.bodies, list(_BODIES), session.choices.options.get("bodies", ""))
        _offer(self.unit, list(_UNITS), chosen.unit or session.choices.unit)
        _offer(self.scope, [(key, _SCOPE_TEXTS[key]) for key in SCOPES], session.choices.scope)
        self.unit.setEnabled(not chosen.unit)
        self.unit.setToolTip("The format knows only this unit" if chosen.unit else "")
        for title, box in (("Assembly", self.form), ("Solids", self.bodies)):
            for widget in (self.labels[title], box):
                widget.setVisible(not chosen.is_mesh)
        model = session.model
        meshes = model is not None and any(b.kind is BodyKind.MESH for _, b in model.bodies())
        self.options.show_for(is_mesh=chosen.is_mesh, has_meshes=meshes)
        self.options.show_values(session.choices.options)
        self.query.setVisible(session.choices.scope == "fits")
        if not self.query.hasFocus():
            self.query.setText(session.choices.query)

    def show_recipes(self, chosen: str = "") -> None:
        """List the saved recipes."""
        try:
            saved = [(r.name, r.name) for r in recipes("send")]
        except GondrelError as error:
            saved = []
            self.session.tell_error(error)
        _offer(self.recipe, [("", "none"), *saved], chosen or str(self.recipe.currentData() or ""))
        self.drop.setVisible(bool(self.recipe.currentData()))

    # --- choosing --------------------------------------------------------------------------

    def _choose(self) -> None:
        session = self.session
        kind = str(self.target.currentData() or session.choices.kind)
        unit = str(self.unit.currentData()) if self.unit.isEnabled() else session.choices.unit
        session.choose_target(kind, unit, str(self.form.currentData() or "structure"))
        self.changed.emit()

    def _scope(self) -> None:
        key = str(self.scope.currentData() or "")
        self.query.setVisible(key == "fits")
        self.session.send_only(key, self.query.text().strip())
        if key == "fits":
            self.query.setFocus()

    def _query(self) -> None:
        if self.session.choices.scope == "fits":
            self.session.send_only("fits", self.query.text().strip())

    # --- recipes ---------------------------------------------------------------------------

    def _take_recipe(self) -> None:
        name = str(self.recipe.currentData() or "")
        self.drop.setVisible(bool(name))
        saved = next((r for r in recipes("send") if r.name == name), None)
        if saved is not None:
            self.session.take_sending(saved.values)
            self.changed.emit()

    def _ask_name(self) -> None:
        known = str(self.recipe.currentData() or "")
        name, done = QInputDialog.getText(self, "Keep as a recipe", "Name of the recipe", text=known)
        if done and name.strip():
            self.keep_as(name)

    def keep_as(self, name: str) -> None:
        """Keep the choices as a recipe of this name."""
        try:
            self.session.keep_recipe(name)
        except GondrelError as error:
            self.session.tell_error(error)
            return
        self.show_recipes(name.strip())

    def _drop(self) -> None:
        name = str(self.recipe.currentData() or "")
        if name:
            without_recipe(name, "send")
            self.recipe.setCurrentIndex(0)
            self.show_recipes()


def _offer(box: QComboBox, choices: list[tuple[str, str]], chosen: str) -> None:
    """Fill a box without a word to anybody."""
    known = [(box.itemData(n), box.itemText(n)) for n in range(box.count())]
    box.blockSignals(True)
    if known != choices:
        box.clear()
        for key, text in choices:
            box.addItem(text, key)
    box.setCurrentIndex(max(box.findData(chosen), 0))
    box.blockSignals(False)
