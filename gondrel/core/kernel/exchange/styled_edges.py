"""Edges of a STEP file that have styles of their own, traced into completed bodies."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

import numpy as np
from OCP.StepShape import StepShape_EdgeCurve
from OCP.StepVisual import StepVisual_StyledItem
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.shape import edges_of
from gondrel.core.kernel.measure.spots import edge_spots, nearest_spot, spot_on

__all__ = ["styled_edges", "styled_edges_of"]


def styled_edges_of(
    raw: TopoDS_Shape,
    completed: TopoDS_Shape,
    records: frozenset[int],
    record_of: Callable[[TopoDS_Shape], int],
) -> tuple[tuple[int, int], ...]:
    """Ordinal of each styled edge of a body and its place in the completed one. Call it inside kernel_call.

    Args:
        records: ordinals of the edges that are styled; record_of: the ordinal of the record an edge came
            from.
    """
    if not records:
        return ()
    own = {record: edge for edge in edges_of(raw) if (record := record_of(edge)) in records}
    spots = edge_spots(completed) if own else np.empty((0, 4))
    places = ((record, nearest_spot(spots, np.array(spot_on(edge)))) for record, edge in own.items())
    return tuple((record, place) for record, place in places if place >= 0)


def styled_edges(items: Iterable[object], ordinals: Mapping[int, int]) -> frozenset[int]:
    """Ordinals of the edges that styled items style."""
    targets = (item.Item() for item in items if isinstance(item, StepVisual_StyledItem))
    edges = (target for target in targets if isinstance(target, StepShape_EdgeCurve))
    return frozenset(ordinals.get(id(edge), 0) for edge in edges)
