"""Tooth forms: involute spur gears, racks and ratchets as bodies about the z axis.

Source: basic rack of ISO 53 (pressure angle 20 degrees, addendum 1 m, dedendum 1.25 m) and the
involute of the base circle.
"""

from __future__ import annotations

import math
from typing import Any

from gondrel.core.kernel.modelling.build import ArcTo, LineTo, Piece, SplineTo, prism

__all__ = ["pitch_radius", "rack_bar", "ratchet", "spur_gear"]

_PRESSURE = math.radians(20)
_ADDENDUM = 1.0
_DEDENDUM = 1.25
_FLANK_POINTS = 7
_BACKLASH = 0.04


def pitch_radius(module: float, teeth: int) -> float:
    """Pitch radius in mm."""
    return module * teeth / 2


def _polar(radius: float, angle: float) -> tuple[float, float]:
    return radius * math.cos(angle), radius * math.sin(angle)


def _involute(angle: float) -> float:
    return math.tan(angle) - angle


def spur_gear(module: float, teeth: int, width: float) -> Any:
    """A spur gear without bore, a tooth centred on the x axis, from z = 0 to its width."""
    pitch = pitch_radius(module, teeth)
    base = pitch * math.cos(_PRESSURE)
    root, tip = pitch - _DEDENDUM * module, pitch + _ADDENDUM * module
    half = (math.pi / 2 - _BACKLASH) / teeth + _involute(_PRESSURE)
    low = max(base, root)

    def half_angle(radius: float) -> float:
        return half - _involute(math.acos(min(base / radius, 1.0)))

    radii = [low + (tip - low) * i / (_FLANK_POINTS - 1) for i in range(_FLANK_POINTS)]
    step = 2 * math.pi / teeth
    start = _polar(root, -half_angle(low))
    pieces: list[Piece] = []
    for tooth in range(teeth):
        centre = tooth * step
        rising = [_polar(r, centre - half_angle(r)) for r in radii]
        falling = [_polar(r, centre + half_angle(r)) for r in reversed(radii)]
        if low > root:
            pieces.append(LineTo(rising[0]))
        pieces.append(SplineTo(tuple(rising[1:])))
        pieces.append(ArcTo(_polar(tip, centre), falling[0]))
        pieces.append(SplineTo(tuple(falling[1:])))
        foot = _polar(root, centre + half_angle(low))
        if low > root:
            pieces.append(LineTo(foot))
        gap_end = centre + step - half_angle(low)
        last = tooth == teeth - 1
        pieces.append(ArcTo(_polar(root, centre + step / 2), start if last else _polar(root, gap_end)))
    return prism(start, pieces, width)


def rack_bar(module: float, teeth: int, width: float, thickness: float, ends: float) -> Any:
    """A rack: outline in xy with the pitch line on y = 0, teeth towards +y, raised along z.

    Args:
        thickness: from the pitch line to the back; ends: plain length before and behind the teeth.
    """
    pitch = math.pi * module
    top, bottom = _ADDENDUM * module, -_DEDENDUM * module
    quarter = pitch / 4 - _BACKLASH * module / 2
    slope = math.tan(_PRESSURE)
    length = teeth * pitch + 2 * ends
    start = (-length / 2, -thickness)
    pieces: list[Piece] = [LineTo((length / 2, -thickness)), LineTo((length / 2, bottom))]
    for tooth in reversed(range(teeth)):
        centre = (tooth - (teeth - 1) / 2) * pitch
        foot, crest = quarter - bottom * slope, quarter - top * slope
        pieces += [
            LineTo((centre + foot, bottom)),
            LineTo((centre + crest, top)),
            LineTo((centre - crest, top)),
            LineTo((centre - foot, bottom)),
        ]
    pieces += [LineTo((-length / 2, bottom)), LineTo(start)]
    return prism(start, pieces, width)


def ratchet(radius: float, depth: float, teeth: int, width: float) -> Any:
    """A ratchet wheel without bore: radial stop faces and sloping backs."""
    step = 2 * math.pi / teeth
    start = _polar(radius, 0.0)
    pieces: list[Piece] = []
    for tooth in range(teeth):
        angle = (tooth + 1) * step
        pieces.append(LineTo(_polar(radius - depth, angle - 0.06 * step)))
        pieces.append(LineTo(start if tooth == teeth - 1 else _polar(radius, angle)))
    return prism(start, pieces, width)
