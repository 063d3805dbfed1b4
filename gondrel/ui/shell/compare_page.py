"""The page on which any two models are compared."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QTreeWidgetItem,
    QWidget,
)

from gondrel.core.reports.figures import count_of
from gondrel.core.service.catalogue import model_suffixes
from gondrel.ui.presenters.measures import degrees
from gondrel.ui.presenters.rows import chain_of_product
from gondrel.ui.session.comparing import BESIDE, DIFFERENCE, OVERLAY
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.recipient_pages import tree_of
from gondrel.ui.widgets.labels import quiet

__all__ = ["ComparePage"]

_MODELS = " ".join(f"*{suffix}" for suffix in model_suffixes())
_WAYS = ((BESIDE, "Beside"), (OVERLAY, "Over one another"), (DIFFERENCE, "Only what differs"))


class ComparePage(Page):
    """With what, how it is shown, and what differs: material, places, and the rows of the ledger."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Compare", parent, 640, 520)
        self.session = session
        line = QHBoxLayout()
        self.with_file = QPushButton("With a file\u2026")
        self.with_file.clicked.connect(self.choose_file)
        self.with_returned = QPushButton("With what came back")
        self.with_returned.clicked.connect(session.comparing.with_returned)
        self.steps = QComboBox()
        self.steps.setAccessibleName("With an earlier step")
        self.steps.activated.connect(self._step_chosen)
        for widget in (self.with_file, self.with_returned):
            line.addWidget(widget)
        line.addWidget(self.steps, 1)
        self.column.addLayout(line)
        self.ways = QHBoxLayout()
        self.way_buttons: dict[str, QPushButton] = {}
        for key, text in _WAYS:
            button = QPushButton(text)
            button.setProperty("role", "pill")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, k=key: session.comparing.show(k))
            self.way_buttons[key] = button
            self.ways.addWidget(button)
        self.ways.addStretch(1)
        self.column.addLayout(self.ways)
        self.said = quiet("")
        self.column.addWidget(self.said)
        self.table = tree_of(("what differs", "added", "removed", "where"), 0)
        self.table.setAccessibleName("What differs")
        self.table.itemClicked.connect(self._chosen)
        self.column.addWidget(self.table, 1)
        self.finish()
        session.comparing.changed.connect(self.refresh)
        session.model_changed.connect(self.refresh)
        session.sent_changed.connect(self.refresh)
        session.settings.changed.connect(self.refresh)
        self.refresh()

    def choose_file(self) -> None:
        """Ask for the file to compare with."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Compare with", "", f"Models ({_MODELS});;All files (*)"
        )
        if path:
            self.session.comparing.with_file(path)

    def _step_chosen(self, place: int) -> None:
        index = self.steps.itemData(place)
        if index is not None:
            self.session.comparing.with_step(index)

    def refresh(self) -> None:
        """Show with what can be compared, and what differs."""
        session, comparing = self.session, self.session.comparing
        has_model = session.model is not None
        self.with_file.setEnabled(has_model)
        self.with_returned.setEnabled(has_model and session.sent is not None)
        self.steps.clear()
        self.steps.addItem("With an earlier step", None)
        history = session.crossing.history
        for index in range(history.at - 1, -1, -1):
            self.steps.addItem(history.steps[index].name, index)
        self.steps.setEnabled(history.at > 0)
        for key, button in self.way_buttons.items():
            button.setVisible(comparing.compared is not None)
            button.setChecked(comparing.way == key)
        self.table.clear()
        self.said.setText(self._said())
        if comparing.compared is not None:
            self._fill()

    def _said(self) -> str:
        comparing = self.session.comparing
        if comparing.is_working:
            return "Comparing \u2026"
        if comparing.compared is None:
            return "Two models are compared thing by thing, and their material part by part."
        found, show = comparing.compared.differences, self.session.figures
        harmed = sum(e.verdict != "carried" for e in comparing.compared.proof.ledger.entries)
        text = (
            f"{comparing.names[0]} against {comparing.names[1]}: {count_of(len(found.materials), 'part')} "
            f"changed, {show.volume(found.added)} added, {show.volume(found.removed)} removed, "
            f"{len(found.moved)} moved; {count_of(harmed, 'row')} of the ledger differ"
        )
        return text + (f"; not compared: {', '.join(found.refused[:3])}" if found.refused else "")

    def _fill(self) -> None:
        assert self.session.comparing.compared is not None
        compared, show = self.session.comparing.compared, self.session.figures
        for change in compared.differences.materials:
            kind = "new" if not change.before else "gone" if not change.after else "changed"
            added = show.volume(change.added_volume) if change.added_volume else ""
            removed = show.volume(change.removed_volume) if change.removed_volume else ""
            places = count_of(change.places, "place")
            self._row((f"{change.name}, {kind}", added, removed, places), (change.before, change.after))
        for moved in compared.differences.moved:
            turned = f", turned {degrees(moved.angle)}" if moved.angle > 1e-9 else ""
            self._row((f"{moved.name}, moved", "", "", show.length(moved.distance) + turned), ())
        for entry in compared.proof.ledger.entries:
            for each in entry.items:
                if each.verdict != "carried":
                    told = f"{each.item.path}: {each.item.aspect}, {each.item.text} \u2192 {each.after}"
                    self._row((told, "", "", each.verdict.value), each.item.products)

    def _row(self, texts: tuple[str, str, str, str], products: tuple[str, ...]) -> None:
        item = QTreeWidgetItem(list(texts))
        item.setData(0, Qt.ItemDataRole.UserRole, products)
        item.setToolTip(0, texts[0])
        self.table.addTopLevelItem(item)

    def _chosen(self, item: QTreeWidgetItem) -> None:
        products = item.data(0, Qt.ItemDataRole.UserRole) or ()
        model = self.session.model
        own = next((key for key in products if model is not None and key in model.by_id), "")
        if own:
            self.session.select((chain_of_product(own),))

    def closeEvent(self, event: object) -> None:
        """Closing the page ends the comparison."""
        self.session.comparing.end()
        super().closeEvent(event)  # type: ignore[arg-type]
