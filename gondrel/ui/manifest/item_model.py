"""Rows of the manifest as a Qt item model, with a filter that keeps ancestors of what fits."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import QAbstractItemModel, QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QColor

from gondrel.core.model import BodyFacts, Model
from gondrel.core.reports.figures import Figures
from gondrel.ui.presenters.rows import (
    Chain,
    Row,
    build_flat,
    build_structure,
    build_where_used,
    cell_text,
    fitting,
    renewed,
    same_places,
    sort_key,
)
from gondrel.ui.presenters.states import NO_STATE, State
from gondrel.ui.widgets.theme import palette

__all__ = ["COLUMN_ROLE", "HEADINGS", "STATE_ROLE", "SWATCH_ROLE", "ManifestModel"]

HEADINGS = {
    "item": "ITEM", "number": "NUMBER", "revision": "REV", "quantity": "QTY", "bodies": "BODIES",
    "material": "MATERIAL", "mass": "MASS", "colour": "COLOUR", "layer": "LAYER", "state": "STATE",
}  # fmt: skip
STATE_ROLE = int(Qt.ItemDataRole.UserRole) + 1
SWATCH_ROLE = int(Qt.ItemDataRole.UserRole) + 2
HIDDEN_ROLE = int(Qt.ItemDataRole.UserRole) + 3
COLUMN_ROLE = int(Qt.ItemDataRole.UserRole) + 4

_CENTRED = ("revision", "quantity", "bodies")

_BRANCH = (
    Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsDragEnabled
    | Qt.ItemFlag.ItemIsDropEnabled
)  # fmt: skip
_LEAF = _BRANCH | Qt.ItemFlag.ItemNeverHasChildren

Index = QModelIndex | QPersistentModelIndex


class ManifestModel(QAbstractItemModel):
    """Read-only rows: structure, flat list or where-used."""

    looks_changed = Signal()

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        self.roots: list[Row] = []
        self.states: dict[str, State] = {}
        self.sized: dict[str, frozenset[str]] = {}
        self.sorted_by: tuple[str, bool] | None = None
        self.hidden: set[Any] = set()
        self.left_out: frozenset[str] = frozenset()
        self.faint: set[Any] = set()
        self.facts: Mapping[str, BodyFacts] = {}
        self.figures = Figures()
        self.columns: tuple[str, ...] = ("item", "revision", "quantity", "state")
        self.focused: frozenset[str] = frozenset()
        self.words: tuple[str, ...] = ()
        self._test = fitting((), {})
        self._roots: dict[Chain, Row] = {}
        self.shown = ""
        self._fits: dict[Row, bool] = {}
        self._kept: dict[Row | None, list[Row]] = {}

    def show(self, model: Model | None, mode: str) -> None:
        """Show a model in one of the three ways: structure, flat, used."""
        self.beginResetModel()
        build = {"structure": build_structure, "flat": build_flat, "used": build_where_used}[mode]
        self.roots = build(model) if model is not None else []
        self.shown = mode
        self._roots = {}
        self._forget_fits()
        self.endResetModel()

    def renew(self, model: Model) -> bool:
        """Take a state in which only what is said of products is other; False where rows would change."""
        before = self.roots[0].model if self.roots else None
        if before is None or self._is_filtered or not same_places(before, model):
            return False
        renewed(self.roots, model)
        if any(self._sorted(rows) != rows for rows in self._kept.values()):
            return False
        self.touch()
        return True

    def set_columns(self, columns: tuple[str, ...]) -> None:
        """Choose which columns stand beside the item."""
        self.beginResetModel()
        self.columns = ("item", *columns)
        self.endResetModel()

    def set_filter(self, text: str) -> int:
        """Keep rows that fit, with what leads to them; returns how many fit."""
        self.beginResetModel()
        self.words = tuple(text.lower().split())
        self._forget_fits()
        count = sum(self._count(row) for row in self.roots) if self._is_filtered else 0
        self.endResetModel()
        return count

    def _forget_fits(self) -> None:
        self._kept.clear()
        self._fits.clear()
        self._test = fitting(self.words, self.states, self.sized)

    def set_states(self, states: dict[str, State]) -> None:
        """Take the state of each product."""
        self.states = states
        self._test = fitting(self.words, states, self.sized)
        if self.sorted_by is not None and self.sorted_by[0] == "state":
            self.beginResetModel()
            self._kept.clear()
            self.endResetModel()
        self.touch()

    def sort_by(self, column: str, *, is_down: bool) -> None:
        """Sort the rows below each row by a column; an empty one for the order of the file."""
        self.beginResetModel()
        self.sorted_by = (column, is_down) if column else None
        self._kept.clear()
        self.endResetModel()

    def touch(self) -> None:
        """Say that every visible cell may look different; rows and their places stay."""
        self.looks_changed.emit()

    @property
    def _is_filtered(self) -> bool:
        return bool(self.words or self.focused)

    def set_focus(self, products: frozenset[str]) -> None:
        """Keep only rows of these products; none to keep all."""
        self.beginResetModel()
        self.focused = products
        self._forget_fits()
        self.endResetModel()

    def _fits_itself(self, row: Row) -> bool:
        if self.focused and row.product.id not in self.focused:
            return False
        return self._test(row)

    def listed(self) -> tuple[str, ...]:
        """Ids of the products that fit the filter, with what occurs in them; of all without one."""
        if not self._is_filtered:
            return tuple(row.product.id for row in self.roots)
        rows = (row for row, is_kept in self._fits.items() if is_kept and self._fits_itself(row))
        return tuple(dict.fromkeys(row.product.id for row in rows))

    def _is_kept(self, row: Row) -> bool:
        if row not in self._fits:
            self._count(row)
        return self._fits[row]

    def _count(self, row: Row) -> int:
        """How many rows fit, this and those below; keeps which are to be seen."""
        count = int(self._fits_itself(row))
        if row.has_children:
            count += sum(self._count(child) for child in row.children)
        self._fits[row] = bool(count)
        return count

    def children_of(self, row: Row | None) -> list[Row]:
        """Visible rows below a row, or the roots."""
        if row not in self._kept:
            rows = row.children if row is not None else self.roots
            kept = [r for r in rows if self._is_kept(r)] if self._is_filtered else rows
            shown = self._kept[row] = self._sorted(kept)
            for place, each in enumerate(shown):
                each.at = place
        return self._kept[row]

    def _sorted(self, rows: list[Row]) -> list[Row]:
        if self.sorted_by is None:
            return rows
        column, is_down = self.sorted_by
        return sorted(
            rows,
            key=lambda row: sort_key(row, column, self.facts, self.figures, self.states),
            reverse=is_down,
        )

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Rows can be dragged onto others, which puts them into those."""
        row = self.row_of(index)
        if row is None:
            return Qt.ItemFlag.NoItemFlags
        return _BRANCH if row.has_children else _LEAF

    def hasChildren(self, parent: Index = QModelIndex()) -> bool:
        row = self.row_of(parent)
        if row is not None and not (row.has_children and self._is_filtered):
            return row.has_children  # rows below are made when they are opened
        return self.rowCount(parent) > 0

    def root_of(self, chain: Chain) -> Row | None:
        """The row of a chain among the roots."""
        if not self._roots:
            self._roots = {row.chain: row for row in self.roots}
        return self._roots.get(chain)

    def row_of(self, index: Index) -> Row | None:
        """The row behind an index."""
        row = index.internalPointer() if index.isValid() else None
        return row if isinstance(row, Row) else None

    def index_of(self, row: Row) -> QModelIndex:
        """The index of a visible row; invalid when it is filtered out."""
        siblings = self.children_of(row.parent)
        is_shown = row.at < len(siblings) and siblings[row.at] is row
        return self.createIndex(row.at, 0, row) if is_shown else QModelIndex()

    def index(self, row: int, column: int, parent: Index = QModelIndex()) -> QModelIndex:
        siblings = self.children_of(self.row_of(parent))
        if not (0 <= row < len(siblings) and 0 <= column < len(self.columns)):
            return QModelIndex()
        return self.createIndex(row, column, siblings[row])

    def parent(self, index: Index = QModelIndex()) -> QModelIndex:  # type: ignore[override]
        row = self.row_of(index)
        return self.index_of(row.parent) if row is not None and row.parent is not None else QModelIndex()

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return len(self.children_of(self.row_of(parent))) if parent.column() <= 0 else 0

    def columnCount(self, parent: Index = QModelIndex()) -> int:
        return len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return HEADINGS[self.columns[section]]
        if role == Qt.ItemDataRole.TextAlignmentRole and section:
            centred = self.columns[section] in _CENTRED
            side = Qt.AlignmentFlag.AlignHCenter if centred else Qt.AlignmentFlag.AlignLeft
            return int(side | Qt.AlignmentFlag.AlignVCenter)
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        row = self.row_of(index)
        if row is None:
            return None
        product, column = row.product, self.columns[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            if column != "item":
                return cell_text(row, column, self.facts, self.figures)
            return f"{row.label} \u00b7 left out" if self._stays(row) else row.label
        if role == COLUMN_ROLE:
            return column
        if role == Qt.ItemDataRole.ForegroundRole:
            quiet = column != "item" or row.chain in self.hidden
            return QColor(palette().quiet if quiet else palette().ink)
        if role == Qt.ItemDataRole.ToolTipRole:
            return self._tip(row)
        if role == STATE_ROLE and column == "state":
            return self.states.get(product.id, NO_STATE)
        if role == SWATCH_ROLE and column == "item":
            return "assembly" if product.is_assembly else row.colour or "none"
        if role == HIDDEN_ROLE:
            return "hidden" if row.chain in self.hidden else "faint" if row.chain in self.faint else ""
        return None

    def _stays(self, row: Row) -> bool:
        """Whether what a row stands for is left out of what is sent."""
        return bool(self.left_out and row.chain and row.chain[-1] <= self.left_out)

    def _tip(self, row: Row) -> str:
        product = row.product
        head = "  ".join(t for t in (product.number, product.label, product.revision) if t)
        lines = [head, product.description]
        if row.chain in self.hidden:
            lines.append("hidden in the picture")
        if self._stays(row):
            lines.append("left out of what is sent")
        if product.id in self.states:
            lines.append(self.states[product.id].tip)
        return "\n".join(line for line in lines if line)
