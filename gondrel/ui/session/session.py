"""The crossing on screen: what is open, selected, hidden, running; no widgets."""

from __future__ import annotations

import atexit
from collections.abc import Callable, Iterable, Mapping
from contextlib import ExitStack
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from threading import Thread
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.arrange.insertion import with_new_product
from gondrel.core.arrange.properties import Edit
from gondrel.core.errors import GondrelError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model import BodyFacts, FileFacts, History, Model
from gondrel.core.model.findings import Mended
from gondrel.core.model.notes import with_measured_notes
from gondrel.core.model.store import BlobStore
from gondrel.core.reports.figures import Figures
from gondrel.core.service.crossing import Crossing
from gondrel.core.service.messages import BodyDetail, Forecast, Sent, TargetChoice
from gondrel.core.service.recipes import KIND
from gondrel.core.service.settings import settings_from
from gondrel.core.work.files import private_folder
from gondrel.jobs.limits import most_megabytes
from gondrel.jobs.messages import Job
from gondrel.ui.presenters.rows import Chain, chain_of_product, products_of
from gondrel.ui.session.addressing import Addressing
from gondrel.ui.session.arranging import Arranging
from gondrel.ui.session.checking import Checking
from gondrel.ui.session.choices import SendChoices
from gondrel.ui.session.comparing import Comparing
from gondrel.ui.session.comparison import Comparison, comparison_with_returned
from gondrel.ui.session.deferred import Deferred
from gondrel.ui.session.drafting import Drafting
from gondrel.ui.session.exploding import Exploding
from gondrel.ui.session.loading import Loading
from gondrel.ui.session.measuring import Measuring
from gondrel.ui.session.persistence import Persistence
from gondrel.ui.session.plotting import Plotting
from gondrel.ui.session.receiving import Receiving
from gondrel.ui.session.registering import Registering
from gondrel.ui.session.sectioning import Sectioning
from gondrel.ui.session.settings import SettingsStore
from gondrel.ui.session.sizing import Sizing
from gondrel.ui.session.sourcing import Sourcing
from gondrel.ui.session.stations import Station
from gondrel.ui.session.tasks import Tasks
from gondrel.ui.session.viewing import Viewing

__all__ = ["RECEIVED", "RETURNED", "LogEntry", "Session"]

RECEIVED, RETURNED = 0, 1
_RECEIVE = "gondrel.core.service.receive"
_SEND = "gondrel.core.service.send"
_RECIPIENTS = "gondrel.core.service.recipients"
_LOG_LENGTH = 500
_MANY = 2_000
"""How many places a model has from which what is worked out from all of them is done aside."""

_OF_SHAPES = frozenset(
    f"gondrel.core.service.{name}"
    for name in (
        "arrange",
        "check",
        "compare",
        "features",
        "measure",
        "mend",
        "prove",
        "queries",
        "recipients",
        "send",
    )
)
"""Services that need shapes, and so nothing that is only a structure yet."""


def _nothing(value: Any) -> None:
    return None


@dataclass(frozen=True, slots=True)
class LogEntry:
    """One line of the log: when, "note" or "error", what was said, and more of it."""

    time: datetime
    kind: str
    text: str
    detail: str = ""


class Session(QObject):
    """One crossing and everything that is done with it."""

    card_changed = Signal()
    model_changed = Signal()
    facts_changed = Signal()
    details_changed = Signal()
    mesh_ready = Signal(str)
    field_ready = Signal(str)
    forecast_changed = Signal()
    sent_changed = Signal()
    selection_changed = Signal()
    hidden_changed = Signal()
    station_changed = Signal(int)
    focus_changed = Signal()
    log_changed = Signal()
    notice = Signal(str)
    failed = Signal(object)
    _noted = Signal(object, object)

    def __init__(self, settings: SettingsStore, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.settings = settings
        self.deferred = Deferred(self)
        self.tasks = Tasks(self.deferred, self)
        self._kept = ExitStack()
        self.folder = str(self._kept.enter_context(private_folder()))
        atexit.register(self._kept.close)
        self.store = BlobStore(Path(self.folder))
        self.crossing = Crossing("New crossing")
        self.card: FileFacts | None = None
        self.facts: dict[str, BodyFacts] = {}
        self.details: dict[str, BodyDetail] = {}
        self.forecast: Forecast | None = None
        self.targets: tuple[TargetChoice, ...] = ()
        self.station = Station.RECEIVE
        self.selection: tuple[Chain, ...] = ()
        self.focused: frozenset[str] = frozenset()
        self.focused_returned: frozenset[str] = frozenset()
        self.hidden: set[Chain] = set()
        self.faint: set[Chain] = set()
        self.error: GondrelError | None = None
        self.problems: dict[str, GondrelError] = {}
        self.log: list[LogEntry] = []
        self.loading = ""
        self.is_preview = False
        self._asked: set[str] = set()
        self._returned: tuple[Sent, Model, Comparison] | None = None
        self.persistence = Persistence(self, self)
        self.receiving = Receiving(self, self)
        self.loading_shapes = Loading(self, self)
        self.checking = Checking(self, self)
        self.arranging = Arranging(self, self.checking, self)
        self.addressing = Addressing(self, self)
        self.sectioning = Sectioning(self, self)
        self.measuring = Measuring(self, self)
        self.comparing = Comparing(self, self)
        self.sourcing = Sourcing(self, self)
        self.exploding = Exploding(self, self)
        self.sizing = Sizing(self, self)
        self.drafting = Drafting(self, self)
        self.plotting = Plotting(self, self)
        self.registering = Registering(self, self)
        self.receiving.drawing_wanted.connect(self.drafting.open)
        self.viewing = Viewing(self, self.sectioning, self.exploding, self)
        self._selected: tuple[Model, tuple[Chain, ...], tuple[str, ...]] | None = None
        self.choices = SendChoices()
        self.choices.take(dict(self.settings.now.sending), ())
        self._noted.connect(self._take_noted)
        self.notice.connect(lambda text: self._write_log("note", text))
        self.failed.connect(lambda e: self._write_log("error", str(e), e.hint or ""))

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
    def figures(self) -> Figures:
        """How figures are shown."""
        return Figures(self.settings.now.shown_unit, self.settings.now.decimals)

    def start(self) -> None:
        """Warm the workers and learn what can be sent as."""
        self.tasks.warm_up()

        def take(targets: tuple[TargetChoice, ...]) -> None:
            self.targets = targets
            self.forecast_changed.emit()

        self._run("gondrel.core.service.catalogue:target_kinds", (), "listing formats", take, quiet=True)
        self.checking.start()

    def open_file(self, path: str) -> None:
        """Open a crossing, or look at and receive a file."""
        self.receiving.open_file(path)

    def load_crossing(self, path: Path) -> None:
        """Open a saved crossing."""
        self.persistence.load(path)

    def touch(self) -> None:
        """Say that the crossing is not as it was saved."""
        self.persistence.touch()

    def forget_loading(self) -> None:
        """Go back to the card of what is open."""
        self.loading = ""
        model = self.model
        self.card = model.provenance.file if model and model.provenance else None
        self.card_changed.emit()

    def take_crossing(self, crossing: Crossing, path: Path | None, *, dirty: bool) -> None:
        """Make a crossing the open one and show it."""
        self.is_preview = False
        self.crossing = crossing
        self.persistence.begin(path, dirty)
        self.problems.clear()
        self.receiving.pending = None
        self.selection, self.focused, self.focused_returned = (), frozenset(), frozenset()
        self.hidden = {tuple(frozenset(s) for s in row) for row in crossing.hidden}
        self.faint = {tuple(frozenset(s) for s in row) for row in crossing.faint}
        self.forget_loading()
        self.model_changed.emit()
        self.sent_changed.emit()
        self.hidden_changed.emit()
        self._show_model()
        self.receiving.watch()
        if path is not None:
            self.receiving.check_sources()
        if crossing.sent is not None:
            self.facts.update(crossing.sent.facts)
            self._compare_returned()

    def preview(self, model: Model) -> None:
        """Show the structure of the file that is being read, and boxes for its shapes; nothing can be done
        with it but looking at it and searching it."""
        card, loading = self.card, self.loading
        if not self.is_preview:
            self.take_crossing(Crossing(Path(loading).stem), None, dirty=False)
        self.crossing = Crossing(Path(loading).stem, History.begin(model, "Being read"))
        self.card, self.loading, self.is_preview = card, loading, True
        self.card_changed.emit()
        self.model_changed.emit()
        self._show_model()

    def take_shapes(self, crossing: Crossing) -> None:
        """Show the crossing with shapes that were loaded into it; nothing else is another."""
        self.crossing = crossing
        self._edited()

    def meshes_made(self, keys: Iterable[str]) -> None:
        """Say that meshes are in the store."""
        for key in keys:
            self.mesh_ready.emit(key)

    def end_preview(self) -> None:
        """Show nothing again: the file could not be read, or was not to be."""
        if self.is_preview:
            self.take_crossing(Crossing("New crossing"), None, dirty=False)

    def _show_model(self) -> None:
        model = self.model
        if model is not None and self.is_preview:
            return
        self.loading_shapes.model_changed()
        if model is not None:
            self.mesh(model.blobs())
            self._measure(model.blobs())
        self.deferred.ask(self.ask_forecast)

    def mesh(self, keys: tuple[str, ...]) -> None:
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

        args = (keys, self.folder)
        self._run(f"{_RECEIVE}:mesh_bodies", args, "tessellating bodies", _nothing, partial,
                  failed=self._one_by_one(keys, self._tessellate), mesher=True, quiet=True)  # fmt: skip

    def _measure(self, keys: tuple[str, ...]) -> None:
        """Have bodies measured that are not yet; the figures are told of together."""
        missing = tuple(k for k in keys if k not in self.facts and k not in self.problems)
        if not missing:
            self._measured()
            return

        def done(facts: dict[str, BodyFacts]) -> None:
            self.facts.update(facts)
            self._measured()

        args = (missing, self.folder)
        self._run(f"{_RECEIVE}:measure_all", args, "measuring bodies", done,
                  failed=self._one_by_one(missing, self._measure), mesher=True, quiet=True)  # fmt: skip

    def _one_by_one(
        self, keys: tuple[str, ...], again: Callable[[tuple[str, ...]], None]
    ) -> Callable[[GondrelError], None]:
        """After a failure over several bodies, try each alone to find the one that is at fault."""

        def failed(error: GondrelError) -> None:
            if len(keys) > 1:
                for key in keys:
                    again((key,))
            else:
                self.problems[keys[0]] = error
                self.failed.emit(error)
                self._measured()

        return failed

    def _measured(self) -> None:
        model = self.model
        if model is None or any(k not in self.facts and k not in self.problems for k in model.blobs()):
            return
        if model.count_of_places < _MANY:
            self._take_noted(model, with_measured_notes(model, self.facts))
            return

        def note(facts: dict[str, BodyFacts]) -> None:
            self._noted.emit(model, with_measured_notes(model, facts))

        # Of very many it takes long enough to be felt, and this is the thread that draws.
        Thread(target=note, args=(dict(self.facts),), daemon=True).start()

    def _take_noted(self, model: Model, noted: Model) -> None:
        """Take what measuring adds to a model's notes, unless another one is there meanwhile."""
        if model is not self.model:
            return
        if noted.notes != model.notes:
            steps, at = self.crossing.history.steps, self.crossing.history.at
            changed = (*steps[:at], replace(steps[at], model=noted), *steps[at + 1 :])
            self.crossing = replace(self.crossing, history=History(changed, at))
        self.facts_changed.emit()
        missing = tuple(k for k in model.blobs() if k not in self.details and k in self.facts)
        if missing:
            self._describe(missing)

    def describe(self, keys: tuple[str, ...]) -> None:
        """Learn the kinds and sizes of faces and edges of bodies, as far as they are not known."""
        missing = tuple(key for key in keys if key not in self.details)
        if missing:
            self._describe(missing)

    def _describe(self, keys: tuple[str, ...]) -> None:
        """Learn the kinds and sizes of faces and edges; failing that, they are just not told."""

        def done(details: dict[str, BodyDetail]) -> None:
            self.details.update(details)
            self.details_changed.emit()
            self.receiving.keep_read()

        args = (keys, self.folder)
        self._run(f"{_RECEIVE}:describe_bodies", args, "looking at faces", done, failed=_nothing,
                  mesher=True, quiet=True)  # fmt: skip

    # --- sending ----------------------------------------------------------------------------

    def send_settings(self) -> SendSettings:
        """The send settings chosen. Raises UsageError when a text that was given is none."""
        kept, values = self.settings.now, self.sending_values()
        card = self.addressing.card
        if card is not None and card.files.name:
            values["file_names"] = card.files.name
        given = {"author": kept.author, "organisation": kept.organisation, **values}
        return settings_from({key: value for key, value in given.items() if value and key != KIND})

    def sending_values(self) -> dict[str, str]:
        """What is chosen for a send, as a recipe keeps it."""
        return self.choices.values(self.targets)

    def take_sending(self, values: Mapping[str, str]) -> None:
        """Choose what a recipe says."""
        self.choices.take(values, self.targets)
        self.ask_forecast()

    def going(self) -> Model:
        """What of the model is sent: all of it, or what is selected or fits. Raises UsageError."""
        assert self.model is not None
        return self.choices.going(self.model, self.selected_products())

    def send_only(self, scope: str, query: str = "") -> None:
        """Send everything, what is selected, or what fits a query."""
        if (scope, query) != (self.choices.scope, self.choices.query):
            self.choices.scope, self.choices.query = scope, query
            self.ask_forecast()

    def ask_forecast(self) -> None:
        """Compute the forecast for the chosen target."""
        if self.model is None or self.is_preview:
            self.forecast = None
            self.forecast_changed.emit()
            return

        def take(forecast: Forecast) -> None:
            self.forecast = forecast
            self.forecast_changed.emit()

        try:
            going = self.going()
            args = (going, self.choices.kind, self.send_settings(), self.folder, self.addressing.card)
        except GondrelError as error:
            self.tell_error(error)
            return
        self._run(f"{_RECIPIENTS}:forecast_toward", args, "forecasting", take, quiet=True)

    def choose_target(self, kind: str, unit: str, form: str = "structure") -> None:
        """Choose what to send as, in which unit, and how an assembly goes: one of FORMS."""
        choices = self.choices
        if (kind, unit, form) != (choices.kind, choices.unit, choices.form):
            choices.kind, choices.unit, choices.form = kind, unit, form
            self.ask_forecast()

    def choose_option(self, key: str, value: str) -> None:
        """Choose a setting that only some targets have: bodies, chord, angle, files, cylinders."""
        if self.choices.options.get(key, "") != value:
            self.choices.options[key] = value
            self.ask_forecast()

    def send(self, out: str) -> None:
        """Write, read back and prove; then show the proof."""
        if self.model is None or self._is_still_read():
            return

        def take(sent: Sent) -> None:
            self.settings.change(sending=tuple(self.sending_values().items()))
            self.addressing.note(sent)
            self.take_proof(sent, "Sent")

        try:
            going = self.going()
            settings = replace(self.send_settings(), force=True)  # the dialog asked before it is replaced
        except GondrelError as error:
            self.tell_error(error)
            return
        args = (going, out, self.choices.kind, settings, self.folder)
        self._run(f"{_SEND}:send", args, f"sending {Path(out).name}", take)

    def take_proof(self, sent: Sent, said: str = "Proved against") -> None:
        """Show a proof: of what was sent, or of a file that came back."""
        self.facts.update(sent.facts)
        self.crossing = replace(self.crossing, sent=sent)
        self.persistence.touch()
        self.sent_changed.emit()
        self._compare_returned()

        def show() -> None:
            self.go(Station.PROVE)
            self.notice.emit(f"{said} {Path(sent.path).name}: {sent.proof.verdict}")

        self.deferred.ask(show)

    @property
    def comparison(self) -> Comparison | None:
        """What stands in the second pane: what the model is compared with, at the Mend station what is
        looked at there, at the Send station what was rehearsed, else what came back."""
        if self.comparing.beside is not None:
            return self.comparing.beside
        is_looked_at = self.arranging.preview is not None
        if self.station is (Station.ARRANGE if is_looked_at else Station.MEND) and self.checking.comparison:
            return self.checking.comparison
        if self.station is Station.SEND and self.addressing.beside is not None:
            return self.addressing.beside
        if self.sent is None or self.model is None:
            return None
        kept = self._returned
        if kept is None or kept[0] is not self.sent or kept[1] is not self.model:
            kept = (self.sent, self.model, comparison_with_returned(self.model, self.sent))
            self._returned = kept
        return kept[2]

    def _compare_returned(self) -> None:
        if self.sent is not None and self.model is not None:
            comparison = comparison_with_returned(self.model, self.sent)
            self.compare(comparison)

    def compare(self, comparison: Comparison) -> None:
        """Have the bodies of another model tessellated, and the deviation of those that differ mapped."""
        self.mesh(comparison.model.blobs())
        both = (*comparison.ours.items(), *comparison.theirs.items())
        wanted = tuple((key, others) for key, others in both if others != (key,))
        if not wanted:
            return

        def partial(value: Any) -> None:
            self.field_ready.emit(value[1])

        args = (wanted, self.folder)
        self._run(f"{_RECEIVE}:map_deviation", args, "mapping deviation", _nothing, partial,
                  mesher=True, quiet=True)  # fmt: skip

    # --- editing ----------------------------------------------------------------------------

    def selected_products(self) -> tuple[str, ...]:
        """Ids of the products of the selected rows, each once."""
        if self.model is None:
            return ()
        known = self._selected
        if known is None or known[0] is not self.model or known[1] is not self.selection:
            known = self._selected = self.model, self.selection, products_of(self.model, self.selection)
        return known[2]

    def edit(
        self, make: Callable[[Model], Edit], mended: tuple[Mended, ...] = (), script: str = ""
    ) -> bool:
        """Make an edit of the model the next step of the history; an error is told. True when done.

        Args:
            script: the edit as it stands in a steps file, where it has such a form.
        """
        if self.model is None or self._is_still_read():
            return False
        try:
            what, model = make(self.model)
        except GondrelError as error:
            self.tell_error(error)
            return False
        if model != self.model:
            self.crossing = self.crossing.edited(what, model, mended, script)
            self._edited()
            self.notice.emit(what)
        return True

    def add_product(self) -> None:
        """Prepare an empty product, in a new crossing when nothing is open, and select it."""
        if self.model is None:
            crossing = Crossing("New crossing", History.begin(Model(), "New crossing"))
            self.take_crossing(crossing, None, dirty=True)
        count = 1 + sum(p.id.startswith("new") for p in self.model.products) if self.model else 1
        name = f"Prepared part {count}"
        self.edit(lambda model: (f"Prepare {name}", with_new_product(model, "", name)))
        if self.model is not None:
            self.select((chain_of_product(self.model.roots[-1]),))
        self.go(Station.ARRANGE)

    def undo(self) -> None:
        """Go back one step."""
        self.go_to_step(self.crossing.history.at - 1)

    def redo(self) -> None:
        """Go forward one step."""
        self.go_to_step(self.crossing.history.at + 1)

    def go_to_step(self, at: int) -> None:
        """Go to a step of the history."""
        history = self.crossing.history
        if at == history.at or not 0 <= at < len(history.steps):
            return
        undone = history.steps[at + 1].name if at < history.at else history.steps[at].name
        self.crossing = replace(self.crossing, history=History(history.steps, at))
        self._edited()
        self.notice.emit(f"{'Undone' if at < history.at else 'Done again'}: {undone}")

    def _edited(self) -> None:
        self.persistence.touch()
        if self.model is not None and self.model.provenance is not None and not self.loading:
            self.card = self.model.provenance.file
        self.model_changed.emit()
        self._show_model()

    # --- selection, hiding, stations --------------------------------------------------------

    def select(self, chains: tuple[Chain, ...]) -> None:
        """Select rows of the manifest."""
        if chains != self.selection:
            self.selection = chains
            self.selection_changed.emit()
            self.loading_shapes.look_at_selected()

    def set_hidden(self, hidden: set[Chain], faint: set[Chain] | None = None) -> None:
        """Say which rows are hidden and which are seen through."""
        self.hidden = hidden
        self.faint = self.faint if faint is None else faint
        self.crossing = replace(
            self.crossing,
            hidden=tuple(tuple(tuple(sorted(s)) for s in row) for row in self.hidden),
            faint=tuple(tuple(tuple(sorted(s)) for s in row) for row in self.faint),
        )
        self.hidden_changed.emit()

    def focus(self, products: frozenset[str], returned: frozenset[str] = frozenset()) -> None:
        """Mark the products that a ledger cell or item is about; none to mark nothing."""
        if (products, returned) != (self.focused, self.focused_returned):
            self.focused, self.focused_returned = products, returned
            self.focus_changed.emit()

    def go(self, station: Station | int) -> None:
        """Go to a station. Raises ValueError where there is none of that number."""
        if station != self.station:
            self.station = Station(station)
            self.station_changed.emit(station)

    def close(self) -> None:
        """End the workers and drop what recovery does not need."""
        self.persistence.close()
        self.tasks.close()
        self._kept.close()
        atexit.unregister(self._kept.close)

    # --- jobs -------------------------------------------------------------------------------

    def run_job(
        self,
        function: str,
        args: tuple[Any, ...],
        doing: str,
        done: Callable[[Any], None],
        failed: Callable[[GondrelError], None] | None = None,
        partial: Callable[[Any], None] = _nothing,
        stopped: Callable[[], None] = lambda: None,
        *,
        quiet: bool = False,
        beside: bool = False,
    ) -> None:
        """Run a service function; its result goes to done, errors are told unless failed takes them.

        Args:
            beside: whether the worker that measures and tessellates does it, beside the one that reads.
        """
        if function.partition(":")[0] in _OF_SHAPES and self._is_still_read(quiet=quiet):
            stopped()
            return
        self._run(function, args, doing, done, partial, failed=failed, stopped=stopped, quiet=quiet,
                  mesher=beside)  # fmt: skip

    def _is_still_read(self, *, quiet: bool = False) -> bool:
        """Whether what is shown is only the structure of a file that is being read, which is told."""
        if self.is_preview and not quiet:
            self.notice.emit("The shapes are still being read")
        return self.is_preview

    def _run(
        self,
        function: str,
        args: tuple[Any, ...],
        doing: str,
        done: Callable[[Any], None],
        partial: Callable[[Any], None] = _nothing,
        *,
        failed: Callable[[GondrelError], None] | None = None,
        stopped: Callable[[], None] = lambda: None,
        mesher: bool = False,
        quiet: bool = False,
    ) -> None:
        def tell() -> None:
            stopped()
            if not quiet:
                self.notice.emit(f"Stopped {doing}; what was open is untouched")

        self.tasks.run(
            self._limited(Job(function, args, doing=doing)),
            done=done,
            failed=failed or self.tell_error,
            partial=partial,
            stopped=tell,
            mesher=mesher,
            quiet=quiet,
        )

    def _limited(self, job: Job) -> Job:
        """A job that may take no more memory than the settings say, or else the machine has."""
        most = self.settings.now.memory * 1000 or most_megabytes()
        return replace(job, megabytes=most) if most else job

    def tell_error(self, error: GondrelError) -> None:
        """Show an error and write it to the log."""
        self.error = error
        self.failed.emit(error)

    def _write_log(self, kind: str, text: str, detail: str = "") -> None:
        self.log.append(LogEntry(datetime.now(), kind, text, detail))
        del self.log[:-_LOG_LENGTH]
        self.log_changed.emit()
