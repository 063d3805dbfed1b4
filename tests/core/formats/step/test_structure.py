"""The structure from records alone against the whole reading, which the kernel does."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import numpy as np
import pytest

from gondrel.core.formats.step.graph import read_graph
from gondrel.core.formats.step.records import open_records
from gondrel.core.formats.step.structure import boxes_of, structure_of
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import small_assembly

pytestmark = pytest.mark.slow


def placed(model) -> Counter:
    return Counter(
        (model.product(p.product).label, tuple(np.round(p.placement, 6) + 0.0)) for p in model.walk()
    )


@pytest.fixture(params=["as1", "demo", "inch"])
def path(request, as1: str, demo_file: str, tmp_path: Path, store_folder: str) -> str:
    if request.param != "inch":
        return as1 if request.param == "as1" else demo_file
    out = str(tmp_path / "inch.stp")
    send(
        small_assembly(BlobStore(Path(store_folder))),
        out,
        "step-ap214",
        settings_from({"unit": "inch"}),
        store_folder,
    )
    return out


def test_products_and_places_are_those_of_the_whole_reading(path: str, store_folder: str) -> None:
    with open_records(path) as records:
        quick, definitions = structure_of(records, read_graph(records))
    whole = receive(path, store_folder)
    assert placed(quick) == placed(whole)
    assert Counter(p.number for p in quick.products) == Counter(p.number for p in whole.products)
    assert len(definitions) == len(quick.products) and not any(p.bodies for p in quick.products)


def test_boxes_lie_about_the_shapes(path: str, store_folder: str) -> None:
    whole = receive(path, store_folder)
    facts = measure_all(whole.blobs(), store_folder)
    with open_records(path) as records:
        quick, definitions = structure_of(records, read_graph(records))
        boxes = dict(boxes_of(records, read_graph(records), definitions))
    seen = 0
    for product in whole.products:
        mine = [p for p in quick.products if p.label == product.label]
        if len(mine) != 1 or not product.bodies:
            continue
        real = np.array([facts[b.blob].bbox for b in product.bodies]).reshape(-1, 2, 3)
        low, high = real[:, 0].min(axis=0), real[:, 1].max(axis=0)
        box = np.array(boxes[mine[0].id]).reshape(2, 3)
        size = float(np.linalg.norm(high - low))
        assert np.abs(box - [low, high]).max() < 0.5 * size, product.label
        seen += 1
    assert seen >= 3
