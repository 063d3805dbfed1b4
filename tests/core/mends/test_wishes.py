"""What is asked for is done, and no more: mends by code, by check, by part, by face; mends of structure."""

from __future__ import annotations

import json
from dataclasses import replace
from math import pi
from pathlib import Path

import pytest

from gondrel.cli.main import main
from gondrel.core.checks.catalogue import all_checks
from gondrel.core.checks.runner import check_model
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import kind_of, shape_from_blob, shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.examples import flawed
from gondrel.core.kernel.examples.broken import (
    cylinder_as_spline,
    kinked_wire,
    shifted_plane,
    straight_wire,
)
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.mends.base import BodyMend
from gondrel.core.mends.catalogue import all_mends
from gondrel.core.mends.planner import mend_model, plan_mends
from gondrel.core.model import Body, Model, Occurrence, Product, Rgba
from gondrel.core.model.findings import CheckLimits, MendWish
from gondrel.core.model.store import BlobStore
from gondrel.core.service.mend import mend_helps, named_faces
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from

RED = Rgba(1.0, 0.0, 0.0)


def part(store: BlobStore, key: str, *shapes) -> Product:
    bodies = tuple(
        Body(f"{key}-{n}", kind_of(s), f"{key} {n}", store.put(shape_to_blob(s)))
        for n, s in enumerate(shapes)
    )
    return Product(key, f"N-{key}", key.title(), bodies=bodies)


def model_of(*products: Product) -> Model:
    return Model(products, tuple(p.id for p in products))


def at(x: float) -> tuple[float, ...]:
    return (1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


def volume(store: BlobStore, model: Model) -> float:
    return sum(facts_of(store, body.blob).volume for _, body in model.bodies())


def test_every_mend_is_for_findings_there_are() -> None:
    known = {check.code for check in all_checks()}
    for mend in all_mends():
        assert set(mend.cures) <= known, mend.code
        assert mend.what.endswith(".") and mend.title, mend.code
        assert (mend.code[1] == "1") == isinstance(mend, BodyMend)
    assert len({m.order for m in all_mends()}) == len(all_mends())
    assert {m.code for m in mend_helps()} == {m.code for m in all_mends()} | {"R201"}


def test_the_plan_names_what_each_mend_is_for(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "plate", shifted_plane(0.05)), part(store, "pin", cylinder(5, 20)))
    plan = plan_mends(check_model(model, store).findings)
    assert [m.code for m in plan] == ["R108", "R109"]
    assert plan[0].cures == ("G201", "G205") and plan[0].count == 8 and plan[0].products == ("plate",)
    assert not plan[0].is_safe and plan[1].is_safe


def test_only_the_parts_asked_for_are_mended(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "one", shifted_plane(0.05)), part(store, "two", shifted_plane(0.05)))
    mended, told = mend_model(model, store, MendWish(products=("two",)))
    assert {each.product_id for each in told} == {"two"}
    assert mended.product("one") == model.product("one")
    assert facts_of(store, mended.product("two").bodies[0].blob).volume == pytest.approx(6030.0)


def test_what_the_sender_may_have_meant_waits_to_be_asked_for(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "quarter", cylinder_as_spline(8.0, 20.0)))
    same, told = mend_model(model, store)
    assert not told and same == model
    mended, (told_,) = mend_model(model, store, MendWish(only=("G405",)))
    assert (told_.code, told_.outcome) == ("R110", "mended") and told_.deviation < 1e-6
    (body,) = mended.product("quarter").bodies
    assert {f.kind for f in inspect_shape(shape_from_blob(store.get(body.blob))).faces} == {"cylinder"}


def test_safe_means_that_the_shape_stays(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "plate", shifted_plane(0.05)), part(store, "wire", kinked_wire()))
    _, told = mend_model(model, store, MendWish(safe=True))
    assert {each.code for each in told} == {"R109", "R112"}
    assert all(each.deviation < 0.01 for each in told if each.outcome == "mended")
    assert next(t for t in told if t.code == "R112").outcome == "mended"


def test_a_gap_wider_than_told_is_left_to_the_limits(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "plate", shifted_plane(0.05)))
    loose = CheckLimits(gap=0.1, short=0.1, tolerance=0.1)
    _, told = mend_model(model, store, MendWish(only=("R108",)), limits=loose)
    assert not told


def test_a_face_pointed_at_by_hand_is_removed(tmp_path) -> None:
    store = BlobStore(tmp_path)
    bored = cut(block(20, 20, 10), cylinder(4, 30, at=(10, 10, -5)))
    wall = next(f.index for f in inspect_shape(bored).faces if f.kind == "cylinder")
    model = model_of(part(store, "plate", bored), part(store, "other", bored))
    wish = MendWish(only=("R114",), faces=(("plate-0", (wall,)),))
    mended, (told,) = mend_model(model, store, wish)
    assert told.outcome == "mended" and told.product_id == "plate"
    assert facts_of(store, mended.product("plate").bodies[0].blob).volume == pytest.approx(4000.0)
    assert mended.product("other") == model.product("other")
    flat = next(f.index for f in inspect_shape(bored).faces if f.kind == "plane")
    _, (refused,) = mend_model(model, store, MendWish(only=("R114",), faces=(("plate-0", (flat,)),)))
    assert refused.outcome == "refused" and "meet" in refused.why


def test_colours_stay_with_their_faces(tmp_path) -> None:
    """The top of a block in two halves, one of them red: they stay apart, the others merge."""
    store = BlobStore(tmp_path)
    halves = flawed.split_block()
    look = inspect_shape(halves)
    middles = {f.index: look.middle_of(f.index) for f in look.faces}
    left = min(
        (n for n, at in middles.items() if at[2] == pytest.approx(30.0)), key=lambda n: middles[n][0]
    )
    plate = part(store, "plate", halves)
    body = replace(plate.bodies[0], face_colours=((left, RED),))
    model = model_of(replace(plate, bodies=(body,)))
    mended, (told,) = mend_model(model, store, MendWish(only=("R111",)))
    (now,) = mended.product("plate").bodies
    ((place, colour),) = now.face_colours
    after = inspect_shape(shape_from_blob(store.get(now.blob)))
    assert colour == RED and after.middle_of(place) == pytest.approx(middles[left])
    assert len(after.faces) == 7 and told.outcome == "improved"


def test_what_is_said_of_faces_stays_with_them_and_what_goes_is_told(tmp_path) -> None:
    """Halves that merge: one of their two names goes, and the mend says so."""
    store = BlobStore(tmp_path)
    halves = flawed.split_block()
    look = inspect_shape(halves)
    middles = {f.index: look.middle_of(f.index) for f in look.faces}
    tops = [n for n, at in middles.items() if at[2] == pytest.approx(30.0)]
    bottom = min(middles, key=lambda n: middles[n][2])
    plate = part(store, "plate", halves)
    names = ((tops[0], "one half"), (tops[1], "other half"), (bottom, "bottom"))
    body = replace(plate.bodies[0], face_names=tuple(sorted(names)), face_layers=((bottom, "BASE"),))
    mended, (told,) = mend_model(model_of(replace(plate, bodies=(body,))), store, MendWish(only=("R111",)))
    (now,) = mended.product("plate").bodies
    after = inspect_shape(shape_from_blob(store.get(now.blob)))
    found = {text: place for place, text in now.face_names}
    assert after.middle_of(found["bottom"])[2] == pytest.approx(0.0)
    assert now.face_layers == ((found["bottom"], "BASE"),)
    assert len(found) == 2 and "no longer there: names of faces (1)" in told.why


# --- structure ---------------------------------------------------------------------------------


def test_the_larger_solid_gives_way(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "set", block(10, 20, 30), block(5, 20, 30, at=(8, 0, 0))))
    mended, (told,) = mend_model(model, store, MendWish(only=("R303",)))
    assert told.outcome == "mended" and "1,200" in told.why
    large, small = mended.product("set").bodies
    assert facts_of(store, large.blob).volume == pytest.approx(6000 - 1200)
    assert facts_of(store, small.blob).volume == pytest.approx(3000)


def test_a_part_used_often_is_not_cut(tmp_path) -> None:
    store = BlobStore(tmp_path)
    plate, pin = part(store, "plate", block(10, 20, 30)), part(store, "pin", block(2, 2, 40))
    uses = (Occurrence("a", "plate", "", at(0)), Occurrence("b", "plate", "", at(50)),
            Occurrence("c", "pin", "", at(1)))  # fmt: skip
    model = Model((Product("top", "T", "Top", occurrences=uses), plate, pin), ("top",))
    same, (told,) = mend_model(model, store, MendWish(only=("R303",)))
    assert told.outcome == "refused" and "2 times" in told.why and same == model


def test_overlapping_solids_of_a_part_become_one(tmp_path) -> None:
    store = BlobStore(tmp_path)
    chain = [block(10, 20, 30, at=(8 * n, 0, 0)) for n in range(3)]
    model = model_of(part(store, "set", *chain))
    mended, (told,) = mend_model(model, store, MendWish(only=("R304",)))
    assert told.outcome == "mended" and volume(store, mended) == pytest.approx(26 * 20 * 30)
    assert len(mended.product("set").bodies) == 1


def test_names_and_colours_of_solids_that_become_one_are_told(tmp_path) -> None:
    store = BlobStore(tmp_path)
    product = part(store, "set", block(10, 20, 30), block(10, 20, 30, at=(8, 0, 0)))
    one, other = product.bodies
    bodies = replace(one, name="left", colour=RED), replace(other, name="right", layers=("L",))
    model = model_of(replace(product, bodies=bodies))
    mended, (told,) = mend_model(model, store, MendWish(only=("R304",)))
    (now,) = mended.product("set").bodies
    assert now.name == "left" and now.colour == RED
    assert "the name right" in told.why and "a body on layer L" in told.why


def test_different_parts_are_never_made_one(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(
        part(store, "one", block(10, 20, 30)), part(store, "two", block(10, 20, 30, at=(6, 0, 0)))
    )
    same, (told,) = mend_model(model, store, MendWish(only=("R304",)))
    assert told.outcome == "refused" and "different parts" in told.why and same == model


def test_what_stands_twice_stands_once(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "set", block(10, 20, 30), block(10, 20, 30)))
    mended, told = mend_model(model, store, MendWish(only=("R302",)))
    assert [t.outcome for t in told] == ["mended"] and len(mended.product("set").bodies) == 1
    pin = part(store, "pin", cylinder(3, 20))
    uses = tuple(Occurrence(f"o{n}", "pin", "", at(x)) for n, x in enumerate((0.0, 40.0, 40.0)))
    top = Model((Product("top", "T", "Top", occurrences=uses), pin), ("top",))
    mended, _ = mend_model(top, store, MendWish(only=("A504",)))
    assert [u.id for u in mended.product("top").occurrences] == ["o0", "o1"]
    assert mended.product("pin") == pin


def test_curves_beside_solids_and_crumbs_go(tmp_path) -> None:
    store = BlobStore(tmp_path)
    shapes = (
        block(10, 20, 30),
        straight_wire((0, 0, 0), (0, 0, 9)),
        block(0.004, 0.004, 0.004, at=(50, 0, 0)),
    )
    model = model_of(part(store, "set", *shapes))
    mended, told = mend_model(model, store, MendWish(only=("R301", "R306")))
    assert {t.code for t in told if t.outcome == "mended"} == {"R301", "R306"}
    assert volume(store, mended) == pytest.approx(6000) and len(mended.product("set").bodies) == 1


def test_only_curves_are_no_left_overs(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "sketch", straight_wire((0, 0, 0), (0, 0, 9))))
    assert not [f for f in check_model(model, store).findings if f.code == "A507"]


# --- by the command line -----------------------------------------------------------------------


def test_faces_are_named_from_one(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = model_of(part(store, "plate", block(1, 2, 3)), part(store, "pin", cylinder(1, 2)))
    assert named_faces(model, "plate 0:3, 5") == (("plate-0", (2, 4)),)
    assert named_faces(model, "Pin:1") == (("pin-0", (0,)),)
    for wrong in ("plate", "plate 0:", "plate 0:x", "plate 0:0", "nothing:1"):
        with pytest.raises(UsageError):
            named_faces(model, wrong)


@pytest.mark.slow
def test_limits_faces_and_smoothness_on_the_command_line(tmp_path: Path, capsys) -> None:
    store = BlobStore(tmp_path / "store")
    bored = cut(block(20, 20, 10), cylinder(4, 30, at=(10, 10, -5)))
    wall = next(f.index for f in inspect_shape(bored).faces if f.kind == "cylinder")
    path, out = str(tmp_path / "plate.stp"), str(tmp_path / "out.stp")
    send(
        model_of(part(store, "plate", bored)),
        path,
        "step-ap242",
        settings_from({}),
        str(tmp_path / "store"),
    )
    capsys.readouterr()
    faces = f"faces=Plate:{wall + 1}"
    assert (
        main(
            ["mend", path, "--force", "--out", out, "--json", "--set", faces, "--set", "check.short=0.001"]
        )
        == 0
    )
    (told,) = json.loads(capsys.readouterr().out)["mends"]
    assert told["code"] == "R114" and told["after"]["volume"] == pytest.approx(4000.0)
    assert told["before"]["volume"] == pytest.approx(4000 - pi * 16 * 10)
    assert main(["mend", path, "--force", "--out", out, "--set", "smooth=perhaps"]) == 2
    assert main(["mend", path, "--force", "--out", out, "--only", "R999"]) == 2
    assert "R999" in capsys.readouterr().err
    assert main(["mend", path, "--force", "--out", out, "--set", "check.gap=wide"]) == 2
    assert main(["check", path, "--json"]) in (0, 1)
    found = json.loads(capsys.readouterr().out)["findings"]
    assert all(isinstance(f["mends"], list) for f in found)
