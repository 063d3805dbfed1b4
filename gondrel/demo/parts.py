"""The parts of the paddle winding gear, each a function that makes its body. Axes along z."""

from __future__ import annotations

import math
from typing import Any

from gondrel.core.kernel.modelling.build import (
    ArcTo,
    LineTo,
    SplineTo,
    block,
    chamfer,
    common,
    cut,
    cylinder,
    edges_along,
    fillet,
    fuse,
    moved,
    prism,
    turned,
)
from gondrel.demo.teeth import rack_bar, ratchet, spur_gear

__all__ = ["BOLT_HOLES", "FRAME_HOLES", "PAWL_PIVOT", "SHAFT", "SPINDLE"]

SHAFT = (0.0, 200.0)
SPINDLE = (119.078, 268.75)
PAWL_PIVOT = (119.078, 346.0)
ROLLER = (-112.0, 200.0)
FRAME_HOLES = ((-120.0, 60.0), (170.0, 60.0), (150.0, 340.0))
BOLT_HOLES = tuple((x, y) for x in (-98.0, 98.0) for y in (-150.0, -50.0, 60.0, 180.0))
_THICK = 14.0
_WINDOWS = (
    ((-60, 56), (120, 56), (120, 112), (52, 128), (0, 138), (-60, 118)),
    ((-98, 136), (-62, 136), (-46, 160), (-46, 236), (-62, 262), (-98, 240)),
    ((-52, 280), (-14, 256), (26, 252), (62, 284), (76, 316), (60, 340)),
    ((62, 150), (164, 134), (164, 236), (120, 222), (84, 238), (54, 226), (62, 196)),
)


def base_plate() -> Any:
    """The plate everything stands on, with a slot for the rack bar."""
    plate = block(270, 400, 16, at=(-135, -185, 0))
    plate = fillet(plate, 22, edges_along(plate, (0, 0, 1), lambda p: True))
    slot = block(50, 64, 20, at=(-53, -97, -2))
    plate = cut(plate, slot, *(cylinder(6.6, 20, at=(x, y, -2)) for x, y in BOLT_HOLES))
    return chamfer(plate, 1.5, edges_along(plate, (1, 0, 0), lambda p: p.Z() > 15 and abs(p.Y()) > 150))


def side_frame(side: int) -> Any:
    """A bearing frame: outline in xy, thickness and foot along +z (side 1) or -z (side -1)."""
    outline: list[LineTo | ArcTo | SplineTo] = [
        LineTo((215, 0)), LineTo((215, 46)), LineTo((182, 70)), LineTo((182, 330)),
        ArcTo((170, 362), (138, 374)), LineTo((60, 374)), LineTo((-90, 290)),
        ArcTo((-140, 262), (-150, 210)), LineTo((-150, 70)), LineTo((-183, 46)), LineTo((-183, 0)),
    ]  # fmt: skip

    def along(depth: float) -> float:
        """Where something of this depth beyond the inner face begins."""
        return 0.0 if side > 0 else -depth

    frame = moved(prism((-183, 0), outline, _THICK), by=(0, 0, along(_THICK)))
    for start, *rest in _WINDOWS:
        window = prism(start, [LineTo(p) for p in (*rest, start)], 100)
        window = fillet(window, 10, edges_along(window, (0, 0, 1), lambda p: True))
        frame = cut(frame, moved(window, by=(0, 0, -50)))
    for (y, z), radius in ((SHAFT, 40), (SPINDLE, 34)):
        frame = fuse(frame, cylinder(radius, _THICK + 10, at=(y, z, along(_THICK + 10))))
    holes = [cylinder(26, 80, at=(*SHAFT, -40)), cylinder(21, 80, at=(*SPINDLE, -40)),
             cylinder(8, 80, at=(*ROLLER, -40))]  # fmt: skip
    if side > 0:
        holes.append(cylinder(7, 80, at=(*PAWL_PIVOT, -40)))
    holes += [cylinder(8.2, 80, at=(y, z, -40)) for y, z in FRAME_HOLES]
    foot = block(398, 12, 38, at=(-183, 0, _THICK if side > 0 else -_THICK - 38))
    where = side * (_THICK + 21)
    foot_holes = [cylinder(6.6, 30, at=(y, -5, where), axis=(0, 1, 0))
                  for y in (-150, -50, 60, 180)]  # fmt: skip
    return cut(fuse(cut(frame, *holes), foot), *foot_holes)


def tie_bar() -> Any:
    """A distance bar between the frames, with stepped ends."""
    return turned([(0, -96), (7, -96), (8, -95), (8, -63), (12, -63), (12, 63), (8, 63),
                   (8, 95), (7, 96), (0, 96)])  # fmt: skip


def pinion_shaft() -> Any:
    """The shaft with wheel and rack pinion, two keyways."""
    shaft = turned([(0, -86), (18.5, -86), (20, -84.5), (20, -58), (22, -58), (22, 58),
                    (20, 58), (20, 84.5), (18.5, 86), (0, 86)])  # fmt: skip
    return cut(shaft, block(50, 10, 40, at=(17, -5, -42)), block(50, 10, 26, at=(17, -5, 14)))


def windlass_spindle() -> Any:
    """The spindle turned by hand: keyways and a square end for the windlass."""
    spindle = turned([(0, -86), (14.5, -86), (16, -84.5), (16, -58), (18, -58), (18, 58),
                      (16, 58), (16, 112), (15, 113), (15, 152), (13.5, 153.5), (0, 153.5)])  # fmt: skip
    flats = [moved(block(40, 60, 42, at=(10.6, -30, 114)), turn_z=k * math.pi / 2) for k in range(4)]
    return cut(spindle, block(50, 8, 32, at=(14, -4, 11)), block(40, 6, 15, at=(13, -3, 89)), *flats)


def _bored(gear: Any, width: float, bore: float, key: float, depth: float) -> Any:
    slot = block(bore + depth, key, width + 4, at=(0, -key / 2, -2))
    return cut(gear, cylinder(bore, width + 4, at=(0, 0, -2)), slot)


def rack_pinion() -> Any:
    """Pinion, module 8, 12 teeth, that drives the rack."""
    gear = fuse(spur_gear(8, 12, 44), cylinder(33, 50))
    return _bored(gear, 50, 22, 10, 3.4)


def spur_wheel() -> Any:
    """Wheel, module 5, 40 teeth, with a thin web and six holes."""
    gear = spur_gear(5, 40, 30)
    ring = cut(cylinder(84, 10), cylinder(36, 14, at=(0, 0, -2)))
    gear = cut(gear, moved(ring, by=(0, 0, -1)), moved(ring, by=(0, 0, 21)))
    holes = [cylinder(15, 40, at=(60 * math.cos(a), 60 * math.sin(a), -5))
             for a in (math.radians(60 * k + 30) for k in range(6))]  # fmt: skip
    return _bored(cut(gear, *holes), 30, 22, 10, 3.4)


def drive_pinion() -> Any:
    """Pinion, module 5, 15 teeth, on the spindle."""
    return _bored(spur_gear(5, 15, 34), 34, 18, 8, 3.0)


def ratchet_wheel() -> Any:
    """Ratchet wheel, 24 teeth."""
    return _bored(ratchet(48, 6, 24, 14), 14, 16, 6, 2.6)


def pawl() -> Any:
    """A pawl: eye at the origin, nose on the ratchet."""
    arm = prism((-9, -3), [LineTo((-7, -27)), LineTo((5.5, -31.5)), LineTo((11, -3)), LineTo((-9, -3))], 12)
    eye = cylinder(13, 12)
    return cut(fuse(arm, eye), cylinder(7, 20, at=(0, 0, -4)))


def pawl_pin() -> Any:
    """The pin the pawl turns on, with a head."""
    return turned([(0, 0), (6.2, 0), (7, 0.8), (7, 38), (11, 38), (11, 43), (10, 44), (0, 44)])


def _bush(inner: float, outer: float, length: float) -> Any:
    return turned([(inner + 1, 0), (outer + 6, 0), (outer + 6, 4), (outer, 4), (outer, length - 1),
                   (outer - 1, length), (inner, length), (inner, 1)])  # fmt: skip


def bush_large() -> Any:
    """Flanged bush of the pinion shaft."""
    return _bush(20, 26, 28)


def bush_small() -> Any:
    """Flanged bush of the spindle."""
    return _bush(16, 21, 28)


def feather_key(width: float, height: float, length: float) -> Any:
    """A feather key with round ends."""
    key = block(length, width, height, at=(-length / 2, -width / 2, 0))
    ends = edges_along(key, (0, 0, 1), lambda p: True)
    return fillet(key, width / 2 - 0.01, ends)


def rack() -> Any:
    """The rack bar, module 8, with an eye at its lower end."""
    bar = rack_bar(8, 24, 40, 40, 60)
    length = 24 * math.pi * 8 + 120
    hole = cylinder(12.5, 60, at=(-length / 2 + 28, -25, -10))
    bar = cut(bar, hole)
    return chamfer(bar, 3, edges_along(bar, (0, 0, 1), lambda p: p.Y() < -39))


def roller() -> Any:
    """The roller behind the rack, slightly flanged."""
    return turned([(8, -24), (29, -24), (29, -21), (24, -21), (24, 21), (29, 21), (29, 24), (8, 24)])


def roller_pin() -> Any:
    """The pin of the roller."""
    return turned([(0, -80), (7, -80), (8, -79), (8, 79), (7, 80), (0, 80)])


def guard() -> Any:
    """A curved guard over wheel and drive pinion, 2 mm sheet."""

    def hood(grow: float) -> Any:
        r, s = 112 + grow, 52 + grow
        angle = math.radians(30)
        far = (SPINDLE[0], SPINDLE[1] - SHAFT[1])
        normal = (-math.sin(angle), math.cos(angle))
        a = (r * normal[0], r * normal[1])
        b = (far[0] + s * normal[0], far[1] + s * normal[1])
        c = (far[0] + s, far[1])
        return prism((-r, 0), [ArcTo((-r * math.cos(0.8), r * math.sin(0.8)), a), LineTo(b),
                               ArcTo((far[0] + s * math.cos(0.6), far[1] + s * math.sin(0.6)), c),
                               LineTo((far[0] + s, 0)), LineTo((-r, 0))], 50 + grow)  # fmt: skip

    inner = moved(hood(0), by=(0, -0.0, 0.0))
    shell = cut(hood(2), moved(inner, by=(0, 0, 0)))
    opening = block(400, 60, 60, at=(-200, -50, -5))
    return cut(shell, opening)


def crank() -> Any:
    """The windlass: socket, arm and handle."""
    boss = cut(cylinder(26, 36), block(21.4, 21.4, 50, at=(-10.7, -10.7, -5)))
    arm = block(34, 250, 16, at=(-17, 18, 10))
    arm = fillet(arm, 7, edges_along(arm, (0, 1, 0), lambda p: True))
    handle = moved(turned([(0, 0), (12, 0), (14, 8), (16, 60), (15, 110), (12, 122), (6, 126),
                           (0, 127)]), by=(0, 252, 20))  # fmt: skip
    return fuse(boss, arm, handle)


def hex_screw() -> Any:
    """Hexagon head screw M12 x 45, plain shank (ISO 4017 sizes: width 18, head 7.5)."""
    return fuse(_hexagon(18, 7.5), moved(turned([(0, 0), (5, 0), (6, 1), (6, 46), (0, 46)]),
                                         by=(0, 0, -45)))  # fmt: skip


def _hexagon(width: float, height: float) -> Any:
    radius = width / math.sqrt(3)
    corners = [(radius * math.cos(math.radians(60 * k)), radius * math.sin(math.radians(60 * k)))
               for k in range(6)]  # fmt: skip
    prismatic = prism(corners[0], [LineTo(c) for c in (*corners[1:], corners[0])], height)
    crown = turned([(0, -1), (radius + 1, -1), (radius + 1, height - 1.9),
                    (radius - 2.4, height), (0, height)])  # fmt: skip
    return common(prismatic, crown)


def hex_nut(width: float = 18, height: float = 10.8, bore: float = 6) -> Any:
    """Hexagon nut M12 (ISO 4032 sizes: width 18, height 10.8), plain bore."""
    return cut(_hexagon(width, height), cylinder(bore, height + 4, at=(0, 0, -2)))


def washer() -> Any:
    """Plain washer 12 (ISO 7089 sizes: 13, 24, 2.5)."""
    return turned([(6.5, 0), (12, 0), (12, 2.5), (6.5, 2.5)])
