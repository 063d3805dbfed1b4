"""Views of the model as a drawing, ready to be saved. No widgets."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model.drawing import Drawing, DrawWish
from gondrel.ui.session.host import SessionHost

__all__ = ["Plotting"]

_DRAW = "gondrel.core.service.draw"


class Plotting(QObject):
    """What a drawing is to show, the drawing as it came out, and where it goes."""

    changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.wish = DrawWish(hidden_iso=False)
        self.products: tuple[str, ...] = ()
        self.drawing: Drawing | None = None
        self.is_busy = False
        self._again = False
        session.model_changed.connect(self._forget)

    def _forget(self) -> None:
        self.drawing, self.products = None, ()
        self.changed.emit()

    def change(self, **what: object) -> None:
        """Wish for something else; what is shown is drawn anew where it was drawn."""
        wish = replace(self.wish, **what)  # type: ignore[arg-type]
        if wish == self.wish:
            return
        is_same_drawing = replace(
            wish, fields=self.wish.fields, sheet=self.wish.sheet, version=self.wish.version,
            unit=self.wish.unit, kind=self.wish.kind,
        ) == self.wish  # fmt: skip
        self.wish = wish
        if not is_same_drawing and self.drawing is not None:
            self.draw(self.products)
        self.changed.emit()

    def draw(self, products: tuple[str, ...] = ()) -> None:
        """Draw the whole model, or some products with all in them."""
        model = self.session.model
        if model is None:
            return
        self.products = products
        if self.is_busy:
            self._again = True
            return
        self.is_busy = True

        def done(drawing: Drawing) -> None:
            self.is_busy = False
            if self._again:
                self._again = False
                self.draw(self.products)
                return
            if self.session.model is model:
                self.drawing = drawing
            self.changed.emit()

        def failed(error: GondrelError) -> None:
            self.is_busy = self._again = False
            self.session.tell_error(error)
            self.changed.emit()

        def stopped() -> None:
            self.is_busy = self._again = False
            self.changed.emit()

        args = (model, self.wish, self.session.folder, products)
        self.session.run_job(f"{_DRAW}:draw_model", args, "drawing views", done, failed, stopped=stopped)
        self.changed.emit()

    def write(self, out: str, *, parts_list: bool) -> None:
        """Save the drawing by its ending: .dxf, .svg or .pdf."""
        model, drawing = self.session.model, self.drawing
        if model is None or drawing is None:
            return

        def done(_: object) -> None:
            self.session.notice.emit(f"Saved {Path(out).name}")

        args = (model, drawing, self.wish, out, self.session.folder, parts_list)
        self.session.run_job(f"{_DRAW}:save_drawing", args, f"saving {Path(out).name}", done)
