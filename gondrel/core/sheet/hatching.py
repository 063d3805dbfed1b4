"""Hatching of cut faces: a pattern for each kind of material, turned so that touching parts differ.

Source: ISO 128-50 asks for lines at 45 degrees to the outline, another angle or distance for each adjacent
part, and lets a kind of material have a pattern of its own; which pattern stands for which kind is ours.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

__all__ = ["Hatch", "apart_hatches", "hatch_for", "hatch_lines"]

Floats = NDArray[np.float64]

_ANGLES = (45.0, 135.0, 30.0, 120.0, 60.0, 150.0)
_SPACINGS = (1.0, 0.7, 1.4)


@dataclass(frozen=True, slots=True)
class Hatch:
    """Parallel lines.

    Args:
        angle: of the lines, degrees; spacing: as a share of the usual one.
        crossed: whether a second set stands across the first; doubled: whether lines come in pairs; dashed:
            whether they are.
    """

    angle: float = 45.0
    spacing: float = 1.0
    crossed: bool = False
    doubled: bool = False
    dashed: bool = False


_PLAIN = Hatch()
_KINDS: tuple[tuple[tuple[str, ...], Hatch], ...] = (
    (("cast iron", "gjl", "gjs", "gusseisen"), Hatch(spacing=1.4)),
    (("bronze", "brass", "copper", "bush metal", "rotguss", "messing"), Hatch(doubled=True, spacing=1.6)),
    (("aluminium", "aluminum", "magnesium", "zinc", "titanium"), Hatch(spacing=0.8, dashed=True)),
    (
        ("plastic", "abs", "pa 6", "pom", "ptfe", "pe-", "pmma", "peek", "pp", "pc", "rubber", "nylon"),
        Hatch(crossed=True),
    ),
    (("glass", "ceramic"), Hatch(crossed=True, dashed=True)),
)


def hatch_for(material: str) -> Hatch:
    """The pattern of a material by its name: iron, copper alloys, light metals, plastics, glass; steel and
    all else have plain lines."""
    said = material.casefold()
    for words, hatch in _KINDS:
        if any(said.startswith(word) or f" {word}" in said for word in words):
            return hatch
    return _PLAIN


def apart_hatches(base: Sequence[Hatch], touching: Mapping[int, Sequence[int]]) -> list[Hatch]:
    """Hatches such that of two that touch none is like the other.

    Args:
        base: by place; touching: places that touch each place.
    """
    made: list[Hatch] = []
    for place, hatch in enumerate(base):
        taken = {made[other] for other in touching.get(place, ()) if other < place}
        made.append(
            next(
                (
                    turned
                    for spacing in _SPACINGS
                    for angle in _ANGLES
                    if (turned := replace(hatch, angle=angle, spacing=hatch.spacing * spacing)) not in taken
                ),
                hatch,
            )
        )
    return made


def hatch_lines(outline: Floats, hatch: Hatch, spacing: float) -> Floats:
    """The lines of a hatch within an outline.

    Args:
        outline: (n, 2, 2) stretches of all its rims, in any order; spacing: usual distance of lines.

    Returns: (m, 2, 2) ends of lines. What an odd number of rims surrounds is hatched.
    """
    if not len(outline):
        return np.empty((0, 2, 2))
    distance = spacing * hatch.spacing
    sets = [_lines(outline, hatch.angle, distance, 0.0)]
    if hatch.doubled:
        sets.append(_lines(outline, hatch.angle, distance, 0.3 * distance))
    if hatch.crossed:
        sets.append(_lines(outline, hatch.angle + 90.0, distance, 0.0))
    lines = np.concatenate(sets)
    return _dashed(lines, spacing) if hatch.dashed else lines


def _lines(outline: Floats, angle: float, distance: float, shift: float) -> Floats:
    """Level lines through an outline that was turned back by their angle, and turned again.

    Source: filling a polygon line by line, a textbook method of computer graphics.
    """
    turn = math.radians(angle)
    axes = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    turned = outline @ axes  # x along the lines, y across
    y = (turned[:, :, 1] - shift) / distance
    first = np.ceil(y.min(axis=1)).astype(np.int64)
    counts = np.maximum(np.ceil(y.max(axis=1)).astype(np.int64) - first, 0)
    owner = np.repeat(np.arange(len(outline)), counts)
    offset = np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
    row = first[owner] + offset
    share = (row - y[owner, 0]) / (y[owner, 1] - y[owner, 0])
    x = turned[owner, 0, 0] + share * (turned[owner, 1, 0] - turned[owner, 0, 0])
    order = np.lexsort((x, row))
    row, x = row[order], x[order]
    begins = np.flatnonzero(np.r_[True, row[1:] != row[:-1]]) if len(row) else np.empty(0, np.int64)
    place = np.arange(len(row)) - np.repeat(begins, np.diff(np.r_[begins, len(row)]))
    start = np.flatnonzero((place % 2 == 0) & np.r_[row[1:] == row[:-1], False]) if len(row) else begins
    level = row[start] * distance + shift
    ends = np.stack(
        [np.stack([x[start], level], axis=1), np.stack([x[start + 1], level], axis=1)], axis=1
    ).reshape(-1, 2, 2)
    lines: Floats = ends @ axes.T
    return lines


def _dashed(lines: Floats, dash: float) -> Floats:
    """Lines cut into dashes with gaps of half their length."""
    lengths = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    counts = np.maximum(np.ceil(lengths / (1.5 * dash)).astype(np.int64), 1)
    owner = np.repeat(np.arange(len(lines)), counts)
    number = np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
    begin = number * 1.5 * dash
    end = np.minimum(begin + dash, lengths[owner])
    way = (lines[:, 1] - lines[:, 0]) / np.maximum(lengths, 1e-12)[:, None]
    start = lines[owner, 0]
    dashes: Floats = np.stack(
        [start + begin[:, None] * way[owner], start + end[:, None] * way[owner]], axis=1
    )
    return dashes
