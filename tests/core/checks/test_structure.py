"""Checks of names, places and sizes on small models made for them."""

from __future__ import annotations

from dataclasses import replace

import pytest

from gondrel.core.checks.base import Scope
from gondrel.core.checks.catalogue import checks_in
from gondrel.core.checks.runner import check_model
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.doubts import size_doubt, size_factor
from gondrel.core.model.findings import Finding, Severity
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from


def at(x: float, y: float = 0.0) -> tuple[float, ...]:
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, 0, 0, 0, 0, 1)


def product(store: BlobStore, key: str, shape=None, **fields) -> Product:
    bodies = ()
    if shape is not None:
        bodies = (Body(f"{key}-b", BodyKind.SOLID, "", store.put(shape_to_blob(shape))),)
    given = {"number": f"N-{key}", "name": f"Part {key}", **fields}
    return Product(key, bodies=bodies, **given)


def find_in_structure(model: Model, store: BlobStore) -> list[Finding]:
    own = {check.code for check in checks_in(Scope.STRUCTURE)}
    return [f for f in check_model(model, store, overlaps=False).findings if f.code in own]


def codes(model: Model, store: BlobStore) -> list[str]:
    return sorted(f.code for f in find_in_structure(model, store))


def test_a_well_kept_model_has_nothing(tmp_path) -> None:
    store = BlobStore(tmp_path)
    parts = (product(store, "a", block(1, 2, 3)), product(store, "b", cylinder(1, 2)))
    assert codes(Model(parts, ("a", "b")), store) == []


@pytest.mark.parametrize(
    ("fields", "code"),
    [
        ({"name": ""}, "M601"), ({"name": "  "}, "M601"), ({"number": "N-a"}, "M602"),
        ({"name": "Bush \u00d832"}, "M603"), ({"name": "Part a"}, "M604"), ({"name": "Bush "}, "M605"),
        ({"number": "N\t2"}, "M605"), ({"number": ""}, "M606"), ({"missing_file": "x.stp"}, "A505"),
    ],
)  # fmt: skip
def test_names_and_numbers(fields, code, tmp_path) -> None:
    store = BlobStore(tmp_path)
    first, second = product(store, "a", block(1, 2, 3)), product(store, "b", block(4, 5, 6), **fields)
    found = codes(Model((first, second), ("a", "b")), store)
    assert found == [code]


def test_every_code_has_a_title_and_a_severity() -> None:
    assert all(c.title and isinstance(c.severity, Severity) for c in checks_in(Scope.STRUCTURE))


@pytest.mark.parametrize(("away", "is_far"), [(9_000.0, True), (300.0, False), (0.0, False)])
def test_what_lies_far_off_is_told(away, is_far, tmp_path) -> None:
    """Nine plates of 10 mm within 90 mm, and one elsewhere."""
    store = BlobStore(tmp_path)
    plate = product(store, "plate", block(10, 10, 10))
    pin = product(store, "pin", cylinder(3, 10))
    uses = tuple(Occurrence(f"o{n}", "plate", f"{n}", at(30 * (n % 3), 30 * (n // 3))) for n in range(9))
    top = Product("top", "T", "Top", occurrences=(*uses, Occurrence("far", "pin", "", at(away, 15.0))))
    found = [f for f in find_in_structure(Model((top, plate, pin), ("top",)), store) if f.code == "A513"]
    assert bool(found) == is_far
    if found:
        assert found[0].product == "pin" and found[0].measured == pytest.approx(away, rel=0.02)


def _holed(size: float):
    plate = block(120 * size, 80 * size, 10 * size)
    for number, diameter in enumerate((12.7, 25.4, 19.05, 9.525)):
        at_ = ((20 + 25 * number) * size, 40 * size, -5 * size)
        plate = cut(plate, cylinder(diameter * size / 2, 20 * size, at=at_))
    return plate


@pytest.mark.slow
@pytest.mark.parametrize("size", [1 / 25.4, 1.0])
def test_sizes_that_are_usual_only_in_inches(size, tmp_path) -> None:
    folder = str(tmp_path / "store")
    store = BlobStore(tmp_path / "store")
    path = str(tmp_path / "plate.stp")
    made = Model((product(store, "plate", _holed(size)),), ("plate",))
    send(made, path, "step-ap242", settings_from({}), folder)
    model = receive(path, folder)
    found = [f for f in find_in_structure(model, store) if f.code == "A512"]
    assert bool(found) == (size < 1)
    if found:
        assert found[0].measured == pytest.approx(25.4)
        (part,) = model.products
        blob = store.put(shape_to_blob(_holed(1.0)))
        grown = replace(model, products=(replace(part, bodies=(replace(part.bodies[0], blob=blob),)),))
        assert not [f for f in find_in_structure(grown, store) if f.code == "A512"], "gone when rescaled"


def test_the_factor_and_the_doubt_are_one() -> None:
    inches = [d / 25.4 for d in (12.7, 25.4, 19.05, 9.525)]
    factor, why = size_factor(inches, 120 / 25.4, "mm")
    assert factor == pytest.approx(25.4) and why == size_doubt(inches, 120 / 25.4, "mm")
    assert size_factor([10.0, 12.0, 6.4], 200.0, "mm") is None
