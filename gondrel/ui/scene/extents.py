"""Where the instances of a scene stand, in bulk: their boxes along the model's axes and along their own."""

from __future__ import annotations

import numpy as np

from gondrel.core.model.boxes import placed_boxes

__all__ = ["Extents"]

_BITS = np.array([(n >> 2 & 1, n >> 1 & 1, n & 1) for n in range(8)], np.float64)


class Extents:
    """Rows of arrays in the order of the instances; added by mesh, joined when they are asked for."""

    def __init__(self) -> None:
        self._boxes = [np.empty((0, 2, 3))]
        self._corners = [np.empty((0, 8, 3), np.float32)]
        self._mirrored = [np.empty(0, bool)]

    def add(self, matrices: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
        """Take the places (n, 4, 4) of a mesh whose own box goes from low to high, mm.

        Returns: their boxes along the model's axes, (n, 2, 3).
        """
        places = matrices.astype(np.float32)
        turns = places[:, :3, :3].transpose(0, 2, 1)
        own = (_BITS * (high - low) + low).astype(np.float32)
        boxes = placed_boxes(matrices, np.array([[low, high]], float))
        self._boxes.append(boxes)
        self._corners.append(own @ turns + places[:, None, :3, 3])
        self._mirrored.append(np.linalg.det(turns) < 0)
        return boxes

    def keep(self, kept: np.ndarray) -> None:
        """Let go of the instances that are not kept, (n,) bool."""
        self._boxes, self._corners, self._mirrored = (
            [_joined(rows)[kept]] for rows in (self._boxes, self._corners, self._mirrored)
        )

    @property
    def boxes(self) -> np.ndarray:
        """(n, 2, 3) low and high corners of the boxes along the model's axes, mm."""
        return _joined(self._boxes)

    @property
    def corners(self) -> np.ndarray:
        """(n, 8, 3) corners of each body's own box in its place, mm, by the bits of x, y and z."""
        return _joined(self._corners)

    @property
    def mirrored(self) -> np.ndarray:
        """(n,) whether a place turns left into right."""
        return _joined(self._mirrored)


def _joined(rows: list[np.ndarray]) -> np.ndarray:
    if len(rows) > 1:
        rows[:] = [np.concatenate(rows)]
    return rows[0]
