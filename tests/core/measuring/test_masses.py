"""Mass, centre and inertia of placed rings against closed forms of mechanics."""

import math
from dataclasses import replace

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder

from gondrel.core.kernel.measure.mass import measure
from gondrel.core.measuring.masses import mass_of
from gondrel.core.measuring.placed import placed_bodies, scale_of, under
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.product import Material

OUTER, INNER, HEIGHT, DENSITY = 50.0, 30.0, 20.0, 7850.0


@pytest.fixture(scope="module")
def ring():
    whole = BRepPrimAPI_MakeCylinder(OUTER, HEIGHT).Shape()
    return measure(BRepAlgoAPI_Cut(whole, BRepPrimAPI_MakeCylinder(INNER, HEIGHT).Shape()).Shape())


def model_of(*placements, material=Material("Steel", DENSITY)) -> Model:
    part = Product("ring", "", "Ring", bodies=(Body("b", BodyKind.SOLID, "", "key"),), material=material)
    uses = tuple(Occurrence(f"u{n}", "ring", "", tuple(p)) for n, p in enumerate(placements))
    return Model((Product("top", "", "Top", occurrences=uses), part), ("top",))


def expected() -> tuple[float, float, float]:
    """Mass, and moments about the axis and across it through the middle: m (R2 + r2) / 2, m (3 (R2 + r2) +
    h2) / 12; any table of moments of inertia."""
    mass = math.pi * (OUTER**2 - INNER**2) * HEIGHT * DENSITY * 1e-9
    squares = OUTER**2 + INNER**2
    return mass, mass * squares / 2, mass * (3 * squares + HEIGHT**2) / 12


def test_a_ring(ring) -> None:
    mass, along, across = expected()
    found = mass_of(list(placed_bodies(model_of(np.eye(4).ravel()))), {"key": ring})
    assert found.mass == pytest.approx(mass, rel=1e-9)
    assert found.centre == pytest.approx((0, 0, HEIGHT / 2), abs=1e-9)
    assert np.diag(np.reshape(found.inertia, (3, 3))) == pytest.approx([across, across, along], rel=1e-9)


def test_two_rings_turned_and_moved(ring) -> None:
    """One stands on X, the other mirrored on -X: the rule of parallel axes by hand."""
    mass, along, across = expected()
    onto_x = np.array([[0, 0, 1, 0], [1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 0, 1.0]])
    mirrored = np.diag([-1.0, 1, 1, 1]) @ onto_x
    onto_x[0, 3], mirrored[0, 3] = 100.0, -100.0
    found = mass_of(list(placed_bodies(model_of(onto_x.ravel(), mirrored.ravel()))), {"key": ring})
    away = 100.0 + HEIGHT / 2
    assert found.mass == pytest.approx(2 * mass, rel=1e-9)
    assert found.centre == pytest.approx((0, 0, 0), abs=1e-9)
    wanted = np.diag([2 * along, 2 * (across + mass * away**2), 2 * (across + mass * away**2)])
    assert np.reshape(found.inertia, (3, 3)) == pytest.approx(wanted, rel=1e-9, abs=1e-6 * along)


def test_a_scaled_ring(ring) -> None:
    mass, along, _ = expected()
    scaled = np.diag([2.0, 2.0, 2.0, 1.0])
    assert scale_of(tuple(scaled.ravel())) == pytest.approx(2.0, rel=1e-15)
    found = mass_of(list(placed_bodies(model_of(scaled.ravel()))), {"key": ring})
    assert found.mass == pytest.approx(8 * mass, rel=1e-9)
    assert found.inertia[8] == pytest.approx(32 * along, rel=1e-9)


def test_nothing_is_made_up_without_a_density(ring) -> None:
    model = model_of(np.eye(4).ravel(), material=None)
    found = mass_of(list(placed_bodies(model)), {"key": ring})
    assert (found.mass, found.centre, found.inertia) == (None, None, None)
    assert found.without == ("Ring",) and found.volume == pytest.approx(ring.volume)


def test_only_what_was_asked_for_is_weighed(ring) -> None:
    model = model_of(np.eye(4).ravel(), np.eye(4).ravel())
    assert len(under(model, ["ring"])) == len(under(model, ["top"])) == 2
    apart = replace(model, roots=("top", "ring"))
    assert len(under(apart, ["top"])) == 2 and len(under(apart, ["ring"])) == 3
