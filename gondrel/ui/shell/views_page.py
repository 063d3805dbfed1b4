"""The page of named views."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QWidget

from gondrel.core.model.views import View
from gondrel.core.reports.figures import count_of
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.widgets.labels import quiet

__all__ = ["ViewsPage"]


class ViewsPage(Page):
    """The views of the crossing: shown by a click, renamed where they stand, removed, kept."""

    def __init__(self, session: Session, keep: Callable[[], None], parent: QWidget) -> None:
        super().__init__("Views", parent, 420, 460)
        self.session = session
        self.list = QListWidget()
        self.list.setAccessibleName("Views")
        self.list.itemActivated.connect(lambda item: session.viewing.show(self._name(item)))
        self.list.itemClicked.connect(lambda item: session.viewing.show(self._name(item)))
        self.list.itemChanged.connect(self._renamed)
        self.list.currentItemChanged.connect(lambda *_: self._told())
        self.column.addWidget(self.list, 1)
        self.told = quiet("")
        self.column.addWidget(self.told)
        self.column.addStretch(0)  # takes the room while there is no list
        line = QHBoxLayout()
        self.keep = QPushButton("Keep what is seen now")
        self.keep.clicked.connect(lambda: keep())
        self.rename = QPushButton("Rename")
        self.rename.clicked.connect(self._rename)
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self._remove)
        for button in (self.keep, self.rename, self.remove):
            line.addWidget(button)
        self.column.addLayout(line)
        self.finish()
        session.viewing.changed.connect(self.refresh)
        self.refresh()

    @staticmethod
    def _name(item: QListWidgetItem | None) -> str:
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else ""

    def refresh(self) -> None:
        """Show the views there are."""
        viewing = self.session.viewing
        self.list.blockSignals(True)
        self.list.clear()
        for view in viewing.views:
            item = QListWidgetItem(view.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            item.setData(Qt.ItemDataRole.UserRole, view.name)
            self.list.addItem(item)
            if view.name == viewing.current:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        self.list.setVisible(bool(viewing.views))
        self.keep.setEnabled(self.session.model is not None)
        self._told()

    def _told(self) -> None:
        view = self.session.viewing.view(self._name(self.list.currentItem()))
        for button in (self.rename, self.remove):
            button.setEnabled(view is not None)
        none = "No view is kept yet: a view keeps camera, section, what is apart, and dimensions."
        self.told.setText(self._words(view) if view is not None else none if not self.list.count() else "")

    def _words(self, view: View) -> str:
        parts = ["parallel" if view.camera.is_parallel else "perspective"]
        if view.cut:
            parts.append(f"cut by {count_of(len(view.cut.planes), 'plane')}")
        if view.spread:
            parts.append(f"{view.spread:.0%} apart")
        parts += [f"{each.text} {each.name}".strip() for each in view.dimensions]
        return "; ".join(parts)

    def _renamed(self, item: QListWidgetItem) -> None:
        self.session.viewing.rename(self._name(item), item.text())

    def _rename(self) -> None:
        if (item := self.list.currentItem()) is not None:
            self.list.editItem(item)

    def _remove(self) -> None:
        self.session.viewing.remove(self._name(self.list.currentItem()))
