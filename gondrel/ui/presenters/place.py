"""Where things lie in the whole: what is so far off that the picture would show nothing else."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from gondrel.core.model import BodyFacts, Model
from gondrel.core.model.boxes import placed_points
from gondrel.core.model.snapshot import Placed
from gondrel.ui.presenters.outcome import far_away
from gondrel.ui.presenters.rows import Chain

__all__ = ["far_rows"]


def far_rows(model: Model, facts: Mapping[str, BodyFacts]) -> list[tuple[str, Chain]]:
    """Name and row of every placed product that lies far off from all the rest."""
    middles: dict[str, np.ndarray] = {}
    for product in model.products:
        boxes = [facts[b.blob].bbox for b in product.bodies if b.blob in facts]
        if boxes and not product.is_reference:
            middles[product.id] = np.array(boxes).reshape(-1, 2, 3).mean(axis=(0, 1))
    places = [place for place in model.walk() if place.product in middles] if middles else []
    if not places:
        return []
    matrices = np.array([place.placement for place in places]).reshape(-1, 4, 4)
    centres = placed_points(matrices, np.array([middles[place.product] for place in places]))
    return [_row(model, places[n]) for n in far_away(centres)]


def _row(model: Model, place: Placed) -> tuple[str, Chain]:
    chain: Chain = tuple(frozenset({step}) for step in place.path)
    return model.product(place.product).label, chain or (frozenset({f"product:{place.product}"}),)
