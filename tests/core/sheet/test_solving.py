"""Relations that are recognised, and profiles that keep them when sizes are given new values."""

import math
from dataclasses import replace

import pytest

from gondrel.core.errors import UsageError
from gondrel.core.model.outline import Arc, FlatLine
from gondrel.core.model.relations import RELATIONS
from gondrel.core.sheet.curve_sizes import ends_of, tangents_of
from gondrel.core.sheet.regions import find_regions
from gondrel.core.sheet.relations import relations_of, sizes_of
from gondrel.core.sheet.solving import freedom_of, resized
from tests.core.sheet.test_regions import TURN, box, lines, slot


def bracket(length=80.0, height=50.0, thick=10.0, inner=6.0, outer=16.0, bore=4.0):
    """An angle bracket: two legs, a fillet inside, a round outside, rounded ends with concentric bores."""
    half = thick / 2
    return [
        FlatLine((outer, 0), (length, 0)),
        Arc((length, half), half, -math.pi / 2, math.pi / 2),
        FlatLine((length, thick), (thick + inner, thick)),
        Arc((thick + inner, thick + inner), inner, math.pi, 1.5 * math.pi),
        FlatLine((thick, thick + inner), (thick, height)),
        Arc((half, height), half, 0, math.pi),
        FlatLine((0, height), (0, outer)),
        Arc((outer, outer), outer, math.pi, 1.5 * math.pi),
        Arc((length, half), bore / 2, 0, TURN),
        Arc((half, height), bore / 2, 0, TURN),
    ]


def kinds(profile):
    found = relations_of(profile)
    return {kind: sum(r.kind == kind for r in found) for kind in RELATIONS}


def holds(before, after) -> bool:
    """Whether every relation still holds to 1e-9, looked at curve by curve and not through the solver."""
    curves = after.curves

    def way(n):
        return complex(*curves[n].end) - complex(*curves[n].start)

    def size(n):
        return abs(way(n)) if isinstance(curves[n], FlatLine) else curves[n].radius

    for relation in relations_of(before):
        first, last = relation.curves[0], relation.curves[-1]
        if relation.kind == "level":
            off = way(first).imag
        elif relation.kind == "upright":
            off = way(first).real
        elif relation.kind == "equal":
            off = size(first) - size(last)
        elif relation.kind == "concentric":
            off = math.dist(curves[first].centre, curves[last].centre)
        elif relation.kind in ("parallel", "square"):
            turn = way(first).conjugate() * way(last) / abs(way(first))
            off = turn.imag if relation.kind == "parallel" else turn.real
        else:
            at = after.nodes[relation.node]
            ends = [end for n in (first, last) for end in ends_of(curves[n])]
            off = sorted(math.dist(at, end) for end in ends)[1]  # both end there
            if relation.kind == "tangent":
                ways = [tangents_of(curves[n])[after.ends[n].index(relation.node)] for n in (first, last)]
                off = max(off, abs(float(ways[0][0] * ways[1][1] - ways[0][1] * ways[1][0])))
        if abs(off) > 1e-9:
            print(relation, off)
            return False
    return True


def area_of(profile) -> float:
    return find_regions(profile.curves).regions[0].area


def bracket_area(length, height, thick, inner, outer, bore):
    legs = length * thick + (height - thick) * thick
    ends = 2 * math.pi * (thick / 2) ** 2 / 2
    corners = (1 - math.pi / 4) * (inner**2 - outer**2)
    return legs + ends + corners - 2 * math.pi * (bore / 2) ** 2


def test_what_holds_in_a_bracket() -> None:
    profile = find_regions(bracket())
    found = kinds(profile)
    assert found["coincident"] == 8 and found["tangent"] == 8
    assert found["level"] == 2 and found["upright"] == 2
    assert found["concentric"] == 3 and found["equal"] >= 2
    assert area_of(profile) == pytest.approx(bracket_area(80, 50, 10, 6, 16, 4), rel=1e-12)


def test_a_longer_leg_keeps_all_that_holds() -> None:
    profile = find_regions(bracket())
    relations = relations_of(profile)
    size = next(s for s in sizes_of(profile) if s.kind == "length" and s.curves == (0,))
    assert size.value == pytest.approx(64)
    made, solved = resized(profile, relations, [replace(size, value=94.0)])
    assert solved.worst < 1e-9 and holds(profile, made)
    assert area_of(made) == pytest.approx(bracket_area(110, 50, 10, 6, 16, 4), rel=1e-9)
    assert made.curves[8].centre == pytest.approx((110, 5), abs=1e-9)
    assert made.curves[5].radius == pytest.approx(5, abs=1e-9) and made.curves[6].start == pytest.approx(
        (0, 50)
    )


@pytest.mark.parametrize("value", [2.0, 9.0])
def test_another_radius(value) -> None:
    """The fillet inside: its neighbours stay tangent and give way."""
    profile = find_regions(bracket())
    size = next(s for s in sizes_of(profile) if s.kind == "radius" and s.curves == (3,))
    made, solved = resized(profile, relations_of(profile), [replace(size, value=value)])
    assert solved.worst < 1e-9 and holds(profile, made)
    assert made.curves[3].radius == pytest.approx(value, abs=1e-9)
    assert made.curves[8].radius == pytest.approx(2, abs=1e-9)


def test_a_triangle_with_another_angle() -> None:
    profile = find_regions(lines((0, 0), (40, 0), (0, 30)))
    size = next(s for s in sizes_of(profile) if s.kind == "angle" and set(s.curves) == {0, 1})
    made, _ = resized(
        profile, relations_of(profile), [replace(size, value=math.copysign(math.pi * 0.75, size.value))]
    )
    corner = made.curves[0].end
    along, back = (
        complex(*b) - complex(*a) for a, b in ((corner, made.curves[0].start), (corner, made.curves[1].end))
    )
    assert math.atan2(
        abs((along.conjugate() * back).imag), (along.conjugate() * back).real
    ) == pytest.approx(math.pi / 4, abs=1e-9)
    assert holds(profile, made)  # it has a level and an upright side still


def test_a_slot_and_a_distance_of_holes() -> None:
    profile = find_regions([*box(0, 0, 100, 40), Arc((20, 20), 5, 0, TURN), Arc((60, 20), 5, 0, TURN)])
    size = next(s for s in sizes_of(profile) if s.kind == "distance" and s.value == pytest.approx(40))
    made, _ = resized(profile, relations_of(profile), [replace(size, value=55.0)])
    assert math.dist(made.curves[4].centre, made.curves[5].centre) == pytest.approx(55, abs=1e-9)
    assert holds(profile, made) and area_of(made) == pytest.approx(4000 - 50 * math.pi, rel=1e-9)
    profile = find_regions(slot(0, 0, 30, 5))
    radius = next(s for s in sizes_of(profile) if s.kind == "radius")
    made, _ = resized(profile, relations_of(profile), [replace(radius, value=8.0)])
    assert area_of(made) == pytest.approx(30 * 16 + 64 * math.pi, rel=1e-9) and holds(profile, made)


def test_what_contradicts_is_refused_with_a_word() -> None:
    profile = find_regions(slot(0, 0, 30, 5))
    sizes = {s.curves: s for s in sizes_of(profile) if s.kind == "length"}
    wanted = [replace(sizes[0,], value=40.0), replace(sizes[2,], value=50.0)]
    with pytest.raises(UsageError, match="can't all be had"):
        resized(profile, relations_of(profile), wanted)
    with pytest.raises(UsageError, match="more than 0"):
        resized(profile, relations_of(profile), [replace(sizes[0,], value=-1.0)])
    kept = [r for r in relations_of(profile) if r.kind not in ("equal", "level", "tangent")]
    made, _ = resized(profile, kept, wanted)  # without what it contradicts it can be had
    assert [math.dist(made.curves[n].start, made.curves[n].end) for n in (0, 2)] == pytest.approx([40, 50])


def test_what_is_free_is_told() -> None:
    profile = find_regions(box(0, 0, 30, 20))
    relations = [r for r in relations_of(profile) if r.kind in ("coincident", "level", "upright")]
    freedom = freedom_of(profile, relations)
    assert freedom.degrees == 2 and set(freedom.free) == {0, 1, 2, 3} and freedom.too_much == 0
    sizes = {s.curves: s for s in sizes_of(profile)}
    held = freedom_of(profile, relations, [sizes[0,]])
    assert held.degrees == 1 and set(held.free) == {0, 1, 2, 3}
    assert freedom_of(profile, relations, [sizes[0,], sizes[1,]]).degrees == 0
    assert freedom_of(profile, relations, [sizes[0,], sizes[2,]]).too_much == 1
