"""Looks of two bodies compared face by face and edge by edge, known by where they lie and their size."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.carriage.items import Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.model.body import Body, Rgba
from gondrel.core.model.verdicts import Verdict
from gondrel.core.work.late import late

__all__ = ["FaceSpots", "Spots", "compare_edges", "compare_face_colours", "compare_faces", "same_look"]

_spatial = late("scipy.spatial")

FaceSpots = NDArray[np.float64]
"""(faces, 4): the centroid of each face, mm, and its area, mm2, in the order of the body; of edges
the centroid, mm, and the length, mm."""

Spots = Callable[[str], FaceSpots]
"""The spots of a body by its hash."""

_NEAR, _ALIKE = 1e-3, 1e-3
"""How far apart, mm, the centroids of one face may lie, and by which share its area may differ."""

_NOWHERE = 1e12
_SAME_SHARE = 1e-3
_SAME_RED = 0.5 / 255


@dataclass(frozen=True, slots=True)
class _Side:
    own: Rgba | None
    faces: Mapping[int, Rgba]

    def at(self, face: int) -> Rgba | None:
        """The colour of a face, its own or the body's."""
        return self.faces.get(face, self.own)


def same_look(one: Rgba | None, other: Rgba | None) -> bool:
    """Whether two colours are the same to eight bits, and as see-through to a thousandth."""
    if one is None or other is None:
        return one is other
    pairs = ((one.red, other.red), (one.green, other.green), (one.blue, other.blue))
    return all(abs(a - b) <= _SAME_RED for a, b in pairs) and abs(one.alpha - other.alpha) <= _SAME_SHARE


def compare_face_colours(
    item: Item, ours: Body, theirs: Body, spots: Spots | None, ids: tuple[str, ...]
) -> Compared:
    """The verdict on the colours of single faces.

    Args:
        spots: of bodies by their hashes; without, faces of other bodies are compared by their order only.
    """
    before = _Side(ours.colour, dict(ours.face_colours))
    after = _Side(theirs.colour, dict(theirs.face_colours))
    pairs = _pairs(ours.blob, theirs.blob, before.faces, after.faces, spots)
    if pairs is None:
        return _by_area(item, ours, theirs, before, after, spots, ids)
    changed = [a for a, b in pairs if not same_look(before.at(a), after.at(b))]
    own = sum(a in before.faces for a, _ in pairs)
    lost = [a for a in changed if a in before.faces]
    kept = own - len(lost)
    # A colour of the whole body that changed is told of the body, not of all its faces again.
    gained = [] if not same_look(before.own, after.own) else [a for a in changed if a not in before.faces]
    if not lost and not gained:
        return Compared(item, Verdict.CARRIED, f"{kept} faces", "", kept, ids)
    verdict = Verdict.ALTERED if after.faces or kept else Verdict.LOST
    parts = [
        f"{n} faces {word}" for n, word in ((len(lost), "differ"), (len(gained), "gained a colour")) if n
    ]
    return Compared(item, verdict, f"{kept} faces", ", ".join(parts), kept, ids)


def compare_faces(
    item: Item,
    blobs: tuple[str, str],
    before: Mapping[int, str],
    after: Mapping[int, str],
    spots: Spots | None,
    ids: tuple[str, ...],
) -> Compared:
    """The verdict on texts that single faces have, such as names.

    Args:
        blobs: hashes of the body sent and returned; before, after: the text of each face that has one.
    """
    pairs = _pairs(*blobs, before, after, spots)
    if not after:
        return Compared(item, Verdict.LOST, "", "nothing came back", 0, ids)
    if pairs is None:  # split or joined: only the texts as such can be held against each other
        same = sorted(set(before.values())) == sorted(set(after.values()))
        detail = "" if same else "faces were split or joined, and the texts differ"
        return Compared(
            item,
            Verdict.CARRIED if same else Verdict.ALTERED,
            f"{len(after)} faces",
            detail,
            len(after),
            ids,
        )
    changed = [a for a, b in pairs if before.get(a, "") != after.get(b, "")]
    kept = len(before) - sum(a in before for a in changed)
    detail = f"{len(changed)} faces differ" if changed else ""
    return Compared(
        item, Verdict.ALTERED if changed else Verdict.CARRIED, f"{kept} faces", detail, kept, ids
    )


def compare_edges(
    item: Item,
    blobs: tuple[str, str],
    before: Mapping[int, str],
    after: Mapping[int, str],
    spots: Spots | None,
    ids: tuple[str, ...],
) -> Compared:
    """The verdict on texts that single edges have; edges without one may have been divided or left out.

    Args: as those of compare_faces.
    """
    if not after:
        return Compared(item, Verdict.LOST, "", "nothing came back", 0, ids)
    if blobs[0] == blobs[1] or spots is None:
        other: Mapping[int, int | None] = {edge: edge for edge in before}
    else:
        other = _counterparts(spots(blobs[0]), spots(blobs[1]), before)
    there = {edge: at for edge in before if (at := other.get(edge)) is not None}
    kept = [edge for edge, at in there.items() if after.get(at, "") == before[edge]]
    gained = set(after) - set(there.values())
    counts = (len(before) - len(kept), "differ"), (len(gained), "gained a colour")
    parts = [f"{count} edges {word}" for count, word in counts if count]
    verdict = Verdict.ALTERED if parts else Verdict.CARRIED
    return Compared(item, verdict, f"{len(kept)} edges", ", ".join(parts), len(kept), ids)


def _counterparts(one: FaceSpots, other: FaceSpots, wanted: Iterable[int]) -> dict[int, int | None]:
    """For some spots the nearest of the same size among others, None where there is none."""
    if not len(other):
        return {}
    tree = _spatial.cKDTree(np.nan_to_num(other[:, :3], nan=_NOWHERE))
    counterparts: dict[int, int | None] = {}
    for place in wanted:
        spot = one[place]
        near = [n for n in tree.query_ball_point(spot[:3], _NEAR)
                if abs(other[n, 3] - spot[3]) <= _ALIKE * max(spot[3], 1e-12)]  # fmt: skip
        counterparts[place] = min(
            near, key=lambda n: float(np.linalg.norm(other[n, :3] - spot[:3])), default=None
        )
    return counterparts


def _pairs(
    ours: str,
    theirs: str,
    before: Mapping[int, object],
    after: Mapping[int, object],
    spots: Spots | None,
) -> list[tuple[int, int]] | None:
    """Which face is which; None when they are not the same faces."""
    if ours == theirs or spots is None:
        count = 1 + max((*before, *after), default=-1)
        return [(face, face) for face in range(count)]
    one, other = spots(ours), spots(theirs)
    if len(one) != len(other) or not len(one):
        return None
    pairs: list[tuple[int, int]] = []
    taken: set[int] = set()
    tree = _spatial.cKDTree(other[:, :3])
    for face, spot in enumerate(one):
        near = tree.query_ball_point(spot[:3], _NEAR)
        fits = [
            n for n in near if n not in taken and abs(other[n, 3] - spot[3]) <= _ALIKE * max(spot[3], 1e-12)
        ]
        if not fits:
            return None
        best = min(fits, key=lambda n: (float(np.linalg.norm(other[n, :3] - spot[:3])), n != face))
        taken.add(best)
        pairs.append((face, best))
    return pairs


def _by_area(
    item: Item,
    ours: Body,
    theirs: Body,
    before: _Side,
    after: _Side,
    spots: Spots | None,
    ids: tuple[str, ...],
) -> Compared:
    """Colours of faces that were split or joined: each must cover the same area."""
    assert spots is not None
    sums: list[Counter[str]] = []
    for side, body in ((before, ours), (after, theirs)):
        areas: Counter[str] = Counter()
        for face, spot in enumerate(spots(body.blob)):
            colour = side.at(face)
            areas[colour.label if colour is not None else ""] += spot[3]
        sums.append(areas)
    whole = max(sum(sums[0].values()), 1e-12)
    off = [label for label in {*sums[0], *sums[1]} if abs(sums[0][label] - sums[1][label]) > 1e-3 * whole]
    if not off:
        detail = "coloured faces were split or joined"
        return Compared(item, Verdict.CARRIED, f"{len(after.faces)} faces", detail, item.weight, ids)
    verdict = Verdict.ALTERED if after.faces else Verdict.LOST
    detail = "the areas in a colour differ"
    return Compared(item, verdict, f"{len(after.faces)} faces", detail, len(after.faces), ids)
