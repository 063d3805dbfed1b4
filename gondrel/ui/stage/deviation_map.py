"""Both panes coloured by how far each surface lies from its counterpart."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from gondrel.core.model.detail import field_kind
from gondrel.ui.presenters.scale import least_shown, scale_for, wall_scale
from gondrel.ui.session.session import RECEIVED, RETURNED, Session

if TYPE_CHECKING:
    from gondrel.ui.scene.bodies import Hit, Scene
    from gondrel.ui.scene.body_mesh import BodyMesh
    from gondrel.ui.stage.legend import Legend

__all__ = ["DeviationMap"]


class DeviationMap:
    """Gives the scenes their deviation fields and the legend its scale."""

    def __init__(self, session: Session, scenes: list[Scene]) -> None:
        self.session = session
        self.scenes = scenes

    def hide(self) -> bool:
        """Take the map away; False when there was none."""
        shown = any(scene.scale is not None for scene in self.scenes)
        for scene in self.scenes:
            scene.set_fields({}, None)
        return shown

    def show(self, meshes: Mapping[str, BodyMesh], legend: Legend) -> None:
        """Colour what is known by now; bodies without a counterpart keep their own colours."""
        fields: list[dict[str, np.ndarray]] = [{}, {}]
        comparison = self.session.comparison
        sides = (
            ((RECEIVED, comparison.ours), (RETURNED, comparison.theirs)) if comparison is not None else ()
        )
        for pane, against in sides:
            for key, others in against.items():
                field = self._field(meshes.get(key), key, others)
                if field is not None:
                    fields[pane][key] = field
        largest = max((float(f.max(initial=0.0)) for side in fields for f in side.values()), default=0.0)
        sizes = [np.linalg.norm(m.high - m.low) for s in self.scenes for m in s.meshes.values()]
        least = least_shown(float(max(sizes, default=0.0)))
        scale = scale_for(largest, least)
        for scene, side in zip(self.scenes, fields, strict=True):
            scene.set_fields(side, scale)
            for placed in scene.placed:
                placed.look = None
        chords = [max((m.chord for m in s.meshes.values()), default=0.0) for s in self.scenes]
        lines = (
            "measured both ways, from",
            f"{least:.0e} mm up; chord heights".replace("e-0", "e-"),
            f"{chords[0]:.2g} and {chords[1]:.2g} mm",
        )
        legend.show_scale(scale, self.session.figures, lines)

    def show_walls(self, meshes: Mapping[str, BodyMesh], legend: Legend) -> None:
        """Colour what was measured by how thick its walls are; places without another side are pale."""
        fields: dict[str, np.ndarray] = {}
        for key in self.session.sizing.walled:
            mesh = meshes.get(key)
            if mesh is None or not self.session.store.has(key, "walls"):
                continue
            walls = np.frombuffer(self.session.store.get_as(key, "walls"), np.float32)
            if len(walls) == len(mesh.points):
                fields[key] = walls
        measured = [float(np.nanmin(field)) for field in fields.values() if np.isfinite(field).any()]
        scale = wall_scale(min(measured)) if measured else scale_for(0.0)
        shown = {key: np.where(np.isfinite(field), field, 1e9) for key, field in fields.items()}
        self.scenes[0].set_fields(shown, scale)
        for placed in self.scenes[0].placed:
            placed.look = None
        thinnest = f"thinnest {self.session.figures.length(min(measured))}" if measured else "none met"
        legend.show_scale(
            scale, self.session.figures, (thinnest, "along the normals of", "faces, at mesh nodes"), "Walls"
        )

    def _field(self, mesh: BodyMesh | None, key: str, others: tuple[str, ...]) -> np.ndarray | None:
        if mesh is None:
            return None
        if others == (key,):
            return np.zeros(len(mesh.points), np.float32)
        try:
            data = self.session.store.get_as(key, field_kind(others))
        except KeyError:
            return None
        return np.frombuffer(data, np.float32)

    def probe(self, hit: Hit) -> float | None:
        """Deviation at a hit point, mm, from the corners of the triangle; None without a map there."""
        placed = hit.placed
        scene = next(s for s in self.scenes if placed in s.placed)
        field = scene.fields.get(placed.body.blob)
        if field is None:
            return None
        corners = placed.mesh.triangles[hit.triangle]
        at = placed.inverse[:3, :3] @ hit.point + placed.inverse[:3, 3]
        distances = np.linalg.norm(placed.mesh.points[corners] - at, axis=1)
        weights = 1 / np.maximum(distances, 1e-9)
        return float((field[corners] * weights).sum() / weights.sum())
