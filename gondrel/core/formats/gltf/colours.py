"""Colours as materials of glTF have them: linear, where ours are those of a screen.

Source: glTF 2.0 specification, 3.9.2 (baseColorFactor is linear); IEC 61966-2-1 (sRGB transfer).
"""

from __future__ import annotations

from collections.abc import Sequence

from gondrel.core.model.body import Rgba

__all__ = ["from_linear", "to_linear"]


def to_linear(colour: Rgba) -> list[float]:
    """The four factors of a material."""
    return [*map(_linear, (colour.red, colour.green, colour.blue)), colour.alpha]


def from_linear(factors: Sequence[float]) -> Rgba:
    """The colour of a material's factors."""
    red, green, blue, alpha = (min(max(float(v), 0.0), 1.0) for v in factors)
    return Rgba(*(round(v, 6) for v in (*map(_screen, (red, green, blue)), alpha)))


def _linear(share: float) -> float:
    return share / 12.92 if share <= 0.04045 else ((share + 0.055) / 1.055) ** 2.4


def _screen(share: float) -> float:
    return share * 12.92 if share <= 0.0031308 else 1.055 * share ** (1 / 2.4) - 0.055
