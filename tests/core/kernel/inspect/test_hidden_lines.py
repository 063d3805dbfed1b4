"""Lines of views against what is counted by hand and worked out in closed form."""

import math

import pytest
from scipy.special import ellipe

from gondrel.core.kernel.inspect.hidden_lines import lines_seen
from gondrel.core.kernel.modelling.build import block, cut, cylinder, sphere, torus
from gondrel.core.measuring.views import VIEWS, view_frame
from gondrel.core.model.outline import Arc, FlatEllipse, FlatLine
from gondrel.core.sheet.covering import drawn_once
from gondrel.core.sheet.curve_sizes import curve_length, whole_length

FORESHORTENED = math.sqrt(2 / 3)  # of edges along an axis, seen isometrically


def view(name, *shapes):
    lines = drawn_once(lines_seen(shapes, view_frame(name)))
    return [x for x in lines if not x.is_hidden], [x for x in lines if x.is_hidden]


def length(lines) -> float:
    return whole_length(line.curve for line in lines)


@pytest.mark.parametrize("name", VIEWS)
def test_a_box(name) -> None:
    """Four lines from any side; isometrically nine seen and three hidden, each foreshortened."""
    seen, hidden = view(name, block(30, 20, 10))
    if name == "iso":
        assert (len(seen), len(hidden)) == (9, 3)
        assert length(seen) == pytest.approx(3 * 60 * FORESHORTENED, rel=1e-9)
        assert length(hidden) == pytest.approx(60 * FORESHORTENED, rel=1e-9)
    else:
        across = {"left": (20, 10), "right": (20, 10), "top": (30, 20), "bottom": (30, 20)}
        sides = across.get(name, (30, 10))
        assert (len(seen), len(hidden)) == (4, 0)
        assert length(seen) == pytest.approx(2 * sum(sides), rel=1e-12)


def test_a_cylinder() -> None:
    seen, hidden = view("front", cylinder(5, 20))
    assert (len(seen), len(hidden)) == (4, 0) and all(isinstance(x.curve, FlatLine) for x in seen)
    assert length(seen) == pytest.approx(2 * 10 + 2 * 20, rel=1e-12)
    seen, hidden = view("top", cylinder(5, 20))
    assert [type(x.curve) for x in seen] == [Arc] and not hidden
    assert length(seen) == pytest.approx(10 * math.pi, rel=1e-12)
    seen, hidden = view("iso", cylinder(5, 20))
    rim = 4 * 5 * ellipe(1 - 1 / 3)  # an ellipse whose narrow axis is the wide one over the root of three
    assert (len(seen), len(hidden)) == (4, 1) and isinstance(hidden[0].curve, FlatEllipse)
    assert length(seen) == pytest.approx(1.5 * rim + 2 * 20 * FORESHORTENED, rel=1e-7)
    assert length(hidden) == pytest.approx(rim / 2, rel=1e-6)


def test_a_plate_with_holes() -> None:
    """From the front each of three through holes leaves two hidden lines; from above a circle."""
    holes = [cylinder(3, 40, at=(x, 0, -20)) for x in (15, 30, 45)]
    plate = cut(block(60, 40, 8, at=(0, -20, 0)), *holes)
    seen, hidden = view("front", plate)
    assert (len(seen), len(hidden)) == (4, 6)
    assert length(hidden) == pytest.approx(6 * 8, rel=1e-9)
    seen, hidden = view("top", plate)
    assert (len(seen), len(hidden)) == (7, 0)
    assert length(seen) == pytest.approx(200 + 3 * 6 * math.pi, rel=1e-12)


def test_what_stands_in_front_hides() -> None:
    """A block behind a larger one is hidden to its last line."""
    seen, hidden = view("front", block(40, 10, 40), block(10, 10, 10, at=(15, 30, 15)))
    assert (len(seen), len(hidden)) == (4, 4) and {x.part for x in hidden} == {1}
    seen, hidden = view("back", block(40, 10, 40), block(10, 10, 10, at=(15, 30, 15)))
    assert (len(seen), len(hidden)) == (8, 0)


@pytest.mark.parametrize("name", VIEWS)
def test_a_sphere_is_a_circle(name) -> None:
    seen, hidden = view(name, sphere(7))
    assert not hidden and length(seen) == pytest.approx(14 * math.pi, rel=1e-9)


def test_a_torus_from_above() -> None:
    seen, hidden = view("top", torus(20, 5))
    assert not hidden and len(seen) == 2
    assert sum(curve_length(x.curve) for x in seen) == pytest.approx(2 * math.pi * 40, rel=1e-5)
