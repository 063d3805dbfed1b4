"""The proposed structure as a table to be read, changed and ticked."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTreeWidget, QTreeWidgetItem

from gondrel.core.arrange.proposal import Proposal, ProposedGroup, ProposedPart
from gondrel.ui.session.session import Session

__all__ = ["ProposalTable"]

_KEY = Qt.ItemDataRole.UserRole


class ProposalTable(QTreeWidget):
    """Parts and sub-assemblies, each with a tick, a name that can be changed, how often it stands, and what
    speaks for it; a click shows its bodies."""

    def __init__(self, session: Session, proposal: Proposal, parent: Any = None) -> None:
        super().__init__(parent)
        self.session, self.proposal = session, proposal
        self.setAccessibleName("Proposed structure")
        self.setColumnCount(2)
        self.setHeaderLabels(["Name", "Places"])
        self.setRootIsDecorated(True)
        self.setUniformRowHeights(False)
        self.setWordWrap(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        for part in proposal.parts:
            self._part(part)
        for group in proposal.groups:
            self._group(group)
        header = self.header()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        header.setStretchLastSection(False)
        self.setMinimumHeight(320)
        self.setIndentation(16)
        self.itemChanged.connect(self._changed)
        self.currentItemChanged.connect(lambda now, _: self._show(now))

    def _row(self, key: str, name: str, count: int, told: list[str]) -> QTreeWidgetItem:
        row = QTreeWidgetItem([name, f"{count:,}"])
        row.setData(0, _KEY, key)
        flags = row.flags() | Qt.ItemFlag.ItemIsEditable | Qt.ItemFlag.ItemIsUserCheckable
        row.setFlags(flags)
        row.setCheckState(0, Qt.CheckState.Checked)
        row.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        notes: list[QTreeWidgetItem] = []
        text = "\n".join(told)
        row.setToolTip(0, text)
        for line in told:
            child = QTreeWidgetItem([line])
            child.setFlags(Qt.ItemFlag.ItemIsEnabled)
            child.setToolTip(0, line)
            row.addChild(child)
            notes.append(child)
        self.addTopLevelItem(row)
        for child in notes:
            child.setFirstColumnSpanned(True)
        return row

    def _part(self, part: ProposedPart) -> None:
        standard = part.standard
        told = [f"{standard.standard} {standard.designation}"] if standard is not None else []
        self._row(part.key, part.name, len(part.uses), [*told, *part.evidence])

    def _group(self, group: ProposedGroup) -> None:
        names = {use.id: part.name for part in self.proposal.parts for use in part.uses}
        inside = [names[use] for use in group.uses[0][1] if use in names]
        held = f"sub-assembly of {', '.join(sorted(set(inside)))}" if inside else "sub-assembly"
        self._row(group.key, group.name, len(group.uses), [held, *group.evidence])

    def _changed(self, row: QTreeWidgetItem, column: int) -> None:
        key = row.data(0, _KEY)
        if key is None or column:
            return
        arranging = self.session.arranging
        is_on = row.checkState(0) is Qt.CheckState.Checked
        if is_on == (key in arranging.without):
            arranging.tick(key, is_on)
        arranging.name(key, row.text(0))

    def _show(self, row: QTreeWidgetItem | None) -> None:
        """Mark in the picture what a row stands for: the products whose bodies it takes."""
        key = (row.parent() or row).data(0, _KEY) if row is not None else None
        part = next((p for p in self.proposal.parts if p.key == key), None)
        sources = frozenset(use.source for use in part.uses) if part is not None else frozenset[str]()
        everywhere = len({use.source for p in self.proposal.parts for use in p.uses}) == 1
        self.session.focus(frozenset() if everywhere else sources)
