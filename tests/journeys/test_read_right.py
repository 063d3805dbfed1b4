"""Shapes that are easily read wrongly, through files and back; outside breps written by the bare kernel.

Outside: Debian's occt-misc; the brep's own area and volume by the kernel's integrals are the reference.
"""

from __future__ import annotations

import random
from pathlib import Path

import pytest
from OCP.BRep import BRep_Builder
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepTools import BRepTools
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.shape import shape_from_blob, shape_to_blob, split_bodies
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.measure.deviation import measure_deviation
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.core.kernel.exchange.test_outline_check import stock_step
from tests.shapes import all_made, moved

pytestmark = pytest.mark.slow

MADE = all_made()
BREPS = Path("/usr/share/opencascade/data/occ")
NAMES = (
    "Axis_of_bearing", "Ball", "CrankArm", "MODERN_Cooker_1_opened", "MODERN_Sink_1_opened", "Pump_Nut",
    "Pump_TopCover", "bottle", "mal_vis", "solid", "wedge_ok",
)  # fmt: skip
"""Those that were read wrongly once, and some besides."""


def _tolerance(made: object) -> float:
    """The kernel's own integrals are asked for 1e-10, which tells of a ring 0.01 in 30 mm wide to 1e-8."""
    if made.name == "ring of 0.01":  # type: ignore[attr-defined]
        return 1e-8
    return 1e-7 if made.is_spline else 1e-9  # type: ignore[attr-defined]


@pytest.mark.parametrize("made", MADE, ids=lambda made: made.name)
def test_made_shapes_as_the_bare_kernel_writes_them(made, tmp_path: Path, store_folder: str) -> None:
    """As they stand and turned and moved by chance: the closed form, or, where the writer itself loses what
    lies beyond the axis of a surface, nothing that hides it."""
    chance, store = random.Random(made.name), BlobStore(Path(store_folder))
    shape = split_bodies(made.make())[0][1]
    way = tuple(chance.gauss(0, 1) for _ in range(3))
    shift = tuple(chance.uniform(-50, 50) for _ in range(3))
    for each in (shape, moved(shape, way, chance.uniform(0, 6), shift)):
        model = receive(stock_step(each, tmp_path / "a.stp"), store_folder)
        assert "faces-elsewhere" not in {n.code for n in model.notes}
        (body,) = [b for _, b in model.bodies()]
        facts = facts_of(store, body.blob)
        if made.name.startswith(("apple", "lemon")):
            continue  # the bare writer writes the whole of the surface; ours does not, see below
        assert facts.area == pytest.approx(made.area, rel=_tolerance(made))
        assert facts.volume == pytest.approx(made.volume, rel=_tolerance(made))
        assert BRepCheck_Analyzer(shape_from_blob(store.get(body.blob))).IsValid()


@pytest.mark.parametrize("kind", ["step-ap242", "xt-text", "iges-solid"])
def test_made_shapes_there_and_back(kind: str, tmp_path: Path, store_folder: str) -> None:
    """Every third of them, turned by chance: closed forms to 1e-7 (IGES and spun surfaces are integrated by
    the kernel to some 1e-8), 1e-9 where the kernel is exact."""
    chance, store = random.Random(kind), BlobStore(Path(store_folder))
    for made in MADE[:: 3 if kind != "step-ap242" else 1]:
        if (made.name, kind) == ("torus of splines", "xt-text"):
            continue  # an edge of it is refused, see docs/xt.md
        shape = split_bodies(made.make())[0][1]
        way = tuple(chance.gauss(0, 1) for _ in range(3))
        shape = moved(shape, way, chance.uniform(0, 6), (3.0, -40.0, 11.0))
        body = Body("b", BodyKind.SOLID, "", store.put(shape_to_blob(shape)))
        model = Model((Product("p", "P", "Part", bodies=(body,)),), ("p",))
        sent = send(model, str(tmp_path / "out"), kind, settings_from({"force": "yes"}), store_folder)
        (back,) = [b for _, b in sent.returned.bodies()]
        facts = facts_of(store, back.blob)
        limit = _tolerance(made) if kind == "step-ap242" else 1e-7
        assert facts.area == pytest.approx(made.area, rel=limit), made.name
        assert facts.volume == pytest.approx(made.volume, rel=max(limit, 1e-8)), made.name
        assert not sent.proof.unannounced, made.name
        if kind != "iges-solid" or not made.is_spline:  # there it is told: the other reads splines by 2e-6
            assert not [line for line in sent.proof.other if "otherwise" in line.verdict], made.name
        assert sent.proof.max_deviation < 1e-6, made.name


@pytest.mark.parametrize("name", NAMES)
def test_outside_breps(name: str, tmp_path: Path, store_folder: str) -> None:
    shape = TopoDS_Shape()
    assert BRepTools.Read_s(shape, str(BREPS / f"{name}.brep"), BRep_Builder())
    own = [measure(body) for kind, body in split_bodies(shape) if kind is BodyKind.SOLID]
    own = [facts for facts in own if facts.area]
    model = receive(stock_step(shape, tmp_path / "a.stp"), store_folder)
    store = BlobStore(Path(store_folder))
    read = [facts_of(store, body.blob) for _, body in model.bodies() if body.kind is BodyKind.SOLID]
    slack = 1e-6 + 3 * max(f.tolerance * f.length / f.area for f in own)
    assert sum(f.area for f in read) == pytest.approx(sum(f.area for f in own), rel=slack)
    assert sum(f.volume for f in read) == pytest.approx(sum(f.volume for f in own), rel=slack)
    assert not {"faces-elsewhere", "reading-differs"} & {n.code for n in model.notes}


def test_bodies_lie_where_they_lie() -> None:
    """Every made shape, and a ring a hundredth of a millimetre wide, against itself stored and read."""
    for made in MADE:
        blob = shape_to_blob(split_bodies(made.make())[0][1])
        found = measure_deviation(shape_from_blob(blob), shape_from_blob(blob))
        assert found.value <= 1e-7, made.name
