"""How a body that comes back differs from what it was: one rule for forecasts and proof."""

from __future__ import annotations

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.limits import Limits, unlike

__all__ = ["is_loose", "shape_changes", "surface_changes"]

_LOOSE = 1e-6
"""Tolerance, mm, from which a body's edges can be taken otherwise by another reading."""


def shape_changes(a: BodyFacts, b: BodyFacts, deviation: float, limits: Limits) -> list[str]:
    """What of a body's shape changed, in words; nothing when it is carried.

    Args:
        a, b: its measures before and after; deviation: largest distance between the surfaces, mm.
    """
    reasons = []
    if unlike(a.volume, b.volume) > limits.volume:
        reasons.append(f"volume {b.volume / a.volume - 1:+.3g} relative" if a.volume else "volume")
    area = unlike(a.area, b.area) if a.area or b.area else unlike(a.length, b.length)
    if area > limits.area:
        reasons.append(f"area off by {area:.3g} relative")
    if deviation > limits.deviation:
        reasons.append(f"surfaces up to {deviation:.4g} mm apart")
    if kinds := surface_changes(a, b):
        reasons.append(kinds)
    return reasons


def surface_changes(a: BodyFacts, b: BodyFacts) -> str:
    """How the counts of faces by kind of surface changed, in words; empty when they did not."""
    before, after = dict(a.surfaces), dict(b.surfaces)
    kinds = sorted(k for k in before.keys() | after.keys() if before.get(k, 0) != after.get(k, 0))
    changes = ", ".join(f"{k} {before.get(k, 0)} to {after.get(k, 0)}" for k in kinds)
    return f"faces: {changes}" if changes else ""


def is_loose(facts: BodyFacts) -> bool:
    """Whether a body's edges lie so far off that writing and reading may change it."""
    return facts.tolerance > _LOOSE
