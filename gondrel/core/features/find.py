"""All features of a solid, each face with the feature that explains it best."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from gondrel.core.features.blends import find_chamfers, find_fillets
from gondrel.core.features.holes import find_holes
from gondrel.core.features.marks import find_marks
from gondrel.core.features.patterns import find_patterns
from gondrel.core.features.raised import find_bosses, find_pockets, find_revolution, find_slots
from gondrel.core.features.teeth import find_teeth
from gondrel.core.features.threads import find_threads
from gondrel.core.features.walls import find_ribs, find_shell
from gondrel.core.model.face_graph import FaceGraph
from gondrel.core.model.features import KINDS, Feature
from gondrel.core.model.measures import RoundHole

__all__ = ["find_features"]


def find_features(
    graph: FaceGraph, round_holes: Sequence[RoundHole], kinds: Collection[str] = KINDS
) -> list[Feature]:
    """The features of some kinds of a solid; patterns name their members by their places in the list.

    What is found first keeps its faces: holes, a shell, teeth, slots, fillets, chamfers, ribs, engravings,
    pockets, bosses. Threads only name the faces of their holes.
    """
    features = find_holes(graph, round_holes)
    shell = find_shell(graph, _faces(features))
    features += [shell] if shell is not None else []
    taken = _faces(features)
    axes = [(f.at, f.way) for f in features if f.at is not None and f.way is not None]
    teeth = find_teeth(graph, taken, axes) if "pattern" in kinds else []
    taken |= _faces(teeth)
    for find in (find_slots, find_fillets, find_chamfers, find_ribs, find_marks, find_pockets):
        features += find(graph, taken)
        taken |= _faces(features)
    revolution = find_revolution(graph, taken) if shell is None else None
    if revolution is not None:
        features.append(revolution)
    else:
        features += find_bosses(graph, taken)
    kept = [feature for feature in features if feature.kind in kinds]
    if "thread" in kinds:
        kept += find_threads(features, graph.helices)
    return kept + (find_patterns(kept) + teeth if "pattern" in kinds else [])


def _faces(features: Sequence[Feature]) -> set[int]:
    return {face for feature in features for face in feature.faces}
