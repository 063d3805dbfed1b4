"""The choices of a send: what goes, as what, in which form; kept as recipes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.model import BodyKind
from gondrel.core.recipients.card import Card
from gondrel.core.service.messages import TargetChoice
from gondrel.ui.session.choices import FORMS, SCOPES
from gondrel.ui.session.session import Session
from gondrel.ui.sheets.mesh_options import MeshOptions
from gondrel.ui.sheets.recipe_row import RecipeRow
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
        session = self.session
        label = quiet("Recipe")
        label.setWordWrap(False)
        self.recipe = RecipeRow("send", "none", session.sending_values, session.tell_error)
        self.recipe.taken.connect(self._take_recipe)
        grid.addWidget(label, 7, 0)
        grid.addWidget(self.recipe, 7, 1)

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

    def _take_recipe(self, values: Mapping[str, str]) -> None:
        if values:
            self.session.take_sending(values)
            self.changed.emit()


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
