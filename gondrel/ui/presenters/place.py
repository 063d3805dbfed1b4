"""Where things lie in the whole: what is so far off that the picture would show nothing else."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from gondrel.core.model import BodyFacts, Model
from gondrel.ui.presenters.outcome import far_away
from gondrel.ui.presenters.rows import Chain

__all__ = ["far_rows"]


def far_rows(model: Model, facts: Mapping[str, BodyFacts]) -> list[tuple[str, Chain]]:
    """Name and row of every placed product that lies far off from all the rest."""
    centres: dict[str, tuple[float, float, float]] = {}
    rows: dict[str, tuple[str, Chain]] = {}
    for number, place in enumerate(model.walk()):
        product = model.by_id.get(place.product)
        boxes = [facts[b.blob].bbox for b in product.bodies if b.blob in facts] if product else []
        if product is None or not boxes or product.is_reference:
            continue
        middle = np.mean([[(b[i] + b[i + 3]) / 2 for i in range(3)] for b in boxes], axis=0)
        matrix = np.asarray(place.placement).reshape(4, 4)
        x, y, z = (float(v) for v in matrix[:3, :3] @ middle + matrix[:3, 3])
        chain: Chain = tuple(frozenset({step}) for step in place.path)
        centres[str(number)] = (x, y, z)
        rows[str(number)] = (product.label, chain or (frozenset({f"product:{product.id}"}),))
    return [rows[key] for key in far_away(centres)]
