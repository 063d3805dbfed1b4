"""The section of a whole model: every body that the planes of a cut meet, cut in its place."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.derive import section_of
from gondrel.core.measuring.placed import BodyInPlace, placed_bodies, scale_of
from gondrel.core.model.body import BodyFacts, BodyKind
from gondrel.core.model.boxes import box_in_place
from gondrel.core.model.cutting import Cut, CutPlane, Vector
from gondrel.core.model.measures import PlacedSection
from gondrel.core.model.product import Placement
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["cut_model"]

_NEAR = 1e-7


def cut_model(
    model: Model, cut: Cut, store: BlobStore, facts: Mapping[str, BodyFacts], *,
    whole: Collection[tuple[str, ...]] = (),
    shifts: Mapping[tuple[str, ...], Vector] = MappingProxyType({}), progress: Progress = SILENT,
) -> tuple[tuple[PlacedSection, ...], tuple[str, ...]]:  # fmt: skip
    """Cut the bodies of a model.

    Args:
        facts: measures of the bodies by hash; whole: paths of what is left uncut.
        shifts: by which bodies are cut away from their places, mm, by path.

    Returns: what the planes leave of each body, and the names of the parts that could not be cut.
    """
    uncut, sections, refused = set(whole), [], []
    bodies = [_shifted(each, shifts) for each in placed_bodies(model) if each.path not in uncut]
    for each in progress.each(bodies, "Cutting"):
        if each.body.kind is BodyKind.POINT or not _meets(cut, each, facts):
            continue
        try:
            sections += _cut_one(each, cut, store)
        except KernelRefused:
            refused.append(each.product.label)
    return tuple(sections), tuple(dict.fromkeys(refused))


def _shifted(each: BodyInPlace, shifts: Mapping[tuple[str, ...], Vector]) -> BodyInPlace:
    shift = shifts.get(each.path)
    if shift is None:
        return each
    matrix = np.asarray(each.placement, float).reshape(4, 4).copy()
    matrix[:3, 3] += shift
    return replace(each, placement=tuple(matrix.ravel().tolist()))


def _meets(cut: Cut, each: BodyInPlace, facts: Mapping[str, BodyFacts]) -> bool:
    if each.body.blob not in facts:
        return True
    low, high = box_in_place(facts[each.body.blob], each.placement)
    for plane in cut.planes:
        reach = float(np.abs(plane.unit) @ (high - low) / 2)
        if abs(float(plane.heights(((low + high) / 2)[None])[0])) <= reach + _NEAR:
            return True
    return False


def _cut_one(each: BodyInPlace, cut: Cut, store: BlobStore) -> list[PlacedSection]:
    scale, made = scale_of(each.placement), []
    for number, plane in enumerate(cut.planes):
        limits = [_exact(limit, each.placement) for limit in cut.limits_of(number)]
        section = section_of(store, each.body.blob, _exact(plane, each.placement), limits)
        if section.key:
            made.append(
                PlacedSection(
                    each.product.id, each.path, each.body.id, number, each.placement, section.key,
                    section.area * scale**2, section.perimeter * scale,
                )
            )  # fmt: skip
    return made


def _exact(plane: CutPlane, placement: Placement) -> CutPlane:
    """A plane in the frame of a body, rid of the last digits, so that equal places share their section."""
    seen = plane.seen_from(placement)
    normal = np.round(seen.unit, 12) + 0.0
    foot = normal * float(
        np.asarray(seen.point) @ normal
    )  # the same point whichever one of the plane was given
    x, y, z = (float(v) for v in np.round(foot, 10) + 0.0)
    a, b, c = (float(v) for v in normal)
    return CutPlane((x, y, z), (a, b, c))
