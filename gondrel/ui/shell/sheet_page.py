"""The page of a drawing: what is taken of it, its regions, sizes and relations, and what is made of it."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDoubleSpinBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.model.looked import LookedAt
from gondrel.core.model.outline import Curve, LineStyle
from gondrel.core.model.relations import Size
from gondrel.core.model.units import BY_KEY
from gondrel.ui.presenters.flat import freedom_text, head_text, relation_text, size_text, spot_text
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.recipient_pages import tree_of
from gondrel.ui.shell.sheet_making import MakingForm
from gondrel.ui.widgets.flat_canvas import Area, FlatCanvas, Spot, Stroke
from gondrel.ui.widgets.labels import head, quiet

__all__ = ["SheetPage"]

_TABS = (("regions", "Regions"), ("sizes", "Sizes"), ("relations", "Relations"), ("notes", "Notes"))
_BLOCKS = (("dissolved", "among the rest"), ("placed", "each by itself"), ("none", "left out"))
_KEY = Qt.ItemDataRole.UserRole


class SheetPage(Page):
    """A drawing in its pane, with what is taken of it at the left and what comes of it at the right."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Drawing", parent, 1180, 740)
        self.session, self.drafting = session, session.drafting
        self._own = False
        self.told = quiet("")
        self.column.addWidget(self.told)
        body = QHBoxLayout()
        body.setSpacing(14)
        body.addLayout(self._left())
        self.canvas = FlatCanvas(self)
        self.canvas.empty_text = "Open a DXF file, or paste the text of one"
        self.canvas.clicked.connect(self._curve_clicked)
        self.canvas.area_clicked.connect(self._area_clicked)
        body.addWidget(self.canvas, 1)
        body.addLayout(self._right())
        self.column.addLayout(body, 1)
        self.open_file = QPushButton("Open\u2026")
        self.open_file.clicked.connect(self._choose)
        self.fit = QPushButton("Fit")
        self.fit.clicked.connect(self.canvas.fit)
        self.save = QPushButton("Save outline\u2026")
        self.save.clicked.connect(self._save)
        for place, button in enumerate((self.open_file, self.fit, self.save)):
            self.buttons.insertWidget(place, button)
        self.finish()
        self.drafting.changed.connect(self.refresh)
        session.settings.changed.connect(self.refresh)
        self.show_tab("regions")
        self.refresh()

    # --- what there is on the page -------------------------------------------------------------------

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        form = QFormLayout()
        self.layouts, self.unit, self.blocks = QComboBox(), QComboBox(), QComboBox()
        self.unit.addItem("by the file", "")
        for key in BY_KEY:
            self.unit.addItem(key, key)
        for key, text in _BLOCKS:
            self.blocks.addItem(text, key)
        self.within = QDoubleSpinBox()
        self.within.setDecimals(4)
        self.within.setRange(0.0, 100.0)
        self.within.setValue(0.01)
        self.within.setSuffix(" mm")
        self.layouts.activated.connect(lambda _: self.drafting.change(layout=self.layouts.currentText()))
        self.unit.activated.connect(lambda _: self.drafting.change(unit=self.unit.currentData()))
        self.blocks.activated.connect(lambda _: self.drafting.change(blocks=self.blocks.currentData()))
        self.within.editingFinished.connect(lambda: self.drafting.change(within=self.within.value()))
        for label, widget in (
            ("Layout", self.layouts), ("Unit", self.unit), ("Blocks", self.blocks),
            ("Ends join", self.within),
        ):  # fmt: skip
            form.addRow(label, widget)
        column.addLayout(form)
        column.addWidget(head("Layers"))
        self.layers = tree_of(("layer", "curves"), 0)
        column.addWidget(self.layers, 2)
        column.addWidget(head("Kinds"))
        self.kinds = tree_of(("kind", "count"), 0)
        column.addWidget(self.kinds, 1)
        for tree, name, take in (
            (self.layers, "Layers", self._take_layers), (self.kinds, "Kinds", self._take_kinds)
        ):  # fmt: skip
            tree.setFixedWidth(228)
            tree.setRootIsDecorated(False)
            tree.setAccessibleName(name)
            tree.itemChanged.connect(take)
        return column

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        line = QHBoxLayout()
        self.tabs: dict[str, QPushButton] = {}
        for key, text in _TABS:
            button = QPushButton(text)
            button.setProperty("role", "pill")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, k=key: self.show_tab(k))
            self.tabs[key] = button
            line.addWidget(button)
        line.addStretch(1)
        column.addLayout(line)
        self.trees = {
            "regions": tree_of(("region", "area", "holes"), 1),
            "sizes": tree_of(("size", "kind", "value"), 2),
            "relations": tree_of(("what holds",), 0),
            "notes": tree_of(("note",), 0),
        }
        for key, tree in self.trees.items():
            tree.setFixedWidth(288)
            tree.setRootIsDecorated(False)
            tree.setAccessibleName(dict(_TABS)[key])
            column.addWidget(tree, 1)
        self.trees["notes"].setWordWrap(True)
        self.trees["regions"].itemChanged.connect(self._take_regions)
        self.trees["relations"].itemChanged.connect(self._take_relations)
        self.trees["sizes"].setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.trees["sizes"].itemDoubleClicked.connect(self._edit_size)
        self.trees["sizes"].itemChanged.connect(self._take_size)
        for key in ("sizes", "relations"):
            self.trees[key].currentItemChanged.connect(lambda item, _: self._mark(item))
        self.trees["notes"].itemClicked.connect(self._go_to)
        self.held = quiet("")
        column.addWidget(self.held)
        column.addWidget(head("Make"))
        self.making = MakingForm(self.session)
        column.addWidget(self.making)
        return column

    def show_tab(self, tab: str) -> None:
        """Show regions, sizes, relations or notes."""
        for key, tree in self.trees.items():
            tree.setVisible(key == tab)
            self.tabs[key].setChecked(key == tab)

    # --- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the drawing as it is taken now."""
        looked = self.drafting.looked
        self._own = True
        self._told(looked)
        for tree in (self.layers, self.kinds, *self.trees.values()):
            tree.clear()
        if looked is not None:
            self._fill_left(looked)
            self._fill_right(looked)
        self._draw(looked)
        ready = looked is not None and bool(looked.profile.regions) and not self.drafting.is_busy
        self.making.make.setEnabled(ready)
        self.save.setEnabled(looked is not None)
        self._own = False

    def _told(self, looked: LookedAt | None) -> None:
        if self.drafting.error is not None:
            self.told.setText(self.drafting.error.message)
        elif looked is None:
            self.told.setText("Looking at it \u2026" if self.drafting.is_busy else "No drawing is open")
        else:
            self.told.setText(f"{self.drafting.name} \u00b7 {head_text(looked)}")

    def _fill_left(self, looked: LookedAt) -> None:
        sheet, wish = looked.sheet, self.drafting.wish
        if [self.layouts.itemText(n) for n in range(self.layouts.count())] != list(sheet.layouts):
            self.layouts.clear()
            self.layouts.addItems(list(sheet.layouts))
        self.layouts.setCurrentText(sheet.name)
        self.unit.setItemText(0, f"{sheet.unit}, {'proposed' if sheet.is_proposed else 'by the file'}")
        self.unit.setCurrentIndex(max(self.unit.findData(wish.unit), 0))
        self.blocks.setCurrentIndex(max(self.blocks.findData(wish.blocks), 0))
        taken = {curve.layer for curve in looked.curves}
        chosen = None if wish.layers is None else {name.casefold() for name in wish.layers}
        for layer in sheet.layers:
            if not layer.entities:
                continue
            on = layer.name in taken if chosen is None else layer.name.casefold() in chosen
            item = _ticked(self.layers, (layer.name, str(layer.entities)), on, layer.name)
            item.setToolTip(0, f"{layer.name}, {layer.line_type or 'no line type'}, {layer.colour}")
            if not layer.is_shown:
                item.setText(0, f"{layer.name} (hidden)")
        counts: dict[str, int] = {}
        for curve in sheet.curves:
            counts[curve.kind] = counts.get(curve.kind, 0) + 1
        for kind, count in sorted(counts.items()):
            _ticked(self.kinds, (kind.lower(), str(count)), wish.kinds is None or kind in wish.kinds, kind)

    def _fill_right(self, looked: LookedAt) -> None:
        show, wish = self.session.figures, self.drafting.wish
        for number, region in enumerate(looked.profile.regions, 1):
            texts = (f"{number}", show.area(region.area), str(len(region.holes) or ""))
            item = _ticked(self.trees["regions"], texts, not wish.regions or number in wish.regions, number)
            item.setToolTip(1, f"outline {show.length(region.perimeter)}")
        for size in looked.sizes:
            item = QTreeWidgetItem([size.name, size.kind, size_text(size, show)])
            item.setData(0, _KEY, size.curves)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.trees["sizes"].addTopLevelItem(item)
        for number, relation in enumerate(looked.relations, 1):
            on = relation.kind not in wish.dropped and str(number) not in wish.dropped
            _ticked(self.trees["relations"], (relation_text(relation),), on, relation.curves)
        for amiss in looked.profile.amiss:
            item = QTreeWidgetItem([spot_text(amiss.kind, *amiss.point)])
            item.setData(0, _KEY, amiss.point)
            self.trees["notes"].addTopLevelItem(item)
        for note in looked.sheet.notes:
            item = QTreeWidgetItem([note.text])
            item.setToolTip(0, note.text)
            self.trees["notes"].addTopLevelItem(item)
        count = self.trees["notes"].topLevelItemCount()
        self.tabs["notes"].setText(f"Notes {count}" if count else "Notes")
        gap = looked.profile.widest
        joined = f"; gaps up to {gap:.2g} mm were closed" if gap > 1e-6 else ""
        held = (
            f"{freedom_text(looked.solved.freedom)}{joined}" if looked.solved else joined.removeprefix("; ")
        )
        self.held.setText(held)
        self.held.setVisible(bool(held))

    def _draw(self, looked: LookedAt | None) -> None:
        if looked is None:
            self.canvas.show_curves(())
            return
        profile = looked.profile
        taken = {id(curve) for curve in looked.curves}
        left = [
            Stroke(c.curve, c.colour, LineStyle.NARROW, is_faint=True)
            for c in looked.sheet.curves
            if id(c) not in taken
        ]
        strokes = [
            Stroke(curve, looked.curves[source].colour, _style(looked.curves[source].line_type), number)
            for number, (curve, source) in enumerate(zip(profile.curves, profile.sources, strict=True))
        ]
        wish = self.drafting.wish
        areas = [
            Area(
                tuple(
                    tuple((_curve(profile.curves, n), back) for n, back in loop.curves)
                    for loop in region.loops
                ),
                number,
                not wish.regions or number in wish.regions,
            )
            for number, region in enumerate(profile.regions, 1)
        ]
        spots = [Spot(amiss.kind, amiss.point) for amiss in profile.amiss]
        texts = [(text.text, text.at, text.height) for text in looked.sheet.texts]
        self.canvas.show_curves(
            [*left, *strokes], areas, spots, texts, keep=bool(self.drafting.wish.changes)
        )

    # --- what the user does ----------------------------------------------------------------------------

    def _take_layers(self) -> None:
        if not self._own:
            self.drafting.change(layers=tuple(_chosen(self.layers)))

    def _take_kinds(self) -> None:
        if not self._own:
            chosen = tuple(_chosen(self.kinds))
            self.drafting.change(kinds=None if len(chosen) == self.kinds.topLevelItemCount() else chosen)

    def _take_regions(self) -> None:
        if not self._own:
            chosen = tuple(_chosen(self.trees["regions"]))
            whole = len(chosen) == self.trees["regions"].topLevelItemCount()
            self.drafting.change(regions=() if whole else chosen)

    def _take_relations(self) -> None:
        if not self._own:
            tree = self.trees["relations"]
            off = Qt.CheckState.Unchecked
            dropped = tuple(str(n) for n, item in enumerate(_items(tree), 1) if item.checkState(0) == off)
            self.drafting.change(dropped=dropped)

    def _edit_size(self, item: QTreeWidgetItem) -> None:
        self._own = True
        size = next(s for s in self._sizes() if s.name == item.text(0))
        item.setText(2, f"{math.degrees(size.value) if size.kind == 'angle' else size.value:.9g}")
        self._own = False
        self.trees["sizes"].editItem(item, 2)

    def _take_size(self, item: QTreeWidgetItem, column: int) -> None:
        if self._own or column != 2:
            return
        try:
            value = float(item.text(2).strip().rstrip("\u00b0").removesuffix("mm").replace(",", "."))
        except ValueError:
            self.refresh()
            return
        self.drafting.resize(item.text(0), value)

    def _sizes(self) -> tuple[Size, ...]:
        return self.drafting.looked.sizes if self.drafting.looked is not None else ()

    def _mark(self, item: QTreeWidgetItem | None) -> None:
        self.canvas.choose(item.data(0, _KEY) if item is not None else ())

    def _go_to(self, item: QTreeWidgetItem) -> None:
        if (point := item.data(0, _KEY)) is not None:
            self.canvas.go_to(point)

    def _curve_clicked(self, number: int) -> None:
        self.canvas.choose((number,))
        tree = self.trees["sizes"]
        for item in _items(tree):
            if item.data(0, _KEY) == (number,):
                self.show_tab("sizes")
                tree.setCurrentItem(item)

    def _area_clicked(self, number: int) -> None:
        item = self.trees["regions"].topLevelItem(number - 1)
        if item is not None:
            on = item.checkState(0) == Qt.CheckState.Checked
            item.setCheckState(0, Qt.CheckState.Unchecked if on else Qt.CheckState.Checked)

    def _choose(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Open a drawing", "", "Drawings (*.dxf)")
        if path:
            self.drafting.open(path)

    def _save(self) -> None:
        name = f"{Path(self.drafting.path).stem}-outline.dxf"
        path, _ = QFileDialog.getSaveFileName(self, "Save the outline", name, "DXF (*.dxf);;SVG (*.svg)")
        if path:
            self.drafting.write(path if Path(path).suffix else f"{path}.dxf")


def _curve(curves: tuple[Curve, ...], number: int) -> Curve:
    return curves[number]


def _style(line_type: str) -> LineStyle:
    name = line_type.casefold()
    if any(word in name for word in ("center", "centre", "dashdot", "chain", "phantom")):
        return LineStyle.CHAIN
    return LineStyle.DASHED if any(word in name for word in ("dash", "hidden", "dot")) else LineStyle.WIDE


def _ticked(tree: QTreeWidget, texts: tuple[str, ...], on: bool, key: object) -> QTreeWidgetItem:
    item = QTreeWidgetItem(list(texts))
    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
    item.setCheckState(0, Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
    item.setData(0, _KEY, key)
    tree.addTopLevelItem(item)
    return item


def _items(tree: QTreeWidget) -> list[QTreeWidgetItem]:
    items = (tree.topLevelItem(n) for n in range(tree.topLevelItemCount()))
    return [item for item in items if item is not None]


def _chosen(tree: QTreeWidget) -> list[Any]:
    return [item.data(0, _KEY) for item in _items(tree) if item.checkState(0) == Qt.CheckState.Checked]
