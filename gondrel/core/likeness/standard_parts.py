"""Standard parts told by their dimensions, each with the figures that speak for it.

A part counts as one only where every dimension of the table is there and fits; what is round or six-sided
but of other sizes is not named. The sizes and their sources stand in standard_parts.toml.
"""

from __future__ import annotations

import math
import tomllib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from gondrel.core.model.axial import Axial, Flat, Round

__all__ = ["StandardPart", "standard_part"]


@dataclass(frozen=True, slots=True)
class StandardPart:
    """What a part is by its dimensions.

    Args:
        standard: the standard whose table it fits; designation: how the part is called by it.
        name: a name for the part; evidence: the dimensions that speak for it, in words.
    """

    standard: str
    designation: str
    name: str
    evidence: str


_FITS = 0.02
"""By how much, mm, a nominal size may be missed."""

_WIDTH_BELOW = 0.04
"""Share by which a width across flats may stay below its nominal size (grade B: about h15, from memory)."""


@cache
def _tables() -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath("standard_parts.toml").read_text("utf-8"))


def standard_part(axial: Axial, volume: float) -> StandardPart | None:
    """The standard part that a body is by its dimensions, None when it fits no table.

    Args:
        volume: mm3, which a key must have by its dimensions.
    """
    for tell in _TELLERS:
        for part in tell(axial, volume):
            return part
    return None


def _is(value: float, nominal: float, below: float = _FITS, above: float = _FITS) -> bool:
    return nominal - below <= value <= nominal + above


def _hexagon(flats: list[Flat]) -> tuple[float, float, float] | None:
    """Width across six even flats, and from where to where they reach; None for anything else."""
    if len(flats) != 6:
        return None
    apart = [abs(f.distance) for f in flats]
    angles = sorted(f.angle for f in flats)
    steps = [(b - a) % (2 * math.pi) for a, b in zip(angles, [*angles[1:], angles[0]], strict=True)]
    if max(apart) - min(apart) > 1e-3 or max(abs(s - math.pi / 3) for s in steps) > 1e-3:
        return None
    return 2 * apart[0], min(f.low for f in flats), max(f.high for f in flats)


def _plain(rounds: tuple[Round, ...]) -> Round | None:
    return rounds[0] if rounds else None


def _hexagon_screws(axial: Axial, volume: float) -> Iterator[StandardPart]:
    head = _hexagon([f for f in axial.flats if f.distance > 0])
    shank = _plain(axial.outside())
    if head is None or shank is None or axial.inside() or len(axial.flats) != 6:
        return
    across, low, high = head
    is_up = low > axial.length - high  # whether the head is at the far end
    height = axial.length - low if is_up else high
    length = axial.length - height
    for size, row in _tables()["hexagon"].items():
        nominal = float(size[1:])
        wide = row["across_flats"]
        if (
            _is(2 * shank.radius, nominal, 0.03 * nominal)
            and _is(across, wide, _WIDTH_BELOW * wide)
            and _is(height, row["head"], 0.06 * row["head"], 0.06 * row["head"])
            and _in_series(length, "screw")
        ):
            yield StandardPart(
                "ISO 4014 / ISO 4017", f"{size} \u00d7 {length:.4g}",
                f"Hexagon head screw {size} \u00d7 {length:.4g}",
                f"{across:.4g} mm across flats (table {wide:g}), head {height:.4g} mm (table "
                f"{row['head']:g}), shank {2 * shank.radius:.4g} mm, length {length:.4g} mm",
            )  # fmt: skip


def _hexagon_nuts(axial: Axial, volume: float) -> Iterator[StandardPart]:
    body = _hexagon([f for f in axial.flats if f.distance > 0])
    bore = _plain(axial.inside())
    if body is None or bore is None or axial.outside() or len(axial.flats) != 6:
        return
    across, height, diameter = body[0], axial.length, 2 * min(r.radius for r in axial.inside())
    for size, row in _tables()["hexagon"].items():
        nominal = float(size[1:])
        if (
            _is(diameter, nominal, 0.2 * nominal)
            and _is(across, row["across_flats"], _WIDTH_BELOW * row["across_flats"])
            and _is(height, row["nut"], 0.08 * row["nut"])
        ):
            yield StandardPart(
                "ISO 4032", size, f"Hexagon nut {size}",
                f"{across:.4g} mm across flats (table {row['across_flats']:g}), {height:.4g} mm high "
                f"(table at most {row['nut']:g}), bore {diameter:.4g} mm",
            )  # fmt: skip


def _socket_screws(axial: Axial, volume: float) -> Iterator[StandardPart]:
    socket = _hexagon([f for f in axial.flats if f.distance < 0])
    outside = axial.outside()
    if socket is None or len(axial.flats) != 6 or len({round(r.radius, 3) for r in outside}) != 2:
        return
    head, shank = outside[0], outside[-1]
    height = axial.length - head.low if head.low > shank.low else head.high
    length = axial.length - height
    for size, row in _tables()["socket"].items():
        nominal = float(size[1:])
        if (
            _is(2 * shank.radius, nominal, 0.03 * nominal)
            and _is(2 * head.radius, row["head_diameter"], 0.04 * row["head_diameter"])
            and _is(height, nominal, 0.05 * nominal)
            and _is(socket[0], row["socket"], _FITS, 0.03 * row["socket"])
            and _in_series(length, "screw")
        ):
            yield StandardPart(
                "ISO 4762", f"{size} \u00d7 {length:.4g}",
                f"Socket head screw {size} \u00d7 {length:.4g}",
                f"head {2 * head.radius:.4g} mm (table {row['head_diameter']:g}) by {height:.4g} mm, "
                f"socket {socket[0]:.4g} mm (table {row['socket']:g}), shank "
                f"{2 * shank.radius:.4g} mm, length {length:.4g} mm",
            )  # fmt: skip


def _washers(axial: Axial, volume: float) -> Iterator[StandardPart]:
    outside, inside = axial.outside(), axial.inside()
    if axial.flats or axial.others or len(axial.rounds) != len(outside) + len(inside):
        return
    if len({r.radius for r in outside}) != 1 or len({r.radius for r in inside}) != 1:
        return
    wide, hole, thick = 2 * outside[0].radius, 2 * inside[0].radius, axial.length
    for size, row in _tables()["washer"].items():
        if (
            _is(hole, row["hole"])
            and _is(wide, row["outside"], 0.03 * row["outside"])
            and _is(thick, row["thickness"], 0.08 * row["thickness"], 0.08 * row["thickness"])
        ):
            yield StandardPart(
                "ISO 7089", size, f"Plain washer {size}",
                f"hole {hole:.4g} mm (table {row['hole']:g}), outside {wide:.4g} mm "
                f"(table {row['outside']:g}), {thick:.4g} mm thick (table {row['thickness']:g})",
            )  # fmt: skip


def _pins(axial: Axial, volume: float) -> Iterator[StandardPart]:
    outside = axial.outside()
    ends = [r for r in axial.rounds if r.is_outside and r.radius - r.narrow > 1e-9 and r.offset < 1e-4]
    if axial.flats or axial.others or axial.inside() or len({r.radius for r in outside}) != 1:
        return
    if len({round(r.low, 4) for r in ends}) != 2 or len(axial.rounds) != len(outside) + len(ends):
        return
    diameter, chamfer = 2 * outside[0].radius, max(r.high - r.low for r in ends)
    for size, depth in _tables()["pin"].items():
        if (
            _is(diameter, float(size))
            and all(_is(r.high - r.low, depth, 0.3 * depth, 0.3 * depth) for r in ends)
            and _in_series(axial.length, "pin")
        ):
            yield StandardPart(
                "ISO 2338", f"{size} \u00d7 {axial.length:.4g}",
                f"Parallel pin {size} \u00d7 {axial.length:.4g}",
                f"diameter {diameter:.4g} mm, length {axial.length:.4g} mm, chamfers {chamfer:.3g} mm "
                f"(table about {depth:g})",
            )  # fmt: skip


def _keys(axial: Axial, volume: float) -> Iterator[StandardPart]:
    if axial.others or not axial.rounds or not all(r.is_outside for r in axial.rounds):
        return
    radius = max(r.radius for r in axial.rounds)
    if any(abs(r.radius - radius) > 1e-3 or r.high - r.low < axial.length - 1e-3 for r in axial.rounds):
        return
    height = axial.length
    for size, (least, most) in _tables()["key"].items():
        width, high = (float(v) for v in size.split("x"))
        if not (_is(height, high) and _is(2 * radius, width, 0.05)):
            continue
        length = (volume / height - math.pi * width**2 / 4) / width + width
        nominal = round(length, 1)
        apart = max((r.offset for r in axial.rounds), default=0.0)
        if least - 0.1 <= nominal <= most + 0.1 and abs(apart + width - length) < 0.1 + 0.05 * width:
            listed = "" if _in_series(nominal, "key") else "; the length is between those of the series"
            yield StandardPart(
                "DIN 6885", f"A {width:g} \u00d7 {high:g} \u00d7 {nominal:g}",
                f"Parallel key A {width:g} \u00d7 {high:g} \u00d7 {nominal:g}",
                f"{width:g} mm wide and {height:.4g} mm high (table {size.replace('x', ' by ')}), "
                f"{nominal:g} mm long (table {least} to {most}), ends round with {radius:.4g} mm{listed}",
            )  # fmt: skip


def _in_series(length: float, series: str) -> bool:
    return any(abs(length - each) <= 0.05 for each in _tables()["lengths"][series])


_TELLERS: tuple[Callable[[Axial, float], Iterator[StandardPart]], ...] = (
    _hexagon_screws, _hexagon_nuts, _socket_screws, _washers, _pins, _keys,
)  # fmt: skip
