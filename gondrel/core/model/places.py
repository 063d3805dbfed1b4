"""Placements taken apart into a rigid one and what scales or mirrors the part before it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gondrel.core.errors import MalformedFile
from gondrel.core.model.product import IDENTITY

__all__ = ["Change", "split_placement"]

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
