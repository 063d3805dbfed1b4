"""Tolerances and vertices fitted to the edges that are there; a block with one corner moved."""

from __future__ import annotations

import pytest

from gondrel.core.kernel.examples.broken import moved_vertex, wide_tolerance
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling.build import block, cylinder
from gondrel.core.kernel.repair.fitting import fit_tolerances, vertices_to_edges, widest_tolerance


def _off_ends(shape) -> float:
    return max(edge.off_ends for edge in inspect_shape(shape).edges)


@pytest.mark.parametrize("width", [0.02, 0.5, 3.0])
def test_tolerances_wider_than_needed_become_as_narrow_as_the_kernel_tells(width) -> None:
    wide = wide_tolerance(block(10, 20, 30), width)
    assert widest_tolerance(wide) == pytest.approx(width)
    ((kind, fitted),) = fit_tolerances(wide)
    assert kind.value == "solid" and widest_tolerance(fitted) <= 1e-5
    assert widest_tolerance(wide) == pytest.approx(width), "what came in stays as it was"
    assert measure(fitted).volume == pytest.approx(6000.0)


@pytest.mark.parametrize("by", [0.02, 0.07])
def test_tolerances_that_are_needed_stay(by) -> None:
    """A vertex off its edges needs as much as it lies off."""
    ((_, fitted),) = fit_tolerances(moved_vertex(by))
    assert by * 0.99 <= widest_tolerance(fitted) <= by * 1.2


@pytest.mark.parametrize("by", [0.004, 0.05])
def test_a_moved_vertex_goes_back_to_where_its_edges_end(by) -> None:
    broken = moved_vertex(by)
    assert _off_ends(broken) == pytest.approx(by, rel=1e-6)
    ((_, mended),) = vertices_to_edges(broken, 1e-3)
    assert _off_ends(mended) < 1e-9
    corners = {tuple(round(v, 9) for v in at) for at, _ in inspect_shape(mended).vertices}
    sound = {tuple(round(v, 9) for v in at) for at, _ in inspect_shape(moved_vertex(0.0)).vertices}
    assert corners == sound and measure(mended).volume == pytest.approx(measure(broken).volume)


@pytest.mark.parametrize("shape", [block(10, 20, 30), cylinder(5, 10)])
def test_sound_bodies_stay_as_they_are(shape) -> None:
    ((_, same),) = vertices_to_edges(shape, 1e-3)
    before, after = measure(shape), measure(same)
    assert (after.faces, after.edges, after.vertices) == (before.faces, before.edges, before.vertices)
    assert after.volume == pytest.approx(before.volume, rel=1e-12)
