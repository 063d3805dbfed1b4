"""Placements taken apart into a rigid one and what scales or mirrors the part before it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import numpy as np

from gondrel.core.errors import MalformedFile
from gondrel.core.model.carries import Fated
from gondrel.core.model.product import IDENTITY
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate

__all__ = ["Change", "foresee_places", "split_placement"]

Change = tuple[float, ...]
"""A 3x3 matrix by rows that a part is scaled or mirrored by; empty for none."""

_RIGID = 1e-9


def split_placement(placement: Sequence[float] | np.ndarray) -> tuple[tuple[float, ...], Change]:  # type: ignore[type-arg]
    """A rigid placement, and what scales or mirrors the part before it; empty for nothing.

    Raises:
        MalformedFile: when the matrix scales differently along its axes.
    """
    matrix = np.asarray(placement, float).reshape(4, 4)
    linear = matrix[:3, :3]
    determinant = float(np.linalg.det(linear))
    if abs(determinant) < 1e-12:
        raise MalformedFile("a transform flattens its part")
    scale = abs(determinant) ** (1 / 3)
    if np.abs(linear @ linear.T - scale**2 * np.eye(3)).max() > 1e-6 * scale**2:
        raise MalformedFile("a transform shears its part or scales it unequally")
    before = np.eye(3)
    if abs(scale - 1) > _RIGID:
        before *= scale
    if determinant < 0:
        before[0] *= -1
    if (before == np.eye(3)).all():
        rigid = tuple(matrix.ravel().tolist())
        return (IDENTITY if rigid == IDENTITY else rigid), ()
    turned = matrix.copy()
    turned[:3, :3] = linear @ np.linalg.inv(before)
    return tuple(turned.ravel().tolist()), tuple(before.ravel().tolist())


def foresee_places(model: Model) -> Iterator[Fated]:
    """What becomes of mirrored or scaled components: placed rigidly, they are parts of that shape."""
    changes = {use.id: split_placement(use.placement)[1] for _, use in model.occurrences()}
    as_is = _reached(model, model.roots, changes)
    mirrored = [use.product for _, use in model.occurrences() if changes[use.id]]
    copied = _reached(model, mirrored, {})
    why = "a mirrored or scaled part is made and placed rigidly"
    for parent, use in model.occurrences():
        inside = parent.id not in as_is
        if changes[use.id] or inside:
            yield ("placement", use.id, "place"), (Fate.ALTERED, why)
        if changes[use.id] and use.product in as_is:
            why = "it comes back as a copy, not shared"
            yield ("structure", use.id, "component"), (Fate.ALTERED, why, 1)
        elif use.product in as_is and parent.id in copied:
            yield ("structure", use.id, "component"), (Fate.CARRIED, "", 1)
    for product, body in model.bodies():
        if product.id not in as_is:
            yield ("geometry", body.id, "shape"), (Fate.ALTERED, "it is made mirrored or scaled")


def _reached(model: Model, roots: Iterable[str], changes: dict[str, tuple[float, ...]]) -> set[str]:
    """Products that occur somewhere under others with nothing mirrored or scaled in between."""
    reached: set[str] = set()
    stack = list(roots)
    while stack:
        key = stack.pop()
        if key in reached or key not in model.by_id:
            continue
        reached.add(key)
        stack += [use.product for use in model.product(key).occurrences if not changes.get(use.id)]
    return reached
