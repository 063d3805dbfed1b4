"""Faces brought to faces, axes to axes, frames to frames."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from gondrel.core.arrange.aligning import alignment
from gondrel.core.arrange.steps.base import Items, StepRecord
from gondrel.core.arrange.steps.file import read_steps, write_steps
from gondrel.core.arrange.steps.outcome import StepOutcome
from gondrel.core.arrange.steps.placing import Align, Spot
from gondrel.core.arrange.steps.runner import run_step
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import moved_copy, shape_from_blob, shape_to_blob
from gondrel.core.kernel.geometry.distance import distance_between
from gondrel.core.kernel.measure.mass import box_of
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.product import Placement
from gondrel.core.model.store import BlobStore

TILTED: Placement = (0.6, -0.8, 0, 50, 0.8, 0.6, 0, 60, 0, 0, 1, 70, 0, 0, 0, 1)
HOUSE: Placement = (0, 0, 1, 11, 1, 0, 0, 12, 0, 1, 0, 13, 0, 0, 0, 1)


@pytest.fixture
def store(tmp_path: Path) -> BlobStore:
    return BlobStore(tmp_path / "bodies")


@pytest.fixture
def model(store: BlobStore) -> Model:
    """A drilled plate in space, and a pin that stands askew in a sub-assembly that does too."""

    def part(key: str, shape: object) -> Product:
        blob = store.put(shape_to_blob(shape))  # type: ignore[arg-type]
        return Product(key, "", key, bodies=(Body(f"b{key}", BodyKind.SOLID, key, blob),))

    plate = build.cut(build.block(40, 30, 20), build.cylinder(5, 40, at=(12, 15, -10)))
    parts = (part("Plate", plate), part("Pin", build.cylinder(5, 25)))
    house = Product("house", "", "House", occurrences=(Occurrence("pin", "Pin", "", TILTED),))
    uses = (Occurrence("plate", "Plate", ""), Occurrence("house", "house", "", HOUSE))
    return Model((Product("top", "T", "Top", occurrences=uses), house, *parts), ("top",))


def placed(model: Model, store: BlobStore, name: str) -> object:
    place = next(p for p in model.walk() if p.product == name)
    blob = model.product(name).bodies[0].blob
    return moved_copy(shape_from_blob(store.get(blob)), place.placement)


def aligned(model: Model, store: BlobStore, step: Align) -> tuple[Model, StepOutcome]:
    return run_step(model, StepRecord("align", Items(), step), store)


def spot(name: str, *at: float) -> Spot:
    return Spot(Items(name=name), (at[0], at[1], at[2]))


def test_a_face_lies_on_a_face_with_a_gap(model: Model, store: BlobStore) -> None:
    step = Align(spot("Pin", 1, 1, 0), spot("Plate", 30, 8, 20), gap=0.5)
    after, outcome = aligned(model, store, step)
    assert outcome.outcome == "done", outcome.why
    box = box_of(placed(after, store, "Pin"))  # type: ignore[arg-type]
    assert box[2] == pytest.approx(20.5, abs=1e-6) and box[5] == pytest.approx(45.5, abs=1e-6)


def test_a_pin_comes_into_a_hole_and_slides_to_the_face(model: Model, store: BlobStore) -> None:
    after, outcome = aligned(
        model, store, Align(spot("Pin", 5, 0, 12), spot("Plate", 17, 15, 10), how="axis")
    )
    assert outcome.outcome == "done", outcome.why
    step = Align(spot("Pin", 0, 0, 25), spot("Plate", 30, 8, 0), how="face", flip=True)
    after, outcome = aligned(after, store, step)
    assert outcome.outcome == "done", outcome.why
    pin = placed(after, store, "Pin")
    box = box_of(pin)  # type: ignore[arg-type]
    assert [box[i] for i in (0, 1, 3, 4)] == pytest.approx([7, 10, 17, 20], abs=1e-6)
    assert min(abs(box[2]), abs(box[5])) < 1e-6
    assert distance_between(pin, placed(after, store, "Plate"))[0] < 1e-6  # type: ignore[arg-type]


def test_a_frame_coincides_wholly() -> None:
    rng = np.random.default_rng(2)
    frames = []
    for _ in range(2):
        turn = np.linalg.qr(rng.normal(size=(3, 3)))[0]
        frames.append((rng.uniform(-9, 9, 3), turn[:, 0], turn[:, 1]))
    matrix = np.reshape(alignment(frames[0], frames[1], "frame"), (4, 4))
    assert np.linalg.det(matrix[:3, :3]) == pytest.approx(1)
    origin, along, across = frames[0]
    assert matrix[:3, :3] @ origin + matrix[:3, 3] == pytest.approx(frames[1][0])
    assert matrix[:3, :3] @ along == pytest.approx(frames[1][1])
    assert matrix[:3, :3] @ across == pytest.approx(frames[1][2])


def test_what_can_not_be_aligned_is_refused_with_the_reason(model: Model, store: BlobStore) -> None:
    _, outcome = aligned(model, store, Align(spot("Pin", 5, 0, 12), spot("Plate", 30, 8, 20)))
    assert outcome.why == "face to face needs two plane faces"
    _, outcome = aligned(model, store, Align(spot("Pin", 0, 0, 0), spot("Plate", 17, 15, 10), how="axis"))
    assert outcome.why == "axis to axis needs two round faces"
    with pytest.raises(UsageError, match="no way to align"):
        frame = np.zeros(3), np.eye(3)[0], np.eye(3)[1]
        alignment(frame, frame, "corner")


def test_it_is_kept_in_a_steps_file(tmp_path: Path) -> None:
    steps = (StepRecord("align", Items(), Align(spot("Pin", 1, 1, 0), spot("Plate", 30, 8, 20), "axis")),)
    write_steps(tmp_path / "steps.toml", steps)
    assert read_steps(tmp_path / "steps.toml") == steps
