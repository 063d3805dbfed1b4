"""The page of the register: items, revisions of one, who uses it, and what can be done."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gondrel.ui.session.session import Session
from gondrel.ui.shell.crate_page import CratePage
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.recipient_pages import tree_of
from gondrel.ui.shell.repoint_page import RepointPage
from gondrel.ui.widgets.labels import head, quiet
from gondrel.ui.widgets.preview import Preview
from gondrel.ui.widgets.use_map import UseMap

__all__ = ["RegisterPage"]

_KEY = Qt.ItemDataRole.UserRole
_WIDE, _HIGH = 168, 126
_SCHEMES = (
    ("letters", "revisions A, B, C"), ("clear letters", "letters but I, O, Q, S, X, Z"),
    ("numbers", "revisions 1, 2, 3"),
)  # fmt: skip


class RegisterPage(Page):
    """Items at the left; the chosen one's revisions, uses and history at the right."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Register", parent, 1180, 720)
        self.session, self.register = session, session.registering
        line = QHBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Number or name")
        self.search.textChanged.connect(self.register.look)
        self.major = QCheckBox("as the next major revision")
        self.put = QPushButton("Put in what is open")
        self.put.clicked.connect(lambda: self.register.put(next_major=self.major.isChecked()))
        self.scheme = QComboBox()
        self.scheme.setAccessibleName("How revisions are called")
        for key, text in _SCHEMES:
            self.scheme.addItem(text, key)
        self.scheme.activated.connect(lambda _: self.register.choose_scheme(self.scheme.currentData()))
        self.other = QPushButton("Another register\u2026")
        self.other.clicked.connect(self._choose)
        line.addWidget(self.search, 1)
        for widget in (self.scheme, self.major, self.put, self.other):
            line.addWidget(widget)
        self.column.addLayout(line)
        body = QHBoxLayout()
        body.setSpacing(14)
        self.items = tree_of(("number", "revision", "name", "state"), 2)
        self.items.setAccessibleName("Items")
        self.items.setRootIsDecorated(False)
        self.items.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.items.setToolTip("Ctrl and Shift choose several, to pack them into one crate")
        self.items.currentItemChanged.connect(lambda item, _: self._look(item))
        body.addWidget(self.items, 5)
        body.addLayout(self._right(), 6)
        self.column.addLayout(body, 1)
        self.told = quiet("")
        self.column.addWidget(self.told)
        self.pack = QPushButton("Pack into a crate\u2026")
        self.pack.clicked.connect(self._pack)
        self.crate = QPushButton("Take in a crate\u2026")
        self.crate.clicked.connect(self._crate)
        self.used_only = QCheckBox("only revisions in use")
        self.used_only.setToolTip("Not every revision of each item goes along, only those that are used")
        foot: tuple[QWidget, ...] = (self.pack, self.used_only, self.crate)
        for place, each in enumerate(foot):
            self.buttons.insertWidget(place, each)
        self.finish()
        self.crates: CratePage | None = None
        self.repointing: RepointPage | None = None
        self.register.changed.connect(self.refresh)
        self.register.previewed.connect(self._previewed)
        self.register.pictured.connect(lambda: self.picture.show_picture(self.register.picture))
        session.model_changed.connect(self.refresh)
        self.register.look()
        self.refresh()

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(head("Revisions"))
        self.revisions = tree_of(("revision", "state", "made", "by"), 2)
        self.revisions.setAccessibleName("Revisions")
        self.revisions.setRootIsDecorated(False)
        self.revisions.setFixedHeight(_HIGH)
        self.revisions.itemClicked.connect(lambda item: self.register.show(item.data(0, _KEY)))
        self.picture = Preview(_WIDE, _HIGH, "Preview")
        beside = QHBoxLayout()
        beside.addWidget(self.revisions, 1)
        beside.addWidget(self.picture)
        column.addLayout(beside)
        acts = QHBoxLayout()
        self.release, self.withdraw, self.take = (
            QPushButton(text) for text in ("Release", "Withdraw", "Take out")
        )
        self.all = QCheckBox("with all it uses")
        self.release.clicked.connect(
            lambda: self.register.release(self.name, with_all=self.all.isChecked())
        )
        self.withdraw.clicked.connect(lambda: self.register.withdraw(self.name))
        self.take.clicked.connect(lambda: self.register.take_out(self.name))
        for widget in (self.release, self.all, self.withdraw, self.take):
            acts.addWidget(widget)
        acts.addStretch(1)
        column.addLayout(acts)
        column.addWidget(head("Who uses it"))
        self.map = UseMap()
        self.map.clicked.connect(self.register.show)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.map)
        column.addWidget(self.area, 1)
        column.addWidget(head("Another revision"))
        line = QHBoxLayout()
        self.to, self.within = QComboBox(), QComboBox()
        self.compare = QPushButton("Compare")
        self.compare.setToolTip("Open this revision, and the chosen one beside it")
        self.compare.clicked.connect(lambda: self.register.compare(self.name, self.to.currentText()))
        self.look = QPushButton("Repoint\u2026")
        self.look.setToolTip("Look at what changes before it is done")
        self.look.clicked.connect(self._repoint)
        for box in (self.to, self.within):
            box.setMinimumWidth(150)
        for each in (self.to, self.compare, self.within, self.look):
            line.addWidget(each)
        line.addStretch(1)
        column.addLayout(line)
        return column

    @property
    def name(self) -> str:
        """The revision that is looked at."""
        shown = self.register.shown
        return f"{shown['revision']['number']}/{shown['revision']['revision']}" if shown is not None else ""

    # --- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show items, and the one that is looked at."""
        self.put.setEnabled(self.session.model is not None)
        is_empty = not self.register.items and not self.search.text()
        self.scheme.setCurrentIndex(max(self.scheme.findData(self.register.scheme), 0))
        self.scheme.setEnabled(is_empty)
        self.scheme.setToolTip("" if is_empty else "Chosen before the first item is put in")
        self._list()
        shown = self.register.shown
        for widget in (
            self.release,
            self.withdraw,
            self.take,
            self.look,
            self.all,
            self.compare,
            self.pack,
        ):
            widget.setEnabled(shown is not None)
        chosen = self.to.currentText(), self.within.currentData()
        self.revisions.clear()
        self.to.clear()
        self.picture.show_picture(self.register.picture)
        if shown is None:
            self.told.setText(
                "" if self.register.items else "Nothing is in the register yet: put something in"
            )
            return
        one = shown["revision"]
        for each in shown["revisions"]:
            made = each["made"]
            texts = [each["revision"], each["state"], made["at"][:16].replace("T", " "), made["by"]]
            item = QTreeWidgetItem(texts)
            item.setData(0, _KEY, f"{each['number']}/{each['revision']}")
            self.revisions.addTopLevelItem(item)
            if each["revision"] == one["revision"]:
                self.revisions.setCurrentItem(item)
            else:
                self.to.addItem(f"{each['number']}/{each['revision']}")
        uses = self.register.uses
        mine = uses["uses"] if uses is not None and uses["revision"] == self.name else []
        self.map.show_uses(self.name, one["state"], mine)
        QTimer.singleShot(0, self._to_the_foot)
        self.within.clear()
        self.within.addItem("everywhere", "")
        for name in dict.fromkeys(use["assembly"] for use in mine):
            self.within.addItem(f"in {name}", name)
        self.to.setCurrentIndex(max(self.to.findText(chosen[0]), 0))
        self.within.setCurrentIndex(max(self.within.findData(chosen[1]), 0))
        self.compare.setEnabled(self.to.count() > 0)
        self.look.setEnabled(bool(mine) and self.to.count() > 0)
        self.release.setEnabled(one["state"] == "in work")
        self.withdraw.setEnabled(one["state"] != "withdrawn")
        last = shown["history"][-1]
        happened = f"{last['revision']} {last['what']}, {last['by']}"
        self.told.setText(f"{self.name} {one['name']}, {one['state']}; last: {happened}")

    def _to_the_foot(self) -> None:
        """What is looked at stands at the foot of the map, and is in view."""
        self.area.verticalScrollBar().setValue(self.area.verticalScrollBar().maximum())

    def _list(self) -> None:
        chosen = self.name
        self.items.blockSignals(True)
        self.items.clear()
        for each in self.register.items:
            item = QTreeWidgetItem([each["number"], each["revision"], each["name"], each["state"]])
            item.setData(0, _KEY, f"{each['number']}/{each['revision']}")
            self.items.addTopLevelItem(item)
            if chosen.rpartition("/")[0] == each["number"]:
                self.items.setCurrentItem(item)
        self.items.blockSignals(False)

    def _look(self, item: QTreeWidgetItem | None) -> None:
        if item is not None:
            self.register.show(item.data(0, _KEY))

    def _repoint(self) -> None:
        within = self.within.currentData()
        self.register.look_at_repointing(self.name, self.to.currentText(), (within,) if within else ())

    def _previewed(self, old: str, new: str, within: tuple[str, ...], found: dict[str, Any]) -> None:
        """Show on a page of its own what repointing would change."""
        if self.repointing is None:
            self.repointing = RepointPage(self.session, self)
        self.repointing.show_preview(old, new, within, found)

    def event(self, event: QEvent) -> bool:
        """Whoever comes back to the page sees what others did meanwhile."""
        if event.type() == QEvent.Type.WindowActivate and self.register.items:
            self.register.look_again()
        return super().event(event)

    def _pack(self) -> None:
        names = self._chosen_names()
        name = f"{names[0].replace('/', '-')}.crate"
        path, _ = QFileDialog.getSaveFileName(self, "Pack into a crate", name, "Crates (*.crate)")
        if path:
            path = path if path.endswith(".crate") else f"{path}.crate"
            self.register.pack(names, path, used_only=self.used_only.isChecked())

    def _chosen_names(self) -> tuple[str, ...]:
        """The revision that is looked at, or all items that are chosen in the list."""
        items = self.items.selectedItems()
        if len(items) < 2:
            return (self.name,)
        return tuple(item.text(0) for item in items)

    def _crate(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self, "Take in a crate", "", "Crates (*.crate);;All files (*)"
        )
        if path:
            self.open_crate(path)

    def open_crate(self, path: str) -> None:
        """Look into a crate on a page of its own."""
        if self.crates is None:
            self.crates = CratePage(self.session, self)
        self.register.look_into(path)
        self.crates.show()
        self.crates.raise_()

    def _choose(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self, "Register", self.register.place, "Registers (*.sqlite)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )  # fmt: skip
        if path:
            self.register.address, self.register.shown, self.register.uses = path, None, None
            self.register.look()
