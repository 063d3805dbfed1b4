"""Where edges of a boundary are in the body that was made of it."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelError
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.convert.boundary_in import BoundaryEdges
from gondrel.core.kernel.measure.spots import edge_spots, nearest_spot, spot_on
from gondrel.core.model.boundary import Boundary

__all__ = ["edge_places"]


def edge_places(boundary: Boundary, made: TopoDS_Shape, numbers: Iterable[int]) -> dict[int, int]:
    """Places, in the order of edges_of, of some edges of a boundary; without those that were divided.

    Raises:
        KernelRefused: when the kernel fails over the body.
    """
    spots, edges = edge_spots(made), BoundaryEdges(boundary)
    places: dict[int, int] = {}
    for number in numbers:
        try:
            with kernel_call("looking where an edge lies"):
                place = nearest_spot(spots, np.array(spot_on(edges.edge(number))))
        except KernelError:
            continue
        if place >= 0:
            places[number] = place
    return places
