"""The table of facts: many items at once, edited in place, filled down, pasted, kept as CSV or XLSX."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QItemSelectionModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QCompleter,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from gondrel.core.arrange.table import (
    Table,
    apply_cells,
    cells_from,
    known_materials,
    read_table,
    table_of,
    write_table,
)
from gondrel.core.errors import GondrelError
from gondrel.core.model import Model
from gondrel.core.reports.figures import count_of
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.widgets.labels import quiet

__all__ = ["TablePage"]

Index = QModelIndex | QPersistentModelIndex
_FILES = "Tables (*.csv *.xlsx)"
_WIDEST = 260


class _Cells(QAbstractTableModel):
    """The table of the current model; what was received is the tip of a cell that was changed."""

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.session = session
        self.table = Table((), (), ())
        self.received: dict[tuple[str, str], str] = {}
        self.accepted: set[tuple[str, str, str]] = set()
        self._first: Any = None

    def refresh(self) -> None:
        """Take the current model."""
        session = self.session
        self.beginResetModel()
        model = session.model
        self.table = table_of(model, session.facts) if model is not None else Table((), (), ())
        self.accepted = set(session.crossing.accepted)
        steps = session.crossing.history.steps
        first = steps[0].model if steps else None
        if first is not self._first:
            self._first = first
            self.received = _said(first) if first is not None else {}
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.table.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.table.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.table.columns[section].heading
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        text = self.table.rows[index.row()][index.column()]
        if role == Qt.ItemDataRole.EditRole:
            return text
        was = self.said_otherwise(index.row(), index.column())
        if role == Qt.ItemDataRole.DisplayRole:
            return text if was is None else f"{text or 'nothing'}   received {was or 'nothing'}"
        if role == Qt.ItemDataRole.ToolTipRole and was is not None:
            return "Keep ours stops showing what was received; Take theirs puts it back"
        if role == Qt.ItemDataRole.FontRole and was is not None:
            font = QApplication.font()
            font.setBold(True)
            return font
        return None

    def said_otherwise(self, row: int, column: int) -> str | None:
        """What the sender says in a cell, None where it is the same or was settled."""
        key = self.table.ids[row], self.table.columns[column].key
        was = self.received.get(key)
        settled = was == self.table.rows[row][column] or (*key, was) in self.accepted
        return None if settled else was

    def flags(self, index: Index) -> Qt.ItemFlag:
        fixed = self.table.columns[index.column()].is_fixed
        return super().flags(index) | (Qt.ItemFlag.NoItemFlags if fixed else Qt.ItemFlag.ItemIsEditable)

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        if str(value) == self.data(index, Qt.ItemDataRole.EditRole):
            return False
        return self.change({(index.row(), index.column()): str(value)})

    def change(self, cells: dict[tuple[int, int], str]) -> bool:
        """Change cells by row and column as one step of the history."""
        wanted = {
            (self.table.ids[row], self.table.columns[column].key): text
            for (row, column), text in cells.items()
            if not self.table.columns[column].is_fixed
        }
        return self.session.edit(lambda model: apply_cells(model, wanted))


def _said(model: Model) -> dict[tuple[str, str], str]:
    """What a model says in each cell, by product and column."""
    table = table_of(model, {})
    return {
        (i, c.key): cell
        for i, row in zip(table.ids, table.rows, strict=True)
        for c, cell in zip(table.columns, row, strict=True)
        if not c.is_fixed
    }


class _Editor(QStyledItemDelegate):
    """A line to write in; in the column of materials it knows those that are shipped."""

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        line = QLineEdit(parent)
        cells = index.model()
        if isinstance(cells, _Cells) and cells.table.columns[index.column()].key == "material":
            completer = QCompleter(list(known_materials()), line)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            line.setCompleter(completer)
        return line


class TablePage(Page):
    """Facts of all items as a table."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Table of facts", parent, 1080, 620)
        self.session = session
        note = quiet(
            "A cell is changed in place, filled down with Ctrl+D and pasted over with Ctrl+V; each is one "
            "step. Bold is other than received, which stands beside it until you keep ours or take theirs. "
            "A material that is known brings its density."
        )
        note.setWordWrap(True)
        self.column.addWidget(note)
        self.cells = _Cells(session, self)
        self.view = QTableView()
        self.view.setAccessibleName("Table of facts")
        self.view.setModel(self.cells)
        self.view.setItemDelegate(_Editor(self.view))
        self.view.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.view.setAlternatingRowColors(True)
        self.view.verticalHeader().hide()
        self.view.verticalHeader().setDefaultSectionSize(26)
        self.view.horizontalHeader().setStretchLastSection(False)
        self.column.addWidget(self.view, 1)
        for keys, act in (("Ctrl+D", self.fill_down), ("Ctrl+C", self.copy), ("Ctrl+V", self.paste)):
            QShortcut(QKeySequence(keys), self.view, act, context=Qt.ShortcutContext.WidgetShortcut)
        row = QHBoxLayout()
        for text, act in (
            ("Fill down", self.fill_down), ("Keep ours", self.keep_ours), ("Take theirs", self.take_theirs),
            ("Save as\u2026", self.save), ("Read from\u2026", self.load),
        ):  # fmt: skip
            button = QPushButton(text)
            button.clicked.connect(act)
            row.addWidget(button)
        self.buttons.insertLayout(0, row)
        self.finish()
        session.model_changed.connect(self._later)
        session.facts_changed.connect(self._later)
        self.cells.refresh()
        self.view.resizeColumnsToContents()
        header = self.view.horizontalHeader()
        for column in range(header.count()):
            header.resizeSection(column, min(header.sectionSize(column), _WIDEST))

    def _later(self) -> None:
        """Take the model when the event loop is back: a cell may be under edit just now."""
        self.session.deferred.ask(self._refresh)

    def _refresh(self) -> None:
        at = self.view.currentIndex()
        self.cells.refresh()
        again = self.cells.index(at.row(), at.column())
        if again.isValid():
            self.view.selectionModel().setCurrentIndex(again, QItemSelectionModel.SelectionFlag.NoUpdate)

    def _selected(self) -> list[tuple[int, int]]:
        return sorted((i.row(), i.column()) for i in self.view.selectionModel().selectedIndexes())

    def fill_down(self) -> None:
        """Give the selected cells of each column the text of the uppermost."""
        top: dict[int, str] = {}
        cells: dict[tuple[int, int], str] = {}
        for row, column in self._selected():
            text = top.setdefault(column, self.cells.table.rows[row][column])
            cells[row, column] = text
        if len(cells) > len(top):
            self.cells.change(cells)

    def _otherwise(self) -> dict[tuple[int, int], str]:
        """Selected cells that the sender fills otherwise, and with what; of all where none is chosen."""
        every = [(r, c) for r in range(self.cells.rowCount()) for c in range(self.cells.columnCount())]
        chosen = self._selected()
        said = {at: self.cells.said_otherwise(*at) for at in (chosen if len(chosen) > 1 else every)}
        if len(chosen) == 1 and (one := self.cells.said_otherwise(*chosen[0])) is not None:
            said = {chosen[0]: one}
        return {at: was for at, was in said.items() if was is not None}

    def keep_ours(self) -> None:
        """Settle cells by what is said here: what was received is no longer shown beside it."""
        table = self.cells.table
        settled = [(table.ids[r], table.columns[c].key, was) for (r, c), was in self._otherwise().items()]
        if settled:
            crossing = self.session.crossing
            self.session.crossing = replace(crossing, accepted=(*crossing.accepted, *settled))
            self.session.touch()
            self._later()

    def take_theirs(self) -> None:
        """Put back what was received."""
        cells = self._otherwise()
        if cells:
            self.cells.change(cells)

    def copy(self) -> None:
        """Copy the selected cells as lines with tabs."""
        chosen = self._selected()
        if not chosen:
            return
        rows = sorted({row for row, _ in chosen})
        columns = sorted({column for _, column in chosen})
        table = self.cells.table.rows
        QApplication.clipboard().setText("\n".join("\t".join(table[r][c] for c in columns) for r in rows))

    def paste(self) -> None:
        """Put lines with tabs over the cells from the current one on; one text over all selected."""
        text = QApplication.clipboard().text().rstrip("\n")
        at = self.view.currentIndex()
        if not text or not at.isValid():
            return
        if "\t" not in text and "\n" not in text:
            cells = dict.fromkeys(self._selected(), text)
        else:
            cells = {
                (at.row() + r, at.column() + c): cell
                for r, line in enumerate(text.split("\n"))
                for c, cell in enumerate(line.split("\t"))
                if at.row() + r < self.cells.rowCount() and at.column() + c < self.cells.columnCount()
            }
        self.cells.change(cells)

    def save(self) -> None:
        """Keep the table as a file."""
        path, _ = QFileDialog.getSaveFileName(self, "Save the table", "facts.xlsx", _FILES)
        if not path:
            return
        try:
            write_table(path, self.cells.table)
        except GondrelError as error:
            self.session.tell_error(error)
            return
        self.session.notice.emit(
            f"Saved {count_of(len(self.cells.table.rows), 'row')} to {Path(path).name}"
        )

    def load(self) -> None:
        """Take what another table says, as one step."""
        path, _ = QFileDialog.getOpenFileName(self, "Read a table", "", _FILES)
        model = self.session.model
        if not path or model is None:
            return
        try:
            cells, missing = cells_from(model, read_table(path), self.cells.table)
        except GondrelError as error:
            self.session.tell_error(error)
            return
        if cells:
            self.session.edit(lambda now: apply_cells(now, cells))
        left = f"; {count_of(len(missing), 'row')} not found: {missing[0]}" if missing else ""
        self.session.notice.emit(f"{count_of(len(cells), 'cell')} taken from {Path(path).name}{left}")
