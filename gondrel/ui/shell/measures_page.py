"""The page of measures: tables of holes, walls, clearances, and masses."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDoubleSpinBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.arrange.table import Column, Table, write_table
from gondrel.core.errors import GondrelError
from gondrel.core.model import Model
from gondrel.core.model.beneath import bodies_beneath
from gondrel.core.reports.features import size_text
from gondrel.core.reports.figures import NOT_MEASURED, count_of, digits
from gondrel.core.reports.measured import Labels
from gondrel.ui.presenters.rows import chain_of_product
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.recipient_pages import tree_of
from gondrel.ui.widgets.labels import quiet

__all__ = ["MeasuresPage"]

_KINDS = (
    ("holes", "Holes"), ("walls", "Walls"), ("close", "Clearances"), ("mass", "Mass"),
    ("features", "Features"),
)  # fmt: skip
_HEADINGS = {
    "holes": ("part", "count", "diameter", "depth", "in all places"),
    "walls": ("part", "thinnest wall", "where, in the part"),
    "close": ("between", "and", "distance"),
    "mass": ("what", "value"),
    "features": ("part", "no.", "feature", "sizes", "sure"),
}

Faces = tuple[int, ...]


class MeasuresPage(Page):
    """Measures what is selected, or everything; a row that is clicked selects its part."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Measures", parent, 620, 520)
        self.session, self.kind = session, "holes"
        line = QHBoxLayout()
        self.kind_buttons: dict[str, QPushButton] = {}
        for key, text in _KINDS:
            button = QPushButton(text)
            button.setProperty("role", "pill")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, k=key: self.show_kind(k))
            self.kind_buttons[key] = button
            line.addWidget(button)
        line.addStretch(1)
        self.limit = QDoubleSpinBox()
        self.limit.setRange(0.001, 1000.0)
        self.limit.setDecimals(3)
        self.limit.setValue(0.1)
        self.limit.setSuffix(" mm")
        self.limit.setAccessibleName("Clearances below")
        line.addWidget(self.limit)
        self.ask = QPushButton("Measure")
        self.ask.clicked.connect(self.measure)
        line.addWidget(self.ask)
        self.column.addLayout(line)
        self.said = quiet("")
        self.column.addWidget(self.said)
        self.tables: dict[str, QTreeWidget] = {}
        self.stack = QVBoxLayout()
        for key, headings in _HEADINGS.items():
            table = tree_of(headings, headings.index("sizes") if "sizes" in headings else 0)
            table.setAccessibleName(dict(_KINDS)[key])
            table.itemClicked.connect(self._chosen)
            self.tables[key] = table
            self.stack.addWidget(table)
        self.column.addLayout(self.stack, 1)
        self.picture = QPushButton("Show walls in the picture")
        self.picture.setCheckable(True)
        self.picture.clicked.connect(self._show_walls)
        self.change = QPushButton("Change this\u2026")
        self.change.clicked.connect(self._change)
        self.keep = QPushButton("Keep as properties")
        self.keep.clicked.connect(lambda: session.sizing.keep_features())
        self.save = QPushButton("Save table\u2026")
        self.save.clicked.connect(self._choose)
        for place, button in ((1, self.picture), (2, self.change), (3, self.keep), (4, self.save)):
            self.buttons.insertWidget(place, button)
        self.finish()
        self.tables["features"].currentItemChanged.connect(lambda *_: self._tell())
        session.sizing.changed.connect(self.refresh)
        session.sizing.walls_changed.connect(self.refresh)
        session.selection_changed.connect(self._tell)
        session.settings.changed.connect(self.refresh)
        self.show_kind("holes")

    def show_kind(self, kind: str) -> None:
        """Show one of the tables."""
        self.kind = kind
        for key, button in self.kind_buttons.items():
            button.setChecked(key == kind)
            self.tables[key].setVisible(key == kind)
        self.limit.setVisible(kind == "close")
        self.picture.setVisible(kind == "walls")
        for button in (self.change, self.keep):
            button.setVisible(kind == "features")
        self._tell()

    def products(self) -> tuple[str, ...]:
        """What is measured: the selected products, or everything."""
        model = self.session.model
        return self.session.selected_products() or (model.roots if model is not None else ())

    def measure(self) -> None:
        """Measure what the table is of."""
        sizing, products = self.session.sizing, self.products()
        acts: dict[str, Callable[[], None]] = {
            "holes": lambda: sizing.ask_holes(products), "walls": lambda: sizing.ask_walls(products),
            "features": lambda: sizing.ask_features(products),
            "mass": lambda: sizing.weigh(products), "close": lambda: sizing.ask_close(self.limit.value()),
        }  # fmt: skip
        acts[self.kind]()

    def refresh(self) -> None:
        """Show what was measured."""
        for key, fill in (
            ("holes", self._holes), ("walls", self._walls), ("close", self._close), ("mass", self._mass),
            ("features", self._features),
        ):  # fmt: skip
            self.tables[key].clear()
            if self.session.model is not None:
                fill(self.tables[key], self.session.model)
        self.picture.setChecked(bool(self.session.sizing.walled))
        self._tell()

    def _tell(self) -> None:
        sizing = self.session.sizing
        whom = "what is selected" if self.session.selected_products() else "everything"
        made = getattr(sizing, self.kind)
        text = (
            "" if made is not None else f"Measure {'all pairs of bodies' if self.kind == 'close' else whom}"
        )
        if self.kind == "holes" and sizing.holes is not None:
            text = f"{count_of(sum(len(row.holes) for row in sizing.holes), 'hole')}, each part once"
        elif self.kind == "close" and sizing.close is not None:
            text = f"{count_of(len(sizing.close), 'pair')} that touch or come closer"
        elif self.kind == "features" and sizing.features is not None:
            counts = Counter(feature.kind for _, _, found, _ in sizing.features for feature in found)
            told = ", ".join(count_of(number, kind) for kind, number in counts.items())
            text = f"{told or 'No feature found'}, each part once"
        self.said.setText(text)
        self.said.setVisible(bool(text))
        for button in (self.ask, self.picture):
            button.setEnabled(self.session.model is not None)
        self.save.setEnabled(made is not None)
        self.keep.setEnabled(bool(sizing.features))
        self.change.setEnabled(self.tables["features"].currentItem() is not None)

    def _add(
        self, table: QTreeWidget, texts: tuple[str, ...], product: str, shown: tuple[str, Faces] = ("", ())
    ) -> None:
        item = QTreeWidgetItem(list(texts))
        item.setData(0, Qt.ItemDataRole.UserRole, product)
        item.setData(1, Qt.ItemDataRole.UserRole, shown)
        item.setToolTip(0, texts[0])
        table.addTopLevelItem(item)

    def _holes(self, table: QTreeWidget, model: Model) -> None:
        show = self.session.figures
        for row in self.session.sizing.holes or ():
            first, count = row.holes[0], len(row.holes)
            depth = show.length(first.depth) + (" through" if first.is_through else "")
            told = model.product(row.product).label, str(count), f"\u2300 {show.length(first.diameter)}"
            self._add(table, (*told, depth, str(count * model.quantities[row.product])), row.product)

    def _walls(self, table: QTreeWidget, model: Model) -> None:
        show = self.session.figures
        walls = self.session.sizing.walls or {}
        for (product, _), wall in sorted(walls.items(), key=lambda each: each[1].least or float("inf")):
            told = show.length(wall.least) if wall.least is not None else "none met"
            where = show.point(*wall.points[0]) if wall.least is not None else ""
            self._add(table, (model.product(product).label, told, where), product)

    def _close(self, table: QTreeWidget, model: Model) -> None:
        show, labels = self.session.figures, Labels(model)
        for pair in self.session.sizing.close or ():
            one, other = (labels.of(path, product) for product, path in pair.items)
            told = "touch or overlap" if pair.distance == 0 else show.deviation(pair.distance)
            self._add(table, (one, other, told), pair.items[0][0])

    def _mass(self, table: QTreeWidget, model: Model) -> None:
        mass, show = self.session.sizing.mass, self.session.figures
        if mass is None:
            return
        rows = [("volume", show.volume(mass.volume)), ("area", show.area(mass.area))]
        if mass.mass is None or mass.centre is None or mass.inertia is None:
            rows.insert(0, ("mass", NOT_MEASURED))
            rows += [("without a density", name) for name in mass.without]
        else:
            rows.insert(0, ("mass", f"{digits(mass.mass)} kg"))
            rows.append(("centre of gravity", show.point(*mass.centre)))
            for name, place in (("xx", 0), ("yy", 4), ("zz", 8), ("xy", 1), ("yz", 5), ("zx", 2)):
                rows.append((f"inertia {name} about it", f"{digits(mass.inertia[place])} kg mm\u00b2"))
        for row in rows:
            self._add(table, row, "")

    def _chosen(self, item: QTreeWidgetItem) -> None:
        product = item.data(0, Qt.ItemDataRole.UserRole)
        if product:
            body, faces = item.data(1, Qt.ItemDataRole.UserRole)
            self.session.select(() if body else (chain_of_product(product),))
            if body:
                self.session.sizing.faces_wanted.emit(body, tuple(faces))

    def _change(self) -> None:
        """Open the form that changes features, with the first size of the chosen one filled in."""
        item = self.tables["features"].currentItem()
        if item is None:
            return
        self.session.select((chain_of_product(item.data(0, Qt.ItemDataRole.UserRole)),))
        size = item.text(3).partition(",")[0].rsplit(" ", 2)
        words = size[0].replace(" ", "_"), *size[1:2]
        self.session.arranging.form_wanted.emit("rebuild", {"changes": " ".join((item.text(1), *words))})

    def _features(self, table: QTreeWidget, model: Model) -> None:
        for product, body, features, why in self.session.sizing.features or ():
            label = model.product(product).label
            if why:
                self._add(table, (label, "", "not looked at", why, ""), product)
            for number, feature in enumerate(features, 1):
                sizes = ", ".join(size_text(name, value) for name, value in feature.sizes.items())
                members = (features[place].faces for place in feature.members)
                faces = feature.faces or tuple(face for own in members for face in own)
                told = label, str(number), feature.kind, sizes, f"{feature.certainty:.0%}"
                self._add(table, told, product, (body, faces))

    def _show_walls(self, on: bool) -> None:
        model = self.session.model
        if model is None:
            return
        bodies = {body.blob for product in self.products() for body in bodies_beneath(model, product)}
        self.session.sizing.map_walls(tuple(sorted(bodies)) if on else ())

    def _choose(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self, "Save the table", f"{self.kind}.csv", "CSV (*.csv);;Excel (*.xlsx)"
        )
        if path:
            self.write(path if Path(path).suffix else f"{path}.csv")

    def write(self, path: str) -> None:
        """Save the table that is shown; what keeps it from being saved is told."""
        shown = self.tables[self.kind]
        columns = tuple(Column(name, name[:1].upper() + name[1:]) for name in _HEADINGS[self.kind])
        items = [shown.topLevelItem(n) for n in range(shown.topLevelItemCount())]
        rows = tuple(tuple(item.text(c) for c in range(len(columns))) for item in items if item is not None)
        try:
            write_table(path, Table(columns, tuple(str(n) for n in range(len(rows))), rows))
        except GondrelError as error:
            self.session.tell_error(error)
            return
        self.session.notice.emit(f"Saved {Path(path).name}")
