"""The records of the source file on screen: the one behind what is selected, and those it leads to.

No widgets.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model.body import Body
from gondrel.core.model.origins import Found, RecordView
from gondrel.core.model.provenance import FileFacts
from gondrel.core.model.snapshot import Model
from gondrel.core.model.sought import Sought
from gondrel.core.service.catalogue import shows_records
from gondrel.ui.presenters.rows import occurrences_of, products_of
from gondrel.ui.session.host import SessionHost

__all__ = ["Sourcing"]

_SOURCE = "gondrel.core.service.source"


class Sourcing(QObject):
    """Fetches records aside and keeps which were looked at, so that one can go back."""

    changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.view: RecordView | None = None
        self.found: Sequence[Found] = ()
        self.told = ""
        self.behind: list[int] = []
        self.edge: Sought | None = None
        session.model_changed.connect(self._forget)

    def _forget(self) -> None:
        self.view, self.found, self.told, self.behind, self.edge = None, (), "", [], None
        self.changed.emit()

    def point_at(self, body: Body, edge: int) -> None:
        """Say which edge of a body is picked, as long as nothing else is."""
        self.edge = Sought("edge", body.id, edge=edge)

    def point_away(self) -> None:
        """No edge is picked any more."""
        self.edge = None

    @property
    def path(self) -> str:
        """The file whose records are shown, empty without one."""
        return self._file.path if self._file is not None else ""

    @property
    def has_records(self) -> bool:
        """Whether the file is of a format whose records are shown."""
        return self._file is not None and shows_records(self._file.format)

    @property
    def _file(self) -> FileFacts | None:
        model = self.session.model
        return model.provenance.file if model is not None and model.provenance is not None else None

    def selected(self, face: tuple[str, int] | None) -> Sought | None:
        """What a record is sought for now: the picked edge or face, else the selected component or part.

        Args:
            face: id of the body and place of the face that is picked.
        """
        if self.edge is not None:
            return self.edge
        model, selection = self.session.model, self.session.selection
        if face is not None and face[0]:
            return Sought("face", face[0], face[1])
        if model is None or not selection:
            return None
        uses = occurrences_of(model, selection)
        if uses:
            return Sought("component", uses[0])
        return Sought("product", model.roots[0])

    def properties(self) -> list[Sought]:
        """What a record can be sought for of the selected component and its product, of the whole where
        nothing is selected: each of their properties."""
        model, selection = self.session.model, self.session.selection
        if model is None:
            return []
        uses, products = occurrences_of(model, selection), products_of(model, selection or ((),))
        said = [("component", use.id, use.metadata) for _, use in model.occurrences() if use.id in uses[:1]]
        said += [("product", key, model.by_id[key].metadata) for key in products[:1]]
        return [Sought(kind, item, key=datum.key) for kind, item, data in said for datum in data]

    def look_behind(self, sought: Sought | None) -> None:
        """Show the record behind an item, or that of its colour."""
        if not self.path:
            self._tell("There is no file behind this model")
            return
        if sought is None:
            self._tell("Select a component, or pick a face or edge in the picture, to see its record")
            return
        args = (self.path, self._with_shapes(sought), str(self.session.store.folder))
        self._fetch("record_behind", args)

    def _with_shapes(self, sought: Sought) -> Sought:
        """An item with the shapes of its body, now and as it was received."""
        model, sources = self.session.model, self.session.crossing.sources
        if model is None or sought.kind not in ("face", "edge"):
            return sought
        received = [source.model for source in sources if source.path == self.path]
        now, then = (_shape_in(models, sought.id) for models in ([model], received))
        return replace(sought, blob=now, received=then)

    def go(self, number: int) -> None:
        """Show another record; the one that was shown can be gone back to."""
        if self.view is not None and self.view.number != number:
            self.behind.append(self.view.number)
        self._fetch("record_at", (self.path, number))

    def back(self) -> None:
        """Show the record that was shown before."""
        if self.behind:
            self._fetch("record_at", (self.path, self.behind.pop()))

    def find(self, query: str) -> None:
        """Look for records by number or type."""
        if not self.path or not query.strip():
            return

        def take(found: list[Found]) -> None:
            self.found = found
            self._tell(f"{len(found)} found" if found else f"no record is called {query.strip()}")
            if len(found) == 1:
                self.go(found[0].number)

        args = (self.path, query)
        self.session.run_job(
            f"{_SOURCE}:find_records", args, "looking for records", take, self._refuse, quiet=True
        )

    def _fetch(self, function: str, args: tuple[object, ...]) -> None:
        def take(view: RecordView) -> None:
            self.view, self.told = view, ""
            self.changed.emit()

        self._tell("reading \u2026")
        self.session.run_job(
            f"{_SOURCE}:{function}", args, "looking up a record", take, self._refuse, quiet=True
        )

    def _refuse(self, error: GondrelError) -> None:
        self._tell(f"{error.message}{f' ({error.hint})' if error.hint else ''}")

    def _tell(self, text: str) -> None:
        self.told = text
        self.changed.emit()


def _shape_in(models: Iterable[Model], body: str) -> str:
    """Hash of the shape that a body has in some models, empty where it is in none."""
    return next((b.blob for model in models for _, b in model.bodies() if b.id == body), "")
