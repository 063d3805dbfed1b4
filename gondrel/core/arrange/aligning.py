"""The motion that brings a face of one component to a face of another."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import UsageError
from gondrel.core.model.product import Placement

__all__ = ["WAYS", "Frame", "alignment"]

WAYS = ("face", "axis", "frame")

Frame = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]
"""Origin, mm, and the directions along and across, of unit length."""


def alignment(mine: Frame, to: Frame, way: str, *, flip: bool = False, gap: float = 0.0) -> Placement:
    """The motion, in the frame in which both are told.

    Args:
        way: "face": the normals look at each other and the planes coincide, nothing moves sideways;
            "axis": the axes coincide, nothing moves along them; "frame": origin, along and across coincide.
        flip: turned the other way about; gap: mm, from the other along its direction.

    Raises:
        UsageError: for another way.
    """
    if way not in WAYS:
        raise UsageError(f"there is no way to align called {way!r}", hint=", ".join(WAYS))
    origin, along, across = mine
    there, their_along, their_across = to
    wanted = -their_along if way == "face" else their_along
    if flip:
        wanted = -wanted
    if way == "axis" and not flip and along @ wanted < 0:
        wanted = -wanted  # an axis has no sense: the shorter turn is taken
    if way == "frame":
        turn = _basis(wanted, their_across) @ _basis(along, across).T
    else:
        turn = _shortest(along, wanted)
    shift = there - origin
    if way == "face":
        shift = (shift @ their_along) * their_along
    elif way == "axis":
        shift = shift - (shift @ their_along) * their_along
    matrix = np.eye(4)
    matrix[:3, :3] = turn
    matrix[:3, 3] = origin + shift + gap * their_along - turn @ origin
    return tuple(matrix.ravel().tolist())


def _basis(along: Any, across: Any) -> NDArray[np.float64]:
    x = across - (across @ along) * along
    x = x / np.linalg.norm(x)
    return np.column_stack([x, np.cross(along, x), along])


def _shortest(one: Any, other: Any) -> NDArray[np.float64]:
    """The least rotation from one direction to another (Rodrigues' formula)."""
    cross, cosine = np.cross(one, other), float(one @ other)
    if cosine < -1 + 1e-12:
        axis = np.cross(one, np.eye(3)[int(np.argmin(np.abs(one)))])
        axis /= np.linalg.norm(axis)
        return np.asarray(2 * np.outer(axis, axis) - np.eye(3))
    k = np.array([[0, -cross[2], cross[1]], [cross[2], 0, -cross[0]], [-cross[1], cross[0], 0]])
    return np.asarray(np.eye(3) + k + k @ k / (1 + cosine))
