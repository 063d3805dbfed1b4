"""Planted reading errors: each is caught by what the file's own records say, before the model is shown."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

import pytest
from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer
from OCP.TopoDS import TopoDS, TopoDS_Face

import gondrel.core.kernel.exchange.step_bodies as step_bodies
from gondrel.core.formats.step.records import open_records
from gondrel.core.formats.step.witness import outline_of
from gondrel.core.integral.outline import BodyOutline
from gondrel.core.integral.plain import boundary_outline
from gondrel.core.kernel.base.calls import quiet
from gondrel.core.kernel.base.shape import Shape, faces_of, shape_to_blob, shell_of, split_bodies
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.exchange.outline_check import faces_elsewhere
from gondrel.core.kernel.exchange.step_out import write_body
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling.rigid import rigidly_placed
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.notes import with_measured_notes
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import receive
from tests.shapes import all_made

SHAPES = {made.name: made for made in all_made()}


def stock_step(shape: Shape, path: Path) -> str:
    """A shape written by the bare kernel."""
    quiet()
    writer = STEPControl_Writer()
    writer.Transfer(shape, STEPControl_StepModelType.STEPControl_AsIs)
    writer.Write(str(path))
    return str(path)


def outlined(path: str) -> BodyOutline:
    with open_records(path) as records:
        outline = outline_of(records)
    found = outline.body(int(outline.bodies[0]))
    assert found is not None
    return found


@pytest.mark.parametrize(
    "name", ["half ball", "ball drilled along", "cylinder", "frustum", "torus of 0.25"]
)
def test_a_sound_body_lies_where_its_records_say(name: str, tmp_path: Path) -> None:
    made = split_bodies(SHAPES[name].make())[0][1]
    outline = outlined(stock_step(made, tmp_path / "a.stp"))
    assert faces_elsewhere(faces_of(made), outline) == []
    assert outline.whole == pytest.approx((SHAPES[name].area, SHAPES[name].volume), rel=1e-9)


@pytest.mark.parametrize(
    "name", ["half ball", "cylinder", "frustum", "torus of 0.25", "zone", "square ring"]
)
def test_every_face_that_is_turned_round_is_caught(name: str, tmp_path: Path) -> None:
    made = split_bodies(SHAPES[name].make())[0][1]
    outline = outlined(stock_step(made, tmp_path / "a.stp"))
    for place in range(len(faces_of(made))):
        faces: list[TopoDS_Face] = list(faces_of(made))
        faces[place] = TopoDS.Face(faces[place].Reversed())
        assert faces_elsewhere(faces, outline) == [place]


def test_a_cap_taken_for_the_rest_of_its_ball_is_caught(tmp_path: Path) -> None:
    cap = split_bodies(SHAPES["cap about the pole 1"].make())[0][1]
    rest = split_bodies(SHAPES["cap about the pole 3"].make())[0][1]
    outline = outlined(stock_step(cap, tmp_path / "a.stp"))
    for one, other in zip(faces_of(cap), faces_of(rest), strict=True):
        assert measure(shell_of([one])).area != pytest.approx(measure(shell_of([other])).area)
    assert faces_elsewhere(faces_of(rest), outline)


@pytest.mark.parametrize("name", ["ball drilled across", "ball less an eighth", "cap off the seam 3"])
def test_a_reading_that_fails_is_done_another_way(name: str, tmp_path: Path, store_folder: str) -> None:
    """These come out as the rest of their ball at first (measured): they are read again, and it is told."""
    path = stock_step(split_bodies(SHAPES[name].make())[0][1], tmp_path / "a.stp")
    model = receive(path, store_folder)
    facts = facts_of(BlobStore(Path(store_folder)), next(model.bodies())[1].blob)
    assert facts.area == pytest.approx(SHAPES[name].area, rel=1e-8)
    assert facts.volume == pytest.approx(SHAPES[name].volume, rel=1e-8)
    assert "faces-elsewhere" not in {n.code for n in model.notes}


def test_a_body_on_which_no_reading_agrees_is_told_and_not_called_carried(
    tmp_path: Path, store_folder: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = stock_step(split_bodies(SHAPES["zone"].make())[0][1], tmp_path / "a.stp")
    monkeypatch.setattr(step_bodies, "faces_elsewhere", lambda faces, outline: [0])
    monkeypatch.setattr(step_bodies, "_made_anew", lambda shape, outline: None)
    model = receive(path, store_folder)
    (_, body) = next(model.bodies())
    assert "faces-elsewhere" in {n.code for n in model.notes}
    assert body.heard is not None and not body.heard.agrees


def test_a_body_that_is_not_as_large_as_its_records_say_is_told(tmp_path: Path, store_folder: str) -> None:
    path = stock_step(split_bodies(SHAPES["zone"].make())[0][1], tmp_path / "a.stp")
    model = receive(path, store_folder)
    blob = next(model.bodies())[1].blob
    facts = facts_of(BlobStore(Path(store_folder)), blob)
    assert "reading-differs" not in {n.code for n in with_measured_notes(model, {blob: facts}).notes}
    wrong = {blob: replace(facts, volume=facts.volume * 1.001)}
    assert "reading-differs" in {n.code for n in with_measured_notes(model, wrong).notes}


def test_a_left_handed_torus_is_written_so_that_its_loops_run_right(tmp_path: Path) -> None:
    made = split_bodies(SHAPES["torus of 0.25 mirrored"].make())[0][1]
    spoilt = outlined(stock_step(made, tmp_path / "a.stp"))
    assert spoilt.mended.any(), "the bare writer no longer spoils it; ready_for_step can go"
    (tmp_path / "b.stp").write_bytes(write_body(made, "mm").data)
    ours = outlined(str(tmp_path / "b.stp"))
    assert not ours.mended.any() and not ours.wrong.any()
    assert ours.whole == pytest.approx((SHAPES["torus"].area * 0.25 + 2 * 78.53981634, 2467.4011), rel=1e-6)


def test_loops_turned_in_the_file_are_told_as_the_file_s(tmp_path: Path, store_folder: str) -> None:
    """A plane's loop turned round in the text: read as sent, told, and found by the checks."""
    path = Path(stock_step(split_bodies(SHAPES["square ring"].make())[0][1], tmp_path / "a.stp"))
    text = path.read_text()
    plane = re.findall(r"#(\d+) = PLANE", text)[0]
    face = re.search(rf"ADVANCED_FACE\('',\(([^)]*)\),#{plane},", text)
    assert face is not None
    for bound in re.findall(r"#(\d+)", face[1]):
        text = re.sub(
            rf"(#{bound} = FACE_BOUND\('',#\d+,)\.([TF])\.",
            lambda m: m[1] + (".F." if m[2] == "T" else ".T."), text,
        )  # fmt: skip
    path.write_text(text)
    model = receive(str(path), store_folder)
    assert "loops-turned" in {n.code for n in model.notes}


def test_boundaries_of_the_kernel_say_the_same_as_its_own_integrals() -> None:
    """The plain boundary of a body is a witness of the kernel's figures too."""
    for name in ("ball less an eighth", "half tube 1 0.5", "double cone"):
        shape = split_bodies(SHAPES[name].make())[0][1]
        facts = measure(shape)
        assert boundary_outline(boundary_of(shape).boundary).whole == pytest.approx(
            (facts.area, facts.volume), rel=1e-9
        )


def test_models_of_mirrored_parts_are_made_of_that_shape(tmp_path: Path) -> None:
    store = BlobStore(tmp_path / "store")
    blob = store.put(shape_to_blob(split_bodies(SHAPES["half cone"].make())[0][1]))
    twice = (2.0, 0, 0, 5, 0, 2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1)
    mirrored = (-1.0, 0, 0, 50, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)
    part = Product("c", "C", "Cone", bodies=(Body("b", BodyKind.SOLID, "", blob),))
    uses = tuple(Occurrence(f"o{n}", "c", "", p) for n, p in enumerate((twice, mirrored, twice)))
    model = Model((Product("a", "A", "All", occurrences=uses), part), ("a",))
    made = rigidly_placed(model, store)
    assert len(made.products) == 3  # the twice as large one is made once
    volumes = sorted(facts_of(store, b.blob).volume for _, b in made.bodies())
    assert volumes == pytest.approx([SHAPES["half cone"].volume, 8 * SHAPES["half cone"].volume], rel=1e-9)
    assert rigidly_placed(made, store) == made
