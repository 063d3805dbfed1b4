"""What is made of a drawing, and where it goes."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.model.profile import Making
from gondrel.ui.session.session import Session

__all__ = ["MakingForm"]

_FORMS = (("extrude", "Extrusion"), ("revolve", "Revolution"), ("sheet", "Flat faces"))


class MakingForm(QWidget):
    """Form, sizes, name and place of the part, and the button that makes it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.drafting = session, session.drafting
        self.form = QComboBox()
        for key, text in _FORMS:
            self.form.addItem(text, key)
        self.deep = _spin(-1e5, 1e5, 10.0, " mm")
        self.draft = _spin(0.0, 60.0, 0.0, "\u00b0")
        self.angle = _spin(-360.0, 360.0, 360.0, "\u00b0")
        self.both = QCheckBox("half to each side")
        self.axis = QComboBox()
        self.axis.setEditable(True)
        self.axis.addItems(["y", "x"])
        self.axis.setToolTip("y, x, or a point and a direction: PX,PY,DX,DY")
        self.name = QLineEdit()
        self.name.setPlaceholderText("as the file")
        self.name.editingFinished.connect(lambda: self.drafting.change(name=self.name.text().strip()))
        self.into = QComboBox()
        for spin in (self.deep, self.draft, self.angle):
            spin.valueChanged.connect(self._take)
        self.both.toggled.connect(self._take)
        self.axis.editTextChanged.connect(self._take)
        self.form.currentIndexChanged.connect(self._take)
        self._rows: tuple[tuple[str, QWidget, tuple[str, ...]], ...] = (
            ("Form", self.form, ()), ("Depth", self.deep, ("extrude",)), ("", self.both, ("extrude",)),
            ("Draft", self.draft, ("extrude",)), ("Angle", self.angle, ("revolve",)),
            ("Axis", self.axis, ("revolve",)), ("Name", self.name, ()), ("Into", self.into, ()),
        )  # fmt: skip
        self.lines = QFormLayout()
        for label, widget, _ in self._rows:
            self.lines.addRow(label, widget)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self.lines)
        self.make = QPushButton("Make the part")
        self.make.setProperty("role", "main")
        self.make.clicked.connect(lambda: self.drafting.make(self.into.currentData() or ""))
        column.addWidget(self.make)
        session.model_changed.connect(self._places)
        session.selection_changed.connect(self._places)
        self._take()
        self._places()

    def _take(self) -> None:
        form = self.form.currentData()
        for _, widget, forms in self._rows:
            self.lines.setRowVisible(widget, not forms or form in forms)
        axis = self.axis.currentText().strip() or "y"
        self.drafting.make_of(
            Making(
                form, self.deep.value(), self.both.isChecked(), self.draft.value(), self.angle.value(), axis
            )
        )

    def _places(self) -> None:
        """Where the part can go."""
        model = self.session.model
        self.into.clear()
        self.into.addItem("a crossing of its own" if model is None else "beside what is open", "")
        if model is not None:
            for product in self.session.selected_products()[:1]:
                self.into.addItem(model.product(product).label, product)


def _spin(low: float, high: float, value: float, suffix: str) -> QDoubleSpinBox:
    spin = QDoubleSpinBox()
    spin.setDecimals(3)
    spin.setRange(low, high)
    spin.setValue(value)
    spin.setSuffix(suffix)
    return spin
