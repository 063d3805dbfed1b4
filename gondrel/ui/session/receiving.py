"""Receiving on screen: files that wait for choices, tethers, missing files; no widgets."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from gondrel.core.arrange.insertion import with_model_added, with_model_inside
from gondrel.core.arrange.steps.scripts import run_again, standing
from gondrel.core.errors import GondrelError
from gondrel.core.model import FileFacts, History, Model
from gondrel.core.model.graft import apart_from
from gondrel.core.reports.figures import count_of
from gondrel.core.service.catalogue import model_suffixes
from gondrel.core.service.crossing import SUFFIX, Crossing, Source
from gondrel.core.service.messages import Difference
from gondrel.core.service.settings import ReceiveOptions, receive_options_from
from gondrel.ui.presenters.visibility import sent_hidden
from gondrel.ui.session.drafting import SUFFIX as DRAWING
from gondrel.ui.session.host import SessionHost
from gondrel.ui.session.stations import Station

__all__ = ["ADDED", "ASKING", "NEW", "Pending", "Receiving", "model_files"]

NEW, ADDED = "new", "beside"
"""Where a received model goes: to a crossing of its own, or beside what is there; else a product's id."""

_SHORT = "memory-short"
ASKING = frozenset(("unit-missing", "no-unit", "size-doubt", "files-missing", _SHORT))
"""Notes of a file card that ask for a choice before the file is loaded."""

_TETHER = "gondrel.core.service.tether"
_INTAKE = "gondrel.core.service.intake"
_SETTLE_MS = 400


@dataclass(frozen=True, slots=True)
class Pending:
    """A file that was looked at and waits for choices."""

    path: str
    card: FileFacts


def model_files(paths: Iterable[str]) -> list[str]:
    """Files as they are, folders as the model files in them and below, in order of name."""
    endings = model_suffixes()
    files: list[str] = []
    for path in paths:
        if Path(path).is_dir():
            files += sorted(
                str(p) for p in Path(path).rglob("*") if p.suffix.lower() in endings and p.is_file()
            )
        else:
            files.append(path)
    return files


_CACHE = "gondrel.core.service.cache"
_LARGE = 15_000_000
"""Bytes from which the structure of a file is shown before its shapes are read."""

_VERY_LARGE = 100_000_000
"""Bytes from which shapes are loaded when they are asked for."""


class Receiving(QObject):
    """What comes into a session: files, choices, tethers and what changed at their sources."""

    changed = Signal()
    drawing_wanted = Signal(str)
    """The path of a drawing, which is looked at on a page of its own."""

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.pending: Pending | None = None
        self.values: dict[str, str] = {}
        self.where = NEW
        self.states: dict[str, str] = {}
        self.difference: tuple[int, Difference] | None = None
        self._waiting: list[str] = []
        self._kept = ""
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._touched)
        self._watcher.directoryChanged.connect(self._touched)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLE_MS)
        self._settle.timeout.connect(self.check_sources)

    # --- files ------------------------------------------------------------------------------

    def open_paths(self, paths: Iterable[str]) -> None:
        """Receive files and the files of folders; the second and later ones beside the first."""
        files = model_files(paths)
        if not files:
            self.session.notice.emit("There is no model file in it")
            return
        self._waiting = files[1:]
        self.open_file(files[0])

    def open_file(self, path: str, *, ask: bool = False, where: str = NEW) -> None:
        """Open a crossing, or look at a file and receive it; where its card asks, choices come first."""
        if Path(path).suffix == SUFFIX:
            self.session.load_crossing(Path(path))
            return
        if Path(path).suffix.lower() == DRAWING:
            self.drawing_wanted.emit(path)
            return
        session = self.session
        self._kept = ""
        session.error = None
        session.loading = path
        self.pending, self.where = None, where
        self.values = self._standing()

        def take(card: FileFacts) -> None:
            if session.loading != path:
                return
            session.card = card
            session.card_changed.emit()
            if _SHORT in {note.code for note in card.notes}:
                self.values.setdefault("shapes", "asked")
            if ask or any(note.code in ASKING for note in card.notes):
                self.pending = Pending(path, card)
                session.loading = ""
                self.changed.emit()
            else:
                self.receive(path, where=where)

        def failed(error: GondrelError) -> None:
            session.forget_loading()
            session.tell_error(error)
            self._next()

        doing = f"looking at {Path(path).name}"
        args = (path,)
        session.run_job("gondrel.core.service.cards:file_card", args, doing, take, failed)
        session.go(Station.RECEIVE)

    def _standing(self) -> dict[str, str]:
        """Settings that hold for every receive: folders to search."""
        folders = [f for f in self.session.settings.now.search if Path(f).is_dir()]
        return {"search": ":".join(folders)} if folders else {}

    def choose_again(self) -> None:
        """Let the choices of the last receive be made anew."""
        source = next(iter(self.session.crossing.sources), None)
        card = self.session.card
        if source is None or card is None:
            return
        self.values = {**self._standing(), **dict(source.provenance.settings)}
        self.where = NEW
        self.pending = Pending(source.path, source.provenance.file)
        self.changed.emit()
        self.session.card_changed.emit()

    def forget_pending(self) -> None:
        """Take nothing in and go back to what is open."""
        self.pending = None
        self.session.forget_loading()
        self.changed.emit()
        self._next()

    def receive_pending(self, values: dict[str, str], where: str) -> None:
        """Receive the file that waits, by the choices made."""
        if self.pending is not None:
            path = self.pending.path
            self.pending = None
            self.values = {**self._standing(), **values}
            self.receive(path, where=where)
            self.changed.emit()

    def receive(self, path: str, *, where: str = NEW) -> None:
        """Read a file raw; its bodies are tessellated by the other worker meanwhile."""
        session, name = self.session, Path(path).name
        session.error = None
        session.loading = path

        def partial(value: Any) -> None:
            if value[0] == "body":
                session.mesh((value[1],))

        def done(model: Model) -> None:
            session.deferred.ask(lambda: self._remember(path))  # first: settings have a forecast asked too
            self._arrived(model, name, where)
            session.notice.emit(f"Received {name}: {count_of(len(model.products), 'product')}")
            self._next()

        def failed(error: GondrelError) -> None:
            session.end_preview()
            session.forget_loading()
            session.tell_error(error)
            self._next()

        def stopped() -> None:
            self._waiting.clear()
            session.end_preview()
            session.forget_loading()

        try:
            options = self._options(path)
        except GondrelError as error:
            failed(error)
            return
        args = (path, str(session.store.folder), options)
        session.run_job(
            f"{_CACHE}:receive_again",
            args,
            f"reading {name}",
            done,
            failed,
            partial,
            stopped,
        )
        if where == NEW and session.model is None:
            self._show_structure(path)

    def _options(self, path: str) -> ReceiveOptions:
        """How a file is received by the choices made; of a very large one shapes come when asked for,
        unless all was chosen. Raises UsageError."""
        values = dict(self.values)
        if not values.get("shapes"):
            values.pop("shapes", None)
            with suppress(OSError):
                if Path(path).stat().st_size >= _VERY_LARGE and not set(values) - {"search"}:
                    values["shapes"] = "asked"
        return receive_options_from(values)

    def _show_structure(self, path: str) -> None:
        """Of a large file show the structure while its shapes are being read."""
        session = self.session
        try:
            if Path(path).stat().st_size < _LARGE:
                return
        except OSError:
            return

        def partial(value: Any) -> None:
            is_free = session.model is None or session.is_preview
            if session.loading == path and is_free:
                session.preview(value[1])

        session.run_job(
            "gondrel.core.service.preview:structure_first", (path, str(session.store.folder)),
            "reading the structure", lambda _: None, lambda _: None, partial, quiet=True, beside=True,
        )  # fmt: skip

    def keep_read(self) -> None:
        """Keep what was received beside the user's caches, once all that is derived from it is there."""
        session = self.session
        source = next(iter(session.crossing.sources), None)
        if (
            source is None
            or session.is_preview
            or session.model is not source.model
            or self._kept == source.path
        ):
            return
        self._kept = source.path
        try:
            options = self._options(source.path)
        except GondrelError:
            return
        args = (source.model, source.path, str(session.store.folder), options)
        session.run_job(
            f"{_CACHE}:keep_read", args, "keeping what was read", lambda _: None, lambda _: None,
            quiet=True, beside=True,
        )  # fmt: skip

    def _arrived(self, model: Model, name: str, where: str) -> None:
        session = self.session
        assert model.provenance is not None
        current = session.model
        if where == NEW or current is None:
            source = Source(model.provenance, model)
            history = History.begin(model, f"Receive {name}")
            crossing = Crossing(Path(name).stem, history, sources=(source,))
            session.take_crossing(crossing, None, dirty=True)
            hidden = sent_hidden(model)
            if hidden:
                session.set_hidden(hidden)
            self.states.clear()
        else:
            added = apart_from(current, model)
            house = current.by_id.get(where)
            merged = with_model_inside(current, where, added) if house else with_model_added(current, added)
            what = f"Receive {name} into {house.label}" if house else f"Receive {name} beside"
            sources = (*session.crossing.sources, Source(model.provenance, added))
            session.crossing = replace(session.crossing, sources=sources)
            session.edit(lambda _: (what, merged))
            session.set_hidden(session.hidden | sent_hidden(added))
            self.watch()

    def _remember(self, path: str) -> None:
        """Have a file among those opened last."""
        settings = self.session.settings
        settings.change(recent=settings.now.with_recent(path).recent)

    def _next(self) -> None:
        """Receive the next of several files."""
        if self._waiting:
            path = self._waiting.pop(0)
            self.open_file(path, where=ADDED if self.session.model is not None else NEW)

    # --- tethers ----------------------------------------------------------------------------

    def watch(self) -> None:
        """Follow the files the crossing was received from."""
        self.difference = None
        old = [*self._watcher.files(), *self._watcher.directories()]
        if old:
            self._watcher.removePaths(old)
        paths: set[str] = set()
        for source in self.session.crossing.sources:
            if not source.is_cut:
                for path in (source.path, *(p for p, _ in source.provenance.files)):
                    paths.add(path)
                    paths.add(str(Path(path).parent))  # writers replace files, which ends watching them
        there = [p for p in paths if Path(p).exists()]
        if there:
            self._watcher.addPaths(there)
        self.changed.emit()

    def _touched(self, path: str) -> None:
        self._settle.start()

    def check_sources(self) -> None:
        """See whether the files of tethers are as they were received."""
        session = self.session
        sources = session.crossing.sources
        if not sources:
            return

        def take(states: dict[str, str]) -> None:
            fresh = [p for p, state in states.items() if self.states.get(p) != state]
            self.states = states
            self._take_by_themselves(fresh)
            for path in fresh:
                what = "has changed on disk" if states[path] == "changed" else "is no longer there"
                session.notice.emit(f"{Path(path).name} {what}")
            missing = [p for p in (s.path for s in sources) if p not in self._watcher.files()]
            again = [p for p in missing if Path(p).exists()]
            if again:
                self._watcher.addPaths(again)
            self.changed.emit()

        session.run_job(f"{_TETHER}:changed_files", (sources,), "looking at sources", take, quiet=True)

    def state_of(self, source: Source) -> str:
        """How a source stands: "", "changed" or "gone"."""
        states = [
            self.states[p]
            for p in (source.path, *(p for p, _ in source.provenance.files))
            if p in self.states
        ]
        return "gone" if "gone" in states else states[0] if states else ""

    def _take_by_themselves(self, fresh: list[str]) -> None:
        """Take changes of sources that are to be taken by running the steps again."""
        for index, source in enumerate(self.session.crossing.sources):
            paths = {source.path, *(p for p, _ in source.provenance.files)}
            if (
                source.again
                and not source.is_cut
                and paths & set(fresh)
                and self.state_of(source) != "gone"
            ):
                self.look(index, lambda: self.take_difference(by_steps=True))
                return

    def take_again(self, index: int, again: bool) -> None:
        """Take changes of a source by themselves from now on, by running the steps again, or no longer."""
        self._replace_source(index, lambda s: replace(s, again=again))

    @property
    def steps(self) -> tuple[tuple[str, ...], int]:
        """The steps of the history that can be done again, and how many edits are none."""
        return standing(self.session.crossing.history.scripts)

    def look(self, index: int, then: Callable[[], None] | None = None) -> None:
        """Receive a source again and show what changed."""
        session = self.session
        source = session.crossing.sources[index]

        def take(difference: Difference) -> None:
            self.difference = (index, difference)
            session.mesh(difference.new.blobs())
            self.changed.emit()
            if then is not None:
                then()

        name = Path(source.path).name
        args = (source, str(session.store.folder))
        session.run_job(f"{_TETHER}:look_again", args, f"comparing {name} with what was received", take)

    def take_difference(self, *, by_steps: bool = False) -> None:
        """Take the changes that are shown into the crossing.

        Args:
            by_steps: whether the source is taken as it is and the steps are run again on it, in place of
                carrying over what was arranged.
        """
        if self.difference is None or self.session.model is None:
            return
        session = self.session
        index, difference = self.difference
        source = session.crossing.sources[index]
        done, _ = self.steps
        steps = run_again(done) if by_steps and done else ""

        def take(result: tuple[Model, Source, tuple[str, ...]]) -> None:
            model, now, notes = result
            sources = list(session.crossing.sources)
            sources[index] = now
            session.crossing = replace(session.crossing, sources=tuple(sources))
            self.states = {p: s for p, s in self.states.items() if p != now.path}
            name = Path(now.path).name
            how = " and run the steps again" if steps else ""
            session.edit(lambda _: (f"Take changes of {name}{how}", model), script=steps)
            for text in notes:
                session.notice.emit(text)
            if steps:
                session.notice.emit(f"{name} was taken again by {count_of(len(done), 'step')}")
            self.watch()
            self.check_sources()

        args = (session.model, source, difference.new, str(session.store.folder), steps)
        session.run_job(f"{_TETHER}:take_changes", args, "taking changes", take)

    def leave_difference(self) -> None:
        """Go on without the changes."""
        self.difference = None
        self.changed.emit()

    def cut(self, index: int, is_cut: bool = True) -> None:
        """No longer follow a source, or follow it again."""
        self._replace_source(index, lambda s: replace(s, is_cut=is_cut))

    def point_to(self, index: int, path: str) -> None:
        """Follow another file in place of a source's; it is compared with what was received."""
        absolute = str(Path(path).resolve())

        def moved(source: Source) -> Source:
            card = replace(source.provenance.file, path=absolute)
            return replace(source, provenance=replace(source.provenance, file=card), is_cut=False)

        self._replace_source(index, moved)
        self.check_sources()

    def _replace_source(self, index: int, change: Any) -> None:
        session = self.session
        sources = list(session.crossing.sources)
        sources[index] = change(sources[index])
        session.crossing = replace(session.crossing, sources=tuple(sources))
        session.touch()
        self.watch()

    # --- missing files, meshes ----------------------------------------------------------------

    def look_in(self, folder: str) -> None:
        """Look for missing files in a folder, which is remembered."""
        session = self.session
        kept = session.settings.now.search
        session.settings.change(search=(folder, *(f for f in kept if f != folder))[:5])
        model = session.model
        if model is None:
            return
        wanted = sum(bool(p.missing_file) for p in model.products)

        def take(result: tuple[Model, int]) -> None:
            files, count = result
            if not count:
                session.notice.emit(f"None of the missing files is in {folder}")
                return
            what = f"Read {count} missing {'file' if count == 1 else 'files'}"
            session.edit(lambda _: (what, files))
            if session.crossing.sources and files.provenance is not None:
                # What was missing belongs to the source as it was received.
                self._replace_source(0, lambda s: replace(s, provenance=files.provenance, model=files))
            session.notice.emit(f"{count} of {wanted} missing files found")

        args = (model, folder, str(session.store.folder))
        session.run_job(f"{_TETHER}:resolve_missing", args, "looking for missing files", take)

    def mend_meshes(self) -> None:
        """Turn facets alike and close the holes of meshes that bound no solid."""
        session = self.session
        if session.model is None:
            return

        def take(result: tuple[Model, tuple[str, ...]]) -> None:
            model, notes = result
            session.edit(lambda _: ("Mend meshes", model))
            for text in notes:
                session.notice.emit(text)

        args = (session.model, str(session.store.folder))
        session.run_job("gondrel.core.service.mend_mesh:mend_meshes", args, "mending meshes", take)
