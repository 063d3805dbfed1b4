"""Area and flux of faces on surfaces by two parameters, from their edges.

Source: Green's theorem with P(u, v), the integral of the element of area from a fixed u to u: the area is
the sum of P dv along the loops. On a surface that meets itself by u the loops are followed across the
seam; the area is then known up to the whole and lies between nothing and the whole. Edges are laid on
the surface by their feet (Newton), P by Gauss' rule with ten points a span.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.nodes import rule
from gondrel.core.integral.patches import Patch, closed_ways, feet_on, has_poles, solved

__all__ = ["PatchFigures", "figures_on"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_NODES = 10
_AT, _WEIGHT = rule(_NODES)
_AT_ONCE = 60_000
_SLIVER = 1e-9
_OFF = 1e-3
"""How far, as a share of its size, the edges of a face may lie off its surface and its figures count."""


@dataclass(frozen=True, slots=True)
class PatchFigures:
    """Area and flux of one face by the natural normal, and how far its edges lie off the surface, mm."""

    area: float
    flux: float
    off: float


def figures_on(patch: Patch, points: Floats, steps: Floats, loop: Ints, starts: Floats) -> PatchFigures:
    """The figures of a face on a patch.

    Args:
        points, steps: (n, 3) along its loops in the order they are run by the natural normal, as Nodes
            has them; loop: (n,) which loop each belongs to, from 0; starts: (loops, 3) where each begins.

    Returns: not a number where the surface meets itself both ways, or an edge does not lie on it.
    """
    closed = closed_ways(patch)
    if closed[0] and closed[1]:
        return PatchFigures(np.nan, np.nan, np.nan)
    wraps = closed[0] or closed[1]
    # A side that is a point adds nothing when it is run along at a fixed value of what is summed over.
    poles = has_poles(patch)
    swapped = closed[1] or (not closed[0] and poles[0])
    if not len(points):
        area, flux = _beneath(patch, np.zeros(0), swapped)[1] if wraps else (np.nan, np.nan)
        return PatchFigures(float(area), float(flux), 0.0)
    u, v, off = feet_on(patch, points)
    if off.max() > _OFF * float(np.ptp(points, axis=0).max()):
        return PatchFigures(np.nan, np.nan, float(off.max()))
    _, su, sv = patch.at(u, v)
    du, dv = _laid(su, sv, steps)
    if swapped:
        u, v, du, dv = v, u, dv, du
    value = np.zeros(2)
    if wraps:
        breaks = patch.v_breaks if swapped else patch.u_breaks
        period = float(breaks[-1] - breaks[0])
        windings = _turns(u, loop, period)[:, None]
        sums = _primitive(patch, u, v, swapped)
        sums += windings * _primitive(patch, np.full(len(v), breaks[-1]), v, swapped)
        wound = np.round(np.bincount(loop, du, len(starts)) / period)
        begin = feet_on(patch, starts)[0 if swapped else 1]
        beneath, whole = _beneath(patch, begin, swapped)
        value = (sums * dv[:, None]).sum(axis=0) - wound @ beneath
    else:
        value = (_primitive(patch, u, v, swapped) * dv[:, None]).sum(axis=0)
    if swapped:
        value = -value  # the loops run the other way in (v, u)
    if wraps and poles[0 if swapped else 1] and whole[0] > 0:
        share = value[0] / whole[0]
        times = np.floor(share + _SLIVER)
        times -= share - times <= _SLIVER
        value = value - times * whole
    return PatchFigures(float(value[0]), float(value[1]), float(off.max(initial=0.0)))


def _laid(su: Floats, sv: Floats, steps: Floats) -> tuple[Floats, Floats]:
    """Steps in space as steps of the parameters, by least squares."""
    a, b, c = (np.einsum("ij,ij->i", x, y) for x, y in ((su, su), (su, sv), (sv, sv)))
    return solved(a, b, c, np.einsum("ij,ij->i", su, steps), np.einsum("ij,ij->i", sv, steps))


def _turns(u: Floats, loop: Ints, period: float) -> Floats:
    """Whole periods that each point lies on from where its loop was begun to be followed."""
    steps = -np.round(np.diff(u) / period)
    steps[loop[1:] != loop[:-1]] = 0
    total = np.concatenate([[0.0], np.cumsum(steps)])
    begins = np.concatenate([[True], loop[1:] != loop[:-1]])
    windings: Floats = total - total[np.flatnonzero(begins)][np.cumsum(begins) - 1]
    return windings


def _beneath(patch: Patch, begin: Floats, swapped: bool) -> tuple[Floats, Floats]:
    """Area and flux of the surface all round from its least v up to some, (n, 2), and of the whole."""
    breaks = patch.u_breaks if swapped else patch.v_breaks
    across = (patch.v_breaks if swapped else patch.u_breaks)[-1]
    parts = [np.linspace(a, b, 3) for a, b in pairwise(breaks)]
    fine = np.unique(np.clip(np.concatenate([*parts, begin]), breaks[0], breaks[-1]))
    width = np.diff(fine)
    at = (fine[:-1, None] + width[:, None] * _AT).ravel()
    values = _primitive(patch, np.full(len(at), across), at, swapped).reshape(len(width), _NODES, 2)
    sums = np.cumsum((values * (_WEIGHT[:, None] * width[:, None, None])).sum(axis=1), axis=0)
    table = np.concatenate([np.zeros((1, 2)), sums])
    place = np.searchsorted(fine, np.clip(begin, breaks[0], breaks[-1]))
    return table[place], table[-1]


def _primitive(patch: Patch, u: Floats, v: Floats, swapped: bool) -> Floats:
    """The elements of area and flux integrated from the patch's first u to u at v, (n, 2)."""
    breaks = patch.v_breaks if swapped else patch.u_breaks
    primitive = np.zeros((len(u), 2))
    for low, high in pairwise(breaks):
        reach = np.clip(u, low, high) - low
        rows = np.flatnonzero(reach > 0)
        for some in np.array_split(rows, max(len(rows) * _NODES // _AT_ONCE, 1)):
            if not len(some):
                continue
            at = (low + reach[some, None] * _AT).ravel()
            fixed = np.repeat(v[some], _NODES)
            place, su, sv = patch.at(fixed, at) if swapped else patch.at(at, fixed)
            normal = np.cross(su, sv)
            element = np.column_stack(
                [np.linalg.norm(normal, axis=1), np.einsum("ij,ij->i", place, normal)]
            )
            element = element.reshape(len(some), _NODES, 2) * _WEIGHT[:, None]
            primitive[some] += element.sum(axis=1) * reach[some, None]
    return primitive
