"""The Receive sheet: the file card, the choices, the outcome, and the sources that are followed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QPushButton, QWidget

from gondrel.core.model import FileFacts, Model
from gondrel.core.model.store import write_whole
from gondrel.core.reports.figures import count_of, size_of_file
from gondrel.core.service.crossing import Source
from gondrel.ui.presenters.cells import LedgerGroup
from gondrel.ui.presenters.outcome import (
    change_cards,
    is_complete,
    note_cards,
    outcome_csv,
    part_outcomes,
    remainder_card,
    remainder_words,
)
from gondrel.ui.presenters.place import far_rows
from gondrel.ui.presenters.text import card_lines
from gondrel.ui.session.receiving import ADDED, NEW
from gondrel.ui.session.session import Session
from gondrel.ui.sheets.base import FindingCard, SheetView
from gondrel.ui.sheets.intake import IntakeForm
from gondrel.ui.widgets.labels import head, quiet, rule

__all__ = ["ReceiveSheet"]

_MOST_CARDS = 60


class ReceiveSheet(SheetView):
    """What the file is, what to take of it, loading with cancel, and what was received."""

    open_wanted = Signal()
    next_wanted = Signal()
    load_listed = Signal()
    records_wanted = Signal(str)
    opened = Signal(object)

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Receive", session.deferred, parent)
        self.session = session
        self.form: IntakeForm | None = None
        self.add_progress(session.tasks)
        self.main = self.add_main("Go on to Send")
        self.main.clicked.connect(self._main)
        self.other = QPushButton("Receive another file")
        self.other.clicked.connect(self._other)
        self.foot.addWidget(self.other)
        session.card_changed.connect(self.later)
        session.model_changed.connect(self.later)
        session.facts_changed.connect(self.later)
        session.failed.connect(lambda error: self.later())
        session.settings.changed.connect(self.later)
        session.receiving.changed.connect(self.later)
        session.loading_shapes.changed.connect(self.later)
        session.tasks.changed.connect(self._progress)

    # --- buttons ---------------------------------------------------------------------------

    def _main(self) -> None:
        receiving = self.session.receiving
        if receiving.pending is not None and self.form is not None:
            where = str(self.form.where.currentData() or NEW)
            receiving.receive_pending(self.form.values(), where)
        elif receiving.difference is not None:
            receiving.take_difference()
        elif self.session.model is None:
            self.open_wanted.emit()
        else:
            self.next_wanted.emit()

    def _other(self) -> None:
        receiving = self.session.receiving
        if receiving.pending is not None:
            receiving.forget_pending()
        elif receiving.difference is not None:
            receiving.leave_difference()
        else:
            self.open_wanted.emit()

    def _progress(self) -> None:
        if not self.isVisible():
            self.later()
            return
        busy = self.show_task(elsewhere=self.session.model is None)
        self.main.setVisible(not busy)
        self.other.setVisible(not busy and self._has_other())

    def _has_other(self) -> bool:
        session = self.session
        return session.model is not None or session.receiving.pending is not None

    # --- showing ---------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is waiting, what changed at a source, or what was received."""
        session, receiving = self.session, self.session.receiving
        self.clear()
        self.form = None
        if receiving.pending is not None:
            self.main.setText("Receive")
            self.other.setText("Take nothing in")
            self._choices(receiving.pending.card)
        elif receiving.difference is not None:
            self.main.setText("Take these changes")
            self.other.setText("Leave it as it is")
            self._difference()
        else:
            self.main.setText("Go on to Send" if session.model is not None else "Choose a file")
            self.other.setText("Receive another file")
            self._state()
        self.finish()
        self._progress()

    def _state(self) -> None:
        session, model = self.session, self.session.model
        if session.error is not None:
            error = session.error
            where = f" ({error.where})" if error.where else ""
            text = f"{error.message[:1].upper()}{error.message[1:]}{where}"
            note = ", ".join(t for t in (error.file, error.hint) if t)
            self._card("lost", "Not done", text, note)
        card = session.card
        if card is None:
            if model is None:
                self.add(
                    quiet(
                        "No file yet. The file card comes first: format, unit, who wrote it "
                        "and what is in it. Where it raises a question you are asked before "
                        "anything is loaded."
                    )
                )
            else:
                self.add(quiet("Made here, of a drawing or from nothing: no file was received."))
                self._outcome(model)
            return
        if model is None or model.provenance is None or model.provenance.file != card:
            self._file_card(card)
            return
        name = quiet(card.path.rsplit("/", 1)[-1])
        name.setProperty("role", "name")
        self.add(name)
        self._folded_file(card)
        changed = any(
            session.receiving.state_of(s) in ("changed", "gone")
            for s in session.crossing.sources
            if not s.is_cut
        )
        if changed:
            self._sources()
        self._missing(model)
        self._waiting(model)
        self._outcome(model)
        if not changed:
            self._sources()

    def _folded_file(self, card: FileFacts) -> None:
        """The facts of a file that was received: they do not change any more, so they are folded."""
        shown = dict(card_lines(card))
        summary = " \u00b7 ".join((shown["Format"], size_of_file(card.bytes), shown["Unit"]))
        writer = card.written_by
        by = ", ".join(t for t in (writer.system, writer.author, writer.organisation) if t)
        lines = tuple(f"{label}: {value}" for label, value in shown.items())
        text = f"Written by {by}" if by else "It does not say who wrote it"
        facts = LedgerGroup("", "file", summary, text, "", frozenset(), frozenset(), lines)
        self.add(FindingCard(facts))
        self._same_system(card)

    def _file_card(self, card: FileFacts) -> None:
        name = quiet(card.path.rsplit("/", 1)[-1])
        name.setProperty("role", "name")
        self.add(name)
        self.add_facts(card_lines(card))
        self._same_system(card)

    def _same_system(self, card: FileFacts) -> None:
        receiver = self.session.settings.now.receiver.strip().lower()
        if receiver and receiver in card.written_by.system.lower():
            text = "Both sides work with the same system: its own files may carry more than this exchange"
            self._card("altered", "Same system on both sides", text)

    def _card(self, verdict: str, title: str, text: str, note: str = "") -> FindingCard:
        made = FindingCard(LedgerGroup("", verdict, title, text, note, frozenset(), frozenset()))
        self.add(made)
        return made

    def _notes(self, cards: list[LedgerGroup]) -> None:
        for card in cards[:_MOST_CARDS]:
            made = FindingCard(card)
            made.opened.connect(self.opened)
            self.add(made)
        if len(cards) > _MOST_CARDS:
            self.add(quiet(f"and {len(cards) - _MOST_CARDS} more; save the outcome to see them all"))

    def _buttons(self, *pairs: tuple[str, Any]) -> None:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(6)
        for text, act in pairs:
            button = QPushButton(text)
            button.clicked.connect(lambda _=False, run=act: run())
            line.addWidget(button)
        self.add(row)

    # --- before loading --------------------------------------------------------------------

    def _choices(self, card: FileFacts) -> None:
        self._file_card(card)
        self._notes(note_cards(card.notes, {}))
        if card.never:
            self.add(quiet(f"{card.title or card.format.upper()} never brings {card.never}."))
        self.add(rule())
        form = self.form = IntakeForm(self.session.tell_error)
        model = self.session.model
        layers = card.layers
        if (
            not layers
            and model is not None
            and model.provenance
            and model.provenance.file.path == card.path
        ):
            layers = _layers_of(model)
        form.show_unit(card.length_unit)
        form.show_layers(layers)
        form.show_values(self.session.receiving.values)
        form.show_places(self._places(), self.session.receiving.where)
        self.add(form)

    def _places(self) -> list[tuple[str, str]]:
        places = [(NEW, "a new crossing")]
        model = self.session.model
        if model is not None:
            places.append((ADDED, "beside what is there"))
            for identity in self.session.selected_products()[:1]:
                places.append((identity, f"into {model.product(identity).label}"))
            places += [
                (p.id, f"into {p.label}") for p in model.products if not p.bodies and not p.occurrences
            ]
        return list(dict.fromkeys(places))

    # --- what was received -----------------------------------------------------------------

    def _missing(self, model: Model) -> None:
        waiting = [p for p in model.products if p.missing_file]
        if not waiting:
            return
        self.add(rule())
        self.add(head("Missing files"))
        users: dict[str, list[str]] = {}
        for owner, use in model.occurrences():
            users.setdefault(use.product, []).append(owner.label)
        for product in waiting:
            by = ", ".join(dict.fromkeys(users.get(product.id, ["the file itself"])))
            text = f"{product.missing_file}, needed by {by}"
            finding = LedgerGroup("", "lost", product.label, text, "", frozenset({product.id}), frozenset())
            card = FindingCard(finding)
            card.opened.connect(self.opened)
            self.add(card)
        self.add(quiet("Their places in the structure are kept. Go on without them, or:"))
        self._buttons(("Look in a folder\u2026", self.look_in_folder))

    def _waiting(self, model: Model) -> None:
        """What is not loaded, and what can be done about it."""
        loading = self.session.loading_shapes
        waits = loading.waiting
        if not waits:
            return
        self.add(rule())
        self.add(head("Shapes"))
        listed = sum(bool(p.bodies) for p in model.products)
        bodies = sum(p.unread.bodies for p in waits if p.unread is not None)
        self.add_facts(
            [
                ("Not loaded", f"{count_of(len(waits), 'part')}, {bodies:,} bodies"),
                ("Loaded", f"{count_of(listed, 'part')}"),
            ]
        )
        self.add(quiet("Names, structure and places are there. What is not loaded is not checked or sent."))
        if loading.is_running:
            self.add(quiet(f"{count_of(loading.queued, 'part')} being loaded"))
            self._buttons(("Load no more", loading.stop))
            return
        self._buttons(
            ("Load all", loading.load_all),
            ("Selected", loading.load_selected),
            ("Listed", self.load_listed.emit),
        )
        follow = QCheckBox("Load what I select")
        follow.setChecked(loading.follows)
        follow.toggled.connect(lambda on: setattr(loading, "follows", on))
        self.add(follow)

    def look_in_folder(self) -> None:
        """Ask for a folder and look for the missing files in it."""
        folder = QFileDialog.getExistingDirectory(self, "Look for missing files in")
        if folder:
            self.session.receiving.look_in(folder)

    def _outcome(self, model: Model) -> None:
        session = self.session
        self.add(rule())
        self.add(head("Received" if model.provenance is not None else "Made"))
        bodies = list(model.bodies())
        placed = sum(count * len(model.product(key).bodies) for key, count in model.quantities.items())
        pairs = [
            ("Products", f"{len(model.products)} in {count_of(model.depth, 'level')}"),
            ("Bodies", f"{len(bodies):,}, {placed:,} in place"),
        ]
        if bodies and all(body.blob in session.facts for _, body in bodies):
            total = sum(
                count * session.facts[body.blob].volume
                for key, count in model.quantities.items()
                for body in model.product(key).bodies
            )
            label = "Volume now" if session.crossing.history.can_undo else "Volume"
            label = "Loaded" if model.unloaded else label
            pairs.append((label, session.figures.volume(total)))
        self.add_facts(pairs)
        self._parts(model)
        self._far(model)
        self._remainder(model)
        self._notes(note_cards(model.notes, {p.label: p.id for p in model.products}))
        if any(n.code == "mesh-not-closed" for n in model.notes):
            self._buttons(("Mend the meshes", session.receiving.mend_meshes))
        if model.provenance is None:
            return
        self._buttons(
            ("Choose again\u2026", session.receiving.choose_again),
            ("Save outcome\u2026", self.save_outcome),
        )
        card = session.card
        if card is not None and card.never:
            self.add(quiet(f"{card.title or card.format.upper()} never brings {card.never}."))

    def _parts(self, model: Model) -> None:
        """How many parts are clean, and a line for each, folded."""
        parts = part_outcomes(model, self.session.problems)
        if not parts:
            return
        clean = sum(part.is_clean for part in parts)
        lines = tuple(
            f"{part.label}: " + ("clean" if part.is_clean else "; ".join(n.text for n in part.notes))
            for part in sorted(parts, key=lambda p: p.is_clean)
        )
        troubled = frozenset(p.product for p in parts if not p.is_clean)
        if is_complete(model, parts):
            who = "The part" if clean == 1 else f"All {clean} parts"
            edited = self.session.crossing.history.can_undo
            text = f"{who} came in complete" + (
                "; changed here since" if edited else ", as sent and unrepaired"
            )
            finding = LedgerGroup("", "carried", "Complete", text, "", frozenset(), frozenset(), lines)
        elif clean == len(parts) and model.unloaded:
            waits = count_of(len(self.session.loading_shapes.waiting), "part")
            text = f"{count_of(clean, 'part')} came in clean; {waits} not loaded"
            finding = LedgerGroup(
                "", "unproved", "Not all is loaded", text, "", frozenset(), frozenset(), lines
            )
        elif clean == len(parts):
            text = f"{count_of(clean, 'part')} came in clean; what did not is told below"
            finding = LedgerGroup("", "lost", "Not complete", text, "", frozenset(), frozenset(), lines)
        else:
            text = f"{clean} of {count_of(len(parts), 'part')} clean; click for the others"
            finding = LedgerGroup("", "altered", "Part by part", text, "", troubled, frozenset(), lines)
        card = FindingCard(finding)
        card.opened.connect(self.opened)
        self.add(card)

    def _remainder(self, model: Model) -> None:
        census = model.provenance.census if model.provenance is not None else None
        card = remainder_card(census) if census is not None else None
        if card is None or census is None:
            return
        self._notes([card])
        if self.session.sourcing.has_records:
            self._buttons(
                ("Show it in the file", lambda: self.records_wanted.emit(remainder_words(census)))
            )

    def _far(self, model: Model) -> None:
        rows = far_rows(model, self.session.facts)
        if not rows:
            return
        names = ", ".join(label for label, _ in rows[:3])
        text = f"{names} {'lies' if len(rows) == 1 else 'lie'} far off from all the rest"
        self._card("altered", "Far away", text)

        def hide() -> None:
            self.session.set_hidden(self.session.hidden | {row for _, row in rows})

        self._buttons(("Hide what lies far off", hide))

    def save_outcome(self) -> None:
        """Save the outcome part by part as comma-separated values."""
        model = self.session.model
        if model is None:
            return
        proposal = f"{self.session.crossing.name} outcome.csv"
        path, _ = QFileDialog.getSaveFileName(self, "Save outcome", proposal, "Table (*.csv)")
        if path:
            write_whole(Path(path), outcome_csv(model, self.session.problems).encode())
            self.session.notice.emit(f"Saved {Path(path).name}")

    # --- sources ---------------------------------------------------------------------------

    def _sources(self) -> None:
        sources = self.session.crossing.sources
        if not sources:
            return
        self.add(rule())
        self.add(head("Tethers"))
        for index, source in enumerate(sources):
            self._source(index, source)

    def _source(self, index: int, source: Source) -> None:
        receiving = self.session.receiving
        state = receiving.state_of(source)
        name = Path(source.path).name
        if source.is_cut:
            self.add(quiet(f"{name}: cut, not followed"))
            self._buttons(("Follow again", lambda: receiving.cut(index, False)))
            return
        if state == "changed":
            self._card("altered", f"{name} has changed", "The file on disk is not the one received")
            self._buttons(("Look at the changes", lambda: receiving.look(index)))
        elif state == "gone":
            self._card("lost", f"{name} is gone", f"It is no longer at {source.path}")
        else:
            self.add(quiet(f"{name}: followed, as received"))
        self._buttons(
            ("Cut", lambda: receiving.cut(index)), ("Point elsewhere\u2026", lambda: self._point(index))
        )
        if receiving.steps[0] and len(self.session.crossing.sources) == 1:
            again = QCheckBox("Take changes by itself, steps again")
            again.setChecked(source.again)
            again.toggled.connect(lambda on: receiving.take_again(index, on))
            self.add(again)

    def _point(self, index: int) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Follow this file instead")
        if path:
            self.session.receiving.point_to(index, path)

    def _difference(self) -> None:
        receiving = self.session.receiving
        assert receiving.difference is not None
        index, difference = receiving.difference
        source = self.session.crossing.sources[index]
        name = quiet(Path(source.path).name)
        name.setProperty("role", "name")
        self.add(name)
        self.add(quiet("What changed since it was received. Nothing is taken until you say so."))
        counts = [
            (word, len(difference.of(kind)))
            for kind, word in (
                ("added", "Added"), ("removed", "Removed"), ("moved", "Moved"),
                ("geometry", "Shape"), ("metadata", "Facts"),
            )
        ]  # fmt: skip
        self.add_facts([(word, str(count)) for word, count in counts if count])
        self._by_steps()
        cards = change_cards(difference)
        if not cards:
            self._card("carried", "No difference", "The file was written anew; what it holds is the same")
        self._notes(cards)

    def _by_steps(self) -> None:
        """Offer to do the steps again in place of carrying over what was arranged."""
        receiving = self.session.receiving
        steps, by_hand = receiving.steps
        if not steps or len(self.session.crossing.sources) != 1:
            return
        count = len(steps)
        lost = f"; {count_of(by_hand, 'edit')} that are no steps would be lost" if by_hand else ""
        self.add(
            quiet(f"What was arranged is carried over, or {count_of(count, 'step')} run on it again{lost}.")
        )
        self._buttons(("Run the steps again", lambda: receiving.take_difference(by_steps=True)))


def _layers_of(model: Model) -> tuple[tuple[str, int], ...]:
    counts: dict[str, int] = {}
    for _, body in model.bodies():
        for layer in body.layers:
            counts[layer] = counts.get(layer, 0) + 1
    return tuple(sorted(counts.items()))
