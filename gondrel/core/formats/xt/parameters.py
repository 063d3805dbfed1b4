"""Parameters of surfaces as the XT format counts them, and as the model does.

Source: the parametrizations of the XT format reference: lengths among parameters are metres there, a cone's
second parameter runs along its axis. The model's are those of ISO 10303-42, lengths in mm.
"""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.formats.xt.schema import MM_PER_METRE
from gondrel.core.model.geometry import BCurve, Cone, Cylinder, Plane, Surface

__all__ = ["from_xt", "to_xt"]


def from_xt(curve: BCurve, surface: Surface) -> BCurve:
    """A curve in a surface's parameters, read from the format's."""
    return _scaled(curve, *_scales(surface))


def to_xt(curve: BCurve, surface: Surface) -> BCurve:
    """A curve in a surface's parameters, as the format has them."""
    u, v = _scales(surface)
    return _scaled(curve, 1 / u, 1 / v)


def _scales(surface: Surface) -> tuple[float, float]:
    """How much of the model's parameters one of the format's is."""
    if isinstance(surface, Plane):
        return MM_PER_METRE, MM_PER_METRE
    return 1.0, MM_PER_METRE if isinstance(surface, Cylinder | Cone) else 1.0


def _scaled(curve: BCurve, u: float, v: float) -> BCurve:
    if (u, v) == (1.0, 1.0):
        return curve
    return replace(curve, poles=tuple((a * u, b * v, *rest) for a, b, *rest in curve.poles))
