"""Sizes of the model on screen: filter terms that ask for them, holes, walls, masses, clearances.

No widgets.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.arrange.properties import with_feature_properties
from gondrel.core.errors import GondrelError
from gondrel.core.model.features import Feature
from gondrel.core.model.measures import Clearance, HoleRow, Mass, Thickness
from gondrel.core.model.sizes import is_size_term, size_term
from gondrel.ui.session.host import SessionHost

__all__ = ["Sizing"]

_FEATURES = "gondrel.core.service.features"
_MEASURE, _QUERIES = "gondrel.core.service.measure", "gondrel.core.service.queries"


class Sizing(QObject):
    """Asks for sizes aside and keeps the answers until the model changes."""

    fits_changed = Signal()
    changed = Signal()
    walls_changed = Signal()
    faces_wanted = Signal(str, tuple)
    """The id of a body, and its faces that are to be shown."""

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.fits: dict[str, frozenset[str]] = {}
        self.holes: list[HoleRow] | None = None
        self.walls: dict[tuple[str, str], Thickness] | None = None
        self.mass: Mass | None = None
        self.close: list[Clearance] | None = None
        self.features: tuple[tuple[str, str, tuple[Feature, ...], str], ...] | None = None
        self.walled: frozenset[str] = frozenset()
        self._asked: set[str] = set()
        session.model_changed.connect(self._forget)

    def _forget(self) -> None:
        self.fits, self.holes, self.walls, self.mass, self.close = {}, None, None, None, None
        self.features = None
        self._asked.clear()
        self.changed.emit()
        if self.walled:
            self.walled = frozenset()
            self.walls_changed.emit()

    @property
    def _folder(self) -> str:
        return str(self.session.store.folder)

    def ask_fits(self, words: Sequence[str]) -> None:
        """Look for the parts that fit terms that ask for sizes, as far as that is not known."""
        model = self.session.model
        wanted = []
        for word in (word.lower().removeprefix("-") for word in words):
            if is_size_term(word) and word not in self.fits and word not in self._asked:
                try:
                    size_term(word)
                except GondrelError:
                    continue  # still being typed
                wanted.append(word)
        if model is None or not wanted:
            return
        self._asked.update(wanted)

        def take(fits: dict[str, frozenset[str]]) -> None:
            if self.session.model is model:
                self.fits |= fits
                self.fits_changed.emit()

        args = (model, tuple(wanted), self._folder)
        self.session.run_job(f"{_QUERIES}:of_size", args, "looking for sizes", take)

    def _ask(self, function: str, rest: tuple[Any, ...], doing: str, name: str) -> None:
        model = self.session.model
        if model is None:
            return

        def take(made: Any) -> None:
            if self.session.model is model:
                setattr(self, name, made)
                self.changed.emit()

        self.session.run_job(function, (model, *rest), doing, take)

    def ask_holes(self, products: tuple[str, ...]) -> None:
        """List the holes of products with all in them."""
        self._ask(f"{_MEASURE}:table_of_holes", (products, self._folder), "looking for holes", "holes")

    def ask_walls(self, products: tuple[str, ...]) -> None:
        """Look for the thinnest place of each solid of products with all in them."""
        self._ask(f"{_MEASURE}:thin_places", (products, self._folder), "measuring walls", "walls")

    def weigh(self, products: tuple[str, ...]) -> None:
        """Weigh products with all in them."""
        self._ask(f"{_MEASURE}:weigh", (products, self._folder), "weighing", "mass")

    def ask_close(self, limit: float) -> None:
        """List all pairs of bodies that come closer than a limit, mm."""
        self._ask(f"{_MEASURE}:too_close", (limit, self._folder), "measuring clearances", "close")

    def ask_features(self, products: tuple[str, ...]) -> None:
        """Look for the features of products with all in them."""
        args = ((), self._folder, products)
        self._ask(f"{_FEATURES}:features_of_model", args, "looking for features", "features")

    def keep_features(self) -> None:
        """Keep what was found as a property of each part, as a step that can be undone."""
        found: dict[str, Counter[str]] = {}
        for product, _, features, _ in self.features or ():
            found.setdefault(product, Counter()).update(feature.kind for feature in features)
        if found:
            self.session.edit(lambda model: with_feature_properties(model, found))

    def map_walls(self, keys: tuple[str, ...]) -> None:
        """Colour bodies in the picture by how thick their walls are; none for their own colours."""
        if not keys:
            self.walled = frozenset()
            self.walls_changed.emit()
            return

        def done(_: None) -> None:
            self.walled = frozenset(keys)
            self.walls_changed.emit()

        self.session.run_job(f"{_MEASURE}:map_walls", (keys, self._folder), "measuring walls", done)
