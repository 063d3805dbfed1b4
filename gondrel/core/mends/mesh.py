"""Mending a mesh so that it bounds a solid: turning facets alike, and closing holes."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.kernel.mesh.polygon import triangles_of_polygon
from gondrel.core.model.facets import Facets, MeshFlaw

__all__ = ["MendedMesh", "mend_mesh"]


@dataclass(frozen=True, slots=True)
class MendedMesh:
    """A mended mesh, what was done to it in words, and what is still wrong."""

    facets: Facets
    done: tuple[str, ...]
    left: tuple[MeshFlaw, ...]


def mend_mesh(mesh: Facets) -> MendedMesh:
    """Drop facets said twice, turn facets alike, close holes, and turn skins right side out.

    Holes are closed with flat triangles between their corners; nothing that is there is moved.
    """
    done: list[str] = []
    once = _once(mesh)
    if len(once.triangles) < len(mesh.triangles):
        done.append(f"{len(mesh.triangles) - len(once.triangles)} facets said twice were dropped")
    turned, count = _alike(once)
    if count:
        done.append(f"{count} facets were turned round")
    closed, holes, added = _closed(turned)
    if holes:
        done.append(f"{holes} holes were closed with {added} facets")
    out, skins = _right_side_out(closed)
    if skins:
        done.append(f"{skins} skins were turned right side out")
    return MendedMesh(out, tuple(done), tuple(out.flaws()))


def _once(mesh: Facets) -> Facets:
    """The mesh without facets of the same three corners."""
    _, first = np.unique(np.sort(mesh.triangles, axis=1), axis=0, return_index=True)
    kept = np.zeros(len(mesh.triangles), bool)
    kept[first] = True
    return mesh.only(kept) if not kept.all() else mesh


def _alike(mesh: Facets) -> tuple[Facets, int]:
    """The mesh with all facets of a piece turned as most of them are."""
    pairs, which, direction = mesh.edges()
    uses = np.bincount(which, minlength=len(pairs))
    order = np.argsort(which, kind="stable")
    firsts = np.concatenate([[0], np.cumsum(uses)[:-1]])[uses == 2]
    one, other = order[firsts], order[firsts + 1]
    against = direction[one] == direction[other]
    near: list[list[tuple[int, bool]]] = [[] for _ in mesh.triangles]
    for a, b, flip in zip((one // 3).tolist(), (other // 3).tolist(), against.tolist(), strict=True):
        near[a].append((b, flip))
        near[b].append((a, flip))
    flips = np.zeros(len(mesh.triangles), bool)
    seen = np.zeros(len(mesh.triangles), bool)
    for start in range(len(mesh.triangles)):
        if seen[start]:
            continue
        members, line = [start], deque([start])
        seen[start] = True
        while line:
            at = line.popleft()
            for step, flip in near[at]:
                if not seen[step]:
                    seen[step] = True
                    flips[step] = flips[at] != flip
                    members.append(step)
                    line.append(step)
        if 2 * int(flips[members].sum()) > len(members):
            flips[members] = ~flips[members]
    return _turned(mesh, flips), int(flips.sum())


def _turned(mesh: Facets, flips: NDArray[np.bool_]) -> Facets:
    triangles = mesh.triangles.copy()
    triangles[flips] = triangles[flips][:, ::-1]
    return Facets(mesh.points, triangles, mesh.groups)


def _closed(mesh: Facets) -> tuple[Facets, int, int]:
    """The mesh with its holes closed, how many there were, and how many facets that took."""
    pairs, which, _ = mesh.edges()
    uses = np.bincount(which, minlength=len(pairs))
    directed = np.stack([mesh.triangles, np.roll(mesh.triangles, -1, axis=1)], axis=2).reshape(-1, 2)
    onward: dict[int, list[int]] = {}
    for a, b in directed[uses[which] == 1].tolist():
        onward.setdefault(b, []).append(a)  # a hole runs against the facets around it
    added: list[tuple[int, int, int]] = []
    holes = 0
    while onward:
        first = next(iter(onward))
        loop, at = [], first
        while at in onward:
            loop.append(at)
            ways = onward[at]
            step = ways.pop()
            if not ways:
                del onward[at]
            at = step
            if at == first:
                break
        if at == first and len(loop) >= 3:
            holes += 1
            added += [(loop[a], loop[b], loop[c]) for a, b, c in triangles_of_polygon(mesh.points[loop])]
    if not added:
        return mesh, 0, 0
    triangles = np.concatenate([mesh.triangles, np.array(added, np.int32)])
    groups = np.concatenate([mesh.groups, np.full(len(added), mesh.groups.max() + 1, np.int32)])
    return Facets(mesh.points, triangles, groups), holes, len(added)


def _right_side_out(mesh: Facets) -> tuple[Facets, int]:
    """The mesh with its outermost skins turned right side out; cavities stay as they are."""
    label = mesh.pieces()
    flips = np.zeros(len(mesh.triangles), bool)
    turned = 0
    pieces = {kind: mesh.only(label == kind) for kind in np.unique(label)}
    boxes = {k: (p.points.min(axis=0), p.points.max(axis=0)) for k, p in pieces.items()}
    for kind, piece in pieces.items():
        low, high = boxes[kind]
        is_inside = any(
            k != kind and (boxes[k][0] <= low).all() and (boxes[k][1] >= high).all() for k in pieces
        )
        if (
            not is_inside
            and piece.volume < 0
            and not [f for f in piece.flaws() if "inside out" not in f.what]
        ):
            flips |= label == kind
            turned += 1
    return _turned(mesh, flips), turned
