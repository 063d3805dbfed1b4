"""Files of which the kernel dies in some step: read again without it, and told."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.model.notes import GRAVE
from gondrel.core.model.provenance import DEADLY
from gondrel.core.model.snapshot import Model
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.work import Progress
from tests.builders import rich_assembly, written

pytestmark = pytest.mark.slow


def _read(path: Path, *deadly: str) -> tuple[Model, list[str]]:
    """The model, and the texts of all steps."""
    steps: list[str] = []
    progress = Progress(lambda _, text: steps.append(text), deadly=frozenset(deadly))
    return receive(str(path), str(path.parent / "store"), progress=progress), steps


def _figures(model: Model, path: Path) -> list[tuple[object, ...]]:
    facts = measure_all(model.blobs(), str(path.parent / "store"))
    return sorted(
        (p.label, b.name, str(b.colour), b.face_colours, b.face_names, b.layers, b.hidden,
         round(facts[b.blob].volume, 3))
        for p, b in model.bodies()
    )  # fmt: skip


def test_step_bodies_are_made_one_by_one_when_the_whole_is_deadly(tmp_path) -> None:
    path = tmp_path / "a.stp"
    path.write_bytes(written("step-ap242", tmp_path / "made", rich_assembly))
    sound, _ = _read(path)
    careful, steps = _read(path, "Making shapes")
    assert "read-carefully" in {note.code for note in careful.notes}
    assert _figures(careful, path) == _figures(sound, path)
    assert [(o.name, o.placement) for _, o in careful.occurrences()] == [
        (o.name, o.placement) for _, o in sound.occurrences()
    ]
    singles = [step for step in steps if step.startswith("Making MANIFOLD_SOLID_BREP #")]
    assert len(set(singles)) == 3
    less, _ = _read(path, "Making shapes", singles[0])
    assert len(list(less.bodies())) == 2
    told = [note for note in less.notes if DEADLY in note.text]
    assert len(told) == 1 and told[0].code in GRAVE and singles[0].rpartition(" ")[2] in told[0].where


@pytest.mark.parametrize(
    ("kind", "suffix"), [("iges-solid", ".igs"), ("xt-text", ".x_t"), ("xt-binary", ".x_b")]
)
def test_a_deadly_body_is_left_out_and_told(kind, suffix, tmp_path) -> None:
    path = tmp_path / f"a{suffix}"
    path.write_bytes(written(kind, tmp_path / "made", rich_assembly))
    sound, steps = _read(path)
    (first, *_) = [step for step in steps if ", body 1 of" in step]
    less, _ = _read(path, first)
    assert len(list(less.bodies())) == len(list(sound.bodies())) - 1
    assert [n.code for n in less.notes if n.text == DEADLY] == ["body-not-made"]
