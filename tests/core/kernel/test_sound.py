"""Faces shown to be sound without the kernel are sound to the kernel too, and as large.

The kernel's own check and integration are the referee; every example of every check, the outside
files and the demo are looked at.
"""

from __future__ import annotations

from collections.abc import Iterator
from math import pi
from pathlib import Path

import numpy as np
import pytest
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepGProp import BRepGProp
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.GProp import GProp_GProps

from gondrel.core.checks.runner import all_checks
from gondrel.core.kernel.build import block, cut, cylinder
from gondrel.core.kernel.inspection import Inspection, inspect_shape
from gondrel.core.kernel.shape import shape_from_blob
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive

SHAPES = {
    "block": (block(10, 20, 30), [200, 200, 300, 300, 600, 600]),
    "cylinder": (cylinder(5, 20), [25 * pi, 25 * pi, 200 * pi]),
    "bored": (cut(block(40, 30, 10), cylinder(6, 30, at=(20, 15, -5))), None),
    "crossed bores": (cut(cylinder(10, 40), cylinder(3, 60, at=(0, 0, -10))), None),
    "cone": (BRepPrimAPI_MakeCone(6, 0, 8).Shape(), [36 * pi, 60 * pi]),
    "part of a cone": (BRepPrimAPI_MakeCone(6, 2, 8, 2.0).Shape(), None),
    "sphere": (BRepPrimAPI_MakeSphere(5).Shape(), [100 * pi]),
    "part of a sphere": (BRepPrimAPI_MakeSphere(5, -0.4, 1.1, 2.5).Shape(), None),
    "torus": (BRepPrimAPI_MakeTorus(9, 2).Shape(), [72 * pi * pi]),
    "part of a torus": (BRepPrimAPI_MakeTorus(9, 2, 4.0).Shape(), None),
}


def _agrees(body: Inspection) -> float:
    """Compare with the kernel; the share of faces that are shown to be sound."""
    areas = body.soundness.areas
    analyzer = BRepCheck_Analyzer(body.shape, True)
    for face in np.flatnonzero(~np.isnan(areas)):
        assert analyzer.IsValid(body.face_shapes[face]), face
        exact = GProp_GProps()
        BRepGProp.SurfaceProperties_s(body.face_shapes[face], exact, 1e-8)
        assert areas[face] == pytest.approx(exact.Mass(), rel=1e-4)
    return float(np.mean(~np.isnan(areas))) if len(areas) else 0.0


@pytest.mark.parametrize("name", SHAPES)
def test_plain_shapes_are_sound_and_as_large_as_their_formulas_say(name) -> None:
    shape, areas = SHAPES[name]
    body = inspect_shape(shape)
    assert _agrees(body) == 1.0
    if areas is not None:
        assert sorted(body.soundness.areas) == pytest.approx(areas, rel=1e-4)


def _examples() -> Iterator[tuple[str, object]]:
    for check in all_checks():
        yield f"{check.name}-bad", check.bad
        yield f"{check.name}-good", check.good


@pytest.mark.parametrize("make", [e[1] for e in _examples()], ids=[e[0] for e in _examples()])
def test_nothing_that_the_kernel_finds_wrong_is_called_sound(make) -> None:
    _agrees(inspect_shape(make()))


@pytest.mark.slow
def test_outside_files_and_the_demo(as1, demo_file, occt_files, store_folder) -> None:
    """Of the demo, which is of planes and round faces, nearly all is seen without the kernel."""
    store, shares = BlobStore(Path(store_folder)), {}
    for path in (as1, demo_file, *occt_files):
        model = receive(path, store_folder)
        found = [_agrees(inspect_shape(shape_from_blob(store.get(key)))) for key in model.blobs()]
        shares[path] = sum(found) / len(found)
    assert shares[demo_file] > 0.8
