"""STEP to XT and back to STEP: outside files and the demo."""

from __future__ import annotations

from pathlib import Path

import pytest
from OCP.BRep import BRep_Builder
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepTools import BRepTools
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import UsageError
from gondrel.core.formats.xt.audit import audit
from gondrel.core.formats.xt.text import read_text
from gondrel.core.kernel.base.shape import shape_from_blob, split_bodies
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.model.body import BodyKind
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.conftest import outside
from tests.core.formats.xt import referee
from tests.core.formats.xt.shapes import made_from, text_of

pytestmark = pytest.mark.slow


def _sent(model, out: Path, kind: str, store: str):
    sent = send(model, str(out), kind, settings_from({}), store)
    assert not sent.proof.unannounced, sent.proof.unannounced
    assert not sent.proof.false_alarms, sent.proof.false_alarms
    return sent


def _check_bodies(model, store: str) -> None:
    for _, body in model.bodies():
        if body.kind is BodyKind.SOLID:
            assert BRepCheck_Analyzer(shape_from_blob(BlobStore(Path(store)).get(body.blob))).IsValid()


@pytest.mark.parametrize(("which", "kind"), [("demo", "xt-binary"), ("as1", "xt-text")])
def test_assemblies_there_and_back(which, kind, demo_file, as1, tmp_path, store_folder) -> None:
    model = receive(demo_file if which == "demo" else as1, store_folder)
    facts = measure_all(model.blobs(), store_folder)
    out = tmp_path / ("out.x_t" if kind == "xt-text" else "out.x_b")
    there = _sent(model, out, kind, store_folder)
    lost = {c.item.what for e in there.proof.ledger.entries for c in e.items if c.verdict == "lost"}
    assert lost <= {"figures", "centroid", "file description"}
    assert there.proof.max_volume_error < 1e-7 and there.proof.max_deviation < 1e-5
    _check_bodies(there.returned, store_folder)
    found = referee.judge(out.read_bytes())
    assert found.complete and found.brep.topology.valid and not found.brep.diagnostics

    back = _sent(there.returned, tmp_path / "back.stp", "step-ap242", store_folder)
    assert not [e for e in back.proof.ledger.entries if e.verdict == "lost"]
    _check_bodies(back.returned, store_folder)
    last = measure_all(back.returned.blobs(), store_folder)
    volumes = [
        sorted(f[b.blob].volume for _, b in m.bodies()) for m, f in ((model, facts), (back.returned, last))
    ]
    assert volumes[1] == pytest.approx(volumes[0], rel=1e-7)
    names = [sorted((p.number, p.name, p.revision) for p in m.products) for m in (model, back.returned)]
    assert names[0] == names[1]
    colours = [sorted(b.colour.label for _, b in m.bodies() if b.colour) for m in (model, back.returned)]
    assert colours[0] == colours[1]
    assert len(list(model.occurrences())) == len(list(back.returned.occurrences()))


@pytest.mark.parametrize("name", ["screw.step", "linkrods.step"])
def test_outside_parts(name, tmp_path, store_folder) -> None:
    """Debian's occt-misc. The link rods' edges lie up to 4e-4 mm off their faces as sent."""
    model = receive(str(outside(Path("/usr/share/opencascade/data/step")) / name), store_folder)
    sent = _sent(model, tmp_path / "out.x_t", "xt-text", store_folder)
    assert sent.proof.max_volume_error < (1e-6 if name == "screw.step" else 1e-5)
    _check_bodies(sent.returned, store_folder)
    back = _sent(sent.returned, tmp_path / "back.stp", "step-ap214", store_folder)
    assert back.proof.max_volume_error < (1e-6 if name == "screw.step" else 1e-4)


def test_placed_bodies_keep_what_the_forecast_says(as1: str, tmp_path: Path, store_folder: str) -> None:
    model = receive(as1, store_folder)
    sent = send(
        model, str(tmp_path / "flat.x_t"), "xt-text", settings_from({"form": "placed"}), store_folder
    )
    assert not sent.proof.unannounced and not sent.proof.false_alarms
    ledger = sent.proof.ledger
    assert [ledger.of(thing).verdict for thing in ("bodies", "geometry", "colours", "layers")] == [
        "carried"
    ] * 4
    assert ledger.of("structure").verdict == ledger.of("placement").verdict == "lost"
    assert all(entry.announced for entry in ledger.entries)
    bodies = list(sent.returned.bodies())
    assert len(bodies) == 18 and not list(sent.returned.occurrences())
    facts = measure_all(sent.returned.blobs(), store_folder)
    ours = measure_all(model.blobs(), store_folder)
    whole = sum(ours[b.blob].volume for place in model.walk() for b in model.product(place.product).bodies)
    assert sum(facts[body.blob].volume for _, body in bodies) == pytest.approx(whole, rel=1e-9)
    low = min(facts[body.blob].bbox[2] for _, body in bodies)
    high = max(facts[body.blob].bbox[5] for _, body in bodies)
    assert high - low > 50, "the bodies stand where they stood, not all at the origin"


def test_triangles_have_no_choice_of_a_form(as1: str, tmp_path: Path, store_folder: str) -> None:
    model = receive(as1, store_folder)
    for choice in ("form=placed", "bodies=surfaces", "files=linked"):
        settings = settings_from(dict([choice.split("=")]))
        with pytest.raises(UsageError, match=r"has no (choice of|files that refer)"):
            send(model, str(tmp_path / "a.stl"), "stl", settings, store_folder)


BREPS = (
    "Axis_of_bearing", "Ball", "CrankArm", "MODERN_Chair_1", "MODERN_Cooker_1", "MODERN_Exhaust_1",
    "Motor-c", "Pump_Nut", "Pump_TopCover", "bottle", "fuse", "mal_tige", "wedge_ok", "wing",
)  # fmt: skip
"""Parts of Debian's occt-misc, data/occ, in the kernel's own form: shells, threads, sloppy edges."""


@pytest.mark.parametrize("name", BREPS)
def test_outside_bodies_there_and_back(name: str) -> None:
    shape = TopoDS_Shape()
    path = outside("usr/share/opencascade/data/occ") / f"{name}.brep"
    assert BRepTools.Read_s(shape, str(path), BRep_Builder())
    for kind, body in split_bodies(shape)[:4]:
        data = text_of(body)
        found = referee.judge(data)
        assert found.complete and found.brep.topology.valid
        assert not found.document.diagnostics and not found.brep.diagnostics
        assert not audit(read_text(data))
        (made,) = made_from(data).bodies
        assert made.kind is kind and BRepCheck_Analyzer(made.shape).IsValid()
        before, after = measure(body), measure(made.shape)
        analytic = dict(before.surfaces).keys() <= {"plane", "cylinder", "cone", "sphere", "torus"}
        assert after.volume == pytest.approx(before.volume, rel=1e-7 if analytic else 1e-5, abs=1e-9)


def test_the_referees_own_profile_accepts_every_part_of_the_demo(demo_file: str, store_folder: str) -> None:
    model = receive(demo_file, store_folder)
    store = BlobStore(Path(store_folder))
    judged = 0
    for product, body in model.bodies():
        data = text_of(shape_from_blob(store.get(body.blob)))
        if "TORUS" in read_text(data).counts():
            continue  # not in its own profile of schema 13006
        found = referee.judge(data, built_in=True)
        assert found.complete and found.brep.topology.valid, product.label
        assert not found.document.diagnostics and not found.brep.diagnostics
        judged += 1
    assert judged > 20
