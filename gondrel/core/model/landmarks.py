"""Points that a body carries with it wherever it is moved, each with what is told it by."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Landmarks"]


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
        """The landmarks as bytes."""
        stream = io.BytesIO()
        np.savez(stream, points=self.points, kinds=self.kinds, sizes=self.sizes, whole=np.array(self.whole))
        return stream.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Landmarks:
        """The landmarks again. Raises ValueError when the bytes hold none."""
        with np.load(io.BytesIO(data)) as held:
            return cls(held["points"], held["kinds"], held["sizes"], bool(held["whole"]))
