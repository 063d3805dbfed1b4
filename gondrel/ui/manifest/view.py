"""The manifest: the tree-table of items at the left of the window."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import (
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPoint,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import (
    QAction,
    QColor,
    QContextMenuEvent,
    QDragMoveEvent,
    QDropEvent,
    QFont,
    QKeyEvent,
    QPainter,
    QPen,
)
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

from gondrel.ui.manifest.item_model import (
    COLUMN_ROLE,
    HEADINGS,
    HIDDEN_ROLE,
    STATE_ROLE,
    SWATCH_ROLE,
    Index,
    ManifestModel,
)
from gondrel.ui.presenters.rows import Chain, Row
from gondrel.ui.presenters.states import State, states_of
from gondrel.ui.session.session import Session
from gondrel.ui.widgets.marks import draw_mark
from gondrel.ui.widgets.theme import elided, font, palette, scaled, verdict_colour

__all__ = ["ManifestView"]

_ROW = 24
_WIDTHS = {"revision": 34, "quantity": 34, "bodies": 50, "state": 90, "mass": 62, "colour": 62}


class _RowDelegate(QStyledItemDelegate):
    """Paints a row: swatch and name, revision, quantity, state mark."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(40, scaled(_ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        p = palette()
        rect = QRectF(option.rect)
        selected = bool(option.state & QStyle.StateFlag.State_Selected)
        if selected:
            painter.fillRect(rect, QColor(p.accent_soft))
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(rect, QColor(p.field))
        column = index.data(COLUMN_ROLE)
        if column == "state":
            self._paint_state(painter, index.data(STATE_ROLE), rect)
            return
        painter.setPen(index.data(Qt.ItemDataRole.ForegroundRole))
        if column != "item":
            painter.setFont(font(12))
            centred = column in ("revision", "quantity", "bodies")
            text = elided(index.data() or "", font(12), int(rect.width()) - 4)
            side = Qt.AlignmentFlag.AlignHCenter if centred else Qt.AlignmentFlag.AlignLeft
            painter.drawText(rect.adjusted(2, 0, -2, 0), side | Qt.AlignmentFlag.AlignVCenter, text)
            return
        self._paint_swatch(painter, index, QPointF(rect.left() + 9, rect.center().y() + 0.5))
        is_root = not index.parent().isValid()
        made = font(12.5, QFont.Weight.DemiBold if is_root else QFont.Weight.Normal)
        state = index.data(HIDDEN_ROLE)
        if state == "hidden":
            made.setStrikeOut(True)
        elif state == "faint":
            painter.setOpacity(0.55)
        painter.setFont(made)
        box = rect.adjusted(20, 0, -2, 0)
        text = elided(index.data(), made, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
        painter.setOpacity(1.0)

    @staticmethod
    def _paint_state(painter: QPainter, state: State, rect: QRectF) -> None:
        """The mark and what it says."""
        if not state.mark:
            return
        draw_mark(painter, state.mark, QPointF(rect.left() + 9, rect.center().y()), 11)
        painter.setFont(font(12))
        painter.setPen(QColor(verdict_colour(state.mark)))
        text = elided(state.text, font(12), int(rect.width()) - 21)
        painter.drawText(rect.adjusted(19, 0, -2, 0), Qt.AlignmentFlag.AlignVCenter, text)

    @staticmethod
    def _paint_swatch(painter: QPainter, index: Index, at: QPointF) -> None:
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

    menu_wanted = Signal(QPoint)
    dropped_on = Signal(QModelIndex)

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        """Rows of this tree may be dropped on any row that is not one of them."""
        super().dragMoveEvent(event)
        index = self.indexAt(event.position().toPoint())
        is_other = index.isValid() and not self.selectionModel().isRowSelected(index.row(), index.parent())
        if event.source() is self and is_other:
            event.accept()
        else:
            event.ignore()

    def dropEvent(self, event: QDropEvent) -> None:
        """The model is not Qt's to move rows in; what is dropped is told."""
        index = self.indexAt(event.position().toPoint())
        if index.isValid():
            self.dropped_on.emit(index)
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_wanted.emit(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space:
            event.ignore()  # the window swaps the two sides with it
        else:
            super().keyPressEvent(event)

    def drawBranches(self, painter: QPainter, rect: Any, index: Index) -> None:
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
        self.empty.setTextFormat(Qt.TextFormat.PlainText)
        self.empty.setProperty("role", "quiet")
        self.empty.setWordWrap(True)
        self.empty.setContentsMargins(16, 4, 16, 12)
        column.addWidget(self.empty)
        session.model_changed.connect(self.refresh)
        session.facts_changed.connect(self._figures)
        session.settings.changed.connect(self._settings)
        session.sent_changed.connect(self._states)
        session.checking.changed.connect(self._states)
        session.selection_changed.connect(self._show_selection)
        self.session.sizing.fits_changed.connect(lambda: self._filter(self.filter.text()))
        session.hidden_changed.connect(self._hidden)
        session.focus_changed.connect(self._focus)
        self.refresh()
        self._take_columns()

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
        tree.setDragEnabled(True)
        tree.setAcceptDrops(True)
        tree.setDropIndicatorShown(True)
        tree.dropped_on.connect(self._dropped)
        tree.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        tree.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        tree.setContextMenuPolicy(Qt.ContextMenuPolicy.DefaultContextMenu)
        tree.menu_wanted.connect(self._menu)
        header = tree.header()
        # With the tree's own one the head asks every row of every column whether all are selected.
        header.setSelectionModel(QItemSelectionModel(self.rows, header))
        header.setStretchLastSection(False)
        header.setSectionsMovable(False)
        header.setMinimumSectionSize(30)
        header.setSectionsClickable(True)
        header.sectionClicked.connect(self._sort)
        header.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        header.customContextMenuRequested.connect(lambda at: self._columns_menu(header.mapToGlobal(at)))
        self.rows.looks_changed.connect(tree.viewport().update)
        tree.selectionModel().selectionChanged.connect(self._selected)
        tree.setAccessibleName("Manifest")
        return tree

    def _dropped(self, index: QModelIndex) -> None:
        """Put the selected components into the assembly they were dropped on."""
        row = self.rows.row_of(index)
        if row is not None:
            self.session.arranging.move_into(row.chain)

    # --- columns ---------------------------------------------------------------------------

    def _settings(self) -> None:
        if self.rows.columns[1:] != self.session.settings.now.columns:
            self._take_columns()
        self._figures()

    def _take_columns(self) -> None:
        chosen = tuple(k for k in HEADINGS if k in self.session.settings.now.columns)
        self._own = True
        self.rows.set_columns(chosen)
        self._own = False
        header = self.tree.header()
        for section, key in enumerate(self.rows.columns):
            wide = section == 0
            mode = QHeaderView.ResizeMode.Stretch if wide else QHeaderView.ResizeMode.Interactive
            header.setSectionResizeMode(section, mode)
            if not wide:
                header.resizeSection(section, _WIDTHS.get(key, 74))
        self._open_first()
        self._show_selection()

    def _sort(self, section: int) -> None:
        """Sort by a column; clicked again the other way round, and then as in the file."""
        column = self.rows.columns[section]
        now = self.rows.sorted_by
        following = (column, False) if now is None or now[0] != column else (column, True)
        if now == (column, True):
            following = ("", False)
        opened = self._opened()
        self._own = True
        self.rows.sort_by(following[0], is_down=following[1])
        self._own = False
        self._open_again(opened)
        header = self.tree.header()
        order = Qt.SortOrder.DescendingOrder if following[1] else Qt.SortOrder.AscendingOrder
        header.setSortIndicatorShown(bool(following[0]))
        header.setSortIndicator(section, order)
        self._show_selection()

    def _columns_menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        settings = self.session.settings
        for key, heading in HEADINGS.items():
            if key == "item":
                continue
            action = QAction(heading.capitalize(), menu, checkable=True)
            action.setChecked(key in settings.now.columns)
            action.toggled.connect(lambda on, k=key: self._choose_column(k, on))
            menu.addAction(action)
        menu.exec(at)

    def _choose_column(self, key: str, shown: bool) -> None:
        now = set(self.session.settings.now.columns)
        now = now | {key} if shown else now - {key}
        self.session.settings.change(columns=tuple(k for k in HEADINGS if k in now))

    def _figures(self) -> None:
        self.rows.facts, self.rows.figures = self.session.facts, self.session.figures
        self._states()

    # --- showing ---------------------------------------------------------------------------

    def set_mode(self, mode: str) -> None:
        """Look at the model as structure, flat list or where-used."""
        self.mode = mode
        self.refresh()

    def refresh(self) -> None:
        """Take the session's model."""
        model = self.session.model
        if model is not None and self.rows.shown == self.mode and self.rows.renew(model):
            return
        self._own = True
        self.rows.hidden, self.rows.faint = self.session.hidden, self.session.faint
        opened = self._opened()
        uses = model.told_uses if model is not None else ()
        self.rows.left_out = frozenset(use.id for use in uses if use.left_out)
        self.rows.show(model, self.mode)
        self._own = False
        self._figures()
        if opened:
            self._open_again(opened)
        else:
            self._open_first()
        self._say_empty(0)
        self._show_selection()

    def _opened(self) -> set[Chain]:
        """Rows that stand open, so that an edit does not fold the tree."""
        chains: set[Chain] = set()

        def look(parent: QModelIndex) -> None:
            for place in range(self.rows.rowCount(parent)):
                index = self.rows.index(place, 0, parent)
                row = self.rows.row_of(index)
                if row is not None and row.has_children and self.tree.isExpanded(index):
                    chains.add(row.chain)
                    look(index)

        if any(root.has_children for root in self.rows.roots):
            look(QModelIndex())
        return chains

    def _open_again(self, chains: set[Chain]) -> None:
        def look(parent: QModelIndex) -> None:
            for place, row in enumerate(self.rows.children_of(self.rows.row_of(parent))):
                if row.has_children and row.chain in chains:
                    index = self.rows.index(place, 0, parent)
                    self.tree.expand(index)
                    look(index)

        if chains:
            look(QModelIndex())
        roots = [n for n, root in enumerate(self.rows.children_of(None)) if root.has_children]
        if not any(self.tree.isExpanded(self.rows.index(n, 0)) for n in roots):
            self._open_first()

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
        report = self.session.checking.report
        states = states_of(model, proof, self.session.problems, report) if model else {}
        self.rows.set_states(states)

    def _filter(self, text: str) -> None:
        self._own = True
        self.session.sizing.ask_fits(text.split())
        self.rows.sized = self.session.sizing.fits
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
            text = "Only the items concerned. Esc shows all again."
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
        self.rows.hidden, self.rows.faint = self.session.hidden, self.session.faint
        self.rows.touch()

    # --- selection -------------------------------------------------------------------------

    def _selected(self) -> None:
        if self._own:
            return
        chosen: list[Row] = []
        selection = self.tree.selectionModel().selection()
        for place in range(selection.count()):
            run = selection.at(place)
            siblings = self.rows.children_of(self.rows.row_of(run.parent()))
            chosen += siblings[run.top() : run.bottom() + 1]
        self._own = True
        self.session.select(tuple(dict.fromkeys(row.chain for row in chosen)))
        self._own = False

    def row_of(self, chain: Chain) -> Row | None:
        """The row of a chain, opened down to it by the caller."""
        level: list[Row] = self.rows.roots
        row: Row | None = None
        if not chain:
            return level[0] if level else None
        if self.mode != "structure":
            return self.rows.root_of(chain)
        for root in level:
            row = root
            for step in chain:
                row = next((c for c in row.children if c.chain[-1] & step), None)
                if row is None:
                    break
            if row is not None:
                return row
        return None

    def _show_selection(self) -> None:
        if self._own:
            return
        self._own = True
        runs: list[tuple[Row | None, int, int]] = []
        index = QModelIndex()
        for chain in self.session.selection:
            row = self.row_of(chain)
            if row is None:
                continue
            above = row.parent
            while above is not None:
                self.tree.expand(self.rows.index_of(above))
                above = above.parent
            index = self.rows.index_of(row)
            if index.isValid():
                if runs and runs[-1][0] is row.parent and runs[-1][2] == index.row() - 1:
                    runs[-1] = row.parent, runs[-1][1], index.row()
                else:
                    runs.append((row.parent, index.row(), index.row()))
        chosen = QItemSelection()
        for parent, first, last in runs:
            siblings = self.rows.children_of(parent)
            chosen.select(self.rows.index_of(siblings[first]), self.rows.index_of(siblings[last]))
        flags = QItemSelectionModel.SelectionFlag
        self.tree.selectionModel().select(chosen, flags.ClearAndSelect | flags.Rows)
        if index.isValid():
            self.tree.scrollTo(index)
        self._own = False

    def select_all(self) -> None:
        """Select every row that is unfolded."""
        chosen = QItemSelection()
        waiting = [QModelIndex()]
        while waiting:
            parent = waiting.pop()
            rows = self.rows.children_of(self.rows.row_of(parent))
            if not rows:
                continue
            ends = (self.rows.index(n, 0, parent) for n in (0, len(rows) - 1))
            chosen.select(*ends)
            waiting += [
                index for n, row in enumerate(rows)
                if row.has_children and self.tree.isExpanded(index := self.rows.index(n, 0, parent))
            ]  # fmt: skip
        flags = QItemSelectionModel.SelectionFlag
        self.tree.selectionModel().select(chosen, flags.ClearAndSelect | flags.Rows)

    def use_actions(self, actions: Mapping[str, QAction]) -> None:
        """Take what the menu of a row offers."""
        self._actions = actions

    # --- hiding ----------------------------------------------------------------------------

    def _menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        for key in ("hide", "isolate", "faint", "show", "show-all", "fit"):
            menu.addAction(self._actions[key])
        menu.addSeparator()
        for key in ("group", "dissolve", "delete"):
            menu.addAction(self._actions[key])
        menu.addSeparator()
        menu.addAction(self._actions["copy-names"])
        columns = QAction("Columns\u2026", menu)
        columns.triggered.connect(lambda: self._columns_menu(at))
        menu.addAction(columns)
        menu.exec(at)
