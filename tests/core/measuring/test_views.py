"""Views of placed bodies: sections cut what stands in front, meshes are told as not drawn."""

from __future__ import annotations

import math
from pathlib import Path

import pytest

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.kernel.modelling.halved import left_of
from gondrel.core.measuring.placed import placed_bodies
from gondrel.core.measuring.views import flat_outlines, view_frame, view_of
from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.drawing import ViewFrame
from gondrel.core.model.store import BlobStore
from gondrel.core.sheet.curve_sizes import whole_length
from gondrel.core.sheet.placing import layered


@pytest.fixture
def plate(store_folder: str) -> tuple[Model, BlobStore]:
    store = BlobStore(Path(store_folder))
    made = cut(block(60, 40, 8), cylinder(5, 20, at=(30, 20, -5)))
    body = Body("b", BodyKind.SOLID, "Plate", store.put(shape_to_blob(made)))
    return Model(products=(Product("p", "P-1", "Plate", bodies=(body,)),), roots=("p",)), store


def test_a_plane_leaves_what_lies_beneath_it() -> None:
    solid = block(60, 40, 8)
    kept = left_of(solid, CutPlane((20, 0, 0), (1, 0, 0)))
    assert kept is not None and measure(kept).volume == pytest.approx(20 * 40 * 8)
    assert left_of(solid, CutPlane((-1, 0, 0), (1, 0, 0))) is None
    assert left_of(solid, CutPlane((70, 0, 0), (1, 0, 0))) is solid
    slant = left_of(solid, CutPlane((30, 20, 4), (1, 1, 0)))
    assert slant is not None and measure(slant).volume == pytest.approx(60 * 40 * 8 / 2)


def test_a_section_is_cut_hatched_and_drawn_beyond(plate) -> None:
    model, store = plate
    frame = ViewFrame("section", (1, 0, 0), (0, 0, 1), CutPlane((0, 20, 0), (0, -1, 0)))
    view, left_out = view_of(model, list(placed_bodies(model)), frame, store, {})
    assert not left_out and view.parts == ("Plate",)
    assert whole_length(c for outline in view.cut for c in outline.curves) == pytest.approx(2 * 50 + 4 * 8)
    assert all(outline.hatching for outline in view.cut)
    seen = [line.curve for line in view.lines if not line.is_hidden]
    # the rim of the cut, and behind it the half bore's two ends, as wide as the bore
    assert whole_length(seen) == pytest.approx(2 * 60 + 4 * 8)


@pytest.mark.parametrize(("layers", "names"), [
    ("both", {"Plate visible", "Plate hidden"}), ("parts", {"Plate", "Plate hidden"}),
    ("kinds", {"visible", "hidden"}),
])  # fmt: skip
def test_layers_by_part_and_by_kind(plate, layers, names) -> None:
    model, store = plate
    view, _ = view_of(model, list(placed_bodies(model)), view_frame("front"), store, {})
    assert {outline.layer for outline in layered(view, layers)} == names


def test_the_outline_of_the_largest_flat_face(plate) -> None:
    model, store = plate
    (outline,) = flat_outlines(list(placed_bodies(model)), store)
    assert whole_length(outline.curves) == pytest.approx(200 + 10 * math.pi)
