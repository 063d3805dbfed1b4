"""The page on which repointing is looked at before it is done: what changes, and how the two differ."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QTreeWidgetItem, QVBoxLayout, QWidget

from gondrel.core.reports.figures import Figures, count_of
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.recipient_pages import tree_of
from gondrel.ui.widgets.labels import head, quiet
from gondrel.ui.widgets.preview import Preview

__all__ = ["RepointPage"]

_PLACE = Qt.ItemDataRole.UserRole
_WIDE, _HIGH = 216, 162
_MOST = 7
_OF_FILES = ("revision", "figures")
"""What always differs: their names, and figures that a sender wrote."""


class RepointPage(Page):
    """The two revisions side by side, and each assembly with its components that would point elsewhere."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Repoint", parent, 980, 660)
        self.session, self.register = session, session.registering
        line = QHBoxLayout()
        line.setSpacing(18)
        self.pictures = Preview(_WIDE, _HIGH, "As it is used"), Preview(_WIDE, _HIGH, "As it would be used")
        self.names = QLabel(), QLabel()
        for picture, name in zip(self.pictures, self.names, strict=True):
            column = QVBoxLayout()
            name.setProperty("role", "card-title")
            column.addWidget(name)
            column.addWidget(picture)
            line.addLayout(column)
        side = QVBoxLayout()
        side.addWidget(head("How they differ"))
        self.difference = quiet("")
        self.difference.setWordWrap(True)
        self.difference.setMinimumWidth(300)
        side.addWidget(self.difference)
        side.addStretch(1)
        line.addLayout(side, 1)
        self.column.addLayout(line)
        self.column.addWidget(head("What changes"))
        self.changes = tree_of(("assembly or component", "becomes", "faces others touch"), 2)
        self.changes.setAccessibleName("What changes")
        self.changes.itemChanged.connect(lambda *_: self.refresh())
        self.column.addWidget(self.changes, 1)
        self.told = quiet("")
        self.column.addWidget(self.told)
        self.do = QPushButton("Repoint")
        self.do.setProperty("role", "main")
        self.do.clicked.connect(self._do)
        self.buttons.insertWidget(0, self.do)
        self.finish()
        self._asked: tuple[str, str, tuple[str, ...]] = ("", "", ())

    def show_preview(self, old: str, new: str, within: tuple[str, ...], found: dict[str, Any]) -> None:
        """Show what repointing would change."""
        self._asked = old, new, within
        self.setWindowTitle(f"Repoint {old} to {new} \u2013 Gondrel")
        for label, picture, name, png in zip(
            self.names, self.pictures, (old, new), found["pictures"], strict=True
        ):
            label.setText(name)
            picture.show_picture(png, "no picture")
        self.difference.setText(_difference_text(found["difference"], self.session.figures))
        self.changes.blockSignals(True)
        self.changes.clear()
        for change in found["changes"]:
            becomes = "changed in place" if change["in_place"] else change["becomes"]
            item = QTreeWidgetItem([change["assembly"], becomes, _faces_text(change["interfaces"])])
            self.changes.addTopLevelItem(item)
            for component in change["components"]:
                if component["direct"]:
                    row = QTreeWidgetItem([f"{component['place']}. {component['name']}", new, ""])
                    row.setFlags(row.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    row.setCheckState(0, Qt.CheckState.Checked)
                    row.setData(0, _PLACE, component["place"])
                    item.addChild(row)
            item.addChildren([QTreeWidgetItem(["", "", face]) for face in change["interfaces"] or ()])
        self.changes.expandAll()
        self.changes.blockSignals(False)
        self.refresh()
        self.show()
        self.raise_()

    def chosen(self) -> dict[str, list[int]]:
        """Places of the components that are to point elsewhere, by their assembly."""
        found = {}
        for n in range(self.changes.topLevelItemCount()):
            item = self.changes.topLevelItem(n)
            assert item is not None
            rows = [item.child(m) for m in range(item.childCount())]
            rows = [row for row in rows if row.data(0, _PLACE) is not None]
            if rows:
                chosen = [row for row in rows if row.checkState(0) is Qt.CheckState.Checked]
                found[item.text(0)] = [row.data(0, _PLACE) for row in chosen]
        return found

    def refresh(self) -> None:
        """Say what is chosen."""
        places = self.chosen()
        count = sum(map(len, places.values()))
        self.told.setText(
            f"{count_of(count, 'component')} will point to {self._asked[1]}. Placements stay as they are."
            if count else "No component is chosen."
        )  # fmt: skip
        self.do.setEnabled(count > 0)

    def _do(self) -> None:
        old, new, within = self._asked
        self.register.repoint(old, new, within, self.chosen(), then=self.close)


def _faces_text(faces: list[str] | None) -> str:
    if faces is None:
        return "not compared"
    return f"{count_of(len(faces), 'face')} moved" if faces else "where they were"


def _difference_text(difference: dict[str, Any], figures: Figures) -> str:
    """Material and what else differs, a line each."""
    material = difference["material"]
    lines = []
    for word, key in (("more", "added"), ("less", "removed")):
        if material[key]:
            lines.append(f"{figures.volume(material[key])} {word} material")
    lines += [f"{name}: could not be compared" for name in material["not_compared"]]
    for row in difference["ledger"]:
        for item in row["items"]:
            if item["verdict"] in ("altered", "lost", "added") and item["aspect"] not in _OF_FILES:
                says = item["detail"] or f"{item['before']} \u2192 {item['after']}"
                lines.append(f"{item['path']}, {item['aspect']}: {says}")
    if len(lines) > _MOST:
        lines = [*lines[:_MOST], f"and {len(lines) - _MOST} more"]
    return "\n".join(lines) or "Nothing: they are the same."
