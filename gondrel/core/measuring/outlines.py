"""The outlines of a section on a drawing sheet, part by part, hatched so that touching parts differ."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gondrel.core.kernel.base.shape import located, shape_from_blob
from gondrel.core.kernel.convert.flat_out import flat_curves
from gondrel.core.kernel.measure.section import frame_of
from gondrel.core.model.cutting import Cut
from gondrel.core.model.measures import PlacedSection
from gondrel.core.model.outline import Curve, PartOutline, outline_box, sampled, shifted
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.sheet.hatching import apart_hatches, hatch_for, hatch_lines
from gondrel.core.work import SILENT, Progress

__all__ = ["outlines_of"]

Floats = NDArray[np.float64]

_HATCHES = 60
_PLAIN = "#5A6670"
_GAP = 0.15
"""Between the sections of two planes, as a share of the width of the first."""


def outlines_of(
    model: Model, cut: Cut, sections: Sequence[PlacedSection], store: BlobStore, *,
    progress: Progress = SILENT,
) -> tuple[PartOutline, ...]:  # fmt: skip
    """The outlines of the cut faces of each plane of a cut, exact, planes side by side; seen from the side
    that is taken away. Raises KernelRefused."""
    made: list[PartOutline] = []
    for number, plane in enumerate(cut.planes):
        right, up, normal = frame_of(plane)
        origin = normal * float(np.asarray(plane.point) @ normal)
        by_owner: defaultdict[tuple[tuple[str, ...], str, str], list[Curve]] = defaultdict(list)
        ours = [section for section in sections if section.plane == number]
        for section in progress.each(ours, "Drawing outlines"):
            shape = located(shape_from_blob(store.get(section.key)), section.placement)
            curves = flat_curves(shape, origin, right, up)
            by_owner[section.path, section.body, section.product] += curves
        drawn = _hatched(model, by_owner)
        if made and drawn:
            (left, _), (end, _) = outline_box(tuple(made))
            (start, _), _ = outline_box(tuple(drawn))
            drawn = [shifted(each, end + _GAP * (end - left) - start, 0.0) for each in drawn]
        made += drawn
    return tuple(made)


def _hatched(
    model: Model, by_owner: dict[tuple[tuple[str, ...], str, str], list[Curve]]
) -> list[PartOutline]:
    owners = list(by_owner)
    rims = [_stretches(by_owner[owner]) for owner in owners]
    if not owners:
        return []
    whole = np.concatenate(rims).reshape(-1, 2)
    spacing = max(float((whole.max(axis=0) - whole.min(axis=0)).max()) / _HATCHES, 1e-6)
    products = [model.product(product) for _, _, product in owners]
    base = [hatch_for(p.material.name if p.material is not None else "") for p in products]
    hatches = apart_hatches(base, _touching(rims, spacing / 10))
    outlines = []
    for owner, rim, product, hatch in zip(owners, rims, products, hatches, strict=True):
        body = next(b for b in product.bodies if b.id == owner[1])
        lines = hatch_lines(rim, hatch, spacing).tolist()
        hatching = tuple(((a[0], a[1]), (b[0], b[1])) for a, b in lines)
        colour = body.colour.hex if body.colour is not None else _PLAIN
        outlines.append(PartOutline(product.label, colour, tuple(by_owner[owner]), hatching))
    return outlines


def _stretches(curves: Sequence[Curve]) -> Floats:
    """(n, 2, 2) chords of curves, within a five-hundredth of their size."""
    rough = np.concatenate([sampled(curve, 1e9) for curve in curves])
    chord = max(float(np.ptp(rough, axis=0).max()) / 2000, 1e-6)
    runs = [sampled(curve, chord) for curve in curves]
    return np.concatenate([np.stack([run[:-1], run[1:]], axis=1) for run in runs])


def _touching(rims: Sequence[Floats], within: float) -> dict[int, list[int]]:
    """Which rims come near which, by their boxes."""
    boxes = np.array([(rim.min(axis=(0, 1)), rim.max(axis=(0, 1))) for rim in rims])
    touching = {}
    for place, (low, high) in enumerate(boxes):
        near = (boxes[:, 0] <= high + within) & (low <= boxes[:, 1] + within)
        touching[place] = [n for n in np.flatnonzero(near.all(axis=1)).tolist() if n != place]
    return touching
