"""Equal products made one."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from gondrel.core.arrange.merging import merge_products
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import moved_copy, shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore

TURNED = (0.0, 0.0, 1.0, 7.0, 1.0, 0.0, 0.0, 8.0, 0.0, 1.0, 0.0, 9.0, 0.0, 0.0, 0.0, 1.0)


def middles(model: Model, store: BlobStore) -> list[list[float]]:
    made = []
    for place in model.walk():
        matrix = np.reshape(np.array(place.placement, float), (4, 4))
        for body in model.product(place.product).bodies:
            made.append((matrix @ [*facts_of(store, body.blob).centroid, 1])[:3].round(7).tolist())
    return sorted(made)


def test_parts_and_then_assemblies_of_them_become_one_and_nothing_moves(tmp_path: Path) -> None:
    store = BlobStore(tmp_path)
    wedge = build.cut(build.block(20, 10, 5), build.block(9, 4, 9, at=(-1, -1, -1)))

    def part(key: str, shape: object) -> Product:
        blob = store.put(shape_to_blob(shape))  # type: ignore[arg-type]
        return Product(key, f"N-{key}", key, bodies=(Body(f"b{key}", BodyKind.SOLID, key, blob),))

    parts = (part("a", wedge), part("b", moved_copy(wedge, TURNED)), part("c", build.block(20, 10, 5)))
    away = (1.0, 0.0, 0.0, 50.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0)
    back = tuple(np.linalg.inv(np.reshape(TURNED, (4, 4))).ravel().tolist())
    block = "c", "", away
    houses = (
        Product("h1", "", "One", occurrences=(Occurrence("u1", "a", ""), Occurrence("v1", *block))),
        Product("h2", "", "Two", occurrences=(Occurrence("u2", "b", "", back), Occurrence("v2", *block))),
    )
    top = Product(
        "top", "T", "Top", occurrences=(Occurrence("x", "h1", ""), Occurrence("y", "h2", "", TURNED))
    )
    model = Model((top, *houses, *parts), ("top",))
    (words, merged), told = merge_products(model, store, set(model.by_id))
    merged.check_structure()
    assert words == "Merge 2 equal items into 2" and {p.id for p in merged.products} == {
        "top",
        "h1",
        "a",
        "c",
    }
    assert np.allclose(middles(merged, store), middles(model, store), atol=1e-6)
    assert "number 'N-b' of what is 'a' now" in told and "name 'Two' of what is 'One' now" in told
    with pytest.raises(UsageError, match="no two"):
        merge_products(model, store, {"a", "c"})
