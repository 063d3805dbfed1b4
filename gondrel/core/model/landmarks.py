"""Points that a body carries with it wherever it is moved, each with what is told it by."""

from __future__ import annotations

from dataclasses import dataclass
from struct import Struct

import numpy as np
from numpy.typing import NDArray

__all__ = ["Landmarks"]

_HEAD = Struct("<q?")


@dataclass(frozen=True, slots=True, eq=False)
class Landmarks:
    """Points of a body that do not depend on where its seams run or its curves begin.

    Args:
        points: (n, 3) mm, in the body's frame.
        kinds: (n,) what each is a point of: kind of face or edge, and which of its points.
        sizes: (n, 2) area or length of what it is a point of, mm2 or mm, and its radius or angle, 0 where
            it has none. Points of one kind and size can stand for one another.
        whole: whether every face and edge gave its points.
    """

    points: NDArray[np.float64]
    kinds: NDArray[np.int32]
    sizes: NDArray[np.float64]
    whole: bool = True

    def __len__(self) -> int:
        return len(self.points)

    def to_bytes(self) -> bytes:
        """The landmarks as bytes: how many, whether whole, then each column."""
        head = _HEAD.pack(len(self), self.whole)
        columns = (self.points.astype("<f8"), self.kinds.astype("<i4"), self.sizes.astype("<f8"))
        return head + b"".join(column.tobytes() for column in columns)

    @classmethod
    def from_bytes(cls, data: bytes) -> Landmarks:
        """The landmarks again. Raises ValueError when the bytes hold none."""
        if len(data) < _HEAD.size:
            raise ValueError("these bytes hold no landmarks")
        count, whole = _HEAD.unpack_from(data)
        places = [_HEAD.size, _HEAD.size + 24 * count, _HEAD.size + 28 * count]
        points = np.frombuffer(data, "<f8", 3 * count, places[0]).reshape(-1, 3)
        kinds = np.frombuffer(data, "<i4", count, places[1])
        sizes = np.frombuffer(data, "<f8", 2 * count, places[2]).reshape(-1, 2)
        return cls(points, kinds, sizes, whole)
