"""Arranging on screen: the proposed structure, a step looked at before it is kept, steps files.

No widgets.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.arrange.cutdown import Left, PartFilter, Traits, figures_of, filtered
from gondrel.core.arrange.leaving import leave_out
from gondrel.core.arrange.naming import find_and_replace, rename_by_pattern
from gondrel.core.arrange.ordering import move_in_order
from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.proposal import Proposal
from gondrel.core.arrange.steps.outcome import StepOutcome
from gondrel.core.arrange.steps.scripts import joined, script, standing
from gondrel.core.arrange.structure import delete_components, dissolve, group_components, move_into
from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.model import Model
from gondrel.core.model.store import write_whole
from gondrel.core.reports.figures import count_of, size_of_file
from gondrel.ui.presenters.rows import Chain, occurrences_of, products_of
from gondrel.ui.presenters.step_forms import items_for
from gondrel.ui.session.checking import Checking
from gondrel.ui.session.comparison import Comparison, same_bodies
from gondrel.ui.session.host import SessionHost
from gondrel.ui.session.stations import Station

__all__ = ["Arranging", "Picked", "StepPreview"]

_ARRANGE = "gondrel.core.service.arrange"
_NAMING = ("rename", "find-replace")
Vector = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Picked:
    """A face or edge picked in the stage, in the frame of its part.

    Args:
        what: "face" or "edge"; middle: of the face or edge; point: what was hit; normal: out of the
            material.
    """

    body: str
    product: str
    what: str
    middle: Vector
    point: Vector
    normal: Vector


@dataclass(frozen=True, slots=True)
class StepPreview:
    """A step that was tried and is not kept yet.

    Args:
        before, after: how much the model is without and with it.
    """

    model: Model
    outcome: StepOutcome
    before: Left
    after: Left


class Arranging(QObject):
    """Proposes structure, tries and does steps, and keeps what came of them until the model changes."""

    changed = Signal()
    form_wanted = Signal(str, dict)
    """A kind of step whose form is to be shown, and what stands in its fields."""
    picked_changed = Signal()
    traits_changed = Signal()

    def __init__(self, session: SessionHost, checking: Checking, parent: QObject) -> None:
        super().__init__(parent)
        self.session, self.checking = session, checking
        self.proposal: Proposal | None = None
        self.without: set[str] = set()
        self.names: dict[str, str] = {}
        self.preview: StepPreview | None = None
        self.refused: StepOutcome | None = None
        self.outcomes: tuple[StepOutcome, ...] = ()
        self.picked: Picked | None = None
        self.traits = Traits()
        self._looking: tuple[int, bool, bool] | None = None
        session.model_changed.connect(self._forget)

    def _forget(self) -> None:
        self.proposal = self.preview = self.refused = None
        self.without, self.names = set(), {}
        self.traits, self._looking = Traits(), None
        self.pick(None)
        self.changed.emit()

    def pick(self, picked: Picked | None) -> None:
        """Say what is picked in the stage."""
        if picked != self.picked:
            self.picked = picked
            self.picked_changed.emit()

    # --- structure --------------------------------------------------------------------------

    def recover(self) -> None:
        """Go to Arrange and look for structure."""
        self.session.go(Station.ARRANGE)
        self.propose()

    def propose(self) -> None:
        """Look for equal bodies and repeated groups."""
        model = self.session.model
        if model is None:
            return

        def take(proposal: Proposal) -> None:
            if self.session.model is not model:
                return
            self.proposal = proposal
            self.without, self.names = set(), {}
            if not proposal.changes:
                self.session.notice.emit("No two bodies are the same shape that are not one part already")
            self.changed.emit()

        args = (model, str(self.session.store.folder))
        self.session.run_job(f"{_ARRANGE}:propose_structure", args, "looking for structure", take)

    def tick(self, key: str, on: bool) -> None:
        """Take a part or group of the proposal, or not."""
        (self.without.discard if on else self.without.add)(key)
        self.changed.emit()

    def name(self, key: str, text: str) -> None:
        """Give a part or group of the proposal another name."""
        self.names[key] = text.strip()

    def take(self) -> None:
        """Make what is ticked of the proposal a step of the history."""
        model, proposal = self.session.model, self.proposal
        if model is None or proposal is None:
            return

        def take(result: tuple[str, Model]) -> None:
            if self.session.model is model:
                self.session.focus(frozenset())
                whole = not self.without and not self.names
                self.session.edit(lambda _: result, script=script([{"do": "recover"}]) if whole else "")

        args = (model, proposal, tuple(self.without), dict(self.names))
        self.session.run_job(f"{_ARRANGE}:take_structure", args, "taking the structure", take)

    def drop(self) -> None:
        """Let go of the proposal, or of the step that is looked at."""
        self.proposal = self.preview = self.refused = None
        self.session.focus(frozenset())
        self.checking.show_arranged(None)
        self.changed.emit()

    # --- filters ----------------------------------------------------------------------------

    def words_of_what_is_left(self, values: dict[str, Any], *, keep: bool) -> str:
        """What a filter would leave of the model, in words; what only the kernel can tell is asked for."""
        model, facts = self.session.model, self.session.facts
        if model is None:
            return ""
        said: Any = {k: tuple(v) if isinstance(v, list) else v for k, v in values.items()}
        wanted = PartFilter(**said)
        if not wanted:
            return "Say which parts are meant: as soon as something is said, this tells what is left."
        if any(blob not in facts for blob in model.blobs()):
            return "The parts are still being measured."
        if not self.traits.suffice(wanted):
            self._ask_traits(wanted)
            return "Looking at the parts\u2026"
        try:
            _, after = filtered(model, wanted, facts, keep=keep, traits=self.traits)
        except GondrelError as error:
            return f"{error.message[:1].upper()}{error.message[1:]}."
        sizes = {blob: self.session.store.size_of(blob) for blob in model.blobs()}
        before, left = (figures_of(each, facts, sizes) for each in (model, after))
        size = ""
        if model.provenance is not None and before.bytes:
            share = left.bytes / before.bytes
            size = f", a file of about {size_of_file(round(share * model.provenance.file.bytes))}"
        parts = f"{count_of(left.parts, 'part')} of {before.parts}"
        places = f"{count_of(left.places, 'place')} of {before.places}"
        return f"Left: {parts} in {places}; {left.faces:,} of {before.faces:,} faces{size}."

    def _ask_traits(self, wanted: PartFilter) -> None:
        model = self.session.model
        known = self.traits
        standard = wanted.standard is not None and known.standard is None
        seen = wanted.visible is not None and known.seen is None
        if self._looking == (id(model), standard, seen):
            return
        self._looking = (id(model), standard, seen)

        def take(found: Traits) -> None:
            self._looking = None
            if self.session.model is model:
                self.traits = Traits(found.standard or known.standard, found.seen or known.seen)
                self.traits_changed.emit()

        args = (model, str(self.session.store.folder), standard, seen)
        self.session.run_job(f"{_ARRANGE}:traits_of", args, "looking at parts", take)

    # --- steps ------------------------------------------------------------------------------

    def do(self, plain: dict[str, Any], *, keep: bool, ids: tuple[str, ...] = ()) -> None:
        """Do a step, given as it stands in a steps file; keep it, or show it beside to look at.

        Args:
            ids: of the products that its items stand for, where known: names are given at once then.
        """
        model = self.session.model
        if model is None:
            return
        if keep and ids and plain["do"] in _NAMING:
            self._name_here(plain, ids)
            return

        def take(result: tuple[Model, StepOutcome, tuple[Left, Left]]) -> None:
            if self.session.model is not model:
                return
            changed, outcome, figures = result
            self.refused = outcome if outcome.outcome != "done" else None
            self.preview = None
            if self.refused is not None:
                self.session.notice.emit(f"Not done: {outcome.why}")
            else:
                self.preview = StepPreview(changed, outcome, *figures)
                if keep:
                    self.keep()
                    return
                captions = ("AS IT IS", "IF IT IS DONE")
                self.checking.show_arranged(
                    Comparison(changed, captions, "not kept yet", *same_bodies(model, changed))
                )
            self.changed.emit()

        args = (model, plain, str(self.session.store.folder))
        self.session.run_job(f"{_ARRANGE}:do_step", args, "trying a step", take)

    def _name_here(self, plain: dict[str, Any], ids: tuple[str, ...]) -> None:
        """Give names here at once, without a worker."""
        field = plain.get("field", "name")

        def make(model: Model) -> Edit:
            if plain["do"] == "rename":
                return rename_by_pattern(model, ids, field, plain["pattern"])
            find, put = plain.get("find", ""), plain.get("put", "")
            return find_and_replace(model, ids, field, find, put, regular=plain.get("regular", False))

        self.session.edit(make, script=script([plain]))

    def keep(self) -> None:
        """Make the step that was tried one of the history."""
        preview = self.preview
        if preview is None:
            return
        self.preview = None
        self.checking.show_arranged(None)
        self.session.edit(lambda _: (preview.outcome.what, preview.model), script=preview.outcome.script)

    # --- structure by hand ----------------------------------------------------------------------

    def group(self, name: str = "Sub-assembly") -> None:
        """Put the selected components into a new sub-assembly in their place."""
        uses = self._selected_uses()
        if uses:
            plain = {"do": "group", "items": self._items(), "name": name}
            self.session.edit(lambda model: group_components(model, uses, name), script=script([plain]))

    def dissolve(self) -> None:
        """Replace the selected sub-assemblies by what is in them."""
        uses = self._selected_uses()
        if uses:
            plain = {"do": "dissolve", "items": self._items()}
            self.session.edit(lambda model: dissolve(model, uses), script=script([plain]))

    def delete(self) -> None:
        """Take the selected components out."""
        uses = self._selected_uses()
        if uses:
            plain = {"do": "delete", "items": self._items()}
            self.session.edit(lambda model: delete_components(model, uses), script=script([plain]))

    def leave_out(self) -> None:
        """Leave the selected components out of what is sent, or send them along again where all are."""
        model, uses = self.session.model, self._selected_uses()
        if model is None or not uses:
            return
        staying = {use.id for _, use in model.occurrences() if use.left_out}
        out = not set(uses) <= staying
        plain = {"do": "leave-out", "items": self._items(), "out": out}
        self.session.edit(lambda now: leave_out(now, uses, out=out), script=script([plain]))

    def put_in_order(self, to: str) -> None:
        """Put the selected components first, earlier, later or last among those beside them."""
        uses = self._selected_uses()
        if uses:
            plain = {"do": "order", "items": self._items(), "to": to}
            self.session.edit(lambda now: move_in_order(now, uses, to), script=script([plain]))

    def move_into(self, chain: Chain) -> None:
        """Put the selected components into the assembly of a row; they stay where they are in space."""
        model = self.session.model
        uses = self._selected_uses()
        if model is None or not uses or not chain:
            return
        (house,) = products_of(model, (chain,))
        places = occurrences_of(model, (chain,))
        if len(places) > 1:
            label = model.product(house).label
            self.session.notice.emit(f"{label} stands in {len(places)} places; make it independent first")
            return
        into = items_for(model, [house], self.session.facts)
        plain = {"do": "move-into", "items": self._items(), "into": into}
        target = places[0] if places else house
        self.session.edit(lambda now: move_into(now, uses, target), script=script([plain]))

    def _selected_uses(self) -> tuple[str, ...]:
        model = self.session.model
        uses = occurrences_of(model, self.session.selection) if model is not None else ()
        if not uses:
            self.session.notice.emit("Select components first")
        return uses

    def _items(self) -> dict[str, Any]:
        model = self.session.model
        assert model is not None
        return items_for(model, products_of(model, self.session.selection), self.session.facts)

    # --- files ------------------------------------------------------------------------------

    @property
    def scripts(self) -> tuple[str, ...]:
        """The steps of the history that can be done again to another file."""
        return standing(self.session.crossing.history.scripts)[0]

    def save(self, path: Path) -> None:
        """Keep the steps done so far as a steps file. Errors are told."""
        try:
            if not self.scripts:
                raise UsageError("there is no step to save yet")
            write_whole(path, joined(self.scripts).encode())
        except GondrelError as error:
            self.session.tell_error(error)
            return
        self.session.notice.emit(f"Saved {count_of(len(self.scripts), 'step')} to {path.name}")

    def run_file(self, path: str) -> None:
        """Run the steps of a file as one step of the history; those that find nothing are listed."""
        model = self.session.model
        if model is None:
            return

        def take(result: tuple[Model, tuple[StepOutcome, ...]]) -> None:
            if self.session.model is not model:
                return
            changed, outcomes = result
            done = [each for each in outcomes if each.outcome == "done"]
            if done:
                words = f"Run {Path(path).name}: {count_of(len(done), 'step')}"
                self.session.edit(lambda _: (words, changed), script=joined(each.script for each in done))
            self.outcomes = outcomes
            if len(done) < len(outcomes):
                left = len(outcomes) - len(done)
                self.session.notice.emit(f"{count_of(left, 'step')} did not apply; they are listed")
            self.changed.emit()

        args = (model, path, str(self.session.store.folder))
        self.session.run_job(f"{_ARRANGE}:run_steps_file", args, f"running {Path(path).name}", take)
