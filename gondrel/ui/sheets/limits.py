"""Every limit of the checks, to be tightened or loosened."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from typing import Any

from PySide6.QtCore import QLocale, Signal
from PySide6.QtGui import QDoubleValidator
from PySide6.QtWidgets import QGridLayout, QLabel, QLineEdit, QWidget

from gondrel.core.model.findings import CheckLimits

__all__ = ["LimitsForm"]

_LABELS = {
    "gap": ("Gap", "mm"),
    "short": ("Short, narrow", "mm"),
    "tolerance": ("Tolerance", "mm"),
    "degree": ("Degree of splines", ""),
    "poles": ("Poles of splines", ""),
    "knots": ("Knots apart, share", ""),
    "kink": ("Kink", "\u00b0"),
    "size_box": ("Reach from origin", "mm"),
}


class LimitsForm(QWidget):
    """A line for each limit; what is changed is told when a line is left."""

    edited = Signal(dict)

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        self.lines: dict[str, QLineEdit] = {}
        for row, each in enumerate(fields(CheckLimits)):
            label, unit = _LABELS[each.name]
            name = QLabel(label)
            name.setProperty("role", "quiet")
            line = QLineEdit()
            line.setAccessibleName(f"Limit: {label}")
            line.setFixedWidth(76)
            check = QDoubleValidator(0.0, 1e9, 9, line)
            check.setLocale(QLocale.c())
            line.setValidator(check)
            line.editingFinished.connect(self._tell)
            self.lines[each.name] = line
            grid.addWidget(name, row, 0)
            grid.addWidget(line, row, 1)
            grid.addWidget(QLabel(unit), row, 2)
        grid.setColumnStretch(0, 1)
        self.show_values({})

    def show_values(self, values: Mapping[str, str]) -> None:
        """Show these limits, and what is usual for the rest."""
        usual = CheckLimits()
        for name, line in self.lines.items():
            line.setText(values.get(name) or f"{getattr(usual, name):g}")
        self._shown = self._values()

    def _values(self) -> dict[str, str]:
        usual = CheckLimits()
        return {
            name: line.text()
            for name, line in self.lines.items()
            if line.hasAcceptableInput() and float(line.text()) != float(getattr(usual, name))
        }

    def _tell(self) -> None:
        values = self._values()
        if values != self._shown:
            self._shown = values
            self.edited.emit(values)
