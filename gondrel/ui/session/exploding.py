"""Taking the model apart on screen: how far, down to which level, single components drawn out further.

No widgets. The model and its placements stay as they are.
"""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from gondrel.core.model import Model
from gondrel.core.model.cutting import Vector
from gondrel.core.model.explosion import Explosion, Leave, shifts_of
from gondrel.ui.session.host import SessionHost

__all__ = ["Exploding"]

_MEASURE = "gondrel.core.service.measure"


class Exploding(QObject):
    """Learns how the model comes apart, once, and says where everything is drawn."""

    changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.is_on = False
        self.spread = 0.7
        self.level = 1
        self.own: dict[tuple[str, ...], float] = {}
        self.explosion: Explosion | None = None
        self._of: Model | None = None
        session.model_changed.connect(self._model_changed)

    def toggle(self) -> None:
        """Take apart, or put together again."""
        self.is_on = not self.is_on
        if self.is_on and self._of is not self.session.model:
            self._ask()
        self.changed.emit()

    def _ask(self) -> None:
        model = self.session.model
        if model is None:
            return

        def take(explosion: Explosion) -> None:
            if self.session.model is model:
                self.explosion, self._of = explosion, model
                self.level = min(self.level, explosion.depth)
                if not explosion.leaves:
                    self.session.notice.emit("There is nothing to take apart: the model is a single part")
                self.changed.emit()

        args = (model, str(self.session.store.folder))
        self.session.run_job(f"{_MEASURE}:take_apart", args, "looking how parts come apart", take)

    def _model_changed(self) -> None:
        self.explosion, self._of, self.own = None, None, {}
        if self.session.model is None:
            self.is_on = False
        elif self.is_on:
            self._ask()
        self.changed.emit()

    def set_spread(self, spread: float) -> None:
        """How far: 0 as it stands, 1 wholly apart."""
        self.spread = min(max(spread, 0.0), 1.0)
        self.changed.emit()

    def set_level(self, level: int) -> None:
        """Down to which level of the structure."""
        self.level = level
        self.changed.emit()

    def draw_out(self, path: tuple[str, ...], by: float) -> None:
        """Draw a component further along its way, mm; only what leaves its assembly can be."""
        if self.leave_of(path) is not None:
            self.own[path] = self.own.get(path, 0.0) + by
            self.changed.emit()

    def restore(self, spread: float, level: int, own: dict[tuple[str, ...], float]) -> None:
        """Go to a state that was kept."""
        self.spread, self.level, self.own = spread, level, dict(own)
        self.is_on = spread > 0.0 or bool(own)
        if self.is_on and self._of is not self.session.model:
            self._ask()
        self.changed.emit()

    def leave_of(self, path: tuple[str, ...]) -> Leave | None:
        """How a component leaves its assembly, None where it stays or that is not known."""
        return self.explosion.leaves.get(path[-1]) if self.explosion is not None and path else None

    def shifts(self) -> dict[tuple[str, ...], Vector]:
        """By how much what is drawn is shifted, by path, mm; nothing while it is off."""
        model = self.session.model
        if not self.is_on or model is None or self.explosion is None:
            return {}
        return shifts_of(model, self.explosion, self.spread, self.level, self.own)
