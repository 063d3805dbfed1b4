"""The page of a crate: what it holds, what is wrong with it, conflicts side by side, how it comes in."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.reports.figures import count_of
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.recipient_pages import tree_of
from gondrel.ui.widgets.labels import head, quiet
from gondrel.ui.widgets.preview import Preview

__all__ = ["CratePage"]

_WAYS = (("same", "as the same items"), ("copy", "as an independent copy"))
_RESOLVES = (("", "choose"), ("ours", "ours stays"), ("theirs", "theirs as a new minor revision"))
_SIGNS = 12
_PICTURE = Qt.ItemDataRole.UserRole
_WIDE, _HIGH = 200, 150


class CratePage(Page):
    """Looked at whole before anything is taken in; nothing is overwritten without being asked."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Crate", parent, 900, 700)
        self.session, self.register = session, session.registering
        self.told = quiet("")
        self.column.addWidget(self.told)
        self.holds = tree_of(("number", "revision", "name", "state"), 2)
        self.holds.setAccessibleName("What the crate holds")
        self.holds.setRootIsDecorated(False)
        self.holds.currentItemChanged.connect(lambda item, _: self._show_held(item))
        self.picture = Preview(_WIDE, _HIGH, "In the crate")
        upper = QHBoxLayout()
        upper.addWidget(self.holds, 1)
        upper.addWidget(self.picture)
        self.column.addLayout(upper, 2)
        self.heading = head("Here with another content")
        self.column.addWidget(self.heading)
        self.conflicts = tree_of(("revision", "here", "in the crate", "what becomes of it"), 1)
        self.conflicts.setAccessibleName("Conflicts")
        self.conflicts.setRootIsDecorated(False)
        self.conflicts.currentItemChanged.connect(lambda item, _: self._show_conflict(item))
        self.sides = Preview(_WIDE, _HIGH, "Here"), Preview(_WIDE, _HIGH, "In the crate")
        self.beside = QWidget()
        pair = QHBoxLayout(self.beside)
        pair.setContentsMargins(0, 0, 0, 0)
        for text, side in zip(("here", "in the crate"), self.sides, strict=True):
            column = QVBoxLayout()
            column.addWidget(quiet(text))
            column.addWidget(side)
            pair.addLayout(column)
        pair.addStretch(1)
        self.column.addWidget(self.conflicts, 1)
        self.column.addWidget(self.beside)
        line = QHBoxLayout()
        self.way = QComboBox()
        for key, text in _WAYS:
            self.way.addItem(text, key)
        self.rule = QLineEdit("{number}-COPY")
        self.rule.setAccessibleName("How items of a copy are numbered")
        self.rule.setMaximumWidth(220)
        self.way.currentIndexChanged.connect(self.refresh)
        self.take = QPushButton("Take it in")
        self.take.setProperty("role", "main")
        self.take.clicked.connect(self._take)
        for widget in (self.way, self.rule):
            line.addWidget(widget)
        line.addStretch(1)
        line.addWidget(self.take)
        self.column.addLayout(line)
        self.choices: dict[str, QComboBox] = {}
        self.finish()
        self.register.crate_changed.connect(self._fill)

    def _fill(self) -> None:
        crate = self.register.crate
        self.holds.clear()
        self.conflicts.clear()
        self.choices = {}
        if crate is None:
            return
        pictures = crate["pictures"] or [None] * len(crate["revisions"])
        for each, picture in zip(crate["revisions"], pictures, strict=True):
            texts = [each["number"], f"{each['major']}.{each['minor']}", each["label"], each["state"]]
            item = QTreeWidgetItem(texts)
            item.setData(0, _PICTURE, picture)
            self.holds.addTopLevelItem(item)
        for each in crate["conflicts"]:
            ours, theirs = (f"{c[0]}, {c[2]}, {c[1][:_SIGNS]}" for c in (each["ours"], each["theirs"]))
            item = QTreeWidgetItem([each["name"], ours, theirs, ""])
            item.setData(0, _PICTURE, each["pictures"])
            self.conflicts.addTopLevelItem(item)
            choice = QComboBox()
            for key, text in _RESOLVES:
                choice.addItem(text, key)
            choice.currentIndexChanged.connect(self.refresh)
            self.conflicts.setItemWidget(item, 3, choice)
            self.choices[each["name"]] = choice
        for tree, place in ((self.holds, self.holds.topLevelItemCount() - 1), (self.conflicts, 0)):
            tree.setCurrentIndex(tree.model().index(place, 0))
        self.refresh()

    def _show_held(self, item: QTreeWidgetItem | None) -> None:
        self.picture.show_picture(item.data(0, _PICTURE) if item is not None else None, "no preview")

    def _show_conflict(self, item: QTreeWidgetItem | None) -> None:
        both = item.data(0, _PICTURE) if item is not None else (None, None)
        for side, picture in zip(self.sides, both, strict=True):
            side.show_picture(picture, "no preview")

    def refresh(self) -> None:
        """Show what can be done with it now."""
        crate = self.register.crate
        if crate is None:
            return
        name = Path(self.register.crate_path).name
        if crate["ok"]:
            held = count_of(len(crate["revisions"]), "revision"), count_of(len(crate["items"]), "item")
            self.told.setText(f"{name}: {held[0]} of {held[1]}; every piece is as it was packed")
        else:
            first = crate["problems"][0]
            more = f", and {len(crate['problems']) - 1} more" if len(crate["problems"]) > 1 else ""
            self.told.setText(f"{name} can\u2019t be taken in: {first['piece']} {first['what']}{more}")
        is_copy = self.way.currentData() == "copy"
        self.rule.setVisible(is_copy)
        for widget in (self.heading, self.conflicts, self.beside):
            widget.setVisible(bool(self.choices) and not is_copy)
        open_ones = [n for n, choice in self.choices.items() if not choice.currentData()]
        self.take.setEnabled(crate["ok"] and (is_copy or not open_ones))

    def _take(self) -> None:
        is_copy = self.way.currentData() == "copy"
        resolved = {name: choice.currentData() for name, choice in self.choices.items()}
        self.register.unpack(self.rule.text() if is_copy else "", {} if is_copy else resolved)
