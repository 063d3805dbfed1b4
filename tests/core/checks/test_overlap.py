"""Overlaps: the common volume of placed solids, by closed form."""

from __future__ import annotations

from dataclasses import replace
from math import pi

import pytest

from gondrel.core.checks.base import Scope
from gondrel.core.checks.catalogue import checks_in
from gondrel.core.checks.runner import check_model
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cylinder, sphere
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.findings import Finding
from gondrel.core.model.store import BlobStore
from tests.builders import shifted


def _assembly(store: BlobStore, *placed) -> Model:
    """Parts of (shape, placement) in one assembly."""
    parts, uses = [], []
    for number, (shape, placement) in enumerate(placed):
        body = Body(f"b{number}", BodyKind.SOLID, "", store.put(shape_to_blob(shape)))
        parts.append(Product(f"p{number}", f"N-{number}", f"Part {number}", bodies=(body,)))
        uses.append(Occurrence(f"o{number}", f"p{number}", "", placement))
    top = Product("top", "T", "Top", occurrences=tuple(uses))
    return Model((top, *parts), ("top",))


def find_overlaps(model: Model, store: BlobStore) -> list[Finding]:
    own = {check.code for check in checks_in(Scope.PLACED)}
    return [f for f in check_model(model, store).findings if f.code in own]


def _lens(radius: float, apart: float) -> float:
    """Volume common to two equal spheres: pi (4 r + d) (2 r - d)^2 / 12 (any geometry handbook)."""
    return pi * (4 * radius + apart) * (2 * radius - apart) ** 2 / 12


@pytest.mark.parametrize(
    ("placed", "volume"),
    [
        (((block(10, 20, 30), shifted(0)), (block(10, 20, 30), shifted(6, 5, 0))), 4 * 15 * 30),
        (((sphere(10), shifted(0)), (sphere(10), shifted(12))), _lens(10, 12)),
        (((block(40, 40, 10), shifted(0)), (cylinder(5, 50), shifted(20, 20, -20))), pi * 25 * 10),
        (((block(40, 40, 10), shifted(0)), (cylinder(5, 5), shifted(20, 20, 2))), pi * 25 * 5),
    ],
    ids=["blocks", "spheres", "a pin through a plate", "one inside the other"],
)
def test_common_volume_by_closed_form(placed, volume, tmp_path) -> None:
    store = BlobStore(tmp_path)
    (found,) = find_overlaps(_assembly(store, *placed), store)
    assert found.measured == pytest.approx(volume, rel=1e-6)


def test_touching_and_distant_solids_do_not_overlap(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = _assembly(
        store, (block(10, 20, 30), shifted(0)), (block(10, 20, 30), shifted(10)),
        (cylinder(3, 9), shifted(100)),
    )  # fmt: skip
    assert not list(find_overlaps(model, store))


def test_equal_pairs_are_worked_out_once(tmp_path, monkeypatch) -> None:
    from gondrel.core.checks import overlap

    store = BlobStore(tmp_path)
    one = _assembly(store, (block(10, 10, 10), shifted(0)))
    uses = tuple(Occurrence(f"u{i}", "p0", "", shifted(8.0 * i)) for i in range(20))
    row = replace(one, products=(replace(one.products[0], occurrences=uses), one.products[1]))
    calls = []
    real = overlap.common_volume
    monkeypatch.setattr(overlap, "common_volume", lambda *a: calls.append(1) or real(*a))
    found = list(find_overlaps(row, store))
    assert len(found) == 19 and len(calls) == 1
    assert all(f.measured == pytest.approx(200.0, rel=1e-6) for f in found)
