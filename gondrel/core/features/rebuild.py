"""A part recipe of a dumb solid: its features taken off one by one, each tried by putting it on again."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace

import numpy as np

from gondrel.core.errors import KernelRefused
from gondrel.core.features.base_body import base_of
from gondrel.core.kernel.base.shape import Shape, faces_of
from gondrel.core.kernel.convert.flat_out import flat_curves
from gondrel.core.kernel.measure.deviation import measure_deviation
from gondrel.core.kernel.measure.flat_faces import face_frame
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling.edits import united, without, without_faces
from gondrel.core.kernel.modelling.followed import Followed
from gondrel.core.kernel.modelling.part_steps import new_edges, put_on, tool_of
from gondrel.core.model.face_graph import FaceGraph
from gondrel.core.model.features import Feature
from gondrel.core.model.geometry import vector_of
from gondrel.core.model.outline import Arc, FlatLine
from gondrel.core.model.part_recipe import PartPattern, PartRecipe, PartStep, Rebuilt
from gondrel.core.model.profile import Profile
from gondrel.core.sheet.regions import find_regions
from gondrel.core.work import SILENT, Progress

__all__ = ["recipe_of", "remade", "unlike"]

_ORDER = ("fillet", "chamfer", "hole", "counterbore", "countersink", "slot", "pocket", "boss")
"""What is taken off first, and so is put on last."""
_OF_EDGES = ("fillet", "chamfer")
_ALIKE = 1e-7
_EQUAL_VOLUME, _EQUAL_PLACE = 1e-6, 1e-6


def recipe_of(
    solid: Shape, graph: FaceGraph, features: Sequence[Feature], *, progress: Progress = SILENT
) -> tuple[Rebuilt, Shape]:
    """The recipe of a solid with its proof, and the body that its steps are put on.

    A feature that can't be taken off, or does not come out the same when it is put on again, stays in the
    base.

    Raises:
        KernelRefused: when the solid can't be measured.
    """
    peeling = _Peeling(solid, graph)
    wanted = [(n, f) for n, f in enumerate(features, 1) if f.kind in _ORDER]
    wanted.sort(key=lambda each: _ORDER.index(each[1].kind))
    for number, feature in progress.part(0.0, 0.7).each(wanted, "Taking features off"):
        peeling.take_off(number, feature)
    base, body = base_of(peeling.shape)
    steps = tuple(reversed(peeling.steps))
    there = {step.number for step in steps}
    patterns = tuple(
        pattern
        for number, feature in enumerate(features, 1)
        if (pattern := _pattern(number, feature, features)) is not None and set(pattern.members) <= there
    )
    recipe = PartRecipe(base, steps, patterns, tuple(peeling.kept))
    progress.at(0.8, "Proving the part computed anew")
    return _proved(solid, recipe, body), body


def remade(recipe: PartRecipe, body: Shape) -> Shape:
    """The part of a recipe, computed anew on its base. Raises KernelRefused, naming the feature."""
    for step in recipe.steps:
        try:
            body = put_on(body, step, _profile(step))
        except KernelRefused as error:
            raise KernelRefused(
                f"feature {step.number}, {step.kind}: {error.message}", hint=error.hint
            ) from None
    return body


def _profile(step: PartStep) -> Profile | None:
    return find_regions(step.outline, 1e-6) if step.outline else None


def unlike(one: Shape, other: Shape, within: float = _ALIKE) -> str:
    """How two solids differ by volume or area, in words; empty where alike. Raises KernelRefused."""
    facts, again = measure(one), measure(other)
    for name, before, after in (
        ("volume", facts.volume, again.volume),
        ("area", facts.area, again.area),
    ):
        if abs(before - after) > within * abs(before):
            return f"its {name} would be {after:.9g} instead of {before:.9g}"
    return ""


def _proved(solid: Shape, recipe: PartRecipe, body: Shape) -> Rebuilt:
    try:
        again = remade(recipe, body)
        before, after = measure(solid).volume, measure(again).volume
        error = abs(after - before) / before
        deviation = measure_deviation(solid, again).value
    except KernelRefused as refused:
        return Rebuilt(recipe, False, None, None, refused.message)
    equal = error <= _EQUAL_VOLUME and deviation <= _EQUAL_PLACE
    why = "" if equal else f"computed anew it lies {deviation:.3g} mm off, its volume by {error:.3g}"
    return Rebuilt(recipe, equal, error, deviation, why)


class _Peeling:
    """A solid that loses one feature after the other."""

    def __init__(self, solid: Shape, graph: FaceGraph) -> None:
        self.shape, self.graph = solid, graph
        self.steps: list[PartStep] = []
        self.kept: list[tuple[int, str]] = []
        self._now = {index: [index] for index in range(len(graph.faces))}

    def take_off(self, number: int, feature: Feature) -> None:
        """Take a feature off, or say why it stays."""
        places = sorted({now for face in feature.faces for now in self._now[face]})
        try:
            if not places:
                raise KernelRefused("its faces are not there any more")
            if "radius2" in feature.sizes:
                raise KernelRefused("a variable fillet is not made anew")
            if feature.kind == "pocket" and "marks" in feature.sizes:
                raise KernelRefused("an engraving is not made anew")
            if feature.kind in _OF_EDGES:
                made = without_faces(self.shape, places)
                edges = new_edges(self.shape, made.shape)
                step = PartStep(number, feature.kind, dict(feature.sizes), edges=edges)
                if differs := unlike(self.shape, put_on(made.shape, step, None)):
                    step = self._other_way(step, made.shape, differs)
            else:
                step = self._step(number, feature)
                made = self._without(places, step)
        except KernelRefused as error:
            self.kept.append((number, error.message))
            return
        self.steps.append(step)
        self.shape = made.shape
        for face, places_before in self._now.items():
            self._now[face] = [n for n, source in enumerate(made.sources) if source in places_before]

    def _without(self, places: Sequence[int], step: PartStep) -> Followed:
        """The solid from which a step makes what it is now: the neighbours of some faces drawn together, or
        a hole filled or a boss cut where they do not meet, or close more than the feature."""
        profile = _profile(step)
        with suppress(KernelRefused):
            made = without_faces(self.shape, places)
            if not unlike(self.shape, put_on(made.shape, step, profile)):
                return made
        tool = tool_of(step, profile)
        made = without(self.shape, [tool]) if step.adds else united(self.shape, [tool])
        if differs := unlike(self.shape, put_on(made.shape, step, profile)):
            raise KernelRefused(f"put on again {differs}")
        return made

    def _other_way(self, step: PartStep, body: Shape, differs: str) -> PartStep:
        """A bevel of two widths the other way round."""
        if step.kind == "chamfer":
            for side in (0, 1):
                turned = replace(step, sizes={**step.sizes, "side": float(side)})
                again = put_on(body, turned, None)
                if not unlike(self.shape, again):
                    return turned
        raise KernelRefused(f"put on again {differs}")

    def _step(self, number: int, feature: Feature) -> PartStep:
        plain = PartStep(number, feature.kind, dict(feature.sizes))
        assert feature.at is not None and feature.way is not None
        if feature.turned:
            return replace(plain, at=feature.at, way=feature.way, turned=feature.turned)
        if feature.kind == "boss":
            height, radius = feature.sizes["height"], feature.sizes["diameter"] / 2
            turned = ((0.0, radius), (height, radius))
            return replace(plain, at=feature.at, way=feature.way, turned=turned, adds=True)
        return self._slot(plain, feature) if feature.kind == "slot" else self._pocket(plain, feature)

    def _slot(self, plain: PartStep, feature: Feature) -> PartStep:
        ends = [self.graph.faces[f] for f in feature.faces]
        one, other = [f for f in ends if f.kind == "cylinder" and f.is_hollow][:2]
        way = np.array(one.way)
        apart = np.subtract(other.at, one.at)
        apart = apart - (apart @ way) * way
        length = float(np.linalg.norm(apart))
        at = np.array(one.at) + one.low * way
        r, half = one.radius, np.pi / 2
        outline = (
            FlatLine((0.0, -r), (length, -r)), Arc((length, 0.0), r, -half, half),
            FlatLine((length, r), (0.0, r)), Arc((0.0, 0.0), r, half, 3 * half),
        )  # fmt: skip
        return replace(plain, at=vector_of(at), way=vector_of(way), right=vector_of(apart / length),
                       outline=outline, depth=one.high - one.low)  # fmt: skip

    def _pocket(self, plain: PartStep, feature: Feature) -> PartStep:
        (place,) = self._now[feature.faces[0]] or (-1,)
        face = faces_of(self.shape)[place]
        frame = face_frame(face)
        if frame is None:
            raise KernelRefused("its floor is not flat any more")
        origin, right, up = frame
        curves = tuple(flat_curves(face, origin, right, up))
        way = vector_of(np.cross(right, up))
        return replace(plain, at=vector_of(origin), way=way, right=vector_of(right), outline=curves,
                       depth=feature.sizes["depth"])  # fmt: skip


def _pattern(number: int, feature: Feature, features: Sequence[Feature]) -> PartPattern | None:
    """A row or a circle as one that can be changed; a grid is not."""
    if feature.kind != "pattern" or feature.at is None or feature.way is None:
        return None
    members = [place + 1 for place in feature.members]
    places = np.array([features[n - 1].at for n in members])
    if "pitch_diameter" in feature.sizes:
        centre, axis = np.array(feature.at), np.array(feature.way)
        start = places[0] - centre
        start = start - (start @ axis) * axis
        side = np.cross(axis, start)
        turns = [float(np.arctan2((p - centre) @ side, (p - centre) @ start) % (2 * np.pi)) for p in places]
        turns = [0.0 if turn > 2 * np.pi - 1e-6 else turn for turn in turns]
        members = [members[n] for n in np.argsort(turns)]
        return PartPattern(number, "circle", tuple(members), feature.at, feature.way, dict(feature.sizes))
    if "rows" in feature.sizes or "pitch" not in feature.sizes:
        return None
    far = places[int(np.argmax(np.linalg.norm(places - places[0], axis=1)))] - places[0]
    along = far / np.linalg.norm(far)
    members = [members[n] for n in np.argsort(places @ along)]
    first = features[members[0] - 1].at
    assert first is not None
    return PartPattern(number, "row", tuple(members), first, vector_of(along), dict(feature.sizes))
