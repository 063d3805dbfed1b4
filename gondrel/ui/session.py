"""The crossing on screen: what is open, selected, hidden, running; no widgets."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model import BodyFacts, FileFacts, History, Model
from gondrel.core.model.notes import with_measured_notes
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import SUFFIX, Crossing, load_crossing, save_crossing
from gondrel.core.service.messages import Forecast, Sent, TargetChoice
from gondrel.jobs.messages import Job
from gondrel.ui.presenters.rows import Chain
from gondrel.ui.tasks import Tasks

__all__ = ["STATIONS", "Session", "state_folder"]

STATIONS = ("Receive", "Check", "Mend", "Arrange", "Send", "Prove")
RECEIVED, RETURNED = 0, 1
_RECEIVE = "gondrel.core.service.receive"
_SEND = "gondrel.core.service.send"
_AUTOSAVE_MS = 20_000


def _nothing(value: Any) -> None:
    return None


def state_folder() -> Path:
    """Where the application keeps autosaves and the demo, created when missing."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    folder = Path(base) / "gondrel"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


class Session(QObject):
    """One crossing and everything that is done with it."""

    card_changed = Signal()
    model_changed = Signal()
    facts_changed = Signal()
    mesh_ready = Signal(str)
    forecast_changed = Signal()
    sent_changed = Signal()
    selection_changed = Signal()
    hidden_changed = Signal()
    station_changed = Signal(int)
    focus_changed = Signal()
    notice = Signal(str)
    failed = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.tasks = Tasks(self)
        self._folder = tempfile.TemporaryDirectory(prefix="gondrel-session-")
        self.store = BlobStore(Path(self._folder.name))
        self.crossing = Crossing("New crossing")
        self.path: Path | None = None
        self.card: FileFacts | None = None
        self.facts: dict[str, BodyFacts] = {}
        self.forecast: Forecast | None = None
        self.targets: tuple[TargetChoice, ...] = ()
        self.kind = "step-ap242"
        self.unit = "mm"
        self.author = ""
        self.organisation = ""
        self.station = 0
        self.selection: tuple[Chain, ...] = ()
        self.focused: frozenset[str] = frozenset()
        self.focused_returned: frozenset[str] = frozenset()
        self.hidden: set[Chain] = set()
        self.error: GondrelError | None = None
        self.problems: dict[str, GondrelError] = {}
        self._asked: set[str] = set()
        self.is_dirty = False
        self._autosave = QTimer(self, interval=_AUTOSAVE_MS)
        self._autosave.timeout.connect(self.autosave)
        self._autosave.start()

    # --- reading ----------------------------------------------------------------------------

    @property
    def model(self) -> Model | None:
        """The current model, None before anything was received."""
        return self.crossing.model

    @property
    def sent(self) -> Sent | None:
        """What was sent last."""
        return self.crossing.sent

    @property
    def is_loading(self) -> bool:
        """Whether a file is being received."""
        return any(t.title.startswith("Reading") for t in self.tasks.running.values())

    def start(self) -> None:
        """Warm the workers and learn what can be sent as."""
        self.tasks.warm_up()

        def take(targets: tuple[TargetChoice, ...]) -> None:
            self.targets = targets
            self.forecast_changed.emit()

        self._run(f"{_SEND}:target_kinds", (), "listing formats", take, quiet=True)

    def look_at(self, path: str) -> None:
        """Read the file card of a file, before loading it."""
        self.error = None

        def take(card: FileFacts) -> None:
            self.card = card
            self.card_changed.emit()

        doing = f"looking at {Path(path).name}"
        self._run(f"{_RECEIVE}:file_card", (path,), doing, take, mesher=True, quiet=True)
        self.go(0)

    def open_file(self, path: str) -> None:
        """Open a crossing, or look at and receive a file."""
        if Path(path).suffix == SUFFIX:
            self.load(Path(path))
            return
        self.look_at(path)
        self.receive(path)

    def receive(self, path: str) -> None:
        """Read a file raw; its bodies are tessellated by the other worker meanwhile."""
        name = Path(path).name
        self.error = None

        def partial(value: Any) -> None:
            if value[0] == "body":
                self._mesh((value[1],))

        def done(model: Model) -> None:
            self._received(name, model)

        self._run(f"{_RECEIVE}:receive", (path, self._folder.name), f"reading {name}", done, partial)

    def _received(self, name: str, model: Model) -> None:
        self.crossing = Crossing(Path(name).stem, History.begin(model, f"Receive {name}"))
        self.path = None
        self.card = model.provenance.file if model.provenance else None
        self.selection, self.hidden, self.focused = (), set(), frozenset()
        self.is_dirty = True
        self.card_changed.emit()
        self.model_changed.emit()
        self.sent_changed.emit()
        self._mesh(model.blobs())
        self._measure(model.blobs())
        self.ask_forecast()
        self.notice.emit(f"Received {name}: {len(model.products)} products")

    def _mesh(self, keys: tuple[str, ...]) -> None:
        """Have bodies tessellated that are not yet; each is told of when its mesh is there."""
        missing = []
        for key in keys:
            if self.store.has(key, "mesh"):
                self.mesh_ready.emit(key)
            elif key not in self._asked:
                self._asked.add(key)
                missing.append(key)
        if missing:
            self._tessellate(tuple(missing))

    def _tessellate(self, keys: tuple[str, ...]) -> None:
        def partial(value: Any) -> None:
            self.mesh_ready.emit(value[1])

        def failed(error: GondrelError) -> None:
            if len(keys) > 1:  # find the body that can't be shown
                for key in keys:
                    self._tessellate((key,))
            else:
                self.problems[keys[0]] = error
                self.failed.emit(error)

        args = (keys, self._folder.name)
        self._run(f"{_RECEIVE}:mesh_bodies", args, "tessellating bodies", _nothing, partial,
                  failed=failed, mesher=True, quiet=True)  # fmt: skip

    def _measure(self, keys: tuple[str, ...]) -> None:
        """Have bodies measured that are not yet; the figures are told of together."""
        missing = tuple(k for k in keys if k not in self.facts and k not in self.problems)
        if not missing:
            self._measured()
            return

        def done(found: dict[str, BodyFacts]) -> None:
            self.facts.update(found)
            self._measured()

        def failed(error: GondrelError) -> None:
            if len(missing) > 1:
                for key in missing:
                    self._measure((key,))
            else:
                self.problems[missing[0]] = error
                self.failed.emit(error)

        args = (missing, self._folder.name)
        self._run(f"{_RECEIVE}:measure_all", args, "measuring bodies", done, failed=failed,
                  mesher=True, quiet=True)  # fmt: skip

    def _measured(self) -> None:
        model = self.model
        if model is not None and all(key in self.facts for key in model.blobs()):
            noted = with_measured_notes(model, self.facts)
            if noted.notes != model.notes:
                steps = self.crossing.history.steps
                at = self.crossing.history.at
                changed = (*steps[:at], replace(steps[at], model=noted), *steps[at + 1 :])
                self.crossing = replace(self.crossing, history=History(changed, at))
            self.facts_changed.emit()

    # --- sending ----------------------------------------------------------------------------

    def settings(self) -> dict[str, str]:
        """Send settings as KEY=VALUE pairs."""
        given = {"unit": self.unit, "author": self.author, "organisation": self.organisation}
        return {key: value for key, value in given.items() if value}

    def ask_forecast(self) -> None:
        """Compute the forecast for the chosen target."""
        if self.model is None:
            return

        def take(forecast: Forecast) -> None:
            self.forecast = forecast
            self.forecast_changed.emit()

        args = (self.model, self.kind, self.settings())
        self._run(f"{_SEND}:forecast_values", args, "forecasting", take, quiet=True)

    def choose_target(self, kind: str, unit: str) -> None:
        """Choose what to send as and in which unit."""
        if (kind, unit) != (self.kind, self.unit):
            self.kind, self.unit = kind, unit
            self.ask_forecast()

    def send(self, out: str) -> None:
        """Write, read back and prove; then show the proof."""
        if self.model is None:
            return

        def take(sent: Sent) -> None:
            self.facts.update(sent.facts)
            self.crossing = replace(self.crossing, sent=sent)
            self.is_dirty = True
            self.sent_changed.emit()
            self._mesh(sent.returned.blobs())
            self.go(5)
            self.notice.emit(f"Sent {Path(out).name}: {sent.proof.verdict}")

        args = (self.model, out, self.kind, self.settings(), self._folder.name)
        self._run(f"{_SEND}:send_values", args, f"sending {Path(out).name}", take)

    # --- editing ----------------------------------------------------------------------------

    def edit(self, what: str, model: Model) -> None:
        """Take an edited model as the next step of the history."""
        self.crossing = self.crossing.edited(what, model)
        self._edited()

    def undo(self) -> None:
        """Go back one step."""
        self.crossing = replace(self.crossing, history=self.crossing.history.undo())
        self._edited()

    def redo(self) -> None:
        """Go forward one step."""
        self.crossing = replace(self.crossing, history=self.crossing.history.redo())
        self._edited()

    def _edited(self) -> None:
        self.is_dirty = True
        self.model_changed.emit()
        model = self.model
        if model is not None:
            self._mesh(model.blobs())
        self._measure(model.blobs())
        self.ask_forecast()

    # --- selection, hiding, stations --------------------------------------------------------

    def select(self, chains: tuple[Chain, ...]) -> None:
        """Select rows of the manifest."""
        if chains != self.selection:
            self.selection = chains
            self.selection_changed.emit()

    def hide(self, chains: tuple[Chain, ...]) -> None:
        """Hide rows."""
        self.hidden |= set(chains)
        self.hidden_changed.emit()

    def show_again(self, chains: tuple[Chain, ...]) -> None:
        """Show hidden rows again."""
        self.hidden -= set(chains)
        self.hidden_changed.emit()

    def show_all(self) -> None:
        """Show everything."""
        self.hidden.clear()
        self.hidden_changed.emit()

    def focus(self, products: frozenset[str], returned: frozenset[str] = frozenset()) -> None:
        """Mark the products that a ledger cell or item is about; none to mark nothing."""
        self.focused, self.focused_returned = products, returned
        self.focus_changed.emit()

    def go(self, station: int) -> None:
        """Go to a station."""
        if station != self.station:
            self.station = station
            self.station_changed.emit(station)

    # --- keeping ----------------------------------------------------------------------------

    def save(self, path: Path) -> None:
        """Save the crossing. Errors are told through the failed signal."""
        try:
            save_crossing(self.crossing, path, self.store)
        except (GondrelError, KeyError) as error:
            self._fail(error if isinstance(error, GondrelError) else GondrelError(str(error)))
            return
        self.path, self.is_dirty = path, False
        self.notice.emit(f"Saved {path.name} at {datetime.now():%H:%M}")

    def load(self, path: Path, name: str = "") -> None:
        """Open a saved crossing; what is open stays when that fails."""
        try:
            crossing = load_crossing(path, self.store)
        except GondrelError as error:
            self._fail(error)
            return
        self.crossing = replace(crossing, name=name or crossing.name)
        self.path, self.is_dirty = path, False
        self.selection, self.hidden, self.focused = (), set(), frozenset()
        model = self.model
        self.card = model.provenance.file if model and model.provenance else None
        self.card_changed.emit()
        self.model_changed.emit()
        self.sent_changed.emit()
        if model is not None:
            self._mesh(model.blobs())
            self._measure(model.blobs())
            self.ask_forecast()
        if crossing.sent is not None:
            self.facts.update(crossing.sent.facts)
            self._mesh(crossing.sent.returned.blobs())

    def autosave_path(self) -> Path:
        """Where this session is autosaved."""
        folder = state_folder() / "autosave"
        folder.mkdir(exist_ok=True)
        return folder / f"{self.crossing.name}-{os.getpid()}{SUFFIX}"

    def autosave(self) -> None:
        """Keep a copy for recovery, when there is something unsaved and nothing is running."""
        if not self.is_dirty or self.model is None or self.tasks.running:
            return
        try:
            save_crossing(self.crossing, self.autosave_path(), self.store)
        except (GondrelError, KeyError) as error:
            self.notice.emit(f"Autosave failed: {error}")

    def close(self) -> None:
        """End the workers and drop what recovery does not need."""
        self._autosave.stop()
        self.tasks.close()
        for old in (state_folder() / "autosave").glob(f"*-{os.getpid()}{SUFFIX}"):
            old.unlink(missing_ok=True)
        self._folder.cleanup()

    # --- jobs -------------------------------------------------------------------------------

    def _run(
        self,
        function: str,
        args: tuple[Any, ...],
        doing: str,
        done: Callable[[Any], None],
        partial: Callable[[Any], None] | None = None,
        *,
        failed: Callable[[GondrelError], None] | None = None,
        mesher: bool = False,
        quiet: bool = False,
    ) -> None:
        self.tasks.run(
            Job(function, args, doing=doing),
            done=done,
            failed=failed or self._fail,
            partial=partial or (lambda value: None),
            stopped=lambda: self.notice.emit(f"Stopped {doing}; what was open is untouched"),
            mesher=mesher,
            quiet=quiet,
        )

    def _fail(self, error: GondrelError) -> None:
        self.error = error
        self.failed.emit(error)
