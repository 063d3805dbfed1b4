"""Edges of a STEP file that have styles of their own, traced into completed bodies."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from OCP.StepShape import StepShape_EdgeCurve
from OCP.StepVisual import StepVisual_StyledItem
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.shape import edges_of
from gondrel.core.kernel.measure.spots import edge_spots, nearest_spot, spot_on

__all__ = ["StyledEdges", "styled_edges"]


@dataclass(frozen=True, slots=True)
class StyledEdges:
    """The edges of a file that styled items style.

    Args:
        records: ordinals of their records; record_of: the ordinal of the record an edge came from.
    """

    records: frozenset[int]
    record_of: Callable[[TopoDS_Shape], int]

    def of(self, raw: TopoDS_Shape, completed: TopoDS_Shape) -> tuple[tuple[int, int], ...]:
        """Ordinal of each styled edge of a body and its place in the completed one. Call it inside
        kernel_call."""
        if not self.records:
            return ()
        own = {record: edge for edge in edges_of(raw) if (record := self.record_of(edge)) in self.records}
        spots = edge_spots(completed) if own else np.empty((0, 4))
        places = ((record, nearest_spot(spots, np.array(spot_on(edge)))) for record, edge in own.items())
        return tuple((record, place) for record, place in places if place >= 0)


def styled_edges(
    items: Iterable[object], ordinals: Mapping[int, int], record_of: Callable[[TopoDS_Shape], int]
) -> StyledEdges:
    """The edges that styled items style."""
    targets = (item.Item() for item in items if isinstance(item, StepVisual_StyledItem))
    edges = (target for target in targets if isinstance(target, StepShape_EdgeCurve))
    return StyledEdges(frozenset(ordinals.get(id(edge), 0) for edge in edges), record_of)
