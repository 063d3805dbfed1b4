"""Shows the section in the picture: clips it at once, and draws the exact cut faces when they are there."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from gondrel.core.model import Model
from gondrel.core.model.measures import PlacedSection
from gondrel.core.sheet.hatching import Hatch, apart_hatches, hatch_for
from gondrel.ui.scene.bodies import PlacedBody
from gondrel.ui.scene.body_mesh import BodyMesh
from gondrel.ui.scene.canvas import Canvas
from gondrel.ui.scene.hatching import hatched
from gondrel.ui.session.session import Session

__all__ = ["SectionView"]

_TOUCH = 1e-3
Owner = tuple[tuple[str, ...], str]


class SectionView:
    """Keeps the picture and the section of the session in step."""

    def __init__(
        self, session: Session, canvas: Canvas, load: Callable[[str], None], dress: Callable[[], None]
    ) -> None:
        self.session, self.canvas, self.load, self.dress = session, canvas, load, dress
        self._due = [False, False]
        session.sectioning.changed.connect(self._changed)
        session.sectioning.ready.connect(self._ready)

    def _changed(self) -> None:
        sectioning = self.session.sectioning
        self._due = [False, False]
        self.canvas.set_cut(sectioning.shown, sectioning.whole)

    def _ready(self) -> None:
        for pane, sections in enumerate(self.session.sectioning.sections):
            if sections.placed and not self.canvas.scenes[pane].caps:
                self._due[pane] = True
                for key in dict.fromkeys(section.key for section in sections.placed):
                    if self.session.store.has(key, "mesh"):
                        self.load(key)

    def take_meshes(self, meshes: Mapping[str, BodyMesh]) -> None:
        """Draw the cut faces of a pane once the meshes of all of them are loaded."""
        for pane, sections in enumerate(self.session.sectioning.sections):
            if self._due[pane] and all(section.key in meshes for section in sections.placed):
                self._due[pane] = False
                self._show(pane, sections.placed, meshes)

    def _show(self, pane: int, sections: tuple[PlacedSection, ...], meshes: Mapping[str, BodyMesh]) -> None:
        scene, cut = self.canvas.scenes[pane], self.session.sectioning.shown
        owners: dict[Owner, PlacedBody] = {(p.path, p.body.id): p for p in scene.placed}
        caps: list[tuple[PlacedSection, PlacedBody]] = []
        for section in sections:
            owner = owners.get((section.path, section.body))
            if owner is not None:
                caps.append((section, scene.make_cap(owner, section.key, meshes[section.key])))
        hatches = self._hatches(pane, caps)
        lined = [
            (cap, cut.planes[section.plane], hatches[section.path, section.body])
            for section, cap in caps
            if len(cap.mesh.triangles)
        ]
        box = scene.bounds()
        size = float((box[1] - box[0]).max()) if box is not None else 1.0
        self.canvas.show_caps(pane, [cap for _, cap in caps], hatched(lined, size))
        self.dress()

    def _hatches(self, pane: int, caps: list[tuple[PlacedSection, PlacedBody]]) -> dict[Owner, Hatch]:
        """A hatch for each body that is cut, another where their cut faces come near one another."""
        comparison = self.session.comparison
        model: Model | None = self.session.model if pane == 0 else comparison.model if comparison else None
        places = list(dict.fromkeys((section.path, section.body) for section, _ in caps))
        number = {place: n for n, place in enumerate(places)}
        touching: dict[int, list[int]] = {n: [] for n in range(len(places))}
        boxes = np.array([cap.box for _, cap in caps]).reshape(-1, 2, 3)
        for n, (section, _) in enumerate(caps):
            near = (boxes[:, 0] <= boxes[n, 1] + _TOUCH) & (boxes[n, 0] <= boxes[:, 1] + _TOUCH)
            own = number[section.path, section.body]
            for other in np.flatnonzero(near.all(axis=1)).tolist():
                there = number[caps[other][0].path, caps[other][0].body]
                if there != own:
                    touching[own].append(there)
        products = {(section.path, section.body): section.product for section, _ in caps}
        base = [hatch_for(_material(model, products[place])) for place in places]
        return dict(zip(places, apart_hatches(base, touching), strict=True))


def _material(model: Model | None, product: str) -> str:
    made = model.by_id.get(product) if model is not None else None
    return made.material.name if made is not None and made.material is not None else ""
