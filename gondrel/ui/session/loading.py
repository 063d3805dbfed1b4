"""Shapes that come when they are asked for, or looked at; no widgets."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model.history import History
from gondrel.core.model.later import LoadedShapes, standing_in, waiting, with_shapes
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.reports.figures import count_of
from gondrel.ui.session.host import SessionHost

__all__ = ["Loading"]

_AT_ONCE = 8
"""How many products are loaded by one job, so that their shapes appear while others are still read."""

_MOST_LOOKED_AT = 200
"""How many products are loaded because what they occur in was selected; for more it has to be asked."""


class Loading(QObject):
    """What of a crossing waits to be loaded, and what is being loaded.

    Attributes:
        follows: whether what is selected is loaded without being asked for.
    """

    changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.follows = True
        self._queue: list[str] = []
        self._running: tuple[str, ...] = ()
        self._asked = self._failed = 0
        self._told: Model | None = None
        self._waiting: list[Product] = []

    @property
    def waiting(self) -> list[Product]:
        """The products whose shapes wait."""
        model = self.session.model
        if model is None or self.session.is_preview:
            return []
        if self._told is not model:
            self._told, self._waiting = model, waiting(model)
        return self._waiting

    @property
    def is_running(self) -> bool:
        """Whether shapes are being loaded."""
        return bool(self._running)

    @property
    def queued(self) -> int:
        """How many products are to be loaded or are being loaded."""
        return len(self._queue) + len(self._running)

    def model_changed(self) -> None:
        """Have boxes made for what waits in a model that was not received just now."""
        session, model = self.session, self.session.model
        self._queue = [key for key in self._queue if model is not None and key in model.by_id]
        if self.waiting and model is not None:
            keys = {
                shown.bodies[0].blob
                for product, shown in zip(model.products, standing_in(model).products, strict=True)
                if product.unread is not None and shown.bodies
            }
            missing = [key for key in keys if not session.store.has(key, "mesh")]
            if missing:
                session.run_job(
                    "gondrel.core.service.preview:make_stand_ins", (model, session.folder), "drawing boxes",
                    lambda _: session.meshes_made(missing), quiet=True, beside=True,
                )  # fmt: skip
        self.changed.emit()

    def load_all(self) -> None:
        """Load everything that waits."""
        self.load(product.id for product in self.waiting)

    def load_selected(self) -> None:
        """Load what is selected, with all that occurs in it."""
        self.load_with(self.session.selected_products())

    def load_with(self, products: Iterable[str]) -> None:
        """Load some products, with all that occurs in them."""
        model = self.session.model
        if model is not None:
            self.load(product.id for product in waiting(model, products))

    def look_at_selected(self) -> None:
        """Load what is selected, where that is wanted and is not much."""
        model = self.session.model
        if not (self.follows and self.waiting) or model is None:
            return
        found = waiting(model, self.session.selected_products())
        if len(found) <= _MOST_LOOKED_AT:
            self.load((product.id for product in found), first=True)

    def load(self, products: Iterable[str], *, first: bool = False) -> None:
        """Load the shapes of some products that wait.

        Args:
            first: whether before what was asked for earlier.
        """
        waits = {product.id for product in self.waiting} - set(self._running)
        wanted = [key for key in dict.fromkeys(products) if key in waits]
        fresh = [key for key in wanted if key not in self._queue]
        rest = [key for key in self._queue if key not in wanted] if first else self._queue
        self._queue = [*wanted, *rest] if first else [*rest, *fresh]
        self._asked += len(fresh)
        if not self._running:
            self._next()
        self.changed.emit()

    def stop(self) -> None:
        """Load no more than what is being read now."""
        self._queue.clear()
        self.changed.emit()

    def _next(self) -> None:
        session, model = self.session, self.session.model
        by_id = {product.id: product for product in self.waiting}
        self._queue = [key for key in self._queue if key in by_id]
        self._running = ()
        if model is None or not self._queue:
            self._end()
            return
        path = _path(by_id[self._queue[0]])
        batch = [key for key in self._queue if _path(by_id[key]) == path][:_AT_ONCE]
        self._running = tuple(batch)
        self._queue = [key for key in self._queue if key not in batch]
        records = tuple(waits.record for key in batch if (waits := by_id[key].unread) is not None)

        def partial(value: Any) -> None:
            if value[0] == "body":
                session.mesh((value[1],))

        def done(loaded: LoadedShapes) -> None:
            if session.model is not None and session.model is not model:
                self._take(replace(loaded, census=None))  # it was edited meanwhile
            else:
                self._take(loaded)
            self._next()

        def failed(error: GondrelError) -> None:
            self._failed += len(batch)
            session.tell_error(error)
            self._next()

        def stopped() -> None:
            self._queue.clear()
            self._next()

        left = len(self._queue) + len(batch)
        doing = f"loading shapes, {count_of(left, 'part')} to go"
        args = (model, path, records, str(session.store.folder))
        session.run_job(
            "gondrel.core.service.receive:load_shapes", args, doing, done, failed, partial, stopped
        )

    def _end(self) -> None:
        loaded = self._asked - self._failed
        if self._asked and loaded:
            self.session.notice.emit(f"{count_of(loaded, 'shape')} loaded")
        self._asked = self._failed = 0
        self.changed.emit()

    def _take(self, loaded: LoadedShapes) -> None:
        """Put shapes where they wait, in every state of the crossing: loading is no edit."""
        session = self.session
        crossing = session.crossing
        steps = tuple(
            replace(step, model=with_shapes(step.model, loaded)) for step in crossing.history.steps
        )
        sources = tuple(
            replace(source, model=with_shapes(source.model, loaded)) for source in crossing.sources
        )
        history = History(steps, crossing.history.at)
        session.take_shapes(replace(crossing, history=history, sources=sources))


def _path(product: Product) -> str:
    return product.unread.path if product.unread is not None else ""
