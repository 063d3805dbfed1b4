"""Pages about recipients: formats compared for them, rehearsals, their cards, what went to whom."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.errors import GondrelError
from gondrel.core.model.store import write_whole
from gondrel.core.recipients.card import COLOURS, SUFFIX, Card, Required, read_card, save_card, without_card
from gondrel.core.recipients.questions import answered, questions_html
from gondrel.core.recipients.stand_ins.keys import CARD_OF, STAND_IN_KEYS
from gondrel.core.reports.figures import count_of, size_of_file
from gondrel.core.service.sendings import Sending
from gondrel.ui.presenters.cells import TITLES
from gondrel.ui.session.session import Session
from gondrel.ui.session.stations import Station
from gondrel.ui.shell.pages import Page
from gondrel.ui.widgets.labels import head, quiet

__all__ = ["CardsPage", "FormatsPage", "RehearsalPage", "SendingsPage", "tree_of"]


def tree_of(headings: tuple[str, ...], wide: int) -> QTreeWidget:
    """A table of rows; the wide column takes what room there is."""
    tree = QTreeWidget()
    tree.setHeaderLabels(list(headings))
    tree.setAlternatingRowColors(True)
    tree.setStyleSheet("QTreeView::item { padding: 3px 0; }")
    tree.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    for column in range(len(headings)):
        mode = QHeaderView.ResizeMode.Stretch if column == wide else QHeaderView.ResizeMode.ResizeToContents
        tree.header().setSectionResizeMode(column, mode)
    tree.header().setStretchLastSection(False)
    return tree


class FormatsPage(Page):
    """Every format as a way to the recipient, the best first."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Formats compared", parent, 940, 560)
        self.session = session
        self.told = quiet("")
        self.told.setWordWrap(True)
        self.column.addWidget(self.told)
        self.tree = tree_of(("Format", "Carried", "Altered", "Lost", "Size", "Why"), 5)
        self.tree.setAccessibleName("Formats compared")
        self.column.addWidget(self.tree, 1)
        self.again = QPushButton("Compare again")
        self.again.clicked.connect(session.addressing.compare)
        self.take = QPushButton("Send as this one")
        self.take.clicked.connect(self._take)
        self.tree.itemDoubleClicked.connect(lambda _: self._take())
        self.buttons.insertWidget(0, self.again)
        self.buttons.insertWidget(1, self.take)
        self.finish()
        session.addressing.changed.connect(self.refresh)
        self.refresh()
        if not session.addressing.choices:
            session.addressing.compare()

    def refresh(self) -> None:
        """Show what was found out."""
        addressing = self.session.addressing
        whom = addressing.card.name if addressing.card is not None else "nobody in particular"
        counts = "Items of the ledger as they are at the recipient's; the first loses least that matters."
        self.told.setText(f"For {whom}. {counts if addressing.choices else 'Every format is tried out.'}")
        self.tree.clear()
        for choice in addressing.choices:
            size = size_of_file(choice.bytes) if choice.bytes is not None else "not measured"
            why = choice.why_not or "; ".join(choice.reasons[:2]) or "everything is carried"
            figures = ("", "", "", "") if choice.why_not else (
                f"{choice.carried}", f"{choice.altered}", f"{choice.lost}", size
            )  # fmt: skip
            row = QTreeWidgetItem([choice.title, *figures, why])
            row.setData(0, Qt.ItemDataRole.UserRole, choice.kind)
            for reason in choice.reasons:
                row.addChild(QTreeWidgetItem(["", "", "", "", "", reason]))
            row.setToolTip(5, "\n".join(choice.reasons))
            self.tree.addTopLevelItem(row)
        if addressing.choices:
            self.tree.setCurrentIndex(self.tree.model().index(0, 0))
        self.take.setEnabled(bool(addressing.choices))

    def _take(self) -> None:
        item = self.tree.currentItem()
        item = item.parent() or item if item is not None else None
        if item is not None:
            session = self.session
            choices = session.choices
            session.choose_target(str(item.data(0, Qt.ItemDataRole.UserRole)), choices.unit, choices.form)
            session.notice.emit(f"Send as {item.text(0)}")


class RehearsalPage(Page):
    """What a stand-in makes of the file: its complaints, the ledger, what it finds about the card."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Rehearsal", parent, 760, 600)
        self.session = session
        note = quiet(
            "A stand-in is a small simulated receiving system. It takes the file as it would be sent, and "
            "what comes of it is judged like a proof, held to the card of the recipient."
        )
        note.setWordWrap(True)
        self.column.addWidget(note)
        row = QHBoxLayout()
        self.which = QComboBox()
        self.which.setAccessibleName("Stand-in")
        for key in STAND_IN_KEYS:
            self.which.addItem(key.replace("-", " "), key)
        card = session.addressing.card
        mate = next((k for k, c in CARD_OF.items() if card is not None and c == card.key), "")
        if mate:
            self.which.setCurrentIndex(self.which.findData(mate))
        self.go = QPushButton("Rehearse")
        self.go.clicked.connect(lambda: session.addressing.rehearse(str(self.which.currentData())))
        row.addWidget(self.which, 1)
        row.addWidget(self.go)
        self.column.addLayout(row)
        self.verdict = QLabel("")
        self.verdict.setWordWrap(True)
        self.column.addWidget(self.verdict)
        self.complaints = QPlainTextEdit()
        self.complaints.setReadOnly(True)
        self.complaints.setMaximumHeight(110)
        self.complaints.setAccessibleName("Complaints")
        self.column.addWidget(self.complaints)
        self.tree = tree_of(("Thing", "Meant", "At theirs", "Verdict", "Announced"), 0)
        self.tree.setAccessibleName("Ledger of the rehearsal")
        self.column.addWidget(self.tree, 1)
        self.finish()
        session.addressing.changed.connect(self.refresh)
        session.tasks.changed.connect(self._busy)
        self.refresh()

    def _busy(self) -> None:
        self.go.setEnabled(not self.session.tasks.running)

    def refresh(self) -> None:
        """Show what came of it."""
        rehearsal, card = self.session.addressing.rehearsal, self.session.addressing.card
        self.tree.clear()
        for widget in (self.complaints, self.tree):
            widget.setVisible(rehearsal is not None)
        if rehearsal is None:
            self.verdict.setText("Nothing was rehearsed yet.")
            return
        proof = rehearsal.proof
        found = len(proof.unannounced) + len(proof.false_alarms)
        about = ""
        if card is not None:
            about = (
                f" The card of {card.name} agrees with it."
                if not found
                else f" {count_of(found, 'thing')} fared otherwise than the card of {card.name} says."
            )
        self.verdict.setText(
            f"{rehearsal.stand_in.replace('-', ' ').capitalize()}: {proof.verdict}.{about}"
        )
        told = rehearsal.taken.complaints
        self.complaints.setPlainText("\n".join(told) or "It has no complaint.")
        for entry in proof.ledger.entries:
            if entry.is_empty:
                continue
            said = {True: "yes", False: "no", None: ""}[entry.announced]
            row = QTreeWidgetItem(
                [TITLES[entry.thing], entry.before, entry.after, str(entry.verdict), said]
            )
            for each in entry.items:
                if each.verdict in ("lost", "altered"):
                    texts = [each.item.path, each.item.text, each.after, str(each.verdict), each.detail]
                    row.addChild(QTreeWidgetItem(texts))
            self.tree.addTopLevelItem(row)


class SendingsPage(Page):
    """What went to whom, when, and what changed since."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Sending log", parent, 900, 480)
        self.session = session
        self.tree = tree_of(("When", "To", "As", "Ledger", "Changed since", "File"), 5)
        self.tree.setAccessibleName("Sending log")
        self.column.addWidget(self.tree, 1)
        self.again = QPushButton("Send again as it was")
        self.again.clicked.connect(self._again)
        self.changed_only = QPushButton("Send only what changed")
        self.changed_only.clicked.connect(lambda: self._again(changed=True))
        for place, button in enumerate((self.again, self.changed_only)):
            self.buttons.insertWidget(place, button)
        self.tree.itemSelectionChanged.connect(self._offer)
        self.finish()
        session.addressing.changed.connect(self.refresh)
        session.model_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the log of the crossing."""
        self.tree.clear()
        for sending in reversed(self.session.crossing.log):
            counts = f"{sending.carried} carried, {sending.altered} altered, {sending.lost} lost"
            if sending.unannounced:
                counts += f", {sending.unannounced} not announced"
            changed = self.session.addressing.changed_since(sending)
            since = count_of(len(changed), "item") if changed else "nothing"
            names = ", ".join(Path(path).name for path, _ in sending.files)
            when = sending.when[:16].replace("T", " ")
            row = QTreeWidgetItem([when, sending.to or "\u2013", sending.kind, counts, since, names])
            row.setToolTip(5, "\n".join(f"{path}\nSHA-256 {digest}" for path, digest in sending.files))
            self.tree.addTopLevelItem(row)
        self.tree.setCurrentIndex(self.tree.model().index(0, 0))
        self._offer()

    def _chosen(self) -> Sending | None:
        item = self.tree.currentItem()
        log = self.session.crossing.log
        return log[len(log) - 1 - self.tree.indexOfTopLevelItem(item)] if item is not None and log else None

    def _offer(self) -> None:
        sending = self._chosen()
        self.again.setEnabled(sending is not None)
        changed = self.session.addressing.changed_since(sending) if sending is not None else ()
        self.changed_only.setEnabled(bool(changed))

    def _again(self, *, changed: bool = False) -> None:
        """Go to Send with all as it was, or for what changed since alone."""
        sending, session = self._chosen(), self.session
        if sending is None:
            return
        session.addressing.send_again(sending)
        if changed:
            ids = session.addressing.changed_since(sending)
            session.select(tuple((frozenset({f"product:{i}"}),) for i in sorted(ids)))
        session.send_only("selected" if changed else "")
        session.go(Station.SEND)


_YES_NO = (
    ("structure", "Assemblies with components"), ("names", "Names"), ("ascii", "Names of plain ASCII only"),
    ("numbers", "Numbers"), ("revisions", "Revisions"), ("layers", "Layers"), ("materials", "Materials"),
    ("metadata", "Properties"), ("validation", "Check figures"),
)  # fmt: skip


class CardsPage(Page):
    """The recipient cards: looked at, changed, duplicated, taken from files and kept as files."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Recipient cards", parent, 900, 640)
        self.session = session
        self.card: Card | None = None
        self.lines: dict[str, QLineEdit] = {}
        self.boxes: dict[str, QCheckBox] = {}
        halves = QHBoxLayout()
        left = QVBoxLayout()
        self.list = QListWidget()
        self.list.setAccessibleName("Recipient cards")
        self.list.setFixedWidth(230)
        self.list.currentRowChanged.connect(self._shown)
        left.addWidget(self.list, 1)
        for text, act in (
            ("Duplicate", self.duplicate), ("Drop", self.drop), ("Take from a file\u2026", self.load),
            ("Keep as a file\u2026", self.keep_as), ("Questions to send\u2026", self.ask),
            ("Read answers\u2026", self.answers),
        ):  # fmt: skip
            button = QPushButton(text)
            button.clicked.connect(act)
            left.addWidget(button)
        halves.addLayout(left)
        self.form_holder = QScrollArea()
        self.form_holder.setWidgetResizable(True)
        self.form_holder.setFrameShape(QScrollArea.Shape.NoFrame)
        halves.addWidget(self.form_holder, 1)
        self.column.addLayout(halves, 1)
        self.save = QPushButton("Keep the card")
        self.save.clicked.connect(self.keep)
        self.buttons.insertWidget(0, self.save)
        self.finish()
        self._list()

    def _list(self, key: str = "") -> None:
        cards = self.session.addressing.all_cards()
        wanted = key or (self.session.addressing.card.key if self.session.addressing.card else "")
        self.list.blockSignals(True)
        self.list.clear()
        self.all = cards
        self.list.addItems([card.name for card in cards])
        self.list.blockSignals(False)
        at = next((n for n, card in enumerate(cards) if card.key == wanted), 0)
        self.list.setCurrentRow(at)
        self._shown(at)

    def _shown(self, row: int) -> None:
        self.card = self.all[row] if 0 <= row < len(self.all) else None
        holder = QWidget()
        form = QFormLayout(holder)
        form.setHorizontalSpacing(14)
        form.setVerticalSpacing(7)
        self.lines, self.boxes = {}, {}
        card = self.card
        if card is not None:
            keeps, limits = card.keeps, card.limits
            for key, label, value in (
                ("name", "Who", card.name), ("contact", "Contact", card.contact),
                ("system", "Their system", card.system), ("kernel", "Its kernel", card.kernel),
                ("kinds", "Reads, best first", ", ".join(card.reads.kinds)),
            ):  # fmt: skip
                self._line(form, key, label, value)
            form.addRow(head("Keeps"))
            for key, label in _YES_NO:
                self._box(form, f"keeps.{key}", label, bool(getattr(keeps, key)))
            self.colours = QComboBox()
            self.colours.setAccessibleName("Colours of")
            for word in COLOURS:
                self.colours.addItem(word, word)
            self.colours.setCurrentIndex(COLOURS.index(keeps.colours))
            form.addRow("Colours of", self.colours)
            self._line(form, "name_length", "Characters of a name", str(keeps.name_length or ""), "any")
            form.addRow(head("Limits"))
            self._line(form, "unit", "Works in", limits.unit, "any unit")
            self._box(form, "trusts_unit", "Takes the unit that the file says", limits.trusts_unit)
            self._line(form, "tolerance", "Largest gap, mm", _figure(limits.tolerance), "any")
            self._box(form, "closed", "Closed solids only", limits.closed)
            self._box(form, "surfaces", "Solids come in as surfaces", limits.surfaces)
            self._box(form, "cavities", "Takes hollow solids", limits.cavities)
            self._line(form, "degree", "Largest degree of a spline", str(limits.degree or ""), "any")
            self._line(form, "xt", "Newest Parasolid version", str(limits.xt or ""), "any, as 14000")
            self._line(form, "megabytes", "Largest file, MB", _figure(limits.megabytes), "any")
            form.addRow(head("What is sent"))
            self._box(form, "external", "Takes assemblies in several linked files", card.reads.external)
            self._line(form, "files", "Files of parts are named", card.files.name, "{number} {name}")
            self._line(form, "recipe", "By the recipe", card.recipe, "none")
            asked = "; ".join(f"{each.key}: {each.pattern}" for each in card.required)
            self._line(
                form, "required", "Every part must have", asked, "Pattern number: M-\\d+; Material: .+"
            )
            form.addRow(head("Besides"))
            self._line(form, "indifferent", "Does not mind", ", ".join(card.indifferent), "nothing")
            self._line(form, "remarks", "Remarks", card.remarks)
        self.form_holder.setWidget(holder)
        self.save.setEnabled(card is not None)

    def _line(self, form: QFormLayout, key: str, label: str, value: str, empty: str = "") -> None:
        line = QLineEdit(value)
        line.setPlaceholderText(empty)
        line.setAccessibleName(label)
        line.setCursorPosition(0)
        self.lines[key] = line
        form.addRow(label, line)

    def _box(self, form: QFormLayout, key: str, label: str, value: bool) -> None:
        box = QCheckBox(label)
        box.setChecked(value)
        self.boxes[key] = box
        form.addRow("", box)

    def _filled(self, card: Card) -> Card:
        """The card as it stands in the form. Raises ValueError for a text that is no number."""
        text = {key: line.text().strip() for key, line in self.lines.items()}
        on = {key: box.isChecked() for key, box in self.boxes.items()}
        keeps = replace(
            card.keeps, colours=str(self.colours.currentData()), name_length=int(text["name_length"] or 0),
            **{key: on[f"keeps.{key}"] for key, _ in _YES_NO},  # type: ignore[arg-type]
        )  # fmt: skip
        limits = replace(
            card.limits, unit=text["unit"], trusts_unit=on["trusts_unit"], closed=on["closed"],
            surfaces=on["surfaces"], tolerance=float(text["tolerance"] or 0),
            megabytes=float(text["megabytes"] or 0), cavities=on["cavities"],
            degree=int(text["degree"] or 0), xt=int(text["xt"] or 0),
        )  # fmt: skip
        return replace(
            card, name=text["name"], contact=text["contact"], system=text["system"], kernel=text["kernel"],
            remarks=text["remarks"], indifferent=_words(text["indifferent"]),
            reads=replace(card.reads, kinds=_words(text["kinds"]), external=on["external"]),
            keeps=keeps, limits=limits, files=replace(card.files, name=text["files"]),
            recipe=text["recipe"], required=_required(text["required"]),
        )  # fmt: skip

    def _tried(self, act: Callable[[], Card | None], said: str) -> None:
        try:
            card = act()
        except (GondrelError, ValueError) as error:
            told = error if isinstance(error, GondrelError) else None
            if told is None:
                self.session.notice.emit(f"It is no number: {error}")
            else:
                self.session.tell_error(told)
            return
        if card is not None:
            self.session.notice.emit(f"{said} {card.name}")
            self._list(card.key)
            self.session.addressing.cards_changed.emit()
            if self.session.addressing.card is not None:
                self.session.addressing.choose(self.session.addressing.card.key)

    def keep(self) -> None:
        """Keep the card as it stands in the form."""
        if self.card is not None:
            card = self.card

            def act() -> Card:
                made = self._filled(card)
                save_card(made)
                return made

            self._tried(act, "Kept the card of")

    def duplicate(self) -> None:
        """A copy of the card under another key."""
        if self.card is not None:
            card, keys = self.card, {each.key for each in self.all}
            number = 2
            while f"{card.key}-{number}" in keys:
                number += 1
            copy = replace(card, key=f"{card.key}-{number}", name=f"{card.name} {number}")

            def act() -> Card:
                save_card(copy)
                return copy

            self._tried(act, "Made the card of")

    def drop(self) -> None:
        """Drop the user's own card; a shipped one of its key holds again."""
        if self.card is not None:
            without_card(self.card.key)
            self.session.addressing.cards_changed.emit()
            self._list()

    def load(self) -> None:
        """Take a card from a file."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Take a card from", "", f"Recipient cards (*{SUFFIX} *.toml)"
        )
        if path:
            self._tried(lambda: self._taken(read_card(Path(path))), "Took the card of")

    def _taken(self, card: Card) -> Card:
        save_card(card)
        return card

    def keep_as(self) -> None:
        """Keep the card as a file to be handed on."""
        if self.card is not None:
            name = f"{self.card.key}{SUFFIX}"
            path, _ = QFileDialog.getSaveFileName(
                self, "Keep the card as", name, f"Recipient cards (*{SUFFIX})"
            )
            card = self.card
            if path:
                self._tried(lambda: (save_card(card, Path(path)), card)[1], "Kept the card of")

    def ask(self) -> None:
        """Keep the page of questions for a new recipient."""
        path, _ = QFileDialog.getSaveFileName(self, "Questions to send", "questions.html", "Pages (*.html)")
        if path:
            write_whole(Path(path), questions_html().encode())
            self.session.notice.emit(f"Kept {Path(path).name}: send it to them")

    def answers(self) -> None:
        """Read an answered page of questions into a card."""
        path, _ = QFileDialog.getOpenFileName(self, "Read answers", "", "Answers (*.html *.htm *.txt)")
        if path:
            text = Path(path).read_text("utf-8", "replace")
            self._tried(lambda: self._taken(answered(text)), "Read the card of")


def _required(text: str) -> tuple[Required, ...]:
    """Properties with the patterns of their values, as KEY: PATTERN; KEY: PATTERN."""
    asked = (each.partition(":") for each in text.split(";") if each.strip())
    return tuple(Required(key.strip(), pattern.strip() or ".+") for key, _, pattern in asked)


def _words(text: str) -> tuple[str, ...]:
    return tuple(word.strip() for word in text.split(",") if word.strip())


def _figure(value: float) -> str:
    return f"{value:g}" if value else ""
