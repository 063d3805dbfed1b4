"""Mends: what is broken on purpose ends whole, with the right volume; nothing gets worse."""

from __future__ import annotations

import json
from dataclasses import replace
from math import pi
from pathlib import Path

import pytest
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from gondrel.cli.main import main
from gondrel.core.checks.runner import check_model
from gondrel.core.kernel.base.shape import faces_of, kind_of, shape_from_blob, shape_to_blob, shell_of
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.examples.broken import finned, inside_out, solid_of
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.measure.mass import surface_kind
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.mends.planner import mend_model
from gondrel.core.model import Body, BodyKind, Model, Product, Rgba
from gondrel.core.model.findings import MendWish, Severity
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from

BLOCK = block(10, 20, 30)
BORED = cut(block(40, 30, 10), cylinder(6, 30, at=(20, 15, -5)))


def model_of(store: BlobStore, *shapes) -> Model:
    bodies = tuple(
        Body(f"b{i}", kind_of(s), f"skin {i}", store.put(shape_to_blob(s)), Rgba(0.7, 0.6, 0.3))
        for i, s in enumerate(shapes)
    )
    return Model((Product("p", "N-1", "Part", "A", bodies=bodies),), ("p",))


def hemisphere(radius: float):
    axes = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    return faces_of(BRepPrimAPI_MakeSphere(axes, radius, 0.0, pi / 2).Shape())[0]


def _without_top(shape):
    """All faces but the plane one with the hole whose middle lies highest."""
    body = inspect_shape(shape)
    holed = [f for f in body.faces if f.kind == "plane" and f.perimeter > 2 * (40 + 30) + 1]
    top = max(holed, key=lambda f: body.middle_of(f.index)[2]).index
    return [face for place, face in enumerate(faces_of(shape)) if place != top]


BORED_VOLUME = 40 * 30 * 10 - pi * 36 * 10
CASES = {
    "a face missing": ((solid_of(faces_of(BLOCK)[:5]),), 6000.0),
    "inside out": ((inside_out(BLOCK),), 6000.0),
    "a face turned": ((solid_of([faces_of(BLOCK)[0].Reversed(), *faces_of(BLOCK)[1:]]),), 6000.0),
    "loose faces": (tuple(faces_of(BLOCK)), 6000.0),
    "an open shell": ((shell_of(faces_of(BLOCK)[1:]),), 6000.0),
    "a face twice": ((shell_of([*faces_of(BLOCK), faces_of(block(10, 20, 30))[0]]),), 6000.0),
    "a bored plate without its top": ((shell_of(_without_top(BORED)),), None),
}


@pytest.mark.parametrize("name", CASES)
def test_broken_bodies_end_whole(name, tmp_path) -> None:
    shapes, volume = CASES[name]
    store = BlobStore(tmp_path)
    model = model_of(store, *shapes)
    before = check_model(model, store)
    assert [f for f in before.findings if f.severity is not Severity.NOTE]
    mended, told = mend_model(model, store)
    after = check_model(mended, store)
    assert not [f for f in after.findings if f.severity is Severity.FAULT], told
    ((_, body),) = mended.bodies()
    assert body.kind is BodyKind.SOLID
    assert BRepCheck_Analyzer(shape_from_blob(store.get(body.blob))).IsValid()
    assert facts_of(store, body.blob).volume == pytest.approx(volume or BORED_VOLUME, rel=1e-9)
    assert any(each.outcome == "mended" for each in told)
    assert all(each.deviation < 1e-6 for each in told)


def test_a_bell_of_two_surfaces_becomes_a_solid(tmp_path) -> None:
    """Closed form: the shell between two hemispheres holds 2/3 pi (R^3 - r^3)."""
    store = BlobStore(tmp_path)
    mended, told = mend_model(model_of(store, hemisphere(30.0), hemisphere(27.0)), store)
    ((_, body),) = mended.bodies()
    facts = facts_of(store, body.blob)
    assert facts.volume == pytest.approx(2 / 3 * pi * (30**3 - 27**3), rel=1e-9)
    assert facts.faces == 3 and body.colour == Rgba(0.7, 0.6, 0.3)
    assert [each.code for each in told if each.outcome == "mended"] == ["R104"]


@pytest.mark.slow
def test_slivers_are_removed_and_colours_stay(demo_file, store_folder) -> None:
    """The windlass spindle of the demo has four slivers 0.004 mm wide."""
    store = BlobStore(Path(store_folder))
    model = receive(demo_file, store_folder)
    spindle = next(p for p in model.products if p.name == "Windlass spindle")
    faces = inspect_shape(shape_from_blob(store.get(spindle.bodies[0].blob))).faces
    wide = max(faces, key=lambda f: f.area)
    red = Rgba(1.0, 0.0, 0.0)
    body = replace(spindle.bodies[0], face_colours=((wide.index, red),))
    alone = Model((replace(spindle, bodies=(body,)),), (spindle.id,))
    before = facts_of(store, body.blob)
    mended, (told,) = mend_model(alone, store, MendWish(safe=True))
    assert (told.code, told.outcome) == ("R105", "mended") and told.deviation < 1e-6
    ((_, now),) = mended.bodies()
    after = facts_of(store, now.blob)
    assert after.faces == before.faces - 7, "the slivers and the faces they parted are one"
    assert after.volume == pytest.approx(before.volume, rel=1e-12)
    ((index, colour),) = now.face_colours
    same = inspect_shape(shape_from_blob(store.get(now.blob))).faces[index]
    assert colour == red and same.area == pytest.approx(wide.area, rel=1e-3)
    left = [f for f in check_model(mended, store).findings if f.severity is not Severity.NOTE]
    assert [f.code for f in left] == ["G305"], "the face itself is 0.009 mm wide where the flats end"


def test_safe_mends_give_a_solid_the_flat_face_it_lacks(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(store, solid_of(faces_of(BLOCK)[:5]))
    mended, told = mend_model(model, store, MendWish(safe=True))
    assert "R104" not in {each.code for each in told}
    assert {(each.code, each.outcome) for each in told} >= {("R116", "mended")}
    ((_, body),) = mended.bodies()
    facts = facts_of(store, body.blob)
    assert body.kind is BodyKind.SOLID
    assert (facts.faces, round(facts.volume, 6)) == (6, 6000.0)


def test_a_safe_mend_never_makes_a_sheet_of_a_solid(tmp_path) -> None:
    """A half ball without its round face has a flat rim; a saddle-shaped one is closed by nothing safe."""
    store = BlobStore(tmp_path)
    shape = cut(BLOCK, cylinder(4, 60, at=(5, -20, 15), axis=(0, 1, 0)))
    bored = [face for face in faces_of(shape) if surface_kind(face) == "cylinder"]
    crossed = cut(cylinder(8, 40), cylinder(5, 40, at=(-20, 0, 20), axis=(1, 0, 0)))
    lacking = [face for face in faces_of(crossed) if face is not None][:-1]
    for faces in ([f for f in faces_of(shape) if f not in bored], lacking):
        model = model_of(store, solid_of(faces))
        mended, told = mend_model(model, store, MendWish(safe=True))
        assert [body.kind for _, body in mended.bodies()] == [BodyKind.SOLID]
        assert all(each.outcome != "improved" for each in told if each.code == "R103")


def test_closing_all_rims_is_asked_for(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(store, solid_of(faces_of(BLOCK)[:5]))
    _, only = mend_model(model, store, MendWish(only=("R104",)))
    assert {each.code for each in only} == {"R104"}


def test_what_is_sound_is_left_alone(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(store, BLOCK, BORED)
    mended, told = mend_model(model, store)
    assert mended == model and told == ()


def test_what_would_not_help_is_refused_or_left(tmp_path) -> None:
    store = BlobStore(tmp_path)
    far = shell_of([faces_of(BLOCK)[0], faces_of(block(10, 20, 30, at=(500, 0, 0)))[1]])
    mended, told = mend_model(model_of(store, finned(BLOCK), far), store)
    faults = [f for f in check_model(mended, store).findings if f.severity is Severity.FAULT]
    before = [
        f for f in check_model(model_of(store, finned(BLOCK), far), store).findings
        if f.severity is Severity.FAULT
    ]  # fmt: skip
    assert len(faults) <= len(before)
    assert all(each.why for each in told)


@pytest.mark.slow
def test_on_the_command_line(tmp_path, capsys) -> None:
    store = BlobStore(tmp_path / "store")
    model = model_of(store, hemisphere(30.0), hemisphere(27.0))
    path = tmp_path / "bell.stp"
    sent = send(model, str(path), "step-ap242", settings_from({}), str(tmp_path / "store"))
    assert not sent.proof.unannounced, "names of sheets come back"
    out = tmp_path / "out.x_t"
    assert main(["mend", str(path), "--out", str(out), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["check_before"]["doubt"] == 1 and found["check_after"] == {
        "fault": 0,
        "doubt": 0,
        "note": 0,
    }
    (mended,) = [m for m in found["mends"] if m["outcome"] == "mended"]
    assert mended["after"]["volume"] == pytest.approx(2 / 3 * pi * (30**3 - 27**3), rel=1e-9)
    assert Path(found["sent"][0]["path"]) == out and out.exists()
    assert main(["inspect", str(out), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["totals"]["solids"] == 1
    assert main(["mend", str(path), "--out", str(tmp_path / "x.xyz")]) == 2
