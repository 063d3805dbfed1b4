"""The page that shows the records of the source file: text, where it leads, and what leads there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.model.origins import Found
from gondrel.core.model.sought import Sought
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.widgets.labels import head, quiet
from gondrel.ui.widgets.theme import scaled

__all__ = ["RecordPage"]


class RecordPage(Page):
    """Follows what is selected when it is asked to; a double click or Enter follows a reference."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("In the file", parent, 720, 560)
        self.session = session
        line = QHBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Number, type or text of a record")
        self.search.setAccessibleName("Find a record")
        self.search.returnPressed.connect(lambda: self.look_for(self.search.text()))
        self.previous = QPushButton("Back")
        self.previous.clicked.connect(session.sourcing.back)
        self.of_selection = QPushButton("Of what is selected")
        self.of_selection.clicked.connect(self.look_behind)
        self.of_colour = QPushButton("Its colour")
        self.of_colour.clicked.connect(lambda: self.look_behind(of_colour=True))
        self.of_property = QPushButton("A property")
        self.of_property.setMenu(QMenu(self.of_property))
        self.of_property.menu().aboutToShow.connect(self._list_properties)
        line.addWidget(self.search, 1)
        for button in (self.previous, self.of_selection, self.of_colour, self.of_property):
            line.addWidget(button)
        self.column.addLayout(line)
        self.title = quiet("")
        self.column.addWidget(self.title)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("Text of the record")
        shown = QFont("monospace")
        shown.setStyleHint(QFont.StyleHint.Monospace)
        shown.setPixelSize(scaled(12))
        self.text.setFont(shown)
        self.column.addWidget(self.text, 3)
        below = QHBoxLayout()
        self.found = self._list(below, "Found")
        self.refers = self._list(below, "Refers to")
        self.referred = self._list(below, "Referred to by")
        self.column.addLayout(below, 2)
        self.finish()
        session.sourcing.changed.connect(self.refresh)
        self.refresh()

    def _list(self, line: QHBoxLayout, title: str) -> QListWidget:
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(head(title))
        made = QListWidget()
        made.setAccessibleName(title)
        made.itemActivated.connect(self._follow)
        column.addWidget(made)
        line.addWidget(holder, 1)
        return made

    def look_behind(self, *, of_colour: bool = False) -> None:
        """Show the record of what is selected, or that of its colour."""
        session = self.session
        sought: Sought | None = session.sourcing.selected(session.checking.picked_face)
        session.sourcing.look_behind(replace(sought, of_colour=of_colour) if sought is not None else None)

    def _list_properties(self) -> None:
        """The properties of what is selected, each to be looked up."""
        menu, sourcing = self.of_property.menu(), self.session.sourcing
        menu.clear()
        for sought in sourcing.properties():
            where = " (in this place)" if sought.kind == "component" else ""
            menu.addAction(f"{sought.key}{where}").triggered.connect(partial(sourcing.look_behind, sought))
        if menu.isEmpty():
            menu.addAction("It has no properties").setEnabled(False)

    def look_for(self, words: str) -> None:
        """Find records, as if it had been typed."""
        self.search.setText(words)
        self.session.sourcing.find(words)

    def _follow(self, item: QListWidgetItem) -> None:
        self.session.sourcing.go(int(item.data(Qt.ItemDataRole.UserRole)))

    def refresh(self) -> None:
        """Show the record that was fetched."""
        sourcing = self.session.sourcing
        view = sourcing.view
        self.previous.setEnabled(bool(sourcing.behind))
        for widget in (self.search, self.of_selection, self.of_colour, self.of_property):
            widget.setEnabled(bool(sourcing.path))
        if view is None:
            self.title.setText(sourcing.told or "What stands in the file behind what is selected")
            self.text.setPlainText("")
        else:
            where = f", line {view.line:,}" if view.line else ""
            said = f"{view.number}  {view.type}{where}"
            self.title.setText(f"{said}    {sourcing.told}" if sourcing.told else said)
            self.text.setPlainText(view.text)
        self._fill(self.found, sourcing.found)
        self._fill(self.refers, view.refers if view is not None else ())
        self._fill(self.referred, view.referred if view is not None else ())

    @staticmethod
    def _fill(shown: QListWidget, records: Iterable[Found]) -> None:
        shown.clear()
        for record in records:
            item = QListWidgetItem(f"{record.number}  {record.type}")
            item.setData(Qt.ItemDataRole.UserRole, record.number)
            shown.addItem(item)
        holder = shown.parentWidget()
        assert holder is not None
        holder.setVisible(shown.count() > 0)
