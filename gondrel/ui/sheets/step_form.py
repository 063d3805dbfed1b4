"""The form of one step: what is to be done to what is selected, with which values."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.errors import GondrelError, UsageError
from gondrel.ui.presenters.rows import occurrences_of
from gondrel.ui.presenters.step_forms import FORMS, GROUPS, FormField, StepForm, items_for, values_from
from gondrel.ui.session.arranging import Picked
from gondrel.ui.session.session import Session
from gondrel.ui.widgets.labels import plain, quiet

__all__ = ["StepFormView"]


class StepFormView(QWidget):
    """Choose what is to be done, fill it in, look at it, do it."""

    chosen = Signal(str)
    changed = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.session = session
        self.form: StepForm | None = None
        self.inputs: dict[str, QWidget] = {}
        self.points: dict[str, list[tuple[float, float, float]]] = {}
        self.spots: dict[str, dict[str, Any]] = {}
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        self.choice = QComboBox()
        self.choice.setAccessibleName("What to do")
        self.choice.setMaxVisibleItems(32)
        self.choice.addItem("Choose what to do\u2026", "")
        for group in GROUPS:
            self.choice.insertSeparator(self.choice.count())
            for form in FORMS:
                if form.group == group:
                    self.choice.addItem(form.title, form.key)
        self.choice.currentIndexChanged.connect(lambda _: self.show_form(self.choice.currentData() or ""))
        self.column.addWidget(self.choice)
        self.holder = QWidget()
        self.column.addWidget(self.holder)
        self.look, self.do = QPushButton("Look at it"), QPushButton("Do it")
        self.look.clicked.connect(lambda: self._run(keep=False))
        self.do.clicked.connect(lambda: self._run(keep=True))
        self.left = quiet("")
        self.left.setWordWrap(True)
        self.left.setAccessibleName("What is left")
        self.column.addWidget(self.left)
        self.left.hide()
        row = QHBoxLayout()
        row.addWidget(self.look)
        row.addWidget(self.do)
        self.column.addLayout(row)
        self.changed.connect(self.count)
        session.arranging.traits_changed.connect(self.count)
        session.model_changed.connect(self.count)
        self.look.hide()
        self.do.hide()
        session.arranging.picked_changed.connect(self._take_pick)

    def choose(self, key: str) -> None:
        """Show the form of a step."""
        self.choice.setCurrentIndex(self.choice.findData(key))

    def fill(self, key: str, texts: dict[str, str]) -> None:
        """Show the form of a step with texts in its fields."""
        self.choose(key)
        for name, text in texts.items():
            field = self.inputs.get(name)
            if isinstance(field, QLineEdit):
                field.setText(text)

    def show_form(self, key: str) -> None:
        """Make the form of a step anew; none for an empty key."""
        self.form = next((form for form in FORMS if form.key == key), None)
        self.inputs, self.points, self.spots = {}, {}, {}
        holder = QWidget()
        layout = QFormLayout(holder)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setVerticalSpacing(6)
        layout.setHorizontalSpacing(12)
        if self.form is not None:
            note = quiet(self.form.does)
            note.setWordWrap(True)
            layout.addRow(note)
            for each in self.form.fields:
                label = plain(each.label)
                label.setProperty("role", "quiet")
                made = self._input(each)
                layout.addRow(label, _with_unit(made, each.unit))
        self.column.replaceWidget(self.holder, holder)
        self.holder.deleteLater()
        self.holder = holder
        for button in (self.look, self.do):
            button.setVisible(self.form is not None)
        self._take_pick()
        self.count()
        self.chosen.emit(key)

    def _input(self, each: FormField) -> QWidget:
        made: QWidget
        if each.kind in ("yes", "no"):
            box = QCheckBox()
            box.setChecked(each.value == "yes")
            box.toggled.connect(lambda _: self.changed.emit())
            made = box
        elif each.kind in ("choice", "item"):
            combo = QComboBox()
            if each.kind == "choice":
                for value in each.choices:
                    combo.addItem(value.replace("-", " "), value)
                combo.setCurrentIndex(combo.findData(each.value))
            else:
                self._fill_items(combo)
            made = combo
        elif each.kind in ("edges", "faces"):
            made = self._points_input(each)
        elif each.kind == "spot":
            made = self._spot_input(each)
        else:
            line = QLineEdit(each.value)
            line.setPlaceholderText("none" if each.optional else "")
            line.returnPressed.connect(lambda: self._run(keep=True))
            line.textChanged.connect(lambda _: self.changed.emit())
            made = line
        made.setAccessibleName(each.label)
        self.inputs[each.key] = made
        return made

    def _fill_items(self, combo: QComboBox) -> None:
        model = self.session.model
        for product in model.products if model is not None else ():
            if not product.is_reference:
                combo.addItem(f"{product.number} {product.label}".strip(), product.id)

    def _points_input(self, each: FormField) -> QWidget:
        self.points[each.key] = []
        button = QPushButton(self._count_text(each.key, each.kind))
        button.clicked.connect(lambda: self._add_point(each, button))
        return button

    def _count_text(self, key: str, kind: str) -> str:
        count, word = len(self.points[key]), kind[:-1]
        return f"{count} {word if count == 1 else kind}; add the picked {word}"

    def _add_point(self, each: FormField, button: QPushButton) -> None:
        picked = self.session.arranging.picked
        if picked is None or picked.what != each.kind[:-1]:
            what = "an edge" if each.kind == "edges" else "a face"
            self.session.notice.emit(f"Pick {what} first: click on the selected part again")
            return
        if picked.middle in self.points[each.key]:
            self.points[each.key].remove(picked.middle)
        else:
            self.points[each.key].append(picked.middle)
        button.setText(self._count_text(each.key, each.kind))

    def _spot_input(self, each: FormField) -> QWidget:
        button = QPushButton("Take the picked face")

        def take() -> None:
            picked, model = self.session.arranging.picked, self.session.model
            if picked is None or picked.what != "face" or model is None:
                self.session.notice.emit("Pick a face first: click on the selected part again")
                return
            self.spots[each.key] = {
                "item": items_for(model, [picked.product], self.session.facts),
                "at": list(picked.point),
                "place": self._place(picked.product),
            }
            x, y, z = picked.point
            button.setText(f"{model.product(picked.product).label} at {x:g}, {y:g}, {z:g}")

        button.clicked.connect(take)
        return button

    def _take_pick(self) -> None:
        """Fill in what a picked face says."""
        picked = self.session.arranging.picked
        if picked is None or self.form is None:
            return
        for each in self.form.fields:
            line = self.inputs.get(each.key)
            if each.picks and isinstance(line, QLineEdit) and (text := _told(each, picked)):
                line.setText(text)

    def count(self) -> None:
        """Say what a filter would leave, while it is set."""
        is_filter = self.form is not None and self.form.key in ("keep", "drop")
        self.left.setVisible(is_filter)
        if is_filter:
            self.session.deferred.ask(self._count)

    def _count(self) -> None:
        form = self.form
        if form is None or form.key not in ("keep", "drop"):
            return
        try:
            values = values_from(form, self._texts())
        except GondrelError as error:
            self.left.setText(error.message)
            return
        self.left.setText(self.session.arranging.words_of_what_is_left(values, keep=form.key == "keep"))

    # --- doing it ---------------------------------------------------------------------------

    def _texts(self) -> dict[str, Any]:
        texts: dict[str, Any] = {}
        model = self.session.model
        for key, made in self.inputs.items():
            if any(f.key == key and f.kind == "spot" for f in (self.form.fields if self.form else ())):
                texts[key] = self.spots.get(key)
            elif key in self.points:
                texts[key] = [list(point) for point in self.points[key]]
            elif isinstance(made, QCheckBox):
                texts[key] = "yes" if made.isChecked() else ""
            elif isinstance(made, QLineEdit):
                texts[key] = made.text()
            elif isinstance(made, QComboBox):
                value = made.currentData()
                field = next(f for f in (self.form.fields if self.form else ()) if f.key == key)
                if field.kind == "item" and model is not None and value:
                    value = items_for(model, [value], self.session.facts)
                texts[key] = value
        return texts

    def step(self) -> dict[str, Any]:
        """The step as it would stand in a steps file. Raises UsageError when something is missing."""
        form, session = self.form, self.session
        model = session.model
        if form is None or model is None:
            raise UsageError("nothing is chosen to be done")
        plain: dict[str, Any] = {"do": form.key}
        ids = session.selected_products()
        if form.on and not ids:
            raise UsageError(f"{form.title}: select what it is to be done to")
        if form.on in ("one", "place") and len(ids) != 1:
            raise UsageError(f"{form.title}: select one item, not {len(ids)}")
        if form.on:
            plain["items"] = items_for(model, ids, session.facts)
        if form.on == "place":
            plain["place"] = self._place(ids[0])
        return plain | values_from(form, self._texts())

    def _place(self, product: str) -> int:
        """Which of a product's places is selected, from 1 in the order of the model."""
        model = self.session.model
        assert model is not None
        chosen = occurrences_of(model, self.session.selection)
        uses = [use.id for _, use in model.occurrences() if use.product == product]
        return next((place for place, use in enumerate(uses, 1) if use in chosen), 1)

    def _run(self, *, keep: bool) -> None:
        try:
            step = self.step()
        except GondrelError as error:
            self.session.tell_error(error)
            return
        self.session.arranging.do(step, keep=keep, ids=self.session.selected_products())


def _with_unit(made: QWidget, unit: str) -> QWidget:
    """A value with its unit behind it."""
    if not unit:
        return made
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(8)
    row.addWidget(made, 1)
    row.addWidget(quiet(unit))
    return holder


def _told(each: FormField, picked: Picked) -> str:
    """What a picked face or edge says of a value."""
    if each.picks == "point":
        values = picked.point
    elif picked.what != "face":
        return ""
    else:
        x, y, z = picked.normal
        values = (x, y, z) if each.picks == "normal" else (-x, -y, -z)
    return ", ".join(f"{value + 0.0:g}" for value in values)
