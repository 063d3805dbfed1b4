"""The manifest: the tree-table of items at the left of the window."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QItemSelectionModel, QModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QAction, QColor, QContextMenuEvent, QFont, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from gondrel.ui.manifest_model import HIDDEN_ROLE, STATE_ROLE, SWATCH_ROLE, ManifestModel
from gondrel.ui.marks import draw_mark
from gondrel.ui.presenters.rows import Chain, Row, states_of
from gondrel.ui.session import Session
from gondrel.ui.theme import elided, font, palette

__all__ = ["ManifestView"]

_ROW = 24


class _RowDelegate(QStyledItemDelegate):
    """Paints a row: swatch and name, revision, quantity, state mark."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(40, _ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        p = palette()
        rect = QRectF(option.rect)
        selected = bool(option.state & QStyle.StateFlag.State_Selected)
        if selected:
            painter.fillRect(rect, QColor(p.accent_soft))
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(rect, QColor(p.field))
        if index.column() == 3:
            state = index.data(STATE_ROLE)
            if state:
                draw_mark(painter, state, rect.center(), 11)
            return
        painter.setPen(index.data(Qt.ItemDataRole.ForegroundRole))
        if index.column():
            painter.setFont(font(12))
            text = elided(index.data(), font(12), int(rect.width()) - 2)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
            return
        self._paint_swatch(painter, index, QPointF(rect.left() + 9, rect.center().y() + 0.5))
        is_root = not index.parent().isValid()
        made = font(12.5, QFont.Weight.DemiBold if is_root else QFont.Weight.Normal)
        if index.data(HIDDEN_ROLE):
            made.setItalic(True)
        painter.setFont(made)
        box = rect.adjusted(20, 0, -2, 0)
        text = elided(index.data(), made, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)

    @staticmethod
    def _paint_swatch(painter: QPainter, index: QModelIndex, at: QPointF) -> None:
        p = palette()
        swatch = index.data(SWATCH_ROLE)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if swatch == "assembly":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(p.accent))
            painter.drawEllipse(at, 4.5, 4.5)
        else:
            painter.setPen(QPen(QColor(p.quiet), 0.8))
            painter.setBrush(QColor(p.sheet if swatch == "none" else swatch))
            painter.drawRoundedRect(QRectF(at.x() - 5, at.y() - 5, 10, 10), 2, 2)
        painter.restore()


class _Tree(QTreeView):
    """The tree itself, with our own branch arrows and a rail at the selected row."""

    def drawBranches(self, painter: QPainter, rect: Any, index: QModelIndex) -> None:
        p = palette()
        row = QRectF(0, rect.top(), self.width(), rect.height())
        if self.selectionModel().isSelected(index):
            painter.fillRect(QRectF(0, row.top(), rect.right() + 1, row.height()), QColor(p.accent_soft))
            painter.fillRect(QRectF(0, row.top(), 3, row.height()), QColor(p.accent))
        if not self.model().hasChildren(index):
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(p.quiet), 1.6))
        at = QPointF(rect.right() - 7, rect.center().y() + 0.5)
        if self.isExpanded(index):
            points = [at + QPointF(-4, -2), at + QPointF(0, 2.5), at + QPointF(4, -2)]
        else:
            points = [at + QPointF(-2, -4), at + QPointF(2.5, 0), at + QPointF(-2, 4)]
        painter.drawPolyline(points)
        painter.restore()


class ManifestView(QWidget):
    """Heading, ways to look, filter line and the tree, tied to the session's selection."""

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__(parent)
        self.setObjectName("manifest")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.session = session
        self.mode = "structure"
        self.rows = ManifestModel(self)
        self._own = False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 0)
        column.setSpacing(8)
        column.addLayout(self._head())
        column.addLayout(self._filter_line())
        self.tree = self._tree()
        inset = QHBoxLayout()
        inset.setContentsMargins(8, 0, 0, 0)
        inset.addWidget(self.tree)
        column.addLayout(inset, 1)
        self.empty = QLabel("")
        self.empty.setProperty("role", "quiet")
        self.empty.setWordWrap(True)
        self.empty.setContentsMargins(16, 4, 16, 12)
        column.addWidget(self.empty)
        session.model_changed.connect(self.refresh)
        session.sent_changed.connect(self._states)
        session.selection_changed.connect(self._show_selection)
        session.hidden_changed.connect(self._hidden)
        session.focus_changed.connect(self._focus)
        self.refresh()

    def _head(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setContentsMargins(16, 0, 8, 0)
        line.setSpacing(0)
        title = QLabel("Manifest")
        title.setProperty("role", "name")
        line.addWidget(title)
        line.addStretch(1)
        self.modes = QButtonGroup(self)
        for key, text in (("structure", "Structure"), ("flat", "Flat"), ("used", "Where used")):
            button = QPushButton(text)
            button.setCheckable(True)
            button.setProperty("role", "pill")
            button.setChecked(key == "structure")
            button.clicked.connect(lambda _=False, k=key: self.set_mode(k))
            self.modes.addButton(button)
            line.addWidget(button)
        return line

    def _filter_line(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setContentsMargins(16, 0, 16, 0)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter: name, number, kind:solid, lost")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        line.addWidget(self.filter)
        return line

    def _tree(self) -> _Tree:
        tree = _Tree()
        tree.setModel(self.rows)
        tree.setItemDelegate(_RowDelegate(tree))
        tree.setUniformRowHeights(True)
        tree.setIndentation(15)
        tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        tree.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        tree.setDragEnabled(False)
        tree.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        tree.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        tree.setContextMenuPolicy(Qt.ContextMenuPolicy.DefaultContextMenu)
        tree.contextMenuEvent = self._menu
        header = tree.header()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column, width in ((1, 38), (2, 36), (3, 44)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            header.resizeSection(column, width)
        tree.selectionModel().selectionChanged.connect(self._selected)
        tree.setAccessibleName("Manifest")
        return tree

    # --- showing ---------------------------------------------------------------------------

    def set_mode(self, mode: str) -> None:
        """Look at the model as structure, flat list or where-used."""
        self.mode = mode
        self.refresh()

    def refresh(self) -> None:
        """Take the session's model."""
        self._own = True
        self.rows.hidden = self.session.hidden
        self.rows.show(self.session.model, self.mode)
        self._own = False
        self._states()
        self._open_first()
        self._say_empty(0)

    def _open_first(self) -> None:
        if self.mode == "used":
            return
        budget = 60
        for level in (0, 1):
            count = sum(len(r.children) for r in self.rows.roots) if level else len(self.rows.roots)
            if count > budget:
                return
            self.tree.expandToDepth(level)
            budget = 26

    def _states(self) -> None:
        model, sent = self.session.model, self.session.sent
        proof = sent.proof if sent else None
        self.rows.set_states(states_of(model, proof) if model else {})

    def _filter(self, text: str) -> None:
        self._own = True
        count = self.rows.set_filter(text)
        self._own = False
        if text:
            self.tree.expandAll() if count < 500 else self.tree.expandToDepth(1)
        else:
            self._open_first()
        self._say_empty(count)

    def _say_empty(self, count: int) -> None:
        text = ""
        if self.session.model is None:
            text = "Nothing received yet. Open a file, drop one here, or look at the demo."
        elif self.filter.text() and count == 0:
            text = f"No item fits \u201c{self.filter.text()}\u201d. Clear the line to see all."
        elif self.rows.focused:
            text = "Only the items behind the opened ledger cell. Click the cell again to see all."
        self.empty.setText(text)
        self.empty.setVisible(bool(text))

    def _focus(self) -> None:
        self._own = True
        self.rows.set_focus(self.session.focused)
        self._own = False
        if self.session.focused:
            self.tree.expandAll()
        else:
            self._open_first()
        self._show_selection()
        self._say_empty(1)

    def _hidden(self) -> None:
        self.rows.hidden = self.session.hidden
        self.rows.touch()

    # --- selection -------------------------------------------------------------------------

    def _selected(self) -> None:
        if self._own:
            return
        rows = [self.rows.row_of(i) for i in self.tree.selectionModel().selectedRows()]
        self._own = True
        self.session.select(tuple(row.chain for row in rows if row is not None))
        self._own = False

    def find(self, chain: Chain) -> Row | None:
        """The row of a chain, opened down to it by the caller."""
        level: list[Row] = self.rows.roots
        found: Row | None = None
        if not chain:
            return level[0] if level else None
        if self.mode != "structure":
            return next((r for r in level if r.chain == chain), None)
        for root in level:
            found = root
            for step in chain:
                found = next((c for c in found.children if c.chain[-1] & step), None)
                if found is None:
                    break
            if found is not None:
                return found
        return None

    def _show_selection(self) -> None:
        if self._own:
            return
        self._own = True
        model = self.tree.selectionModel()
        model.clearSelection()
        for chain in self.session.selection:
            row = self.find(chain)
            if row is None:
                continue
            above = row.parent
            while above is not None:
                self.tree.expand(self.rows.index_of(above))
                above = above.parent
            index = self.rows.index_of(row)
            flags = QItemSelectionModel.SelectionFlag
            model.select(index, flags.Select | flags.Rows)
            self.tree.scrollTo(index)
        self._own = False

    # --- hiding ----------------------------------------------------------------------------

    def _menu(self, event: QContextMenuEvent) -> None:
        session = self.session
        menu = QMenu(self)
        hide = QAction("Hide", menu)
        hide.triggered.connect(lambda: session.hide(session.selection))
        back = QAction("Show again", menu)
        back.triggered.connect(lambda: session.show_again(session.selection))
        everything = QAction("Show everything", menu)
        everything.triggered.connect(session.show_all)
        menu.addActions([hide, back, everything])
        menu.exec(event.globalPos())
