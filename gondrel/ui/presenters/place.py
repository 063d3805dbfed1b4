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
    numbers = {key: model.places_of.get(key, []) for key in middles}
    if not any(numbers.values()):
        return []
    at = np.concatenate([np.array(each, int) for each in numbers.values()])
    own = np.repeat(np.array(list(middles.values())), [len(each) for each in numbers.values()], axis=0)
    order = np.argsort(at)
    centres = placed_points(model.matrices[at[order]], own[order])
    return [_row(model, model.place(int(at[order[n]]))) for n in far_away(centres)]


def _row(model: Model, place: Placed) -> tuple[str, Chain]:
    chain: Chain = tuple(frozenset({step}) for step in place.path)
    return model.product(place.product).label, chain or (frozenset({f"product:{place.product}"}),)
