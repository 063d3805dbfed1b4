"""The demo cut through the axis of its pinion, held against sections that the bare kernel makes of each
body by itself; and which parts are left whole."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepGProp import BRepGProp
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps

from gondrel.core.kernel.base.shape import located, shape_from_blob
from gondrel.core.measuring.holes import bores_of, hole_table
from gondrel.core.measuring.placed import placed_bodies
from gondrel.core.measuring.sections import cut_model
from gondrel.core.measuring.uncut import lengthwise_parts
from gondrel.core.model.cutting import Cut, CutPlane
from gondrel.core.model.lengthwise import cut_lengthwise
from gondrel.core.model.store import BlobStore
from gondrel.core.service.measure import parts_left_whole
from gondrel.core.service.receive import measure_all, receive

pytestmark = pytest.mark.slow


def test_the_demo_through_its_pinion(demo_file: str, store_folder: str) -> None:
    model = receive(demo_file, store_folder)
    store, facts = BlobStore(Path(store_folder)), measure_all(model.blobs(), store_folder)
    pinion = next(p for p in placed_bodies(model) if p.product.name.startswith("Rack pinion"))
    middle = np.asarray(pinion.placement).reshape(4, 4) @ np.array([*facts[pinion.body.blob].centroid, 1.0])
    at = tuple(float(v) for v in middle[:3])
    sections, refused = cut_model(model, Cut((CutPlane(at, (0, 1, 0)),)), store, facts)
    assert refused == ()
    ours = {(s.path, s.body): s.area for s in sections}
    face = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(*at), gp_Dir(0, 1, 0)), -2000, 2000, -2000, 2000).Face()
    seen = 0
    for each in placed_bodies(model):
        shape = located(shape_from_blob(store.get(each.body.blob)), each.placement)
        figures = GProp_GProps()
        BRepGProp.SurfaceProperties_s(BRepAlgoAPI_Common(face, shape).Shape(), figures, 1e-10)
        if abs(figures.Mass()) > 1e-6:
            assert ours[each.path, each.body.id] == pytest.approx(figures.Mass(), rel=1e-6), (
                each.product.label
            )
            seen += 1
    assert seen == len(ours) >= 8


def test_bars_and_standard_parts_are_left_whole_lengthwise(demo_file: str, store_folder: str) -> None:
    model = receive(demo_file, store_folder)
    axes = parts_left_whole(model, store_folder)
    names = {model.product(key).name for key in axes}
    assert {"Pinion shaft", "Tie bar", "Hexagon nut M16"} <= names
    assert not {"Base plate", "Gear guard", "Spur wheel 40 T"} & names
    shaft = next(key for key in axes if model.product(key).name == "Pinion shaft")
    place = next(p for p in model.walk() if p.product == shaft)
    along = np.asarray(place.placement).reshape(4, 4)[:3, :3] @ np.asarray(axes[shaft])
    across = np.cross(along, [0.3, 0.5, 0.8])
    for normal, is_whole in ((across, True), (along, False)):
        cut = Cut((CutPlane((0, 0, 0), tuple(normal.tolist())),))
        assert (place.path in cut_lengthwise(model, cut, axes)) == is_whole
    assert lengthwise_parts(model, (), BlobStore(Path(store_folder))).keys() < axes.keys()


def test_the_table_of_holes_of_the_demo(demo_file: str, store_folder: str) -> None:
    """Counted by hand on the drawing of the base plate: eight bores of 13.2 mm, all through."""
    model = receive(demo_file, store_folder)
    store = BlobStore(Path(store_folder))
    plate = next(p for p in model.products if p.name == "Base plate")
    (row,) = hole_table([plate], store)
    assert len(row.holes) == 8 and row.holes[0].diameter == pytest.approx(13.2, rel=1e-9)
    assert all(hole.is_through for hole in row.holes)
    assert bores_of(plate, store) == pytest.approx([13.2] * 8)
