"""Shapes with closed forms for area and volume, made to be read wrongly: poles, seams, turned flags."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_NurbsConvert,
    BRepBuilderAPI_Transform,
)
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
)
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS_Shape

PI = math.pi
Z = gp_Dir(0, 0, 1)
ORIGIN = gp_Pnt(0, 0, 0)


@dataclass(frozen=True)
class Made:
    """A shape with its area and volume by closed form; is_spline where its surfaces are B-splines."""

    name: str
    make: Callable[[], TopoDS_Shape]
    area: float
    volume: float
    is_spline: bool = False


def axes(direction: gp_Dir = Z, at: gp_Pnt = ORIGIN) -> gp_Ax2:
    return gp_Ax2(at, direction)


def sphere(
    radius: float, low: float = -90, high: float = 90, angle: float = 360, way: gp_Dir = Z
) -> TopoDS_Shape:
    rad = math.radians
    return BRepPrimAPI_MakeSphere(axes(way), radius, rad(low), rad(high), rad(angle)).Shape()


def moved(
    shape: TopoDS_Shape, way: tuple[float, float, float], angle: float, shift: tuple[float, float, float]
) -> TopoDS_Shape:
    turn, move = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(ORIGIN, gp_Dir(*way)), angle)
    move.SetTranslation(gp_Vec(*shift))
    return BRepBuilderAPI_Transform(shape, move.Multiplied(turn), True).Shape()


def tube(radius: float, height: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCylinder(radius, height).Shape()


def drilled(radius: float, drill: float) -> TopoDS_Shape:
    """A ball with a hole along its axis."""
    return cut(sphere(radius), BRepPrimAPI_MakeCylinder(axes(Z, gp_Pnt(0, 0, -20)), drill, 40).Shape())


def cone(low: float, high: float, height: float) -> TopoDS_Shape:
    return BRepPrimAPI_MakeCone(low, high, height).Shape()


def cut(a: TopoDS_Shape, b: TopoDS_Shape) -> TopoDS_Shape:
    return BRepAlgoAPI_Cut(a, b).Shape()


def common(a: TopoDS_Shape, b: TopoDS_Shape) -> TopoDS_Shape:
    return BRepAlgoAPI_Common(a, b).Shape()


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> TopoDS_Shape:
    return BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Shape()


def wire(*points: tuple[float, float], arcs: dict[int, tuple[float, float]] | None = None) -> TopoDS_Shape:
    """A closed profile in the xz plane; arcs: a point on the arc that replaces the n-th side."""
    made = BRepBuilderAPI_MakeWire()
    for n, (x, z) in enumerate(points):
        x2, z2 = points[(n + 1) % len(points)]
        start, end = gp_Pnt(x, 0, z), gp_Pnt(x2, 0, z2)
        if arcs and n in arcs:
            through = gp_Pnt(arcs[n][0], 0, arcs[n][1])
            made.Add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(start, through, end).Value()).Edge())
        else:
            made.Add(BRepBuilderAPI_MakeEdge(start, end).Edge())
    return BRepBuilderAPI_MakeFace(made.Wire()).Face()


def turned(profile: TopoDS_Shape, angle: float = 360) -> TopoDS_Shape:
    axis = gp_Ax1(ORIGIN, Z)
    if angle == 360:
        return BRepPrimAPI_MakeRevol(profile, axis).Shape()
    return BRepPrimAPI_MakeRevol(profile, axis, math.radians(angle)).Shape()


def disc(x: float, z: float, radius: float) -> TopoDS_Shape:
    """A round profile in the xz plane."""
    circle = gp_Circ(gp_Ax2(gp_Pnt(x, 0, z), gp_Dir(0, -1, 0)), radius)
    edge = BRepBuilderAPI_MakeEdge(circle).Edge()
    return BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(edge).Wire()).Face()


def splined(shape: TopoDS_Shape) -> TopoDS_Shape:
    return BRepBuilderAPI_NurbsConvert(shape, True).Shape()


def cap_area(r: float, h: float) -> float:
    return 2 * PI * r * h + PI * (2 * r * h - h * h)


def cap_volume(r: float, h: float) -> float:
    return PI * h * h * (3 * r - h) / 3


def ring_area(major: float, minor: float, part: float) -> float:
    """Of a tube bent over a part of a turn, with its two ends."""
    return 4 * PI**2 * major * minor * part + (2 * PI * minor**2 if part < 1 else 0)


def _spheres() -> Iterator[Made]:
    r = 10.0
    ball = 4 * PI * r * r, 4 / 3 * PI * r**3
    yield Made("ball", lambda: sphere(r), *ball)
    yield Made("half ball", lambda: sphere(r, 0, 90), 3 * PI * r * r, ball[1] / 2)
    yield Made("lower half ball", lambda: sphere(r, -90, 0), 3 * PI * r * r, ball[1] / 2)
    yield Made("half ball by the seam", lambda: sphere(r, -90, 90, 180), 3 * PI * r * r, ball[1] / 2)
    yield Made("quarter ball", lambda: sphere(r, 0, 90, 180), 2 * PI * r * r, ball[1] / 4)
    yield Made(
        "eighth of a ball", lambda: sphere(r, 0, 90, 90), ball[0] / 8 + 3 * PI * r * r / 4, ball[1] / 8
    )
    yield Made("lower eighth", lambda: sphere(r, -90, 0, 90), ball[0] / 8 + 3 * PI * r * r / 4, ball[1] / 8)
    yield Made(
        "wedge of 300",
        lambda: sphere(r, -90, 90, 300),
        ball[0] * 300 / 360 + PI * r * r,
        ball[1] * 300 / 360,
    )
    zone = 2 * PI * r * (r * (math.sin(PI / 6) + math.sin(PI / 6)))
    zone_rims = 2 * PI * (r * math.cos(PI / 6)) ** 2
    h = 2 * r * math.sin(PI / 6)
    zone_volume = PI * h * (6 * (r * math.cos(PI / 6)) ** 2 + h * h) / 6
    yield Made("zone", lambda: sphere(r, -30, 30), zone + zone_rims, zone_volume)
    for n, depth in enumerate((0.5, 4.0, 10.0, 13.0, 19.5)):

        def cap(depth: float = depth) -> TopoDS_Shape:
            return common(sphere(r), box((-20, -20, r - depth), (20, 20, 20)))

        yield Made(f"cap about the pole {n}", cap, cap_area(r, depth), cap_volume(r, depth))

        def aside(depth: float = depth) -> TopoDS_Shape:
            return common(sphere(r), box((r - depth, -20, -20), (20, 20, 20)))

        yield Made(f"cap across the seam {n}", aside, cap_area(r, depth), cap_volume(r, depth))

        def back(depth: float = depth) -> TopoDS_Shape:
            return common(sphere(r), box((-20, -20, -20), (-r + depth, 20, 20)))

        yield Made(f"cap off the seam {n}", back, cap_area(r, depth), cap_volume(r, depth))
    octant = ball[0] / 8 + 3 * PI * r * r / 4, ball[1] / 8
    for n, (x, y, z) in enumerate(((1, 1, 1), (-1, 1, 1), (1, -1, -1), (-1, -1, -1))):

        def corner(x: int = x, y: int = y, z: int = z) -> TopoDS_Shape:
            return common(
                sphere(r),
                box(
                    *(
                        tuple(
                            sorted_[i]
                            for sorted_ in (sorted((0, 20 * x)), sorted((0, 20 * y)), sorted((0, 20 * z)))
                        )
                        for i in (0, 1)
                    )
                ),
            )  # type: ignore[arg-type]

        yield Made(f"three corners {n}", corner, *octant)
    yield Made(
        "ball less an eighth",
        lambda: cut(sphere(r), box((0, 0, 0), (20, 20, 20))),
        ball[0] * 7 / 8 + 3 * PI * r * r / 4,
        ball[1] * 7 / 8,
    )
    drill = 3.0
    c = math.sqrt(r * r - drill * drill)
    drilled_area = 4 * PI * r * c + 2 * PI * drill * 2 * c
    drilled = 4 / 3 * PI * c**3
    for name, way in (("along", gp_Dir(0, 0, 1)), ("across", gp_Dir(1, 0, 0)), ("aslant", gp_Dir(1, 2, 3))):

        def bored(way: gp_Dir = way) -> TopoDS_Shape:
            at = gp_Pnt(-20 * way.X(), -20 * way.Y(), -20 * way.Z())
            return cut(sphere(r), BRepPrimAPI_MakeCylinder(axes(way, at), drill, 40).Shape())

        yield Made(f"ball drilled {name}", bored, drilled_area, drilled)


def _turned() -> Iterator[Made]:
    yield Made("torus", lambda: turned(disc(20, 0, 5)), ring_area(20, 5, 1), 2 * PI**2 * 20 * 25)
    for part in (0.25, 0.5, 0.75):
        yield Made(
            f"torus of {part}",
            lambda part=part: turned(disc(20, 3, 5), 360 * part),
            ring_area(20, 5, part),
            2 * PI**2 * 20 * 25 * part,
        )
    # Half tubes: the outer and the inner half of a round profile.
    for side in (1, -1):
        x = 20 + side * 4 * 5 / (3 * PI)
        arm = 20 + side * 2 * 5 / PI
        for part in (1.0, 0.5):

            def half(side: int = side, part: float = part) -> TopoDS_Shape:
                return turned(wire((20, -5), (20, 5), arcs={1: (20 + side * 5, 0)}), 360 * part)

            ends = 0 if part == 1 else PI * 25
            yield Made(
                f"half tube {side} {part}",
                half,
                part * 2 * PI * (PI * 5 * arm + 10 * 20) + ends,
                part * 2 * PI * x * PI * 25 / 2,
            )
    # A quarter ring turned about its own edge: a quarter disc about the axis is half a ball.
    yield Made(
        "ball turned",
        lambda: turned(wire((0, -7), (0, 7), arcs={1: (7, 0)})),
        4 * PI * 49,
        4 / 3 * PI * 343,
    )
    yield Made(
        "ball turned 200",
        lambda: turned(wire((0, -7), (0, 7), arcs={1: (7, 0)}), 200),
        4 * PI * 49 * 200 / 360 + PI * 49,
        4 / 3 * PI * 343 * 200 / 360,
    )
    # A torus that crosses itself: a circle of radius r about (d, 0), only what lies outside the axis.
    for d, r, name in ((3.0, 5.0, "apple"), (-3.0, 5.0, "lemon")):
        h = math.sqrt(r * r - d * d)
        t = math.acos(-d / r)
        arc = 2 * PI * (2 * d * r * t + 2 * r * r * math.sin(t))
        # volume: integral of pi x^2 dz with x = d + r cos v, z = r sin v over -t to t
        s1, s2, s3 = math.sin(t), math.sin(2 * t), math.sin(3 * t)
        volume = PI * r * (d * d * 2 * s1 + 2 * d * r * (t + s2 / 2) + r * r * (1.5 * s1 + s3 / 6))
        yield Made(
            name, lambda d=d, r=r, h=h: turned(wire((0, -h), (0, h), arcs={1: (d + r, 0)})), arc, volume
        )
    yield Made("cone", lambda: cone(6, 0, 8), PI * 36 + PI * 6 * 10, PI * 36 * 8 / 3)
    yield Made(
        "half cone",
        lambda: BRepPrimAPI_MakeCone(6, 0, 8, PI).Shape(),
        PI * 36 / 2 + PI * 6 * 10 / 2 + 48,
        PI * 36 * 8 / 6,
    )
    yield Made(
        "frustum",
        lambda: cone(6, 3, 4),
        PI * (36 + 9) + PI * 9 * 5,
        PI * 4 * (36 + 18 + 9) / 3,
    )
    yield Made("cylinder", lambda: tube(5, 12), 2 * PI * 25 + 120 * PI, 300 * PI)
    yield Made(
        "half cylinder",
        lambda: BRepPrimAPI_MakeCylinder(5, 12, PI).Shape(),
        PI * 25 + 60 * PI + 120,
        150 * PI,
    )
    yield Made(
        "double cone", lambda: turned(wire((0, -8), (6, 0), (0, 8))), 2 * PI * 6 * 10, 2 * PI * 36 * 8 / 3
    )
    yield Made(
        "ring of 0.01",
        lambda: cut(tube(30, 5), tube(29.99, 5)),
        2 * PI * (900 - 29.99**2) + 10 * PI * 59.99,
        5 * PI * (900 - 29.99**2),
    )
    yield Made(
        "thin torus", lambda: turned(disc(40, 0, 0.01)), ring_area(40, 0.01, 1), 2 * PI**2 * 40 * 1e-4
    )
    yield Made(
        "square ring",
        lambda: turned(wire((10, 0), (12, 0), (12, 3), (10, 3))),
        2 * PI * (2 * (144 - 100) / 2 + 22 * 3),
        3 * PI * 44,
    )


def _splines() -> Iterator[Made]:
    for made in (
        Made("ball", lambda: sphere(10), 400 * PI, 4000 / 3 * PI),
        Made("half ball", lambda: sphere(10, 0, 90), 300 * PI, 2000 / 3 * PI),
        Made("three corners", lambda: sphere(10, 0, 90, 90), 50 * PI + 75 * PI, 500 / 3 * PI),
        Made("torus", lambda: turned(disc(20, 0, 5)), ring_area(20, 5, 1), 1000 * PI**2),
        Made("half torus", lambda: turned(disc(20, 0, 5), 180), ring_area(20, 5, 0.5), 500 * PI**2),
        Made("cylinder", lambda: tube(5, 12), 170 * PI, 300 * PI),
        Made("cone", lambda: cone(6, 0, 8), 96 * PI, 96 * PI),
        Made(
            "drilled",
            lambda: drilled(10, 6),
            4 * PI * 10 * 8 + 2 * PI * 6 * 16,
            4 / 3 * PI * 512,
        ),
    ):
        yield Made(
            f"{made.name} of splines", lambda made=made: splined(made.make()), made.area, made.volume, True
        )


def _twice_turned() -> Iterator[Made]:
    """Faces with both flags reversed: the surface mirrored twice over."""
    mirror = gp_Trsf()
    mirror.SetMirror(gp_Ax2(ORIGIN, gp_Dir(1, 2, 2)))
    for made in (*list(_turned())[:12], *list(_spheres())[:5]):

        def make(made: Made = made) -> TopoDS_Shape:
            return BRepBuilderAPI_Transform(made.make(), mirror, True).Shape()

        yield Made(f"{made.name} mirrored", make, made.area, made.volume, made.is_spline)


def all_made() -> list[Made]:
    """All of them, some sixty."""
    return [*_spheres(), *_turned(), *_splines(), *_twice_turned()]


MADE_BY_NAME = {made.name: made for made in all_made()}
