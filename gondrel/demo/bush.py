"""The plummer bush as its supplier sends it: an assembly of two halves and rollers."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder, turned
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.product import Material, Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["BORE", "COLLAR", "LENGTH", "OUTER", "half_volume", "make_bush"]

BORE, OUTER, COLLAR, LENGTH, _WIDTH = 46.0, 62.0, 72.0, 40.0, 5.0
"""Diameters of bore, body and collars, length over all, width of a collar, mm."""

_ROLLERS, _ROLLER = 14, 5.0
_BRONZE = Material("Bronze CuSn7Zn4Pb7-C", 8800.0)
_STEEL = Material("Steel 100Cr6", 7830.0)


def half_volume() -> float:
    """Volume of a half, mm3: half of a ring with two collars."""
    ring = (OUTER**2 - BORE**2) * LENGTH + 2 * (COLLAR**2 - OUTER**2) * _WIDTH
    return math.pi / 8 * ring


def _half() -> Any:
    bore, outer, collar = BORE / 2, OUTER / 2, COLLAR / 2
    whole = turned([
        (bore, 0), (collar, 0), (collar, _WIDTH), (outer, _WIDTH), (outer, LENGTH - _WIDTH),
        (collar, LENGTH - _WIDTH), (collar, LENGTH), (bore, LENGTH),
    ])  # fmt: skip
    return cut(whole, block(2 * COLLAR, COLLAR, 2 * LENGTH, at=(-COLLAR, -COLLAR, -LENGTH / 2)))


def make_bush(store: BlobStore) -> Model:
    """Model the plummer bush. Bodies go into the store. Raises KernelRefused."""
    shapes = {"half": _half(), "roller": cylinder(_ROLLER / 2, LENGTH - 4)}
    said = {
        "half": ("PB-021", "Plummer bush half", "#b5803c", _BRONZE),
        "roller": ("PB-022", "Roller", "#a9b3bd", _STEEL),
    }
    parts = []
    for key, (number, name, colour, material) in said.items():
        blob = store.put(shape_to_blob(shapes[key]))
        body = Body(f"body-{key}", BodyKind.SOLID, name, blob, Rgba.from_hex(colour))
        parts.append(Product(key, number, name, "A", material=material, bodies=(body,)))
    uses = [
        Occurrence("upper", "half", "Upper half"),
        Occurrence("lower", "half", "Lower half", (-1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)),
    ]
    about = (BORE - _ROLLER) / 2
    for place in range(_ROLLERS):
        angle = 2 * math.pi * place / _ROLLERS
        matrix = np.eye(4)
        matrix[:3, 3] = (about * math.cos(angle), about * math.sin(angle), 2)
        placement = tuple(float(v) for v in matrix.ravel())
        uses.append(Occurrence(f"roller-{place + 1}", "roller", f"Roller {place + 1}", placement))
    whole = Product("bush", "PB-020", "Plummer bush", "A", occurrences=tuple(uses))
    return Model(products=(whole, *parts), roots=("bush",))
