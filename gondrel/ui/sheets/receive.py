"""The Receive sheet: the file card, then the outcome."""

from __future__ import annotations

from collections import Counter
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton

from gondrel.core.model import Note
from gondrel.core.reports.figures import count_of
from gondrel.ui.bar import Bar
from gondrel.ui.presenters.cells import Finding
from gondrel.ui.presenters.text import card_lines
from gondrel.ui.session import Session
from gondrel.ui.sheets.base import FindingCard, SheetView, head, quiet, rule

__all__ = ["ReceiveSheet"]

_GRAVE = {
    "body-not-made",
    "dangling-reference",
    "product-without-shape",
    "faces-differ",
    "occurrence-without-place",
}


class ReceiveSheet(SheetView):
    """What the file is, loading with cancel, and what was received."""

    open_wanted = Signal()
    next_wanted = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Receive", session.turns, parent)
        self.session = session
        self.bar = Bar()
        self.doing = quiet("")
        self.foot.addWidget(self.doing)
        self.foot.addWidget(self.bar)
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(session.tasks.cancel)
        self.foot.addWidget(self.stop)
        self.main = self.add_main("Go on to Send")
        self.main.clicked.connect(self._main)
        self.other = QPushButton("Receive another file")
        self.other.clicked.connect(self.open_wanted)
        self.foot.addWidget(self.other)
        session.card_changed.connect(self.later)
        session.model_changed.connect(self.later)
        session.facts_changed.connect(self.later)
        session.failed.connect(lambda error: self.later())
        session.settings.changed.connect(self.later)
        session.tasks.changed.connect(self._progress)

    def _main(self) -> None:
        if self.session.model is None:
            self.open_wanted.emit()
        else:
            self.next_wanted.emit()

    def _progress(self) -> None:
        if not self.isVisible():
            self.later()
            return
        task = self.session.tasks.shown()
        for widget in (self.bar, self.doing, self.stop):
            widget.setVisible(task is not None)
        for widget in (self.main, self.other):
            widget.setVisible(task is None)
        self.other.setVisible(task is None and self.session.model is not None)
        if task is not None:
            self.bar.show_share(task.share)
            text = f"{task.title}: {task.text.lower()}" if task.text else task.title
            self.doing.setText(f"{text} \u2026")

    def refresh(self) -> None:
        """Show the session's file card and outcome."""
        session = self.session
        self.clear()
        model = session.model
        self.main.setText("Go on to Send" if model is not None else "Choose a file")
        if session.error is not None:
            error = session.error
            where = f" ({error.where})" if error.where else ""
            text = f"{error.message[:1].upper()}{error.message[1:]}{where}"
            note = ", ".join(t for t in (error.file, error.hint) if t)
            self.add(FindingCard(Finding("", "lost", "Not done", text, note, frozenset(), frozenset())))
        card = session.card
        if card is None:
            self.add(
                quiet(
                    "No file yet. The file card comes first: format, unit, who wrote it "
                    "and what is in it. Nothing is loaded until you choose a file."
                )
            )
            self.finish()
            self._progress()
            return
        name = quiet(card.path.rsplit("/", 1)[-1])
        name.setProperty("role", "name")
        self.add(name)
        self.add_facts(card_lines(card))
        if model is not None and model.provenance and model.provenance.file == card:
            self._outcome()
        self.finish()
        self._progress()

    def _outcome(self) -> None:
        session, model = self.session, self.session.model
        assert model is not None
        self.add(rule())
        self.add(head("Received"))
        bodies = list(model.bodies())
        placed = sum(1 for p in model.walk() for _ in model.product(p.product).bodies)
        pairs = [
            ("Products", f"{len(model.products)} in {count_of(model.depth, 'level')}"),
            ("Bodies", f"{len(bodies)}, {placed} in place"),
        ]
        if all(body.blob in session.facts for _, body in bodies):
            total = sum(
                session.facts[b.blob].volume for p in model.walk() for b in model.product(p.product).bodies
            )
            pairs.append(("Volume", session.figures.volume(total)))
        self.add_facts(pairs)
        for key, error in session.problems.items():
            if key in model.blobs():
                self.add(
                    FindingCard(
                        Finding("", "lost", "Body not shown", str(error), "", frozenset(), frozenset())
                    )
                )
        if not model.notes:
            self.add(
                FindingCard(
                    Finding(
                        "",
                        "carried",
                        "Complete",
                        "Everything the file's records count was made, as sent and unrepaired",
                        "",
                        frozenset(),
                        frozenset(),
                    )
                )
            )
        for card in _grouped(model.notes):
            self.add(FindingCard(card))


def _grouped(notes: tuple[Note, ...]) -> list[Finding]:
    """Equal notes as one card with their places."""
    counts = Counter(note.code for note in notes)
    cards = []
    for code, count in counts.items():
        same = [note for note in notes if note.code == code]
        verdict = "lost" if code in _GRAVE else "altered"
        title = code.replace("-", " ").capitalize()
        first = same[0].text[:1].upper() + same[0].text[1:]
        text = first if count == 1 else f"{count} times, first: {same[0].text}"
        lines = tuple(f"{n.where}: {n.text}" for n in same)
        cards.append(Finding("", verdict, title, text, same[0].where, frozenset(), frozenset(), lines))
    return cards
