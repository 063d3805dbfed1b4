"""How things are shown beside their colours: the back of a surface and how it throws light back.

Source: ISO 10303-46, surface_style_usage and its sides, surface_style_reflectance_ambient with its
subtypes.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

__all__ = ["BACK", "REFLECTANCE", "Appearance", "reflectance_text", "reflectance_values"]

BACK, REFLECTANCE = "back colour", "reflectance"

_SHARES = ("ambient", "diffuse", "specular", "exponent")
_COLOUR = "specular colour"
_VALUE = re.compile(r"(specular colour|ambient|diffuse|specular|exponent) (\S+?)(?:, |$)")


@dataclass(frozen=True, slots=True)
class Appearance:
    """One further look of a body or face.

    Args:
        aspect: BACK, the colour of the side that looks inwards, or REFLECTANCE.
        value: #rrggbb; of a reflectance as `reflectance_text` puts it.
    """

    aspect: str
    value: str


def reflectance_text(shares: Sequence[float], colour: str = "") -> str:
    """A reflectance in words.

    Args:
        shares: of ambient, diffuse and specular light, and the specular exponent, as many as are given.
        colour: of specular light as #rrggbb, empty when not given.
    """
    words = [f"{name} {share:g}" for name, share in zip(_SHARES, shares, strict=False)]
    return ", ".join([*words, f"{_COLOUR} {colour}"] if colour else words)


def reflectance_values(text: str) -> tuple[tuple[float, ...], str]:
    """Shares and specular colour of a reflectance in words. Raises ValueError on other words."""
    values = dict(_VALUE.findall(text))
    colour = values.pop(_COLOUR, "")
    shares = tuple(float(values[name]) for name in _SHARES if name in values)
    if not shares or reflectance_text(shares, colour) != text:
        raise ValueError(f"not a reflectance: {text!r}")
    return shares, colour
