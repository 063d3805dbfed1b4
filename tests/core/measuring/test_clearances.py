"""Least distances between placed bodies against closed forms, and pairs that come too close."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.modelling.build import block, cylinder, sphere
from gondrel.core.measuring.clearances import closer_than, least_clearance
from gondrel.core.measuring.placed import placed_bodies, under
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.reports.measured import Labels
from gondrel.core.service.receive import measure_all
from tests.builders import shifted

TILT = math.radians(30.0)
TURNED = (
    math.cos(TILT),
    0,
    math.sin(TILT),
    100.0,
    0,
    1,
    0,
    0,
    -math.sin(TILT),
    0,
    math.cos(TILT),
    0,
    0,
    0,
    0,
    1,
)


@pytest.fixture
def made(store_folder: str):
    store = BlobStore(Path(store_folder))
    shapes = {"ball": sphere(5.0), "rod": cylinder(3.0, 40.0), "slab": block(20.0, 20.0, 4.0)}
    parts = [
        Product(
            name, "", name, bodies=(Body(f"b-{name}", BodyKind.SOLID, "", store.put(shape_to_blob(shape))),)
        )
        for name, shape in shapes.items()
    ]
    uses = (
        Occurrence("far", "ball", "", shifted(0, 300)), Occurrence("near", "ball", "", shifted(0, 0, -9)),
        Occurrence("rod", "rod", "", TURNED), Occurrence("slab", "slab", "", shifted(-10, -10, 0)),
    )  # fmt: skip
    model = Model((Product("top", "", "Top", occurrences=uses), *parts), ("top",))
    return model, store, measure_all(model.blobs(), store_folder)


def test_the_nearest_of_many_is_found(made) -> None:
    model, store, facts = made
    found = least_clearance(under(model, ["ball"]), under(model, ["slab"]), store, facts)
    assert found.distance == pytest.approx(4.0, rel=1e-9) and found.items[0][1] == ("near",)
    assert np.array(found.points) == pytest.approx(np.array([[0, 0, -4], [0, 0, 0]]), abs=1e-7)


def test_a_turned_rod_and_a_ball(made) -> None:
    """The ball's middle from the rod's axis, less both radii; the foot lies within the rod."""
    model, store, facts = made
    axis = np.array([math.sin(TILT), 0, math.cos(TILT)])
    away = np.array([0.0, 0, -9]) - np.array([100.0, 0, 0])
    along = float(away @ axis)
    assert along < 0, "beyond its end: the rim of the end face is nearest"
    found = least_clearance(under(model, ["rod"]), under(model, ["ball"]), store, facts)
    across = np.linalg.norm(away - along * axis)
    assert found.distance == pytest.approx(math.hypot(across - 3.0, along) - 5.0, rel=1e-9)


def test_pairs_that_come_too_close(made) -> None:
    model, store, facts = made
    bodies = list(placed_bodies(model))
    assert closer_than(bodies, 3.9, store, facts) == []
    (pair,) = closer_than(bodies, 4.1, store, facts)
    assert pair.distance == pytest.approx(4.0, rel=1e-9)


def test_what_can_not_be_measured_is_said(made) -> None:
    model, store, facts = made
    slab = under(model, ["slab"])
    with pytest.raises(UsageError, match="no body"):
        least_clearance(slab, [], store, facts)
    with pytest.raises(UsageError, match="only one body"):
        least_clearance(slab, slab, store, facts)
    mesh = store.put(tessellated(sphere(5.0), chord=0.1, angle=0.3).to_bytes())
    body = Body("m", BodyKind.MESH, "", mesh)
    meshed = Model((Product("mesh", "", "Mesh", bodies=(body,)),), ("mesh",))
    known = {**facts, mesh: facts[model.product("ball").bodies[0].blob]}
    with pytest.raises(UsageError, match="it is a mesh"):
        least_clearance(under(meshed, ["mesh"]), slab, store, known)


def test_places_have_names(made) -> None:
    model, _, _ = made
    top = model.product("top")
    uses = tuple(replace(use, name="Rod 1" if use.id == "rod" else "") for use in top.occurrences)
    model = model.with_product(replace(top, occurrences=uses))
    assert Labels(model).of(("rod",), "rod") == "Rod 1"
    assert Labels(model).of((), "top") == "Top"
