"""Features of solids that the kernel made, before and after they went through each format."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import pytest

from gondrel.core.features.find import find_features
from gondrel.core.kernel.base.shape import shape_from_blob, shape_to_blob, split_bodies
from gondrel.core.kernel.inspect.face_graph import face_graph_of
from gondrel.core.kernel.measure.holes import holes_of
from gondrel.core.model import Body, Model, Product
from gondrel.core.model.features import Feature
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.core.features.made import PARTS

pytestmark = pytest.mark.slow


def features_of(shape) -> list[Feature]:
    return find_features(face_graph_of(shape), holes_of(shape))


def fits(feature: Feature, kind: str, sizes: dict[str, float]) -> bool:
    return feature.kind == kind and all(
        name in feature.sizes and feature.sizes[name] == pytest.approx(value, rel=1e-6, abs=1e-6)
        for name, value in sizes.items()
    )


def compare(found: list[Feature], wanted) -> None:
    """Every wanted feature once, and no other."""
    left = list(found)
    for kind, sizes in wanted:
        same = next((feature for feature in left if fits(feature, kind, sizes)), None)
        assert same is not None, f"no {kind} {sizes} among {[(f.kind, f.sizes) for f in left]}"
        left.remove(same)
    assert not left, f"found besides: {[(f.kind, f.sizes) for f in left]}"


@pytest.mark.parametrize(("name", "make", "wanted"), PARTS, ids=[part[0] for part in PARTS])
def test_every_feature_is_found_with_its_sizes_and_no_other(name, make, wanted) -> None:
    compare(features_of(make()), wanted)


@pytest.mark.parametrize(
    ("kind", "suffix"), [("step-ap214", "stp"), ("xt-text", "x_t"), ("iges-solid", "igs")]
)
def test_features_are_the_same_after_a_crossing(kind, suffix, tmp_path: Path, store_folder: str) -> None:
    store = BlobStore(Path(store_folder))
    products = []
    for place, (name, make, _) in enumerate(PARTS):
        ((kind_of_body, solid),) = split_bodies(make())
        body = Body(f"b{place}", kind_of_body, name, store.put(shape_to_blob(solid)))
        products.append(Product(f"p{place}", f"N-{place}", name, bodies=(body,)))
    model = Model(tuple(products), tuple(product.id for product in products))
    path = str(tmp_path / f"parts.{suffix}")
    send(model, path, kind, settings_from({"other_reader": "no"}), store_folder)
    back = receive(path, store_folder)
    by_name = {product.name: product for product in back.products}
    for name, _, wanted in PARTS:
        bodies = by_name[name].bodies
        assert len(bodies) == 1
        compare(features_of(shape_from_blob(store.get(bodies[0].blob))), wanted)


def test_each_face_belongs_to_one_feature_at_most() -> None:
    for _, make, _ in PARTS:
        found = [feature for feature in features_of(make()) if feature.kind != "thread"]
        owned = Counter(face for feature in found for face in feature.faces)
        assert all(count == 1 for face, count in owned.items())
