"""The Arrange sheet: properties of what is selected, to be changed here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QWidget,
)

from gondrel.core.arrange.components import (
    set_component_colour,
    set_component_datum,
    set_component_name,
    without_component_datum,
)
from gondrel.core.arrange.properties import (
    Edit,
    parse_value,
    set_colour,
    set_material,
    set_metadata,
    set_text,
    without_metadatum,
)
from gondrel.core.arrange.proposal import Proposal
from gondrel.core.errors import GondrelError
from gondrel.core.model import Metadatum, Model, Occurrence, Product, Rgba
from gondrel.core.reports.figures import count_of
from gondrel.ui.presenters.rows import occurrences_of
from gondrel.ui.session.session import Session
from gondrel.ui.session.stations import Station
from gondrel.ui.sheets.base import SheetView
from gondrel.ui.sheets.proposal import ProposalTable
from gondrel.ui.sheets.step_form import StepFormView
from gondrel.ui.widgets.labels import head, plain, quiet, rule

__all__ = ["ArrangeSheet"]

_FIELDS = (
    ("number", "Number"), ("name", "Name"), ("revision", "Revision"), ("description", "Description"),
)  # fmt: skip
_SWATCHES = ("#8A949C", "#5F6A72", "#B08D57", "#A9743F", "#3F6B52", "#2F5D7A", "#7A3B3E", "#D2B25A")
_SEVERAL = "several values"


def _text_of(field: str, product: Product) -> str:
    return str(getattr(product, field))


class ArrangeSheet(SheetView):
    """Number, name, revision, description, material, colour and metadata of the selected items.

    A line is taken when it is left or Enter is pressed, and is one step of the history.
    """

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Arrange", session.deferred, parent)
        self.session = session
        self.products: tuple[Product, ...] = ()
        self.uses: dict[str, Occurrence] = {}
        self.lines: dict[str, QLineEdit] = {}
        self.form = StepFormView(session)
        self.table: ProposalTable | None = None
        self.add_progress(session.tasks)
        self.main = self.add_main("Go on to Send")
        self.main.clicked.connect(self._main)
        self.second = QPushButton("Drop it")
        self.second.clicked.connect(session.arranging.drop)
        self.foot.addWidget(self.second)
        session.arranging.changed.connect(self.later)
        session.arranging.form_wanted.connect(self._show_form)
        session.tasks.changed.connect(self._progress)
        for signal in (session.selection_changed, session.model_changed, session.facts_changed):
            signal.connect(self.later)
        session.settings.changed.connect(self.later)

    @property
    def ids(self) -> tuple[str, ...]:
        """Ids of the products that an edit changes."""
        return tuple(product.id for product in self.products)

    def _main(self) -> None:
        arranging = self.session.arranging
        if arranging.preview is not None:
            arranging.keep()
        elif arranging.proposal is not None and arranging.proposal.changes:
            arranging.take()
        else:
            self.session.go(Station.SEND)

    def _show_form(self, key: str, texts: dict[str, str]) -> None:
        """Show the form of a kind of step, filled in."""
        self.session.go(Station.ARRANGE)
        self.form.fill(key, texts)
        self.later()

    def _progress(self) -> None:
        """Say what the buttons at the foot do now."""
        if not self.isVisible():
            self.later()
            return
        arranging = self.session.arranging
        busy = self.show_task()
        proposed = arranging.proposal is not None and arranging.proposal.changes
        asked = arranging.preview is not None or proposed
        taken = "Take what is ticked" if proposed else "Go on to Send"
        self.main.setText("Keep it" if arranging.preview is not None else taken)
        self.main.setVisible(not busy)
        self.main.setEnabled(self.session.model is not None)
        self.second.setVisible(not busy and asked)

    def refresh(self) -> None:
        """Show the proposal or the step that is looked at, else the properties of the selected items."""
        self.form.setParent(None)
        self.clear()
        self.lines = {}
        self.table = None
        self._progress()
        model = self.session.model
        arranging = self.session.arranging
        if arranging.preview is not None:
            self._preview()
            self.finish()
            return
        if arranging.proposal is not None and arranging.proposal.changes:
            self._proposal(arranging.proposal)
            self.finish()
            return
        ids = self.session.selected_products()
        self.products = tuple(model.product(i) for i in ids) if model is not None else ()
        chosen = set(occurrences_of(model, self.session.selection)) if model is not None else set()
        self.uses = {u.id: u for _, u in model.occurrences() if u.id in chosen} if model is not None else {}
        if not self.products:
            text = (
                "Nothing is selected. Pick one item or several, in the manifest or in the picture, to "
                "change number, name, revision, description, material, colour and metadata."
                if model is not None
                else "Nothing is open yet. Receive a file first; then its items can be changed here."
            )
            self.add(quiet(text))
            if model is not None:
                self._structure()
                self._change()
                self._steps()
            self.finish()
            return
        self._heading()
        self._change()
        self._texts()
        self._material()
        self._colour()
        self._metadata()
        self._component()
        self._figures()
        self.finish()

    # --- structure and steps ------------------------------------------------------------------

    def _structure(self) -> None:
        self.add(head("Structure"))
        text = (
            "Equal bodies become one part used many times; parts that touch and recur become "
            "sub-assemblies. It is proposed first, and nothing is done before you take it."
        )
        self.add(quiet(text))
        self.recover = QPushButton("Recover the structure")
        self.recover.clicked.connect(self.session.arranging.propose)
        self.add(self.recover)

    def _proposal(self, proposal: Proposal) -> None:
        uses = sum(len(part.uses) for part in proposal.parts)
        left = f"; {len(proposal.unassigned)} bodies could not be looked at" if proposal.unassigned else ""
        self.add(head("Proposed structure"))
        counts = f"{count_of(len(proposal.parts), 'part')} in {count_of(uses, 'place')}{left}"
        text = (
            f"{counts}. Untick what is to stay as it is; a double click changes a name; unfold a row for "
            "what speaks for it."
        )
        self.add(quiet(text))
        self.table = ProposalTable(self.session, proposal)
        self.column.addWidget(self.table, 1)

    def _preview(self) -> None:
        preview = self.session.arranging.preview
        assert preview is not None
        self.add(head("If it is done"))
        what = plain(preview.outcome.what)
        what.setWordWrap(True)
        self.add(what)
        text = (
            "The right side shows it done. Hold Space to swap the sides. Nothing is changed until you "
            "keep it."
        )
        self.add(quiet(text))
        before, after = preview.before, preview.after
        show = self.session.figures
        pairs = [
            ("Parts", str(before.parts), str(after.parts)),
            ("Places", str(before.places), str(after.places)),
            ("Bodies", str(before.bodies), str(after.bodies)),
            ("Faces", f"{before.faces:,}", f"{after.faces:,}"),
            ("Volume", show.volume(before.volume), show.volume(after.volume)),
        ]
        self.add_facts([(label, was if was == now else f"{was} \u2192 {now}") for label, was, now in pairs])
        for lost in preview.outcome.told:
            self.add(quiet(f"Lost by it: {lost}"))

    def _change(self) -> None:
        """What can be done to the selected items."""
        self.add(head("Change"))
        self.add(self.form)
        self.form.show()
        refused = self.session.arranging.refused
        if refused is not None:
            self.add(quiet(f"Not done: {refused.why}"))

    def _steps(self) -> None:
        """The steps done so far, and files of them."""
        arranging = self.session.arranging
        self.add(head("Steps"))
        count = len(arranging.scripts)
        done = (
            f"{count_of(count, 'step')} done here can be run again"
            if count
            else "No step was done here yet"
        )
        self.add(quiet(f"{done}. A steps file does to the next file what was done to this."))
        row = QHBoxLayout()
        self.save_steps, self.run_steps = (
            QPushButton("Save steps\u2026"),
            QPushButton("Run a steps file\u2026"),
        )
        self.save_steps.setEnabled(bool(count))
        self.save_steps.clicked.connect(self._save_steps)
        self.run_steps.clicked.connect(self._run_steps)
        row.addWidget(self.save_steps)
        row.addWidget(self.run_steps)
        self.column.addLayout(row)
        for outcome in arranging.outcomes:
            if outcome.outcome != "done":
                self.add(quiet(f"{outcome.what}, {outcome.items}: {outcome.why}"))

    def _save_steps(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Save steps", "steps.toml", "Steps (*.toml)")
        if path:
            self.session.arranging.save(Path(path))

    def _run_steps(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Run a steps file", "", "Steps (*.toml)")
        if path:
            self.session.arranging.run_file(path)

    # --- properties ---------------------------------------------------------------------------

    def _heading(self) -> None:
        count = len(self.products)
        text = self.products[0].label if count == 1 else f"{count} items"
        name = plain(text)
        name.setProperty("role", "name")
        name.setWordWrap(True)
        self.add(name)
        if count > 1:
            self.add(quiet("A change here goes to all of them."))

    def _shared(self, of: Callable[[Product], str]) -> tuple[str, str]:
        """The value all items share, and the words to show when they do not."""
        first = of(self.products[0])
        is_shared = all(of(product) == first for product in self.products)
        return (first, "") if is_shared else ("", _SEVERAL)

    def _line(self, key: str, value: str, placeholder: str, take: Callable[[str], None]) -> QLineEdit:
        line = QLineEdit(value)
        line.setPlaceholderText(placeholder)
        line.setAccessibleName(key)
        line.setCursorPosition(0)
        line.editingFinished.connect(lambda: self._taken(line, value, take))
        self.lines[key] = line
        return line

    def _taken(self, line: QLineEdit, before: str, take: Callable[[str], None]) -> None:
        if line.text() != before and line is self.lines.get(line.accessibleName()):
            take(line.text())

    def _edit(self, make: Callable[[Model], Edit]) -> None:
        if not self.session.edit(make):
            self.refresh()

    def _texts(self) -> None:
        form = QFormLayout()
        form.setVerticalSpacing(6)
        form.setHorizontalSpacing(12)
        for field, title in _FIELDS:
            value, several = self._shared(partial(_text_of, field))

            def take(text: str, field: str = field) -> None:
                self._edit(lambda model: set_text(model, self.ids, field, text))

            form.addRow(_label(title), self._line(field, value, several, take))
        self.column.addLayout(form)

    def _material(self) -> None:
        self.add(head("Material"))
        name, several = self._shared(lambda p: p.material.name if p.material else "")
        density, _ = self._shared(
            lambda p: f"{p.material.density:g}" if p.material and p.material.density else ""
        )

        def take(_: str) -> None:
            try:
                text = self.lines["density"].text().strip()
                value = float(parse_value(text, "real")) if text else None
            except GondrelError as error:
                self.session.tell_error(error)
                self.refresh()
                return
            material = self.lines["material"].text()
            self._edit(lambda model: set_material(model, self.ids, material, value))

        form = QFormLayout()
        form.setVerticalSpacing(6)
        form.setHorizontalSpacing(12)
        form.addRow(_label("Name"), self._line("material", name, several, take))
        row = QHBoxLayout()
        row.addWidget(self._line("density", density, "", take), 1)
        row.setSpacing(8)
        row.addWidget(_label("kg/m\u00b3"))
        form.addRow(_label("Density"), row)
        self.column.addLayout(form)

    def _colour(self) -> None:
        if not any(product.bodies for product in self.products):
            return
        self.add(head("Colour"))
        now = {b.colour.label if b.colour else "none given" for p in self.products for b in p.bodies}
        said = now.pop() if len(now) == 1 else _SEVERAL
        bodies = [b for p in self.products for b in p.bodies]
        counts = {
            "face": sum(len(b.face_colours) for b in bodies),
            "edge": sum(len(b.edge_colours) for b in bodies),
        }
        own = [f"{n} {word}{'s' * (n != 1)}" for word, n in counts.items() if n]
        self.add(quiet(said + (f"; colours of their own: {', '.join(own)}" if own else "")))
        self.swatches = self._swatch_row(self.paint)
        more = QHBoxLayout()
        other = QPushButton("Other\u2026")
        other.clicked.connect(self._choose_colour)
        none = QPushButton("No colour")
        none.clicked.connect(lambda: self.paint(None))
        more.addWidget(other)
        more.addWidget(none)
        self.column.addLayout(more)

    def _swatch_row(self, paint: Callable[[Rgba], None]) -> list[QPushButton]:
        line = QHBoxLayout()
        line.setSpacing(5)
        made = []
        for value in _SWATCHES:
            button = QPushButton("")
            button.setFixedSize(24, 24)
            button.setAccessibleName(f"Colour {value}")
            button.setToolTip(value)
            button.setStyleSheet(f"background: {value}; border: 1px solid #00000030; border-radius: 4px;")
            button.clicked.connect(lambda _=False, v=value: paint(Rgba.from_hex(v)))
            made.append(button)
            line.addWidget(button)
        line.addStretch(1)
        self.column.addLayout(line)
        return made

    def paint(self, colour: Rgba | None) -> None:
        """Give the selected items a colour."""
        self._edit(lambda model: set_colour(model, self.ids, colour))

    def _choose_colour(self) -> None:
        first = next((b.colour for p in self.products for b in p.bodies if b.colour), None)
        dialog = QColorDialog(QColor(first.hex if first else "#8A949C"), self.window())
        dialog.setOption(QColorDialog.ColorDialogOption.ShowAlphaChannel)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.colorSelected.connect(
            lambda c: self.paint(Rgba(c.redF(), c.greenF(), c.blueF(), c.alphaF()))
        )
        dialog.open()

    def _component(self) -> None:
        """What is said of the selected components in their places alone."""
        uses, ids = self.uses, tuple(self.uses)
        if not uses:
            return
        self.add(head("Only in this place" if len(uses) == 1 else f"Only in these {len(uses)} places"))
        names = {use.name for use in uses.values()}
        value, several = (names.pop(), "") if len(names) == 1 else ("", _SEVERAL)

        def take(text: str) -> None:
            self._edit(lambda now: set_component_name(now, ids, text))

        form = QFormLayout()
        form.setVerticalSpacing(6)
        form.setHorizontalSpacing(12)
        form.addRow(_label("Name here"), self._line("component name", value, several, take))
        self.column.addLayout(form)
        colours = {use.colour.label if use.colour else "as the part" for use in uses.values()}
        self.add(quiet(f"Colour here: {colours.pop() if len(colours) == 1 else _SEVERAL}"))

        def paint(colour: Rgba | None) -> None:
            self._edit(lambda now: set_component_colour(now, ids, colour))

        self.place_swatches = self._swatch_row(paint)
        self.as_part = QPushButton("Colour of the part")
        self.as_part.clicked.connect(lambda: paint(None))
        self.add(self.as_part)
        self._data(
            _shared_by(tuple(uses.values())),
            "component",
            lambda key, text, kind: self._set_datum(key, text, kind, here=True),
            lambda now, key: without_component_datum(now, ids, key),
        )

    def _metadata(self) -> None:
        self.add(head("Metadata"))
        shared = _shared_by(self.products)
        self._data(shared, "metadata", self._set_datum, lambda m, key: without_metadatum(m, self.ids, key))
        if not shared:
            self.add(quiet("No property that all selected items share." if len(self.products) > 1
                           else "No property yet."))  # fmt: skip
        self._new_datum()

    def _data(
        self,
        shared: list[Metadatum],
        what: str,
        put: Callable[[str, str, str], None],
        drop: Callable[[Model, str], Edit],
    ) -> None:
        """Lines of properties, each with a button to remove it."""
        if not shared:
            return
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        grid.setContentsMargins(0, 0, 0, 0)
        for row, datum in enumerate(shared):
            grid.addWidget(_label(datum.key), row, 0)

            def take(text: str, datum: Metadatum = datum) -> None:
                put(datum.key, text, datum.kind)

            def remove(key: str = datum.key) -> None:
                self._edit(lambda model: drop(model, key))

            value = ("yes" if datum.value else "no") if datum.kind == "boolean" else str(datum.value)
            line = self._line(f"{what} {datum.key}", value, "", take)
            line.setToolTip(datum.kind)
            grid.addWidget(line, row, 1)
            button = QPushButton("\u00d7")
            button.setProperty("role", "tool")
            button.setFixedWidth(24)
            button.setAccessibleName(f"Remove {datum.key}")
            button.clicked.connect(lambda _=False, act=remove: act())
            grid.addWidget(button, row, 2)
        holder = QWidget()
        holder.setLayout(grid)
        self.add(holder)

    def _new_datum(self) -> None:
        key, value, kind = QLineEdit(), QLineEdit(), QComboBox()
        key.setPlaceholderText("New property")
        value.setPlaceholderText("Value")
        kind.addItems(("text", "integer", "real", "boolean"))
        add = QPushButton("Add")
        add.clicked.connect(lambda: self._set_datum(key.text(), value.text(), kind.currentText()))
        self.new_key, self.new_value, self.new_kind, self.new_add = key, value, kind, add
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.addWidget(key, 0, 0)
        grid.addWidget(value, 0, 1)
        grid.addWidget(kind, 1, 0)
        grid.addWidget(add, 1, 1)
        self.new_here = QPushButton("Add only in this place")
        self.new_here.clicked.connect(
            lambda: self._set_datum(key.text(), value.text(), kind.currentText(), here=True)
        )
        if self.uses:
            grid.addWidget(self.new_here, 2, 0, 1, 2)
        self.column.addLayout(grid)

    def _set_datum(self, key: str, text: str, kind: str, *, here: bool = False) -> None:
        try:
            value = parse_value(text, kind)
        except GondrelError as error:
            self.session.tell_error(error)
            self.refresh()
            return
        if here:
            self._edit(lambda model: set_component_datum(model, tuple(self.uses), key, value))
        else:
            self._edit(lambda model: set_metadata(model, self.ids, key, value))

    def _figures(self) -> None:
        facts = self.session.facts
        known = [(p, facts[b.blob]) for p in self.products for b in p.bodies if b.blob in facts]
        if not known:
            return
        show = self.session.figures
        total = sum(f.volume for _, f in known)
        pairs = [
            ("Volume", show.volume(total)),
            ("Area", show.area(sum(f.area for _, f in known))),
            ("Faces", f"{sum(f.faces for _, f in known):,}"),
        ]
        if len(known) == 1:
            product, only = known[0]
            density = product.material.density if product.material else None
            pairs.insert(2, ("Mass", show.mass(only.volume, density)))
            pairs.append(("Size", show.box(only.bbox)))
        self.add(rule())
        self.add(head("Figures"))
        self.add_facts([(label, value) for label, value in pairs if value])


def _shared_by(things: Sequence[Product] | Sequence[Occurrence]) -> list[Metadatum]:
    """The properties that all of some things have, with the same values."""
    first, *others = things
    return [m for m in first.metadata if all(m in other.metadata for other in others)]


def _label(text: str) -> QLabel:
    label = plain(text)
    label.setProperty("role", "quiet")
    return label
