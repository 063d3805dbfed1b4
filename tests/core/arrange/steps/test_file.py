"""Steps files: written, read, refused, and run on another file than they were made on."""

from __future__ import annotations

from dataclasses import replace
from math import pi
from pathlib import Path

import pytest

from gondrel.core.arrange.steps.base import Items, StepRecord
from gondrel.core.arrange.steps.bodily import Combine, FillHoles, Hole, MirrorBody, Thicken
from gondrel.core.arrange.steps.cutting import ReplaceByEnvelope
from gondrel.core.arrange.steps.file import ALL_KINDS, read_steps, write_steps
from gondrel.core.arrange.steps.naming import Rename, Set
from gondrel.core.arrange.steps.placing import Move, RepeatLine
from gondrel.core.arrange.steps.runner import run_step, run_steps
from gondrel.core.arrange.steps.structural import Group
from gondrel.core.errors import MalformedFile
from gondrel.core.kernel.base.shape import faces_of, shape_from_blob, shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba, Validation
from gondrel.core.model.store import BlobStore

RED, BLUE = Rgba(1, 0, 0), Rgba(0, 0, 1)


@pytest.fixture
def store(tmp_path: Path) -> BlobStore:
    return BlobStore(tmp_path / "bodies")


@pytest.fixture
def model(store: BlobStore) -> Model:
    def part(key: str, name: str, shape: object) -> Product:
        blob = store.put(shape_to_blob(shape))  # type: ignore[arg-type]
        return Product(key, f"N-{key}", name, bodies=(Body(f"b{key}", BodyKind.SOLID, name, blob),))

    parts = (part("1", "Plate", build.block(40, 30, 20)), part("2", "Pin", build.cylinder(5, 20)))
    uses = (Occurrence("u1", "1", ""), Occurrence("u2", "2", ""), Occurrence("u3", "2", "Second"))
    return Model((Product("top", "T", "Top", occurrences=uses), *parts), ("top",))


STEPS = (
    StepRecord("set", Items(number="N-2"), Set("name", "Dowel")),
    StepRecord("group", Items(name="dow*"), Group("Dowels", "D-1")),
    StepRecord("hole", Items(name="Plate"), Hole((20, 15, 20), (0, 0, -1), 8, bore=(11, 6), thread="M8")),
    StepRecord("rename", Items(any_of=(Items(name="Plate"), Items(name="Top"))), Rename("{name} {n:2}")),
)


def test_what_is_written_is_read(tmp_path: Path) -> None:
    path = tmp_path / "steps.toml"
    write_steps(path, STEPS)
    assert read_steps(path) == STEPS
    assert 'do = "group"' in path.read_text()


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("step = 3", "no steps file of version 1"),
        ("version = 1\n[[step]]\n", "step 1"),
        ('version = 1\n[[step]]\ndo = "fly"\n', "there is no step 'fly'"),
        ('version = 1\n[[step]]\ndo = "hole"\nat = [1, 2]\n', "step 1"),
        ('version = 1\n[[step]]\ndo = "rename"\npattern = 3\n', "3 is no str"),
        ('version = 1\n[[step]]\ndo = "rename"\npattern = "a"\nspeed = 2\n', "step 1"),
        ("not = [toml", "can't be read as TOML"),
    ],
)
def test_what_makes_no_sense_is_refused_with_the_step(tmp_path: Path, text: str, said: str) -> None:
    path = tmp_path / "steps.toml"
    path.write_text(text)
    with pytest.raises(MalformedFile) as caught:
        read_steps(path)
    assert said in str(caught.value)


def test_steps_run_on_a_changed_file_and_tell_what_did_not_apply(model: Model, store: BlobStore) -> None:
    after, outcomes = run_steps(model, STEPS, store)
    assert [o.outcome for o in outcomes] == ["done"] * 4
    assert {p.name for p in after.products} == {"Top 02", "Plate 01", "Dowel", "Dowels"} or {
        p.name for p in after.products
    } == {"Top 01", "Plate 02", "Dowel", "Dowels"}
    other = replace(  # the plate renamed, another part added, a pin moved
        model,
        products=tuple(replace(p, name="Bed") if p.name == "Plate" else p for p in model.products),
    )
    other, _ = run_step(other, StepRecord("move", Items(name="Pin"), Move((9, 0, 0), place=2)), store)
    after, outcomes = run_steps(other, STEPS, store)
    assert [o.outcome for o in outcomes] == ["done", "done", "not applicable", "done"]
    assert outcomes[2].why == "there is no item Plate" and outcomes[2].items == "Plate"
    house = next(p for p in after.products if p.name == "Dowels")
    assert [u.placement[3] for u in house.occurrences] == [0, 9]


def test_a_hole_keeps_the_colours_of_faces_that_are_still_there(model: Model, store: BlobStore) -> None:
    plate = model.product("1")
    shape = shape_from_blob(store.get(plate.bodies[0].blob))
    colours = tuple((n, RED if n % 2 else BLUE) for n in range(6))
    painted = model.with_product(replace(plate, bodies=(replace(plate.bodies[0], face_colours=colours),)))
    after, outcome = run_step(painted, STEPS[2], store)
    assert outcome.outcome == "done" and not outcome.told
    body = after.product("1").bodies[0]

    def plane(face: object) -> tuple[float, ...]:
        box = facts_of(store, store.put(shape_to_blob(face))).bbox  # type: ignore[arg-type]
        return tuple(round(box[i], 5) if abs(box[i] - box[i + 3]) < 1e-6 else 1e9 for i in range(3))

    before = {plane(face): colour for face, (_, colour) in zip(faces_of(shape), colours, strict=True)}
    faces = faces_of(shape_from_blob(store.get(body.blob)))
    assert len(body.face_colours) == 6 and len(faces) > 6
    for index, colour in body.face_colours:
        assert before[plane(faces[index])] == colour
    assert {m.key: m.value for m in after.product("1").metadata} == {"Thread": "M8 \u00d7 1.25"}


def test_a_hole_through_a_faceted_body(store: BlobStore) -> None:
    """The facets' prism of n sides keeps its closed form: n/2 r2 sin(2 pi / n) h."""
    mesh = tessellated(build.block(40, 30, 20), chord=0.5, angle=0.5)
    body = Body("m", BodyKind.MESH, "Facets", store.put(mesh.to_bytes()))
    model = Model((Product("p", "", "Facets", bodies=(body,)),), ("p",))
    step = StepRecord("hole", Items(name="Facets"), Hole((20, 15, 20), (0, 0, -1), 8))
    after, outcome = run_step(model, step, store)
    assert outcome.outcome == "done"
    made = after.product("p").bodies[0]
    assert made.kind is BodyKind.SOLID
    assert facts_of(store, made.blob).volume == pytest.approx(24000 - pi * 16 * 20, rel=1e-9)


def test_half_a_bush_mirrored_and_united_is_the_whole_one(store: BlobStore) -> None:
    ring = build.turned([(10, 0), (18, 0), (18, 30), (10, 30)])
    half = build.cut(ring, build.block(80, 40, 80, at=(-40, -40, -10)))
    part = Product("p", "", "Half", bodies=(Body("h", BodyKind.SOLID, "", store.put(shape_to_blob(half))),))
    step = StepRecord("mirror-body", Items(name="Half"), MirrorBody((0, 1, 0)))
    after, outcome = run_step(Model((part,), ("p",)), step, store)
    assert outcome.outcome == "done", outcome.why
    made = facts_of(store, after.product("p").bodies[0].blob)
    assert made.volume == pytest.approx(pi * (18**2 - 10**2) * 30, rel=1e-9)
    assert dict(made.surfaces) == {"cylinder": 2, "plane": 2}, "no seam is left of the halves"


def test_an_envelope_tells_how_much_and_keeps_the_place(model: Model, store: BlobStore) -> None:
    step = StepRecord("envelope", Items(name="Pin"), ReplaceByEnvelope("box"))
    after, outcome = run_step(model, step, store)
    assert outcome.outcome == "done" and "Replace Pin by a box" in outcome.what
    assert facts_of(store, after.product("2").bodies[0].blob).volume == pytest.approx(2000)
    assert after.product("top") == model.product("top")
    whole = StepRecord("envelope", Items(), ReplaceByEnvelope("hull"))
    after, outcome = run_step(model, whole, store)
    assert outcome.outcome == "done" and set(after.by_id) == {"top"}
    assert facts_of(store, after.product("top").bodies[0].blob).volume >= 24000 * 0.999


def test_structural_and_combining_steps(model: Model, store: BlobStore) -> None:
    steps = (
        StepRecord("repeat-line", Items(name="Pin"), RepeatLine(3, (0, 12, 0))),
        StepRecord("move", Items(name="Plate"), Move((-20, -15, -10))),
        StepRecord("combine", Items(name="Plate"), Combine("take-away", Items(name="Pin"))),
    )
    after, outcomes = run_steps(model, steps, store)
    assert [o.outcome for o in outcomes] == ["done"] * 3
    assert outcomes[0].what == "Repeat Pin 3 times along a line"
    assert [u.product for u in after.product("top").occurrences] == ["1"], (
        "the tool goes with all its places"
    )
    bored = facts_of(store, after.product("1").bodies[0].blob)
    assert bored.volume == pytest.approx(24000 - pi * 25 * 10, rel=1e-9)


def test_holes_that_can_be_filled_are_and_a_part_without_any_is_told(
    model: Model, store: BlobStore
) -> None:
    drilled, _ = run_step(model, STEPS[2], store)
    step = StepRecord("fill-holes", Items(name="Plate"), FillHoles(12))
    after, outcome = run_step(drilled, step, store)
    assert outcome.outcome == "done" and outcome.what.startswith("Fill 3 faces of holes")
    assert facts_of(store, after.product("1").bodies[0].blob).volume == pytest.approx(24000)
    _, none = run_step(after, step, store)
    assert (none.outcome, none.why) == ("not applicable", "there are no faces of holes below that size")
    _, sheet = run_step(model, StepRecord("thicken", Items(name="Plate"), Thicken(2)), store)
    assert sheet.outcome == "not applicable"


def test_refused_steps_leave_the_model_as_it_is(model: Model, store: BlobStore) -> None:
    step = StepRecord("hole", Items(name="Plate"), Hole((200, 15, 20), (0, 0, -1), 8))
    after, outcome = run_step(model, step, store)
    assert after is model and outcome.outcome == "refused" and "meets no material" in outcome.why


def test_every_kind_has_a_title_and_says_its_values() -> None:
    assert len(ALL_KINDS) > 25
    for kind in ALL_KINDS.values():
        assert kind.title and kind.of.__doc__


def test_the_senders_figures_go_with_the_shape_they_told_of(model: Model, store: BlobStore) -> None:
    """Those of a part that gets a hole and of all that contains it; not those of the others."""
    said = {p.id: Validation(volume=1000.0 + n) for n, p in enumerate(model.products)}
    told = replace(model, products=tuple(replace(p, validation=said[p.id]) for p in model.products))
    move = StepRecord("move", Items(name="Pin"), Move((9, 0, 0), place=2))
    for step, gone in ((STEPS[0], set()), (STEPS[2], {"top", "1"}), (move, {"top"})):
        after, outcome = run_step(told, step, store)
        assert outcome.outcome == "done", outcome.why
        kept = {p.id: p.validation for p in after.products}
        assert {key for key, figures in kept.items() if figures is None} == gone
        assert all(figures in (None, said[key]) for key, figures in kept.items())
