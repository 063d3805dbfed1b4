"""A drawing that is looked at, and the part that is made of it. No widgets."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gondrel.core.arrange.insertion import with_model_added, with_model_inside
from gondrel.core.errors import GondrelError
from gondrel.core.model import Model
from gondrel.core.model.history import History
from gondrel.core.model.looked import LookedAt
from gondrel.core.model.profile import Making, ProfileWish
from gondrel.core.service.crossing import Crossing
from gondrel.ui.session.host import SessionHost

__all__ = ["SUFFIX", "Drafting"]

SUFFIX = ".dxf"
_PROFILE = "gondrel.core.service.profile"


class Drafting(QObject):
    """The drawing on the page of drawings: what is taken of it, its profile, what is made of it."""

    wanted = Signal()
    """The page is to be shown."""
    changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.path = ""
        self.pasted: str | None = None
        self.wish = ProfileWish()
        self.looked: LookedAt | None = None
        self.error: GondrelError | None = None
        self.is_busy = False
        self._again = False
        self._before: ProfileWish | None = None

    @property
    def name(self) -> str:
        """What the drawing is called."""
        return Path(self.path).name if self.path else ""

    def open(self, path: str, pasted: str | None = None) -> None:
        """Look at a drawing file, or at the text of one."""
        self.path, self.pasted = path, pasted
        self.wish, self.looked, self.error = ProfileWish(), None, None
        self.wanted.emit()
        self._look()

    def change(self, **what: object) -> None:
        """Take something else of the drawing, or give it other sizes."""
        wish = replace(self.wish, **what)  # type: ignore[arg-type]
        if wish == self.wish:
            return
        only_made = replace(wish, making=self.wish.making, regions=self.wish.regions) == self.wish
        self.wish = wish
        if only_made:
            self.changed.emit()
        else:
            self._look()

    def resize(self, name: str, value: float) -> None:
        """Give a size a new value; a contradiction is told and the sizes stay as they were."""
        before = self.wish
        kept = tuple(change for change in self.wish.changes if change[0] != name)
        self._before = before
        self.change(changes=(*kept, (name, value)))

    def make_of(self, making: Making) -> None:
        """Choose what is made."""
        self.change(making=making)

    def _look(self) -> None:
        if self.is_busy:
            self._again = True
            return
        self.is_busy, wish = True, self.wish

        def done(looked: LookedAt) -> None:
            self.is_busy = False
            if self._again:
                self._again = False
                self._look()
                return
            self.looked, self.error, self._before = looked, None, None
            self.changed.emit()

        def failed(error: GondrelError) -> None:
            self.is_busy = self._again = False
            if self._before is not None:  # what was not to be had is taken back
                self.wish, self._before = self._before, None
            elif self.looked is None:
                self.error = error
            self.session.tell_error(error)
            self.changed.emit()

        self.session.run_job(
            f"{_PROFILE}:look_at", (self.path, wish, self.pasted), f"looking at {self.name}", done, failed
        )
        self.changed.emit()

    def make(self, into: str = "") -> None:
        """Make the part: a crossing of its own where nothing is open, else beside what is there, or into a
        product by its id."""
        name = Path(self.path).stem

        def take(model: Model) -> None:
            session, current = self.session, self.session.model
            if current is None:
                crossing = Crossing(name, History.begin(model, f"Make {name} of a drawing"))
                session.take_crossing(crossing, None, dirty=True)
            elif into in current.by_id:
                label = current.product(into).label
                session.edit(lambda m: (f"Make {name} in {label}", with_model_inside(m, into, model)))
            else:
                session.edit(lambda m: (f"Make {name} of a drawing", with_model_added(m, model)))
            session.notice.emit(f"Made {name} of a drawing")

        args = (self.path, self.wish, self.pasted, str(self.session.store.folder))
        self.session.run_job(f"{_PROFILE}:part_of", args, f"making {name}", take)

    def write(self, out: str) -> None:
        """Save the outline as it is now."""

        def done(_: object) -> None:
            self.session.notice.emit(f"Saved {Path(out).name}")

        args = (self.path, self.wish, self.pasted, out)
        self.session.run_job(f"{_PROFILE}:outline_of", args, f"saving {Path(out).name}", done)
