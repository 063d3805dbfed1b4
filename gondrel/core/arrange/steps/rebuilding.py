"""The step that changes features of a dumb solid: they are found again, changed, and put on anew."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gondrel.core.arrange.bodywork import edit_body
from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.steps.base import Context, Items, Kind, NotApplicable
from gondrel.core.errors import KernelRefused, UsageError
from gondrel.core.features.changes import change_of, changed_recipe
from gondrel.core.features.find import find_features
from gondrel.core.features.rebuild import recipe_of, remade
from gondrel.core.kernel.base.shape import Shape, edges_of, faces_of
from gondrel.core.kernel.inspect.face_graph import face_graph_of
from gondrel.core.kernel.measure.holes import holes_of
from gondrel.core.kernel.measure.spots import face_spots
from gondrel.core.kernel.modelling.followed import Followed

__all__ = ["KINDS"]

_SAME = 1e-5


@dataclass(frozen=True, slots=True)
class Rebuild:
    """changes: as "2 diameter 10", "3 kind counterbore", "1 move 5,0,0", "4 remove", "5 count 3"; features
    are counted from 1 in the list of all features of the part."""

    changes: tuple[str, ...]

    def run(self, context: Context, items: Items) -> Edit:
        changes = [change_of(text) for text in self.changes]
        if not changes:
            raise UsageError("no change is told")
        product = context.single(items)
        if len(product.bodies) != 1:
            raise NotApplicable(f"{product.label} has {len(product.bodies)} bodies; the step is about one")
        made = edit_body(context.model, context.store, product.bodies[0].id, self._changed)
        context.told += made.lost
        after = sum(facts.volume for facts in made.after)
        what = "; ".join(self.changes)
        return (
            f"Change {product.label}: {what} ({made.before.volume:,.2f} to {after:,.2f} mm\u00b3)",
            made.model,
        )

    def _changed(self, solid: Shape) -> Followed:
        graph = face_graph_of(solid)
        rebuilt, base = recipe_of(solid, graph, find_features(graph, holes_of(solid)))
        if not rebuilt.equal:
            raise KernelRefused(f"the part can't be computed anew: {rebuilt.why}")
        changes = [change_of(text) for text in self.changes]
        return _matched(solid, remade(changed_recipe(rebuilt.recipe, changes), base))


def _matched(before: Shape, after: Shape) -> Followed:
    """A solid computed anew with the faces that are as they were told by their middles and areas."""
    old, new = face_spots(before), face_spots(after)
    sources = []
    left = set(range(len(old)))
    for spot in new:
        off = np.abs(old - spot).max(axis=1)
        place = int(np.argmin(off))
        known = place in left and off[place] < _SAME * max(1.0, abs(float(spot[3])))
        left.discard(place) if known else None
        sources.append(place if known else -1)
    assert len(sources) == len(faces_of(after)) and len(edges_of(after)) > 0
    return Followed(after, tuple(sources), tuple(sorted(left)))


KINDS = (Kind("rebuild", "Features are changed", Rebuild),)
